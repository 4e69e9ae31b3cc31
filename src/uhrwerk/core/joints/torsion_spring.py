"""Torsion spring: a torsion spring about an axis, a pair that holds nothing.

Rate of round wire, wound cold: EN 13906-3, from memory: M = E d^4 phi / (64 D n), bending stress 32 M / (pi d^3).
"""

from __future__ import annotations

from math import pi
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Angle, Count, Numbers, Size, Stress
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.torsional_spring import TorsionalSpring


class TorsionSpringPair(TorsionalSpring):
    """A torsion spring of round wire between a and b."""

    title: ClassVar[str] = "Torsion spring"
    free: ClassVar[str] = "holds nothing; turns"

    kind: Literal["torsion_spring"] = "torsion_spring"
    a: At
    b: At
    preload: Angle = Field(default="60 deg", title="Preload angle")
    wire_diameter: Size = Field(default="1 mm", title="Wire diameter")
    mean_diameter: Size = Field(default="12 mm", title="Mean coil diameter")
    active_coils: Count = Field(default="5", title="Active coils")
    elastic_modulus: Stress = "206000 MPa"

    @staticmethod
    def rate(n: Numbers[TorsionSpringPair]) -> float:
        return float(n.elastic_modulus * n.wire_diameter**4 / (64 * n.mean_diameter * n.active_coils))

    @staticmethod
    def stress(n: Numbers[TorsionSpringPair], torque: Array) -> Array:
        return np.asarray(32 * np.abs(torque) / (pi * n.wire_diameter**3))
