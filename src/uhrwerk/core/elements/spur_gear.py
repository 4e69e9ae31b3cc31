"""Spur gear: true involute teeth, a bore, and pins that stand on its top face."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

from uhrwerk.core.elements.involute import Tooth
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe

TITLE = "Spur gear"
ABOUT = "Involute teeth cut by a rack, with root form, bore and pins."


def tooth(n: SimpleNamespace) -> Tooth:
    return Tooth(
        n.module, n.teeth, n.pressure_angle, n.profile_shift, n.addendum, n.dedendum, n.root_radius, n.thinning
    )


def faults(n: SimpleNamespace) -> list[tuple[str, str]]:
    if not 0.17 < n.pressure_angle < 0.62:
        return [("pressure_angle", "must lie between 10 and 35 deg")]
    found = tooth(n).faults
    if not found and n.bore / 2 >= tooth(n).root_circle - 0.2 * n.module:
        found.append(("bore", "reaches the root of the teeth"))
    for name, pin in n.pins.items():
        if not found and (pin.x**2 + pin.y**2) ** 0.5 + pin.diameter / 2 > tooth(n).root_circle:
            found.append((f"pins.{name}.x", "puts the pin beyond the root circle"))
        if name == "gear":
            found.append((f"pins.{name}", "is taken by the gear itself: choose another id"))
    return found


def solid(n: SimpleNamespace) -> Recipe:
    holes = [circle(0, 0, n.bore / 2)] if n.bore else []
    bodies = {"gear": [extrude(tooth(n).outline(), 0, n.width, holes)]}
    for name, pin in n.pins.items():
        bodies[name] = [extrude(circle(pin.x, pin.y, pin.diameter / 2), n.width, n.width + pin.height)]
    return recipe(bodies, order={"gear": n.teeth})


def datums(n: SimpleNamespace) -> dict[str, Datum]:
    middle = axis(0, 0, 0, n.bore / 2, "bore", n.width) if n.bore else axis(0, 0, 0)
    named = {"axis": middle, "top": plane(0, 0, n.width), "bottom": plane(0, 0, 0, up=False)}
    return named | {i: axis(p.x, p.y, n.width, p.diameter / 2, "pin", p.height) for i, p in n.pins.items()}


def derived(n: SimpleNamespace) -> list[tuple[str, Any, str]]:
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
