"""The load on a pin and its bore: the force across the axis, and what tilts them, as a pair of forces at both ends of where they bear.

A moment M over a bearing length l is borne by forces M / l at its ends: common practice for hinges and pins. The length is
that which pin and bore have in common, or as it is stated.
"""

from __future__ import annotations

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.forces.inverse_dynamics import ForcesUnknown, reaction
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.moments import moments

#: a moment across the axis below this is none, N m
NOTHING = 1e-9


def borne(e: Evaluation, joint: str, times: Array, stated: str = "") -> tuple[Array, Array, float | None]:
    """The force across the axis (T,) N, the moment that tilts pin and bore about the middle of where they bear (T,) N m, and that
    length, m; None where neither has one. NotKnown where the joint shares them with others."""
    load = reaction(e, joint, times, "bearing")
    middle, length = _span(e, joint, times, stated)
    return load.across, load.tilting(load.place if middle is None else middle), length


def end_force(e: Evaluation, joint: str, times: Array, stated: str = "") -> Array:
    """The greatest force on one end, of a pin that bears at both (T,) N. NotKnown where something tilts it and the length on which it
    bears is not known."""
    across, tilting, length = borne(e, joint, times, stated)
    if length is None:
        if tilting.max(initial=0.0) > NOTHING:
            raise ForcesUnknown("a moment tilts the joint, and its bearing length is not known: enter it")
        return across / 2
    return across / 2 + tilting / length


def _span(e: Evaluation, joint: str, times: Array, stated: str) -> tuple[Array | None, float | None]:
    """The middle of where pin and bore bear on one another (T, 3) m, and how long that is, m."""
    m, joined = e.mechanism, (e.document.joints | e.document.relations).get(joint)
    pose, _, _ = moments(e, times)
    ends: list[tuple[float, float]] = []
    axis = origin = None
    for at in () if joined is None else (joined.a, joined.b):
        place = m.place(at)
        frame = poses.compose(pose[:, place.link], np.broadcast_to(place.frame, (len(pose), 7)))
        z = poses.rotate(frame[:, 3:], np.array([0.0, 0, 1]))
        if axis is None or origin is None:
            axis, origin = z, frame[:, :3]
        if place.datum.kind != "axis" or not (place.datum.length and place.datum.radius):
            continue
        low, high = (float(((frame[0, :3] + x * z[0]) - origin[0]) @ axis[0]) for x in place.datum.ends)
        ends.append((min(low, high), max(low, high)))
    low, high = max((a for a, _ in ends), default=0.0), min((b for _, b in ends), default=0.0)
    known = bool(ends) and high > low
    middle = None if axis is None or origin is None or not known else origin + (low + high) / 2 * axis
    if stated.strip():
        return middle, e.document.scope().value(stated, "length")
    return middle, (high - low) if known else None
