"""The view: everything the workspace shows of one revision, but poses and meshes."""

from __future__ import annotations

import numpy as np
from typing_extensions import TypedDict

from uhrwerk.core.curves import NotMeasured
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.document import Document, formulas
from uhrwerk.core.document.driver import Driver
from uhrwerk.core.evaluation.values import ratio
from uhrwerk.core.joints import JOINTS
from uhrwerk.core.quantity import display
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.verdict import Verdict
from uhrwerk.core.views.cards import Card, cards
from uhrwerk.core.views.lanes import Lane, lanes
from uhrwerk.core.views.scene import (
    BeltShown,
    LoadShown,
    PartShown,
    SpringShown,
    belts_shown,
    loads_shown,
    scene,
    springs_shown,
)
from uhrwerk.core.views.scheme import Scheme, scheme

#: an error that its four digits would show as nothing, m
UNSEEN = 5e-8


class Tile(TypedDict):
    """A verdict as its tile shows it: SI values with their unit, and the same in words. `fill` and `mark` are value and
    limit as parts of the tile's bar."""

    requirement: str
    name: str
    kind: str
    holds: bool | None
    words: str
    value: float | None
    limit: float | None
    sense: str | None
    margin: float | None
    error: float
    unit: str | None
    time: float | None
    parts: list[str]
    points: list[list[float]]
    basis: str
    valueText: str
    limitText: str
    shownUnit: str
    fill: float
    mark: float
    errorText: str
    bodies: list[str]


class ListedItem(TypedDict):
    id: str
    name: str


class ListedJoint(TypedDict):
    """A joint or relation and the placed parts that it holds."""

    id: str
    name: str
    kind: str
    a: str
    b: str


class Transmits(TypedDict):
    id: str
    name: str
    kind: str
    ratio: str


class ListedKind(TypedDict):
    id: str
    name: str
    kind: str


class Driveable(TypedDict):
    """A joint that may be driven: the `driver` that would run it, and how `far` a programme would go."""

    id: str
    name: str
    turning: bool
    sliding: bool
    driver: dict[str, str] | None
    far: str


class DriverShown(TypedDict):
    """A driver; `note` is its law in short."""

    id: str
    name: str
    joint: str
    kind: str
    note: str


class CurveNamed(TypedDict):
    """A curve; `note` is its range in words, or why it has none."""

    id: str
    name: str
    note: str


class Mass(TypedDict):
    id: str
    name: str
    mass: str
    centre: list[str]


class ListedProblem(TypedDict):
    path: str
    words: str


class MobilityShown(TypedDict):
    count: int
    redundant: int
    undriven: int
    loose: list[str]
    freedoms: list[str]


class ParameterShown(TypedDict):
    """`stale`: it was measured, and is not what it was any more."""

    name: str
    formula: str
    stale: bool


class GroupShown(TypedDict):
    id: str
    name: str
    placed: list[str]


class UnitsShown(TypedDict):
    length: str
    mass: str


class View(TypedDict):
    """Everything the workspace shows of one revision, but poses and meshes."""

    name: str
    note: str
    units: UnitsShown
    frame: str | None
    duration: float
    reached: float
    frames: int
    moving: bool
    residual: float | None
    seconds: float
    proved: bool
    problems: list[ListedProblem]
    conflict: list[str]
    mobility: MobilityShown | None
    verdicts: list[Tile]
    placed: list[PartShown]
    springs: list[SpringShown]
    loads: list[LoadShown]
    belts: list[BeltShown]
    scheme: Scheme
    lanes: list[Lane]
    cards: dict[str, Card]
    masses: list[Mass]
    joints: list[ListedJoint]
    relations: list[ListedJoint]
    pairs: list[Transmits]
    repeats: list[ListedKind]
    driveable: list[Driveable]
    remarks: list[ListedProblem]
    drivers: list[DriverShown]
    curves: list[CurveNamed]
    requirements: list[ListedItem]
    parameters: list[ParameterShown]
    materials: list[ListedItem]
    parts: list[ListedItem]
    groups: list[GroupShown]


