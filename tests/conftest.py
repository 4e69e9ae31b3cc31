"""Fixtures shared by all tests: one workshop of worker processes a test process, the demo, a running server."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from hypothesis import Phase, settings

from uhrwerk.core.checks import Evaluation
from uhrwerk.core.document import Document
from uhrwerk.core.evaluate import Evaluator
from uhrwerk.demo.foil_tucker import foil_tucker, mended

# shrinking a failing mechanism can take minutes: report the first that fails
settings.register_profile("uhrwerk", deadline=None, phases=[Phase.explicit, Phase.generate])
settings.load_profile("uhrwerk")

ROOT = Path(__file__).parent.parent
DEMO = ROOT / "src/uhrwerk/demo/foil-tucker.json"
MENDED = ROOT / "src/uhrwerk/demo/foil-tucker-mended.json"


@pytest.fixture(scope="session")
def evaluator(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Evaluator]:
    """One evaluator with two kernel workers for the whole test process."""
    made = Evaluator(folder=tmp_path_factory.mktemp("solids"), limit=60)
    yield made
    made.workshop.close()


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
    """A server of its own in a process of its own, with data in `folder`."""

    def __init__(self, folder: Path, *options: str, demo: bool = False, module: str = "uhrwerk") -> None:
        self.folder, self.options, self.demo, self.module = folder, options, demo, module
        self.process: subprocess.Popen[str] | None = None
        self.url = ""
        self.start()

    def start(self) -> None:
        command = [
            sys.executable,
            "-m",
            self.module,
            "demo" if self.demo else "serve",
            "--port",
            "0",
            "--data",
            str(self.folder),
        ]
        self.process = subprocess.Popen(
            [*command, *self.options],
            stdout=subprocess.PIPE,
            stderr=(self.folder.parent / "server.log").open("a"),  # a traceback of the server can be read there
            text=True,
            env=dict(os.environ),
            cwd=ROOT,
        )
        assert self.process.stdout is not None
        line = self.process.stdout.readline()
        assert "ready" in line, line + self.process.stdout.read()
        self.page = line.split()[-1]
        self.url = "/".join(self.page.split("/")[:3])

    def kill(self) -> None:
        """kill -9, as a power cut would."""
        assert self.process is not None
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        assert self.process is not None
        self.process.terminate()
        try:
            self.process.wait(10)
        except subprocess.TimeoutExpired:
            self.process.kill()

    def call(self, method: str, path: str, **more: object) -> httpx.Response:
        return httpx.request(method, self.url + path, timeout=60, **more)  # type: ignore[arg-type]

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
def demo_server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    server = Server(tmp_path_factory.mktemp("demo"), demo=True)
    yield server
    server.stop()


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    made = Server(tmp_path / "data")
    yield made
    made.stop()
