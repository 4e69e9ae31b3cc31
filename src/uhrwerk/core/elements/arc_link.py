"""Arc link: a band along an arc with a hole at each end, and an arc slot between them if asked."""

from __future__ import annotations

from math import cos, pi, sin
from types import SimpleNamespace
from typing import Any

from uhrwerk.core.solids import Datum, Recipe, arc_band, axis, circle, extrude, plane, recipe, slot

TITLE = "Arc link"
ABOUT = "A link along an arc, with end holes and an arc slot if asked."


def _ends(n: SimpleNamespace) -> list[tuple[float, float]]:
    return [(n.radius * cos(a), n.radius * sin(a)) for a in (-n.span / 2, n.span / 2)]


def faults(n: SimpleNamespace) -> list[tuple[str, str]]:
    found = []
    if n.width >= 2 * n.radius:
        found.append(("width", "is too large for the radius"))
    if not 0.05 < n.span < 2 * pi - n.width / n.radius:
        found.append(("span", "must leave the ends apart"))
    if n.bore >= n.width:
        found.append(("bore", "is as wide as the link"))
    if n.slot and n.slot_width >= n.width:
        found.append(("slot_width", "is as wide as the link"))
    if n.slot and n.slot < 0:
        found.append(("slot", "must not be negative"))
    if n.slot and (n.span - n.slot) / 2 * n.radius <= (n.slot_width + n.bore) / 2:
        found.append(("slot", "runs into the end holes"))
    return found


def solid(n: SimpleNamespace) -> Recipe:
    holes = [circle(x, y, n.bore / 2) for x, y in _ends(n)]
    if n.slot:
        holes.append(arc_band(n.radius, n.slot_width, -n.slot / 2, n.slot / 2))
    return recipe({"link": [extrude(arc_band(n.radius, n.width, -n.span / 2, n.span / 2), 0, n.thickness, holes)]})


def datums(n: SimpleNamespace) -> dict[str, Datum]:
    named = {f"hole_{k}": axis(x, y, 0, n.bore / 2, "bore", n.thickness) for k, (x, y) in enumerate(_ends(n), 1)}
    named |= {
        "centre": axis(0, 0, 0),
        "top": plane(n.radius, 0, n.thickness),
        "bottom": plane(n.radius, 0, 0, up=False),
    }
    if n.slot:
        named["slot"] = slot(0, 0, 0, n.slot * n.radius, n.radius)
    return named


def derived(n: SimpleNamespace) -> list[tuple[str, Any, str]]:
    return [("Hole to hole", 2 * n.radius * sin(n.span / 2), "length")]
