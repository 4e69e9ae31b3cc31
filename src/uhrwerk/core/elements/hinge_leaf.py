"""Hinge leaf: a plate along x with solid knuckles round the z axis; two of them, one turned over, make a hinge."""

from __future__ import annotations

from math import sqrt
from types import SimpleNamespace
from typing import Any

from uhrwerk.core.solids import Datum, Recipe, axis, circle, cut_out, extrude, face, plane, recipe, rectangle

TITLE = "Hinge leaf"
ABOUT = "A leaf with knuckles; its counterpart has the others."


def _knuckles(n: SimpleNamespace) -> list[tuple[float, float, bool]]:
    """(from, to, own) along z; own ones are shortened by half a gap where a knuckle of the other leaf is next."""
    step, out = n.length / n.knuckles, []
    for k in range(n.knuckles):
        own = (k % 2 == 0) == n.first
        cut = (n.gap / 2) if own else (-n.gap / 2)
        low = k * step + (cut if k else 0.0)
        high = (k + 1) * step - (cut if k < n.knuckles - 1 else 0.0)
        out.append((low, high, own))
    return out


def faults(n: SimpleNamespace) -> list[tuple[str, str]]:
    found = []
    if n.bore >= n.knuckle_diameter:
        found.append(("bore", "is as wide as the knuckle"))
    if n.thickness >= n.knuckle_diameter / 2:
        found.append(("thickness", "must be below half the knuckle"))
    if n.width <= n.knuckle_diameter / 2 + n.gap:
        found.append(("width", "does not reach beyond the knuckle"))
    if n.gap >= n.length / n.knuckles / 2:
        found.append(("gap", "leaves no knuckles"))
    return found


def solid(n: SimpleNamespace) -> Recipe:
    r = n.knuckle_diameter / 2
    steps = [extrude(rectangle(0, -r, n.width, -r + n.thickness), 0, n.length)]
    free = r + n.gap
    for low, high, own in _knuckles(n):
        if not own:  # room for the other leaf's knuckle
            reach = sqrt(free**2 - (r - n.thickness) ** 2) if free > r - n.thickness else free
            steps.append(cut_out(rectangle(-n.width, -free, max(reach, free), free), low, high))
    steps += [extrude(circle(0, 0, r), low, high) for low, high, own in _knuckles(n) if own]
    steps.append(cut_out(circle(0, 0, n.bore / 2), 0, n.length))
    return recipe({"leaf": steps})


def datums(n: SimpleNamespace) -> dict[str, Datum]:
    r, mid, half = n.knuckle_diameter / 2, n.width / 2, n.length / 2
    return {
        "pin": axis(0, 0, 0, n.bore / 2, "bore", n.length), "bottom": plane(mid, -r + n.thickness / 2, 0, up=False),
        "top": plane(mid, -r + n.thickness / 2, n.length), "outside": face((mid, -r, half), (0, -1, 0)),
        "inside": face((mid, -r + n.thickness, half), (0, 1, 0)), "edge": face((n.width, -r + n.thickness / 2, half), (1, 0, 0)),
    }  # fmt: skip


def derived(n: SimpleNamespace) -> list[tuple[str, Any, str]]:
    own = sum(high - low for low, high, own in _knuckles(n) if own)
    return [
        ("Own knuckles together", own, "length"),
        ("Wall round the bore", (n.knuckle_diameter - n.bore) / 2, "length"),
    ]
