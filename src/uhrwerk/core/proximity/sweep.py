"""The sweep of two bodies over a whole cycle: how near they come, or how deep they overlap, how well that is
known, where and when.

Each pair is looked at on its own course (`course`), which is told as simply as it is, so that what two bodies do to one
another is found once, however often it is repeated, whatever else in the mechanism has changed.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from uhrwerk.core.cache import Cache
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.motion import CoordinateValues, Motion, reversals
from uhrwerk.core.proximity.body_geometry import BodyGeometry, BodyPair, PlacedBody
from uhrwerk.core.proximity.branch_and_bound import SmallestDistance, nearest
from uhrwerk.core.proximity.cam_contact import CamContact
from uhrwerk.core.proximity.depth import GRAIN, deepest
from uhrwerk.core.proximity.exact_fit import Fit, drawn_back_triangles, fits, met, spoken_for
from uhrwerk.core.proximity.relative_motion import (
    SAME,
    AboutFixedAxis,
    AtPoses,
    AtRest,
    GeneralMotion,
    RelativeMotion,
    hashed,
    rounded_up,
)

#: distances that differ by no more are the same where a limit is met exactly, m
EXACT = 5e-7
#: a distance is known to this part of itself at least
PART = 0.005
#: how well a distance is known on which a verdict hangs, m
CLOSE = 1e-7
#: how well the gap of teeth in mesh is known, m
FLANKS = 4e-6
#: phases of one tooth pitch at which gears in mesh are looked at
PHASES = 48


#: the bit of what a pair of cam and follower speaks for, beyond those of fits
PAIRED = 61


@dataclass(frozen=True)
class Meshing:
    """Gears in mesh, by their bodies' z axes: `ratio` is how far b turns about its own z for a turn of a about its own; for
    a rack, `travel` is how far it moves along its x instead, m for a radian. `pitch` is a's angle of one tooth."""

    pitch: float
    ratio: float = 0.0
    travel: float = 0.0


@dataclass(frozen=True)
class PairResult:
    """What was found for one pair of bodies over the cycle. Lengths m, times s, points in the world, m.

    distance: smallest found; the true one lies within [distance - error, distance + error].
    depth: overlap where there is one, with its error and the shared volume; `contact` where they touch without overlap.
    apart: proven not to overlap, or to touch only. decided: the search came to its end; else nothing is said of what is left.
    basis: how it is known, in words.
    """

    a: str
    b: str
    distance: float
    error: float
    time: float
    points: tuple[Array, Array]
    depth: float = 0.0
    volume: float = 0.0
    contact: bool = False
    apart: bool = True
    decided: bool = True
    basis: str = ""
    measured: int = 0
    at: tuple[int, float] = (0, 0.5)  # cell of the course, and where in it
    pose: Array = field(default_factory=lambda: poses.IDENTITY)  # of b's body in a's, at that moment
    facets: float = 0.0  # the part of the error that is due to triangles

    @property
    def lower(self) -> float:
        return max(0.0, self.distance - self.error)


