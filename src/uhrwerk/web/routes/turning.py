"""A number that is being varied: its effect at a glance, not yet proved, under a negative number in the place of a revision."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from uhrwerk.core import views
from uhrwerk.core.document import parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.remedies import turned
from uhrwerk.web.services import PathNumber, RequestBody, ServicesOfCall, evaluated

router = APIRouter(prefix="/api/mechanisms/{mechanism}/revisions/{revision}", tags=["results"])


class TurnRequest(RequestBody):
    """A number by its path, and by how many of its steps it is turned from what the revision says; or texts by paths."""

    path: Annotated[str, Field(max_length=400)] = ""
    steps: Annotated[int, Field(ge=-100_000, le=100_000)] = 0
    values: Annotated[dict[str, Annotated[str, Field(max_length=400)]], Field(max_length=20)] = {}


class TurnedNumber(BaseModel):
    """What the number is then, as text; the number by which poses and solids can be had; the view, nothing of it proved."""

    text: str
    revision: int
    view: views.View


@router.post(
    "/turned",
    summary="Preview of a changed number, not proved",
    response_model=TurnedNumber,
    dependencies=[Depends(evaluated)],
)
def turn(services: ServicesOfCall, mechanism: str, revision: PathNumber, body: TurnRequest) -> Response:
    before = services.result(mechanism, revision)
    values, after = dict(body.values), before.stated
    if body.path or not values:
        values[body.path] = turned(before.stated, body.path, body.steps)
    for path, text in values.items():
        after = accept(after, parse({"kind": "set_value", "path": path, "value": text}))
    glance = services.evaluator.glance(after, before)
    return JSONResponse(
        {
            "text": ", ".join(values.values()),
            "revision": services.keep_glance(mechanism, glance),
            "view": views.view(glance),
        }
    )
