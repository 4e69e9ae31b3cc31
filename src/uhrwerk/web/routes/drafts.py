"""A draft: several changes collected before they become one revision, seen at a glance under a negative number."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field, JsonValue

from uhrwerk.core import views
from uhrwerk.core.document import parse
from uhrwerk.core.edit import join
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.web.services import PathNumber, RequestBody, ServicesOfCall, evaluated

router = APIRouter(prefix="/api/mechanisms/{mechanism}/revisions/{revision}", tags=["revisions"])

CommandData = dict[str, JsonValue]


class DraftRequest(RequestBody):
    """Commands on a revision: those that a draft holds already, as its last answer gave them, and those to be added to it."""

    commands: Annotated[list[CommandData], Field(max_length=2000)] = []
    more: Annotated[list[CommandData], Field(max_length=50)] = []


class Draft(BaseModel):
    """The commands of a draft, in order: together they are the change; the number by which poses and solids can be had; the view,
    nothing of it proved."""

    commands: list[CommandData]
    revision: int
    view: views.View


@router.post(
    "/drafts",
    summary="Preview of several changes together, not proved",
    response_model=Draft,
    dependencies=[Depends(evaluated)],
)
def draft(services: ServicesOfCall, mechanism: str, revision: PathNumber, body: DraftRequest) -> Response:
    before = services.result(mechanism, revision)
    after = before.stated
    for data in body.commands:
        after = accept(after, parse(data))
    commands = list(body.commands)
    for data in body.more:
        command = join.placed_command(after, parse(data), services.context)
        after = accept(after, command)
        commands.append(command.model_dump(mode="json"))
    glance = services.evaluator.glance(after, before)
    return JSONResponse(
        {"commands": commands, "revision": services.keep_glance(mechanism, glance), "view": views.view(glance)}
    )