def reach(v: Verdict) -> float:
    """The value at which the bar of a verdict's tile ends."""
    return max(abs(v.value or 0.0), abs(v.limit or 0.0)) * 1.25 or 1.0


def tile(document: Document, v: Verdict) -> Tile:
    """A verdict as its tile shows it."""
    dimension = v.dimension or "number"
    top = reach(v)
    value = "" if v.value is None else v.short or document.display(v.value, dimension)
    sign, counted = {">=": "≥", "<=": "≤"}.get(v.sense, ""), v.dimension == "number" and v.limit == 0
    limit = f"{sign} {document.limit(v.limit, dimension)}" if sign and v.limit is not None and not counted else ""
    fill = 0.0 if v.value is None else float(v.value == 0) if counted else min(1.0, abs(v.value) / top)
    data: Tile = v.data()  # type: ignore[assignment]
    data |= {
        "valueText": value, "limitText": limit, "shownUnit": document.unit_of(dimension), "fill": fill,
        "mark": 0.0 if v.limit is None or counted else min(1.0, abs(v.limit) / top),
        "errorText": document.display(v.error, "length", 4) if v.dimension == "length" and v.error > UNSEEN else "",
        "bodies": list(v.parts), "parts": [p.split("/")[0] for p in v.parts],
    }  # type: ignore[typeddict-item]  # fmt: skip
    return data


def view(e: Evaluation) -> View:
    """Everything the workspace needs of one revision, but poses and meshes."""
    document = e.document
    duration = e.motion.duration if e.motion is not None else 0.0
    verdicts = sorted(
        (tile(document, v) for v in e.verdicts.values()), key=lambda v: {False: 0, None: 1, True: 2}[v["holds"]]
    )
    mob, shown = e.mobility, cards(e)
    masses: list[Mass] = [
        {"id": i, "name": {"whole": "The whole", "moving": "What moves"}.get(i) or document.groups[i].name, "mass": document.display(x.mass, "mass"),
         "centre": [display(float(c), "length", document.units.length) for c in x.centre]}
        for i, x in e.masses.items()
    ]  # fmt: skip
    return {
        "name": document.name, "note": document.note, "units": {"length": document.units.length, "mass": document.units.mass}, "frame": document.frame,
        "duration": duration, "reached": 1.0 if e.motion is None or not duration else duration / document.scope().value(document.cycle.duration, "time"), "frames": len(e.motion.times) - 1 if e.motion is not None else 0, "moving": bool(e.motion and e.motion.moving),
        "residual": e.motion.residual if e.motion else None, "seconds": e.seconds, "proved": e.proved,
        "problems": [{"path": p.path, "words": p.words} for p in e.problems], "conflict": e.conflict,
        "mobility": None if mob is None else {
            "count": mob.count, "redundant": mob.redundant, "undriven": mob.undriven, "loose": mob.loose, "freedoms": [f.words for f in mob.freedoms],
        },
        "verdicts": verdicts, "placed": scene(e), "springs": springs_shown(e) if e.mechanism else [], "loads": loads_shown(e) if e.mechanism else [], "belts": belts_shown(e) if e.mechanism else [], "scheme": scheme(e), "lanes": lanes(e), "cards": shown, "masses": masses,
        "joints": [{"id": i, "name": j.name, "kind": j.kind, "a": j.a.placed, "b": j.b.placed} for i, j in document.joints.items()],
        "relations": [{"id": i, "name": j.name, "kind": j.kind, "a": j.a.placed, "b": j.b.placed} for i, j in document.relations.items()],
        "pairs": [{"id": i, "name": p.name, "kind": p.kind, "ratio": ratio(document, p)} for i, p in document.pairs.items()],
        "repeats": [{"id": i, "name": r.name, "kind": r.kind} for i, r in e.stated.repeats.items()],
        "driveable": _driveable(e),
        "remarks": [{"path": p.path, "words": p.words} for p in e.mechanism.remarks] if e.mechanism else [],
        "drivers": [{"id": i, "name": d.name, "joint": d.joint, "kind": d.kind, "note": _short(d)} for i, d in document.drivers.items()],
        "curves": [{"id": i, "name": c.name, "note": _range(e, i)} for i, c in document.curves.items()],
        "requirements": [{"id": i, "name": r.name} for i, r in document.requirements.items()],
        "parameters": [
            {"name": k, "formula": p.formula, "stale": "stale" in shown[f"parameters.{k}"]} for k, p in document.parameters.items()
        ],
        "materials": [{"id": i, "name": m.name} for i, m in document.materials.items()],
        "parts": [{"id": i, "name": p.name} for i, p in document.parts.items()],
        "groups": [{"id": i, "name": g.name, "placed": g.placed} for i, g in document.groups.items()],
    }  # fmt: skip


