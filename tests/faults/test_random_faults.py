"""Faults at random during bursts of edits by three clients: no answered edit is lost or altered, no evaluation goes on for ever, and
every page is usable soon after the fault is over. `python -m tests.faults.test_random_faults [count] [seed]
[seconds]` runs more of them.

What may befall a server (common practice of fault injection): its process or its workers are killed, descriptors or memory run out, the
disk is full, nothing can be written, another holds the database, what is kept in the folder of solids is gone or something else.
"""

from __future__ import annotations

import json
import os
import random
import resource
import shutil
import signal
import sqlite3
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import pytest

from tests.conftest import Server
from tests.nursery import Nursery

CLIENTS = 3
#: s after the end of a fault in which every page shall be usable, beside other tests; on an idle machine 10
BESIDE_OTHERS = 90.0


@dataclass
class Client:
    """Edits a mechanism of its own, one number after the other, and looks at what comes of it; remembers what was answered."""

    server: Server
    who: int
    key: str = ""
    answered: dict[int, str] = field(default_factory=dict)
    statuses: Counter[int] = field(default_factory=Counter)
    wrong: list[str] = field(default_factory=list)

    def set_up(self) -> None:
        self.key = self.call("POST", "/api/mechanisms", json={"name": f"Client {self.who}"})["id"]
        part = {"name": "Plate", "material": "steel", "element": {"kind": "frame_plate", "length": "w"}}
        for n, command in enumerate(
            (
                {"kind": "set_parameter", "name": "w", "formula": "120 mm"},
                {"kind": "add_part", "part": part},
            ),
            1,
        ):
            self.call("POST", f"/api/mechanisms/{self.key}/commands", json={"revision": n, "command": command})

    def call(self, method: str, path: str, **more: object) -> dict:
        answer = self.server.call(method, path, **more)
        assert answer.status_code in (200, 201), answer.text
        return answer.json()

    def edit(self, value: str) -> None:
        """One edit on the current revision, then a look at its verdicts; whatever fails, fails in words."""
        with suppress(httpx.HTTPError, ValueError):
            now = self.server.call("GET", f"/api/mechanisms/{self.key}")
            self._look(now)
            command = {"kind": "set_parameter", "name": "w", "formula": value}
            body = {"revision": now.json()["revision"], "command": command}
            done = self.server.call("POST", f"/api/mechanisms/{self.key}/commands", json=body)
            self._look(done)
            if done.status_code == 200:
                revision = done.json()["revision"]
                self.answered[revision] = value
                self._look(self.server.call("GET", f"/api/mechanisms/{self.key}/revisions/{revision}/view"))

    def _look(self, answer: httpx.Response) -> None:
        self.statuses[answer.status_code] += 1
        if answer.status_code >= 400 and "error" not in answer.json():
            self.wrong.append(answer.text)
        if answer.status_code == 500:
            self.wrong.append(answer.text)
        answer.raise_for_status()

    def usable(self) -> bool:
        """Whether its page is there, with all of its mechanism evaluated."""
        with suppress(httpx.HTTPError):
            revision = self.server.call("GET", f"/api/mechanisms/{self.key}").json()["revision"]
            view = self.server.call("GET", f"/api/mechanisms/{self.key}/revisions/{revision}/view")
            page = self.server.call("GET", f"/mechanisms/{self.key}")
            return view.status_code == 200 and not view.json()["problems"] and page.status_code == 200
        return False


def _limited(pid: int, what: int, most: int) -> Callable[[], None]:
    """Limits a process; what lifts the limit again."""
    soft, hard = resource.prlimit(pid, what)
    resource.prlimit(pid, what, (most, hard))

    def lifted() -> None:
        with suppress(ProcessLookupError):
            resource.prlimit(pid, what, (soft, hard))

    return lifted


def children(pid: int) -> list[int]:
    """Processes that a process has started, and theirs."""
    out = []
    for task in Path(f"/proc/{pid}/task").iterdir():
        for child in map(int, (task / "children").read_text().split()):
            out += [child, *children(child)]
    return out


@contextmanager
def _killed(server: Server, dice: random.Random) -> Iterator[None]:
    server.kill()
    yield
    server.start()


@contextmanager
def _worker_killed(server: Server, dice: random.Random) -> Iterator[None]:
    with suppress(ProcessLookupError, FileNotFoundError):
        running = children(server.pid)
        for pid in dice.sample(running, min(len(running), dice.choice([1, 2, 9]))):
            os.kill(pid, signal.SIGKILL)
    yield


@contextmanager
def _no_descriptors(server: Server, dice: random.Random) -> Iterator[None]:
    in_use = len(list(Path(f"/proc/{server.pid}/fd").iterdir()))
    lifted = _limited(server.pid, resource.RLIMIT_NOFILE, in_use + dice.choice([0, 1, 3, 6]))
    yield
    lifted()


