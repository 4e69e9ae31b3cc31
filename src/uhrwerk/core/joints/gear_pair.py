"""Spur gears in mesh: a pair."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.elements import involute, ring_gear, spur_gear
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers, PlacedId
from uhrwerk.core.joints.mounted import Mounted, between, faces, far, side_by_side
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, axes

#: kinds of element that mesh
GEARS = frozenset({"spur_gear", "ring_gear"})


class GearPair(JointPair):
    """Two gears in mesh, or a gear in a ring gear; the ratio and its sign follow from the teeth."""

    title: ClassVar[str] = "Spur gears in mesh"
    free: ClassVar[str] = "ratio from the teeth"
    made_of: ClassVar[tuple[frozenset[str], frozenset[str]] | None] = (GEARS, GEARS)

    kind: Literal["gear"] = "gear"
    a: PlacedId
    b: PlacedId

    @staticmethod
    def rows(
        n: Numbers[GearPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        size_a, size_b = sizes
        if size_a.kind == size_b.kind == "ring_gear":
            raise JointDoesNotFit("two ring gears cannot mesh")
        if abs(size_a.module - size_b.module) > 1e-9 or abs(size_a.pressure_angle - size_b.pressure_angle) > 1e-9:
            raise JointDoesNotFit("module and pressure angle of both gears must be the same to mesh")
        if size_a.kind == "ring_gear":
            a, size_a, b, size_b = b, size_b, a, size_a
        inner = size_b.kind == "ring_gear"
        if inner and size_a.teeth >= size_b.teeth:
            raise JointDoesNotFit("the ring gear needs more teeth than the gear inside it")
        (xa, _, za), (xb, _, _) = axes(a.frame), axes(b.frame)
        vectors = (a.frame[:3], za, xa, b.frame[:3], xb)
        # a ring gear has a space, not a tooth, on its x
        wanted = 0.0 if inner else np.pi / size_a.teeth
        return [
            Row(
                "inner" if inner else "mesh", a.link, b.link, vectors, owner, wanted, sizes=(size_a.teeth, size_b.teeth)
            )
        ]

    @staticmethod
    def ratio(n: Numbers[GearPair], sizes: tuple[Numbers, Numbers], a_turn: Callable[[float], str]) -> str:
        kinds = {s.kind for s in sizes}
        if not kinds <= {"spur_gear", "ring_gear"}:
            return ""
        return f"{'' if 'ring_gear' in kinds else '−'}{sizes[0].teeth} : {sizes[1].teeth}"

    @staticmethod
    def mounted(t: Mounted, n: Numbers[GearPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        angle, apart, _ = between(a, b)
        wrong = side_by_side(t, angle, apart)
        if wrong:
            return wrong
        real = float(apart[0])
        one, other = sizes
        if "ring_gear" in (one.kind, other.kind):
            ring, gear = (one, other) if one.kind == "ring_gear" else (other, one)
            tooth = spur_gear.tooth(gear)
            nominal = ring.module * (ring.teeth - gear.teeth) / 2 + gear.module * gear.profile_shift
            inside = ring_gear.space(ring)
            if real + tooth.tip_radius <= inside.root_circle:
                return far(t, real, nominal, "the teeth do not reach one another")
            if real + tooth.tip_radius >= inside.tip_radius:
                return far(t, real, nominal, "the teeth run into the ring")
        else:
            first, second = spur_gear.tooth(one), spur_gear.tooth(other)
            if first.faults or second.faults:
                return ""
            nominal = involute.centre_distance(first, second)
            if real >= first.tip_radius + second.tip_radius:
                return far(t, real, nominal, "the teeth do not reach one another")
            if real <= max(first.tip_radius + second.root_circle, second.tip_radius + first.root_circle):
                return far(t, real, nominal, "tips would stand in the roots")
            ratio = involute.contact_ratio(first, second, real)
            if not ratio:
                return far(t, real, nominal, "no flank touches another")
            if ratio < 1:
                return far(
                    t, real, nominal, f"contact ratio {ratio:.3f}: one pair of teeth parts before the next one meets"
                )
        return faces(t, a, b, one.width, other.width)
