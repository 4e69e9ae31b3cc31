"""Measuring between two datums, and seating: the offset of a joint at which the gap to a part is what is asked."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import NotSolvable, compile, solve
from uhrwerk.core.document import Document, Refused, apply
from uhrwerk.core.document.command import SetValue
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.evaluate import Evaluator
from uhrwerk.core.hand import gap_of
from uhrwerk.core.quantity import FormulaError, in_unit

Array = NDArray[np.float64]


def measured(document: Document, a: dict[str, str], b: dict[str, str]) -> list[dict[str, Any]]:
    """Distances and the angle between two datums as the parts stand at the start, each with a formula to keep it by."""
    m = compile(document)
    try:
        pose = solve(m)
    except NotSolvable:
        pose = m.start
    ends = []
    for side, at in (("a", a), ("b", b)):
        if at.get("placed") not in m.datums or at.get("datum") not in m.datums[at["placed"]]:
            raise Refused((side, "there is no such datum"))
        d, where = m.datums[at["placed"]][at["datum"]], m.part_pose(at["placed"], pose)
        ends.append((d, poses.place(where, d.origin), poses.rotate(where[3:], d.z)))
    (da, oa, za), (db, ob, zb) = ends
    off = ob - oa
    out: list[dict[str, Any]] = []

    def tell(name: str, value: float, dimension: str) -> None:
        unit = document.units.length if dimension == "length" else "deg"
        formula = f"{in_unit(value, dimension, unit):.9g} {unit}"
        out.append({"name": name, "value": document.shown(value, dimension), "formula": formula})

    cosine = float(np.clip(za @ zb, -1, 1))
    parallel = abs(cosine) > 1 - 1e-9
    if da.kind == "plane" and (db.kind != "plane" or parallel):
        tell("From the face", float(off @ za), "length")
    elif db.kind == "plane" and da.kind != "plane":
        tell("From the face", float(-off @ zb), "length")
    if da.kind == db.kind == "axis":
        across = np.cross(za, zb)
        size = float(np.linalg.norm(across))
        apart = float(np.linalg.norm(np.cross(off, za))) if parallel else abs(float(off @ across)) / size
        tell("Axis to axis", apart, "length")
        if parallel and (da.radius or db.radius):
            tell("Between the rims", apart - da.radius - db.radius, "length")
    tell("Centre to centre", float(np.linalg.norm(off)), "length")
    for axis, value in zip("xyz", off, strict=True):
        tell(f"Along {axis}", float(value), "length")
    tell("Angle", float(np.arccos(cosine)), "angle")
    for side, d in (("first", da), ("second", db)):
        if d.radius and d.kind == "axis":
            tell(f"Diameter of the {side}", 2 * d.radius, "length")
    return out


def seated(document: Document, evaluator: Evaluator, joint: str, against: str, gap: str) -> dict[str, Any]:
    """The offset of a joint at which its part b comes as near to another part as asked, sliding along the joint's axis
    from where it is; with the command that sets it."""
    if joint not in document.joints:
        raise Refused(("joint", f"there is no joint {joint!r}"))
    if against not in document.placed:
        raise Refused(("against", f"there is no placed part {against!r}"))
    scope = document.scope()
    try:
        wanted = scope.value(gap, "length")
    except FormulaError as error:
        raise Refused(("gap", f"{gap!r} {error}")) from error
    if wanted < 0:
        raise Refused(("gap", "must not be negative"))
    here = scope.value(document.joints[joint].offset, "length")
    unit = document.units.length

    def at(offset: float) -> Document:
        return apply(
            document, SetValue(path=f"joints.{joint}.offset", value=f"{in_unit(offset, 'length', unit):.9g} {unit}")
        )

    found = gap_of(at, here, document.joints[joint].b.placed, against, wanted, evaluator)
    offset = round(in_unit(found, "length", unit), 6)
    return {
        "offset": f"{offset:g} {unit}", "moves": document.shown(found - here, "length"),
        "command": {"kind": "set_value", "path": f"joints.{joint}.offset", "value": f"{offset:g} {unit}"},
    }  # fmt: skip
