"""Spiral spring: a strip wound in a plane, clamped at both ends; a pair that holds nothing.

M = E b t^3 phi / (12 L), bending stress 6 M / (b t^2) (Wahl, Mechanical Springs, flat spiral springs with clamped ends: from
memory). Its coils are taken as evenly spaced between the inner and the outer diameter; wound on, they draw together.
"""

from __future__ import annotations

from math import pi
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Angle, Numbers, Size, Stress
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.linear_spring import Used
from uhrwerk.core.joints.torsional_spring import TorsionalSpring


class SpiralSpringPair(TorsionalSpring):
    """A strip wound in a plane, its inner end on b, its outer end on a."""

    title: ClassVar[str] = "Spiral spring"
    free: ClassVar[str] = "holds nothing; turns"

    kind: Literal["spiral_spring"] = "spiral_spring"
    a: At
    b: At
    preload: Angle = Field(default="180 deg", title="Preload angle")
    width: Size = Field(default="4 mm", title="Width of the strip")
    thickness: Size = Field(default="0.3 mm", title="Thickness of the strip")
    inner: Size = Field(default="10 mm", title="Inner diameter")
    outer: Size = Field(default="24 mm", title="Outer diameter, unloaded")
    length: Size = Field(default="400 mm", title="Active length of the strip")
    elastic_modulus: Stress = "206000 MPa"

    @staticmethod
    def rate(n: Numbers[SpiralSpringPair]) -> float:
        return float(n.elastic_modulus * n.width * n.thickness**3 / (12 * n.length))

    @staticmethod
    def stress(n: Numbers[SpiralSpringPair], torque: Array) -> Array:
        return np.asarray(6 * np.abs(torque) / (n.width * n.thickness**2))

    @staticmethod
    def used(n: Numbers[SpiralSpringPair], wound: Array) -> dict[str, Used]:
        return {"coils": (n.thickness / np.maximum(spacing(n, wound), 1e-9), "of the space of a coil is strip")}

    @staticmethod
    def derived(n: Numbers[SpiralSpringPair]) -> list[tuple[str, float | str, str]]:
        return [("Coils", coils(n), "number"), ("From coil to coil", float(spacing(n, np.zeros(1))[0]), "length")]


def coils(n: Numbers) -> float:
    """Number of coils where it is unloaded: its length along circles of the mean diameter."""
    return float(2 * n.length / (pi * (n.inner + n.outer)))


def spacing(n: Numbers[SpiralSpringPair], wound: Array) -> Array:
    """From coil to coil, m, where it is wound by (T,) rad: the strip keeps its length, the inner diameter stays."""
    count = coils(n) + np.abs(wound) / (2 * pi)
    outer = 2 * n.length / (pi * count) - n.inner
    return np.asarray((outer - n.inner) / (2 * count))
