"""Pulley for a toothed belt: its pitch circle has a whole number of the belt's teeth.

Pitch diameter z p / pi, and a tip circle that lies below it by the distance of the belt's pitch line from the bottom of its
teeth's spaces: ISO 5294 (trapezoidal), from memory. Grooves are drawn plain, with straight sides.
"""

from __future__ import annotations

from math import cos, pi, sin
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.belts.wheel import drive, edges, on_shaft, rim
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, Growth
from uhrwerk.core.field import Numbers, Size, SizeOrNone, Whole, whole
from uhrwerk.core.solids import Datum, Recipe
from uhrwerk.core.solids.recipe import Outline, path


class ToothedPulley(Element):
    """A rim with grooves for a toothed belt from z = 0; the middle of a tooth lies on x."""

    title: ClassVar[str] = "Toothed pulley"
    about: ClassVar[str] = "A pulley for a toothed belt, with flanges."
    group: ClassVar[str] = "Belts and chains"
    hint: ClassVar[str] = "teeth"

    kind: Literal["toothed_pulley"] = "toothed_pulley"
    teeth: Annotated[Whole, whole(8, 300)] = "20"
    pitch: Size = Field(default="5 mm", title="Pitch of the belt")
    width: Size = Field(default="11 mm", title="Width of the rim")
    bore: SizeOrNone = "8 mm"
    pitch_line: Size = Field(default="0.5 mm", title="Belt's pitch line over the tips")
    groove: Size = Field(default="1.3 mm", title="Depth of a groove")
    flange: SizeOrNone = Field(default="1.5 mm", title="Flange height over the tips")
    flange_width: Size = "1 mm"

    @staticmethod
    def faults(n: Numbers[ToothedPulley]) -> list[tuple[str, str]]:
        if tip(n) - n.groove <= 0:
            return [("groove", "leaves no rim")]
        return [("bore", "reaches the grooves")] if n.bore / 2 >= tip(n) - n.groove else []

    @staticmethod
    def solid(n: Numbers[ToothedPulley]) -> Recipe:
        return rim("pulley", _outline(n), tip(n), n, n.teeth)

    @staticmethod
    def datums(n: Numbers[ToothedPulley]) -> dict[str, Datum]:
        return on_shaft(n)

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        teeth, _ = g.whole("teeth", "20")
        asks = {"teeth": teeth, "next_teeth": g.whole("next_teeth", teeth)[0], "pitch": g.ask("pitch", "5 mm")}

        def made(bore: str, other: bool) -> ToothedPulley:
            return cls(bore=bore, teeth=asks["next_teeth"] if other else teeth, pitch=asks["pitch"])

        return drive(g, "A toothed belt to a shaft of its own in the plate", "Toothed pulley", "belt", made, asks)

    @staticmethod
    def dimensions(n: Numbers[ToothedPulley]) -> list[DrawnDimension]:
        out = [along_z("width", 0, n.width, tip(n)), *edges(n, tip(n))]
        out += [along_x("pitch_line", tip(n), tip(n) + n.pitch_line), along_x("groove", -tip(n), n.groove - tip(n))]
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[ToothedPulley]) -> list[Derived]:
        return [("Pitch diameter", n.teeth * n.pitch / pi, "length"), ("Tip diameter", 2 * tip(n), "length")]


def tip(n: Numbers[ToothedPulley]) -> float:
    """Radius of the tips, m."""
    return float(n.teeth * n.pitch / pi / 2 - n.pitch_line)


def _outline(n: Numbers[ToothedPulley]) -> Outline:
    """Teeth and grooves: half of the pitch each at the tips, the groove's floor narrower by a sixth of the pitch."""
    high, low, step = tip(n), tip(n) - n.groove, 2 * pi / n.teeth
    places = ((high, -step / 4), (high, step / 4), (low, step / 3), (low, 2 * step / 3))
    points = [[r * cos(k * step + a), r * sin(k * step + a)] for k in range(n.teeth) for r, a in places]
    return path(points[0], *(["line", p] for p in (*points[1:], points[0])))
