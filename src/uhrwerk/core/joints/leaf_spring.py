"""Leaf spring: a strip clamped on one part whose free end bears on the other; a pair that holds nothing.

A cantilever of constant section, small deflections: F = 3 E I f / L^3, I = w t^3 / 12, bending stress 6 F L / (w t^2) at the root
(Timoshenko, Strength of Materials, part I, ch. 5: from memory).
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Angle, Length, Numbers, Size, Stress
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.linear_spring import LinearSpring, Used

#: up to this deflection, in the free length, the formula is within two hundredths of the elastica whose end slides (test_springs.py)
SMALL = 0.15


class LeafSpringPair(LinearSpring):
    """A leaf clamped at the origin of a's face, in its plane; it bears on b, and pushes it along the face's normal."""

    title: ClassVar[str] = "Leaf spring"
    free: ClassVar[str] = "holds nothing; pushes"

    kind: Literal["leaf_spring"] = "leaf_spring"
    a: At
    b: At
    along: Angle = Field(default="0 deg", title="Direction, from the face's x")
    rest: Length = Field(default="5 mm", title="Height of its free end over the face")
    width: Size = "8 mm"
    thickness: Size = "0.5 mm"
    elastic_modulus: Stress = "206000 MPa"

    @classmethod
    def offered(cls, elements: tuple[str, str], datums: tuple[str, str]) -> bool:
        return datums[0] == "plane"

    @staticmethod
    def way(n: Numbers[LeafSpringPair], a: Array, b: Array) -> tuple[Array, Array, Array]:
        x, z = (poses.rotate(a[:, 3:], np.array(v)) for v in ([np.cos(n.along), np.sin(n.along), 0.0], [0.0, 0.0, 1.0]))
        off = b[:, :3] - a[:, :3]
        return z, (off * z).sum(axis=1), np.abs((off * x).sum(axis=1))

    @staticmethod
    def push(n: Numbers[LeafSpringPair], apart: Array, reach: Array) -> Array:
        stiff = n.elastic_modulus * n.width * n.thickness**3 / 4 / np.maximum(reach, 1e-6) ** 3
        return np.asarray(np.maximum(0.0, n.rest - apart) * stiff)

    @staticmethod
    def stress(n: Numbers[LeafSpringPair], push: Array, reach: Array) -> Array:
        return np.asarray(6 * np.abs(push) * reach / (n.width * n.thickness**2))

    @staticmethod
    def used(n: Numbers[LeafSpringPair], apart: Array, reach: Array) -> dict[str, Used]:
        bent = np.maximum(0.0, n.rest - apart) / np.maximum(reach, 1e-6)
        return {"bent": (bent / SMALL, "of the deflection up to which its formula holds")}
