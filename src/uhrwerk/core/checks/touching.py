"""Cam and follower: what touches by a pair is nowhere nearer than that.

All of the cam lies within its outline, all of a roller within its cylinder, all behind a face behind it. Outline and roller (or
face) are held at a gap of nothing by their pair's equation, so that what lies within both needs no search; the rest of either
body does.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.checks.shape import Form
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.curve import Curve
from uhrwerk.core.equations.pose import Array

#: points count as within an outline, a cylinder or behind a face up to here, m
WITHIN = 2e-9
Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Touch:
    """A cam's outline across z of `cam` (7,) in its part, and its follower's place `follower` (7,) in that one's: the axis of a
    roller of so much radius (m), or the face."""

    outline: Curve
    cam: Array
    follower: Array
    radius: float
    face: bool

    def key(self) -> tuple[object, ...]:
        return (self.outline.key, self.cam, self.follower, self.radius, self.face)

    def of_cam(self, form: Form) -> Mask:
        """(m,) triangles of the cam that lie within its outline."""
        local = poses.place(poses.inverse(self.cam), form.body.vertices)
        inside = self.outline.distance(local[:, :2]).value < WITHIN
        return np.asarray(inside[form.body.triangles].all(axis=1))

    def of_follower(self, form: Form) -> Mask:
        """(m,) triangles of the follower that lie within its roller, or behind its face."""
        local = poses.place(poses.inverse(self.follower), form.body.vertices)
        inside = local[:, 2] < WITHIN if self.face else np.hypot(local[:, 0], local[:, 1]) < self.radius + WITHIN
        return np.asarray(inside[form.body.triangles].all(axis=1))


def touches(m: Mechanism) -> dict[tuple[str, str], Touch]:
    """Every cam and follower in use, by their placed parts."""
    out = {}
    for row in m.rows:
        if row.curve is None:
            continue
        cam, follower = m.document.pairs[row.owner.split(".")[1]].at
        frames = [_in_part(m, at.placed, at.datum) for at in (cam, follower)]
        out[cam.placed, follower.placed] = Touch(
            row.curve, frames[0], frames[1], float(row.sizes[0]), row.kind == "rest"
        )
    return out


def _in_part(m: Mechanism, placed: str, datum: str) -> Array:
    place = m.place(placed, datum)
    return poses.compose(poses.inverse(np.asarray(m.links[place.link].local[placed])), place.frame)
