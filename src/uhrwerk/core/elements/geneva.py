"""Geneva wheel and its driver: a pin turns the wheel on by one slot each turn; between, a locking disc holds it.

Proportions of the external wheel: the pin enters a slot along it, so that crank radius = distance sin(pi / slots) (Norton, Design of
Machinery, 3.10; from memory). The wheel's angle while the pin is in a slot: tan g = r sin a / (c - r cos a).
"""

from __future__ import annotations

from math import cos, hypot, pi, sin
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import GAP, PLAY, Ground, GrownPart, Growth, Tie
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Numbers, Size, SizeOrNone, Whole, whole
from uhrwerk.core.solids import Datum, Recipe, axis, bar, circle, cut_out, extrude, plane, recipe

#: material kept between a slot and the locking arc beside it, m
WALL = 1e-3


class GenevaWheel(Element):
    """A wheel with radial slots and locking arcs between them; a slot lies on x."""

    title: ClassVar[str] = "Geneva wheel"
    about: ClassVar[str] = "A slotted wheel that is turned on by one slot each turn of its driver, and locked between."
    group: ClassVar[str] = "Gears"
    hint: ClassVar[str] = "distance"

    kind: Literal["geneva_wheel"] = "geneva_wheel"
    slots: Annotated[Whole, whole(4, 24)] = "6"
    distance: Size = Field(default="50 mm", title="Distance of the axes")
    pin_diameter: Size = "6 mm"
    play: SizeOrNone = Field(default="0.2 mm", title="Play of pin and locking disc")
    lock: Size = Field(default="17 mm", title="Radius of the locking disc")
    width: Size = "6 mm"
    bore: SizeOrNone = "8 mm"

    @staticmethod
    def faults(n: Numbers[GenevaWheel]) -> list[tuple[str, str]]:
        return _faults(n) or ([("bore", "reaches the slots")] if n.bore / 2 > _floor(n) - WALL else [])

    @staticmethod
    def solid(n: Numbers[GenevaWheel]) -> Recipe:
        steps = [extrude(circle(0, 0, outer(n)), 0, n.width, [circle(0, 0, n.bore / 2)] if n.bore else [])]
        for k in range(n.slots):
            along, between = 2 * pi * k / n.slots, 2 * pi * (k + 0.5) / n.slots
            far, near = outer(n) + n.pin_diameter, n.distance - crank(n)
            ends = (near * cos(along), near * sin(along), far * cos(along), far * sin(along))
            steps.append(cut_out(bar(*ends, n.pin_diameter + n.play), 0, n.width))
            steps.append(cut_out(circle(n.distance * cos(between), n.distance * sin(between), n.lock), 0, n.width))
        return recipe({"wheel": steps}, order={"wheel": n.slots})

    @staticmethod
    def datums(n: Numbers[GenevaWheel]) -> dict[str, Datum]:
        middle = axis(0, 0, 0, n.bore / 2, "bore", n.width) if n.bore else axis(0, 0, 0)
        return {"axis": middle, "top": plane(0, 0, n.width), "bottom": plane(0, 0, 0, up=False)}

    @staticmethod
    def dimensions(n: Numbers[GenevaWheel]) -> list[DrawnDimension]:
        out = [
            along_z("width", 0, n.width),
            along_x("distance", 0, n.distance),
            along_x("lock", n.distance - n.lock, n.distance),
        ]
        out.append(across("pin_diameter", n.pin_diameter, n.distance - crank(n)))
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[GenevaWheel]) -> list[Derived]:
        turning = (n.slots - 2) / (2 * n.slots)
        return [
            ("Crank radius", crank(n), "length"), ("Outer diameter", 2 * outer(n), "length"),
            ("Turns during", turning * 2 * pi, "angle"), ("Step", 2 * pi / n.slots, "angle"),
        ]  # fmt: skip


