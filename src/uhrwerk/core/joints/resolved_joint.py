"""What a joint is in numbers: frames on two links, the rows that its kind is made from, the coordinates that it leaves."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.law import Law
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.solids import Datum

#: coordinates that are angles
ANGLES = {"turn", "swing", "turn_x", "turn_y", "turn_z", "bend_x", "bend_y"}


class JointDoesNotFit(ValueError):
    """Datums or sizes that a relation or pair does not allow, in words."""


@dataclass(frozen=True)
class JointFrame:
    """A datum on a link: its frame there, and the placed part that has it."""

    link: int
    frame: Array
    datum: Datum
    placed: str


@dataclass(frozen=True)
class ResolvedJoint:
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
    coordinates: tuple[str, ...] = ()  # in which it moves, the leading one first


def axes(frame: Array) -> tuple[Array, Array, Array]:
    """The three directions (3,) of one frame (7,)."""
    w, x, y, z = frame[3:].tolist()  # plain numbers: an array's overhead is many times the work
    return (
        np.array([1 - 2 * (y * y + z * z), 2 * (x * y + w * z), 2 * (x * z - w * y)]),
        np.array([2 * (x * y - w * z), 1 - 2 * (x * x + z * z), 2 * (y * z + w * x)]),
        np.array([2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y)]),
    )


FLIP = np.array([0.0, 0, 0, 0, 1, 0, 0])


def turned_over(frame: Array) -> Array:
    """The frame with z and y the other way."""
    return poses.compose(frame, FLIP)


def point(h: ResolvedJoint, u: Array) -> Row:
    """b's origin stays at a's along u."""
    return Row("point", h.a, h.b, (h.frame_a[:3], u, h.frame_b[:3]), h.path)


def square(h: ResolvedJoint, u: Array, v: Array) -> Row:
    """A direction u of a and v of b stay square to one another."""
    return Row("square", h.a, h.b, (u, v), h.path)


def parallel(h: ResolvedJoint) -> list[Row]:
    """Both axes z stay parallel."""
    (_, _, z), (x, y, _) = axes(h.frame_a), axes(h.frame_b)
    return [square(h, z, x), square(h, z, y)]


def level(h: ResolvedJoint) -> list[Row]:
    """b's origin stays on a's axis."""
    x, y, _ = axes(h.frame_a)
    return [point(h, x), point(h, y)]


def screw_row(h: ResolvedJoint, lead: float, owner: str) -> Row:
    vectors = (h.frame_a[:3], *axes(h.frame_a), h.frame_b[:3], axes(h.frame_b)[0])
    return Row("screw", h.a, h.b, vectors, owner, sizes=(lead,))


def coordinate_row(h: ResolvedJoint, name: str, owner: str = "", wanted: float = 0.0, law: Law | None = None) -> Row:
    """The row that measures, drives or stops one coordinate of a joint."""
    (xa, ya, za), (xb, _, zb) = axes(h.frame_a), axes(h.frame_b)
    ends = {"slide": za, "slide_x": xa, "slide_y": ya}
    if name in ends:
        return Row("point", h.a, h.b, (h.frame_a[:3], ends[name], h.frame_b[:3]), owner, wanted, law)
    if name == "swing":
        return Row("bearing", h.a, h.b, (h.frame_a[:3], xa, ya, h.frame_b[:3]), owner, wanted, law)
    # an angle of v about x cross y, counted from x
    about = {
        "turn": (xa, ya, xb), "turn_z": (xa, ya, xb), "turn_x": (za, -ya, zb), "turn_y": (za, xa, zb),
        "bend_x": (za, -ya, zb), "bend_y": (za, xa, zb),
    }  # fmt: skip
    return Row("turn", h.a, h.b, about[name], owner, wanted, law)
