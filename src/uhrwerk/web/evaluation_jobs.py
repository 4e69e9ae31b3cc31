"""Evaluations in the background. One that is no longer wanted is cancelled when a newer revision of its mechanism arrives."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Evaluation, Evaluator
from uhrwerk.web.jobs import Job, JobRunner

#: numbers in all motions of results that are kept
MOST_NUMBERS = 20_000_000
KIND = "evaluation"

EvaluationJob = Job[Document]


class EvaluationJobs:
    """`finished` hears of each evaluation before anybody sees it: who lists the revisions then finds it there."""

    def __init__(
        self, runner: JobRunner, evaluator: Evaluator, finished: Callable[[EvaluationJob, Evaluation], None]
    ) -> None:
        self.runner, self.evaluator, self.finished = runner, evaluator, finished

    def job(self, mechanism: str, revision: int, document: Callable[[], Document]) -> EvaluationJob:
        """The job of a revision, started if there is none; older running ones of the mechanism are cancelled."""
        known = self.runner.find(KIND, mechanism, revision)
        if known is not None and known.wanted:
            return known
        return self.runner.start(Job(KIND, mechanism, revision, document()), self._run, alone=True)

    def known(self, mechanism: str, revision: int) -> Evaluation | None:
        """The result of a revision, if it is there."""
        job = self.runner.find(KIND, mechanism, revision)
        return None if job is None else job.result

    def progress(self, mechanism: str) -> list[tuple[int, str, float, bool]]:
        """The evaluations of a mechanism: revision, where each is in words, how far, and whether it is done."""
        own = self.runner.of(KIND, mechanism)
        return [(cast(int, job.key), job.words, job.fraction, job.done.is_set()) for job in own]

    @property
    def busy(self) -> bool:
        """Whether an evaluation is under way."""
        return self.runner.busy(KIND)

    def cancel(self, mechanism: str, revision: int) -> None:
        job = self.runner.find(KIND, mechanism, revision)
        if job is not None:
            job.cancel()

    def _run(self, job: EvaluationJob) -> Evaluation:
        result = self.evaluator.evaluate(job.subject, job.report, lambda: job.cancelled)
        self.finished(job, result)
        self._make_room(job, result)
        return result

    def _make_room(self, latest: EvaluationJob, result: Evaluation) -> None:
        """Drops the results asked for longest ago where all together hold too many numbers."""
        room = MOST_NUMBERS - _weight(result)
        others = [j for j in self.runner.all_of(KIND) if j is not latest and j.result is not None]
        for job in reversed(others):
            room -= _weight(job.result)
            if room < 0:
                self.runner.drop(job)


def _weight(result: Evaluation) -> int:
    """Numbers in its motion."""
    return 0 if result.motion is None else result.motion.weight
