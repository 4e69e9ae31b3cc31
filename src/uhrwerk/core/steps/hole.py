"""Holes: plain, stepped, countersunk or tapped, at points, on a circle or on a grid."""

from __future__ import annotations

from collections.abc import Mapping
from math import cos, pi, sin, tan
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Id, Kinds, Length, Model, Numbers, OneOf, Size, Whole, whole
from uhrwerk.core.field.ref import FaceName, Neighbour
from uhrwerk.core.outlines import OutlineHandle, Unfit, point
from uhrwerk.core.steps.screw_sizes import sink_angle, table
from uhrwerk.core.steps.step import OnPlane, StepOption, Under, plane_of


class Spot(Model):
    x: Length = "0 mm"
    y: Length = "0 mm"


class AtPoints(Model):
    """At points on the plane."""

    title: ClassVar[str] = "At points"

    kind: Literal["points"] = "points"
    spots: dict[Id, Spot] = Field(default_factory=lambda: {"a": Spot()}, min_length=1, max_length=200)

    @staticmethod
    def places(n: Numbers[AtPoints]) -> list[tuple[float, float]]:
        return [(s.x, s.y) for s in n.spots.values()]


class RoundMiddle(Model):
    """Holes that lie round a middle: where the first of single points lay, if there were such before."""

    @classmethod
    def from_other_kind(cls, other: Mapping[str, Any]) -> dict[str, Any]:
        first: Mapping[str, Any] = next(iter(other.get("spots", {}).values()), {})
        return super().from_other_kind({**other, **first})


class OnCircle(RoundMiddle):
    """Evenly on a circle."""

    title: ClassVar[str] = "On a circle"

    kind: Literal["circle"] = "circle"
    count: Annotated[Whole, whole(1, 200)] = "4"
    diameter: Size = "30 mm"
    x: Length = "0 mm"
    y: Length = "0 mm"
    first: Angle = "0 deg"

    @staticmethod
    def places(n: Numbers[OnCircle]) -> list[tuple[float, float]]:
        angles = [n.first + 2 * pi * k / n.count for k in range(n.count)]
        return [(n.x + n.diameter / 2 * cos(a), n.y + n.diameter / 2 * sin(a)) for a in angles]


class OnGrid(RoundMiddle):
    """In rows and columns, round a middle."""

    title: ClassVar[str] = "On a grid"

    kind: Literal["grid"] = "grid"
    columns: Annotated[Whole, whole(1, 100)] = "2"
    rows: Annotated[Whole, whole(1, 100)] = "2"
    column_distance: Size = "20 mm"
    row_distance: Size = "20 mm"
    x: Length = "0 mm"
    y: Length = "0 mm"

    @staticmethod
    def places(n: Numbers[OnGrid]) -> list[tuple[float, float]]:
        return [
            (n.x + (c - (n.columns - 1) / 2) * n.column_distance, n.y + (r - (n.rows - 1) / 2) * n.row_distance)
            for r in range(n.rows) for c in range(n.columns)
        ]  # fmt: skip


class OverBores(Model):
    """Over the bores that another part has in one of its flat faces, as they lie on that face."""

    title: ClassVar[str] = "Over another part's bores"

    kind: Literal["over_bores"] = "over_bores"
    part: Neighbour = ""
    face: FaceName = ""

    @staticmethod
    def places(n: Numbers[OverBores]) -> dict[str, Any]:
        if not n.part or not n.face:
            raise Unfit("choose the part over whose bores it lies, and a face of that part")
        return {"over": {"of_part": n.part, "face": n.face}}


PLACES: Kinds[Any] = Kinds("places of holes")
for _places in (AtPoints, OnCircle, OnGrid, OverBores):
    PLACES.register(_places)


