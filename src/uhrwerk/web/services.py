"""The services: what all calls share, one for each application."""

from __future__ import annotations

import asyncio
import threading
import time
from contextlib import suppress
from typing import Annotated, cast

import numpy as np
from fastapi import Depends, Path, Query
from pydantic import BaseModel, ConfigDict
from starlette.concurrency import run_in_threadpool
from starlette.requests import HTTPConnection

from uhrwerk.core.cache import Cache
from uhrwerk.core.document import Document, ValidationFailed
from uhrwerk.core.evaluation.evaluator import Evaluation, Evaluator
from uhrwerk.core.views import Solid
from uhrwerk.store import Current, Missing, Store, StoreError
from uhrwerk.web.evaluation_jobs import EvaluationJob, EvaluationJobs
from uhrwerk.web.jobs import JobRunner
from uhrwerk.web.remedy_jobs import RemedyJobs
from uhrwerk.web.search_jobs import SearchJobs
from uhrwerk.web.sketches import Sketches

#: s for which an evaluation is waited for at most, and between two looks whether it is there
LONGEST_WAIT, LOOK = 120.0, 0.02
#: s between two looks whether somebody waits for an evaluation
IDLE = 0.5
#: solids of elements not yet added that are kept
PREVIEWS = 40
#: what was seen while numbers were turned, that is kept
GLANCES = 8


class Services:
    """The store, the evaluator, the evaluations under way, and drawings of the shelf by revision."""

    def __init__(self, store: Store, evaluator: Evaluator) -> None:
        self.store, self.evaluator, self.context = store, evaluator, evaluator.context
        self.runner = JobRunner()
        self.evaluation_jobs = EvaluationJobs(self.runner, evaluator, self._finished)
        self.remedy_jobs = RemedyJobs(self.runner, store, evaluator)
        self.search_jobs = SearchJobs(self.runner, evaluator)
        self.sketches = Sketches(self.context)
        self.previews: Cache[Solid] = Cache(PREVIEWS)
        self._glances: Cache[Evaluation] = Cache(GLANCES)
        self._glanced, self._lock = 0, threading.Lock()
        self.finished = 0  # evaluations since the start
        self.ending = self.closed = False

    def close(self) -> None:
        """Ends all that runs for the page."""
        self.ending = self.closed = True
        self.sketches.close()
        self.runner.close()

    def _finished(self, job: EvaluationJob, result: Evaluation) -> None:
        answers = [v.holds for v in result.verdicts.values()]
        first = next((v.words for v in result.verdicts.values() if v.holds is False), "")
        try:
            self.store.keep_result(
                job.mechanism, cast(int, job.key), answers.count(False), answers.count(None), len(answers), first
            )
        except StoreError:
            return  # a short result for the shelf may be missing; it is found again when the page is opened
        self.finished += 1

    def job(self, mechanism: str, revision: int) -> EvaluationJob:
        return self.evaluation_jobs.job(mechanism, revision, lambda: self.store.document(mechanism, revision))

    def result(self, mechanism: str, revision: int) -> Evaluation:
        """The evaluation of a revision, waited for; of a number below zero, what was kept under it. Missing where there will be
        none."""
        if revision < 0:
            glance = self._glances.peek((mechanism, revision))
            if glance is None:
                raise Missing("This preview is no longer available.")
            return glance
        job = self.job(mechanism, revision)
        if not job.done.wait(LONGEST_WAIT) or job.result is None:
            raise Missing(job.failed or "This revision is not evaluated.")
        return cast(Evaluation, job.result)

    def moved(self, mechanism: str, revision: int) -> Evaluation:
        """The evaluation of a revision if it is there; else its motion alone."""
        if revision < 0:
            return self.result(mechanism, revision)
        done = self.evaluation_jobs.known(mechanism, revision)
        return done if done is not None else self.evaluator.moved(self.store.document(mechanism, revision))

    def keep_glance(self, mechanism: str, evaluation: Evaluation) -> int:
        """The number, below zero, under which it is kept for a while."""
        with self._lock:
            self._glanced -= 1
            number = self._glanced
        self._glances.put((mechanism, number), evaluation)
        return number

    def check_shelf(self) -> None:
        """Evaluates what stands on the shelf unchecked, one mechanism after the other, while nobody waits for another."""
        for mechanism, revision, result in self.store.shelf():
            while self.evaluation_jobs.busy and not self.closed:
                time.sleep(IDLE)
            if self.closed:
                return
            if result is None:
                with suppress(ValidationFailed):  # the shelf says why it cannot be read
                    self.job(mechanism.id, revision.number).done.wait(120)

    def box(self, document: Document, placed: str) -> np.ndarray:
        """The box (2, 3) of a placed part in its own frame, m."""
        corners = np.concatenate([b.vertices for b in self.evaluator.solid_of(document, placed)[1].bodies.values()])
        return np.stack([corners.min(axis=0), corners.max(axis=0)])


def _services(connection: HTTPConnection) -> Services:
    services: Services = connection.app.state.services
    return services


ServicesOfCall = Annotated[Services, Depends(_services)]
#: a revision, or anything that is counted, in a path: below zero a glance; no larger than every reader of JSON can hold
PathNumber = Annotated[int, Path(ge=-(2**53), le=2**53)]


#: a draft by its number, in a query; none: the current revision
DraftNumber = Annotated[int, Query(ge=-(2**53), le=0, description="a draft that holds more; 0: none")]


def _shown(services: ServicesOfCall, mechanism: str, draft: DraftNumber = 0) -> Document:
    """The document that the page shows: the current one, or that of a draft on it."""
    return services.result(mechanism, draft).stated if draft else services.store.current(mechanism).document


ShownDocument = Annotated[Document, Depends(_shown)]


async def evaluated(services: ServicesOfCall, mechanism: str, revision: PathNumber) -> None:
    """Waits until a revision is evaluated, and holds no thread while it does."""
    if revision < 0:
        return
    job, until = await run_in_threadpool(services.job, mechanism, revision), time.monotonic() + LONGEST_WAIT
    while not job.done.is_set() and time.monotonic() < until:
        await asyncio.sleep(LOOK)


class RequestBody(BaseModel):
    """Base of what a call is asked: no fields that we do not know."""

    model_config = ConfigDict(extra="forbid")


class State(BaseModel):
    """The current revision of a mechanism, and in words what undo would take back and redo bring again; its variant, where there
    are several, and the revision that is pinned as baseline."""

    id: str
    revision: int
    words: str
    undo: str | None
    redo: str | None
    name: str
    variant: str = ""
    baseline: int | None = None

    @classmethod
    def of(cls, c: Current) -> State:
        return cls(
            id=c.mechanism, revision=c.revision, words=c.words, undo=c.undo, redo=c.redo, name=c.document.name,
            variant=c.variant, baseline=c.baseline,
        )  # fmt: skip
