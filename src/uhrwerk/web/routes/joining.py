"""Joining, setting a gap, measuring."""

from __future__ import annotations

import json
from collections.abc import Mapping

import numpy as np
from fastapi import APIRouter
from numpy.typing import NDArray
from pydantic import BaseModel, Field, JsonValue
from scipy.spatial.transform import Rotation

from uhrwerk.core import views
from uhrwerk.core.document import Document, ValidationFailed, parse
from uhrwerk.core.edit import join
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.copy_paste import Included, included, piece
from uhrwerk.core.edit.grow import Sprout, sprouts
from uhrwerk.core.edit.nearest_gap import PULLED, nearest
from uhrwerk.core.edit.new_step import new_step
from uhrwerk.core.edit.pull import to_gap
from uhrwerk.core.edit.reposition import Repositioned, repositioned
from uhrwerk.core.edit.solve_offset import OffsetForGap, seated
from uhrwerk.core.exchange import imported_document
from uhrwerk.core.joints import At
from uhrwerk.core.quantity import FormulaError, length_text
from uhrwerk.web.routes.revisions import ChangeRequest, OnRevision
from uhrwerk.web.services import RequestBody, ServicesOfCall, ShownDocument, State

router = APIRouter(prefix="/api/mechanisms/{mechanism}", tags=["joining"])


class TwoDatums(RequestBody):
    a: At
    b: At


class OffsetRequest(RequestBody):
    joint: str = Field(max_length=80)
    against: str = Field(max_length=80, description="placed part to which the gap is asked")
    gap: str = Field(default="0 mm", max_length=400)


@router.post("/candidates", summary="Joints that can join two datums")
def candidates(services: ServicesOfCall, document: ShownDocument, body: TwoDatums) -> list[join.JoinOption]:
    return join.candidates(document, body.a, body.b, services.context)


@router.post("/try", summary="Preview: where every part would go")
def try_out(services: ServicesOfCall, document: ShownDocument, body: ChangeRequest) -> join.JoinPreview:
    return join.tried(document, parse(body.command), services.context)


class GrowthBody(RequestBody):
    at: At
    id: str = Field(default="", max_length=200, description="one of those that grow there; empty: all")
    values: dict[str, str] = Field(default={}, description="numbers for what it asks")


class PullRequest(RequestBody):
    at: At
    id: str = Field(max_length=200, description="what pulls, of those that grow there")
    values: dict[str, str] = Field(default={}, description="numbers for what it asks")
    gap: str = Field(max_length=400, description="to be kept from a neighbour")
    against: str = Field(
        default="", max_length=80, description="that neighbour; empty: the nearest whose gap the face changes"
    )
    cycle: bool = Field(default=False, description="the smallest gap over the cycle, not as all stands")


class PullResult(BaseModel):
    """How far outward the face moves then, as a field."""

    by: str


@router.post("/pull", summary="How far to pull a face until its part has a gap to its nearest neighbour")
def pull(services: ServicesOfCall, document: ShownDocument, body: PullRequest) -> PullResult:
    unit = document.units.length
    try:
        wanted = document.scope().value(body.gap, "length")
        first = document.scope().value(body.values.get("by") or "0 mm", "length")
    except FormulaError as error:
        raise ValidationFailed(("gap", str(error))) from error

    def command(by: float) -> dict[str, JsonValue]:
        (one,) = sprouts(document, body.at, services.context, body.id, {**body.values, "by": f"{by * 1e3:.9g} mm"})
        return one.command

    by = to_gap(document, body.at.placed, command, wanted, first, services.evaluator, body.against, body.cycle)
    return PullResult(by=length_text(by, unit, 1e-8))


class GhostPose(BaseModel):
    """A part that is not there yet: its solid and bodies, where it would be (7,), its box in its own frame, m."""

    id: str
    name: str
    element: str
    solid: str
    bodies: list[str]
    pose: list[float]
    near: str
    low: list[float]
    high: list[float]


@router.post("/grow", summary="What fits on a datum, each with the one command that creates, places and joins it")
def grow(services: ServicesOfCall, document: ShownDocument, body: GrowthBody) -> list[Sprout]:
    return sprouts(document, body.at, services.context, body.id, body.values)


class RepositionRequest(RequestBody):
    placed: str = Field(max_length=80)
    move: dict[str, str] = Field(default={}, description="ways along the mechanism's axes")
    turn: dict[str, str] = Field(default={}, description="angles about x, then y, then z")
    about: tuple[float, float, float] = Field(description="the point that it turns about, m")


