"""The web application: pages, and the API that the pages use; every action of a page is one call of it."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request, Response, WebSocket
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse
from fastapi.staticfiles import StaticFiles
from fastapi.templating import Jinja2Templates
from pydantic import BaseModel, ConfigDict, Field, JsonValue
from starlette.exceptions import HTTPException

from uhrwerk.core import picture
from uhrwerk.core.document import Document, Refused, parse, read, schema, write
from uhrwerk.core.edit import join
from uhrwerk.core.edit.accept import accept
from uhrwerk.core.edit.hand import swing
from uhrwerk.core.edit.seat import seated
from uhrwerk.core.evaluate import Evaluator
from uhrwerk.core.joints import At
from uhrwerk.core.values import values, where
from uhrwerk.store import Conflict, Current, Missing, Store, StoreError
from uhrwerk.web.hold import hold_over
from uhrwerk.web.security import Guard
from uhrwerk.web.work import Job, Work

HERE = Path(__file__).parent
templates = Jinja2Templates(HERE / "templates")


class Asked(BaseModel):
    model_config = ConfigDict(extra="forbid")


class NewMechanism(Asked):
    name: str = Field(default="New mechanism", max_length=80)
    document: dict[str, JsonValue] | None = Field(
        default=None, description="a whole document; left out: an empty mechanism"
    )


class Change(Asked):
    revision: int = Field(description="number of the revision the change was made on", ge=0, le=2**53)
    command: dict[str, JsonValue] = Field(
        description="one command of the document, such as {kind: set_value, path, value}"
    )


class Base(Asked):
    revision: int = Field(ge=0, le=2**53)


class TwoDatums(Asked):
    a: At
    b: At


class SeatAsked(Asked):
    joint: str = Field(max_length=80)
    against: str = Field(max_length=80, description="placed part to which the gap is asked")
    gap: str = Field(default="0 mm", max_length=400)


class ElementAsked(Asked):
    element: dict[str, JsonValue]
    mechanism: str | None = Field(default=None, description="whose parameters formulas may use")


def create_app(
    store: Store, evaluator: Evaluator, hosts: frozenset[str] = frozenset({"127.0.0.1", "localhost", "::1"})
) -> FastAPI:
    """The application over an open store."""

    def finished(job: Job) -> None:
        assert job.result is not None
        answers = [v.holds for v in job.result.verdicts.values()]
        first = next((v.words for v in job.result.verdicts.values() if v.holds is False), "")
        try:
            store.keep_result(
                job.mechanism, job.revision, answers.count(False), answers.count(None), len(answers), first
            )
        except StoreError:
            return  # a short result for the shelf may be missing; it is found again when the page is opened

    work = Work(evaluator, finished)
    sketches: dict[int, dict[str, Any]] = {}
    previews: dict[str, tuple[Any, dict[str, Any]]] = {}

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        yield
        evaluator.close()
        store.close()

    app = FastAPI(title="Uhrwerk", version="0.1.0", docs_url=None, redoc_url=None, lifespan=lifespan)
    app.mount("/static", StaticFiles(directory=HERE / "static"), name="static")
    app.add_middleware(Guard, hosts=hosts)

    # errors: always {"error": words, "fields": [{"path", "reason"}]}

    def answer(status: int, words: str, fields: list[tuple[str, str]] | None = None, **more: Any) -> JSONResponse:
        return JSONResponse(
            {"error": words, "fields": [{"path": p, "reason": r} for p, r in fields or []], **more}, status_code=status
        )

    @app.exception_handler(Refused)
    async def refused(_: Request, error: Refused) -> Response:
        return answer(422, "; ".join(reason for _, reason in error.faults[:3]), error.faults)

    @app.exception_handler(RequestValidationError)
    async def malformed(_: Request, error: RequestValidationError) -> Response:
        fields = [(".".join(map(str, f["loc"][1:])) or "body", f["msg"]) for f in error.errors()]
        return answer(422, f"{fields[0][0]}: {fields[0][1]}", fields)

    @app.exception_handler(Conflict)
    async def conflict(_: Request, error: Conflict) -> Response:
        return answer(409, str(error), current=error.current)

    @app.exception_handler(StoreError)
    async def unusable(_: Request, error: StoreError) -> Response:
        return answer(503, str(error))

    async def missing(request: Request, error: Exception) -> Response:
        words = str(error.detail) if isinstance(error, HTTPException) else str(error)
        status = error.status_code if isinstance(error, HTTPException) else 404
        if request.url.path.startswith("/api/"):
            return answer(status, words)
        return templates.TemplateResponse(request, "missing.html", {"words": words}, status_code=status)

    app.add_exception_handler(Missing, missing)
    app.add_exception_handler(HTTPException, missing)

    # pages

    @app.get("/", response_class=HTMLResponse, include_in_schema=False)
    def shelf_page(request: Request) -> Response:
        rows = store.shelf()
        for _, r, _ in rows:
            if r.id not in sketches:
                sketches[r.id or 0] = picture.sketch(read(r.document))
        while len(sketches) > 200:
            sketches.pop(next(iter(sketches)))
        return templates.TemplateResponse(request, "shelf.html", {"rows": rows, "sketches": sketches})

    @app.get("/mechanisms/{mechanism}", response_class=HTMLResponse, include_in_schema=False)
    def workspace_page(request: Request, mechanism: str) -> Response:
        current = store.current(mechanism)
        return templates.TemplateResponse(
            request, "workspace.html", {"mechanism": mechanism, "name": current.document.name}
        )

    @app.get("/mechanisms/{mechanism}/catalogue", response_class=HTMLResponse, include_in_schema=False)
    def catalogue_page(request: Request, mechanism: str) -> Response:
        current = store.current(mechanism)
        materials = {i: m.name for i, m in current.document.materials.items()}
        return templates.TemplateResponse(
            request, "catalogue.html", {"mechanism": mechanism, "name": current.document.name, "materials": materials}
        )

    @app.get("/help", response_class=HTMLResponse, include_in_schema=False)
    def help_page(request: Request) -> Response:
        return templates.TemplateResponse(request, "help.html", {})

    @app.get("/api", response_class=HTMLResponse, include_in_schema=False)
    def api_page(request: Request) -> Response:
        return templates.TemplateResponse(request, "api.html", {"api": app.openapi()})

    @app.get("/favicon.ico", include_in_schema=False)
    def icon() -> Response:
        return RedirectResponse("/static/icon.svg")

    # mechanisms

    def state(current: Current) -> dict[str, Any]:
        return {
            "id": current.mechanism,
            "revision": current.revision,
            "words": current.words,
            "undo": current.undo,
            "redo": current.redo,
            "name": current.document.name,
        }

    @app.get("/api/mechanisms", tags=["mechanisms"], summary="The shelf")
    def mechanisms() -> list[dict[str, Any]]:
        return [
            {"id": m.id, "name": m.name, "revision": r.number, "changed": r.time.isoformat()}
            for m, r, _ in store.shelf()
        ]

    @app.post("/api/mechanisms", status_code=201, tags=["mechanisms"], summary="Puts a mechanism on the shelf")
    def create(asked: NewMechanism) -> dict[str, Any]:
        if not asked.name.strip():
            raise Refused(("name", "give the mechanism a name"))
        document = read(json.dumps(asked.document)) if asked.document is not None else Document(name=asked.name)
        return state(store.current(store.create(document)))

    @app.get("/api/mechanisms/{mechanism}", tags=["mechanisms"], summary="The revision in force")
    def current(mechanism: str) -> dict[str, Any]:
        return state(store.current(mechanism))

    @app.delete(
        "/api/mechanisms/{mechanism}",
        status_code=204,
        tags=["mechanisms"],
        summary="Takes a mechanism off the shelf, with all revisions",
    )
    def remove(mechanism: str) -> Response:
        store.remove(mechanism)
        return Response(status_code=204)

    @app.get("/api/mechanisms/{mechanism}/document", tags=["mechanisms"], summary="The document as a file")
    def document(mechanism: str) -> Response:
        return Response(
            write(store.current(mechanism).document),
            media_type="application/json",
            headers={"content-disposition": f'attachment; filename="{mechanism}.json"'},
        )

    # revisions

    @app.post("/api/mechanisms/{mechanism}/commands", tags=["revisions"], summary="One change, as a new revision")
    def change(mechanism: str, asked: Change) -> dict[str, Any]:
        command = parse(asked.command)
        before = store.current(mechanism)
        if before.revision == asked.revision and asked.command.get("kind") in ("add_joint", "add_relation", "add_pair"):
            command = join.joined(before.document, command)
        after = accept(before.document, command) if before.revision == asked.revision else before.document
        return state(store.change(mechanism, asked.revision, after, command))

    @app.post("/api/mechanisms/{mechanism}/undo", tags=["revisions"], summary="Back to the revision before")
    def undo(mechanism: str, asked: Base) -> dict[str, Any]:
        return state(store.undo(mechanism, asked.revision))

    @app.post("/api/mechanisms/{mechanism}/redo", tags=["revisions"], summary="Forward again")
    def redo(mechanism: str, asked: Base) -> dict[str, Any]:
        return state(store.redo(mechanism, asked.revision))

    @app.get("/api/mechanisms/{mechanism}/revisions", tags=["revisions"], summary="All revisions, newest first")
    def revisions(mechanism: str) -> list[dict[str, Any]]:
        return [
            {"number": r.number, "words": r.words, "time": r.time.isoformat()} for r in store.revisions(mechanism)[:300]
        ]

    # results

    def job_of(mechanism: str, revision: int) -> Job:
        return work.job(mechanism, revision, lambda: store.document(mechanism, revision))

    def result_of(mechanism: str, revision: int) -> Any:
        job = job_of(mechanism, revision)
        if not job.done.wait(120) or job.result is None:
            raise Missing(job.failed or "This revision is not evaluated.")
        return job.result

    @app.get(
        "/api/mechanisms/{mechanism}/revisions/{revision}/view",
        tags=["results"],
        summary="Verdicts and all that the workspace shows; 202 with progress while it is computed",
        responses={202: {"description": "still computing"}},
    )
    def view(mechanism: str, revision: int) -> Response:
        job = job_of(mechanism, revision)
        if not job.done.wait(0.3):
            return JSONResponse({"words": job.words, "fraction": job.fraction}, status_code=202)
        if job.result is None:
            return answer(409 if job.failed is None else 422, job.failed or "The evaluation was stopped.")
        return JSONResponse(picture.view(job.result))

    @app.delete(
        "/api/mechanisms/{mechanism}/revisions/{revision}/view",
        status_code=204,
        tags=["results"],
        summary="Stops a running evaluation",
    )
    def stop(mechanism: str, revision: int) -> Response:
        work.cancel(mechanism, revision)
        return Response(status_code=204)

    @app.get(
        "/api/mechanisms/{mechanism}/revisions/{revision}/values",
        tags=["results"],
        summary="Every number by the path it belongs to, in SI units: derived sizes, pairs, masses, coordinates, verdicts",
    )
    def every_value(mechanism: str, revision: int) -> dict[str, dict[str, Any]]:
        known = values(result_of(mechanism, revision))
        return {path: {v.name: v.data() for v in found} for path, found in known.items()}

    @app.get(
        "/api/mechanisms/{mechanism}/revisions/{revision}/places/{name}",
        tags=["results"],
        summary="Where a part, or a datum of it (part.datum), is at every frame",
    )
    def place(mechanism: str, revision: int, name: str) -> dict[str, Any]:
        found = where(result_of(mechanism, revision), name)
        return {"time": {"unit": "s", "values": found.times.tolist()}} | found.data()

    @app.get(
        "/api/mechanisms/{mechanism}/revisions/{revision}/poses",
        tags=["results"],
        summary="Poses of one cycle as one binary block",
    )
    def pose_block(mechanism: str, revision: int) -> Response:
        return Response(picture.pose_block(result_of(mechanism, revision)), media_type="application/octet-stream")

    @app.get(
        "/api/mechanisms/{mechanism}/revisions/{revision}/lanes",
        tags=["results"],
        summary="Lanes of the timing chart, with the distances over the cycle of what was asked",
    )
    def lanes(mechanism: str, revision: int) -> list[dict[str, Any]]:
        e = result_of(mechanism, revision)
        return picture.lanes(e, {i: evaluator.curve(e, i) for i in e.verdicts})

    @app.get(
        "/api/mechanisms/{mechanism}/revisions/{revision}/solids/{placed}/{body}",
        tags=["results"],
        summary="Triangles and edges of a body, binary",
    )
    def solid(mechanism: str, revision: int, placed: str, body: str) -> Response:
        e = result_of(mechanism, revision)
        if placed not in e.solids or body not in e.solids[placed].bodies:
            raise Missing("There is no such body.")
        block = picture.mesh_block(e.solids[placed].bodies[body], e.mechanism.datums[placed])
        return Response(
            block, media_type="application/octet-stream", headers={"cache-control": "private, max-age=3600"}
        )

    @app.post("/api/mechanisms/{mechanism}/candidates", tags=["joining"], summary="What may join two datums")
    def candidates(mechanism: str, asked: TwoDatums) -> list[join.Offer]:
        return join.candidates(store.current(mechanism).document, asked.a, asked.b)

    @app.post(
        "/api/mechanisms/{mechanism}/try", tags=["joining"], summary="Where every part would go, without doing it"
    )
    def try_out(mechanism: str, asked: Change) -> dict[str, Any]:
        return join.tried(store.current(mechanism).document, parse(asked.command))

    @app.post(
        "/api/mechanisms/{mechanism}/seat", tags=["joining"], summary="The offset of a joint at which a gap is as asked"
    )
    def seat(mechanism: str, asked: SeatAsked) -> dict[str, Any]:
        return seated(store.current(mechanism).document, evaluator, asked.joint, asked.against, asked.gap)

    @app.post("/api/mechanisms/{mechanism}/measure", tags=["joining"], summary="Distance and angle of two datums")
    def measure(mechanism: str, asked: TwoDatums) -> list[dict[str, Any]]:
        return picture.measured(store.current(mechanism).document, asked.a, asked.b)

    @app.post(
        "/api/mechanisms/{mechanism}/other-mode", tags=["joining"], summary="Assembles the mechanism the other way"
    )
    def other_mode(mechanism: str, asked: Base) -> dict[str, Any]:
        before = store.current(mechanism)
        command = join.other_mode(before.document)
        return state(store.change(mechanism, asked.revision, accept(before.document, command), command))

    # by hand

    @app.get(
        "/api/mechanisms/{mechanism}/revisions/{revision}/freedoms/{number}",
        tags=["by hand"],
        summary="Poses of one freedom, played forth, back and home, as a binary block",
    )
    def freedom(mechanism: str, revision: int, number: int) -> Response:
        return Response(
            picture.block_of(swing(result_of(mechanism, revision), number)), media_type="application/octet-stream"
        )

    @app.websocket("/api/mechanisms/{mechanism}/revisions/{revision}/hold")
    async def hold(socket: WebSocket, mechanism: str, revision: int) -> None:
        await hold_over(socket, lambda: result_of(mechanism, revision), evaluator)

    # elements

    @app.get("/api/elements", tags=["elements"], summary="The catalogue")
    def elements() -> list[dict[str, Any]]:
        return picture.catalogue()

    @app.post(
        "/api/elements/preview",
        tags=["elements"],
        summary="Derived values and a key to the solid of an element not yet added",
    )
    def preview(asked: ElementAsked) -> dict[str, Any]:
        document = store.current(asked.mechanism).document if asked.mechanism else Document(name="preview")
        made, told = picture.preview(document, asked.element, evaluator.workshop.build)
        previews[told["solid"]] = (made, told)
        while len(previews) > 40:
            previews.pop(next(iter(previews)))
        return told

    @app.get(
        "/api/elements/solids/{key}/{body}",
        tags=["elements"],
        summary="Triangles and edges of a previewed body, binary",
    )
    def preview_solid(key: str, body: str) -> Response:
        if key not in previews or body not in previews[key][0].bodies:
            raise Missing("There is no such preview any more.")
        return Response(picture.mesh_block(previews[key][0].bodies[body], {}), media_type="application/octet-stream")

    @app.get("/api/schema", tags=["document"], summary="JSON Schema of the document")
    def document_schema() -> dict[str, Any]:
        return schema()

    return app
