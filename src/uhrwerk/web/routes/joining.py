"""Joining, seating, measuring."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import Field

from uhrwerk.core import picture
from uhrwerk.core.document import parse
from uhrwerk.core.edit import join
from uhrwerk.core.edit.accept import accept
from uhrwerk.core.edit.seat import Seat, seated
from uhrwerk.core.joints import At
from uhrwerk.web.desk import Asked, State, TheDesk
from uhrwerk.web.routes.revisions import Base, Change

router = APIRouter(prefix="/api/mechanisms/{mechanism}", tags=["joining"])


class TwoDatums(Asked):
    a: At
    b: At


class SeatAsked(Asked):
    joint: str = Field(max_length=80)
    against: str = Field(max_length=80, description="placed part to which the gap is asked")
    gap: str = Field(default="0 mm", max_length=400)


@router.post("/candidates", summary="What may join two datums")
def candidates(desk: TheDesk, mechanism: str, asked: TwoDatums) -> list[join.Offer]:
    return join.candidates(desk.store.current(mechanism).document, asked.a, asked.b)


@router.post("/try", summary="Where every part would go, without doing it")
def try_out(desk: TheDesk, mechanism: str, asked: Change) -> join.Tried:
    return join.tried(desk.store.current(mechanism).document, parse(asked.command))


@router.post("/seat", summary="The offset of a joint at which a gap is as asked")
def seat(desk: TheDesk, mechanism: str, asked: SeatAsked) -> Seat:
    return seated(desk.store.current(mechanism).document, desk.evaluator, asked.joint, asked.against, asked.gap)


@router.post("/measure", summary="Distance and angle of two datums")
def measure(desk: TheDesk, mechanism: str, asked: TwoDatums) -> list[picture.Measure]:
    return picture.measured(desk.store.current(mechanism).document, asked.a, asked.b)


@router.post("/other-mode", summary="Assembles the mechanism the other way")
def other_mode(desk: TheDesk, mechanism: str, asked: Base) -> State:
    before = desk.store.current(mechanism)
    command = join.other_mode(before.document)
    return State.of(desk.store.change(mechanism, asked.revision, accept(before.document, command), command))
