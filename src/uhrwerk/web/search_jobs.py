"""Searches for numbers in the background: each in a thread of its own, which waits while it is held up and ends when it is stopped."""

from __future__ import annotations

import logging
import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, field

from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Cancelled, Evaluation, Evaluator
from uhrwerk.core.remedies import Goal, Range, Search, SearchStep
from uhrwerk.store import Missing

#: searches that are kept with their steps
KEPT = 20
#: s that is waited for one to end
ENDING = 3.0

log = logging.getLogger("uhrwerk")


@dataclass(eq=False)
class SearchJob:
    """A search and where it is: running, held up, stopped or done."""

    id: int
    document: Document
    search: Search
    go: threading.Event = field(default_factory=threading.Event)
    stopped: bool = False
    done: threading.Event = field(default_factory=threading.Event)

    @property
    def state(self) -> str:
        if self.done.is_set():
            return "stopped" if self.stopped else "done"
        return "running" if self.go.is_set() else "paused"


class SearchJobs:
    def __init__(self, evaluator: Evaluator) -> None:
        self.evaluator = evaluator
        self._searches: OrderedDict[tuple[str, int], SearchJob] = OrderedDict()
        self._count, self._lock = 0, threading.Lock()

    def begin(
        self, mechanism: str, document: Document, goal: Goal, ranges: Sequence[Range], conditions: Sequence[str]
    ) -> SearchJob:
        """A search of its own; others of the mechanism that still run are stopped."""

        def evaluate(changed: Document) -> Evaluation:
            return self.evaluator.evaluate(changed, cancelled=lambda: running.stopped)

        def heard(step: SearchStep) -> None:
            running.go.wait()
            if running.stopped:
                raise Cancelled

        with self._lock:
            self._count += 1
            running = SearchJob(self._count, document, Search(document, goal, ranges, conditions, evaluate, heard))
            for (other, _), known in self._searches.items():
                if other == mechanism:
                    self._stop(known)
            self._searches[mechanism, running.id] = running
            while len(self._searches) > KEPT:
                self._stop(self._searches.popitem(last=False)[1])
        running.go.set()
        threading.Thread(target=self._run, args=(running,), daemon=True, name=f"search {mechanism}").start()
        return running

    def find(self, mechanism: str, id: int) -> SearchJob:
        with self._lock:
            job = self._searches.get((mechanism, id))
        if job is None:
            raise Missing("This search is no longer available.")
        return job

    def progress(self, mechanism: str) -> list[tuple[int, str, int]]:
        """The searches of a mechanism: id, state, and how many steps were tried."""
        with self._lock:
            own = [job for (of, _), job in self._searches.items() if of == mechanism]
        return [(job.id, job.state, len(job.search.steps)) for job in own]

    def tell(self, mechanism: str, id: int, what: str) -> SearchJob:
        """Pauses, resumes or stops a search."""
        job = self.find(mechanism, id)
        if what == "pause":
            job.go.clear()
        elif what == "resume":
            job.go.set()
        else:
            self._stop(job)
            job.done.wait(5)
        return job

    def close(self) -> None:
        """Ends what is under way."""
        for running in list(self._searches.values()):
            self._stop(running)
        for running in list(self._searches.values()):
            running.done.wait(ENDING)

    @staticmethod
    def _stop(running: SearchJob) -> None:
        if not running.done.is_set():
            running.stopped = True
            running.go.set()

    def _run(self, running: SearchJob) -> None:
        try:
            running.search.run()
        except Cancelled:
            running.search.words = f"stopped after {len(running.search.steps)} steps"
        except Exception:  # the page must say so and the log must hold it
            log.exception("search %d", running.id)
            running.search.words = "The search failed inside Uhrwerk; the details are in its log."
        running.done.set()
