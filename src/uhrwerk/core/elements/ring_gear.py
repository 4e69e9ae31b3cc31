"""Ring gear: involute teeth inside a ring. Its tooth spaces have the form of an external gear's teeth (ISO 21771-1)."""

from __future__ import annotations

from math import pi, sin
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.carrier import Carrier
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import GAP, PLAY, Ground, GrownPart, Growth, Tie
from uhrwerk.core.elements.involute import Tooth
from uhrwerk.core.elements.spur_gear import SpurGear
from uhrwerk.core.field import Angle, GearModule, Numbers, Size, SizeOrNone, Whole, whole
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class RingGear(Element):
    """A ring with involute teeth inside; a tooth space centred on +x."""

    title: ClassVar[str] = "Ring gear"
    about: ClassVar[str] = "Involute teeth inside a ring, for planets."
    group: ClassVar[str] = "Gears"

    kind: Literal["ring_gear"] = "ring_gear"
    module: GearModule = "1 mm"
    teeth: Annotated[Whole, whole(16, 400)] = "60"
    width: Size = "6 mm"
    outer_diameter: Size = "72 mm"
    pressure_angle: Angle = "20 deg"
    thinning: SizeOrNone = Field(default="0 mm", title="Teeth thinned by")

    @staticmethod
    def faults(n: Numbers[RingGear]) -> list[tuple[str, str]]:
        if not 0.17 < n.pressure_angle < 0.62:
            return [("pressure_angle", "must lie between 10 and 35 deg")]
        problems = [("module", why) for _, why in space(n).faults]
        if not problems and n.outer_diameter / 2 <= space(n).tip_radius + 0.5 * n.module:
            problems.append(("outer_diameter", f"leaves no rim; the roots reach {2e3 * space(n).tip_radius:.2f} mm"))
        return problems

    @staticmethod
    def solid(n: Numbers[RingGear]) -> Recipe:
        bodies = {"gear": [extrude(circle(0, 0, n.outer_diameter / 2), 0, n.width, [space(n).outline()])]}
        return recipe(bodies, order={"gear": n.teeth})

    @staticmethod
    def datums(n: Numbers[RingGear]) -> dict[str, Datum]:
        return {
            "axis": axis(0, 0, 0), "rim": axis(0, 0, 0, n.outer_diameter / 2, "pin", n.width),
            "top": plane(0, 0, n.width), "bottom": plane(0, 0, 0, up=False),
        }  # fmt: skip

    @staticmethod
    def dimensions(n: Numbers[RingGear]) -> list[DrawnDimension]:
        return [across("outer_diameter", n.outer_diameter), along_z("width", 0, n.width)]

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        """A planetary set about a sun that turns in the plate: ring, carrier and planets."""
        host, n = g.stated, g.sizes
        if not isinstance(host, SpurGear) or g.name != "axis" or not g.under or n.profile_shift:
            return []
        _, count = g.whole("planets", "3")
        planet = (
            g.whole("planet_teeth", "")[1]
            if g.values.get("planet_teeth")
            else next(p for p in range(n.teeth, 4 * n.teeth) if not _unfit(n.teeth, p, count))
        )
        wrong = _unfit(n.teeth, planet, count)
        if wrong:
            raise ValueError(wrong)
        asks = {"planets": str(count), "planet_teeth": str(planet)}
        return [Growth("A ring and planets round it", *_planetary(g, host, planet, count), asks=asks)]

    @staticmethod
    def derived(n: Numbers[RingGear]) -> list[Derived]:
        t = space(n)
        return [
            ("Pitch diameter", 2 * t.pitch_radius, "length"), ("Tip diameter", 2 * t.root_circle, "length"),
            ("Root diameter", 2 * t.tip_radius, "length"),
        ]  # fmt: skip


def _unfit(sun: int, planet: int, count: int) -> str:
    """Why so many planets do not fit: they meet one another, or do not mesh all at once (common practice: the teeth of sun
    and ring together are a multiple of the planets)."""
    if planet < 6 or sun + 2 * planet > 400:
        return f"planet teeth: {planet} is too few or too many"
    if 2 * (sun + planet) % count:
        return f"planet teeth: {planet} with {sun} on the sun do not mesh round {count} planets; a multiple is needed"
    return (
        ""
        if (sun + planet) * sin(pi / count) > planet + 2.2
        else f"planets: {count} of {planet} teeth meet one another"
    )


def _planetary(g: Ground, sun: SpurGear, teeth: int, count: int) -> tuple[tuple[GrownPart, ...], tuple[Tie, ...]]:
    """Ring at the plate, carrier above with its pins down, planets on them."""
    n, ring_teeth = g.sizes, g.sizes.teeth + 2 * teeth
    m, w, disc = n.module, n.width, 0.004
    pin = min(0.004, 0.35 * teeth * m)
    away = m * (n.teeth + teeth) / 2
    ring = RingGear(
        module=sun.module, teeth=str(ring_teeth), width=sun.width, outer_diameter=g.text(m * (ring_teeth + 12)),
        pressure_angle=sun.pressure_angle, thinning=sun.thinning,
    )  # fmt: skip
    carrier = Carrier(
        diameter=g.text(2 * away + pin + 0.006), thickness=g.text(disc), bore="0 mm", pins=str(count), pin_circle=g.text(2 * away),
        pin_diameter=g.text(pin), pin_height=g.text(GAP + w),
    )  # fmt: skip
    planet = sun.model_copy(update={"teeth": str(teeth), "bore": g.text(pin + PLAY), "pins": {}})
    above: dict[str, str | bool] = {"kind": "revolute", "flip": True, "offset": g.text(w + GAP + disc)}
    on_pin: dict[str, str | bool] = {"kind": "revolute", "flip": True, "offset": g.text(w + GAP)}
    planets = [GrownPart("Planet", planet, on_pin, on="1", at=f"pin_{k + 1}") for k in range(count)]
    own = [str(k + 2) for k in range(count)]
    ties = [Tie(("", "axis"), (k, "axis"), pair="gear") for k in own]
    ties += [Tie((k, "axis"), ("0", "axis"), pair="gear") for k in own]
    first = GrownPart("Ring gear", ring, {"kind": "rigid", "offset": g.text(g.height)}, on="under")
    return (first, GrownPart("Carrier", carrier, above), *planets), tuple(ties)


def space(n: Numbers[RingGear]) -> Tooth:
    """The external gear that fills the ring's spaces: its tips are the ring's roots."""
    return Tooth(n.module, n.teeth, n.pressure_angle, 0.0, 1.25, 1.0, 0.1, -n.thinning)
