"""Slotted lever: a bar along x with a bore, a straight slot for a crank pin, and a tip beyond it."""

from __future__ import annotations

from math import pi
from typing import ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_y, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import GAP, PLAY, Ground, GrownPart, Growth, Tie
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, bar, circle, extrude, plane, recipe, slot


class SlottedLever(Element):
    """A lever along x with a bore at the origin and a slot; a pin of the slot's width can travel its length."""

    title: ClassVar[str] = "Slotted lever"
    about: ClassVar[str] = "A lever with a slot in which a crank pin runs: the quick return."
    group: ClassVar[str] = "Links and levers"
    hint: ClassVar[str] = "slot_length"

    kind: Literal["slotted_lever"] = "slotted_lever"
    slot_start: Size = "40 mm"
    slot_length: Size = "50 mm"
    slot_width: Size = "6.1 mm"
    tip: SizeOrNone = "20 mm"
    width: Size = "16 mm"
    thickness: Size = "5 mm"
    bore: Size = "8 mm"

    @staticmethod
    def faults(n: Numbers[SlottedLever]) -> list[tuple[str, str]]:
        problems = []
        if n.slot_width >= n.width:
            problems.append(("slot_width", "is as wide as the lever"))
        if n.bore >= n.width:
            problems.append(("bore", "is as wide as the lever"))
        if n.slot_start - n.slot_width / 2 <= n.bore / 2:
            problems.append(("slot_start", "runs the slot into the bore"))
        return problems

    @staticmethod
    def solid(n: Numbers[SlottedLever]) -> Recipe:
        opening = bar(n.slot_start, 0, n.slot_start + n.slot_length, 0, n.slot_width)
        return recipe(
            {"lever": [extrude(bar(0, 0, _reach(n), 0, n.width), 0, n.thickness, [circle(0, 0, n.bore / 2), opening])]}
        )

    @staticmethod
    def datums(n: Numbers[SlottedLever]) -> dict[str, Datum]:
        return {
            "pivot": axis(0, 0, 0, n.bore / 2, "bore", n.thickness),
            "slot": slot(n.slot_start + n.slot_length / 2, 0, 0, n.slot_length),
            "tip": axis(_reach(n), 0, 0, n.width / 2, "pin", n.thickness),
            "top": plane(_reach(n) / 2, 0, n.thickness), "bottom": plane(_reach(n) / 2, 0, 0, up=False),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not (g.pin and g.thickness and g.stated is not None and hasattr(g.sizes, "eccentricity")):
            return []
        away, wide = 2.2 * g.sizes.eccentricity, "8 mm"
        low = g.height + GAP / 2  # over the disc, round its pin
        pivot = Pin(diameter=wide, length=g.text(g.thickness + low + 0.005))
        lever = cls(
            slot_start=g.text(away - 0.1 * g.sizes.eccentricity), slot_length=g.text(2.2 * g.sizes.eccentricity), slot_width=g.running,
            bore=f"{wide} + {g.text(PLAY)}",
        )  # fmt: skip
        pieces = (
            GrownPart("Lever pivot", pivot, {"kind": "rigid", "offset": g.text(-g.thickness)}, on="frame"),
            GrownPart(
                "Slotted lever",
                lever,
                {"kind": "revolute", "offset": g.text(g.thickness + low)},
                by="pivot",
                on="0",
                turn=pi,
            ),
        )
        tie = Tie(("", g.name), ("1", "slot"), pair="slot")
        return [Growth("A slotted lever, its pivot in the plate", pieces, (tie,), away=away, wide=wide, straight=True)]

    @staticmethod
    def dimensions(n: Numbers[SlottedLever]) -> list[DrawnDimension]:
        end, h, s = n.slot_start + n.slot_length, n.width / 2, n.slot_width / 2
        out = [along_x("slot_start", 0, n.slot_start), along_x("slot_length", n.slot_start, end)]
        out += [along_x("tip", end, end + n.tip)] if n.tip else []
        out += [along_y("slot_width", -s, s, n.slot_start + n.slot_length / 2), along_y("width", -h, h, end)]
        return [*out, along_z("thickness", 0, n.thickness), across("bore", n.bore)]

    @staticmethod
    def derived(n: Numbers[SlottedLever]) -> list[Derived]:
        return [("Pivot to tip", _reach(n), "length"), ("Wall beside the slot", (n.width - n.slot_width) / 2, "length")]


def _reach(n: Numbers[SlottedLever]) -> float:
    return float(n.slot_start + n.slot_length + n.tip)
