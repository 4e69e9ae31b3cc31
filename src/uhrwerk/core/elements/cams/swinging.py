"""Outlines for followers that swing about a pivot beside the cam: with a roller on an arm, or a flat face.

The pivot lies on the cam's x at the turn 0. Angles of the follower are counted from where it rests on the base circle, away
from the cam.
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.elements.cams.shape import (
    Array,
    CamOutline,
    CamShape,
    in_cam,
    in_cam_moving,
    inside,
    programme,
    programme_faults,
)
from uhrwerk.core.field import Id, Length, Numbers, Size
from uhrwerk.core.laws.segment import TurnSegment, turning


class SwingingRoller(CamShape):
    """A roller on an arm that swings about a pivot; above the line to the pivot."""

    title: ClassVar[str] = "Roller on a swinging arm"

    kind: Literal["swinging_roller"] = "swinging_roller"
    roller: Size = Field(default="10 mm", title="Roller diameter")
    arm: Size = Field(default="40 mm", title="Arm from pivot to roller")
    pivot: Size = Field(default="50 mm", title="From cam axis to pivot")
    swing: dict[Id, TurnSegment] = Field(default_factory=turning, min_length=1, max_length=100)

    @staticmethod
    def rest(n: Numbers, base: float) -> float:
        """The angle between arm and line to the cam's axis where it rests on the base circle, rad; the law of cosines."""
        return float(np.arccos((n.arm**2 + n.pivot**2 - (base + n.roller / 2) ** 2) / (2 * n.arm * n.pivot)))

    @classmethod
    def traced(cls, n: Numbers[SwingingRoller], base: float, angle: Array) -> CamOutline:  # type: ignore[override]
        swing = programme(n.swing)
        s, v, a = (swing.derivative(angle, k) for k in range(3))
        psi = cls.rest(n, base) + s
        c, q = n.arm * np.cos(psi), n.arm * np.sin(psi)
        places, rates = (n.pivot - c, q), (q * v, c * v)
        pitch, first, second = in_cam_moving(places, rates, (q * a + c * v**2, c * a - q * v**2), angle)
        outline, radius, wide = inside(pitch, first, second, n.roller / 2)
        # between the normal and the way of the roller, which is square to the arm
        normal = np.stack([-first[:, 1], first[:, 0]], axis=1) / np.hypot(*first.T)[:, None]
        way = in_cam(np.sin(psi), np.cos(psi), angle)
        across = way[:, 0] * normal[:, 1] - way[:, 1] * normal[:, 0]
        return CamOutline(
            angle, outline, radius, pitch, wide, n.roller / 2, np.arctan2(across, (way * normal).sum(axis=1))
        )

    @staticmethod
    def faults(n: Numbers[SwingingRoller], base: float) -> list[tuple[str, str]]:
        problems = list(programme_faults(n.swing, "angle", "swing"))
        away = base + n.roller / 2
        if not abs(n.arm - n.pivot) < away < n.arm + n.pivot:
            problems.append(("arm", "cannot reach the base circle from this pivot"))
        return problems


def _slightly() -> dict[str, TurnSegment]:
    return {"out": TurnSegment(to="8 deg", over="140 deg"), "back": TurnSegment(over="140 deg")}


class SwingingFlat(CamShape):
    """A flat face that swings about a pivot; `offset` is how far the face lies before the pivot, towards the cam."""

    title: ClassVar[str] = "Flat face of a swinging arm"

    kind: Literal["swinging_flat"] = "swinging_flat"
    pivot: Size = Field(default="80 mm", title="From cam axis to pivot")
    offset: Length = "6 mm"
    swing: dict[Id, TurnSegment] = Field(default_factory=_slightly, min_length=1, max_length=100)

    @staticmethod
    def rest(n: Numbers, base: float) -> float:
        """The angle between face and line to the cam's axis where it rests on the base circle, rad."""
        return float(np.arcsin((base + n.offset) / n.pivot))

    @classmethod
    def traced(cls, n: Numbers[SwingingFlat], base: float, angle: Array) -> CamOutline:  # type: ignore[override]
        swing = programme(n.swing)
        s, v, a = (swing.derivative(angle, k) for k in range(3))
        psi = cls.rest(n, base) + s
        # support function by the angle of the normal, pi / 2 - psi - angle in the cam, which goes down by 1 + v
        reach = n.pivot * np.sin(psi) - n.offset
        slope = n.pivot * np.cos(psi) * v  # of the reach, by the cam's angle
        bend = n.pivot * (np.cos(psi) * a - np.sin(psi) * v**2)
        side = -slope / (1 + v)  # of the reach, by the normal's angle
        second = (bend * (1 + v) - slope * a) / (1 + v) ** 3
        m = np.stack([np.sin(psi), np.cos(psi)], axis=1)
        x, y = (reach[:, None] * m + side[:, None] * np.stack([-m[:, 1], m[:, 0]], axis=1)).T
        # the arm's point that is touched moves square to its line from the pivot
        way = np.stack([y, n.pivot - x], axis=1)
        pressure = np.arctan2(way[:, 0] * m[:, 1] - way[:, 1] * m[:, 0], (way * m).sum(axis=1))
        return CamOutline(angle, in_cam(x, y, angle), reach + second, pressure=pressure)

    @staticmethod
    def faults(n: Numbers[SwingingFlat], base: float) -> list[tuple[str, str]]:
        problems = list(programme_faults(n.swing, "angle", "swing"))
        if not 0 < base + n.offset < n.pivot:
            problems.append(("pivot", "lies too near to the cam for a face that touches the base circle"))
        elif not problems:
            swing = programme(n.swing)
            if swing.rate(np.linspace(0, 2 * np.pi, 721)).min() <= -0.95:
                problems.append(("swing", "goes back as fast as the cam turns: no outline does that"))
        return problems
