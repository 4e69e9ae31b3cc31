"""Relations: plain geometric mates of two datums. Together they may make a joint."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from uhrwerk.core.field import Angle, AngleOrOpen, Kinds, Length, LengthOrOpen, Model, Name
from uhrwerk.core.joints.at import At, Side, two_parts


class Relation(Model):
    """The limits hold where relations together make a joint that turns or slides, and this is the first of them."""

    kind: str
    name: Name
    a: At
    b: At
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""

    def conflicts(self) -> Iterable[tuple[str, str]]:
        return two_parts(self.a, self.b, "a relation")


RELATIONS: Kinds[Relation] = Kinds("relation")


@RELATIONS.register
class Flush(Relation):
    """Two faces in one plane, b's moved by `offset` along a's normal; opposite: the faces look at each other."""

    kind: Literal["flush"] = "flush"
    side: Side = "opposite"
    offset: Length = "0 mm"


@RELATIONS.register
class Concentric(Relation):
    """Two axes on one line."""

    kind: Literal["concentric"] = "concentric"
    side: Side = "same"


@RELATIONS.register
class Parallel(Relation):
    """Axes or normals parallel."""

    kind: Literal["parallel"] = "parallel"
    side: Side = "same"


@RELATIONS.register
class Perpendicular(Relation):
    """Axes or normals square to one another."""

    kind: Literal["perpendicular"] = "perpendicular"


@RELATIONS.register
class Distance(Relation):
    """A distance: between parallel faces or from a face to an axis or point (signed, along a's normal), between
    parallel axes, from an axis to a point, or between two points."""

    kind: Literal["distance"] = "distance"
    side: Side = "opposite"
    distance: Length = "10 mm"


@RELATIONS.register
class AngleBetween(Relation):
    """An angle from a's direction to b's: between 0 and 180 degrees; with `about`, any, counted about that axis."""

    kind: Literal["angle"] = "angle"
    angle: Angle = "90 deg"
    about: At | None = None


@RELATIONS.register
class Tangent(Relation):
    """A cylinder on a face, or on a parallel cylinder; inside: one rolls within the other, or behind the face."""

    kind: Literal["tangent"] = "tangent"
    side: Literal["outside", "inside"] = "outside"


@RELATIONS.register
class Symmetric(Relation):
    """b is where a's image behind the plane `about` is: points, axes or faces."""

    kind: Literal["symmetric"] = "symmetric"
    about: At
    side: Side = "same"
