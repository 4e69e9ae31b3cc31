"""Ring gear: involute teeth inside a ring. Its tooth spaces have the form of an external gear's teeth (ISO 21771-1)."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

from uhrwerk.core.elements.involute import Tooth
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe

TITLE = "Ring gear"
ABOUT = "Involute teeth inside a ring, for planets."


def space(n: SimpleNamespace) -> Tooth:
    """The external gear that fills the ring's spaces: its tips are the ring's roots."""
    return Tooth(n.module, n.teeth, n.pressure_angle, 0.0, 1.25, 1.0, 0.1, -n.thinning)


def faults(n: SimpleNamespace) -> list[tuple[str, str]]:
    if not 0.17 < n.pressure_angle < 0.62:
        return [("pressure_angle", "must lie between 10 and 35 deg")]
    found = [("module", why) for _, why in space(n).faults]
    if not found and n.outer_diameter / 2 <= space(n).tip_radius + 0.5 * n.module:
        found.append(("outer_diameter", f"leaves no rim; the roots reach {2e3 * space(n).tip_radius:.2f} mm"))
    return found


def solid(n: SimpleNamespace) -> Recipe:
    bodies = {"gear": [extrude(circle(0, 0, n.outer_diameter / 2), 0, n.width, [space(n).outline()])]}
    return recipe(bodies, order={"gear": n.teeth})


def datums(n: SimpleNamespace) -> dict[str, Datum]:
    return {
        "axis": axis(0, 0, 0), "rim": axis(0, 0, 0, n.outer_diameter / 2, "pin", n.width),
        "top": plane(0, 0, n.width), "bottom": plane(0, 0, 0, up=False),
    }  # fmt: skip


def derived(n: SimpleNamespace) -> list[tuple[str, Any, str]]:
    t = space(n)
    return [
        ("Pitch diameter", 2 * t.pitch_radius, "length"), ("Tip diameter", 2 * t.root_circle, "length"),
        ("Root diameter", 2 * t.tip_radius, "length"),
    ]  # fmt: skip