class Sweep:
    """All that pairs of one motion share: relative motions of links, and which axes stand still; which parts are cam and
    follower, by their names, and where these touch."""

    def __init__(self, motion: Motion, touches: Mapping[tuple[str, str], CamContact] | None = None) -> None:
        self.motion, self.track, self.touches = motion, motion.track, touches or {}
        self._relative: dict[tuple[int, int], tuple[Array, Array, Array]] = {}
        self._steady: dict[tuple[int, int, bytes], bool] = {}
        self._turns: dict[tuple[int, int], tuple[CoordinateValues, tuple[Array, Array]]] = {}
        self._where: dict[tuple[float, int], Array] = {}
        self._carriers: dict[tuple[str, int, int, bytes], tuple[int, Array]] = {}  # by form, link, other link, place

    def relative(self, a: int, b: int) -> tuple[Array, Array, Array]:
        """Pose (K, 7), twist (K, 6) and its derivative of link b in link a, at the stations."""
        if (a, b) not in self._relative:
            t = self.track
            one = (t.pose[:, a], t.velocity[:, a], t.acceleration[:, a])
            self._relative[a, b] = relative_state(one, (t.pose[:, b], t.velocity[:, b], t.acceleration[:, b]))
        return self._relative[a, b]

    @cached_property
    def _middles(self) -> Array:
        t = self.track
        return t.at((t.times[:-1] + t.times[1:]) / 2)

    @cached_property
    def _resting(self) -> set[int]:
        """Links that stand still all the time, as the frame does: parts that nothing drives."""
        t = self.track
        moved = np.abs(t.pose - t.pose[:1]).max(axis=(0, 2))
        fast = np.abs(t.velocity).max(axis=(0, 2)) * self.motion.period
        return set(np.flatnonzero((moved < SAME) & (fast < SAME)).tolist())

    def _on_frame(self, s: PlacedBody) -> PlacedBody:
        """A body whose link stands still, taken as the frame's; any other as it is."""
        if s.link == 0 or s.link not in self._resting:
            return s
        key = (s.form.key, s.link, 0, s.local.tobytes())
        if key not in self._carriers:
            frame, link = self.track.pose[0, [0, s.link]]
            self._carriers[key] = 0, poses.compose(poses.inverse(frame), poses.compose(link, s.local))
        return replace(s, link=0, local=self._carriers[key][1])

    def _carrier(self, s: PlacedBody, other: PlacedBody) -> tuple[int, Array]:
        """The link, and the pose in it, with which a body may be taken to move against another: a solid of revolution that
        turns in place on the other's link, or on the frame, moves with that."""
        if s.form.spun is None or s.link in (other.link, 0):
            return s.link, s.local
        key = (s.form.key, s.link, other.link, s.local.tobytes())
        if key not in self._carriers:
            foot, z = s.form.spun
            foot, z = poses.place(s.local, foot), poses.rotate(s.local[3:], z)
            still = (link for link in dict.fromkeys((other.link, 0)) if self._still(link, s.link, foot, z))
            link = next(still, s.link)
            on = s.local if link == s.link else poses.compose(self.relative(link, s.link)[0][0], s.local)
            self._carriers[key] = link, on
        return self._carriers[key]

    def _still(self, seen_from: int, link: int, foot: Array, z: Array) -> bool:
        key = (seen_from, link, np.concatenate([foot, z]).tobytes())
        if key not in self._steady:
            pose = self.relative(seen_from, link)[0]
            turned, at = poses.rotate(pose[:, 3:], z), poses.place(pose, foot)
            off = poses.cross(at - at[0], np.broadcast_to(turned[0], at.shape))
            along = (at - at[0]) @ turned[0]
            self._steady[key] = bool(
                np.abs(turned - turned[0]).max() < SAME and np.abs(off).max() < SAME and np.abs(along).max() < SAME
            )
        return self._steady[key]

    def course(self, a: PlacedBody, b: PlacedBody, meshing: Meshing | None = None) -> RelativeMotion:
        """The course of b's body in the frame of a's."""
        a, b = self._on_frame(a), self._on_frame(b)
        (la, pa), (lb, pb) = self._carrier(a, b), (b.link, b.local)
        if la != b.link:
            lb, pb = self._carrier(b, replace(a, link=la))
        if la == lb or len(self.track.times) == 1:
            here = self.relative(la, lb)[0][0] if la != lb else poses.IDENTITY
            return AtRest(poses.compose(poses.inverse(pa), poses.compose(here, pb)))
        pose, twist, rate = placed(self.relative(la, lb), pa, pb)
        if np.abs(poses.between(pose[:1], pose)).max() < SAME and np.abs(twist).max() * self.motion.period < SAME:
            return AtRest(pose[0])
        if meshing is not None:
            return self._meshing(pose, meshing)
        turning = self._turning(a.form, b.form, pose, twist, rate, (la, lb))
        return turning or GeneralMotion(
            self.track.times, pose, twist, rate, self._error(la, lb, pa, pb, pose, twist, rate)
        )

    def _error(self, la: int, lb: int, pa: Array, pb: Array, pose: Array, twist: Array, rate: Array) -> Array:
        """(2,) how far an interpolated pose may be off, m and rad: the errors of both links, and twice what the middles of
        the intervals show of interpolating the one against the other."""
        own = self.track.error[:, [la, lb]].max(axis=0)  # (2, 2)
        far = np.linalg.norm(poses.compose(self._middles[:, la], pa)[:, :3] - self._middles[:, lb, :3], axis=1).max()
        bare = GeneralMotion(self.track.times, pose, twist, rate, np.zeros(2))
        between = poses.compose(
            poses.inverse(poses.compose(self._middles[:, la], pa)), poses.compose(self._middles[:, lb], pb)
        )
        half = np.full(bare.cells, 0.5)
        off = poses.between(bare.poses(np.arange(bare.cells), half), between)
        shift, turn = (2 * float(np.linalg.norm(x, axis=1).max()) for x in (off[:, :3], off[:, 3:]))
        return np.array([
            own[0, 0] + own[1, 0] + own[0, 1] * far + own[1, 1] * float(np.linalg.norm(pb[:3])) + shift, own[:, 1].sum() + turn
        ])  # fmt: skip

    def _turning(
        self, a: BodyGeometry, b: BodyGeometry, pose: Array, twist: Array, rate: Array, links: tuple[int, int]
    ) -> AboutFixedAxis | None:
        """The course as a turn about a fixed axis; None where it is not one."""
        away = poses.rotation_vector(poses.multiply(pose[:, 3:], poses.conjugate(pose[:1, 3:])))
        w = twist[:, 3:]
        fastest = int(np.argmax(np.linalg.norm(w, axis=1)))
        speed = float(np.linalg.norm(w[fastest]))
        if speed * self.motion.period < 1e-6:
            return None
        n = w[fastest] / speed
        sign = 1.0 if n[int(np.argmax(np.abs(n)))] > 0 else -1.0
        axis = sign * n
        if np.abs(poses.cross(away, np.broadcast_to(axis, away.shape))).max() > SAME:
            return None
        if np.abs(poses.cross(w, np.broadcast_to(axis, w.shape))).max() > SAME * speed:
            return None
        foot = pose[fastest, :3] + poses.cross(w[fastest], twist[fastest, :3]) / speed**2
        reach = float(np.linalg.norm(pose[:, :3] - foot, axis=1).max()) + 1e-3
        if np.abs(twist[:, :3] - poses.cross(w, pose[:, :3] - foot)).max() > 10 * SAME * speed * reach:
            return None
        back = poses.place(poses.inverse(pose), foot)
        if np.abs(back - back[0]).max() > 2 * SAME:
            return None
        if links not in self._turns:  # the same for all bodies of both links
            steps = poses.rotation_vector(poses.multiply(pose[1:, 3:], poses.conjugate(pose[:-1, 3:]))) @ n
            turns = CoordinateValues(
                self.track.times, np.concatenate([[0.0], np.cumsum(steps)]), w @ n, rate[:, 3:] @ n
            )
            self._turns[links] = turns, reversals(turns)
        values, (when, ends) = self._turns[links]
        times, angles = np.concatenate([values.times, when]), sign * np.concatenate([values.value, ends])
        order = np.argsort(times, kind="stable")
        low = float(angles.min())
        turn = np.concatenate([foot * 0, axis * low])
        first = poses.compose(
            np.concatenate([foot, poses.turned(turn[3:])]), np.concatenate([pose[0, :3] - foot, pose[0, 3:]])
        )
        order_a = _order(a, axis, foot)
        order_b = _order(b, poses.rotate(poses.conjugate(pose[0, 3:]), axis), back[0])
        period = 2 * np.pi / np.lcm(order_a, order_b)
        span = min(float(np.ptp(angles)), period)
        off = float(self.track.error[:, list(links), 1].sum(axis=1).max())
        return AboutFixedAxis(first, axis, foot, span, period, times[order], angles[order] - low, rounded_up(off))

    def _meshing(self, pose: Array, g: Meshing) -> RelativeMotion:
        """Gears seen along the line of centres: at even phases of one whole pitch, or of what is passed of it."""
        # towards the other gear, or towards the rack: against its y
        toward = -poses.rotate(pose[:, 3:], np.array([0.0, 1, 0])) if g.travel else pose[:, :3]
        direction = np.arctan2(toward[:, 1], toward[:, 0])
        phase = -np.unwrap(direction - direction[0])
        low, high = float(phase.min()), float(phase.max())
        whole = high - low >= g.pitch
        # from where they start, however far they go: another speed sees the same phases
        phases = np.arange(PHASES) / PHASES * g.pitch if whole else low + np.linspace(0, high - low, PHASES)
        back = np.concatenate([np.zeros((PHASES, 3)), poses.turned(-phases[:, None] * np.array([0.0, 0, 1]))], axis=1)
        on = np.tile(poses.IDENTITY, (PHASES, 1))
        if g.travel:
            on[:, 0] = g.travel * phases
        else:
            on[:, 3:] = poses.turned(g.ratio * phases[:, None] * np.array([0.0, 0, 1]))
        many = poses.compose(back, poses.compose(pose[0], on))
        clock = AboutFixedAxis(poses.IDENTITY, np.eye(3)[2], np.zeros(3), max(high - low, 1e-12), g.pitch if whole else 2 * np.pi, self.track.times, phase - low)  # fmt: skip
        since = np.mod(phases - low, g.pitch) if whole else phases - low
        times = np.array([clock.time(0, float(p) / clock.span * clock.cells) for p in since])
        what = "one whole tooth pitch" if whole else "the part of a tooth pitch that is passed"
        return AtPoses(many, times, f"sampled: {PHASES} phases of {what}, seen along the line of centres")

    # finding

    def task(
        self,
        a: PlacedBody,
        b: PlacedBody,
        precision: float | None = None,
        meshing: Meshing | None = None,
        limits: tuple[float, ...] = (),
    ) -> SweepTask:
        """What is to be found for two bodies. With `precision` (m) the smallest distance is to be known to that, or to a
        part of the triangles' error; without, only whether they touch. `limits` are distances that decide verdicts."""
        course = self.course(a, b, meshing)
        around = None
        wheels = [replace(s, form=_wheel(s.form)) for s in (a, b)]
        if isinstance(course, GeneralMotion) and (wheels[0].form is not a.form or wheels[1].form is not b.form):
            around = self.course(wheels[0], wheels[1])
            if isinstance(around, GeneralMotion) and _rolls(wheels[0].form, wheels[1].form, around.pose):
                around = AtRest(around.pose[0])  # about parallel axes that keep their distance, one moment tells of all
        placed = a.placed, b.placed
        touch, turned = self.touches.get(placed), self.touches.get(placed[::-1])
        return SweepTask(
            a.form, b.form, course, precision, limits, around, isinstance(course, AtPoses), touch or turned, touch is None,
        )  # fmt: skip

    def find(
        self,
        a: PlacedBody,
        b: PlacedBody,
        precision: float | None = None,
        meshing: Meshing | None = None,
        limits: tuple[float, ...] = (),
    ) -> PairResult:
        """The finding of a task, told of these two shapes."""
        task = self.task(a, b, precision, meshing, limits)
        return self.placed_result(a, b, task, task.finding())

    def placed_result(self, a: PlacedBody, b: PlacedBody, task: SweepTask, result: PairResult) -> PairResult:
        """A finding with the names, the moment and the place that it has here."""
        time = task.course.time(*result.at)
        link, local = self._carrier(self._on_frame(a), self._on_frame(b))
        if (time, link) not in self._where:
            self._where[time, link] = self.track.at(np.array([time]), [link])[0, 0]
        where = poses.compose(self._where[time, link], local)
        points = (poses.place(where, result.points[0]), poses.place(where, result.points[1]))
        return replace(result, a=a.name, b=b.name, time=time, points=points)

    def poses(self, a: PlacedBody, b: PlacedBody, times: Array) -> Array:
        """(n, 7) poses of b's body in a's at moments of the cycle."""
        both = self.track.at(times, [a.link, b.link])
        return poses.compose(poses.inverse(poses.compose(both[:, 0], a.local)), poses.compose(both[:, 1], b.local))


