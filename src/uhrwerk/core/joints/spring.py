"""Helical spring: a pair that pushes two parts apart or pulls them together, and holds nothing.

Rate and shear stress of a helical spring of round wire: EN 13906-1 (compression) and 13906-2 (extension), from memory:
R = G d^4 / (8 D^3 n), tau = k 8 D F / (pi d^3) with Bergsträsser's k = (w + 0.5) / (w - 0.75), w = D / d. It buckles where it is
shortened by s = L0 0.5 / (1 - g) (1 - sqrt(1 - (1 - g) / (0.5 + g) (pi D / (nu L0))^2)), g = G / E, or never where no such root is.
"""

from __future__ import annotations

from math import pi, sqrt
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Count, Numbers, Size, Stress
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.linear_spring import LinearSpring, Used, straight

#: coils of a compression spring that lie flat at its ends and do not give (common practice: one at either end)
FLAT = 2


class SpringPair(LinearSpring):
    """A helical spring between two datums: it pushes while it is shorter than unloaded, or pulls while it is longer."""

    title: ClassVar[str] = "Helical spring"
    free: ClassVar[str] = "holds nothing; pushes or pulls"

    kind: Literal["spring"] = "spring"
    a: At
    b: At
    loading: Literal["compression", "extension"] = "compression"
    free_length: Size = Field(default="40 mm", title="Free length")
    wire_diameter: Size = Field(default="1 mm", title="Wire diameter")
    mean_diameter: Size = Field(default="8 mm", title="Mean coil diameter")
    active_coils: Count = Field(default="8", title="Active coils")
    shear_modulus: Stress = "81500 MPa"
    elastic_modulus: Stress = "206000 MPa"
    ends: Literal["both_flat_and_guided", "flat_and_pivoting", "both_pivoting", "flat_and_free"] = Field(
        default="both_flat_and_guided", title="End supports, for buckling"
    )

    @classmethod
    def offered(cls, elements: tuple[str, str], datums: tuple[str, str]) -> bool:
        return datums[0] in ("axis", "plane", "point") and datums[1] == datums[0]

    @staticmethod
    def way(n: Numbers[SpringPair], a: Array, b: Array) -> tuple[Array, Array, Array]:
        return straight(a, b)

    @staticmethod
    def seated(n: Numbers[SpringPair]) -> bool:
        return bool(n.loading == "compression" and n.ends != "both_pivoting")

    @staticmethod
    def push(n: Numbers[SpringPair], apart: Array, reach: Array) -> Array:
        short = n.free_length - apart
        pushes = n.loading == "compression"
        size = np.maximum(0.0, short if pushes else -short) * rate(n)
        return np.asarray(size if pushes else -size)

    @staticmethod
    def stress(n: Numbers[SpringPair], push: Array, reach: Array) -> Array:
        w = n.mean_diameter / n.wire_diameter
        return np.asarray((w + 0.5) / (w - 0.75) * 8 * n.mean_diameter * np.abs(push) / (pi * n.wire_diameter**3))

    @staticmethod
    def used(n: Numbers[SpringPair], apart: Array, reach: Array) -> dict[str, Used]:
        if n.loading != "compression":
            return {}
        out = {"solid": (solid_length(n) / apart, "of its length is coils that touch")}
        bends = buckling_length(n)
        if bends is not None:
            out["buckling"] = (bends / apart, "of the length at which it buckles")
        return out

    @staticmethod
    def derived(n: Numbers[SpringPair]) -> list[tuple[str, float | str, str]]:
        bends = buckling_length(n)
        values: list[tuple[str, float | str, str]] = [
            ("Rate", rate(n), "stiffness"), ("Length when coils touch", solid_length(n), "length"),
        ]  # fmt: skip
        if n.loading == "compression":
            values.append(("Buckles below", "never" if bends is None else bends, "text" if bends is None else "length"))
        return values


def rate(n: Numbers[SpringPair]) -> float:
    """N/m"""
    return float(n.shear_modulus * n.wire_diameter**4 / (8 * n.mean_diameter**3 * n.active_coils))


def solid_length(n: Numbers[SpringPair]) -> float:
    """The length at which all coils touch, m; of an extension spring, the body's."""
    return float((n.active_coils + (FLAT if n.loading == "compression" else 1)) * n.wire_diameter)


#: seating coefficient nu by how the ends are held
SEATING = {"both_flat_and_guided": 0.5, "flat_and_pivoting": 0.7, "both_pivoting": 1.0, "flat_and_free": 2.0}


def buckling_length(n: Numbers[SpringPair]) -> float | None:
    """The length below which a compression spring buckles, m; None where it never does."""
    g = n.shear_modulus / n.elastic_modulus
    slender = (1 - g) / (0.5 + g) * (pi * n.mean_diameter / (SEATING[n.ends] * n.free_length)) ** 2
    if n.loading != "compression" or slender > 1:
        return None
    return float(n.free_length * (1 - 0.5 / (1 - g) * (1 - sqrt(1 - slender))))
