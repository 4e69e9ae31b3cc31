"""Planes, axes and points of a part's own: they add nothing, and can be drawn on, mirrored behind, turned about and joined to."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Kinds, Length, Model, Numbers
from uhrwerk.core.outlines import Unfit
from uhrwerk.core.steps.step import BuildStep, Face, OnPlane, Plane, StepOption, Under, plane_of

Recipe = dict[str, Any]


class BesidePlane(Model):
    """At a distance from a plane or flat face, and turned about its x or y if asked."""

    title: ClassVar[str] = "Beside a plane"

    kind: Literal["beside"] = "beside"
    plane: Plane = Field(default="xy", title="From")
    offset: Length = Field(default="10 mm", title="Distance")
    turn: Angle = "0 deg"
    about: Literal["x", "y"] = Field(default="x", title="Turned about its")

    @staticmethod
    def how(n: Numbers[BesidePlane]) -> Recipe:
        return {"how": "beside", "plane": plane_of(n), "turn": n.turn, "about": n.about}


class BetweenFaces(Model):
    """Halfway between two faces; of two that cross, the plane that halves the angle between them."""

    title: ClassVar[str] = "Middle of two faces"

    kind: Literal["between"] = "between"
    a: Face = Field(default="", title="Between")
    b: Face = Field(default="", title="And")

    @staticmethod
    def how(n: Numbers[BetweenFaces]) -> Recipe:
        if not (n.a and n.b):
            raise Unfit("choose two faces")
        return {"how": "between", "faces": [n.a, n.b]}


class Crossing(Model):
    """Where two planes or flat faces cross."""

    title: ClassVar[str] = "Where two planes cross"

    kind: Literal["crossing"] = "crossing"
    a: Plane = Field(default="xz", title="Of")
    b: Plane = Field(default="yz", title="And")

    @staticmethod
    def how(n: Numbers[Crossing]) -> Recipe:
        return {"how": "crossing", "faces": [n.a, n.b]}


class SquareTo(Model):
    """Square to a plane or flat face, through a place on it."""

    title: ClassVar[str] = "Square to a plane"

    kind: Literal["square"] = "square"
    plane: Plane = "xy"
    x: Length = "0 mm"
    y: Length = "0 mm"

    @staticmethod
    def how(n: Numbers[SquareTo]) -> Recipe:
        where = {"base" if n.plane in ("xy", "xz", "yz") else "face": n.plane}
        return {"how": "place", "plane": where, "x": n.x, "y": n.y}


PLANES: Kinds[Any] = Kinds("way to state a plane")
for _plane in (BesidePlane, BetweenFaces):
    PLANES.register(_plane)
AXES: Kinds[Any] = Kinds("way to state an axis")
for _axis in (SquareTo, Crossing):
    AXES.register(_axis)


class OwnPlane(BuildStep):
    """A plane of the part's own."""

    title: ClassVar[str] = "Plane"
    about: ClassVar[str] = "a plane to draw on, mirror behind or join to"
    begins: ClassVar[bool] = True

    kind: Literal["plane"] = "plane"
    how: Annotated[Any, PLANES] = Field(default_factory=BesidePlane)

    @classmethod
    def offers(cls, face: Under) -> list[StepOption]:
        if face.kind != "plane":
            return []
        beside = cls(name="Plane", how=BesidePlane(plane=face.name, offset=face.size(0.2)))
        return [StepOption("A plane at a distance", beside, ("how.offset",))]

    @staticmethod
    def recipe(n: Numbers[OwnPlane]) -> Recipe:
        return {"do": "mark", "is": "plane", **PLANES[n.how.kind].how(n.how)}


class OwnAxis(BuildStep):
    """An axis of the part's own."""

    title: ClassVar[str] = "Axis"
    about: ClassVar[str] = "an axis to turn about or join to"
    begins: ClassVar[bool] = True

    kind: Literal["axis"] = "axis"
    how: Annotated[Any, AXES] = Field(default_factory=SquareTo)

    @staticmethod
    def recipe(n: Numbers[OwnAxis]) -> Recipe:
        return {"do": "mark", "is": "axis", **AXES[n.how.kind].how(n.how)}


class OwnPoint(OnPlane):
    """A point of the part's own, on a plane or beside it."""

    title: ClassVar[str] = "Point"
    about: ClassVar[str] = "a point to join to"
    begins: ClassVar[bool] = True

    kind: Literal["point"] = "point"
    x: Length = "0 mm"
    y: Length = "0 mm"

    @staticmethod
    def recipe(n: Numbers[OwnPoint]) -> Recipe:
        return {"do": "mark", "is": "point", "how": "place", "plane": plane_of(n), "x": n.x, "y": n.y}


#: kinds of build steps that state a place: the datum of each is named after the step and its kind
MARKS = ("plane", "axis", "point")
