"""Lanes of the timing chart."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import NotRequired

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from uhrwerk.core.field import numbers
from uhrwerk.core.laws import LAWS
from uhrwerk.core.laws.segment import seconds
from uhrwerk.core.motion.coordinate import Coordinate
from uhrwerk.core.quantity import in_unit
from uhrwerk.core.quantity.formula import is_number
from uhrwerk.core.requirements.wanted_motion import WantedMotion
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

Array = NDArray[np.float64]

#: points of a lane's curve at most
LANE_POINTS = 181
#: outputs that are shown at most
OUTPUTS = 2


def coordinate_name(e: Evaluation, key: str) -> str:
    """The name of a joint, with that of the coordinate where it is not the leading one."""
    c = e.coordinates[key]
    name = e.mechanism.joints[c.joint].name
    return name if key == c.joint else f"{name}, {c.name.replace('_', ' ')}"


class SegmentShown(TypedDict):
    """A segment of a programme: where it begins and ends, degrees of the cycle after the programme's beginning; its values at
    both ends, in the lane's unit. `loose`: which of its end's moment (over) and value (to) are plain numbers, to be drawn."""

    id: str
    path: str
    begin: float
    end: float
    start: float
    to: float
    law: str
    loose: list[str]


class Lane(TypedDict):
    """A lane: an input, an output, or a requirement with its limit; points are (s, value in `unit`). A programme has its
    segments, and where it begins in the cycle, degrees; `steady` is an input at constant speed. A wanted motion (kind wanted) has
    the `band` in which its joint has to be: from and until (s), lowest and highest value."""

    kind: str
    id: str
    name: str
    points: list[list[float]]
    unit: str
    path: NotRequired[str]
    joint: NotRequired[str]
    rates: NotRequired[list[float]]
    rateUnit: NotRequired[str]
    accelerations: NotRequired[list[float]]
    accelerationUnit: NotRequired[str]
    ratio: NotRequired[str]
    holds: NotRequired[bool | None]
    time: NotRequired[float | None]
    limit: NotRequired[float]
    segments: NotRequired[list[SegmentShown]]
    begins: NotRequired[float]
    steady: NotRequired[bool]
    band: NotRequired[list[float]]


def _driven_ends(e: Evaluation) -> set[str]:
    """Joints at the frame of links that a pair drives and that drive none: the ends of a train."""
    m, document = e.mechanism, e.document
    ends = [[m.link_of.get(at.placed) for at in p.at] for p in document.pairs.values()]
    last = {b for _, b in ends} - {a for a, _ in ends} - {None, 0}
    return {h.id for h in m.joints.values() if m.link_of.get(h.part) in last and m.link_of.get(h.on) == 0}


def _segments(e: Evaluation, i: str, unit: str, dimension: str) -> tuple[list[SegmentShown], float]:
    """The segments of a driver's programme, and where it begins, degrees; none where it is no programme."""
    driver, scope = e.document.drivers[i], e.document.scope()
    stated = getattr(driver, "segments", {})
    if not stated:
        return [], 0.0
    n, cycle = numbers(driver, scope), scope.value(e.document.cycle.duration, "time")
    out: list[SegmentShown] = []
    begin, start = 0.0, n.start
    for k, s in n.segments.items():
        end = begin + math.degrees(seconds(s.over, cycle) / cycle * 2 * math.pi)
        loose = [field for field in ("over", "to") if is_number(getattr(stated[k], field))]
        out.append({
            "id": k, "path": f"drivers.{i}.segments.{k}", "begin": begin, "end": end, "start": in_unit(start, dimension, unit),
            "to": in_unit(s.to, dimension, unit), "law": LAWS[s.law.kind].title, "loose": loose,
        })  # fmt: skip
        begin, start = end, s.to
    return out, math.degrees(seconds(n.begins, cycle) / cycle * 2 * math.pi)


def _course(e: Evaluation, i: str, requirement: Requirement) -> Lane | None:
    """The lane of a requirement that is measured over the cycle: its course, and within what it has to stay."""
    v = e.verdicts[i]
    course = requirement.course(e) if v.value is not None else None
    if course is None:
        return None
    times, measured, low, high = course
    unit = e.document.unit_of(v.dimension)
    pick = np.unique(np.linspace(0, len(times) - 1, LANE_POINTS).astype(int))
    shown = [in_unit(float(x), v.dimension, unit) for x in (low, high)]
    return {
        "kind": "wanted", "id": i, "name": v.name, "path": f"requirements.{i}", "holds": v.holds, "time": v.time, "unit": unit,
        "points": [[float(t), in_unit(float(x), v.dimension, unit)] for t, x in zip(times[pick], measured[pick], strict=True)],
        "band": [0.0, float(times[-1]), *shown],
    }  # fmt: skip


def _wanted(e: Evaluation, i: str, requirement: WantedMotion, times: Array, pick: NDArray[np.int64]) -> Lane:
    """The lane of a wanted motion: its joint's coordinate, and where that has to be."""
    w, v = requirement.wanted(e.document), e.verdicts[i]
    c = e.coordinate(requirement.joint, w.turning)
    dimension = "angle" if w.turning else "length"
    unit = e.document.unit_of(dimension)
    low, high = (in_unit(w.value + side * w.within, dimension, unit) for side in (-1, 1))
    values = np.zeros(0) if c is None else c.value[pick]
    return {
        "kind": "wanted", "id": i, "name": v.name, "path": f"requirements.{i}", "holds": v.holds, "time": v.time, "unit": unit,
        "points": [[float(t), in_unit(float(x), dimension, unit)] for t, x in zip(times, values, strict=False)],
        "band": [w.begin, w.end, low, high],
    }  # fmt: skip