@contextmanager
def _no_memory(server: Server, dice: random.Random) -> Iterator[None]:
    """For workers: those that run, and those that are started meanwhile."""
    every = []
    with suppress(ProcessLookupError, FileNotFoundError):
        for pid in children(server.pid):
            used = int(Path(f"/proc/{pid}/statm").read_text().split()[0]) * resource.getpagesize()
            every.append(_limited(pid, resource.RLIMIT_AS, used + dice.choice([0, 1_000_000, 20_000_000])))
    yield
    for lifted in every:
        lifted()


@contextmanager
def _full_disk(server: Server, dice: random.Random) -> Iterator[None]:
    """No file may grow beyond so many bytes: of none at all, nothing can be written, as on a disk that is read only."""
    lifted = _limited(server.pid, resource.RLIMIT_FSIZE, dice.choice([0, 4096, 200_000]))
    yield
    lifted()


@contextmanager
def _locked(server: Server, dice: random.Random) -> Iterator[None]:
    other = sqlite3.connect(server.folder / "uhrwerk.db", isolation_level=None, timeout=30)
    other.execute(dice.choice(["BEGIN IMMEDIATE", "BEGIN EXCLUSIVE"]))
    yield
    other.execute("ROLLBACK")
    other.close()


@contextmanager
def _replaced(server: Server, dice: random.Random) -> Iterator[None]:
    solids = server.folder / "solids"
    shutil.rmtree(solids, ignore_errors=True)
    if dice.random() < 0.6:
        with suppress(OSError):
            solids.write_text("no folder")
    yield
    if solids.is_file():
        solids.unlink()


FAULTS = (_killed, _worker_killed, _no_descriptors, _no_memory, _full_disk, _locked, _replaced)


def broken(folder: Path, nursery: Nursery, count: int, seed: int, soon: float) -> Counter[str]:
    """So many faults, one after the other; how often each befell the server, and how the calls of the clients ended."""
    dice, befell = random.Random(seed), Counter[str]()
    server = Server(folder, nursery=nursery)
    clients = [Client(server, k) for k in range(CLIENTS)]
    over = threading.Event()
    try:
        for client in clients:
            client.set_up()

        def burst(client: Client, number: int) -> None:
            n = 0
            while not over.is_set():
                n += 1
                client.edit(f"{120 + (7 * number + 3 * client.who + n) % 90}.{number:03d}{n:03d} mm")

        for number in range(count):
            fault = dice.choice(FAULTS)
            over.clear()
            threads = [threading.Thread(target=burst, args=(c, number)) for c in clients]
            for t in threads:
                t.start()
            time.sleep(dice.uniform(0.1, 0.6))
            with fault(server, dice):
                time.sleep(dice.uniform(0.1, 1.5))
            ended = time.monotonic()
            time.sleep(0.2)
            over.set()
            for t in threads:
                t.join()
            waiting = list(clients)
            while waiting and time.monotonic() - ended < soon:
                waiting = [c for c in waiting if not c.usable()]
            name = fault.__name__.strip("_").replace("_", " ")
            befell[name] += 1
            assert not waiting, f"fault {number} ({name}): {[c.key for c in waiting]} not usable after {soon} s"
            for client in clients:
                assert not client.wrong, (name, client.wrong[:3])
        rows = sqlite3.connect(folder / "uhrwerk.db").execute("select mechanism, number, document from revision")
        stored = {(mechanism, number): json.loads(document) for mechanism, number, document in rows}
        for client in clients:
            for revision, value in client.answered.items():
                document = stored[client.key, revision]
                assert document["parameters"]["w"]["formula"] == value, (client.key, revision, value)
            befell["edits answered"] += len(client.answered)
            befell += Counter({f"answers of {status}": n for status, n in client.statuses.items()})
        assert sqlite3.connect(folder / "uhrwerk.db").execute("PRAGMA integrity_check").fetchone() == ("ok",)
    finally:
        over.set()
        server.stop()
    return befell


@pytest.mark.timeout(900)
@pytest.mark.parametrize(("faults", "seed"), [(3, 4), (6, 3)])
def test_nothing_answered_is_lost_and_all_goes_on(tmp_path: Path, nursery: Nursery, faults: int, seed: int) -> None:
    befell = broken(tmp_path / "data", nursery, faults, seed, BESIDE_OTHERS)
    assert befell["edits answered"] > faults, befell


if __name__ == "__main__":
    count, seed, soon = (int(a) for a in [*sys.argv[1:], *("200", "1", "10")[len(sys.argv) - 1 :]])
    with tempfile.TemporaryDirectory() as data:
        hatchery = Nursery()
        for what, often in broken(Path(data) / "data", hatchery, count, seed, soon).items():
            print(f"{often:6d} {what}")
        hatchery.close()
