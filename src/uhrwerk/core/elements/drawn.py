"""Dimensions of an element's drawing: which number is the distance of which two points, and in which view it is seen.

Views are along the axes of the part, as on a drawing: `top` looks down z (x to the right, y up), `side` along y (x to the
right, z up).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, pi, sin
from typing import Literal

Point = tuple[float, float, float]
View = Literal["top", "side"]


@dataclass(frozen=True)
class DrawnDimension:
    """A number and the two points whose distance it is, m; `round` where it is a diameter."""

    field: str
    a: Point
    b: Point
    view: View = "top"
    round: bool = False


def along_x(field: str, low: float, high: float, y: float = 0.0, z: float = 0.0, view: View = "top") -> DrawnDimension:
    return DrawnDimension(field, (low, y, z), (high, y, z), view)


def along_y(field: str, low: float, high: float, x: float = 0.0) -> DrawnDimension:
    return DrawnDimension(field, (x, low, 0.0), (x, high, 0.0))


def along_z(field: str, low: float, high: float, x: float = 0.0) -> DrawnDimension:
    return DrawnDimension(field, (x, 0.0, low), (x, 0.0, high), "side")


def across(field: str, diameter: float, x: float = 0.0, y: float = 0.0, way: float = pi / 4) -> DrawnDimension:
    """A diameter seen from above, drawn slanted through its centre."""
    r = diameter / 2
    u, v = r * cos(way), r * sin(way)
    return DrawnDimension(field, (x - u, y - v, 0.0), (x + u, y + v, 0.0), round=True)


def through(field: str, diameter: float, z: float, x: float = 0.0) -> DrawnDimension:
    """A diameter of what lies along z, seen from the side."""
    return DrawnDimension(field, (x - diameter / 2, 0.0, z), (x + diameter / 2, 0.0, z), "side", round=True)


def spots(of: str, name: str, x: float, y: float, diameter: float) -> list[DrawnDimension]:
    """Place and diameter of one of several bores or pins."""
    at = f"{of}.{name}"
    return [along_x(f"{at}.x", 0.0, x, y), along_y(f"{at}.y", 0.0, y, x), across(f"{at}.diameter", diameter, x, y)]


__all__ = ["DrawnDimension", "Point", "View", "across", "along_x", "along_y", "along_z", "spots", "through"]
