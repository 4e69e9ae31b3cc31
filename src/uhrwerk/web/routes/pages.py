"""Pages."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from uhrwerk.core.document.material import library
from uhrwerk.demo import MODULES
from uhrwerk.formats import FORMATS
from uhrwerk.store.store import BIN_DAYS
from uhrwerk.web.pages import SHIPPED, templates
from uhrwerk.web.routes.materials import listed
from uhrwerk.web.services import ServicesOfCall

router = APIRouter(include_in_schema=False, default_response_class=HTMLResponse)


@router.get("/")
def shelf_page(request: Request, services: ServicesOfCall) -> Response:
    rows = services.store.shelf()
    sketches = services.sketches.of([r for _, r, _ in rows])
    readable = ",".join(f.suffix for f in FORMATS.values() if f.reads)
    deleted = services.store.shelf(deleted=True)
    named = {m.name for m, _, _ in [*rows, *deleted]}
    data = {
        "rows": rows,
        "sketches": sketches,
        "readable": readable,
        "bin": deleted,
        "days": BIN_DAYS,
        "demo": [
            (k, k.replace("_", " ").capitalize()) for k in MODULES if k.replace("_", " ").capitalize() not in named
        ],
    }
    return templates.TemplateResponse(request, "shelf.html", data)


@router.get("/mechanisms/{mechanism}")
def workspace_page(request: Request, services: ServicesOfCall, mechanism: str) -> Response:
    name = services.store.current(mechanism).document.name
    written = [f for f in FORMATS.values() if f.write is not None]
    data = {"mechanism": mechanism, "name": name, "formats": written}
    return templates.TemplateResponse(request, "workspace.html", data)


@router.get("/materials")
def materials_page(request: Request, services: ServicesOfCall) -> Response:
    data = {"library": listed(library()), "own": listed(services.store.materials())}
    return templates.TemplateResponse(request, "materials.html", data)


@router.get("/help")
def help_page(request: Request) -> Response:
    return templates.TemplateResponse(request, "help.html", {})


@router.get("/api")
def api_page(request: Request) -> Response:
    return templates.TemplateResponse(request, "api.html", {"api": request.app.openapi()})


@router.get("/favicon.ico")
def icon() -> Response:
    return RedirectResponse(f"{SHIPPED}/icon.svg")
