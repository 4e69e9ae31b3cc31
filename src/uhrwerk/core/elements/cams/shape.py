"""What the outline of a plate cam follows from: each kind states its numbers and gives the curve.

A follower's kinds give the envelope of its positions seen from the cam: the pitch curve is the way of the roller's centre, the
outline lies a roller's radius inside it. At the turn 0 the follower stands on the cam's x; as the cam turns counter-clockwise
about z, its programme runs. Norton, Cam Design and Manufacturing Handbook, ch. 7; Angeles and López-Cajún, Optimization of Cam
Mechanisms, ch. 3-4. From memory.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations.curve import PlaneCurve, joined
from uhrwerk.core.field import Kinds, Model, Numbers, Seconds
from uhrwerk.core.laws import segment
from uhrwerk.core.laws.programme import Programme
from uhrwerk.core.quantity import display

Array = NDArray[np.float64]
TURN = 2 * np.pi


@dataclass(frozen=True)
class CamOutline:
    """What is known at cam angles (n,): places of the outline (n, 2), m, and its radius of curvature (n,), signed, below zero where
    it is hollow. A roller's: the same of its centre's way. `pressure` is the pressure angle (n,), rad."""

    angle: Array
    outline: Array
    radius: Array
    pitch: Array | None = None
    pitch_radius: Array | None = None
    roller: float = 0.0
    pressure: Array | None = None


class CamShape(Model):
    """One kind of outline, about the base circle that the cam states."""

    title: ClassVar[str]

    kind: str

    @staticmethod
    def traced(n: Numbers, base: float, angle: Array) -> CamOutline:
        """The outline at cam angles (n,), rad, about a base circle of radius `base`, m."""
        raise NotImplementedError

    @staticmethod
    def faults(n: Numbers, base: float) -> list[tuple[str, str]]:
        """Fields that do not go together, and why; undercut is looked for where there are none."""
        return []

    @staticmethod
    def knots(n: Numbers, base: float) -> list[float]:
        """Cam angles, rad, at which the outline's curvature may jump."""
        segments = getattr(n, "lift", None) or getattr(n, "swing", None)
        return programme(segments).edges() if segments else []

    @staticmethod
    def spans(n: Numbers) -> list[float]:
        """How long each rise and return takes, rad of the cam, where that is known."""
        segments = getattr(n, "lift", None) or getattr(n, "swing", {})
        return [s.over for s in segments.values() if s.over > 1e-6]


SHAPES: Kinds[CamShape] = Kinds("outline of a cam")


def programme(segments: dict[str, Numbers]) -> Programme:
    """What a follower does over one turn of the cam, by the cam's angle."""
    return segment.programme(segments, 0.0, 0.0, TURN, False)


def programme_faults(segments: dict[str, Numbers], dimension: str, where: str) -> Iterator[tuple[str, str]]:
    """Fields of a follower's programme that do not go together."""
    timed = [i for i, s in segments.items() if isinstance(s.over, Seconds)]
    if timed:
        yield f"{where}.{timed[0]}.over", "must be degrees of the cam"
        return
    for field, why in segment.faults(segments, 0.0, TURN, False, lambda si: display(si, dimension)):
        yield f"{where}.{field.removeprefix('segments.')}", why


def curvature_radius(first: Array, second: Array) -> Array:
    """Radius of curvature (n,), signed, from derivatives (n, 2) of a curve that runs counter-clockwise."""
    turn = first[:, 0] * second[:, 1] - first[:, 1] * second[:, 0]
    return np.asarray(np.hypot(*first.T) ** 3 / np.where(np.abs(turn) < 1e-300, 1e-300, turn))


def closed(trace: Callable[[Array], Array], knots: list[float], count: int) -> PlaneCurve:
    """The closed curve of an outline that is traced clockwise over cam angles (n,), rad, in pieces between its knots."""
    return joined(lambda u: trace(TURN - u), [TURN - k for k in knots], count)


def in_cam(x: Array, y: Array, angle: Array) -> Array:
    """Places (n, 2) that lie at (x, y) while the cam is turned by `angle` (n,), in the cam."""
    c, s = np.cos(angle), np.sin(angle)
    return np.stack([c * x + s * y, c * y - s * x], axis=1)


def in_cam_moving(
    places: tuple[Array, Array], rates: tuple[Array, Array], second: tuple[Array, Array], angle: Array
) -> tuple[Array, Array, Array]:
    """The same with first and second derivatives by the cam's angle, each (n, 2)."""
    p, v, a = (in_cam(*xy, angle) for xy in (places, rates, second))

    def turned(q: Array) -> Array:  # d/dangle of the turning back
        return np.stack([q[:, 1], -q[:, 0]], axis=1)

    first = v + turned(p)
    return p, first, a + 2 * turned(v) - p


def inside(pitch: Array, first: Array, second: Array, roller: float) -> tuple[Array, Array, Array]:
    """The outline a roller's radius inside its centre's way, its radius of curvature and that of the way. The way runs clockwise,
    as the follower goes round the cam against its turn."""
    size = np.hypot(*first.T)[:, None]
    outward = np.stack([-first[:, 1], first[:, 0]], axis=1) / size
    radius = curvature_radius(-first, second)  # against the run, counter-clockwise
    return pitch - roller * outward, radius - roller, radius