def _order(f: BodyGeometry, axis: Array, foot: Array) -> int:
    """How many equal parts a body has round an axis given in its own frame."""
    on_z = abs(abs(axis[2]) - 1) < SAME and np.hypot(foot[0], foot[1]) < SAME
    return f.body.order if on_z else 1


def relative_state(a: tuple[Array, Array, Array], b: tuple[Array, Array, Array]) -> tuple[Array, Array, Array]:
    """Pose, twist and its derivative of b in a's frame, from those of both in the world, each (K, ...)."""
    (pa, va, aa), (pb, vb, ab) = a, b
    back = poses.conjugate(pa[:, 3:])
    r, dv = pb[:, :3] - pa[:, :3], vb[:, :3] - va[:, :3]
    w, wb = va[:, 3:], vb[:, 3:]
    cross = poses.cross
    v = dv - cross(w, r)
    rate = ab[:, :3] - aa[:, :3] - cross(aa[:, 3:], r) - 2 * cross(w, dv) + cross(w, cross(w, r))
    turn = ab[:, 3:] - aa[:, 3:] - cross(w, wb)
    twist = np.concatenate([poses.rotate(back, v), poses.rotate(back, wb - w)], axis=1)
    return (
        poses.compose(poses.inverse(pa), pb),
        twist,
        np.concatenate([poses.rotate(back, rate), poses.rotate(back, turn)], axis=1),
    )


