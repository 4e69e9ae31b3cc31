"""By hand: playing a freedom, holding a part."""

from __future__ import annotations

from fastapi import APIRouter, Response, WebSocket

from uhrwerk.core import picture
from uhrwerk.core.edit.hand import swing
from uhrwerk.web.desk import PathNumber, TheDesk
from uhrwerk.web.hold import hold_over
from uhrwerk.web.routes.results import BLOCK

router = APIRouter(prefix="/api/mechanisms/{mechanism}/revisions/{revision}", tags=["by hand"])


@router.get(
    "/freedoms/{number}",
    summary="Poses of one freedom, played forth, back and home, as a binary block",
    responses={200: {"content": BLOCK}},
)
def freedom(desk: TheDesk, mechanism: str, revision: PathNumber, number: PathNumber) -> Response:
    block = picture.block_of(swing(desk.result(mechanism, revision), number))
    return Response(block, media_type="application/octet-stream")


@router.websocket("/hold")
async def hold(socket: WebSocket, desk: TheDesk, mechanism: str, revision: PathNumber) -> None:
    await hold_over(socket, lambda: desk.result(mechanism, revision), desk.evaluator)
