"""A made-up outline of a cam: lobes as a cosine over the base circle."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.elements.cams.shape import SHAPES, Array, CamOutline, CamShape, curvature_radius
from uhrwerk.core.field import Numbers, Size


class Lobes(CamShape):
    """r = base + height (1 - cos k angle) / 2, traced clockwise."""

    title: ClassVar[str] = "Lobes"

    kind: Literal["lobes"] = "lobes"
    height: Size = "3 mm"
    lobes: int = Field(default=2, ge=1, le=12)

    @staticmethod
    def traced(n: Numbers[Lobes], base: float, angle: Array) -> CamOutline:
        k, a = n.lobes, -angle
        r = base + n.height * (1 - np.cos(k * a)) / 2
        r1, r2 = n.height * k * np.sin(k * a) / 2, n.height * k**2 * np.cos(k * a) / 2
        u, v = np.stack([np.cos(a), np.sin(a)], axis=1), np.stack([-np.sin(a), np.cos(a)], axis=1)
        first = r1[:, None] * u + r[:, None] * v
        second = (r2 - r)[:, None] * u + 2 * r1[:, None] * v
        return CamOutline(angle, r[:, None] * u, curvature_radius(first, second))


def register() -> None:
    SHAPES.register(Lobes)
