"""Where parts go when one more joint is made: the least that the joint asks.

Whatever hangs on one of the two parts alone moves as one rigid whole, by the smallest turn that brings the directions
together and the smallest shift that satisfies the rest: the other part stays where it is, and nothing jumps. Only where
both already hang on one another, or on the frame, is the whole mechanism solved anew, from where it is.
"""

from __future__ import annotations

import numpy as np

from uhrwerk.core.assembly.mechanism import Mechanism
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import TOLERANCE, newton
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row, Rows


def settled(m: Mechanism, new: str) -> Array | None:
    """The pose after moving all that hangs on one of the two parts as a whole; None where that does not satisfy it."""
    own = [r for r in m.rows if r.owner == new]
    if not own:
        return None
    goes = _goes(m, own)
    if goes is None:
        return None
    pose = m.scaled(m.start)
    others = Rows([r for r in m.rows if r.owner != new], len(m.links), m.reach)
    if len(others) and float(np.abs(others.value(pose[None], np.zeros(1))[0]).max()) > 1e-6:
        return None  # what is there already does not hold as it stands: everything is solved
    b = own[0].b
    pivot = _aligned(m, new, pose, goes, pose[b if b in goes else own[0].a, :3].copy())
    _brought(Rows(own, len(m.links), m.reach), pose, goes, pivot)
    pose, left = (x[0] for x in newton(m.system(drives=False), pose[None], np.zeros(1)))
    if left > TOLERANCE or not all(aim.holds_side(pose) for aim in m.aims):
        return None
    return m.metres(pose)


def _goes(m: Mechanism, own: list[Row]) -> set[int] | None:
    """The links that move: all that hangs on the second part, or else on the first; None where both hang on one another
    or on the frame."""
    near: dict[int, set[int]] = {}
    for row in m.rows:
        if row.owner != own[0].owner:
            for k in (row.a, row.b, row.c):
                near.setdefault(k, set()).update({row.a, row.b, row.c} - {-1})

    def hanging(first: int) -> set[int]:
        seen, waiting = {first}, [first]
        while waiting:
            for k in near.get(waiting.pop(), set()) - seen:
                seen.add(k)
                waiting.append(k)
        return seen

    for stays, first in ((own[0].a, own[0].b), (own[0].b, own[0].a)):
        goes = hanging(first)
        if 0 not in goes and stays not in goes:
            return goes
    return None


def _carried(pose: Array, goes: set[int], pivot: Array, turn: Array, shift: Array | float = 0.0) -> None:
    """Turns the links that go about a point, then shifts them, in `pose` (L, 7) itself."""
    for k in goes:
        pose[k, :3] = pivot + shift + poses.rotate(turn, pose[k, :3] - pivot)
        pose[k, 3:] = poses.multiply(turn, pose[k, 3:])


def _aligned(m: Mechanism, new: str, pose: Array, goes: set[int], pivot: Array) -> Array:
    """Turns what goes until the directions that the joint lays along one another do; the point that stays as it is."""
    for aim in m.aims:
        if aim.owner == new and aim.aligned:
            z_a, z_b = aim.directions(pose)
            of_b = aim.b in goes
            z_from, z_to = (z_b, z_a) if of_b else (z_a, z_b)
            link, own = (aim.b, aim.frame_b) if of_b else (aim.a, aim.frame_a)
            frame = poses.compose(pose[link], m.scaled(own))
            pivot = frame[:3]
            _carried(pose, goes, pivot, _least_turn(z_from, z_to, poses.rotate(frame[3:], np.array([1.0, 0, 0]))))
    return pivot


def _brought(rows: Rows, pose: Array, goes: set[int], pivot: Array) -> None:
    """Moves what goes, as one whole, until the joint's rows hold: shifted, and turned about the pivot only where no shift
    will do."""
    for _ in range(40):
        r, j = rows.value(pose[None], np.zeros(1))
        if np.abs(r).max() < 1e-12:
            return
        whole: Array = np.zeros((len(rows), 6))
        for side in range(rows.sides):
            for n in range(len(rows)):
                k = rows.touched[n, side]
                if k in goes:
                    force, moment = j[0, n, side, :3], j[0, n, side, 3:]
                    whole[n, :3] += force
                    whole[n, 3:] += moment + np.cross(pose[k, :3] - pivot, force)
        step, spin = np.linalg.lstsq(whole[:, :3], -r[0], rcond=1e-9)[0], np.zeros(3)
        if np.abs(whole[:, :3] @ step + r[0]).max() > 1e-10:
            both = np.linalg.lstsq(whole, -r[0], rcond=1e-9)[0]
            step, spin = both[:3], both[3:]
        longest = max(float(np.abs(spin).max()), 1e-12)
        _carried(pose, goes, pivot, poses.turned(spin * min(1.0, 0.5 / longest)), step)
        pivot = pivot + step


def _least_turn(z_from: Array, z_to: Array, helper: Array) -> Array:
    """The smallest turn that takes one direction to another; half a turn about `helper` where they are opposite."""
    across = np.cross(z_from, z_to)
    size = float(np.linalg.norm(across))
    if size < 1e-12:
        return poses.turned(helper * np.pi) if z_from @ z_to < 0 else poses.IDENTITY[3:]
    return poses.turned(across / size * np.arctan2(size, z_from @ z_to))
