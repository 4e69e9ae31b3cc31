"""A process beside this one that does one kind of work, and may crash, hang or be killed without harm to us.

Workers are forked from a nursery: a process of its own that has imported what they need and does nothing else. So each
starts at once, all share the memory of what was imported, and the program that asks need not be written for it (the
standard library's own ways import its main module again). With whoever asked, nursery and workers end.
"""

from __future__ import annotations

import importlib
import os
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Callable
from functools import cache
from multiprocessing.connection import Connection
from pathlib import Path

#: imported once for all workers
READY = ("uhrwerk.core.solids.kernel_jobs", "uhrwerk.core.proximity.sweep")
_FOLDER = str(Path(__file__).parents[2])
_START = f"import sys; sys.path.insert(0, {_FOLDER!r}); from uhrwerk.core.worker import nurse; nurse(int(sys.argv[1]))"


class Nursery:
    """Starts and ends workers; is itself started when first needed, and again where it died."""

    def __init__(self) -> None:
        self._line: socket.socket | None = None
        self.process: subprocess.Popen[bytes] | None = None
        self._owner = 0
        self._lock = threading.Lock()

    def start(self, work: Callable[[Connection], None], end: Connection) -> int:
        """The pid of a worker that runs `work`, a function of a module, with the other end of a pipe."""
        request = f"start {work.__module__} {work.__name__}"
        with self._lock:
            try:
                return self._answer(request, end)
            except OSError:
                self._line = None
                return self._answer(request, end)

    def stop(self, pid: int) -> None:
        with self._lock:
            if self._line is not None and self._owner == os.getpid():
                try:
                    self._answer(f"stop {pid}")
                except OSError:
                    self._line = None

    def _answer(self, request: str, *ends: Connection) -> int:
        if self._line is None or self._owner != os.getpid():  # a fork of ours has a nursery of its own
            self._line, self._owner = self._begun(), os.getpid()
        socket.send_fds(self._line, [request.encode()], [e.fileno() for e in ends])
        answer = self._line.recv(64)
        if not answer:
            raise ConnectionError("the process that starts workers has ended")
        return int(answer)

    def _begun(self) -> socket.socket:
        """The line to a new nursery; none is kept where it could not be started: nobody would answer on it."""
        line, other = socket.socketpair()
        one = {**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
        command = [sys.executable, "-c", _START, str(other.fileno())]
        try:
            self.process = subprocess.Popen(
                command, stdin=subprocess.DEVNULL, pass_fds=[other.fileno()], env=one, start_new_session=True
            )
        except OSError:
            line.close()
            raise
        finally:
            other.close()
        return line


def nurse(line_number: int) -> None:
    """The nursery's own loop: one question, one answer, until nobody asks any more."""
    line = socket.socket(fileno=line_number)
    for module in READY:
        importlib.import_module(module)
    workers: set[int] = set()
    while True:
        request, ends, _, _ = socket.recv_fds(line, 4096, 1)
        if not request:
            break
        kind, *rest = request.decode().split()
        if kind == "start":
            pid = os.fork()
            if not pid:
                line.close()
                _run(rest[0], rest[1], ends[0])
            os.close(ends[0])
            workers.add(pid)
        else:
            pid = int(rest[0])
            if pid in workers:
                _ended(pid)
                workers.discard(pid)
        line.send(str(pid).encode())
    for pid in workers:
        _ended(pid)


def _run(module: str, function: str, end: int) -> None:
    try:
        getattr(importlib.import_module(module), function)(Connection(end))
    finally:
        os._exit(0)


def _ended(pid: int) -> None:
    os.kill(pid, signal.SIGKILL)  # waited for by nobody else: the number is still its own
    os.waitpid(pid, 0)


@cache
def nursery() -> Nursery:
    """The one nursery of this process."""
    return Nursery()


class NoWorker(RuntimeError):
    """No worker could be started; the message says what is missing. It may go well a little later."""

    def __init__(self, error: Exception) -> None:
        why = (error.strerror if isinstance(error, OSError) else None) or str(error)
        super().__init__(f"No worker process can be started now ({why}). Nothing was changed; try again in a moment.")


class Worker:
    """A process that runs `work` with the other end of `pipe`; started by the nursery of this process, or by another."""

    def __init__(self, work: Callable[[Connection], None], started_by: Nursery | None = None) -> None:
        self._nursery = started_by or nursery()
        try:
            ours, theirs = socket.socketpair()
        except OSError as error:
            raise NoWorker(error) from error
        self.pipe, other = Connection(ours.detach()), Connection(theirs.detach())
        try:
            self.pid = self._nursery.start(work, other)
        except (OSError, ValueError) as error:
            self.pipe.close()
            raise NoWorker(error) from error
        finally:
            other.close()

    def stop(self) -> None:
        self._nursery.stop(self.pid)
        self.pipe.close()
