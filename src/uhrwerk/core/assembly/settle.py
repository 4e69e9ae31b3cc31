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
from uhrwerk.core.equations.rows import Rows


def settled(m: Mechanism, new: str) -> Array | None:
    """The pose after moving all that hangs on one of the two parts as a whole; None where that does not satisfy it."""
    own = [r for r in m.rows if r.owner == new]
    if not own:
        return None
    a, b = own[0].a, own[0].b
    near: dict[int, set[int]] = {}
    for row in m.rows:
        if row.owner != new:
            for k in (row.a, row.b, row.c):
                near.setdefault(k, set()).update({row.a, row.b, row.c} - {-1})

    def hanging(first: int) -> set[int]:
        seen, waiting = {first}, [first]
        while waiting:
            for k in near.get(waiting.pop(), set()) - seen:
                seen.add(k)
                waiting.append(k)
        return seen

    stays, goes = a, hanging(b)
    if 0 in goes or a in goes:
        stays, goes = b, hanging(a)
    if 0 in goes or stays in goes:
        return None
    pose = m.scaled(m.start)
    others = Rows([r for r in m.rows if r.owner != new], len(m.links), m.reach)
    if len(others) and float(np.abs(others.value(pose[None], np.zeros(1))[0]).max()) > 1e-6:
        return None  # what is there already does not hold as it stands: everything is solved
    moving = sorted(goes)
    pivot = pose[b if b in goes else a, :3].copy()
    for aim in m.aims:
        if aim.owner == new and aim.aligned:
            z_a, z_b = aim.directions(pose)
            z_from, z_to = (z_b, z_a) if aim.b in goes else (z_a, z_b)
            frame = (
                poses.compose(pose[aim.b], m.scaled(aim.frame_b))
                if aim.b in goes
                else poses.compose(pose[aim.a], m.scaled(aim.frame_a))
            )
            pivot = frame[:3]
            turn = _least_turn(z_from, z_to, poses.rotate(frame[3:], np.array([1.0, 0, 0])))
            for k in moving:
                pose[k, :3] = pivot + poses.rotate(turn, pose[k, :3] - pivot)
                pose[k, 3:] = poses.multiply(turn, pose[k, 3:])
    rows = Rows(own, len(m.links), m.reach)
    for _ in range(40):
        r, j = rows.value(pose[None], np.zeros(1))
        if np.abs(r).max() < 1e-12:
            break
        # a shift and a turn about the pivot of everything that goes; turns only where no shift will do
        shift: Array = np.zeros((len(own), 6))
        for side in range(rows.sides):
            for n in range(len(own)):
                k = rows.touched[n, side]
                if k in goes:
                    force, moment = j[0, n, side, :3], j[0, n, side, 3:]
                    shift[n, :3] += force
                    shift[n, 3:] += moment + np.cross(pose[k, :3] - pivot, force)
        step = np.linalg.lstsq(shift[:, :3], -r[0], rcond=1e-9)[0]
        if np.abs(shift[:, :3] @ step + r[0]).max() > 1e-10:
            whole = np.linalg.lstsq(shift, -r[0], rcond=1e-9)[0]
            step, spin = whole[:3], whole[3:]
        else:
            spin = np.zeros(3)
        longest = max(float(np.abs(spin).max()), 1e-12)
        spin = spin * min(1.0, 0.5 / longest)
        turn = poses.turned(spin)
        for k in moving:
            pose[k, :3] = pivot + step + poses.rotate(turn, pose[k, :3] - pivot)
            pose[k, 3:] = poses.multiply(turn, pose[k, 3:])
        pivot = pivot + step
    pose, left = (x[0] for x in newton(m.system(drives=False), pose[None], np.zeros(1)))
    if left > TOLERANCE or any(za @ zb < 0 for za, zb in (aim.directions(pose) for aim in m.aims if aim.aligned)):
        return None
    return m.metres(pose)


def _least_turn(z_from: Array, z_to: Array, helper: Array) -> Array:
    """The smallest turn that takes one direction to another; half a turn about `helper` where they are opposite."""
    across = np.cross(z_from, z_to)
    size = float(np.linalg.norm(across))
    if size < 1e-12:
        return poses.turned(helper * np.pi) if z_from @ z_to < 0 else poses.IDENTITY[3:]
    return poses.turned(across / size * np.arctan2(size, z_from @ z_to))
