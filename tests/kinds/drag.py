"""A made-up load: air drag on a part, growing with the square of its speed."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.joints import PAIRS
from uhrwerk.core.joints.load import Load

AIR = 1.2  # kg/m3


class Drag(Load):
    """A round plate of a diameter, moved through the air."""

    title: ClassVar[str] = "Air drag"
    free: ClassVar[str] = "holds nothing; brakes b"

    kind: Literal["drag"] = "drag"
    plate: Size = "100 mm"

    @staticmethod
    def wrench(n: Numbers[Drag], a: Array, b: Array, moves: Array) -> tuple[Array, Array]:
        speed = moves[:, :3]
        area = np.pi * n.plate**2 / 4
        force = -AIR / 2 * area * np.linalg.norm(speed, axis=1)[:, None] * speed
        return force, np.zeros_like(force)


def register() -> None:
    PAIRS.register(Drag)
