"""Balance as the page draws it: rotors with their unbalance in a polar plot, and the force that shakes the frame."""

from __future__ import annotations

from collections.abc import Callable
from math import degrees
from typing import Any

import numpy as np
from typing_extensions import TypedDict

from uhrwerk.core.balance import Counterweights, Form, corrections, counterweights
from uhrwerk.core.balance.rotor import GRADES, Rotor, hanging, reached, rotors
from uhrwerk.core.balance.shaking import shaking, shaking_at
from uhrwerk.core.document import Document
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.evaluation.values import part_mass
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.remedies import ProvedCorrection, planned, worked
from uhrwerk.core.requirements.balance_grade import BalanceGrade
from uhrwerk.core.stages.cycle_extremes import over_cycle
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.views.remedies import ChangedVerdict, changed_verdicts

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
    """A rotor; `planes` are that of its centre of gravity, or both that are asked for. `required` is the requirement on it, or nothing;
    then `holds` is not known, nor where there is a `warning`."""

    warning: str
    joint: str
    name: str
    parts: str
    rows: list[tuple[str, str]]
    holds: bool | None
    reach: str
    planes: list[PlaneShown]
    required: str


class CorrectionShown(TypedDict):
    """Holes or studs as build steps, in words, what the rotor is with them, what becomes of requirements, and the command."""

    id: str
    words: list[str]
    after: str
    breaks: bool
    effects: list[ChangedVerdict]
    command: dict[str, Any]


class Corrected(TypedDict):
    """One way to correct a rotor, or none; whether there are more, and words where there are none at all."""

    correction: CorrectionShown | None
    more: bool
    words: str


class ShakingShown(TypedDict):
    """The force on the frame over the cycle, seen along the axis in which it is least: points as parts of `reach`. The moment about the
    frame's centre of gravity likewise."""

    words: str
    reach: str
    axes: str
    points: list[tuple[float, float]]
    after: list[tuple[float, float]]
    mend: list[str]
    moment: str
    turned: list[tuple[float, float]]
    turnedReach: str
    turnedAxes: str


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
    grades = [
        (scope.value(r.grade, "sliding speed"), i, r)
        for i, r in every
        if isinstance(r, BalanceGrade) and r.joint == joint
    ]
    grade, i, r = min(grades, key=lambda x: x[0], default=(USUAL, "", BalanceGrade(name="Usual", joint=joint)))
    return i, r, grade


def _rotor(e: Evaluation, r: Rotor) -> RotorShown:
    shown, document = e.document.display, e.document
    i, required, grade = grade_of(e, r.joint)
    planes, allowed = required.places(document, r), r.permissible(grade)
    value, _ = reached(r, planes)
    vectors = r.in_planes(*planes) if planes else r.first[None]
    limits = allowed * (r.shares(*planes) if planes else np.ones(1))
    plot = 1.15 * max(float(np.hypot(*vectors.T).max()), 1.5 * float(limits.max()), 1e-12)
    shown_planes: list[PlaneShown] = []
    for k, (u, limit, c) in enumerate(zip(vectors, limits, corrections(r, planes), strict=True)):
        where = f"at {shown(c.at, 'length')}" if planes else "of its centre of gravity"
        size = f"{shown(c.unbalance, 'unbalance')} at {_angle(np.arctan2(u[1], u[0]))}, {shown(float(limit), 'unbalance')} allowed"
        radius = max(0.7 * r.reach, 1e-6)
        mend = f"add {shown(c.mass(radius), 'mass')} at radius {shown(radius, 'length')}, {_angle(c.angle)}; or take it away opposite"
        shown_planes.append({
            "name": f"Plane {'AB'[k]} {where}" if planes else f"Plane {where}", "x": float(u[0] / plot), "y": float(u[1] / plot),
            "allowed": float(limit / plot), "words": size, "mend": mend,
        })  # fmt: skip
    rows = [
        ("Mass", shown(r.mass, "mass")), ("Fastest", shown(r.speed, "turning speed")), ("Centre off the axis", shown(r.offset, "length")),
        ("Unbalance", shown(float(np.hypot(*r.first)), "unbalance")), ("Couple", shown(float(np.hypot(*r.couple)), "couple")),
        ("Grade reached", f"G {value * 1e3:.3g}"), ("Grade required" if i else "Usual in machinery", f"G {grade * 1e3:.3g}"),
    ]  # fmt: skip
    parts = [document.placed[p].name for p in r.parts]
    words = ", ".join(parts[:4]) + (f" and {len(parts) - 4} more" if len(parts) > 4 else "")
    return {
        "warning": hanging(e, r), "joint": r.joint, "name": document.joints[r.joint].name, "parts": words, "rows": rows, "holds": value <= grade if i and not r.hanging else None,
        "reach": shown(plot, "unbalance"), "planes": shown_planes, "required": i,
    }  # fmt: skip