def placed(motion: tuple[Array, Array, Array], a: Array, b: Array) -> tuple[Array, Array, Array]:
    """The same of a frame at b (7,) on the moving link, seen from a frame at a (7,) on the other."""
    pose, twist, rate = motion
    arm = poses.rotate(pose[:, 3:], b[:3])
    w, alpha = twist[:, 3:], rate[:, 3:]
    v = twist[:, :3] + poses.cross(w, arm)
    acc = rate[:, :3] + poses.cross(alpha, arm) + poses.cross(w, poses.cross(w, arm))
    back = poses.conjugate(a[3:])
    return (
        poses.compose(poses.inverse(a), poses.compose(pose, b)),
        np.concatenate([poses.rotate(back, v), poses.rotate(back, w)], axis=1),
        np.concatenate([poses.rotate(back, acc), poses.rotate(back, alpha)], axis=1),
    )


@dataclass(frozen=True)
class SweepTask:
    """Two forms, the course of one against the other, and how well the answer is to be known. Nothing else decides it."""

    a: BodyGeometry
    b: BodyGeometry
    course: RelativeMotion
    precision: float | None
    limits: tuple[float, ...] = ()
    around: RelativeMotion | None = None  # of the discs round both, where one is a wheel: its turning moves nothing
    flanks: bool = False  # gears on parallel axes, beside one another: only what stands upright can meet
    touch: CamContact | None = None  # cam and follower
    turned: bool = False  # b is the cam

    def key(self) -> str:
        touch = self.touch.key() if self.touch is not None else ()
        return hashed(
            self.a.key,
            self.b.key,
            self.course.key(),
            self.precision,
            self.limits,
            "" if self.around is None else self.around.key(),
            self.flanks,
            *touch,
            self.turned,
        )

    def finding(self) -> PairResult:
        """What the two bodies do to one another; points are in a's frame."""
        a, b, course = self.a, self.b, self.course
        fitted = []
        if not isinstance(course, AtPoses):  # teeth in mesh keep no gap but along their flanks
            some = _poses_of(course)
            fitted = [f for f in fits(a, b, some) if met(a, b, f, some)]
        pair = BodyPair(a, b, drawn_back_triangles(a, b, fitted))
        slack = pair.error + course.error(b.radius + float(np.linalg.norm(b.centre)))
        fine = max(GRAIN, 0.25 * pair.error, self.precision or 0.0)
        enough = slack + GRAIN if self.precision is None else np.inf
        marks = spoken_for(a, b, fitted)
        if self.touch is not None:  # held at a gap of nothing by their pair's equation
            of = (
                (self.touch.of_follower, self.touch.of_cam)
                if self.turned
                else (self.touch.of_cam, self.touch.of_follower)
            )
            for mark, inside, form in zip(marks, of, (a, b), strict=True):
                mark[inside(form)] |= 1 << PAIRED
            fitted.append(Fit(-1, -1, 0.0))
        axes = course.axes if isinstance(course, AboutFixedAxis) else (None, None)
        clusters = (
            (a.flanks, b.flanks) if self.flanks else (a.clusters(marks[0], axes[0]), b.clusters(marks[1], axes[1]))
        )
        floor = self._floor()
        smallest = nearest(*clusters, course, fine, enough, floor, PART)
        near = slack + smallest.distance - smallest.lower
        if smallest.distance > 0 and any(abs(smallest.distance - x) < near for x in self.limits):
            smallest = nearest(*clusters, course, CLOSE, enough, floor)  # the verdict hangs on it
        tightest = min(fitted, key=lambda f: f.play - f.stray, default=None)
        return _with_play(_pair_result(pair, course, smallest, slack), tightest)

    def _floor(self) -> float:
        """A distance below which the two never come: that of the discs round them."""
        if self.around is None:
            return 0.0
        axes = self.around.axes if isinstance(self.around, AboutFixedAxis) else (None, None)
        discs = (_wheel(self.a), _wheel(self.b))
        around = self.around

        def found() -> float:
            one, other = (f.clusters(f.unmarked, axis) for f, axis in zip(discs, axes, strict=True))
            lower = nearest(one, other, around, GRAIN, most=400).lower
            return max(0.0, lower - sum(f.body.deviation for f in discs)) if around.rests else lower

        return _floors.get(hashed(discs[0].key, discs[1].key, around.path()), found)


