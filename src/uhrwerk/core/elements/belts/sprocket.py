"""Sprocket for a roller chain.

Pitch diameter p / sin(pi / z), root diameter less the roller's, tip diameter d + p (1 - 1.6 / z) - d1 at least, roller seat of
0.505 d1: ISO 606, from memory. Flanks are drawn straight from seat to tip.
"""

from __future__ import annotations

from math import acos, atan2, cos, hypot, pi, sin
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.belts.wheel import drive, on_shaft, rim
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, Growth
from uhrwerk.core.field import Numbers, Size, SizeOrNone, Whole, whole
from uhrwerk.core.solids import Datum, Recipe
from uhrwerk.core.solids.recipe import Outline, path

#: the seat's radius in the roller's diameter; half of the angle that the seat spans, rad (between 60 and 70 deg)
SEAT, SPAN = 0.505, 1.13


class Sprocket(Element):
    """A sprocket from z = 0; the middle of a tooth lies on x."""

    title: ClassVar[str] = "Sprocket"
    about: ClassVar[str] = "A toothed wheel for a roller chain."
    group: ClassVar[str] = "Belts and chains"
    hint: ClassVar[str] = "teeth"

    kind: Literal["sprocket"] = "sprocket"
    teeth: Annotated[Whole, whole(9, 150)] = "17"
    pitch: Size = Field(default="8 mm", title="Pitch of the chain")
    roller: Size = Field(default="5 mm", title="Roller diameter")
    width: Size = Field(default="2.8 mm", title="Width of the teeth")
    bore: SizeOrNone = "8 mm"

    @staticmethod
    def faults(n: Numbers[Sprocket]) -> list[tuple[str, str]]:
        if not 0.4 * n.pitch < n.roller < 0.75 * n.pitch:
            return [("roller", "must lie between 0.4 and 0.75 of the pitch")]
        return [("bore", "reaches the teeth")] if n.bore / 2 >= pitch_radius(n) - n.roller / 2 else []

    @staticmethod
    def solid(n: Numbers[Sprocket]) -> Recipe:
        return rim("sprocket", _outline(n), tip(n), n, n.teeth)

    @staticmethod
    def datums(n: Numbers[Sprocket]) -> dict[str, Datum]:
        return on_shaft(n)

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        teeth, _ = g.whole("teeth", "17")
        asks = {"teeth": teeth, "next_teeth": g.whole("next_teeth", teeth)[0]}

        def made(bore: str, other: bool) -> Sprocket:
            return cls(bore=bore, teeth=asks["next_teeth"] if other else teeth)

        return drive(g, "A chain to a shaft of its own in the plate", "Sprocket", "belt", made, asks)

    @staticmethod
    def dimensions(n: Numbers[Sprocket]) -> list[DrawnDimension]:
        out = [along_z("width", 0, n.width, tip(n))]
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[Sprocket]) -> list[Derived]:
        r = pitch_radius(n)
        return [
            ("Pitch diameter", 2 * r, "length"), ("Root diameter", 2 * r - n.roller, "length"), ("Tip diameter", 2 * tip(n), "length"),
        ]  # fmt: skip


def pitch_radius(n: Numbers[Sprocket]) -> float:
    """Radius on which the rollers' centres lie, m."""
    return float(n.pitch / sin(pi / n.teeth) / 2)


def tip(n: Numbers[Sprocket]) -> float:
    """Radius of the tips, m."""
    return float(pitch_radius(n) + (n.pitch * (1 - 1.6 / n.teeth) - n.roller) / 2)


def _outline(n: Numbers[Sprocket]) -> Outline:
    """Round seats for the rollers, and teeth between with straight flanks that narrow to a third of the pitch angle at the tip."""
    r, seat, step, high = pitch_radius(n), SEAT * n.roller, 2 * pi / n.teeth, tip(n)
    # a seat's end, seen from the wheel's centre with the seat's middle on x
    x, y = r - seat * cos(SPAN), seat * sin(SPAN)
    far, end = hypot(x, y), atan2(y, x)
    flat = min(step / 12, (step / 2 - end) / 2)
    if high <= far:  # a tooth so low that the seat reaches its tip
        end = acos((r**2 + high**2 - seat**2) / (2 * r * high))
        far, flat = high, (step / 2 - end) / 2

    def at(radius: float, angle: float) -> list[float]:
        return [radius * cos(angle), radius * sin(angle)]

    steps: list[list[object]] = []
    start = at(high, -flat)
    for k in range(n.teeth):
        tooth, roller = k * step, (k + 0.5) * step
        steps += [["arc", at(high, tooth), at(high, tooth + flat)], ["line", at(far, roller - end)]]
        steps += [["arc", at(r - seat, roller), at(far, roller + end)], ["line", at(high, tooth + step - flat)]]
    steps[-1][-1] = start
    return path(start, *steps)
