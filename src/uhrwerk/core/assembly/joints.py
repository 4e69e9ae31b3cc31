"""Joints: the rows that hold two links together, and the coordinates in which they move against one another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.assembly.pose import Array
from uhrwerk.core.assembly.rows import Row

#: the coordinates of each kind of joint: the first leads
COORDINATES: dict[str, tuple[str, ...]] = {
    "rigid": (), "revolute": ("turn",), "prismatic": ("slide",), "cylindrical": ("turn", "slide"), "screw": ("turn", "slide"),
    "planar": ("slide_x", "slide_y", "turn"), "spherical": ("turn_x", "turn_y", "turn_z"), "universal": ("bend_x", "bend_y"),
    "slot": ("slide",), "arc_slot": ("swing",),
}  # fmt: skip
ANGLES = {"turn", "swing", "turn_x", "turn_y", "turn_z", "bend_x", "bend_y"}


@dataclass(frozen=True)
class Held:
    """A joint with numbers: a frame on link a and one on link b that would coincide with all coordinates at zero.

    Stated as a joint, or made by relations together; `path` says which, and `by` names what makes it.
    """

    id: str
    path: str
    name: str
    kind: str
    a: int
    frame_a: Array
    b: int
    frame_b: Array
    on: str  # placed part of a
    part: str  # placed part of b
    lead: float = 0.0  # of a screw; of an arc slot, its radius
    limits: tuple[tuple[str, float, float], ...] = ()  # coordinate, least, most
    by: tuple[str, ...] = ()

    @property
    def coordinates(self) -> tuple[str, ...]:
        return COORDINATES[self.kind]


def axes(frame: Array) -> tuple[Array, Array, Array]:
    x, y, z = (poses.rotate(frame[3:], e) for e in np.eye(3))
    return x, y, z


def rows(h: Held) -> list[Row]:
    """The equations of a joint."""
    (xa, ya, za), (xb, yb, _) = axes(h.frame_a), axes(h.frame_b)

    def point(u: Array) -> Row:
        return Row("point", h.a, h.b, (h.frame_a[:3], u, h.frame_b[:3]), h.path)

    def square(u: Array, v: Array) -> Row:
        return Row("square", h.a, h.b, (u, v), h.path)

    parallel = [square(za, xb), square(za, yb)]
    level = [point(xa), point(ya)]
    if h.kind == "revolute":
        return [*level, *parallel, point(za)]
    if h.kind == "prismatic":
        return [*level, *parallel, square(xa, yb)]
    if h.kind == "cylindrical":
        return [*level, *parallel]
    if h.kind == "screw":
        return [*level, *parallel, screw_row(h, h.lead, h.path)]
    if h.kind == "planar":
        return [*parallel, point(za)]
    if h.kind == "spherical":
        return [*level, point(za)]
    if h.kind == "universal":
        return [*level, point(za), square(xa, yb)]
    if h.kind == "slot":  # z along the slot, x across it
        return [point(xa)]
    if h.kind == "arc_slot":
        return [Row("radial", h.a, h.b, (h.frame_a[:3], za, h.frame_b[:3]), h.path, sizes=(h.lead,))]
    if h.kind == "rigid":
        return [*level, *parallel, point(za), square(xa, yb)]
    raise ValueError(h.kind)


def screw_row(h: Held, lead: float, owner: str) -> Row:
    return Row(
        "screw", h.a, h.b, (h.frame_a[:3], *axes(h.frame_a), h.frame_b[:3], axes(h.frame_b)[0]), owner, sizes=(lead,)
    )


def coordinate_row(h: Held, name: str, owner: str = "", wanted: float = 0.0, rate: float = 0.0) -> Row:
    """The row that measures, drives or stops one coordinate of a joint."""
    (xa, ya, za), (xb, _, zb) = axes(h.frame_a), axes(h.frame_b)
    ends = {"slide": za, "slide_x": xa, "slide_y": ya}
    if name in ends:
        return Row("point", h.a, h.b, (h.frame_a[:3], ends[name], h.frame_b[:3]), owner, wanted, rate)
    if name == "swing":
        return Row("bearing", h.a, h.b, (h.frame_a[:3], xa, ya, h.frame_b[:3]), owner, wanted, rate)
    # an angle of v about x cross y, counted from x
    about = {
        "turn": (xa, ya, xb), "turn_z": (xa, ya, xb), "turn_x": (za, -ya, zb), "turn_y": (za, xa, zb),
        "bend_x": (za, -ya, zb), "bend_y": (za, xa, zb),
    }  # fmt: skip
    return Row("turn", h.a, h.b, about[name], owner, wanted, rate)
