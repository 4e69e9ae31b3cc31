"""Errors: always {"error": words, "fields": [{"path", "reason"}]}, or a page that says the same."""

from __future__ import annotations

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from uhrwerk.core.document import Refused
from uhrwerk.store import Conflict, Missing, StoreError
from uhrwerk.web.pages import templates


class Field(BaseModel):
    path: str
    reason: str


class Error(BaseModel):
    """`current` is the revision in force, where a change was made on another one."""

    error: str
    fields: list[Field] = []
    current: int | None = None


def answer(
    status: int, words: str, fields: list[tuple[str, str]] | None = None, current: int | None = None
) -> Response:
    told = Error(error=words, fields=[Field(path=p, reason=r) for p, r in fields or []], current=current)
    return JSONResponse(told.model_dump(exclude_none=True), status_code=status)


async def _refused(_: Request, error: Exception) -> Response:
    assert isinstance(error, Refused)
    return answer(422, "; ".join(reason for _, reason in error.faults[:3]), error.faults)


async def _malformed(_: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    fields = [(".".join(map(str, f["loc"][1:])) or "body", f["msg"]) for f in error.errors()]
    return answer(422, f"{fields[0][0]}: {fields[0][1]}", fields)


async def _conflict(_: Request, error: Exception) -> Response:
    assert isinstance(error, Conflict)
    return answer(409, str(error), current=error.current)


async def _unusable(_: Request, error: Exception) -> Response:
    return answer(503, str(error))


async def _missing(request: Request, error: Exception) -> Response:
    words = str(error.detail) if isinstance(error, HTTPException) else str(error)
    status = error.status_code if isinstance(error, HTTPException) else 404
    if request.url.path.startswith("/api/"):
        return answer(status, words)
    return templates.TemplateResponse(request, "missing.html", {"words": words}, status_code=status)


def handle(app: FastAPI) -> None:
    """Makes an application answer so."""
    for kind, handler in (
        (Refused, _refused), (RequestValidationError, _malformed), (Conflict, _conflict), (StoreError, _unusable), (Missing, _missing),
        (HTTPException, _missing),
    ):  # fmt: skip
        app.add_exception_handler(kind, handler)
