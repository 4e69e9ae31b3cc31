"""Distance: a relation."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Length, Numbers
from uhrwerk.core.joints.at import Side
from uhrwerk.core.joints.joint import Datums
from uhrwerk.core.joints.relation import Relation, height, kinds, parallel, radial, square
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame


class Distance(Relation):
    """A distance: between parallel faces or from a face to an axis or point (signed, along a's normal), between
    parallel axes, from an axis to a point, or between two points."""

    title: ClassVar[str] = "At a distance"
    free: ClassVar[str] = "keeps the given distance"
    fields: ClassVar[tuple[str, ...]] = ("distance", "flip")
    takes: ClassVar[Mapping[Datums, int]] = {
        ("axis", "axis"): 1,
        ("plane", "plane"): 1,
        ("axis", "plane"): 0,
        ("plane", "point"): 0,
        ("axis", "point"): 0,
        ("point", "point"): 0,
    }
    aims: ClassVar[Literal["always", "alike", "never"]] = "alike"
    sided: ClassVar[bool] = True

    kind: Literal["distance"] = "distance"
    side: Side = "opposite"
    distance: Length = "10 mm"

    @staticmethod
    def rows(n: Numbers[Distance], a: JointFrame, b: JointFrame, about: JointFrame | None, owner: str) -> list[Row]:
        d, both = n.distance, kinds(a, b)
        if "plane" in both:
            flat, other = (a, b) if both[0] == "plane" else (b, a)
            turn = parallel(a, b, owner) if both[0] == both[1] else [square(a, b, owner)] if "axis" in both else []
            return [*turn, height(flat, other, d, owner)]
        if d < 0:
            raise JointDoesNotFit("a distance between axes or points cannot be negative")
        if d == 0:
            raise JointDoesNotFit("a distance of zero: use concentric, or a spherical joint for two points")
        if both == ("axis", "axis"):
            return [*parallel(a, b, owner), radial(a, b, d, owner)]
        if "axis" in both:
            return [radial(a, b, d, owner) if both[0] == "axis" else radial(b, a, d, owner)]
        return [Row("span", a.link, b.link, (a.frame[:3], b.frame[:3]), owner, sizes=(d,))]
