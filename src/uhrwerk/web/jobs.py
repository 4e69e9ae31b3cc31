"""Evaluations in the background, each in a thread of its own: the heavy parts are done by worker processes, which serve all
evaluations in turn. One that is no longer wanted is dropped when a newer revision of its mechanism arrives."""

from __future__ import annotations

import logging
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field

from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Cancelled, Evaluation, Evaluator
from uhrwerk.core.worker import NoWorker

#: numbers in all motions of results that are kept
MOST_NUMBERS = 20_000_000

#: s after which an evaluation that failed is begun again when it is asked for
AGAIN = 5.0

log = logging.getLogger("uhrwerk")


@dataclass
class Job:
    mechanism: str
    revision: int
    words: str = "waiting"
    fraction: float = 0.0
    result: Evaluation | None = None
    failed: str | None = None
    cancelled: bool = False
    done: threading.Event = field(default_factory=threading.Event)
    failed_at: float = 0.0

    @property
    def wanted(self) -> bool:
        """Whether its answer, or its failure of a moment ago, is what another who asks shall have; else it is begun again."""
        return not self.cancelled and (self.failed is None or time.monotonic() - self.failed_at < AGAIN)


class Jobs:
    """Starts, finds and cancels evaluations; keeps the latest results."""

    def __init__(self, evaluator: Evaluator, finished: Callable[[Job, Evaluation], None], keep: int = 24) -> None:
        self.evaluator, self.finished, self.keep = evaluator, finished, keep
        self._jobs: OrderedDict[tuple[str, int], Job] = OrderedDict()
        self._lock = threading.Lock()

    def job(self, mechanism: str, revision: int, document: Callable[[], Document]) -> Job:
        """The job of a revision, started if there is none; older running jobs of the mechanism are cancelled."""
        with self._lock:
            running = self._jobs.get((mechanism, revision))
            if running is not None and running.wanted:
                self._jobs.move_to_end((mechanism, revision))
                return running
        job = Job(mechanism, revision)
        known = document()
        with self._lock:
            if (mechanism, revision) in self._jobs and self._jobs[mechanism, revision].wanted:
                return self._jobs[mechanism, revision]
            for other in self._jobs.values():
                if other.mechanism == mechanism and not other.done.is_set():
                    other.cancelled = True
            self._jobs[mechanism, revision] = job
            while len(self._jobs) > self.keep:
                self._jobs.popitem(last=False)
        threading.Thread(target=self._run, args=(job, known), daemon=True, name=f"evaluate {mechanism}").start()
        return job

    def known(self, mechanism: str, revision: int) -> Evaluation | None:
        """The result of a revision, if it is there."""
        with self._lock:
            job = self._jobs.get((mechanism, revision))
        return None if job is None else job.result

    def progress(self, mechanism: str) -> list[tuple[int, str, float, bool]]:
        """The evaluations of a mechanism: revision, where each is in words, how far, and whether it is done."""
        with self._lock:
            own = [job for job in self._jobs.values() if job.mechanism == mechanism]
        return [(job.revision, job.words, job.fraction, job.done.is_set()) for job in own]

    @property
    def busy(self) -> bool:
        """Whether an evaluation is under way."""
        with self._lock:
            return any(not job.done.is_set() for job in self._jobs.values())

    def cancel(self, mechanism: str, revision: int) -> None:
        with self._lock:
            job = self._jobs.get((mechanism, revision))
            if job is not None and not job.done.is_set():
                job.cancelled = True

    def _run(self, job: Job, document: Document) -> None:
        def told(words: str, fraction: float) -> None:
            job.words, job.fraction = words, fraction

        try:
            result = self.evaluator.evaluate(document, told, lambda: job.cancelled)
            self.finished(job, result)  # before anybody sees it: who lists the revisions then finds it there
            job.result = result
        except Cancelled:
            job.words = "stopped"
        except NoWorker as error:
            job.failed_at, job.failed = time.monotonic(), str(error)
        except Exception:  # whatever it was, the page must say so and the log must hold it
            log.exception("evaluation of %s, revision %s", job.mechanism, job.revision)
            job.failed_at = time.monotonic()
            job.failed = (
                "The evaluation failed inside Uhrwerk; the details are in its log. Undo the last change and go on."
            )
        job.done.set()
        self._forget(job)

    def _forget(self, latest: Job) -> None:
        """Drops the results asked for longest ago where all together hold too many numbers."""
        with self._lock:
            weights = {
                k: j.result.motion.weight
                for k, j in self._jobs.items()
                if j.result is not None and j.result.motion is not None
            }
            for k in list(weights):
                if sum(weights.values()) <= MOST_NUMBERS:
                    return
                if self._jobs[k] is not latest:
                    del self._jobs[k], weights[k]
