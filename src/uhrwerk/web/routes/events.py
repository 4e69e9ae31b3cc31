"""Events: what happens to a mechanism, or on the shelf, as one stream for each page (server-sent events, WHATWG HTML, 9.2)."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from uhrwerk.web.events import of_mechanism, of_shelf
from uhrwerk.web.services import ServicesOfCall

router = APIRouter(prefix="/api", include_in_schema=False)  # a stream has no end that a list of calls could state
KIND = "text/event-stream"


@router.get("/mechanisms/{mechanism}/events")
async def mechanism_events(services: ServicesOfCall, mechanism: str) -> StreamingResponse:
    return StreamingResponse(of_mechanism(services, mechanism), media_type=KIND)


@router.get("/events")
async def shelf_events(services: ServicesOfCall) -> StreamingResponse:
    return StreamingResponse(of_shelf(services), media_type=KIND)
