"""Results of a revision: verdicts, values, poses, solids."""

from __future__ import annotations

import hashlib
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Query, Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel

from uhrwerk.core import views
from uhrwerk.core.document import ValidationFailed
from uhrwerk.core.evaluation.values import values, where
from uhrwerk.core.exchange.cutter import as_dxf, as_table, cutter_path
from uhrwerk.store import Missing
from uhrwerk.web.errors import Error, answer
from uhrwerk.web.services import PathNumber, ServicesOfCall, evaluated

router = APIRouter(prefix="/api/mechanisms/{mechanism}/revisions/{revision}", tags=["results"])
#: calls that wait for the evaluation
waiting = APIRouter(dependencies=[Depends(evaluated)])
BLOCK = {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}


class Progress(BaseModel):
    words: str
    fraction: float


class KnownValue(BaseModel):
    """A value with its unit (SI), or words."""

    unit: str
    value: Any


class FrameValues(BaseModel):
    """Numbers at every frame, with their unit."""

    unit: str
    values: Any


@router.get(
    "/view",
    summary="Verdicts and everything that the workspace shows; 202 with progress while it is computed",
    response_model=views.View,
    responses={
        202: {"description": "still computing", "model": Progress},
        409: {"model": Error},
        422: {"model": Error},
    },
)
def view(services: ServicesOfCall, mechanism: str, revision: PathNumber) -> Response:
    job = services.job(mechanism, revision)
    if not job.done.wait(0.3):
        return JSONResponse({"words": job.words, "fraction": job.fraction}, status_code=202)
    if job.result is None:
        return answer(409 if job.failed is None else 422, job.failed or "The evaluation was stopped.")
    return JSONResponse(views.view(job.result))


@router.delete("/view", status_code=204, summary="Stops a running evaluation")
def stop(services: ServicesOfCall, mechanism: str, revision: PathNumber) -> Response:
    services.evaluation_jobs.cancel(mechanism, revision)
    return Response(status_code=204)


@waiting.get(
    "/values",
    summary="Every number by the path it belongs to, in SI units: derived sizes, pairs, masses, coordinates, verdicts",
    response_model=dict[str, dict[str, KnownValue]],
)
def every_value(services: ServicesOfCall, mechanism: str, revision: PathNumber) -> Response:
    known = values(services.result(mechanism, revision))
    return JSONResponse({path: {v.name: v.data() for v in own} for path, own in known.items()})


@waiting.get(
    "/places/{name}",
    summary="Where a part, or a datum of it (part.datum), is at every frame",
    response_model=dict[str, FrameValues],
)
def place(services: ServicesOfCall, mechanism: str, revision: PathNumber, name: str) -> Response:
    trajectory = where(services.result(mechanism, revision), name)
    return JSONResponse({"time": {"unit": "s", "values": trajectory.times.tolist()}} | trajectory.data())


@waiting.get("/poses", summary="Poses of one cycle as one binary block", responses={200: {"content": BLOCK}})
def pose_block(services: ServicesOfCall, mechanism: str, revision: PathNumber) -> Response:
    return Response(views.pose_block(services.result(mechanism, revision)), media_type="application/octet-stream")


@waiting.get(
    "/lanes",
    summary="Lanes of the timing chart, with the distances over the cycle of clearance requirements",
    response_model=list[views.Lane],
)
def lanes(services: ServicesOfCall, mechanism: str, revision: PathNumber) -> Response:
    e = services.result(mechanism, revision)
    return JSONResponse(views.lanes(e, views.distances(e)))


@waiting.get(
    "/curves",
    summary="Curves over the cycle: values, rates, accelerations and jerks in shown units, extremes, paths of points",
    response_model=list[views.CurveShown],
)
def curves(services: ServicesOfCall, mechanism: str, revision: PathNumber) -> Response:
    """The motion alone is computed for it where the revision is not evaluated."""
    return JSONResponse(views.curves(services.moved(mechanism, revision)))


@waiting.get(
    "/balance",
    summary="Rotors with their unbalance and what would balance them; the force on the frame, and counterweights that reduce it",
    response_model=views.Balance,
)
def balance(services: ServicesOfCall, mechanism: str, revision: PathNumber) -> Response:
    return JSONResponse(views.balance(services.result(mechanism, revision)))


