"""Turned by a spring: a torsion spring about an axis, a pair that holds nothing.

Rate of round wire, wound cold: EN 13906-3, from memory: M = E d^4 phi / (64 D n), bending stress 32 M / (pi d^3).
"""

from __future__ import annotations

from math import pi
from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Angle, Count, Numbers, Size, Stress
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.held import Place
from uhrwerk.core.joints.pair import JointPair


class TorsionSpringPair(JointPair):
    """A wound spring that turns b about the axis of a: to the left where it is wound by an angle above zero."""

    title: ClassVar[str] = "Turned by a spring"
    free: ClassVar[str] = "holds nothing; turns"

    kind: Literal["torsion_spring"] = "torsion_spring"
    a: At
    b: At
    wound: Angle = Field(default="60 deg", title="Wound at the start by")
    wire: Size = Field(default="1 mm", title="Wire diameter")
    coil: Size = Field(default="12 mm", title="Mean coil diameter")
    coils: Count = Field(default="5", title="Working coils")
    elastic_modulus: Stress = "206000 MPa"

    @staticmethod
    def rows(n: Numbers, a: Place, b: Place, sizes: tuple[Numbers, Numbers], owner: str) -> list[Row]:
        return []


def rate(n: Numbers) -> float:
    """N m/rad"""
    return float(n.elastic_modulus * n.wire**4 / (64 * n.coil * n.coils))


def torque(n: Numbers, turned: float) -> float:
    """On b about the axis of a, N m, when b has turned so far from its start, rad; nothing where it is loose."""
    left = n.wound - turned
    return float(rate(n) * left) if left * n.wound > 0 else 0.0


def stress(n: Numbers, at: float) -> float:
    """Bending stress in the wire under a torque, Pa."""
    return float(32 * abs(at) / (pi * n.wire**3))
