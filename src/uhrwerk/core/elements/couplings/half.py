"""What halves of couplings have in common: how far the shafts may be out of line."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.field import Numbers
from uhrwerk.core.solids.recipe import Outline


@dataclass(frozen=True)
class Flex:
    """How far two shafts may be out of line: beside one another (m), at an angle (rad), along the axis (m), each alone. Of
    several together, the parts add up to one at most (common practice)."""

    offset: float
    angle: float
    shift: float


class Half(Element):
    """Half of a coupling: its axis is its z, with the other half above it, turned over."""

    @staticmethod
    def takes(n: Numbers) -> Flex:
        raise NotImplementedError

    @staticmethod
    def apart(n: Numbers) -> float:
        """How far the origins of both halves lie apart where they are seated, m."""
        raise NotImplementedError


def capacity(flex: Flex) -> list[Derived]:
    return [
        ("Permissible offset", flex.offset, "length"), ("Permissible angle", flex.angle, "angle"), ("Permissible axial shift", flex.shift, "length"),
    ]  # fmt: skip


def across(do: str, name: str, base: str, outline: Outline, low: float, high: float) -> dict[str, Any]:
    """A step along the part's own x (base yz) or against its y (base xz), from low to high, m: added or taken away. What is
    taken is cut against the plane's normal, as a designer's cut is."""
    return {
        "do": do, "id": f"element_{name}", "plane": {"base": base, "offset": high if do == "take" else low}, "outline": outline, "length": high - low,
        "both": False, "through": False, "to": "", "taper": 0.0,
    }  # fmt: skip
