"""Mechanisms on the shelf."""

from __future__ import annotations

import json
from datetime import datetime

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field, JsonValue

from uhrwerk.core.document import Document, ValidationFailed, write
from uhrwerk.core.edit.new_document import fresh
from uhrwerk.core.exchange import imported_document
from uhrwerk.demo import MODULES, shipped
from uhrwerk.store import Missing
from uhrwerk.web.services import RequestBody, ServicesOfCall, State

router = APIRouter(prefix="/api/mechanisms", tags=["mechanisms"])


class NewMechanism(RequestBody):
    name: str = Field(default="New mechanism", max_length=80)
    document: dict[str, JsonValue] | None = Field(
        default=None, description="a whole document; left out: an empty mechanism"
    )


class Folder(RequestBody):
    folder: str = Field(max_length=60, description="empty: in none")


class OnShelf(BaseModel):
    id: str
    name: str
    folder: str
    revision: int
    changed: datetime


@router.get("", summary="The shelf")
def mechanisms(services: ServicesOfCall) -> list[OnShelf]:
    return [
        OnShelf(id=m.id, name=m.name, folder=m.folder, revision=r.number, changed=r.time)
        for m, r, _ in services.store.shelf()
    ]


@router.post("", status_code=201, summary="Creates a mechanism")
def create(services: ServicesOfCall, body: NewMechanism) -> State:
    if not body.name.strip():
        raise ValidationFailed(("name", "give the mechanism a name"))
    document = fresh(body.name)
    if body.document is not None:  # it may have come from anywhere
        document = imported_document("document.json", json.dumps(body.document).encode(), services.context)
    return State.of(services.store.current(services.store.create(document)))


@router.get("/{mechanism}", summary="The current revision")
def current(services: ServicesOfCall, mechanism: str) -> State:
    return State.of(services.store.current(mechanism))


@router.post(
    "/{mechanism}/copy", status_code=201, summary="Duplicates a mechanism: its current document, as one of its own"
)
def copy(services: ServicesOfCall, mechanism: str) -> State:
    return State.of(services.store.copy(mechanism))


@router.post("/{mechanism}/restore", summary="Restores a deleted mechanism from the bin")
def restore(services: ServicesOfCall, mechanism: str) -> State:
    return State.of(services.store.restore(mechanism))


@router.post("/demo/{module}", status_code=201, summary="Puts a module of the demo on the shelf, as it is shipped")
def demo(services: ServicesOfCall, module: str) -> State:
    if module not in MODULES:
        raise Missing(f"The demo has no module {module!r}; it has {', '.join(MODULES)}.")
    return State.of(services.store.current(services.store.create(shipped(module), demo=True)))


@router.put("/{mechanism}/folder", status_code=204, summary="Puts a mechanism into a folder of the shelf")
def put_in_folder(services: ServicesOfCall, mechanism: str, body: Folder) -> Response:
    services.store.put_in_folder(mechanism, " ".join(body.folder.split()))
    return Response(status_code=204)


@router.delete("/{mechanism}", status_code=204, summary="Deletes a mechanism: it is kept in the bin for 30 days")
def remove(services: ServicesOfCall, mechanism: str) -> Response:
    services.store.remove(mechanism)
    return Response(status_code=204)


@router.get("/{mechanism}/document", summary="The document as a file", response_model=Document)
def document(services: ServicesOfCall, mechanism: str) -> Response:
    headers = {"content-disposition": f'attachment; filename="{mechanism}.json"'}
    text = write(services.store.current(mechanism).document)
    return Response(text, media_type="application/json", headers=headers)
