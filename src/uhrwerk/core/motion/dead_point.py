"""Dead points: where a drive can move the mechanism no further, located exactly and described in the designer's words.

Time is no longer given but followed as an unknown along the curve of poses (pseudo-arclength continuation: Keller,
Numerical solution of bifurcation and nonlinear eigenvalue problems, 1977). At a dead point the curve turns back in time;
there the time has a largest value, which is found by halving. From memory.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import TOLERANCE, null_space, rates
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import KINDS, Rows
from uhrwerk.core.joints import ANGLES
from uhrwerk.core.joints.resolved_joint import axes
from uhrwerk.core.motion.trajectory import Station
from uhrwerk.core.quantity import display

#: length of a step along the curve, in reach and rad; steps at most
STEP, STEPS = 0.02, 400
#: the motion is followed until time runs this much slower than the links
SLOW = 3e-3
#: seconds within which a stop counts as one at the very start
AT_ONCE = 1e-9
#: sine of the angle at which two links count as in line, and cosine at which they count as square
IN_LINE = 2e-3


class DeadPoint(Exception):
    """Rows that can be followed no further than `time`, s."""

    def __init__(self, time: float) -> None:
        super().__init__(f"the rows can be followed no further than {time:.6g} s")
        self.time = time


@dataclass(frozen=True)
class Fold:
    """Where time turns back: when, the pose (L, 7) in reach, and the motion (L, 6) that goes on although time stands.
    `turns` is False where the curve could not be followed to such a point."""

    time: float
    pose: Array
    motion: Array
    turns: bool


class _Curve:
    """Poses with their time, followed along their curve. Time is measured as the fastest driver's way."""

    def __init__(self, rows: Rows, time: float) -> None:
        self.rows, self.pace = rows, float(np.abs(rows.rate(np.array([time]))).max()) or 1.0

    def tangent(self, pose: Array, time: float, before: Array) -> Array:
        """(6 L + 1,) unit direction of the curve, the last entry that of time, nearest to the one before."""
        _, j = self.rows.value(pose[None], np.array([time]))
        whole = np.concatenate(
            [self.rows.dense(j)[0][:, 6:], -self.rows.rate(np.array([time]))[0][:, None] / self.pace], axis=1
        )
        null, _ = null_space(whole)
        t = null @ (null.T @ before)
        return t / max(float(np.linalg.norm(t)), 1e-300)

    def step(self, pose: Array, time: float, along: Array, far: float) -> tuple[Array, float] | None:
        """The point of the curve that lies `far` along a direction."""
        pose, time = self._moved(pose, time, along * far)
        for _ in range(12):
            r, j = self.rows.value(pose[None], np.array([time]))
            if np.abs(r).max() < 1e-13:
                break
            whole = np.concatenate(
                [self.rows.dense(j)[0][:, 6:], -self.rows.rate(np.array([time]))[0][:, None] / self.pace], axis=1
            )
            system = np.concatenate([whole, along[None]])
            move = np.linalg.lstsq(system, np.concatenate([-r[0], [0.0]]), rcond=1e-10)[0]
            pose, time = self._moved(pose, time, move)
        r, _ = self.rows.value(pose[None], np.array([time]))
        return (pose, time) if np.abs(r).max() < TOLERANCE else None

    def _moved(self, pose: Array, time: float, move: Array) -> tuple[Array, float]:
        step = np.concatenate([np.zeros((1, 6)), move[:-1].reshape(-1, 6)])
        return poses.moved(pose, step), time + float(move[-1]) / self.pace


def approach(rows: Rows, pose: Array, time: float) -> tuple[list[Station], Fold]:
    """Stations on the way from a pose (L, 7) in reach to the dead point, and the dead point itself."""
    curve = _Curve(rows, time)
    forward = np.zeros(6 * (rows.links - 1) + 1)
    forward[-1] = 1.0
    tangent = curve.tangent(pose, time, forward)
    on_the_way: list[Station] = []
    here, far = (pose, time, tangent), STEP
    for _ in range(STEPS):
        point = curve.step(here[0], here[1], here[2], far)
        if point is None:
            far /= 2
            if far < 1e-6:
                break
            continue
        t = curve.tangent(*point, here[2])
        if t[-1] <= 0:
            return on_the_way, _halved(curve, here, far)
        here = (*point, t)
        if t[-1] > SLOW:
            pose, at = point[0][None], point[1]
            on_the_way.append((at, pose, *rates(rows, pose, np.array([at]))))
    return on_the_way, Fold(here[1], here[0], _whole(here[2], rows.links), False)


