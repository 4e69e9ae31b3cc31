"""Files: a mechanism from one, into one; the schema of the document; the kinds that it may hold."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response

from uhrwerk.core import picture
from uhrwerk.core.document import schema
from uhrwerk.core.exchange import told, written
from uhrwerk.web.desk import State, TheDesk
from uhrwerk.web.routes.results import BLOCK

router = APIRouter(prefix="/api", tags=["document"])


@router.post(
    "/files/{name}",
    status_code=201,
    summary="Puts the mechanism in a file on the shelf; the format by its suffix",
    openapi_extra={"requestBody": {"content": BLOCK, "required": True}},
)
async def read_file(request: Request, desk: TheDesk, name: str) -> State:
    return State.of(desk.store.current(desk.store.create(told(name, await request.body()))))


@router.get(
    "/mechanisms/{mechanism}/files/{name}",
    summary="The mechanism as a file; the format by the suffix of its name",
    responses={200: {"content": BLOCK}},
)
def write_file(desk: TheDesk, mechanism: str, name: str) -> Response:
    data, format = written(name, desk.result(mechanism, desk.store.current(mechanism).revision))
    return Response(data, media_type=format.media_type, headers={"content-disposition": "attachment"})


@router.get("/kinds", summary="Kinds of requirement and driver, with their fields, as one chooses them")
def kinds() -> picture.Choices:
    return picture.choices()


@router.get("/schema", summary="JSON Schema of the document")
def document_schema() -> dict[str, Any]:
    return schema()
