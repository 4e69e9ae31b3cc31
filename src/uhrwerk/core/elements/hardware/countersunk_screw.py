"""Countersunk screw with hexagon socket, ISO 10642 and, in inches, ASME B18.3."""

from __future__ import annotations

from math import tan
from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, Growth
from uhrwerk.core.elements.hardware.screwed import in_a_hole, shank, socket, threaded
from uhrwerk.core.elements.hardware.sizes import sizes, table
from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, axis, bevel, circle, extrude, plane, recipe
from uhrwerk.core.steps.screw_sizes import sink_angle


class CountersunkScrew(Element):
    """A countersunk screw, the flat of its head at z = 0, where the sharp edge of its cone would lie; its thread is drawn as that
    of cap screws."""

    title: ClassVar[str] = "Countersunk screw"
    about: ClassVar[str] = "ISO 10642, ASME B18.3, with hexagon socket."
    group: ClassVar[str] = "Hardware"
    hint: ClassVar[str] = "length"

    kind: Literal["countersunk_screw"] = "countersunk_screw"
    size: Annotated[str, sizes("countersunk_screws")] = "M5"
    length: Size = "16 mm"

    @staticmethod
    def faults(n: Numbers[CountersunkScrew]) -> list[tuple[str, str]]:
        high = table("countersunk_screws")[n.size]["high"]
        return [] if n.length > high else [("length", f"must be above the head's height, {high * 1e3:g} mm")]

    @staticmethod
    def solid(n: Numbers[CountersunkScrew]) -> Recipe:
        t = table("countersunk_screws")[n.size]
        wide = (t["head"] - t["d"]) / 2
        cone = bevel(wide, wide / tan(sink_angle(n.size) / 2), at_z=-t["high"])
        head = [extrude(circle(0, 0, t["head"] / 2), -t["high"], 0), cone]
        return recipe({"screw": [*head, *shank(t, -t["high"], -n.length), socket(t, 0.0)]})

    @staticmethod
    def datums(n: Numbers[CountersunkScrew]) -> dict[str, Datum]:
        t = table("countersunk_screws")[n.size]
        whole = t["d"] if threaded(t, n.length) < n.length - t["high"] else t["core"]
        return {
            "axis": axis(0, 0, 0, whole / 2, "pin", -n.length), "top": plane(0, 0, 0),
            "end": plane(0, 0, -n.length, up=False),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        return in_a_hole(cls, g, "countersunk", "A countersunk screw in its hole")

    @staticmethod
    def dimensions(n: Numbers[CountersunkScrew]) -> list[DrawnDimension]:
        return [along_z("length", -n.length, 0, table("countersunk_screws")[n.size]["d"] / 2)]

    @staticmethod
    def derived(n: Numbers[CountersunkScrew]) -> list[Derived]:
        t = table("countersunk_screws")[n.size]
        return [
            ("Head diameter", t["head"], "length"), ("Head height", t["high"], "length"), ("Pitch", t["pitch"], "length"),
            ("Thread", threaded(t, n.length), "length"), ("Key", t["socket"], "length"),
        ]  # fmt: skip
