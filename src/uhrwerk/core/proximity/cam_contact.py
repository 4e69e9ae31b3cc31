"""Cam and follower: bodies in contact by a pair are nowhere nearer than that.

All of the cam lies within its outline, all of a roller within its cylinder, all behind a face behind it. Outline and roller (or
face) are held at a gap of nothing by their pair's equation, so that what lies within both needs no search; the rest of either
body does.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.elements.cams.conjugate_cam import second_curve
from uhrwerk.core.elements.cams.groove_cam import far_wall, groove_width
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.curve import PlaneCurve
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.joints import At
from uhrwerk.core.motion import Motion
from uhrwerk.core.proximity.body_geometry import BodyGeometry
from uhrwerk.core.proximity.second_roller import every

#: points count as within an outline, a cylinder or behind a face up to here, m
WITHIN = 2e-9
Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class CamContact:
    """A cam's outline across z of `cam` (7,) in its part, and its follower's place `follower` (7,) in that one's: the axis of a
    roller of so much radius (m), or the face. `wall` is a groove's outer wall, within which the roller stays by its play."""

    outline: PlaneCurve
    cam: Array
    follower: Array
    radius: float
    face: bool
    wall: PlaneCurve | None = None

    def key(self) -> tuple[object, ...]:
        wall = "" if self.wall is None else self.wall.key
        return (self.outline.key, self.cam, self.follower, self.radius, self.face, wall)

    def of_cam(self, form: BodyGeometry) -> Mask:
        """(m,) triangles of the cam that lie within its outline, or outside its groove."""
        local = poses.place(poses.inverse(self.cam), form.body.vertices)[:, :2]
        inside = self.outline.distance(local).value < WITHIN
        touching = inside[form.body.triangles].all(axis=1)
        if self.wall is not None:
            touching |= (self.wall.distance(local).value > -WITHIN)[form.body.triangles].all(axis=1)
        return np.asarray(touching)

    def of_follower(self, form: BodyGeometry) -> Mask:
        """(m,) triangles of the follower that lie within its roller, or behind its face."""
        local = poses.place(poses.inverse(self.follower), form.body.vertices)
        inside = local[:, 2] < WITHIN if self.face else np.hypot(local[:, 0], local[:, 1]) < self.radius + WITHIN
        return np.asarray(inside[form.body.triangles].all(axis=1))


def touches(m: Mechanism, motion: Motion) -> dict[tuple[str, str], CamContact]:
    """Every cam and follower in use, by their placed parts."""
    out = {}
    for row in m.rows:
        if row.curve is None:
            continue
        cam, follower = m.document.pairs[row.owner.split(".")[1]].at
        frames = [_in_part(m, at) for at in (cam, follower)]
        out[cam.placed, follower.placed] = CamContact(
            row.curve,
            frames[0],
            frames[1],
            float(row.sizes[0]),
            row.kind == "rest",
            _wall(m, cam.placed, float(row.sizes[0])),
        )
    for pair, second in every(m, motion):
        cam = m.document.pairs[pair].at[0]
        if second.exact:
            line = second_curve(
                numbers(m.document.parts[m.document.placed[cam.placed].part].element, m.document.scope())
            )
            at = At(placed=second.placed, datum=second.datum)
            frames, radius = [_in_part(m, cam), _in_part(m, at)], m.datum(at).radius
            out.setdefault((cam.placed, second.placed), CamContact(line, frames[0], frames[1], radius, False))
    return out


def _wall(m: Mechanism, cam: str, radius: float) -> PlaneCurve | None:
    """The outer wall of a cam's groove, if it has one and the roller is no larger than the groove is made for."""
    n = numbers(m.document.parts[m.document.placed[cam].part].element, m.document.scope())
    return far_wall(n) if n.kind == "groove_cam" and 2 * radius <= groove_width(n) + WITHIN else None


def _in_part(m: Mechanism, at: At) -> Array:
    place = m.place(at)
    return poses.compose(poses.inverse(np.asarray(m.links[place.link].local[at.placed])), place.frame)
