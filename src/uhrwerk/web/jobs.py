"""One runner for all that runs in the background: evaluations, searches for remedies, searches for numbers.

Each job has a thread of its own; its heavy parts are done by worker processes, which serve all jobs in turn, so that none of
two mechanisms waits for the other to end. Of each kind there is at most one job for a key (a revision, a requirement of it).
"""

from __future__ import annotations

import logging
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar

from uhrwerk.core.evaluation.evaluator import Cancelled
from uhrwerk.core.worker import NoWorker

T = TypeVar("T")

#: jobs of each kind that are kept with their results
MOST = 24
#: s after which a job that failed is begun again when it is required
AGAIN = 5.0
#: s that is waited for a job to end
ENDING = 3.0

log = logging.getLogger("uhrwerk")


@dataclass(eq=False)
class Job(Generic[T]):
    """A job under way or done: how far it is, in words and as a fraction, and its result. `subject` is what it works on."""

    kind: str
    mechanism: str
    key: Hashable
    subject: T
    words: str = "waiting"
    fraction: float = 0.0
    result: Any = None
    failed: str | None = None
    failed_at: float = 0.0
    cancelled: bool = False
    last_request: float = field(default_factory=time.monotonic)
    unpaused: threading.Event = field(default_factory=threading.Event)
    held: threading.Event = field(default_factory=threading.Event)  # it has come to where it waits
    done: threading.Event = field(default_factory=threading.Event)

    def __post_init__(self) -> None:
        self.unpaused.set()

    @property
    def wanted(self) -> bool:
        """Whether its result, or its failure of a moment ago, is what another who asks shall have; else it is begun again."""
        return not self.cancelled and (self.failed is None or time.monotonic() - self.failed_at < AGAIN)

    @property
    def state(self) -> str:
        if self.done.is_set():
            return "stopped" if self.cancelled else "done"
        return "running" if self.unpaused.is_set() else "paused"

    def report(self, words: str, fraction: float) -> None:
        self.words, self.fraction = words, fraction

    def checkpoint(self) -> None:
        """Waits while the job is paused; Cancelled once it is."""
        if not self.unpaused.is_set():
            self.held.set()
            self.unpaused.wait()
            self.held.clear()
        if self.cancelled:
            raise Cancelled

    def cancel(self) -> None:
        if not self.done.is_set():
            self.cancelled = True
            self.unpaused.set()


class JobRunner:
    """Starts, finds and cancels jobs; keeps the latest of each kind with their results."""

    def __init__(self, most: int = MOST) -> None:
        self._jobs: OrderedDict[tuple[str, str, Hashable], Job[Any]] = OrderedDict()
        self._most, self._lock = most, threading.Lock()

    def find(self, kind: str, mechanism: str, key: Hashable) -> Job[Any] | None:
        with self._lock:
            return self._jobs.get((kind, mechanism, key))

    def of(self, kind: str, mechanism: str) -> list[Job[Any]]:
        """The jobs of a kind and mechanism, first begun first."""
        with self._lock:
            return [j for j in self._jobs.values() if (j.kind, j.mechanism) == (kind, mechanism)]

    def busy(self, kind: str) -> bool:
        """Whether a job of a kind is under way."""
        with self._lock:
            return any(j.kind == kind and not j.done.is_set() for j in self._jobs.values())

    def start(self, job: Job[T], work: Callable[[Job[T]], Any], alone: bool = False) -> Job[T]:
        """Starts a job; where one with its key is there and still wanted, that one instead. `alone`: others of its kind and
        mechanism that still run are cancelled. What `work` returns is the job's result."""
        place = job.kind, job.mechanism, job.key
        with self._lock:
            known = self._jobs.get(place)
            if known is not None and known.wanted:
                known.last_request = time.monotonic()
                self._jobs.move_to_end(place)
                return known
            own = [j for j in self._jobs.values() if j.kind == job.kind]
            for other in own if alone else []:
                if other.mechanism == job.mechanism:
                    other.cancel()
            done = [j for j in own if j.done.is_set()]
            for old in done[: max(0, len(own) + 1 - self._most)]:
                del self._jobs[old.kind, old.mechanism, old.key]
            self._jobs[place] = job
            self._jobs.move_to_end(place)
        name = f"{job.kind} {job.mechanism}"
        threading.Thread(target=_run, args=(job, work), daemon=True, name=name).start()
        return job

    def drop(self, job: Job[Any]) -> None:
        """Forgets a job and its result."""
        with self._lock:
            if self._jobs.get((job.kind, job.mechanism, job.key)) is job:
                del self._jobs[job.kind, job.mechanism, job.key]

    def close(self) -> None:
        """Ends what is under way."""
        with self._lock:
            running = [j for j in self._jobs.values() if not j.done.is_set()]
        for job in running:
            job.cancel()
        for job in running:
            job.done.wait(ENDING)

    def all_of(self, kind: str) -> list[Job[Any]]:
        """All jobs of a kind, the one asked for longest ago first."""
        with self._lock:
            return [j for j in self._jobs.values() if j.kind == kind]


def _run(job: Job[T], work: Callable[[Job[T]], Any]) -> None:
    try:
        job.result = work(job)
    except Cancelled:
        job.words = "stopped"
    except NoWorker as error:
        job.failed_at, job.failed = time.monotonic(), str(error)
    except Exception:  # whatever it was, the page must say so and the log must hold it
        log.exception("%s of %s, %s", job.kind, job.mechanism, job.key)
        job.failed_at = time.monotonic()
        job.failed = (
            f"The {job.kind} failed inside Uhrwerk; the details are in its log. Undo the last change and go on."
        )
    job.done.set()
