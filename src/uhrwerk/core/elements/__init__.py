"""Machine elements, one module each: what is wrong with its sizes, its solid, its datums, its derived values."""

from __future__ import annotations

from types import ModuleType, SimpleNamespace

from uhrwerk.core.elements import frame_plate, link_bar, pin, spur_gear
from uhrwerk.core.elements.involute import Tooth, centre_distance, contact_ratio, normal_backlash

ELEMENTS: dict[str, ModuleType] = {"frame_plate": frame_plate, "spur_gear": spur_gear, "link_bar": link_bar, "pin": pin}


def of(sizes: SimpleNamespace) -> ModuleType:
    """The module of an element, from its sizes in SI."""
    return ELEMENTS[sizes.kind]


__all__ = ["ELEMENTS", "Tooth", "centre_distance", "contact_ratio", "normal_backlash", "of", "spur_gear"]
