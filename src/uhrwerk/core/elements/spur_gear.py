"""Spur gear: true involute teeth, a bore, and pins that stand on its top face."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements import involute
from uhrwerk.core.elements.bore import Post
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z, spots
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import GAP, PLAY, Ground, GrownPart, Growth, Tie
from uhrwerk.core.elements.involute import Tooth
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Angle, GearModule, Id, Model, Number, Numbers, Positive, Size, SizeOrNone, Whole, whole
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class SpurGear(Element):
    """An involute spur gear cut by a rack (ISO 53 profile A by default); its bottom face at z = 0."""

    title: ClassVar[str] = "Spur gear"
    about: ClassVar[str] = "Involute teeth cut by a rack, with root form, bore and pins."
    blanks: ClassVar[dict[str, Model]] = {"pins": Post(x="6 mm", diameter="3 mm", height="8 mm")}
    group: ClassVar[str] = "Gears"

    kind: Literal["spur_gear"] = "spur_gear"
    module: GearModule = "1 mm"
    teeth: Annotated[Whole, whole(6, 400)] = "24"
    width: Size = "6 mm"
    bore: SizeOrNone = "5 mm"
    pressure_angle: Angle = "20 deg"
    profile_shift: Number = Field(default="0", title="Profile shift, in modules")
    addendum: Positive = Field(default="1", title="Addendum, in modules")
    dedendum: Positive = Field(default="1.25", title="Dedendum, in modules")
    root_radius: Number = Field(default="0.38", title="Root radius, in modules")
    thinning: SizeOrNone = Field(default="0 mm", title="Teeth thinned by")
    pins: dict[Id, Post] = Field(default_factory=dict, max_length=50)

    @staticmethod
    def faults(n: Numbers[SpurGear]) -> list[tuple[str, str]]:
        if not 0.17 < n.pressure_angle < 0.62:
            return [("pressure_angle", "must lie between 10 and 35 deg")]
        problems = tooth(n).faults
        if not problems and n.bore / 2 >= tooth(n).root_circle - 0.2 * n.module:
            problems.append(("bore", "reaches the root of the teeth"))
        for name, pin in n.pins.items():
            if not problems and (pin.x**2 + pin.y**2) ** 0.5 + pin.diameter / 2 > tooth(n).root_circle:
                problems.append((f"pins.{name}.x", "puts the pin beyond the root circle"))
            if name == "gear":
                problems.append((f"pins.{name}", "is taken by the gear itself: choose another id"))
        return problems

    @staticmethod
    def solid(n: Numbers[SpurGear]) -> Recipe:
        holes = [circle(0, 0, n.bore / 2)] if n.bore else []
        bodies = {"gear": [extrude(tooth(n).outline(), 0, n.width, holes)]}
        for name, pin in n.pins.items():
            bodies[name] = [extrude(circle(pin.x, pin.y, pin.diameter / 2), n.width, n.width + pin.height)]
        return recipe(bodies, order={"gear": n.teeth})

    @staticmethod
    def datums(n: Numbers[SpurGear]) -> dict[str, Datum]:
        middle = axis(0, 0, 0, n.bore / 2, "bore", n.width) if n.bore else axis(0, 0, 0)
        named = {"axis": middle, "top": plane(0, 0, n.width), "bottom": plane(0, 0, 0, up=False)}
        return named | {i: axis(p.x, p.y, n.width, p.diameter / 2, "pin", p.height) for i, p in n.pins.items()}

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if g.stated is not None and isinstance(g.stated, SpurGear) and g.name == "axis":
            return [cls._mate(g, g.stated)]
        (teeth, _), module = g.whole("teeth", "24"), g.ask("module", "1 mm")
        asks = {"teeth": teeth, "module": module}
        if g.in_plate:
            above = g.text(g.depth + GAP)
            shaft = Pin(diameter=g.running, length=f"{above} + 6 mm")
            gear = cls(teeth=teeth, module=module, bore=shaft.diameter)
            return [Growth("A gear that turns in it", (
                GrownPart("Shaft", shaft, {"kind": "revolute", "offset": g.down}),
                GrownPart("Gear", gear, {"kind": "rigid", "offset": above}, on="0"),
            ), asks=asks)]  # fmt: skip
        if g.pin:
            gear = cls(teeth=teeth, module=module, bore=g.diameter or g.text(2 * g.datum.radius))
            return [
                Growth(
                    "A gear held on it",
                    (GrownPart("Gear", gear, {"kind": "rigid", "offset": g.below_upper(0.006)}),),
                    asks=asks,
                )
            ]
        return []

    @classmethod
    def _mate(cls, g: Ground, host: SpurGear) -> Growth:
        """The mating gear, with its shaft in a new bore of the plate."""
        teeth, count = g.whole("teeth", str(2 * g.sizes.teeth))
        shift = g.ask("profile_shift", host.profile_shift)
        one = tooth(g.sizes)
        other = replace(one, teeth=count, x=g.value(shift, "number"))
        away = involute.centre_distance(one, other)
        plain = abs(one.x + other.x) < 1e-12  # else the shifts decide, by no formula that is short
        apart = f"{_factor(host.module)} * ({host.teeth} + {teeth}) / 2" if plain else ""
        way = g.values.get("direction", "")
        ratio = involute.contact_ratio(one, other, away)
        if not one.faults and not other.faults and ratio < 1 and "teeth" in g.values:
            raise ValueError(
                f"{one.teeth} and {other.teeth} teeth with this profile shift do not mesh: their contact ratio is {ratio:.2f}, and must be 1 or more; choose teeth or a shift nearer to one another"
            )
        wide = g.ask("shaft_bore", g.text(2 * g.datum.radius + PLAY if g.datum.radius else 0.006))
        shaft = Pin(diameter=f"{wide} - {g.text(PLAY)}", length=g.text(g.thickness + g.height + g.sizes.width))
        gear = host.model_copy(update={"teeth": teeth, "profile_shift": shift, "bore": shaft.diameter, "pins": {}})
        pieces = (
            GrownPart("Shaft", shaft, {"kind": "revolute", "offset": g.text(-g.thickness)}, on="frame"),
            GrownPart("Gear", gear, {"kind": "rigid", "offset": g.text(g.thickness + g.height)}, on="0"),
        )
        tie = Tie(("", "axis"), ("1", "axis"), pair="gear")
        asks = {"teeth": teeth, "profile_shift": shift, "shaft_bore": wide, "direction": way}
        return Growth(
            "Its mate, on a shaft of its own in the plate", pieces, (tie,), asks, away, wide,
            apart=apart, direction=g.value(way, "angle") if way else None,
        )  # fmt: skip

    @staticmethod
    def dimensions(n: Numbers[SpurGear]) -> list[DrawnDimension]:
        out = [along_z("width", 0, n.width)] + ([across("bore", n.bore)] if n.bore else [])
        for name, p in n.pins.items():
            out += spots("pins", name, p.x, p.y, p.diameter)
            out.append(along_z(f"pins.{name}.height", n.width, n.width + p.height, p.x))
        return out

    @staticmethod
    def derived(n: Numbers[SpurGear]) -> list[Derived]:
        t = tooth(n)
        return [
            ("Pitch diameter", 2 * t.pitch_radius, "length"),
            ("Base diameter", 2 * t.base_radius, "length"),
            ("Tip diameter", 2 * t.tip_radius, "length"),
            ("Root diameter", 2 * t.root_circle, "length"),
            ("Form diameter", 2 * t.form_radius, "length"),
            ("Tooth thickness", t.thickness, "length"),
            ("Undercut", "yes: raise teeth or profile shift" if t.undercut else "none", "text"),
        ]


def tooth(n: Numbers[SpurGear]) -> Tooth:
    return Tooth(
        n.module, n.teeth, n.pressure_angle, n.profile_shift, n.addendum, n.dedendum, n.root_radius, n.thinning
    )


def _factor(text: str) -> str:
    """A formula as a factor."""
    return text if text.replace(".", "").replace(" ", "").isalnum() else f"({text})"