#: how near the discs round two bodies come, by these and their course: it does not hang on how fast they go
_floors: Cache[float] = Cache(2000)


def _wheel(form: BodyGeometry) -> BodyGeometry:
    """The disc round a body that nearly is one, else the body itself."""
    return form if form.wheel is None else form.wheel


def _axis(form: BodyGeometry) -> tuple[Array, Array] | None:
    """A point and the direction of the axis of a solid of revolution, or of the disc round what nearly is one."""
    if form.key.endswith(" wheel"):
        return form.body.faces[0].origin, form.body.faces[0].direction
    return form.spun


def _rolls(a: BodyGeometry, b: BodyGeometry, pose: Array) -> bool:
    """Whether two solids of revolution (or discs round what nearly is one) keep parallel axes at one distance, and do not shift along
    them, where b's frame takes poses (K, 7) in a's: turning changes nothing then."""
    one, other = _axis(a), _axis(b)
    if one is None or other is None:
        return False
    (foot, z), (there, way) = one, other
    points, ways = poses.place(pose, there), poses.rotate(pose[:, 3:], way)
    off = points - foot
    along = off @ z
    far = np.linalg.norm(off - along[:, None] * z, axis=1)
    lean = np.linalg.norm(np.cross(ways, z), axis=1).max()
    return bool(max(lean, np.ptp(along), np.ptp(far)) < 10 * SAME)


