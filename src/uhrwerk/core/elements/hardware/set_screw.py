"""Set screw with hexagon socket and flat point, ISO 4026."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.hardware.screwed import socket
from uhrwerk.core.elements.hardware.sizes import nearest, sizes, table
from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, axis, chamfer, circle, extrude, plane, recipe


class SetScrew(Element):
    """A set screw, its socket at z = 0, its point below; its thread is drawn plain, at the diameter of its tap drill."""

    title: ClassVar[str] = "Set screw"
    about: ClassVar[str] = "ISO 4026, with hexagon socket and flat point."
    group: ClassVar[str] = "Hardware"
    hint: ClassVar[str] = "length"

    kind: Literal["set_screw"] = "set_screw"
    size: Annotated[str, sizes("set_screws")] = "M4"
    length: Size = "8 mm"

    @staticmethod
    def faults(n: Numbers[SetScrew]) -> list[tuple[str, str]]:
        t = table("set_screws")[n.size]
        least = t["deep"] + (t["core"] - t["point"]) / 2
        return [] if n.length > least else [("length", f"must be above {least * 1e3:g} mm, its socket and its point")]

    @staticmethod
    def solid(n: Numbers[SetScrew]) -> Recipe:
        t = table("set_screws")[n.size]
        body = [
            extrude(circle(0, 0, t["core"] / 2), -n.length, 0),
            chamfer((t["core"] - t["point"]) / 2, at_z=-n.length),
        ]
        return recipe({"screw": [*body, socket(t, 0.0)]})

    @staticmethod
    def datums(n: Numbers[SetScrew]) -> dict[str, Datum]:
        t = table("set_screws")[n.size]
        return {
            "axis": axis(0, 0, 0, t["core"] / 2, "pin", -n.length),
            "top": plane(0, 0, 0),
            "end": plane(0, 0, -n.length, up=False),
        }

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        size = nearest("set_screws", "core", 2 * g.datum.radius, 1e-5, g.unit) if g.bore else ""
        if not size:
            return []
        length = g.ask("length", g.text(g.depth))
        screw = GrownPart(
            "Set screw",
            cls.model_validate({"size": size, "length": length}),
            {"kind": "rigid", "offset": g.text(g.upper)},
        )
        return [Growth(f"A set screw {size} in it", (screw,), asks={"length": length})]

    @staticmethod
    def dimensions(n: Numbers[SetScrew]) -> list[DrawnDimension]:
        return [along_z("length", -n.length, 0, table("set_screws")[n.size]["d"] / 2)]

    @staticmethod
    def derived(n: Numbers[SetScrew]) -> list[Derived]:
        t = table("set_screws")[n.size]
        return [
            ("Point diameter", t["point"], "length"),
            ("Pitch", t["pitch"], "length"),
            ("Key", t["socket"], "length"),
        ]
