"""Measuring between two datums."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from uhrwerk.core.assembly import Mechanism, NotSolvable, compile, solve
from uhrwerk.core.context import Context
from uhrwerk.core.document import Document, ValidationFailed
from uhrwerk.core.document.document import Place
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.joints import At
from uhrwerk.core.quantity import in_unit

Array = NDArray[np.float64]


class Measure(TypedDict):
    """A measure between two datums, and a formula to keep it by."""

    name: str
    value: str
    formula: str
    si: float


def measured(document: Document, a: At, b: At, context: Context) -> list[Measure]:
    """Distances and the angle between two datums as the parts stand at the start, each with a formula to keep it by."""
    m = compile(document, context)
    try:
        pose = solve(m)
    except NotSolvable:
        pose = m.start
    return measures(document, m, pose, a, b)


def measures(document: Document, m: Mechanism, pose: Array, a: At | Place, b: At | Place) -> list[Measure]:
    """The same of a mechanism whose links stand at a pose."""
    ends = []
    for side, at in (("a", a), ("b", b)):
        if at.placed not in m.datums or at.datum not in m.datums[at.placed]:
            raise ValidationFailed((side, "there is no such datum"))
        d = m.datum(at if isinstance(at, At) else At(placed=at.placed, datum=at.datum))
        where = m.part_pose(at.placed, pose)
        ends.append((d, poses.place(where, d.origin), poses.rotate(where[3:], d.z)))
    (da, oa, za), (db, ob, zb) = ends
    off = ob - oa
    out: list[Measure] = []

    def tell(name: str, value: float, dimension: str) -> None:
        unit = document.units.length if dimension == "length" else "deg"
        formula = f"{in_unit(value, dimension, unit):.9g} {unit}"
        out.append({"name": name, "value": document.display(value, dimension), "formula": formula, "si": value})

    cosine = float(np.clip(za @ zb, -1, 1))
    parallel = abs(cosine) > 1 - 1e-9
    if da.kind == "plane" and (db.kind != "plane" or parallel):
        tell("From the face", float(off @ za), "length")
    elif db.kind == "plane" and da.kind != "plane":
        tell("From the face", float(-off @ zb), "length")
    for one, direction, other in ((da, za, db), (db, zb, da)):
        if (one.kind, other.kind) == ("axis", "point"):
            tell("From the axis", float(np.linalg.norm(np.cross(off, direction))), "length")
    if da.kind == db.kind == "axis":
        across = np.cross(za, zb)
        size = float(np.linalg.norm(across))
        apart = float(np.linalg.norm(np.cross(off, za))) if parallel else abs(float(off @ across)) / size
        tell("Axis to axis", apart, "length")
        bore, pin = (da, db) if da.side == "bore" else (db, da)
        if parallel and (bore.side, pin.side) == ("bore", "pin"):
            tell("Least play between pin and bore", bore.radius - pin.radius - apart, "length")
            tell("Play on the diameter", 2 * (bore.radius - pin.radius), "length")
        elif parallel and (da.radius or db.radius):
            tell("Between the rims", apart - da.radius - db.radius, "length")
    tell("Centre to centre", float(np.linalg.norm(off)), "length")
    for axis, value in zip("xyz", off, strict=True):
        tell(f"Along {axis}", float(value), "length")
    if "point" not in (da.kind, db.kind):
        tell("Angle", float(np.arccos(cosine)), "angle")
    for side, d in (("first", da), ("second", db)):
        if d.radius and d.kind == "axis":
            tell(f"Diameter of the {side}", 2 * d.radius, "length")
    return out