def _poses_of(course: RelativeMotion) -> Array:
    """Poses at which a gap must be the same to count as constant: the middles and ends of the cells."""
    if isinstance(course, GeneralMotion):
        return course.pose
    cells = np.arange(course.cells)
    if course.rests:
        return course.poses(cells, np.full(len(cells), 0.5))
    both = np.concatenate([cells, cells[-1:]])
    return course.poses(both, np.concatenate([np.zeros(len(cells)), [1.0]]))


def _pair_result(pair: BodyPair, course: RelativeMotion, f: SmallestDistance, slack: float) -> PairResult:
    points = (pair.a.centre, pair.a.centre) if f.points is None else (f.points[0], f.points[1])
    gap = f.distance - f.lower if np.isfinite(f.distance) else 0.0  # infinite: fits speak for all there is
    out = PairResult(
        "", "", f.distance, gap + slack, 0.0, points, apart=f.lower > slack, decided=f.decided, basis=course.basis,
        measured=f.measured, at=(f.cell, f.middle), pose=f.pose, facets=pair.error,
    )  # fmt: skip
    if f.distance <= 0:
        return _deepest(pair, course, f, out, slack)
    if np.isfinite(f.distance) and pair.encloses(f.pose):
        _, volume, middle, _ = pair.overlap(f.pose)
        depth = pair.freed(f.pose)[0]
        return replace(out, distance=0.0, depth=depth, volume=volume, points=(middle, middle), apart=False, error=slack)
    return out


