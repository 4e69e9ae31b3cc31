"""Parallel key, DIN 6885, with the seat that it asks for in a shaft."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, along_x
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.hardware.sizes import for_range, sizes, table
from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.outlines import Rectangle, Slot
from uhrwerk.core.solids import Datum, Recipe, bar, extrude, plane, recipe
from uhrwerk.core.solids.datum import axis
from uhrwerk.core.steps import Cut


class ParallelKey(Element):
    """A parallel key with round ends along x, from z = 0 up; its middle is the origin."""

    title: ClassVar[str] = "Parallel key"
    about: ClassVar[str] = "DIN 6885, form A."
    group: ClassVar[str] = "Hardware"
    hint: ClassVar[str] = "length"

    kind: Literal["parallel_key"] = "parallel_key"
    size: Annotated[str, sizes("keys")] = "5x5"
    length: Size = "20 mm"

    @staticmethod
    def faults(n: Numbers[ParallelKey]) -> list[tuple[str, str]]:
        wide = table("keys")[n.size]["wide"]
        return [] if n.length > wide else [("length", f"must be above the width, {wide * 1e3:g} mm")]

    @staticmethod
    def solid(n: Numbers[ParallelKey]) -> Recipe:
        t = table("keys")[n.size]
        half = (n.length - t["wide"]) / 2
        return recipe({"key": [extrude(bar(-half, 0, half, 0, t["wide"]), 0, t["high"])]})

    @staticmethod
    def datums(n: Numbers[ParallelKey]) -> dict[str, Datum]:
        t = table("keys")[n.size]
        high, half = t["high"], (n.length - t["wide"]) / 2
        return {
            "axis": axis(0, 0, 0),
            "end": axis(half, 0, 0, t["wide"] / 2, "pin", high),
            "bottom": plane(0, 0, 0, up=False),
            "top": plane(0, 0, high),
        }

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if g.bore and g.upright:
            return cls._in_the_hub(g)
        shaft = 2 * g.datum.radius
        size = for_range("keys", "above", "upto", shaft, g.unit) if g.pin else ""
        if not size or not g.along_z:
            return []
        t = table("keys")[size]
        length, at = g.ask("length", g.text(min(g.depth / 2, 4 * t["wide"]))), g.ask("at", g.text(g.low + g.depth / 2))
        up = f"$at + {g.text(float(g.datum.origin[2]))}"
        seat = Cut(
            name="Key seat", plane="yz", offset=g.text(g.datum.radius), depth=g.text(t["shaft"]),
            outline=Slot(length=f"$length - {g.text(t['wide'])}", width=g.text(t["wide"]), y=up, turn="90 deg"),
        )  # fmt: skip
        key = GrownPart(
            "Key",
            cls.model_validate({"size": size, "length": "$length"}),
            {"kind": "rigid", "flip": True},
            by="bottom",
            at="$key_seat.end",
        )
        asks = {"length": length, "at": at}
        return [Growth(f"A key {size} in its seat", (key,), asks=asks, done=(seat,), shared=asks)]

    @classmethod
    def _in_the_hub(cls, g: Ground) -> list[Growth]:
        """The keyway alone, through a hub's bore: the key is that of the shaft."""
        shaft = 2 * g.datum.radius
        size = for_range("keys", "above", "upto", shaft, g.unit)
        if not size:
            return []
        t, (x, y, _) = table("keys")[size], g.datum.origin
        long = g.datum.radius + t["hub"]
        outline = Rectangle(length=g.text(long), width=g.text(t["wide"]), x=g.text(x + long / 2), y=g.text(y))
        way = Cut(name="Keyway", plane="xy", outline=outline, through=True, both=True)
        return [Growth(f"A keyway for {size}", (), done=(way,))]

    @staticmethod
    def dimensions(n: Numbers[ParallelKey]) -> list[DrawnDimension]:
        return [along_x("length", -n.length / 2, n.length / 2)]

    @staticmethod
    def derived(n: Numbers[ParallelKey]) -> list[Derived]:
        t = table("keys")[n.size]
        return [("Depth in the shaft", t["shaft"], "length"), ("Depth in the hub", t["hub"], "length")]