class Hole(OnPlane):
    """Holes square to a plane, all alike. A screw's size gives their diameters by table."""

    title: ClassVar[str] = "Hole"
    about: ClassVar[str] = "drills holes, also for screws"

    kind: Literal["hole"] = "hole"
    at: Annotated[Any, PLACES] = Field(default_factory=AtPoints)
    form: Literal["plain", "stepped", "countersunk", "tapped"] = "plain"
    screw: Annotated[str, OneOf(("", *table()))] = Field(default="", title="For a screw")
    fit: Literal["fine", "medium", "coarse"] = "medium"
    diameter: Size = "5 mm"
    through: bool = Field(default=True, title="Through all")
    depth: Size = "10 mm"
    wide: Size = Field(default="10 mm", title="Counterbore diameter")
    recess: Size = Field(default="3 mm", title="Counterbore depth")
    sink: Angle = Field(default="90 deg", title="Countersink angle")

    def idle(self) -> set[str]:
        recess = {
            "plain": {"wide", "recess", "sink"},
            "tapped": {"wide", "recess", "sink"},
            "stepped": {"sink"},
            "countersunk": {"recess"},
        }
        by_table = {"diameter", "wide", "recess", "sink"} if self.screw else {"fit"}
        taps = {"fit"} if self.form == "tapped" else set()
        return recess[self.form] | by_table | taps | ({"depth"} if self.through else set())

    @staticmethod
    def derived(n: Numbers[Hole]) -> list[tuple[str, float, str]]:
        return [("Diameter by table", bore(n), "length")] if n.screw else []

    @classmethod
    def offers(cls, face: Under) -> list[StepOption]:
        if face.kind != "plane":
            return []
        at = AtPoints(spots={"a": Spot(x=face.at_x, y=face.at_y)})
        return [
            StepOption(
                "A hole",
                cls(name="Hole", plane=face.name, diameter=face.size(0.15), at=at),
                ("diameter", "at.spots.a.x", "at.spots.a.y"),
            )
        ]

    @staticmethod
    def handles(n: Numbers[Hole]) -> list[OutlineHandle]:
        if n.at.kind == "points":
            return [point(f"hole {k}", s.x, s.y, f"at.spots.{i}.") for k, (i, s) in enumerate(n.at.spots.items(), 1)]
        return [point("middle", n.at.x, n.at.y, "at.")] if n.at.kind in ("circle", "grid") else []

    @staticmethod
    def moves(n: Numbers[Hole], role: str) -> tuple[tuple[str, float], ...]:
        what = role.rpartition("_")[0]
        if what == "hole" and not n.screw:
            return (("diameter", -2.0),)
        return (("depth", -1.0),) if what == "bottom" and not n.through else ()

    @staticmethod
    def recipe(n: Numbers[Hole]) -> dict[str, Any]:
        diameter, wide, recess = bore(n), n.wide, n.recess
        if n.screw and n.form == "stepped":
            row = table()[n.screw]
            wide, recess = row["recess"], row["head"]
        elif n.screw:
            wide = table()[n.screw]["sunk"]
            if n.form == "countersunk" and wide == 0:
                raise Unfit(f"the tables have no countersunk head {n.screw}: choose no screw and give the diameters")
        depth = None if n.through else n.depth
        r, big = diameter / 2, wide / 2
        profile: list[list[Any]] = [[r, 0.0, ""]]
        if n.form in ("stepped", "countersunk"):
            if big <= r:
                raise Unfit("its recess is no wider than its hole")
            if n.form == "stepped":
                profile = [[big, 0.0, ""], [big, recess, "recess"], [r, recess, "seat"]]
            else:
                if not n.screw and not 0.1 < n.sink < 3.0:
                    raise Unfit("its countersink angle must lie between 6 and 170 degrees")
                recess = countersink(n)
                profile = [[big, 0.0, ""], [r, recess, "sink"]]
            if depth is not None and depth <= recess:
                raise Unfit("it is no deeper than its recess")
        profile += [[r, depth, "hole"], [0.0, depth, "bottom" if depth is not None else ""]]
        return {"do": "holes", "plane": plane_of(n), "places": PLACES[n.at.kind].places(n.at), "profile": profile}


def bore(n: Numbers) -> float:
    """Its diameter, m: a screw's by table, of its tap drill where it is tapped."""
    if not n.screw:
        return float(n.diameter)
    return table()[n.screw]["tap" if n.form == "tapped" else n.fit]


def countersink(n: Numbers) -> float:
    """How deep its countersink is, m."""
    wide, angle = (table()[n.screw]["sunk"], sink_angle(n.screw)) if n.screw else (n.wide, n.sink)
    return float((wide - bore(n)) / 2 / tan(angle / 2))