def _deepest(pair: BodyPair, course: RelativeMotion, f: SmallestDistance, out: PairResult, slack: float) -> PairResult:
    """The deepest overlap over the course. Cells in which it may be deeper are halved, the most promising first; what may
    still be missed goes into the error, which is an estimate: depth need not change as evenly as is assumed."""
    deepest_ = deepest(pair, course, (f.cell, f.middle), slack)
    if isinstance(course, AboutFixedAxis | GeneralMotion):
        basis = f"{out.basis}; the deepest overlap is estimated, from {deepest_.looks} moments"
    else:
        many = "the pose" if course.cells == 1 else f"{deepest_.looks} of {course.cells} phases"
        basis = f"{out.basis}; overlap sampled at {many}"
    result = replace(
        out, distance=0.0, contact=True, apart=True, error=slack, basis=basis, pose=deepest_.pose, at=deepest_.at
    )
    if deepest_.depth <= GRAIN:
        return result
    return replace(
        result, depth=deepest_.depth, volume=deepest_.volume, contact=False, apart=False, points=(deepest_.middle, deepest_.middle),
        error=slack + deepest_.missed + GRAIN,
    )  # fmt: skip


def _with_play(result: PairResult, fit: Fit | None) -> PairResult:
    """Takes the exact gap of fitted faces into what was found for all others."""
    if fit is None:
        return result
    play, off = fit.play, 2 * SAME + fit.stray
    if fit.stray:  # of triangles alone nothing is compared exactly
        basis = result.basis + "; round faces that were found in triangles compared to what those may cut into them"
        if 0 < play <= result.lower and result.depth == 0:
            return replace(result, distance=play, error=off, apart=result.apart and play > off, basis=basis)
        return replace(
            result, distance=min(max(play, 0.0), result.distance), apart=False, error=result.error + off, basis=basis
        )
    exact = result.basis + "; faces that keep their gap compared exactly"
    if play < -GRAIN / 10 and -play > result.depth:
        return replace(result, depth=-play, contact=False, apart=False, distance=0.0, error=2 * SAME, basis=exact)
    if result.depth > 0:
        return result
    if play <= GRAIN / 10:
        return replace(
            result, contact=True, apart=result.apart or result.contact, distance=0.0, error=2 * SAME, basis=exact
        )
    if play <= result.lower:
        return replace(result, distance=play, error=2 * SAME, basis=exact)
    return replace(result, distance=min(play, result.distance), basis=exact)


__all__ = ["Meshing", "PairResult", "Sweep", "SweepTask"]
