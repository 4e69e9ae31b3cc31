"""Cap screw with hexagon socket, ISO 4762."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.hardware.screwed import in_a_hole, shank, socket, threaded
from uhrwerk.core.elements.hardware.sizes import nearest, sizes, table
from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe

#: how far a hole may be from a clearance hole of the table, m
NEAR = 0.3e-3


class CapScrew(Element):
    """A cap screw, its head above z = 0. Its thread is drawn plain, at the diameter of its tap drill, so that it touches what is
    tapped for it; the length without thread is drawn at full diameter."""

    title: ClassVar[str] = "Cap screw"
    about: ClassVar[str] = "ISO 4762, with hexagon socket."
    group: ClassVar[str] = "Hardware"
    hint: ClassVar[str] = "length"

    kind: Literal["cap_screw"] = "cap_screw"
    size: Annotated[str, sizes("screws")] = "M5"
    length: Size = "16 mm"

    @staticmethod
    def solid(n: Numbers[CapScrew]) -> Recipe:
        t = table("screws")[n.size]
        head = extrude(circle(0, 0, t["head"] / 2), 0, t["high"])
        return recipe({"screw": [head, *shank(t, 0.0, -n.length), socket(t, t["high"])]})

    @staticmethod
    def datums(n: Numbers[CapScrew]) -> dict[str, Datum]:
        t = table("screws")[n.size]
        whole = t["d"] if threaded(t, n.length) < n.length else t["core"]
        return {
            "axis": axis(0, 0, 0, whole / 2, "pin", -n.length), "under_head": plane(0, 0, 0, up=False),
            "top": plane(0, 0, t["high"]), "end": plane(0, 0, -n.length, up=False),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        size = nearest("screws", "clear", 2 * g.datum.radius, NEAR, g.unit) if g.bore else ""
        if not size:
            return in_a_hole(cls, g, "stepped", "A cap screw in its stepped hole")
        length = g.ask("length", g.text(g.depth + table("screws")[size]["d"] * 1.5))
        screw = GrownPart(
            "Screw", cls.model_validate({"size": size, "length": length}), {"kind": "rigid", "offset": g.text(g.upper)}
        )
        return [Growth(f"A cap screw {size} through it", (screw,), asks={"length": length})]

    @staticmethod
    def dimensions(n: Numbers[CapScrew]) -> list[DrawnDimension]:
        return [along_z("length", -n.length, 0, table("screws")[n.size]["d"] / 2)]

    @staticmethod
    def derived(n: Numbers[CapScrew]) -> list[Derived]:
        t = table("screws")[n.size]
        return [
            ("Head diameter", t["head"], "length"), ("Head height", t["high"], "length"), ("Pitch", t["pitch"], "length"),
            ("Thread", threaded(t, n.length), "length"), ("Key", t["socket"], "length"),
        ]  # fmt: skip