@router.post(
    "/reposition", summary="The command that moves and turns a placed part, with what holds it adapted; a preview"
)
def reposition(services: ServicesOfCall, document: ShownDocument, body: RepositionRequest) -> Repositioned:
    def measured(texts: Mapping[str, str], dimension: str, what: str) -> NDArray[np.float64]:
        out = np.zeros(3)
        for k, name in enumerate(("x", "y", "z")):
            try:
                out[k] = document.scope().value(texts.get(name) or "0", dimension)
            except FormulaError as error:
                raise ValidationFailed((f"{what}.{name}", str(error))) from error
        return out

    turn = Rotation.from_euler("xyz", measured(body.turn, "angle", "turn")).as_rotvec()
    move = measured(body.move, "length", "move")
    return repositioned(document, body.placed, move, turn, np.array(body.about), services.context)


class NewStepRequest(RequestBody):
    part: str = Field(max_length=80)
    kind: str = Field(max_length=80, description="of build steps")
    datum: str = Field(default="", max_length=640, description="the face pointed at; empty: the part's top face")


class CommandAnswer(BaseModel):
    command: dict[str, JsonValue]


@router.post("/new-step", summary="The command that adds a build step where it goes, sized from the face there")
def begin_step(services: ServicesOfCall, document: ShownDocument, body: NewStepRequest) -> CommandAnswer:
    command = new_step(document, body.part, body.kind, body.datum, services.context)
    return CommandAnswer(command=command.model_dump(mode="json"))


@router.post("/ghosts", summary="Preview: parts that a command would create or change, with their solids")
def ghosts(services: ServicesOfCall, document: ShownDocument, body: ChangeRequest) -> list[GhostPose]:
    command = parse(body.command)
    after = accept(document, command)
    context = services.context.coarse(PULLED)
    preview = join.tried(document, command, context)
    changed = [
        i for i, p in document.placed.items() if i in after.placed and after.parts[p.part] != document.parts[p.part]
    ]
    stand = preview.poses | (join.standing(after, context) if changed else {})
    out = []
    for i in [*preview.fresh, *changed]:
        placed = after.placed[i]
        part = after.parts[placed.part]
        if (
            not part.steps and not getattr(part.element, "part", "") and part.element.kind in ("blank", "like")
        ):  # nothing yet
            continue
        key, solid = services.evaluator.solid_of(after, i, PULLED if i in changed else None)
        if solid.failed is not None:
            step, why = solid.failed
            raise ValidationFailed(
                (f"parts.{placed.part}.steps.{step}", f"{after.parts[placed.part].steps[step].name}: {why}")
            )
        services.previews.put(key, solid)
        element = after.parts[placed.part].element.kind
        corners = np.concatenate([b.vertices for b in solid.bodies.values()])
        near = nearest(after, i, stand, services.evaluator) if i in changed else None
        out.append(GhostPose(
            near="" if near is None else near.words,
            id=i, name=placed.name, element=element, solid=key, bodies=list(solid.bodies), pose=stand[i],
            low=corners.min(axis=0).tolist(), high=corners.max(axis=0).tolist(),
        ))  # fmt: skip
    return out


class PieceRequest(RequestBody):
    parts: list[str] = Field(min_length=1, max_length=500, description="placed parts")


class IncludeRequest(OnRevision):
    mechanism: str = Field(default="", max_length=80, description="one from the shelf; or")
    document: dict[str, JsonValue] | None = Field(default=None, description="one as data, such as a piece")


@router.post("/piece", summary="Copies parts, with their joints and all that they use, as a mechanism of their own")
def take_piece(services: ServicesOfCall, document: ShownDocument, body: PieceRequest) -> Document:
    return piece(document, body.parts)


@router.post("/include", summary="The command that inserts another mechanism, or a piece of one, beside what is there")
def include(services: ServicesOfCall, document: ShownDocument, body: IncludeRequest) -> Included:
    other = (
        services.store.current(body.mechanism).document
        if body.document is None
        else imported_document("document.json", json.dumps(body.document).encode(), services.context)
    )
    inclusion = included(document, other, services.box)
    accept(document, parse(inclusion.command))
    return inclusion


@router.post("/seat", summary="The offset of a joint at which a gap has the required value")
def seat(services: ServicesOfCall, document: ShownDocument, body: OffsetRequest) -> OffsetForGap:
    return seated(document, services.evaluator, body.joint, body.against, body.gap)


@router.post("/measure", summary="Distance and angle of two datums")
def measure(services: ServicesOfCall, document: ShownDocument, body: TwoDatums) -> list[views.Measure]:
    return views.measured(document, body.a, body.b, services.context)


@router.post("/other-mode", summary="Switches to another assembly mode of the same joints")
def other_mode(services: ServicesOfCall, mechanism: str, body: OnRevision) -> State:
    before = services.store.at(mechanism, body.revision).document
    command = join.other_mode(before, services.context)
    return State.of(services.store.change(mechanism, body.revision, accept(before, command), command))
