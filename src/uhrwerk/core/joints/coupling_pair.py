"""Two halves of a coupling that turns at constant speed: a pair.

The halves turn by the same angle, each about its own axis, though these lean against one another and pass beside: of a's frame
turned so that both axes agree by the shortest way, b's is not twisted. Hunt, Kinematic Geometry of Mechanisms (1978), ch. 13
(constant velocity couplings): from memory.
"""

from __future__ import annotations

from collections.abc import Callable
from math import pi
from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.elements.couplings import Half
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers, PlacedId
from uhrwerk.core.joints.mounted import Mounted
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, axes, turned_over

#: kinds whose halves turn at constant speed
HALVES = frozenset({"jaw_hub", "bellows_half"})
#: halves that lean by more do not face one another, rad
FACING = 0.5


class CouplingPair(JointPair):
    """Both halves turn by the same angle, at every moment; they face one another."""

    title: ClassVar[str] = "Coupling"
    free: ClassVar[str] = "constant ratio 1 : 1; takes some misalignment"
    made_of: ClassVar[tuple[frozenset[str], frozenset[str]] | None] = (HALVES, HALVES)

    kind: Literal["coupling"] = "coupling"
    a: PlacedId
    b: PlacedId

    @staticmethod
    def rows(
        n: Numbers[CouplingPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        one, other = sizes
        if one.kind != other.kind:
            raise JointDoesNotFit("both halves must be of the same kind")
        count = 1
        if one.kind == "jaw_hub":
            if one.jaws != other.jaws:
                raise JointDoesNotFit("both hubs need the same number of jaws")
            count = one.jaws
        (xa, ya, _), (xb, yb, _) = axes(a.frame), axes(turned_over(b.frame))
        wanted = pi / count if one.kind == "jaw_hub" else 0.0  # a jaw stands where the other hub has none
        return [Row("twist", a.link, b.link, (xa, ya, xb, yb), owner, wanted, sizes=(float(count),))]

    @staticmethod
    def ratio(n: Numbers[CouplingPair], sizes: tuple[Numbers, Numbers], a_turn: Callable[[float], str]) -> str:
        return "1 : 1"

    @staticmethod
    def mounted(t: Mounted, n: Numbers[CouplingPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        za, zb = (poses.rotate(f[:, 3:], np.array([0.0, 0, 1])) for f in (a, b))
        lean = float(np.arccos(np.clip(-(za * zb).sum(axis=1), -1, 1)).max())
        return f"the halves do not face one another: turn {t.b} over; {t.seat()}" if lean > FACING else ""

    @staticmethod
    def derived_between(
        n: Numbers[CouplingPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array
    ) -> list[tuple[str, float | str, str]]:
        off = out_of_line(sizes[0], sizes[1], a[None], b[None])
        names = ("Offset of the shafts now", "Angle of the shafts now", "Shift along the axis now")
        return [
            (name, float(x[0]), what) for name, x, what in zip(names, off, ("length", "angle", "length"), strict=True)
        ]


def out_of_line(one: Numbers, other: Numbers, a: Array, b: Array) -> tuple[Array, Array, Array]:
    """How far two halves with frames (K, 7) are out of line: beside one another in the coupling's middle, m, at an angle, rad, and
    along a's axis, m, each (K,)."""
    za, zb = (poses.rotate(f[:, 3:], np.array([0.0, 0, 1])) for f in (a, b))
    half_a, half_b = (_half(n) for n in (one, other))
    middle = b[:, :3] + half_b * zb - a[:, :3]
    along = (middle * za).sum(axis=1)
    offset = np.linalg.norm(middle - along[:, None] * za, axis=1)
    angle = np.arctan2(np.linalg.norm(poses.cross(za, zb), axis=1), -(za * zb).sum(axis=1))
    return offset, angle, along - half_a


def _half(n: Numbers[CouplingPair]) -> float:
    return kind_of(n).apart(n) / 2


def kind_of(n: Numbers) -> type[Half]:
    """The coupling half that numbers are of. NotFitting where they are of another element."""
    kind = next((k for k in Half.__subclasses__() if k.model_fields["kind"].default == n.kind), None)
    if kind is None:
        raise JointDoesNotFit("this is not half of a coupling")
    return kind
