"""The motion that curves are measured on: points and directions of datums at many moments, with their first two derivatives.

Velocities and accelerations of the links are the solver's own, not differences between frames:
p' = v + w x r, p'' = a + w' x r + w x (w x r), and the same without v and a for a direction.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.jet import Jet
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Rows
from uhrwerk.core.joints import ANGLES, coordinate_row
from uhrwerk.core.joints.at import At
from uhrwerk.core.motion import Coordinate, CoordinateValues, Motion, interpolated
from uhrwerk.core.motion.cycle import exactly

#: stations at most at which curves are known; a longer cycle is followed for as many of its periods
MOST = 4000
#: moments closer than this part of the cycle are one
SAME = 1e-9


class NotMeasured(ValueError):
    """A curve that cannot be measured, in words."""


@dataclass(frozen=True)
class FollowedMotion:
    """A mechanism over the moments `times` (T,) s: the frames of its cycle, and the stations of its track between them.

    `frames` (F,) tells where the frames are among them. Of a cycle that repeats itself so often that its stations would be too
    many, only the first periods are followed, and their stations are its frames: `whole` is False then.
    """

    mechanism: Mechanism
    motion: Motion
    coordinates: Mapping[str, Coordinate]
    #: the gap of two parts at moments (T,) s, m; nothing where the solids are not there
    gaps: Callable[[Of, Of, Array], Array | None] | None = None
    #: what acts (`effort` of a drive, force `across`, `along` or `whole` in a joint) at moments (T,) s, or why it is not known
    forces: Callable[[str, str, Array], Array | str] | None = None
    #: moments, poses, velocities and accelerations in the place of frames and stations
    given: tuple[Array, Array, Array, Array] | None = None

    def also_at(self, times: Array, once: bool) -> FollowedMotion:
        """The same over the stations of the motion, of one period if `once`, and over moments (T,) s, at which it is solved anew."""
        m, t = self.motion, self.motion.track
        if not m.moving:
            count = len(times)
            still = [np.repeat(x[:1], count, axis=0) for x in (m.pose, m.velocity, m.acceleration)]
            return replace(self, given=(times, still[0], still[1], still[2]))
        base = (t.times, t.pose, t.velocity, t.acceleration) if once else self._stations[:4]
        fresh = np.setdiff1d(times, base[0])
        if not len(fresh):
            return replace(self, given=base)
        solved = exactly(self.mechanism, m, fresh)
        every = np.concatenate([base[0], fresh])
        order = np.argsort(every, kind="stable")
        state = [np.concatenate([x, y])[order] for x, y in zip(base[1:], solved, strict=True)]
        return replace(self, given=(every[order], state[0], state[1], state[2]))

    @cached_property
    def _stations(self) -> tuple[Array, Array, Array, Array, bool]:
        """The stations of all periods that are followed, closed; whether these are the whole cycle."""
        m, t = self.motion, self.motion.track
        if t.period is None or not m.moving:
            return t.times, t.pose, t.velocity, t.acceleration, True
        repeat = min(int(np.ceil(m.duration / t.period - 1e-9)), max(1, MOST // max(1, len(t.times) - 1)))
        times = (t.times[None, :-1] + np.arange(repeat)[:, None] * t.period).ravel()
        state = [np.concatenate([np.tile(x[:-1], (repeat, 1, 1)), x[:1]]) for x in (t.pose, t.velocity, t.acceleration)]
        whole = repeat * t.period > m.duration * (1 - 1e-9)
        return np.append(times, repeat * t.period), state[0], state[1], state[2], whole

    def stations(self, once: bool) -> Array:
        """Moments (K,) s of the motion's stations, of one period if `once`."""
        if not self.motion.moving:
            return np.zeros(1)
        times = self.motion.track.times if once else self._stations[0]
        return times[times <= self.motion.duration * (1 + 1e-12)]

    @cached_property
    def _grid(self) -> tuple[Array, Array, Array, Array, NDArray[np.int64], bool]:
        if self.given is not None:
            return *self.given, np.zeros(0, dtype=np.int64), False
        m, t = self.motion, self.motion.track
        end, times, keep = m.duration, t.times, slice(None)
        repeat = 1
        if t.period is not None and m.moving:
            keep = slice(None, -1)
            repeat = min(int(np.ceil(end / t.period - 1e-9)), max(1, MOST // max(1, len(times) - 1)))
            times = (times[None, keep] + np.arange(repeat)[:, None] * t.period).ravel()
        whole = t.period is None or not m.moving or repeat * t.period > end * (1 - 1e-9)
        stations = [np.tile(x[keep], (repeat, 1, 1)) for x in (t.pose, t.velocity, t.acceleration)]
        if not whole:
            closed = [np.concatenate([x, x[:1]]) for x in stations]  # as it began
            times = np.append(times, repeat * (t.period or end))
            return times, closed[0], closed[1], closed[2], np.arange(len(times)), False
        near = np.clip(np.searchsorted(m.times, times), 1, len(m.times) - 1)
        gap = np.minimum(np.abs(times - m.times[near]), np.abs(times - m.times[near - 1]))
        fresh = (gap > SAME * end) & (times < end)
        every = np.concatenate([m.times, times[fresh]])
        order = np.argsort(every, kind="stable")
        state = [
            np.concatenate([f, s[fresh]])[order]
            for f, s in zip((m.pose, m.velocity, m.acceleration), stations, strict=True)
        ]
        return every[order], state[0], state[1], state[2], np.flatnonzero(order < len(m.times)), True

    @property
    def times(self) -> Array:
        return self._grid[0]

    @property
    def frames(self) -> NDArray[np.int64]:
        return self._grid[4]

    @property
    def whole(self) -> bool:
        return self._grid[5]

    def _place(self, at: At) -> tuple[int, Array]:
        m = self.mechanism
        if at.placed not in m.link_of or at.datum not in m.datums[at.placed]:
            raise NotMeasured(f"there is no datum {at.datum.replace('_', ' ')} of {at.placed.replace('_', ' ')} now")
        place = m.place(at)
        return place.link, place.frame

    def gap(self, a: Of, b: Of, times: Array) -> Array:
        """How far two parts are apart at moments (T,) s, m, by their triangles."""
        gaps = self.gaps(a, b, times) if self.gaps is not None else None
        if gaps is None:
            raise NotMeasured("both parts must be there, with their solids")
        return gaps

    def force(self, what: str, of: str, times: Array) -> Array:
        """What acts at moments (T,) s, N or N m."""
        forces = (
            self.forces(what, of, times) if self.forces is not None else "all parts must be there, with their solids"
        )
        if isinstance(forces, str):
            raise NotMeasured(forces)
        return forces

    def point(self, at: At) -> Jet:
        """The origin of a datum in the world, (T, 3) m."""
        link, frame = self._place(at)
        _, pose, velocity, acceleration, _, _ = self._grid
        turned = self._carried(link, frame[:3])
        v, a = velocity[:, link, :3], acceleration[:, link, :3]
        assert turned.dd is not None
        return Jet(pose[:, link, :3] + turned.v, v + turned.d, a + turned.dd)

    def direction(self, at: At, axis: str) -> Jet:
        """The axis x, y or z of a datum in the world, (T, 3)."""
        link, frame = self._place(at)
        return self._carried(link, poses.rotate(frame[3:], np.eye(3)["xyz".index(axis)]))

    def _carried(self, link: int, local: Array) -> Jet:
        _, pose, velocity, acceleration, _, _ = self._grid
        r = poses.rotate(pose[:, link, 3:], np.broadcast_to(local, (len(pose), 3)))
        w, gain = velocity[:, link, 3:], acceleration[:, link, 3:]
        d = poses.cross(w, r)
        return Jet(r, d, poses.cross(gain, r) + poses.cross(w, d))

    def coordinate(self, joint: str, turning: bool | None = None) -> Jet:
        """The coordinate of a joint that moves most, of those that turn or slide, (T,) rad or m, counted through turns."""
        own = [c for c in self.coordinates.values() if c.joint == joint and turning in (None, c.turning)]
        if not own:
            joint_ = self.mechanism.joints.get(joint)
            raise NotMeasured(
                f"nothing {'turns' if turning else 'slides'} in {joint_.name if joint_ else 'this joint'}"
            )
        c = max(own, key=lambda c: float(np.ptp(c.value)))
        if self.given is not None:
            return self._measured(c)
        out = [interpolated(c.whole, self.times, k) for k in range(3)]
        for k, exact in enumerate((c.value, c.rate, c.acceleration) if self.whole else ()):
            out[k][self.frames] = exact
        return Jet(out[0], out[1], out[2])

    def _measured(self, c: Coordinate) -> Jet:
        """A coordinate by the equations themselves, in the turn that its stations tell."""
        m, (times, pose, velocity, acceleration) = self.mechanism, self._grid[:4]
        size, unit = np.array([1 / m.reach] * 3 + [1.0] * 3), 1.0 if c.name in ANGLES else m.reach
        rows = Rows([coordinate_row(m.joints[c.joint], c.name)], len(m.links), m.reach)
        v, d, dd = (x[:, 0] * unit for x in rows.measured(m.scaled(pose), velocity * size, acceleration * size))
        if c.turning:
            v = v + np.round((interpolated(c.whole, times) - v) / (2 * np.pi)) * 2 * np.pi
        return Jet(v, d, dd)

    def counted(self, angle: Jet) -> Jet:
        """An angle known within a turn, counted through turns by its rate."""
        step = np.diff(self.times) * (angle.d[:-1] + angle.d[1:]) / 2
        turns = np.cumsum(np.round((step - np.diff(angle.v)) / (2 * np.pi))) * 2 * np.pi
        return Jet(np.concatenate([angle.v[:1], angle.v[1:] + turns]), angle.d, angle.dd)


def values(times: Array, jet: Jet) -> CoordinateValues:
    assert jet.dd is not None
    return CoordinateValues(times, jet.v, jet.d, jet.dd)