def _range(e: Evaluation, i: str) -> str:
    """Between which values a curve runs."""
    if not e.proved:  # not at a glance
        return ""
    curve = evaluated_curve(e, i)
    if isinstance(curve, NotMeasured):
        return "no value"
    try:
        x = curve.extremes("value")
    except NotMeasured:
        return "no value"
    if np.isinf(x.low) or np.isinf(x.high):
        return "no bound"
    return f"{e.document.display(x.low, curve.dimension).split()[0]} … {e.document.display(x.high, curve.dimension)}"


def _short(driver: Driver) -> str:
    """The first number of a driver's law, as it is stated."""
    return next((text for _, text, _ in formulas(driver)), driver.title)


def _driveable(e: Evaluation) -> list[Driveable]:
    """Joints that may be driven, those that turn on the frame first; each with the driver that would run it through its
    limits, or one turn a second, unless it is driven already."""
    document, out = e.document, list[Driveable]()
    driven = {d.joint for d in document.drivers.values()}
    joints = [h for h in e.mechanism.joints.values() if h.kind in JOINTS and JOINTS[h.kind].driveable()]
    for h in sorted(joints, key=lambda h: h.on != document.frame):
        turning, sliding = ("turn" in h.coordinates), ("slide" in h.coordinates)
        limits = {n: (a, b) for n, a, b in h.limits}
        stands = e.coordinates.get(h.id)
        here = 0.0 if stands is None else float(stands.value[0])
        driver = None if h.id in driven else _driver(document, h.id, turning, limits, here)
        far = "" if driver is None else driver.pop("far")
        out.append({"id": h.id, "name": h.name, "turning": turning, "sliding": sliding, "driver": driver, "far": far})
    return out


def _driver(
    document: Document, joint: str, turning: bool, limits: dict[str, tuple[float, float]], here: float
) -> dict[str, str]:
    """A driver at constant speed, from where the joint stands: to the farther of its limits (`far`) in one cycle, or at a turn a
    second; `far` is where a programme goes from there."""
    low, high = limits.get("turn" if turning else "slide", (-np.inf, np.inf))
    duration = document.scope().value(document.cycle.duration, "time")
    data = {
        "kind": "turning" if turning else "sliding",
        "name": "Motor",
        "joint": joint,
        "speed": "60 rpm" if turning else "10 mm/s",
    }
    per, unit = (180 / np.pi, "deg") if turning else (1e3, "mm")
    data["start"] = f"{round(here * per, 6) + 0.0:.9g} {unit}"
    far = here + (np.pi / 6 if turning else 0.02)  # as far as a programme's own segments go
    if np.isfinite(low) and np.isfinite(high):
        way = max(high - here, low - here, key=abs)
        data["speed"] = f"{round(way / duration * per, 6):.9g} {unit}/s"
        far = here + way
    data["far"] = f"{round(far * per, 6) + 0.0:.9g} {unit}"
    return data
