"""Slotted lever: a bar along x with a bore, a straight slot for a crank pin, and a tip beyond it."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

from uhrwerk.core.solids import Datum, Recipe, axis, bar, circle, extrude, plane, recipe, slot

TITLE = "Slotted lever"
ABOUT = "A lever with a slot in which a crank pin runs: the quick return."


def faults(n: SimpleNamespace) -> list[tuple[str, str]]:
    found = []
    if n.slot_width >= n.width:
        found.append(("slot_width", "is as wide as the lever"))
    if n.bore >= n.width:
        found.append(("bore", "is as wide as the lever"))
    if n.slot_start - n.slot_width / 2 <= n.bore / 2:
        found.append(("slot_start", "runs the slot into the bore"))
    return found


def _reach(n: SimpleNamespace) -> float:
    return float(n.slot_start + n.slot_length + n.tip)


def solid(n: SimpleNamespace) -> Recipe:
    opening = bar(n.slot_start, 0, n.slot_start + n.slot_length, 0, n.slot_width)
    return recipe(
        {"lever": [extrude(bar(0, 0, _reach(n), 0, n.width), 0, n.thickness, [circle(0, 0, n.bore / 2), opening])]}
    )


def datums(n: SimpleNamespace) -> dict[str, Datum]:
    return {
        "pivot": axis(0, 0, 0, n.bore / 2, "bore", n.thickness),
        "slot": slot(n.slot_start + n.slot_length / 2, 0, 0, n.slot_length),
        "tip": axis(_reach(n), 0, 0, n.width / 2, "pin", n.thickness),
        "top": plane(_reach(n) / 2, 0, n.thickness), "bottom": plane(_reach(n) / 2, 0, 0, up=False),
    }  # fmt: skip


def derived(n: SimpleNamespace) -> list[tuple[str, Any, str]]:
    return [("Pivot to tip", _reach(n), "length"), ("Wall beside the slot", (n.width - n.slot_width) / 2, "length")]
