"""Outlines of circles and tangents, or of a circle off its centre."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.elements.cams.shape import Array, CamOutline, CamShape
from uhrwerk.core.field import Numbers, Size


class Eccentric(CamShape):
    """The base circle, set off the axis along x."""

    title: ClassVar[str] = "Eccentric"

    kind: Literal["eccentric"] = "eccentric"
    eccentricity: Size = "5 mm"

    @staticmethod
    def traced(n: Numbers[Eccentric], base: float, angle: Array) -> CamOutline:
        around = -angle  # as the outlines of followers run
        outline = base * np.stack([np.cos(around), np.sin(around)], axis=1) + np.array([n.eccentricity, 0.0])
        return CamOutline(angle, outline, np.full(len(angle), base))

    @staticmethod
    def faults(n: Numbers[Eccentric], base: float) -> list[tuple[str, str]]:
        return [("eccentricity", "puts the axis outside the circle")] if n.eccentricity >= base else []


class Tangents(CamShape):
    """The base circle and a nose circle on x, joined by their common tangents."""

    title: ClassVar[str] = "Circles and tangents"

    kind: Literal["tangents"] = "tangents"
    nose: Size = Field(default="6 mm", title="Nose radius")
    distance: Size = Field(default="20 mm", title="From axis to nose centre")

    @staticmethod
    def flank(n: Numbers[Tangents], base: float) -> float:
        """The angle of the tangents' normals from x, rad."""
        return float(np.arccos((base - n.nose) / n.distance))

    @classmethod
    def _lengths(cls, n: Numbers[Tangents], base: float) -> Array:
        """Of half the nose, a tangent, the base, the other tangent and the other half, m."""
        beta = cls.flank(n, base)
        way = n.distance * np.sin(beta)
        return np.array([n.nose * beta, way, 2 * base * (np.pi - beta), way, n.nose * beta])

    @classmethod
    def knots(cls, n: Numbers[Tangents], base: float) -> list[float]:  # type: ignore[override]
        ends = np.cumsum(cls._lengths(n, base))
        return [float(2 * np.pi * (1 - x / ends[-1])) for x in ends[:-1]]

    @classmethod
    def traced(cls, n: Numbers[Tangents], base: float, angle: Array) -> CamOutline:  # type: ignore[override]
        """Places evenly spread along the line, the turn `angle` being a share of it, from the tip of the nose on, clockwise."""
        beta = cls.flank(n, base)
        lengths = cls._lengths(n, base)
        ends = np.cumsum(lengths)
        along = np.mod(-angle, 2 * np.pi) / (2 * np.pi) * ends[-1]
        which = np.minimum(np.searchsorted(ends, along, side="right"), 4)
        u = along - (ends - lengths)[which]
        turn = np.select(
            [which == 0, which == 1, which == 2, which == 3],
            [u / n.nose, beta + 0 * u, beta + u / base, -beta + 0 * u], -beta + u / n.nose,
        )  # fmt: skip
        m = np.stack([np.cos(turn), np.sin(turn)], axis=1)
        tip = np.array([n.distance, 0.0])
        start = (
            np.select([(which == 0) | (which == 4), which == 2], [n.nose, base], np.where(which == 1, n.nose, base))[
                :, None
            ]
            * m
            + np.where((which == 0) | (which == 1) | (which == 4), 1.0, 0.0)[:, None] * tip
        )
        run = np.stack([-m[:, 1], m[:, 0]], axis=1) * np.where((which == 1) | (which == 3), u, 0.0)[:, None]
        radius = np.select([(which == 0) | (which == 4), which == 2], [n.nose, base], np.inf)
        return CamOutline(angle, start + run, radius)

    @staticmethod
    def faults(n: Numbers[Tangents], base: float) -> list[tuple[str, str]]:
        return [("distance", "leaves the nose inside the base circle")] if n.distance <= abs(base - n.nose) else []
