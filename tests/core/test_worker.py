"""Workers: a program need not be written for them, they end with it, and what starts them may die."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from uhrwerk.core.solids import KernelPool, circle, extrude, recipe
from uhrwerk.core.worker import Nursery, Worker

SCRIPT = """
import uhrwerk
draft = uhrwerk.Draft("Plain")
draft.part("Plate", "steel", uhrwerk.FramePlate())
draft.require(uhrwerk.NoInterference(name="Apart"))
print([v.holds for v in uhrwerk.check(draft.document).verdicts.values()])
"""


def _echo(pipe: object) -> None:
    while True:
        pipe.send((os.getpid(), pipe.recv()))  # type: ignore[attr-defined]


def _gone(pid: int) -> bool:
    for _ in range(100):
        if not Path(f"/proc/{pid}").exists():
            return True
        time.sleep(0.1)
    return False


def _killed(nursery: Nursery) -> None:
    assert nursery.process is not None
    nursery.process.send_signal(signal.SIGKILL)
    nursery.process.wait()


def test_a_plain_script_needs_no_guard(tmp_path: Path) -> None:
    (tmp_path / "plain.py").write_text(SCRIPT, encoding="utf-8")
    done = subprocess.run(
        [sys.executable, "plain.py"], cwd=tmp_path, capture_output=True, text=True, timeout=120, check=False
    )
    assert done.stdout.strip() == "[True]", done.stderr


def test_workers_end_with_the_program_that_asked() -> None:
    code = "import time; from tests.core.test_worker import _echo; from uhrwerk.core.worker import Worker; w = Worker(_echo); w.pipe.send(1); print(w.pipe.recv()[0], flush=True); time.sleep(60)"
    program = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
    assert program.stdout is not None
    worker = int(program.stdout.readline())
    program.kill()
    assert _gone(worker)


def test_a_worker_is_stopped_and_another_is_its_own_process() -> None:
    one, other = Worker(_echo), Worker(_echo)
    for w in (one, other):
        w.pipe.send("here")
    assert one.pipe.recv() == (one.pid, "here")
    assert other.pipe.recv() == (other.pid, "here")
    one.stop()
    assert _gone(one.pid)
    other.pipe.send("still")
    assert other.pipe.recv()[1] == "still"
    other.stop()


def test_where_the_nursery_dies_another_is_started() -> None:
    own = Nursery()
    first = Worker(_echo, own)
    _killed(own)
    second = Worker(_echo, own)
    second.pipe.send(1)
    assert second.pipe.recv() == (second.pid, 1)
    first.stop()
    second.stop()


def test_a_kernel_pool_goes_on_after_its_nursery_died(monkeypatch: pytest.MonkeyPatch) -> None:
    own = Nursery()
    monkeypatch.setattr("uhrwerk.core.worker.nursery", lambda: own)
    kernel_pool = KernelPool(workers=1, limit=60)
    try:
        kernel_pool.build(recipe({"a": [extrude(circle(0, 0, 0.005), 0, 0.02)]}))
        _killed(own)
        assert kernel_pool.build(recipe({"a": [extrude(circle(0, 0, 0.006), 0, 0.02)]})).volume > 0
    finally:
        kernel_pool.close()
