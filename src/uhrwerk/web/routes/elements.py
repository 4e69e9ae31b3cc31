"""Elements: the catalogue, and what one would be before it is added."""

from __future__ import annotations

from fastapi import APIRouter, Response
from pydantic import Field, JsonValue

from uhrwerk.core import views
from uhrwerk.core.document import Document
from uhrwerk.store import Missing
from uhrwerk.web.routes.results import BLOCK
from uhrwerk.web.services import RequestBody, ServicesOfCall

router = APIRouter(prefix="/api/elements", tags=["elements"])


class ElementRequest(RequestBody):
    element: dict[str, JsonValue]
    mechanism: str | None = Field(default=None, description="whose parameters formulas may use")


@router.get("", summary="The catalogue")
def elements() -> list[views.Entry]:
    return views.catalogue()


@router.post("/preview", summary="Preview of an element: derived values and the key of its solid")
def preview(services: ServicesOfCall, body: ElementRequest) -> views.Preview:
    document = services.store.current(body.mechanism).document if body.mechanism else Document(name="preview")
    solid, words = views.preview(document, body.element, services.evaluator.kernel_pool.build)
    services.previews.put(words["solid"], solid)
    return words


@router.get(
    "/solids/{key}/{body}",
    summary="Triangles and edges of a previewed body, binary",
    responses={200: {"content": BLOCK}},
)
def preview_solid(services: ServicesOfCall, key: str, body: str) -> Response:
    solid = services.previews.peek(key)
    if solid is None or body not in solid.bodies:
        raise Missing("This preview is no longer available.")
    return Response(views.mesh_block(solid.bodies[body], {}), media_type="application/octet-stream")
