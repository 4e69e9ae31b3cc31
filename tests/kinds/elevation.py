"""A made-up curve: how high a point stands, as an angle seen from the origin of the world."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.curves import CURVES
from uhrwerk.core.curves.curve_of import CurveOf
from uhrwerk.core.curves.followed import FollowedMotion
from uhrwerk.core.document import Document
from uhrwerk.core.equations.jet import Jet
from uhrwerk.core.joints.at import At


class Elevation(CurveOf):
    """The angle of a point over the x axis, in the xy plane."""

    title: ClassVar[str] = "Elevation of a point"

    kind: Literal["elevation"] = "elevation"
    at: At

    def dimension(self, d: Document) -> str:
        return "angle"

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        p = f.point(self.at)
        x, y, far = p.v[:, 0], p.v[:, 1], (p.v[:, :2] ** 2).sum(axis=1)
        return Jet(np.arctan2(y, x), (x * p.d[:, 1] - y * p.d[:, 0]) / far)


def register() -> None:
    CURVES.register(Elevation)
