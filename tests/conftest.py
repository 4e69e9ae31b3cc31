"""Fixtures shared by all tests: one pool of kernel workers for each test process, the demo, a running server."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from hypothesis import Phase, settings
from hypothesis.internal.conjecture import providers

from tests.nursery import Nursery
from tests.tiers import long_tests
from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.demo.foil_tucker import foil_tucker, mended

# shrinking a failing mechanism can take minutes: report the first that fails
settings.register_profile("uhrwerk", deadline=None, phases=[Phase.explicit, Phase.generate])
settings.load_profile("uhrwerk")

# the same cases whatever stands in the code: else each constant of it would be tried, and any change would try others
providers.HypothesisProvider._local_constants = property(lambda _: providers.Constants())  # type: ignore[assignment]

ROOT = Path(__file__).parent.parent

#: the access key of all servers that tests start; a test of the key itself starts one without
KEY = "only-for-tests"
BEARER = {"authorization": f"Bearer {KEY}"}
os.environ["UHRWERK_KEY"] = KEY
# workers may be started while a test stands in another folder, and have to find what tests register
os.environ["PYTHONPATH"] = os.pathsep.join(p for p in (str(ROOT), os.environ.get("PYTHONPATH")) if p)
DEMO = ROOT / "src/uhrwerk/demo/foil-tucker.json"
MENDED = ROOT / "src/uhrwerk/demo/foil-tucker-mended.json"


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    long = long_tests()
    for item in items:
        if item.nodeid.partition("@")[0] in long:
            item.add_marker(pytest.mark.prove)


@pytest.fixture(scope="session")
def solids(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Solids that the tests of both processes and all their servers keep together: a part is built once."""
    own = tmp_path_factory.getbasetemp()
    shared = (own.parent if "PYTEST_XDIST_WORKER" in os.environ else own) / "solids"
    shared.mkdir(exist_ok=True)
    return shared


@pytest.fixture(scope="session")
def evaluator(solids: Path) -> Iterator[Evaluator]:
    """One evaluator with two kernel workers for the whole test process."""
    made = Evaluator(folder=solids, limit=60)
    yield made
    made.kernel_pool.close()


@pytest.fixture(scope="session")
def tucker() -> Document:
    return foil_tucker()


@pytest.fixture(scope="session")
def tucked(evaluator: Evaluator, tucker: Document) -> Evaluation:
    """The foil tucker as shipped, evaluated."""
    return evaluator.evaluate(tucker)


@pytest.fixture(scope="session")
def mended_tucker(evaluator: Evaluator) -> Evaluation:
    return evaluator.evaluate(mended())


class Server:
    """A server of its own in a process of its own, with data in `folder`; forked from the nursery if one is given."""

    def __init__(
        self, folder: Path, *options: str, demo: bool = False, module: str = "uhrwerk", nursery: Nursery | None = None
    ) -> None:
        self.folder, self.module, self.nursery = folder, module, nursery
        self.arguments = ["demo" if demo else "serve", "--port", "0", "--data", str(folder), *options]
        self.process: subprocess.Popen[str] | None = None
        self.pid = 0
        self.start()

    def start(self) -> None:
        log = self.folder.parent / "server.log"  # a traceback of the server can be read there
        if self.nursery is None:
            self.process = subprocess.Popen(
                [sys.executable, "-m", self.module, *self.arguments],
                stdout=subprocess.PIPE,
                stderr=log.open("a", encoding="utf-8"),
                text=True,
                env=dict(os.environ),
                cwd=ROOT,
            )
            assert self.process.stdout is not None
            line = self.process.stdout.readline()
        else:
            out = self.folder.parent / f"{self.folder.name}.out"
            out.unlink(missing_ok=True)
            self.pid = self.nursery.start(self.arguments, out, log)
            for _ in range(3000):
                line = out.read_text(encoding="utf-8") if out.exists() else ""
                if "\n" in line or not self._alive():
                    break
                time.sleep(0.01)
        assert "ready" in line, line + log.read_text(encoding="utf-8")
        self.page = line.split()[-1]
        self.url = "/".join(self.page.split("/")[:3])

    def address(self, path: str) -> str:
        """That of a page, with the key."""
        return f"{self.url}{path}?key={KEY}"

    def _alive(self) -> bool:
        if self.process is not None:
            return self.process.poll() is None
        try:
            os.kill(self.pid, 0)
        except ProcessLookupError:
            return False
        return True

    def _end(self, how: signal.Signals, patience: float) -> bool:
        """Sends a signal and waits; whether the process is gone then."""
        if self.process is not None:
            self.process.send_signal(how)
        else:
            with contextlib.suppress(ProcessLookupError):
                os.kill(self.pid, how)
        until = time.monotonic() + patience
        while self._alive() and time.monotonic() < until:
            time.sleep(0.005)
        return not self._alive()

    def kill(self) -> None:
        """kill -9, as a power cut would."""
        assert self._end(signal.SIGKILL, 30)

    def stop(self) -> None:
        if not self._end(signal.SIGTERM, 10):
            self.kill()

    def call(self, method: str, path: str, headers: dict[str, str] | None = None, **more: object) -> httpx.Response:
        return httpx.request(method, self.url + path, timeout=120, headers=BEARER | (headers or {}), **more)  # type: ignore[arg-type]

    def view(self, mechanism: str, revision: int) -> dict:
        """The evaluated view of a revision, once it is there."""
        for _ in range(600):
            answer = self.call("GET", f"/api/mechanisms/{mechanism}/revisions/{revision}/view")
            if answer.status_code != 202:
                assert answer.status_code == 200, answer.text
                return answer.json()
            time.sleep(0.1)
        raise AssertionError("never evaluated")


@pytest.fixture(scope="session")
def nursery() -> Iterator[Nursery]:
    made = Nursery()
    yield made
    made.close()


@pytest.fixture(scope="session")
def demo_server(tmp_path_factory: pytest.TempPathFactory, solids: Path) -> Iterator[Server]:
    folder = tmp_path_factory.mktemp("demo")
    (folder / "solids").symlink_to(solids)
    server = Server(folder, demo=True)
    yield server
    server.stop()


def forked(folder: Path, nursery: Nursery, solids: Path) -> Server:
    """A server with data in `folder`, forked, with the solids that all share."""
    folder.mkdir()
    (folder / "solids").symlink_to(solids)
    return Server(folder, nursery=nursery)


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory, nursery: Nursery, solids: Path) -> Iterator[Server]:
    """One server for the tests of a file."""
    made = forked(tmp_path_factory.mktemp("server") / "data", nursery, solids)
    yield made
    made.stop()


@pytest.fixture
def own_server(tmp_path: Path, nursery: Nursery, solids: Path) -> Iterator[Server]:
    """A server of the test's own, which it may kill."""
    made = forked(tmp_path / "data", nursery, solids)
    yield made
    made.stop()
