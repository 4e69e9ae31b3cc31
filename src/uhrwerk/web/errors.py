"""Errors: always {"error": words, "fields": [{"path", "reason"}]}, or a page that says the same."""

from __future__ import annotations

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from uhrwerk.core.document import ValidationFailed
from uhrwerk.core.worker import NoWorker
from uhrwerk.store import Conflict, Missing, StoreError
from uhrwerk.web.pages import templates


class Field(BaseModel):
    path: str
    reason: str


class Error(BaseModel):
    """`current` is the current revision, where a change was made on another one."""

    error: str
    fields: list[Field] = []
    current: int | None = None


def answer(
    status: int, words: str, fields: list[tuple[str, str]] | None = None, current: int | None = None
) -> Response:
    body = Error(error=words, fields=[Field(path=p, reason=r) for p, r in fields or []], current=current)
    return JSONResponse(body.model_dump(exclude_none=True), status_code=status)


def _words(request: Request, error: Exception) -> Response:
    """Every error that has words of its own."""
    if isinstance(error, ValidationFailed):
        status, words, fields = 422, "; ".join(reason for _, reason in error.faults[:3]), list(error.faults)
    elif isinstance(error, RequestValidationError):
        fields = [(".".join(map(str, f["loc"][1:])) or "body", f["msg"]) for f in error.errors()]
        status, words = 422, f"{fields[0][0]}: {fields[0][1]}"
    elif isinstance(error, HTTPException):
        status, words, fields = error.status_code, str(error.detail), []
    else:
        status, words, fields = STATUS[type(error)], str(error), []
    if request.url.path.startswith("/api/") or isinstance(error, RequestValidationError):
        return answer(status, words, fields, error.current if isinstance(error, Conflict) else None)
    return _page(request, status, words)


def refusal(request: Request, status: int, words: str) -> Response:
    """What refuses a call before anything is done, or after something failed that nobody foresaw: a page to who wants to see one."""
    wants_page = "text/html" in request.headers.get("accept", "") and not request.scope["path"].startswith("/api/")
    return _page(request, status, words) if wants_page else answer(status, words)


def _page(request: Request, status: int, words: str) -> Response:
    heading = HEADINGS.get(status, "This did not work")
    return templates.TemplateResponse(
        request, "missing.html", {"heading": heading, "words": words, "status": status}, status_code=status
    )


HEADINGS = {401: "The key is missing", 404: "Not found"}
STATUS = {Conflict: 409, StoreError: 503, NoWorker: 503, Missing: 404}


async def _handled(request: Request, error: Exception) -> Response:
    return _words(request, error)


def handle(app: FastAPI) -> None:
    """Makes an application answer so; what it has no words for is answered by the guard."""
    for kind in (ValidationFailed, RequestValidationError, HTTPException, *STATUS):
        app.add_exception_handler(kind, _handled)