def corrected(e: Evaluation, joint: str, form: Form, at: int, evaluate: Callable[[Document], Evaluation]) -> Corrected:
    """The plan of that count. ValidationFailed where nothing turns there that can be told by its own mass."""
    r = rotors(e).get(joint)
    if r is None or not r.mass or r.hanging:
        raise ValidationFailed(("joint", "nothing turns in this joint that can be balanced by itself"))
    plans = planned(e, joint, max(1, len(grade_of(e, joint)[1].places(e.document, r))), form)
    if not plans:
        return {"correction": None, "more": False, "words": _no_room(e, r, form)}
    done = worked(e, joint, plans[at], evaluate) if at < len(plans) else None
    return {"correction": _correction(e, joint, done) if done else None, "more": at + 1 < len(plans), "words": ""}


def _no_room(e: Evaluation, r: Rotor, form: Form) -> str:
    if np.hypot(*r.first) <= r.error:
        return "Its centre of gravity lies on the axis already."
    what = "holes" if form == "drilled" else "studs"
    return f"No flat face of it has room for {what} that would do: change its sizes, or let a search find them."


def _correction(e: Evaluation, joint: str, w: ProvedCorrection) -> CorrectionShown:
    shown, document = e.document.display, e.stated
    words = []
    for h in w.plan.holes:
        what = "hole" if h.form == "drilled" else "stud"
        many, length = len(h.angles), f"{shown(h.length, 'length')} {'deep' if h.form == 'drilled' else 'high'}"
        angles = ", ".join(_angle(float(a)) for a in h.angles)
        words.append(
            f"{document.parts[h.seat.part].name}, {_face(h.seat.face)}: {f'{many} {what}s' if many > 1 else f'a {what}'} ⌀ {shown(h.diameter, 'length')}, {length}, "
            f"at radius {shown(h.radius, 'length')}, {angles}"
        )
    required = grade_of(e, joint)[1]
    value, _ = reached(w.rotor, required.places(e.document, w.rotor))
    offset, told_grade = w.rotor.offset, f"G {value * 1e3:.3g}" if value > 1e-6 else "G below 0.001"
    far = f"{offset * 1e6:.3g} µm" if offset > 1e-9 else "less than 0.001 µm"
    return {
        "id": " ".join(words), "words": words, "after": f"then {told_grade}, its centre {far} off the axis",
        "breaks": any(x.breaks for x in w.others), "effects": changed_verdicts(w.others), "command": w.command.model_dump(mode="json"),
    }  # fmt: skip


def _face(name: str) -> str:
    return f"{name.rpartition('.')[2].replace('_', ' ')} face"


def _angle(rad: float) -> str:
    return f"{round(degrees(rad), 1) % 360:.1f} deg"


def _shaking(e: Evaluation) -> ShakingShown | None:
    shake = shaking(e)
    if shake is None:
        return None
    most = over_cycle(e, lambda t: shaking_at(e, t).size)
    best = counterweights(e)
    reach, axes, points = _hodograph(shake.force)
    moment = shake.about(_frame_centre(e))
    turned_reach, turned_axes, turned = _hodograph(moment)
    centre = _frame_centre(e)
    turning = over_cycle(e, lambda t: np.linalg.norm(shaking_at(e, t).about(centre), axis=1))
    lowers = best is not None and np.linalg.norm(best.after, axis=1).max() < 0.95 * most.high
    return {
        "words": f"at most {e.document.display(most.high, 'force')}, at {most.high_time:.4f} s", "reach": e.document.display(reach, "force"),
        "axes": axes, "points": points, "after": _hodograph(best.after, reach, axes)[2] if best is not None and lowers else [],
        "mend": _mended(e, best) if best is not None and lowers else [], "moment": f"at most {e.document.display(turning.high, 'torque')}, at {turning.high_time:.4f} s",
        "turned": turned, "turnedReach": e.document.display(turned_reach, "torque"), "turnedAxes": turned_axes,
    }  # fmt: skip


def _frame_centre(e: Evaluation) -> Array:
    """(3,) m in the world; the origin where there is no frame that can be weighed."""
    frame = e.document.frame
    return part_mass(e, [frame]).centre if frame is not None and frame in e.solids else np.zeros(3)


def _hodograph(vectors: Array, reach: float = 0.0, axes: str = "") -> tuple[float, str, list[tuple[float, float]]]:
    """Of vectors (T, 3) over the cycle: how far the plot reaches, the two axes that it shows, those along which they are largest, and
    its points as parts of that reach."""
    if not axes:
        axes = " and ".join("xyz"[k] for k in sorted(np.argsort(np.abs(vectors).max(axis=0))[1:]))
    reach = reach or 1.15 * max(float(np.linalg.norm(vectors, axis=1).max()), 1e-12)
    flat = ["xyz".index(axes[0]), "xyz".index(axes[-1])]
    step = max(1, len(vectors) // POINTS)
    return reach, axes, [(float(x), float(y)) for x, y in vectors[::step, flat] / reach]


def _mended(e: Evaluation, best: Counterweights) -> list[str]:
    """What each rotor needs, in words, and what the force is then."""
    shown = e.document.display
    out = []
    for joint, u in best.moments.items():
        size = float(np.hypot(*u))
        if size > 1e-9:
            words = f"{shown(size, 'unbalance')} at {_angle(np.arctan2(u[1], u[0]))}"
            out.append(f"{e.document.joints[joint].name}: {words}")
    return [*out, f"then {shown(float(np.linalg.norm(best.after, axis=1).max()), 'force')} at most"]
