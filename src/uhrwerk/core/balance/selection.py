"""Mass properties of any parts together, in any frame, at every frame of the cycle.

>>> import numpy as np
>>> turn = np.array([[1.0, 0, 0, np.sqrt(0.5), 0, 0, np.sqrt(0.5)]])  # a frame at x = 1 m, turned by a quarter about z
>>> one = Selection(2.0, np.zeros(1), np.array([[1.0, 3, 0]]), np.diag([1.0, 2, 3])[None])
>>> turned = one.in_frame(turn).at(0)
>>> [round(float(x), 9) + 0.0 for x in turned.centre], [round(float(x), 9) for x in np.diag(turned.inertia)]
([3.0, 0.0, 0.0], [2.0, 1.0, 3.0])
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from uhrwerk.core.assembly.mass_properties import MassProperties, lumps_of
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.stages.evaluation import Evaluation


@dataclass(frozen=True)
class Selection:
    """mass kg; at times (F,) s the centre of gravity (F, 3) m and the inertia about it (F, 3, 3) kg m2, in the axes of the world or of
    another frame."""

    mass: float
    times: Array
    centre: Array
    inertia: Array

    def at(self, k: int) -> MassProperties:
        """At the frame of that count."""
        return MassProperties(self.mass, self.centre[k], self.inertia[k])

    def in_frame(self, frame: Array) -> Selection:
        """The same in a frame (F, 7) that may move: centre from its origin, along its axes, and inertia about its axes."""
        turn = poses.matrix(frame[:, 3:])
        inward = np.swapaxes(turn, 1, 2)
        centre = (inward @ (self.centre - frame[:, :3])[..., None])[..., 0]
        return Selection(self.mass, self.times, centre, inward @ self.inertia @ turn)


def selection(e: Evaluation, parts: Sequence[str]) -> Selection:
    """Of placed parts whose solids are there, in the world."""
    m = e.mechanism
    mass, centres, own = [], [], []
    for p in parts:
        link = m.link_of[p]
        here = poses.compose(e.moved.motion.pose[:, link], np.asarray(m.links[link].local[p]))
        turn = poses.matrix(here[:, 3:])
        for lump in lumps_of(e.document, p, e.solids[p]):
            mass.append(lump.mass)
            centres.append(poses.place(here, lump.centre))
            own.append(turn @ lump.inertia @ np.swapaxes(turn, 1, 2))
    weight, at = np.array(mass), np.array(centres)  # (n,), (n, F, 3)
    total = float(weight.sum())
    centre = np.tensordot(weight, at, axes=1) / total
    off = at - centre
    square = np.sum(off**2, axis=-1)[..., None, None] * np.eye(3) - off[..., :, None] * off[..., None, :]
    return Selection(
        total, e.moved.motion.times, centre, np.sum(np.array(own) + weight[:, None, None, None] * square, axis=0)
    )
