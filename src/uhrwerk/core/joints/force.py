"""Applied force: what a mechanism works against, or is helped by."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import LoadForce, Numbers
from uhrwerk.core.joints.linear_spring import straight
from uhrwerk.core.joints.load import Acts, Load, signed


class ForcePair(Load):
    """A force on b along the axis of a, or away from a: always the same, or against b's motion as a cut or friction is."""

    title: ClassVar[str] = "Applied force"
    free: ClassVar[str] = "holds nothing; loads b with a force"

    kind: Literal["force"] = "force"
    force: LoadForce = "10 N"
    along: Literal["axis_of_the_first", "line_between_both"] = Field(default="axis_of_the_first", title="Along the")
    acts: Acts = "always"

    @staticmethod
    def wrench(n: Numbers[ForcePair], a: Array, b: Array, moves: Array) -> tuple[Array, Array]:
        way = straight(a, b)[0] if n.along == "line_between_both" else poses.rotate(a[:, 3:], np.array([0.0, 0, 1]))
        size = signed(n.acts, n.force, (moves[:, :3] * way).sum(axis=1))
        return way * size[:, None], np.zeros_like(way)
