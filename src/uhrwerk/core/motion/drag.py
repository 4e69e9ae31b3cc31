"""Pulling a part by hand: the mechanism follows within its freedoms and stops at its limits.

The point that is held goes as near to the pointer as the joints let it: Gauss-Newton on the joints' equations and, with
a small weight, on the gap to the pointer; then the joints alone are brought to tolerance. Steps are short, so that the
mechanism stays on its branch, and a coordinate is followed through its turns from step to step. A coordinate that
passes its limit is held there for the rest of the pull (an active set of one pass: Nocedal and Wright, Numerical
Optimization, 2nd ed. 2006, section 16.5).
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.blocks import EliminationPlan, Factors
from uhrwerk.core.equations.newton import TOLERANCE, newton
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row, Rows
from uhrwerk.core.joints import ANGLES, coordinate_row
from uhrwerk.core.motion.coordinate import counted

#: weight of the pointer against the joints, and of standing still against the pointer
PULL, REST = 3e-2, 1e-4
#: the longest step of a link, rad or reach; steps of one pull at most
STEP, STEPS = 0.25, 12


@dataclass
class Grip:
    """A mechanism in hand: its pose (L, 7) in reach, and every limited coordinate, counted through turns."""

    mechanism: Mechanism
    pose: Array
    values: dict[tuple[str, str], float] = field(default_factory=dict)

    @classmethod
    def at(cls, m: Mechanism, pose: Array, values: dict[tuple[str, str], float] | None = None) -> Grip:
        """From a pose (L, 7) in metres; `values` are coordinates whose turns are already known."""
        grip = cls(m, m.scaled(pose))
        grip.values = counted(m, grip.measure(grip.pose))
        grip.values |= {key: value for key, value in (values or {}).items() if key in grip.values}
        return grip

    @cached_property
    def limits(self) -> dict[tuple[str, str], tuple[float, float]]:
        return {(i, name): (low, high) for i, h in self.mechanism.joints.items() for name, low, high in h.limits}

    @cached_property
    def joints(self) -> Rows:
        return self.mechanism.system(drives=False)

    @cached_property
    def _limited(self) -> Rows:
        m = self.mechanism
        return Rows([coordinate_row(m.joints[i], name) for i, name in self.limits], len(m.links), m.reach)

    def measure(self, pose: Array) -> dict[tuple[str, str], float]:
        """Every limited coordinate at a pose, rad or m, angles nearest to what they were."""
        if not self.limits:
            return {}
        limits = self._limited.value(pose[None], np.zeros(1))[0][0] * self._limited.scale
        out = {}
        for key, value in zip(self.limits, limits, strict=True):
            if key[1] in ANGLES and key in self.values:
                value += 2 * np.pi * np.round((self.values[key] - value) / (2 * np.pi))
            out[key] = float(value)
        return out


def pull(grip: Grip, link: int, local: Array, target: Array) -> list[str]:
    """Moves the grip's pose so that a point (3,) of a link, m, comes as near to `target` (3,), m, as joints and limits
    let it. Returns the coordinates whose limits stopped it, as `joint.name`; where no step holds, the pose is left as it
    was and the answer is `joints`."""
    m, joints = grip.mechanism, grip.joints
    links = len(m.links)
    there = poses.place(poses.inverse(m.metres(grip.pose[0])), target)  # in the frame
    hand = Rows([Row("point", 0, link, (there, u, local), "hand") for u in np.eye(3)], links, m.reach)
    stops: dict[tuple[str, str], Row] = {}
    before = (grip.pose, dict(grip.values))
    pose, now, last = grip.pose, np.zeros(1), np.inf
    firm, plan = joints, _joined(joints, hand)
    for _ in range(STEPS):
        (r, j), (to, back) = firm.value(pose[None], now), hand.value(pose[None], now)
        both = np.concatenate([j, np.pad(back, ((0, 0), (0, 0), (0, j.shape[2] - 2), (0, 0))) * PULL], axis=1)
        step = Factors(plan, both, REST * PULL**2).least_squares(-np.concatenate([r, to * PULL], axis=1))
        longest = float(np.abs(step).max(initial=0.0))
        if longest > STEP:
            step *= STEP / longest
        pose = poses.moved(pose, step[0])
        grip.values = grip.measure(pose)
        fresh = {
            key: coordinate_row(m.joints[key[0]], key[1], "stop", high if grip.values[key] > high else low)
            for key, (low, high) in grip.limits.items()
            if key not in stops and not low - 1e-9 <= grip.values[key] <= high + 1e-9
        }
        if fresh:
            stops |= fresh
            firm = Rows([*joints.rows, *stops.values()], links, m.reach)
            plan, last = _joined(firm, hand), np.inf
        elif longest < 1e-4 or (longest > 0.7 * last and longest < 1e-3):
            break
        else:
            last = longest
    solved, residual = newton(firm, pose[None], now, rounds=15)
    if residual[0] > TOLERANCE or float(np.abs(poses.between(pose, solved[0])).max(initial=0.0)) > STEP:
        grip.pose, grip.values = before
        return [f"{i}.{name}" for i, name in stops] or ["joints"]
    grip.pose = solved[0]
    grip.values = grip.measure(grip.pose)
    return [f"{i}.{name}" for i, name in stops]


def _joined(firm: Rows, hand: Rows) -> EliminationPlan:
    wide = np.pad(hand.touched, ((0, 0), (0, firm.sides - 2)))
    return EliminationPlan(firm.links, np.concatenate([firm.touched, wide]))


def play(
    m: Mechanism, start: Array, joint: str | None, coordinate: str | None, motion: Array, frames: int = 48
) -> Array:
    """Poses (frames, L, 7) m of one freedom going forth, back and home again from a pose (L, 7) m, as far as it can.

    A freedom led by a coordinate goes 25 degrees or a tenth of the reach each way; another as far by its own motion.
    """
    rows = m.system(drives=False)
    scaled = m.scaled(start)
    way = motion / max(float(np.abs(motion).max(initial=0.0)), 1e-12)
    reach = 0.1 if coordinate is not None and coordinate not in ANGLES else 0.44
    sides = []
    for sense in (1.0, -1.0):
        pose, out = scaled, [scaled]
        along = sense * way
        for _ in range(frames // 4):
            h = reach / (frames // 4)
            drive = list(m.rows)
            if joint is not None and coordinate is not None:
                row = coordinate_row(m.joints[joint], coordinate)
                here = Rows([row], len(m.links), m.reach)
                at = float(here.value(pose[None], np.zeros(1))[0][0, 0] * here.scale[0])
                to = at + sense * h * (1.0 if coordinate in ANGLES else m.reach)
                drive.append(coordinate_row(m.joints[joint], coordinate, "play", to))
            system = Rows(drive, rows.links, rows.reach) if len(drive) > len(m.rows) else rows
            solved, residual = newton(system, poses.moved(pose, along * h)[None], np.zeros(1), rounds=12)
            step = poses.between(pose, solved[0])
            if residual[0] > TOLERANCE or np.abs(step).max(initial=0.0) > 10 * reach:
                break
            size = float(np.abs(step).max(initial=0.0))
            along = step / size if size > 1e-9 else along
            pose = solved[0]
            out.append(pose)
        sides.append(out)
    there, back = sides
    return m.metres(np.array([*there, *there[::-1], *back, *back[::-1]]))


__all__ = ["Grip", "play", "pull"]
