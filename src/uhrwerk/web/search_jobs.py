"""Searches for numbers in the background: each can be paused, resumed and stopped, and keeps its steps."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Cancelled, Evaluation, Evaluator
from uhrwerk.core.remedies import Goal, Range, Search
from uhrwerk.store import Missing
from uhrwerk.web.jobs import Job, JobRunner

#: s that a stopped search is waited for
STOPPING = 5.0
KIND = "search for numbers"


@dataclass(frozen=True)
class NumberSearch:
    document: Document
    search: Search


SearchJob = Job[NumberSearch]


class SearchJobs:
    def __init__(self, runner: JobRunner, evaluator: Evaluator) -> None:
        self.runner, self.evaluator = runner, evaluator
        self._ids = itertools.count(1)

    def begin(
        self, mechanism: str, document: Document, goal: Goal, ranges: Sequence[Range], conditions: Sequence[str]
    ) -> int:
        """The id of a new search; others of the mechanism that still run are stopped."""

        def evaluate(changed: Document) -> Evaluation:
            return self.evaluator.evaluate(changed, cancelled=lambda: job.cancelled)

        search = Search(document, goal, ranges, conditions, evaluate, lambda _: job.checkpoint())
        id = next(self._ids)
        job = Job(KIND, mechanism, id, NumberSearch(document, search))
        self.runner.start(job, _run, alone=True)
        return id

    def find(self, mechanism: str, id: int) -> SearchJob:
        job = self.runner.find(KIND, mechanism, id)
        if job is None:
            raise Missing("This search is no longer available.")
        return job

    def progress(self, mechanism: str) -> list[tuple[int, str, int]]:
        """The searches of a mechanism: id, state, and how many steps were tried."""
        return [
            (cast(int, job.key), job.state, len(job.subject.search.steps)) for job in self.runner.of(KIND, mechanism)
        ]

    def tell(self, mechanism: str, id: int, what: str) -> SearchJob:
        """Pauses, resumes or stops a search."""
        job = self.find(mechanism, id)
        if what == "pause":
            job.unpaused.clear()
        elif what == "resume":
            job.unpaused.set()
        else:
            job.cancel()
            job.done.wait(STOPPING)
        return job


def _run(job: SearchJob) -> None:
    search = job.subject.search
    try:
        search.run()
    except Cancelled:
        search.words = f"stopped after {len(search.steps)} steps"
        raise
    except Exception:
        search.words = "The search failed inside Uhrwerk; the details are in its log."
        raise
