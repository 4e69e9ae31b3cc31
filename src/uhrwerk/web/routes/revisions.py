"""Revisions: changes, undo and redo."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel, Field, JsonValue

from uhrwerk.core.document import parse
from uhrwerk.core.edit import join
from uhrwerk.core.edit.accept import accept
from uhrwerk.web.desk import Asked, State, TheDesk

router = APIRouter(prefix="/api/mechanisms/{mechanism}", tags=["revisions"])


class Change(Asked):
    revision: int = Field(description="number of the revision the change was made on", ge=0, le=2**53)
    command: dict[str, JsonValue] = Field(
        description="one command of the document, such as {kind: set_value, path, value}"
    )


class Base(Asked):
    revision: int = Field(ge=0, le=2**53)


class Told(BaseModel):
    number: int
    words: str
    time: datetime


@router.post("/commands", summary="One change, as a new revision")
def change(desk: TheDesk, mechanism: str, asked: Change) -> State:
    command = parse(asked.command)
    before = desk.store.current(mechanism)
    after = before.document
    if before.revision == asked.revision:
        if asked.command.get("kind") in ("add_joint", "add_relation", "add_pair"):
            command = join.joined(after, command)
        after = accept(after, command)
    return State.of(desk.store.change(mechanism, asked.revision, after, command))


@router.post("/undo", summary="Back to the revision before")
def undo(desk: TheDesk, mechanism: str, asked: Base) -> State:
    return State.of(desk.store.undo(mechanism, asked.revision))


@router.post("/redo", summary="Forward again")
def redo(desk: TheDesk, mechanism: str, asked: Base) -> State:
    return State.of(desk.store.redo(mechanism, asked.revision))


@router.get("/revisions", summary="All revisions, newest first")
def revisions(desk: TheDesk, mechanism: str) -> list[Told]:
    return [Told(number=r.number, words=r.words, time=r.time) for r in desk.store.revisions(mechanism)]
