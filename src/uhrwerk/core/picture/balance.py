"""Balance as the page draws it: rotors with their unbalance in a polar plot, and the force that shakes the frame."""

from __future__ import annotations

from math import degrees

import numpy as np
from typing_extensions import TypedDict

from uhrwerk.core.balance import Counterweights, corrections, counterweights
from uhrwerk.core.checks import BalanceGrade, Evaluation
from uhrwerk.core.checks.rotor import GRADES, Rotor, hanging, reached, rotors
from uhrwerk.core.checks.shaking import shaking
from uhrwerk.core.equations.pose import Array

#: of a rotor for which no grade is asked: common practice for parts of general machinery, m/s
USUAL = 6.3e-3
#: points of a hodograph that are drawn
POINTS = 180


class PlaneShown(TypedDict):
    """An unbalance in a plane: `x`, `y` as a part of what the polar plot reaches, `allowed` likewise; words for it and for what
    balances it."""

    name: str
    x: float
    y: float
    allowed: float
    words: str
    mend: str


class RotorShown(TypedDict):
    """A rotor; `planes` are that of its centre of gravity, or both that are asked for. `asked` is the requirement on it, or nothing;
    then `holds` is not known, nor where there is a `warning`."""

    warning: str
    joint: str
    name: str
    parts: str
    rows: list[tuple[str, str]]
    holds: bool | None
    reach: str
    planes: list[PlaneShown]
    asked: str


class ShakingShown(TypedDict):
    """The force on the frame over the cycle, seen along the axis in which it is least: points as parts of `reach`."""

    words: str
    reach: str
    axes: str
    points: list[tuple[float, float]]
    after: list[tuple[float, float]]
    mend: list[str]


class Balance(TypedDict):
    rotors: list[RotorShown]
    shaking: ShakingShown | None
    grades: list[float]


def balance(e: Evaluation) -> Balance:
    return {
        "rotors": [_rotor(e, r) for r in rotors(e).values() if r.mass], "shaking": _shaking(e), "grades": [g * 1e3 for g in GRADES],
    }  # fmt: skip


def grade_of(e: Evaluation, joint: str) -> tuple[str, BalanceGrade, float]:
    """The requirement on a rotor, its id or nothing, and its grade, m/s: where several ask, the strictest."""
    scope, every = e.document.scope(), e.document.requirements.items()
    asked = [
        (scope.value(r.grade, "sliding speed"), i, r)
        for i, r in every
        if isinstance(r, BalanceGrade) and r.joint == joint
    ]
    grade, i, r = min(asked, key=lambda x: x[0], default=(USUAL, "", BalanceGrade(name="Usual", joint=joint)))
    return i, r, grade


def _rotor(e: Evaluation, r: Rotor) -> RotorShown:
    shown, document = e.document.shown, e.document
    i, asked, grade = grade_of(e, r.joint)
    planes, allowed = asked.places(document, r), r.permissible(grade)
    value, _ = reached(r, planes)
    vectors = r.in_planes(*planes) if planes else r.first[None]
    limits = allowed * (r.shares(*planes) if planes else np.ones(1))
    plot = 1.15 * max(float(np.hypot(*vectors.T).max()), 1.5 * float(limits.max()), 1e-12)
    told: list[PlaneShown] = []
    for k, (u, limit, c) in enumerate(zip(vectors, limits, corrections(r, planes), strict=True)):
        where = f"at {shown(c.at, 'length')}" if planes else "of its centre of gravity"
        size = f"{shown(c.unbalance, 'unbalance')} at {_angle(np.arctan2(u[1], u[0]))}, {shown(float(limit), 'unbalance')} allowed"
        radius = max(0.7 * r.reach, 1e-6)
        mend = f"add {shown(c.mass(radius), 'mass')} at radius {shown(radius, 'length')}, {_angle(c.angle)}; or take it away opposite"
        told.append({
            "name": f"Plane {'AB'[k]} {where}" if planes else f"Plane {where}", "x": float(u[0] / plot), "y": float(u[1] / plot),
            "allowed": float(limit / plot), "words": size, "mend": mend,
        })  # fmt: skip
    rows = [
        ("Mass", shown(r.mass, "mass")), ("Fastest", shown(r.speed, "turning speed")), ("Centre off the axis", shown(r.offset, "length")),
        ("Unbalance", shown(float(np.hypot(*r.first)), "unbalance")), ("Couple", shown(float(np.hypot(*r.couple)), "couple")),
        ("Grade reached", f"G {value * 1e3:.3g}"), ("Grade asked" if i else "Usual in machinery", f"G {grade * 1e3:.3g}"),
    ]  # fmt: skip
    parts = [document.placed[p].name for p in r.parts]
    words = ", ".join(parts[:4]) + (f" and {len(parts) - 4} more" if len(parts) > 4 else "")
    return {
        "warning": hanging(e, r), "joint": r.joint, "name": document.joints[r.joint].name, "parts": words, "rows": rows, "holds": value <= grade if i and not r.hanging else None,
        "reach": shown(plot, "unbalance"), "planes": told, "asked": i,
    }  # fmt: skip


def _angle(rad: float) -> str:
    return f"{round(degrees(rad), 1) % 360:.1f} deg"


def _shaking(e: Evaluation) -> ShakingShown | None:
    found = shaking(e)
    if found is None:
        return None
    value, time, _ = found.largest()
    best = counterweights(e)
    spread = np.abs(found.force).max(axis=0)
    flat = sorted(np.argsort(spread)[1:])
    plot = 1.15 * max(value, 1e-12)
    step = max(1, len(found.times) // POINTS)

    def drawn(force: Array) -> list[tuple[float, float]]:
        return [(float(x), float(y)) for x, y in force[::step, flat] / plot]

    lowers = best is not None and np.linalg.norm(best.after, axis=1).max() < 0.95 * value
    return {
        "words": f"{e.document.shown(value, 'force')} at {time:.4f} s, at most", "reach": e.document.shown(plot, "force"),
        "axes": " and ".join("xyz"[k] for k in flat), "points": drawn(found.force),
        "after": drawn(best.after) if best is not None and lowers else [], "mend": _mended(e, best) if best is not None and lowers else [],
    }  # fmt: skip


def _mended(e: Evaluation, best: Counterweights) -> list[str]:
    """What each rotor needs, in words, and what the force is then."""
    shown = e.document.shown
    out = []
    for joint, u in best.moments.items():
        size = float(np.hypot(*u))
        if size > 1e-9:
            words = f"{shown(size, 'unbalance')} at {_angle(np.arctan2(u[1], u[0]))}"
            out.append(f"{e.document.joints[joint].name}: {words}")
    return [*out, f"then {shown(float(np.linalg.norm(best.after, axis=1).max()), 'force')} at most"]
