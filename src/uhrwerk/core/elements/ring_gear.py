"""Ring gear: involute teeth inside a ring. Its tooth spaces have the form of an external gear's teeth (ISO 21771-1)."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.drawn import Drawn, across, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.involute import Tooth
from uhrwerk.core.field import Angle, Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class RingGear(Element):
    """A ring with involute teeth inside; a tooth space centred on +x."""

    title: ClassVar[str] = "Ring gear"
    about: ClassVar[str] = "Involute teeth inside a ring, for planets."
    group: ClassVar[str] = "Gears"

    kind: Literal["ring_gear"] = "ring_gear"
    module: Size = "1 mm"
    teeth: int = Field(default=60, ge=16, le=400)
    width: Size = "6 mm"
    outer_diameter: Size = "72 mm"
    pressure_angle: Angle = "20 deg"
    thinning: SizeOrNone = Field(default="0 mm", title="Teeth thinned by")

    @staticmethod
    def faults(n: Numbers) -> list[tuple[str, str]]:
        if not 0.17 < n.pressure_angle < 0.62:
            return [("pressure_angle", "must lie between 10 and 35 deg")]
        found = [("module", why) for _, why in space(n).faults]
        if not found and n.outer_diameter / 2 <= space(n).tip_radius + 0.5 * n.module:
            found.append(("outer_diameter", f"leaves no rim; the roots reach {2e3 * space(n).tip_radius:.2f} mm"))
        return found

    @staticmethod
    def solid(n: Numbers) -> Recipe:
        bodies = {"gear": [extrude(circle(0, 0, n.outer_diameter / 2), 0, n.width, [space(n).outline()])]}
        return recipe(bodies, order={"gear": n.teeth})

    @staticmethod
    def datums(n: Numbers) -> dict[str, Datum]:
        return {
            "axis": axis(0, 0, 0), "rim": axis(0, 0, 0, n.outer_diameter / 2, "pin", n.width),
            "top": plane(0, 0, n.width), "bottom": plane(0, 0, 0, up=False),
        }  # fmt: skip

    @staticmethod
    def drawn(n: Numbers) -> list[Drawn]:
        return [across("outer_diameter", n.outer_diameter), along_z("width", 0, n.width)]

    @staticmethod
    def derived(n: Numbers) -> list[Derived]:
        t = space(n)
        return [
            ("Pitch diameter", 2 * t.pitch_radius, "length"), ("Tip diameter", 2 * t.root_circle, "length"),
            ("Root diameter", 2 * t.tip_radius, "length"),
        ]  # fmt: skip


def space(n: Numbers) -> Tooth:
    """The external gear that fills the ring's spaces: its tips are the ring's roots."""
    return Tooth(n.module, n.teeth, n.pressure_angle, 0.0, 1.25, 1.0, 0.1, -n.thinning)
