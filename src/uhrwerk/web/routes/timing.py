"""Drawing in the timing chart."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, JsonValue

from uhrwerk.core.edit import timing
from uhrwerk.web.services import ShownDocument

router = APIRouter(prefix="/api/mechanisms/{mechanism}", tags=["timing chart"])


class TimingRequest(BaseModel):
    """The command that does what was drawn."""

    command: dict[str, JsonValue]


@router.post(
    "/timing", summary="The command that moves a corner of a programme, or splits, inserts or deletes a segment"
)
def edit_timing(document: ShownDocument, body: timing.TimingEdit) -> TimingRequest:
    return TimingRequest(command=timing.changed(document, body))
