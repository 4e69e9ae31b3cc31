"""Drawings that a mechanism keeps: the page, what it shows, and files."""

from __future__ import annotations

from typing import get_args

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse

from uhrwerk.core.document.drawing import Roughness, ViewName
from uhrwerk.core.drafting.document_sheet import Issue
from uhrwerk.core.drafting.export import WRITERS, sheet_file
from uhrwerk.core.drafting.on_page import (
    DrawingChoices,
    DrawingSheet,
    drawing_choices,
    drawing_sheet,
    sheet_of,
    sizes_before,
)
from uhrwerk.web.pages import templates
from uhrwerk.web.services import Services, ServicesOfCall

router = APIRouter(tags=["drawings"])


def _issue(services: Services, mechanism: str, drawing: str) -> Issue:
    """What the title block says, with what was measured at the revision that this one is compared with, if one is pinned."""
    current = services.store.current(mechanism)
    issue = Issue(str(current.revision), f"{current.time:%Y-%m-%d}")
    stated = current.document.drawings.get(drawing)
    if current.baseline is None or current.baseline == current.revision or stated is None:
        return issue
    before = sizes_before(services.result(mechanism, current.baseline), stated)
    return Issue(issue.revision, issue.date, before, f"revision {current.baseline}")


@router.get("/mechanisms/{mechanism}/drawings", include_in_schema=False, response_class=HTMLResponse)
def drawings_page(request: Request, services: ServicesOfCall, mechanism: str) -> Response:
    name = services.store.current(mechanism).document.name
    choices = {"roughness": get_args(Roughness), "views": get_args(ViewName)}
    return templates.TemplateResponse(request, "drawings.html", {"mechanism": mechanism, "name": name, **choices})


@router.get(
    "/api/mechanisms/{mechanism}/sheets", summary="Drawings that the current revision keeps, and what can be drawn"
)
def sheets(services: ServicesOfCall, mechanism: str) -> DrawingChoices:
    return drawing_choices(services.store.current(mechanism).document)


@router.get("/api/mechanisms/{mechanism}/sheets/{drawing}", summary="A drawing as a sheet, with its sizes one by one")
def sheet(services: ServicesOfCall, mechanism: str, drawing: str) -> DrawingSheet:
    e = services.result(mechanism, services.store.current(mechanism).revision)
    return drawing_sheet(e, drawing, _issue(services, mechanism, drawing))


@router.get(
    "/api/mechanisms/{mechanism}/sheets/{drawing}/{name}",
    summary="A drawing as a file; the suffix decides the format: pdf, svg, dxf",
    responses={200: {"content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}},
)
def sheet_as_file(services: ServicesOfCall, mechanism: str, drawing: str, name: str) -> Response:
    e = services.result(mechanism, services.store.current(mechanism).revision)
    data = sheet_file(name, sheet_of(e, drawing, _issue(services, mechanism, drawing)))
    headers = {"content-disposition": "attachment"}
    return Response(data, media_type=WRITERS[name[name.rfind(".") :].lower()][1], headers=headers)