class GenevaDriver(Element):
    """The driver of a Geneva wheel: a disc with a pin on x, and above it the locking disc with its relief towards the pin."""

    title: ClassVar[str] = "Geneva driver"
    about: ClassVar[str] = "A disc with a pin and a locking disc that turns a Geneva wheel on."
    group: ClassVar[str] = "Gears"
    hint: ClassVar[str] = "distance"

    kind: Literal["geneva_driver"] = "geneva_driver"
    slots: Annotated[Whole, whole(4, 24)] = Field(default="6", title="Slots of the wheel")
    distance: Size = Field(default="50 mm", title="Distance of the axes")
    pin_diameter: Size = "6 mm"
    play: SizeOrNone = Field(default="0.2 mm", title="Play of pin and locking disc")
    lock: Size = Field(default="17 mm", title="Radius of the locking disc")
    width: Size = Field(default="6 mm", title="Width of the wheel")
    thickness: Size = Field(default="4 mm", title="Thickness of the disc")
    gap: SizeOrNone = Field(default="0.5 mm", title="Gap under the wheel")
    bore: SizeOrNone = "6 mm"

    @staticmethod
    def faults(n: Numbers[GenevaDriver]) -> list[tuple[str, str]]:
        short = (n.lock - n.play) / crank(n) * n.distance * (1 - cos(pi / n.slots)) - n.play - n.bore / 2 < 0
        return _faults(n) or ([("bore", "reaches the relief of the locking disc")] if short else [])

    @staticmethod
    def solid(n: Numbers[GenevaDriver]) -> Recipe:
        holes = [circle(0, 0, n.bore / 2)] if n.bore else []
        low, high = n.thickness, n.thickness + n.gap + n.width
        scale = (n.lock - n.play) / crank(n)  # the wheel as large as leaves the locking disc where the pin enters
        disc = extrude(circle(0, 0, crank(n) + n.pin_diameter), 0, low, holes)
        steps = [
            extrude(circle(0, 0, n.lock - n.play), low, high, holes),
            cut_out(circle(n.distance * scale, 0, n.distance * cos(pi / n.slots) * scale + n.play), low, high),
        ]
        pin = extrude(circle(crank(n), 0, n.pin_diameter / 2), low, high)
        return recipe({"disc": [disc], "lock": steps, "pin": [pin]})

    @staticmethod
    def datums(n: Numbers[GenevaDriver]) -> dict[str, Datum]:
        high = n.thickness + n.gap + n.width
        middle = axis(0, 0, 0, n.bore / 2, "bore", high) if n.bore else axis(0, 0, 0)
        return {
            "axis": middle, "pin": axis(crank(n), 0, n.thickness, n.pin_diameter / 2, "pin", high - n.thickness),
            "top": plane(0, 0, high), "bottom": plane(0, 0, 0, up=False),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not g.in_plate:
            return []
        (slots, count), distance = g.whole("slots", "6"), g.ask("distance", "50 mm")
        away, above = g.value(distance, "length"), g.text(g.depth + GAP)
        lock = g.text(
            away * sin(pi / count) - 0.009
        )  # the pin and half of it again within its circle (common practice)
        driver = cls(slots=slots, distance=distance, lock=lock, bore=g.running)
        wheel = GenevaWheel(slots=slots, distance=distance, lock=lock)
        lift = g.text(g.thickness + GAP + 0.0045)  # over the driver's disc and its gap
        wide, high = "8 mm", f"{lift} + 6 mm"
        wheel_shaft = Pin(diameter=f"{wide} - {g.text(PLAY)}", length=high)
        wheel = wheel.model_copy(update={"bore": wheel_shaft.diameter})
        pieces = (
            GrownPart("Driver shaft", Pin(diameter=g.running, length=f"{above} + 10.5 mm"), {"kind": "revolute", "offset": g.down}),
            GrownPart("Driver", driver, {"kind": "rigid", "offset": above, "turn": "180 deg"}, on="0"),
            GrownPart("Wheel shaft", wheel_shaft, {"kind": "revolute", "offset": g.text(-g.thickness)}, on="frame", turn=pi / count),
            GrownPart("Geneva wheel", wheel, {"kind": "rigid", "offset": lift}, on="2"),
        )  # fmt: skip
        ties = (Tie(("1", "axis"), ("3", "axis"), pair="geneva"),)
        title = "A Geneva wheel and its driver, which turns in it"
        return [Growth(title, pieces, ties, {"slots": slots, "distance": distance}, away, wide, straight=True)]

    @staticmethod
    def dimensions(n: Numbers[GenevaDriver]) -> list[DrawnDimension]:
        low = n.thickness + n.gap
        out = [
            along_z("thickness", 0, n.thickness),
            along_z("width", low, low + n.width),
            along_x("distance", 0, n.distance),
        ]
        out += [along_x("lock", -n.lock, 0), across("pin_diameter", n.pin_diameter, crank(n))]
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[GenevaDriver]) -> list[Derived]:
        return [("Crank radius", crank(n), "length")]


def crank(n: Numbers) -> float:
    """From the driver's axis to its pin, m."""
    return float(n.distance * sin(pi / n.slots))


def outer(n: Numbers) -> float:
    """Radius of the wheel, m: as far as the slots guide the whole pin."""
    return float(hypot(n.distance * cos(pi / n.slots), n.pin_diameter / 2))


def _floor(n: Numbers) -> float:
    """Radius of the wheel's slot bottoms, m."""
    return float(n.distance - crank(n) - (n.pin_diameter + n.play) / 2)


def _faults(n: Numbers) -> list[tuple[str, str]]:
    faults = []
    if _floor(n) < WALL:
        faults.append(("pin_diameter", "leaves nothing of the wheel between its slots"))
    if n.lock > crank(n) - n.pin_diameter / 2 - n.play - WALL:
        most = crank(n) - n.pin_diameter / 2 - n.play - WALL
        faults.append(("lock", f"runs into the slots: it must be below {most * 1e3:.2f} mm"))
    return faults
