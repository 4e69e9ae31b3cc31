"""Tangent: a relation."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints.relation import Relation, height, kinds, need, parallel, radial, square
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame


class Tangent(Relation):
    """A cylinder on a face, or on a parallel cylinder; inside: one rolls within the other, or behind the face."""

    title: ClassVar[str] = "Tangent"
    free: ClassVar[str] = "rolls and slides along"
    fields: ClassVar[tuple[str, ...]] = ("inside",)

    kind: Literal["tangent"] = "tangent"
    side: Literal["outside", "inside"] = "outside"

    @staticmethod
    def rows(n: Numbers[Tangent], a: JointFrame, b: JointFrame, about: JointFrame | None, owner: str) -> list[Row]:
        sign, both = 1.0 if n.side == "outside" else -1.0, kinds(a, b)
        fits = set(both) <= {"axis", "plane"} and both != ("plane", "plane")
        need(fits, "tangent needs a cylinder and a face, or two cylinders", a, b)
        if any(x.datum.kind == "axis" and not x.datum.radius for x in (a, b)):
            raise JointDoesNotFit("tangent needs a cylinder; one of these axes has no radius")
        if "plane" in both:
            flat, pin = (a, b) if both[0] == "plane" else (b, a)
            return [square(a, b, owner), height(flat, pin, sign * pin.datum.radius, owner)]
        between = abs(a.datum.radius + sign * b.datum.radius)
        if between < 1e-9:
            raise JointDoesNotFit("two cylinders of one radius touch inside everywhere: use concentric")
        return [*parallel(a, b, owner), radial(a, b, between, owner)]
