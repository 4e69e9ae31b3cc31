"""What screws have in common: a shank with its thread drawn plain, a hexagon socket, the hole that is made for them in a face."""

from __future__ import annotations

from math import cos, pi, sin
from typing import Literal

import numpy as np

from uhrwerk.core.elements.element import Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.field import numbers
from uhrwerk.core.quantity import Scope
from uhrwerk.core.solids import circle, cut_out, extrude, path
from uhrwerk.core.solids.recipe import Step
from uhrwerk.core.steps import AtPoints, Hole, Spot, screw_sizes
from uhrwerk.core.steps.hole import countersink

#: sizes that are offered in a face, the largest whose recess is so much smaller than the face
OFFERED, ROOM = {"mm": ("M3", "M4", "M5", "M6"), "in": ("4-40", "8-32", "10-24", "1/4-20")}, 2.0


def threaded(t: dict[str, float], length: float) -> float:
    """Length of the thread, m: twice the diameter and 12 mm (ISO 4762, ISO 10642) or half an inch (ASME B18.3), or all of it; from
    memory."""
    return float(min(length, 2 * t["d"] + t["beyond"]))


def shank(t: dict[str, float], head: float, end: float) -> list[Step]:
    """From the head down to the end: threaded at the diameter of the tap drill, the rest at full diameter."""
    steps = [extrude(circle(0, 0, t["core"] / 2), end, head)]
    bare = end + threaded(t, -end)
    if bare < head - 1e-9:
        steps.append(extrude(circle(0, 0, t["d"] / 2), bare, head))
    return steps


def socket(t: dict[str, float], top: float) -> Step:
    """The hexagon cut into the top."""
    r = t["socket"] / 2 / cos(pi / 6)
    hexagon = [[r * cos(k * pi / 3), r * sin(k * pi / 3)] for k in range(6)]
    return cut_out(path(hexagon[0], *(["line", c] for c in [*hexagon[1:], hexagon[0]])), top - t["deep"], top)


def in_a_hole(kind: type[Element], g: Ground, form: Literal["stepped", "countersunk"], title: str) -> list[Growth]:
    """A screw in a hole that is made for it in the face pointed at, its head sunk in: moved with the hole from then on."""
    offered = OFFERED["in" if g.unit == "in" else "mm"]
    fits = [s for s in offered if ROOM * screw_sizes.table()[s]["recess"] <= g.face_across]
    if not g.face or not fits:
        return []
    size = g.values.get("size") or fits[-1]
    length = g.ask("length", g.text(3 * screw_sizes.table().get(size, {}).get("head", 5e-3)))
    x, y = g.ask("x", g.text(g.face_x)), g.ask("y", g.text(g.face_y))
    hole = Hole.model_validate({
        "name": "Screw hole", "plane": g.face_name, "form": form, "screw": size, "at": AtPoints(spots={"a": Spot(x=x, y=y)}),
    })  # fmt: skip
    screw = kind.model_validate({"size": size, "length": length})
    if form == "stepped":
        part = GrownPart("Screw", screw, {"kind": "rigid", "flip": True}, by="under_head", at="$screw_hole.seat_1")
    else:  # its top lies in the face, as far above the hole as the countersink is deep
        up = float(
            np.sign(next(c for c in g.datum.z[::-1] if abs(c) > 1e-9))
        )  # an axis points along the part's z, or y, or x
        deep = (
            countersink(numbers(hole.model_copy(update={"at": AtPoints()}), Scope({})))
            if size in screw_sizes.table()
            else 0.0
        )
        joint: dict[str, str | bool] = {"kind": "rigid", "offset": g.text(up * deep), "flip": up < 0}
        part = GrownPart("Screw", screw, joint, at=f"$screw_hole.hole_1_{'high' if up > 0 else 'low'}")
    return [Growth(title, (part,), asks={"size": size, "length": length, "x": x, "y": y}, done=(hole,))]
