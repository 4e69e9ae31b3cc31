"""Clevis pin with head, ISO 2341."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.hardware.sizes import nearest, sizes, table
from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, axis, chamfer, circle, extrude, plane, recipe


class ClevisPin(Element):
    """A clevis pin, its head above z = 0. Its hole for a split pin is told, not drawn."""

    title: ClassVar[str] = "Clevis pin"
    about: ClassVar[str] = "ISO 2341, with head."
    group: ClassVar[str] = "Hardware"
    hint: ClassVar[str] = "length"

    kind: Literal["clevis_pin"] = "clevis_pin"
    size: Annotated[str, sizes("clevis_pins")] = "6"
    length: Size = "24 mm"

    @staticmethod
    def faults(n: Numbers[ClevisPin]) -> list[tuple[str, str]]:
        least = 2 * table("clevis_pins")[n.size]["from_end"]
        return [] if n.length > least else [("length", f"must be above {least * 1e3:g} mm, for the split pin")]

    @staticmethod
    def solid(n: Numbers[ClevisPin]) -> Recipe:
        t = table("clevis_pins")[n.size]
        shank = [extrude(circle(0, 0, t["d"] / 2), -n.length, 0), chamfer(0.1 * t["d"], at_z=-n.length)]
        return recipe({"pin": [*shank, extrude(circle(0, 0, t["head"] / 2), 0, t["high"])]})

    @staticmethod
    def datums(n: Numbers[ClevisPin]) -> dict[str, Datum]:
        t = table("clevis_pins")[n.size]
        return {
            "axis": axis(0, 0, 0, t["d"] / 2, "pin", -n.length), "under_head": plane(0, 0, 0, up=False),
            "top": plane(0, 0, t["high"]), "end": plane(0, 0, -n.length, up=False),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        size = nearest("clevis_pins", "d", 2 * g.datum.radius - 0.5e-4, 1.5e-4, g.unit) if g.bore else ""
        if not size:
            return []
        t = table("clevis_pins")[size]
        length = g.ask("length", g.text(g.depth + 2 * t["from_end"] + t["hole"]))
        pin = GrownPart(
            "Clevis pin",
            cls.model_validate({"size": size, "length": length}),
            {"kind": "revolute", "offset": g.text(g.upper)},
        )
        return [Growth(f"A clevis pin {size} that turns in it", (pin,), asks={"length": length})]

    @staticmethod
    def dimensions(n: Numbers[ClevisPin]) -> list[DrawnDimension]:
        return [along_z("length", -n.length, 0, table("clevis_pins")[n.size]["d"] / 2)]

    @staticmethod
    def derived(n: Numbers[ClevisPin]) -> list[Derived]:
        t = table("clevis_pins")[n.size]
        return [
            ("Head diameter", t["head"], "length"), ("Head height", t["high"], "length"),
            ("Hole for the split pin", t["hole"], "length"), ("Its least distance from the end", t["from_end"], "length"),
        ]  # fmt: skip
