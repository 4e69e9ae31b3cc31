"""Searches for remedies in the background: cancelled when nobody asks for them any more, or their revision is no longer current."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, field

from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Evaluation, Evaluator
from uhrwerk.core.remedies import Answer, Remedies, Remedy, lately
from uhrwerk.store import Missing, Store, StoreError
from uhrwerk.web.jobs import Job, JobRunner

#: s between two looks whether a revision is still current
LOOK = 0.2
#: s without being asked for after which a search is cancelled
PATIENCE = 6.0
KIND = "search for remedies"


@dataclass
class RemedySearch:
    """What a search looks at, and what it has so far."""

    revision: int
    requirement: str
    document: Document
    offers: list[Remedy] = field(default_factory=list)
    answers: list[Answer] = field(default_factory=list)


RemedyJob = Job[RemedySearch]


class RemedyJobs:
    def __init__(self, runner: JobRunner, store: Store, evaluator: Evaluator) -> None:
        self.runner, self.store, self.evaluator = runner, store, evaluator

    def search(self, mechanism: str, revision: int, requirement: str, before: Evaluation) -> RemedyJob:
        """The search for a requirement of a revision, begun if there is none."""
        subject = RemedySearch(revision, requirement, self.store.document(mechanism, revision))
        job = Job(KIND, mechanism, (revision, requirement), subject, words="beginning")
        return self.runner.start(job, lambda running: self._run(running, before))

    def progress(self, mechanism: str) -> list[tuple[int, str, str, int, bool, int]]:
        """The searches of a mechanism: revision, requirement, where each is in words, how many remedies it has, whether it is done; and
        a number that changes now and then while it runs, so that whoever follows it asks for it again and it is not cancelled."""
        now = int(time.monotonic() / (PATIENCE / 3))
        return [
            (s.revision, s.requirement, job.words, len(s.offers), done, 0 if done else now)
            for job in self.runner.of(KIND, mechanism)
            for s, done in [(job.subject, job.done.is_set())]
        ]

    def _run(self, job: RemedyJob, before: Evaluation) -> None:
        subject, looked_at = job.subject, time.monotonic()

        def show() -> None:
            subject.offers, subject.answers = list(remedies.offers), list(remedies.answers)
            job.report(remedies.words, remedies.fraction)

        def ended() -> bool:
            nonlocal looked_at
            if not job.cancelled and time.monotonic() - looked_at > LOOK:
                looked_at = time.monotonic()
                if looked_at - job.last_request > PATIENCE or not self._is_current(job):
                    job.cancel()
            show()
            return job.cancelled

        def evaluate(document: Document, between: Sequence[str] | None) -> Evaluation:
            return self.evaluator.evaluate(document, cancelled=ended, between=between)

        earlier = self.store.before(job.mechanism, subject.revision)
        changed = lately(earlier, subject.document) if earlier is not None else {}
        remedies = Remedies(subject.document, before, subject.requirement, evaluate, changed)
        for _ in remedies.search():
            show()
        show()

    def _is_current(self, job: RemedyJob) -> bool:
        try:
            return self.store.current(job.mechanism).revision == job.subject.revision
        except (Missing, StoreError):
            return False
