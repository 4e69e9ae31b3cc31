"""Runs in the slot: a pair."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar, Literal

from uhrwerk.core.equations.pose import from_axes
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, ResolvedJoint, axes


class SlotPair(JointPair):
    """Pin a in slot b, straight or along an arc; the slot ends the travel."""

    title: ClassVar[str] = "Runs in the slot"
    free: ClassVar[str] = "slides along it and turns"

    kind: Literal["slot"] = "slot"
    a: At
    b: At

    @classmethod
    def offered(cls, elements: tuple[str, str], datums: tuple[str, str]) -> bool:
        return datums[0] == "axis" and datums[1] in ("slot", "arc_slot")

    @classmethod
    def resolved(cls, a: JointFrame, b: JointFrame, blank: ResolvedJoint) -> ResolvedJoint | None:
        """The pin's travel as a coordinate, limited by the slot's ends: z along the slot, or round the arc."""
        d = b.datum
        if d.kind not in ("slot", "arc_slot"):
            raise JointDoesNotFit("a slot pair needs a pin and a slot")
        if a.datum.kind != "axis":
            raise JointDoesNotFit("a slot pair needs the axis of a pin")
        straight, half = d.kind == "slot", d.length / 2
        x, y, _ = axes(b.frame)
        way = half if straight else half / d.radius
        name = "slide" if straight else "swing"
        return replace(
            blank, kind=d.kind, a=b.link, frame_a=from_axes(b.frame[:3], y, x) if straight else b.frame, b=a.link, frame_b=a.frame,
            on=b.placed, part=a.placed, lead=0.0 if straight else d.radius, limits=((name, -way, way),) if way else (),
            coordinates=(name,),
        )  # fmt: skip

    @staticmethod
    def rows(
        n: Numbers[SlotPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        if b.datum.kind == "slot":  # stays on the line of the slot
            return [Row("point", b.link, a.link, (b.frame[:3], axes(b.frame)[1], a.frame[:3]), owner)]
        vectors = (b.frame[:3], axes(b.frame)[2], a.frame[:3])
        return [Row("radial", b.link, a.link, vectors, owner, sizes=(b.datum.radius,))]
