"""What leaves on paper: the report of a mechanism as a page for print and as PDF, and drawings."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import HTMLResponse

from uhrwerk.core import views
from uhrwerk.core.drafting.export import WRITERS, assembly_drawing, drawing_of, sheet_file
from uhrwerk.core.report import Report, as_pdf, contents
from uhrwerk.core.report.drawn import chart_svg, figure_svg
from uhrwerk.web.pages import templates
from uhrwerk.web.services import Services, ServicesOfCall

router = APIRouter(tags=["reports"])


def _report(services: Services, mechanism: str) -> Report:
    """Of the current revision, with what changed since the one that it is compared with, if one is pinned."""
    current = services.store.current(mechanism)
    e = services.result(mechanism, current.revision)
    since = None
    if current.baseline is not None and current.baseline != current.revision:
        before = services.store.document(mechanism, current.baseline)
        was = services.result(mechanism, current.baseline)
        since = (f"revision {current.baseline}", views.comparison(before, current.document, was, e))
    about = f"revision {current.revision}, {current.time:%d %B %Y, %H:%M}"
    return contents(e, about, since)


@router.get("/mechanisms/{mechanism}/report", include_in_schema=False, response_class=HTMLResponse)
def report_waiting(request: Request, services: ServicesOfCall, mechanism: str) -> Response:
    """A page that is there at once, and shows the report when it is written."""
    name = services.store.current(mechanism).document.name
    return templates.TemplateResponse(request, "report_waiting.html", {"mechanism": mechanism, "name": name})


@router.get("/mechanisms/{mechanism}/report/page", include_in_schema=False, response_class=HTMLResponse)
def report_page(request: Request, services: ServicesOfCall, mechanism: str) -> Response:
    data = {"report": _report(services, mechanism), "mechanism": mechanism, "figure": figure_svg, "chart": chart_svg}
    return templates.TemplateResponse(request, "report.html", data)


@router.get(
    "/api/mechanisms/{mechanism}/report.pdf",
    summary="The report of the current revision as PDF",
    responses={200: {"content": {"application/pdf": {"schema": {"type": "string", "format": "binary"}}}}},
)
def report_file(services: ServicesOfCall, mechanism: str) -> Response:
    headers = {"content-disposition": f'attachment; filename="{mechanism}.pdf"'}
    return Response(as_pdf(_report(services, mechanism)), media_type="application/pdf", headers=headers)


@router.get(
    "/api/mechanisms/{mechanism}/drawings/{name}",
    summary="A drawing of the whole, a group, or one placed part with its sizes; the suffix decides the format: pdf, svg, dxf",
    responses={200: {"content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}},
)
def drawing(
    services: ServicesOfCall,
    mechanism: str,
    name: str,
    part: Annotated[str, Query(max_length=80, description="the placed part; the whole if left out")] = "",
    group: Annotated[str, Query(max_length=80, description="the parts of a group alone")] = "whole",
    time: Annotated[float, Query(ge=0, description="moment of the cycle, s, of the whole or a group")] = 0.0,
    projection: Literal["first", "third"] = "first",
    exploded: Annotated[bool, Query(description="the whole or a group, taken apart along its joints")] = False,
) -> Response:
    current = services.store.current(mechanism)
    e = services.result(mechanism, current.revision)
    first, about = projection == "first", (str(current.revision), f"{current.time:%Y-%m-%d}")
    if part:
        sheet = drawing_of(e, part, first, *about)
    else:
        sheet = assembly_drawing(e, group, first, *about, time=time, exploded=exploded)
    data = sheet_file(name, sheet)
    headers = {"content-disposition": "attachment"}
    return Response(data, media_type=WRITERS[name[name.rfind(".") :].lower()][1], headers=headers)
