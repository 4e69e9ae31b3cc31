"""Revisions: changes, undo and redo; variants, and the baseline that all is shown against."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter, Depends, Response
from pydantic import BaseModel, Field, JsonValue

from uhrwerk.core import views
from uhrwerk.core.document import SeveralCommands, parse
from uhrwerk.core.edit import held_together, join
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.store.tables import Result, Revision
from uhrwerk.web.services import PathNumber, RequestBody, ServicesOfCall, State, evaluated

router = APIRouter(prefix="/api/mechanisms/{mechanism}", tags=["revisions"])


class ChangeRequest(RequestBody):
    revision: int = Field(description="number of the revision the change was made on", ge=0, le=2**53)
    command: dict[str, JsonValue] = Field(
        description="one command of the document, such as {kind: set_value, path, value}"
    )


class OnRevision(RequestBody):
    revision: int = Field(ge=0, le=2**53)


class RestoreRequest(OnRevision):
    to: int = Field(description="number of the revision whose document is to be current again", ge=0, le=2**53)


class BaselineRequest(RequestBody):
    number: int | None = Field(description="number of the revision to be pinned; null: none", ge=0, le=2**53)


class NameRequest(RequestBody):
    name: str = Field(description="what a revision is called; nothing takes the name away", max_length=60)


class VariantRequest(OnRevision):
    of: int = Field(description="number of the revision at which the variant begins", ge=0, le=2**53)
    name: str = Field(max_length=60)


class SwitchRequest(OnRevision):
    name: str = Field(description="a variant's name", max_length=60)


class VariantSummary(BaseModel):
    """A variant and the revision where it stands; how many requirements failed there, and were asked, where it was evaluated."""

    name: str
    revision: int
    words: str
    current: bool
    failing: int | None = None
    unknown: int | None = None
    total: int | None = None


class RevisionSummary(BaseModel):
    """A revision; how many requirements failed, had no answer, and were asked, where it was evaluated."""

    number: int
    words: str
    name: str
    time: datetime
    failing: int | None = None
    unknown: int | None = None
    total: int | None = None


@router.post("/commands", summary="Makes one change, as a new revision")
def change(services: ServicesOfCall, mechanism: str, body: ChangeRequest) -> State:
    before = services.store.at(mechanism, body.revision).document
    command = join.placed_command(before, parse(body.command), services.context)
    after = accept(before, command)
    held_together.check(before, after, command, services.context)
    return State.of(services.store.change(mechanism, body.revision, after, command))


@router.post("/undo", summary="Undo")
def undo(services: ServicesOfCall, mechanism: str, body: OnRevision) -> State:
    return State.of(services.store.undo(mechanism, body.revision))


@router.post("/redo", summary="Redo")
def redo(services: ServicesOfCall, mechanism: str, body: OnRevision) -> State:
    return State.of(services.store.redo(mechanism, body.revision))


@router.post("/back", summary="Restores an earlier revision, as a new one")
def back(services: ServicesOfCall, mechanism: str, body: RestoreRequest) -> State:
    after = services.store.document(mechanism, body.to)
    command = SeveralCommands(commands=[], words=f"back to revision {body.to}")
    return State.of(services.store.change(mechanism, body.revision, after, command))


@router.put("/baseline", summary="Pins a revision as baseline: verdicts and numbers are compared with it")
def pin(services: ServicesOfCall, mechanism: str, body: BaselineRequest) -> State:
    return State.of(services.store.pin(mechanism, body.number))


@router.get("/variants", summary="Variants of the mechanism; none if there is only one line of revisions")
def variants(services: ServicesOfCall, mechanism: str) -> list[VariantSummary]:
    here = services.store.current(mechanism).variant
    out = []
    for v, r, result in services.store.variants(mechanism):
        summary = VariantSummary(name=v.name, revision=r.number, words=r.words, current=v.name == here)
        if result is not None:
            summary.failing, summary.unknown, summary.total = result.failing, result.open, result.total
        out.append(summary)
    return out


@router.post("/variants", summary="Creates a variant from a revision and switches to it")
def branch(services: ServicesOfCall, mechanism: str, body: VariantRequest) -> State:
    return State.of(services.store.branch(mechanism, body.revision, body.of, body.name.strip()))


@router.post("/variant", summary="Switches to another variant, where it was left")
def switch(services: ServicesOfCall, mechanism: str, body: SwitchRequest) -> State:
    return State.of(services.store.switch(mechanism, body.revision, body.name))


@router.delete("/variants/{name}", status_code=204, summary="Deletes a variant; its revisions are kept")
def drop_variant(services: ServicesOfCall, mechanism: str, name: str) -> Response:
    services.store.drop_variant(mechanism, name)
    return Response(status_code=204)


@router.put("/revisions/{number}/name", status_code=204, summary="Names a revision")
def call(services: ServicesOfCall, mechanism: str, number: PathNumber, body: NameRequest) -> Response:
    services.store.call(mechanism, number, body.name)
    return Response(status_code=204)


@router.get("/revisions", summary="All revisions, newest first")
def revisions(services: ServicesOfCall, mechanism: str) -> list[RevisionSummary]:
    return [_summary(r, result) for r, result in services.store.revisions(mechanism)]


def _summary(r: Revision, result: Result | None) -> RevisionSummary:
    summary = RevisionSummary(number=r.number, words=r.words, name=r.name, time=r.time)
    if result is not None:
        summary.failing, summary.unknown, summary.total = result.failing, result.open, result.total
    return summary


@router.get(
    "/revisions/{revision}/against/{other}",
    summary="Compares two revisions: changes, and their effects",
    dependencies=[Depends(evaluated)],
)
def against(services: ServicesOfCall, mechanism: str, revision: PathNumber, other: PathNumber) -> views.Comparison:
    document, before = services.store.document(mechanism, revision), services.store.document(mechanism, other)
    return views.comparison(before, document, services.result(mechanism, other), services.result(mechanism, revision))
