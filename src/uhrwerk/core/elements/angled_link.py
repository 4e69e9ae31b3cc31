"""Angled link: two arms from one hole, the first along x."""

from __future__ import annotations

from math import cos, pi, sin
from types import SimpleNamespace
from typing import Any

from uhrwerk.core.solids import Datum, Recipe, axis, bar, circle, cut_out, extrude, plane, recipe

TITLE = "Angled link"
ABOUT = "A bell crank or bent link with three holes."


def _ends(n: SimpleNamespace) -> list[tuple[float, float]]:
    return [(0.0, 0.0), (n.arm_1, 0.0), (n.arm_2 * cos(n.angle), n.arm_2 * sin(n.angle))]


def faults(n: SimpleNamespace) -> list[tuple[str, str]]:
    found = [(f"bore_{k}", "is as wide as the link") for k in (1, 2, 3) if getattr(n, f"bore_{k}") >= n.width]
    if not 0.17 < n.angle < 2 * pi - 0.17:
        found.append(("angle", "must lie between 10 and 350 deg"))
    if n.arm_1 <= (n.bore_1 + n.bore_2) / 2:
        found.append(("arm_1", "is so short that the holes run into one another"))
    if n.arm_2 <= (n.bore_1 + n.bore_3) / 2:
        found.append(("arm_2", "is so short that the holes run into one another"))
    return found


def solid(n: SimpleNamespace) -> Recipe:
    o, p, q = _ends(n)
    steps = [extrude(bar(*o, *end, n.width), 0, n.thickness) for end in (p, q)]
    steps += [
        cut_out(circle(x, y, d / 2), 0, n.thickness)
        for (x, y), d in zip((o, p, q), (n.bore_1, n.bore_2, n.bore_3), strict=True)
    ]
    return recipe({"link": steps})


def datums(n: SimpleNamespace) -> dict[str, Datum]:
    sizes = zip(_ends(n), (n.bore_1, n.bore_2, n.bore_3), strict=True)
    named = {f"hole_{k}": axis(x, y, 0, d / 2, "bore", n.thickness) for k, ((x, y), d) in enumerate(sizes, 1)}
    return named | {"top": plane(n.arm_1 / 2, 0, n.thickness), "bottom": plane(n.arm_1 / 2, 0, 0, up=False)}


def derived(n: SimpleNamespace) -> list[tuple[str, Any, str]]:
    (_, (x, _), (u, v)) = _ends(n)
    return [("Hole 2 to hole 3", ((x - u) ** 2 + v**2) ** 0.5, "length")]
