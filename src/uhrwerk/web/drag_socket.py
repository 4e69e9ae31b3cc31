"""Dragging a part over a WebSocket. Each message is answered before the next is read, so that none pile up.

The page sends `{"take": placed, "at": [x, y, z], "frame": n or null, "contact": bool}`, then any number of
`{"to": [x, y, z]}`, and at last `{"release": true}`. Answers are `{"poses": {placed: [7]}, "words": why it stopped}`;
the last one also has the commands that keep the parts where they are. `{"error": words}` where it cannot be done.
Lengths are metres.
"""

from __future__ import annotations

import json
from collections.abc import Awaitable, Callable
from typing import Any

import numpy as np
from fastapi import WebSocket, WebSocketDisconnect
from numpy.typing import NDArray
from starlette.concurrency import run_in_threadpool

from uhrwerk.core.document import ValidationFailed
from uhrwerk.core.edit.drag_session import DragSession, DragState, take
from uhrwerk.core.evaluation.evaluator import Evaluation, Evaluator
from uhrwerk.store import Missing

#: m, and frames: what a message may name at most
FARTHEST, MOST_FRAMES = 1_000, 1_000_000


def _read(text: str) -> dict[str, Any]:
    try:
        message = json.loads(text, parse_constant=_no_number)
    except (ValueError, RecursionError) as error:
        raise ValidationFailed(("message", f"this message is not readable: {error}")) from error
    if not isinstance(message, dict):
        raise ValidationFailed(("message", "must be an object"))
    return message


def _no_number(word: str) -> float:
    raise ValueError(f"{word} is not a number")


def _number(field: str, value: Any, most: int) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) <= most:
        raise ValidationFailed((field, f"{field}: a number up to {most} is required"))
    return float(value)


def _point(field: str, data: Any) -> NDArray[np.float64]:
    if not isinstance(data, list) or len(data) != 3:
        raise ValidationFailed((field, f"{field}: must be a point of three numbers"))
    return np.array([_number(field, v, FARTHEST) for v in data])


def _answer(done: DragState) -> dict[str, Any]:
    return {"poses": {p: np.round(at, 9).tolist() for p, at in done.parts.items()}, "words": done.words}


async def hold_over(socket: WebSocket, result: Callable[[], Awaitable[Evaluation]], evaluator: Evaluator) -> None:
    """Serves one connection until it is closed."""
    await socket.accept()
    session: DragSession | None = None
    try:
        while True:
            try:
                try:
                    text = await socket.receive_text()
                except KeyError as error:  # bytes, not text
                    raise ValidationFailed(("message", "this message is not readable")) from error
                message = _read(text)
                if "take" in message:
                    e = await result()
                    frame = message.get("frame")
                    frame = None if frame is None else _number("frame", frame, MOST_FRAMES)
                    session = take(
                        e,
                        evaluator,
                        str(message["take"]),
                        _point("at", message.get("at")),
                        frame,
                        message.get("contact") is True,
                    )
                    await socket.send_json(_answer(DragState(session.parts())))
                elif session is None:
                    raise ValidationFailed(("take", "take hold of a part first"))
                elif "to" in message:
                    await socket.send_json(_answer(await run_in_threadpool(session.pull, _point("to", message["to"]))))
                elif "release" in message:
                    answer = _answer(DragState(session.parts()))
                    answer["commands"] = [c.model_dump(mode="json") for c in session.starts()]
                    await socket.send_json(answer)
                    session = None
                else:
                    raise ValidationFailed(("message", "must be take, to or release"))
            except ValidationFailed as error:
                await socket.send_json({"error": "; ".join(reason for _, reason in error.faults)})
            except Missing as error:
                await socket.send_json({"error": str(error)})
    except WebSocketDisconnect:
        return
