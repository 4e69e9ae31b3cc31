"""Files: a mechanism from one, into one; the schema of the document; the kinds that it may hold."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from uhrwerk.core import views
from uhrwerk.core.document import ValidationFailed, schema
from uhrwerk.core.edit.copy_paste import Included, included
from uhrwerk.core.edit.replace import Replaced, replaced
from uhrwerk.core.exchange import Chosen, imported_document, written
from uhrwerk.core.exchange.shelf_archive import packed_shelf, unpacked_shelf
from uhrwerk.web.routes.results import BLOCK
from uhrwerk.web.services import ServicesOfCall, State

router = APIRouter(prefix="/api", tags=["document"])


#: of a call whose body is a file: it may be large
FILE = {"requestBody": {"content": BLOCK, "required": True}}
Unit = Annotated[str, Query(max_length=10, description="mm, cm, m or in, of a format that states none")]


class ImportResult(Included):
    """The command that includes what was read, what is then to be selected, and what was healed or left out."""

    said: str


@router.post(
    "/files/{name}",
    status_code=201,
    summary="Imports a mechanism, or the parts in a file, to the shelf; the suffix decides the format",
    openapi_extra=FILE,
)
async def read_file(request: Request, services: ServicesOfCall, name: str, unit: Unit = "") -> State:
    document = await run_in_threadpool(imported_document, name, await request.body(), services.context, unit)
    return State.of(services.store.current(services.store.create(document)))


@router.post(
    "/mechanisms/{mechanism}/take/{name}",
    summary="The command that inserts the parts of a file beside what is there",
    openapi_extra=FILE,
)
async def take_file(
    request: Request, services: ServicesOfCall, mechanism: str, name: str, unit: Unit = ""
) -> ImportResult:
    data = await request.body()

    def import_parts() -> ImportResult:
        other = imported_document(name, data, services.context, unit)
        one = included(services.store.current(mechanism).document, other, services.box)
        return ImportResult(command=one.command, selected=one.selected, said=other.note)

    return await run_in_threadpool(import_parts)


@router.post(
    "/mechanisms/{mechanism}/parts/{part}/take/{name}",
    summary="The command that replaces the file of an imported part",
    openapi_extra=FILE,
)
async def replace_file(
    request: Request, services: ServicesOfCall, mechanism: str, part: str, name: str, unit: Unit = ""
) -> Replaced:
    data = await request.body()

    def replacement() -> Replaced:
        return replaced(
            services.store.current(mechanism).document,
            part,
            imported_document(name, data, services.context, unit),
            services.context,
        )

    return await run_in_threadpool(replacement)


@router.get(
    "/mechanisms/{mechanism}/files/{name}",
    summary="Exports the mechanism; the suffix decides the format",
    responses={200: {"content": BLOCK}},
)
def write_file(
    services: ServicesOfCall,
    mechanism: str,
    name: str,
    part: Annotated[str, Query(max_length=80, description="one placed part alone, in its own frame")] = "",
    time: Annotated[float, Query(ge=0, description="moment of the cycle, s")] = 0.0,
    group: Annotated[str, Query(max_length=80, description="the parts of a group alone")] = "",
    down: Annotated[str, Query(max_length=700, description="the face on a printer's bed: placed part/datum")] = "",
) -> Response:
    result = services.result(mechanism, services.store.current(mechanism).revision)
    data, format = written(name, result, Chosen(part, time, group, down))
    return Response(data, media_type=format.media_type, headers={"content-disposition": "attachment"})


class ShelfImport(BaseModel):
    """Mechanisms created from an archive of a shelf, and the files in it that were refused, each with the reason."""

    created: list[str]
    refused: dict[str, str]


@router.get(
    "/shelf.zip", summary="Exports all mechanisms of the shelf, one archive in all", responses={200: {"content": BLOCK}}
)
def export_shelf(services: ServicesOfCall) -> Response:
    shelf = [m for m, _, _ in services.store.shelf()]
    documents = {m.id: services.store.current(m.id).document for m in shelf}
    if not documents:
        raise ValidationFailed(("shelf", "there is no mechanism on it yet"))
    data = packed_shelf(documents, services.context.kernel_pool.contents, {m.id: m.folder for m in shelf})
    return Response(
        data, media_type="application/zip", headers={"content-disposition": 'attachment; filename="uhrwerk.shelf.zip"'}
    )


@router.post("/shelf", status_code=201, summary="Imports all mechanisms of an archive of a shelf", openapi_extra=FILE)
async def import_shelf(request: Request, services: ServicesOfCall) -> ShelfImport:
    data = await request.body()

    def imported() -> ShelfImport:
        created, refused = list[str](), dict[str, str]()
        for path, block in unpacked_shelf(data).items():
            folder, _, name = path.rpartition("/")
            try:
                mechanism = services.store.create(imported_document(name, block, services.context))
                services.store.put_in_folder(mechanism, folder[:60])
                created.append(mechanism)
            except ValidationFailed as error:
                refused[name] = str(error)
        return ShelfImport(created=created, refused=refused)

    return await run_in_threadpool(imported)


@router.get("/kinds", summary="Kinds of requirements and drivers, with their fields")
def kinds() -> views.Choices:
    return views.choices()


@router.get("/schema", summary="JSON Schema of the document")
def document_schema() -> dict[str, Any]:
    return schema()
