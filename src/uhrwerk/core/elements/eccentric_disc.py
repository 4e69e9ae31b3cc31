"""Disc with an eccentric pin: a crank in its plainest form."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe

TITLE = "Disc with eccentric pin"
ABOUT = "A crank disc with a bore and a pin off its axis."


def faults(n: SimpleNamespace) -> list[tuple[str, str]]:
    found = []
    if n.eccentricity + n.pin_diameter / 2 > n.diameter / 2:
        found.append(("eccentricity", "puts the pin beyond the edge of the disc"))
    if n.bore and n.eccentricity - n.pin_diameter / 2 < n.bore / 2:
        found.append(("bore", "runs into the pin"))
    return found


def solid(n: SimpleNamespace) -> Recipe:
    holes = [circle(0, 0, n.bore / 2)] if n.bore else []
    pin = extrude(circle(n.eccentricity, 0, n.pin_diameter / 2), n.thickness, n.thickness + n.pin_height)
    return recipe({"disc": [extrude(circle(0, 0, n.diameter / 2), 0, n.thickness, holes)], "pin": [pin]})


def datums(n: SimpleNamespace) -> dict[str, Datum]:
    middle = axis(0, 0, 0, n.bore / 2, "bore", n.thickness) if n.bore else axis(0, 0, 0)
    return {
        "axis": middle, "crank_pin": axis(n.eccentricity, 0, n.thickness, n.pin_diameter / 2, "pin", n.pin_height),
        "top": plane(0, 0, n.thickness), "bottom": plane(0, 0, 0, up=False),
    }  # fmt: skip


def derived(n: SimpleNamespace) -> list[tuple[str, Any, str]]:
    return [("Stroke of the pin", 2 * n.eccentricity, "length")]
