"""Playing a freedom, dragging a part."""

from __future__ import annotations

from fastapi import APIRouter, Depends, Response, WebSocket
from starlette.concurrency import run_in_threadpool

from uhrwerk.core import views
from uhrwerk.core.edit.drag_session import swing
from uhrwerk.core.evaluation.evaluator import Evaluation
from uhrwerk.web.drag_socket import hold_over
from uhrwerk.web.routes.results import BLOCK
from uhrwerk.web.services import PathNumber, ServicesOfCall, evaluated

router = APIRouter(prefix="/api/mechanisms/{mechanism}/revisions/{revision}", tags=["by hand"])


@router.get(
    "/freedoms/{number}",
    summary="Poses of one freedom, played forth, back and home, as a binary block",
    dependencies=[Depends(evaluated)],
    responses={200: {"content": BLOCK}},
)
def freedom(services: ServicesOfCall, mechanism: str, revision: PathNumber, number: PathNumber) -> Response:
    block = views.block_of(swing(services.result(mechanism, revision), number))
    return Response(block, media_type="application/octet-stream")


@router.websocket("/hold")
async def hold(socket: WebSocket, services: ServicesOfCall, mechanism: str, revision: PathNumber) -> None:
    async def result() -> Evaluation:
        await evaluated(services, mechanism, revision)
        return await run_in_threadpool(services.result, mechanism, revision)

    await hold_over(socket, result, services.evaluator)
