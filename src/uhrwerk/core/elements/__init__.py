"""Machine elements, one module each: what is wrong with its sizes, its solid, its datums, its derived values."""

from __future__ import annotations

from types import ModuleType, SimpleNamespace

from uhrwerk.core.elements import (
    angled_link,
    arc_link,
    carrier,
    eccentric_disc,
    frame_plate,
    hinge_leaf,
    link_bar,
    pin,
    rack,
    ring_gear,
    slotted_lever,
    spur_gear,
    stepped_shaft,
)
from uhrwerk.core.elements.involute import Tooth, centre_distance, contact_ratio, normal_backlash, tip_reaches_below

ELEMENTS: dict[str, ModuleType] = {
    "frame_plate": frame_plate, "spur_gear": spur_gear, "ring_gear": ring_gear, "rack": rack, "carrier": carrier,
    "link_bar": link_bar, "angled_link": angled_link, "arc_link": arc_link, "slotted_lever": slotted_lever,
    "eccentric_disc": eccentric_disc, "hinge_leaf": hinge_leaf, "stepped_shaft": stepped_shaft, "pin": pin,
}  # fmt: skip


def of(sizes: SimpleNamespace) -> ModuleType:
    """The module of an element, from its sizes in SI."""
    return ELEMENTS[sizes.kind]


__all__ = [
    "ELEMENTS",
    "Tooth",
    "centre_distance",
    "contact_ratio",
    "normal_backlash",
    "of",
    "ring_gear",
    "spur_gear",
    "tip_reaches_below",
]
