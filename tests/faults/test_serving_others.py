"""While hostile documents and files are read, others are served, and neither the server nor its workers grow without bound.
`python -m tests.faults.test_serving_others` measures it on a machine that does nothing else.
"""

from __future__ import annotations

import tempfile
import threading
import time
from contextlib import suppress
from dataclasses import dataclass, field
from itertools import cycle
from pathlib import Path

import pytest

from tests.conftest import Server
from tests.faults import test_hostile_documents, test_hostile_files
from tests.faults.test_random_faults import children
from uhrwerk.core.exchange.importing import MEMORY

#: bytes that the server may take; s for 95 of 100 calls on an idle machine, and beside other tests
SERVER, SOON, BESIDE_OTHERS = 1_000_000_000, 1.0, 8.0


@dataclass
class Served:
    """How long calls took, s; what became of the hostile ones; the most that server and workers took of memory, bytes."""

    taken: list[float] = field(default_factory=list)
    statuses: set[int] = field(default_factory=set)
    server: int = 0
    worker: int = 0
    sent: int = 0

    def look(self, pid: int) -> None:
        self.server = max(self.server, _resident(pid))
        with suppress(OSError):
            self.worker = max([self.worker, *map(_resident, children(pid))])


def _resident(pid: int) -> int:
    """Bytes of memory that a process has now."""
    with suppress(OSError):
        for line in Path(f"/proc/{pid}/status").read_text().splitlines():
            if line.startswith("VmRSS"):
                return int(line.split()[1]) * 1024
    return 0


def served(server: Server, bodies: list[tuple[str, bytes]], pairs: int) -> Served:
    """So many loads of the shelf and as many commands, while the bodies are sent one after the other, all at least once."""
    key = server.call("POST", "/api/mechanisms", json={"name": "Served"}).json()["id"]
    out, over, pid = Served(), threading.Event(), server.pid or (server.process.pid if server.process else 0)

    def send() -> None:
        for name, body in cycle(bodies):
            out.statuses.add(server.call("POST", f"/api/files/{name}", content=body).status_code)
            out.sent += 1
            if over.is_set() and out.sent >= len(bodies):
                return

    def watch() -> None:
        while not over.is_set():
            out.look(pid)
            over.wait(0.05)

    threads = [threading.Thread(target=send), threading.Thread(target=watch)]
    for t in threads:
        t.start()
    revision, begun = 1, time.monotonic()
    while len(out.taken) < 2 * pairs or (out.sent < len(bodies) and time.monotonic() - begun < 300):
        for method, path, body in (
            ("GET", "/", None),
            ("POST", f"/api/mechanisms/{key}/commands", {"kind": "set_parameter", "name": "w", "formula": f"{revision} mm"}),
        ):  # fmt: skip
            asked = time.monotonic()
            answer = server.call(method, path, json=body and {"revision": revision, "command": body})
            out.taken.append(time.monotonic() - asked)
            assert answer.status_code == 200, answer.text
        revision += 1
    over.set()
    for t in threads:
        t.join()
    return out


def documents() -> list[tuple[str, bytes]]:
    return [(name, make()) for make, name, *_ in test_hostile_documents.HOSTILE.values()]


def files() -> list[tuple[str, bytes]]:
    more = [
        ("random.stl", test_hostile_files.random_triangles(400_000)),
        ("circles.dxf", test_hostile_files.many_circles(19_000)),
    ]
    return [(f"{name}?unit=mm", make()) for name, (make, _) in test_hostile_files.HOSTILE.items()] + [
        (f"{name}?unit=mm", body) for name, body in more
    ]  # fmt: skip


@pytest.mark.parametrize("part", range(3))
def test_others_are_served_while_hostile_documents_are_read(demo_server: Server, part: int) -> None:
    """The shelf and a command on another mechanism, 95 of 100."""
    found = served(demo_server, documents()[part::3], 20)
    assert found.statuses == {422}
    assert sorted(found.taken)[int(0.95 * len(found.taken)) - 1] < BESIDE_OTHERS, sorted(found.taken)[-10:]
    assert found.server < SERVER
    assert found.worker < MEMORY + SERVER


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as data:
        one = Server(Path(data) / "data", demo=True)
        for what, bodies in (("documents", documents()), ("files", files())):
            found = served(one, bodies, 50)
            taken = sorted(found.taken)
            print(
                f"{what}: {found.sent} sent, answers {found.statuses}; of {len(taken)} calls 95 % within {taken[int(0.95 * len(taken)) - 1]:.2f} s, "
                f"slowest {taken[-1]:.2f} s; server {found.server / 1e6:.0f} MB, workers {found.worker / 1e6:.0f} MB at most"
            )
        one.stop()
