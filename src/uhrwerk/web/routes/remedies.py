"""Remedies: what would make a failing requirement hold."""

from __future__ import annotations

from fastapi import APIRouter, Depends
from pydantic import BaseModel

from uhrwerk.core import views
from uhrwerk.store import Missing
from uhrwerk.web.services import PathNumber, ServicesOfCall, evaluated

router = APIRouter(prefix="/api/mechanisms/{mechanism}/revisions/{revision}", tags=["revisions"])


class RemediesAnswer(BaseModel):
    """The offers found so far, the best first, and the numbers that move it most; how far the search is, and when it is at its end."""

    offers: list[views.RemedyShown]
    moves: list[views.SensitiveNumber]
    words: str
    fraction: float
    done: bool


@router.get(
    "/remedies/{requirement}",
    summary="Remedies that make a requirement hold; repeat the call until `done`",
    dependencies=[Depends(evaluated)],
)
def remedies(services: ServicesOfCall, mechanism: str, revision: PathNumber, requirement: str) -> RemediesAnswer:
    e = services.result(mechanism, revision)
    if requirement not in e.verdicts:
        raise Missing("There is no such requirement.")
    job = services.remedy_jobs.search(mechanism, revision, requirement, e)
    job.done.wait(0.2)
    search = job.subject
    return RemediesAnswer(
        offers=views.offers(search.document, search.offers),
        moves=views.moves(search.document, search.answers, e.verdicts[requirement].dimension),
        words=job.failed or job.words,
        fraction=job.fraction,
        done=job.done.is_set(),
    )