def _halved(curve: _Curve, here: tuple[Array, float, Array], far: float) -> Fold:
    """The point between `here` and `far` along it where time stands."""
    low, high = 0.0, far
    best = (*here[:2], here[2])
    for _ in range(40):
        middle = (low + high) / 2
        point = curve.step(here[0], here[1], here[2], middle)
        if point is None:
            high = middle
            continue
        t = curve.tangent(*point, here[2])
        best = (*point, t)
        low, high = (middle, high) if t[-1] > 0 else (low, middle)
    return Fold(best[1], best[0], _whole(best[2], curve.rows.links), True)


def _whole(direction: Array, links: int) -> Array:
    return np.concatenate([np.zeros((1, 6)), direction[:-1].reshape(links - 1, 6)])


def drivers_at(m: Mechanism, time: float) -> dict[str, tuple[str, float]]:
    """Where every driver stands at a moment: its path, with dimension and value in rad or m."""
    out = {}
    for row in m.drives:
        angle, value = KINDS[row.kind].unit == "angle", row.wanted_at(time)
        driver = m.document.drivers[row.owner.split(".")[1]]
        joint = m.joints[driver.joint]
        if joint.kind == "screw" and driver.coordinate == "turn":
            angle, value = True, value * 2 * np.pi / joint.lead
        out[row.owner] = ("angle" if angle else "length", float(value))
    return out


def dead_point_words(m: Mechanism, fold: Fold) -> str:
    """The dead point in words: which driver, at which angle or travel, and which links are in line."""
    if fold.time <= AT_ONCE:
        names = " and ".join(m.names[i] for i in drivers_at(m, 0.0))
        return f"{names} cannot start: joints, relations or other drives hold what is to move. Remove one of them"
    unit = {"angle": "deg", "length": m.document.units.length}
    where = " and ".join(
        f"{m.names[i]} at {display(x, of, unit[of])}" for i, (of, x) in drivers_at(m, fold.time).items()
    )
    words = f"{where} ({fold.time:.4g} s) is at a dead point: the drive can move the mechanism no further"
    if not fold.turns:
        words = f"{where} ({fold.time:.4g} s) cannot be followed further: there the mechanism can continue in more than one way, or a link is at the end of its reach"
    line = in_line(m, fold)
    return words + (f"; {line}" if line else "") + ". The motion up to there is played and checked"


def in_line(m: Mechanism, fold: Fold) -> str:
    """Which two links are in line, or which one stands square to a slide, at a dead point; empty where neither is."""
    links = []
    at = fold.pose
    nodes = []
    for joint in m.joints.values():
        frame = poses.compose(at[joint.b], m.scaled(joint.frame_b))
        on = poses.compose(at[joint.a], m.scaled(joint.frame_a))
        nodes.append((joint, frame[:3], axes(on)))
    driven = {m.document.drivers[r.owner.split(".")[1]].joint for r in m.drives}
    turning = [n for n in nodes if any(c in ANGLES for c in n[0].coordinates) and n[0].kind not in ("slot", "arc_slot")]
    size = max(float(np.abs(fold.motion).max(initial=0.0)), 1e-300)

    def moves(k: int) -> bool:
        return float(np.abs(fold.motion[k]).max()) > 1e-3 * size

    def name(k: int) -> str:
        return m.document.placed[m.links[k].parts[0]].name

    for middle, o, (_, _, z) in turning:
        if middle.id in driven:
            continue
        for i, j in ((middle.a, middle.b), (middle.b, middle.a)):
            for (one, p, _), (other, q, _) in itertools.product(nodes, turning):
                if (
                    one is middle
                    or other is middle
                    or one is other
                    or i not in (one.a, one.b)
                    or j not in (other.a, other.b)
                ):
                    continue
                if {i, j} <= {one.a, one.b} or {i, j} <= {other.a, other.b} or not (moves(i) or moves(j)):
                    continue
                v = q - o - ((q - o) @ z) * z
                if one.kind == "prismatic":
                    u = axes(poses.compose(at[one.a], m.scaled(one.frame_a)))[2]
                    if np.linalg.norm(v) > 1e-6 and abs(u @ v) < IN_LINE * np.linalg.norm(v):
                        links.append(f"{name(j)} stands square to the slide of {name(i)}")
                elif any(one is n[0] for n in turning):
                    u = p - o - ((p - o) @ z) * z
                    long = float(np.linalg.norm(u) * np.linalg.norm(v))
                    if long > 1e-9 and np.linalg.norm(np.cross(u, v)) < IN_LINE * long and 0 not in (i, j):
                        links.append(f"{' and '.join(sorted((name(i), name(j))))} are in line")
    return links[0] if links else ""
