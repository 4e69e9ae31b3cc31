"""Layers for print: the page, and what it shows."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request, Response
from fastapi.responses import HTMLResponse

from uhrwerk.core import views
from uhrwerk.core.views import PrintSetting
from uhrwerk.web.pages import templates
from uhrwerk.web.services import ServicesOfCall

router = APIRouter(tags=["layers"])

Text = Annotated[str, Query(max_length=200)]
Face = Annotated[str, Query(max_length=700, description="the face on the bed: placed part/datum; - for as it stands")]


def _setting(
    requirement: Text = "", of: Text = "", at_least: Text = "", layer: Text = "", line: Text = "", down: Face = ""
) -> PrintSetting:
    return PrintSetting(requirement=requirement, of=of, at_least=at_least, layer=layer, line=line, down=down)


Setting = Annotated[PrintSetting, Depends(_setting)]


@router.get("/mechanisms/{mechanism}/layers", include_in_schema=False, response_class=HTMLResponse)
def layers_page(request: Request, services: ServicesOfCall, mechanism: str) -> Response:
    name = services.store.current(mechanism).document.name
    return templates.TemplateResponse(request, "layers.html", {"mechanism": mechanism, "name": name})


@router.get(
    "/api/mechanisms/{mechanism}/layers",
    summary="The current revision in layers, as it is printed in one piece: what would fuse, hang or be shut in",
)
def layers(services: ServicesOfCall, mechanism: str, setting: Setting) -> views.PrintLayers:
    return views.print_layers(services.result(mechanism, services.store.current(mechanism).revision), setting)


@router.get(
    "/api/mechanisms/{mechanism}/layers/{number}",
    summary="One layer of it: the region of each part; from the exact solids, or sooner from triangles",
)
def layer(
    services: ServicesOfCall, mechanism: str, number: int, setting: Setting, exact: bool = True
) -> views.PrintLayer:
    e = services.result(mechanism, services.store.current(mechanism).revision)
    return views.print_layer(e, setting, number, exact)