@waiting.get(
    "/masses",
    summary="Mass, centre, inertia and principal axes of chosen parts in any frame at a moment, and over the cycle",
    response_model=views.MassesShown,
)
def masses(
    services: ServicesOfCall,
    mechanism: str,
    revision: PathNumber,
    parts: str = "",
    frame: str = "",
    time: Annotated[float, Query(ge=0, le=1e7)] = 0.0,
) -> Response:
    """`parts` are ids of placed parts with commas between; `frame` is one, or a datum of one (part.datum)."""
    chosen = [p for p in parts.split(",") if p]
    return JSONResponse(views.masses(services.result(mechanism, revision), chosen, frame, time))


@waiting.get(
    "/balance/{joint}/corrections",
    summary="Holes or studs that balance a rotor, as build steps, each proved",
    response_model=views.Corrected,
)
def corrections(
    services: ServicesOfCall,
    mechanism: str,
    revision: PathNumber,
    joint: str,
    form: Literal["drilled", "added"] = "drilled",
    at: Annotated[int, Query(ge=0, le=50)] = 0,
) -> Response:
    """One way after the other, by its count."""
    return JSONResponse(
        views.corrected(services.result(mechanism, revision), joint, form, at, services.evaluator.evaluate)
    )


@waiting.get(
    "/curves.csv",
    summary="The same as comma-separated values",
    responses={200: {"content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def curve_table(services: ServicesOfCall, mechanism: str, revision: PathNumber, of: str = "") -> Response:
    e = services.moved(mechanism, revision)
    chosen = [i for i in of.split(",") if i]
    if any(i not in e.document.curves for i in chosen):
        raise Missing("There is no such curve.")
    head = {"content-disposition": f'attachment; filename="{mechanism}-curves.csv"'}
    return Response(views.table(e, chosen), media_type="text/csv; charset=utf-8", headers=head)


@waiting.get(
    "/cutter/{name}",
    summary="The path of a cutter's centre round a cam, as DXF or CSV; the name is the part, the suffix the format",
    responses={200: {"content": BLOCK}, 422: {"model": Error}},
)
def cutter(
    services: ServicesOfCall, mechanism: str, revision: PathNumber, name: str, diameter: str = "10 mm"
) -> Response:
    placed, _, suffix = name.rpartition(".")
    if suffix not in ("dxf", "csv"):
        raise ValidationFailed(("name", "the path of a cutter is written as .dxf or .csv"))
    way = cutter_path(services.store.document(mechanism, revision), placed, diameter)
    head = {"content-disposition": f'attachment; filename="{placed}-cutter.{suffix}"'}
    if suffix == "csv":
        return Response(as_table(way), media_type="text/csv; charset=utf-8", headers=head)
    return Response(as_dxf(way), media_type="image/vnd.dxf", headers=head)


@waiting.get(
    "/drawings/{placed}",
    summary="The line drawing of a part with its dimensions, by the paths of their fields",
    response_model=list[views.ViewDrawn],
)
def drawing(services: ServicesOfCall, mechanism: str, revision: PathNumber, placed: str) -> Response:
    e = services.result(mechanism, revision)
    if placed not in e.document.placed:
        raise Missing("There is no such part.")
    return JSONResponse(views.part_drawing(e, placed))


@waiting.get(
    "/shared/{requirement}",
    summary="What the two bodies that decided a requirement share at its worst moment, as triangles and edges, binary",
    responses={200: {"content": BLOCK}},
)
def shared(services: ServicesOfCall, mechanism: str, revision: PathNumber, requirement: str) -> Response:
    e = services.result(mechanism, revision)
    if requirement not in e.verdicts:
        raise Missing("There is no such requirement.")
    block = views.shared_block(*services.evaluator.shared(e, requirement))
    return Response(block, media_type="application/octet-stream")


@waiting.get(
    "/solids/{placed}/{body}", summary="Triangles and edges of a body, binary", responses={200: {"content": BLOCK}}
)
def solid(
    services: ServicesOfCall,
    request: Request,
    mechanism: str,
    revision: PathNumber,
    placed: str,
    body: str,
    rough: bool = False,
) -> Response:
    """With `rough`, in fewer triangles, without faces. What a browser keeps of it is known by what is in it."""
    e = services.result(mechanism, revision)
    if placed not in e.solids or body not in e.solids[placed].bodies:
        raise Missing("There is no such body.")
    one = e.solids[placed].bodies[body]
    block = views.rough_block(one) if rough else views.mesh_block(one, e.mechanism.datums[placed])
    headers = {"cache-control": "private, no-cache", "etag": f'"{hashlib.sha256(block).hexdigest()[:32]}"'}
    if request.headers.get("if-none-match") == headers["etag"]:
        return Response(status_code=304, headers=headers)
    return Response(block, media_type="application/octet-stream", headers=headers)


router.include_router(waiting)