def _ratio(e: Evaluation, c: Coordinate) -> str:
    """Turns of the first input for one of a coordinate, over the whole motion, with sign; empty where either does not turn."""
    first = next((x for d in e.document.drivers.values() for x in e.coordinates.values() if x.joint == d.joint), None)
    if first is None or not first.turning or not c.turning:
        return ""
    one, other = (float(x.value[-1] - x.value[0]) for x in (first, c))
    return f"{one / other:.4g} : 1".replace("-", "−") if abs(other) > 1e-9 and abs(one) > 1e-9 else ""


def distances(e: Evaluation) -> dict[str, Array]:
    """By requirement (n, 2): s, and the distance over the cycle of the pair that decided it, m; (0, 2) where none did."""

    def one(v: Verdict) -> Array:
        if e.pairs is None or not v.drawn or not e.moved.motion.moving or v.time is None:
            return np.zeros((0, 2))
        return e.pairs.curve(v.parts, v.time)

    return {i: one(v) for i, v in e.verdicts.items()}


def lanes(e: Evaluation, curves: Mapping[str, NDArray[np.float64]] | None = None) -> list[Lane]:
    """Lanes of the timing chart: inputs, outputs that swing, and requirements that depend on the moment. The points of the
    latter are in `curves`, by requirement; without, their lanes are there and empty."""
    document = e.document
    if e.motion is None or not e.motion.moving:
        return []
    out: list[Lane] = []
    pick = np.unique(np.linspace(0, len(e.motion.times) - 1, LANE_POINTS).astype(int))
    times = e.motion.times[pick]
    drivers = {d.joint: i for i, d in document.drivers.items()}
    for i, d in document.drivers.items():  # a driver of a cylindrical joint may push what does not lead it
        own = [k for k, c in e.coordinates.items() if c.joint == d.joint and c.turning == (d.coordinate == "turn")]
        if own and d.joint != own[0]:
            drivers[own[0]] = drivers.pop(d.joint, i)
    ends = _driven_ends(e)
    rank = {j: 0 if j in drivers else 1 if c.joint in ends else 2 for j, c in e.coordinates.items()}
    for j, c in sorted(e.coordinates.items(), key=lambda k: rank[k[0]]):
        span = float(np.ptp(c.value))
        swings = span < 2 * np.pi * 0.999 if c.turning else True
        shown = swings or rank[j] == 1
        if j not in drivers and (not shown or span < 1e-9 or sum(lane["kind"] == "output" for lane in out) >= OUTPUTS):
            continue
        dimension = "angle" if c.turning else "length"
        speed = "turning speed" if c.turning else "sliding speed"
        gain = "turning acceleration" if c.turning else "acceleration"
        unit = document.unit_of(dimension)
        lane: Lane = {
            "kind": "input" if j in drivers else "output", "id": drivers.get(j, c.joint), "path": f"drivers.{drivers[j]}" if j in drivers else e.mechanism.joints[c.joint].path, "joint": c.joint,
            "name": document.drivers[drivers[j]].name if j in drivers else coordinate_name(e, j),
            "points": [[float(t), in_unit(float(v), dimension, unit)] for t, v in zip(times, c.value[pick], strict=True)],
            "rates": [in_unit(float(v), speed, document.unit_of(speed)) for v in c.rate[pick]],
            "accelerations": [in_unit(float(v), gain, document.unit_of(gain)) for v in c.acceleration[pick]],
            "unit": unit, "rateUnit": document.unit_of(speed), "accelerationUnit": document.unit_of(gain), "ratio": _ratio(e, c) if rank[j] == 1 else "",
        }  # fmt: skip
        if j in drivers:
            lane["segments"], lane["begins"] = _segments(e, drivers[j], unit, dimension)
            lane["steady"] = hasattr(document.drivers[drivers[j]], "speed")
        out.append(lane)
    out += [
        _wanted(e, i, requirement, times, pick)
        for i, requirement in document.requirements.items()
        if isinstance(requirement, WantedMotion)
    ]
    for i, requirement in document.requirements.items():
        lane_ = (
            _course(e, i, requirement)
            if isinstance(requirement, Requirement) and e.verdicts[i].value is not None
            else None
        )
        out += [lane_] if lane_ is not None else []
    inputs = sum(lane["kind"] == "input" for lane in out)
    for i, v in sorted(e.verdicts.items(), key=lambda k: k[1].holds is False):
        if v.drawn:
            unit, curve = document.units.length, (curves or {}).get(i, ())
            out.insert(inputs, {
                "kind": "requirement", "id": i, "name": v.name, "holds": v.holds, "time": v.time, "unit": unit,
                "points": [[float(t), in_unit(float(d), "length", unit)] for t, d in curve],
                "limit": in_unit(v.limit or 0.0, "length", unit) if v.sense == ">=" else 0.0,
            })  # fmt: skip
    return out
