"""Where parts move when a joint is added: as little as the joint requires.

Whatever hangs on one of the two parts alone moves as one rigid whole, by the smallest turn that the joint allows and, of those, the
smallest shift of the place that is joined: the fewest parts move, the others stay where they are, and nothing jumps. Only where both
already hang on one another, or on the frame, is the whole mechanism solved anew, by the smallest move of all links together. That a
move is the smallest is known when what is left of it lies square to all that stays free (Nocedal and Wright, Numerical Optimization,
2nd ed. 2006, section 12.3: first-order conditions; from memory): the nearest of those that lie near, not of all.
"""

from __future__ import annotations

import numpy as np

from uhrwerk.core.assembly.mechanism import Mechanism
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import RANK, TOLERANCE, newton
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row, Rows

#: a turn of one radian weighs as a shift of so many times the reach: what need not turn does not
HEAVY = 30.0
#: rounds in which a move is made smaller, and what is nothing, rad and parts of the reach
ROUNDS, NOTHING = 60, 1e-11


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
    before = pose.copy()
    pivot = _aligned(m, new, pose, goes, _joined(m, new, pose, goes))
    rows = Rows(own, len(m.links), m.reach)
    start, pivot = pivot, _brought(rows, pose, goes, pivot)
    _as_near_as_may_be(rows, before, start, pose, goes, pivot)
    # what goes went as one whole, so all other rows hold as before: a last solve of everything would only spread their rounding
    if float(np.abs(rows.value(pose[None], np.zeros(1))[0]).max()) > TOLERANCE or not all(
        aim.holds_side(pose) for aim in m.aims
    ):
        return None
    return m.metres(pose)


def _goes(m: Mechanism, own: list[Row]) -> set[int] | None:
    """The links that move: all that hangs on one of both parts, where fewer do, else on the second; None where both hang on one
    another or on the frame."""
    near: dict[int, set[int]] = {}
    for row in m.rows:
        if row.owner != own[0].owner:
            for k in (row.a, row.b, row.c):
                near.setdefault(k, set()).update({row.a, row.b, row.c} - {-1})

    def hanging(first: int) -> set[int]:
        visited, waiting = {first}, [first]
        while waiting:
            for k in near.get(waiting.pop(), set()) - visited:
                visited.add(k)
                waiting.append(k)
        return visited

    ways = [(stays, hanging(first)) for stays, first in ((own[0].a, own[0].b), (own[0].b, own[0].a))]
    able = [goes for stays, goes in ways if 0 not in goes and stays not in goes]
    return min(able, key=len, default=None)


def _joined(m: Mechanism, new: str, pose: Array, goes: set[int]) -> Array:
    """(3,) where what goes is joined."""
    kind, _, key = new.partition(".")
    item = getattr(m.document, kind)[key]
    places = [m.place(at) for at in getattr(item, "at", None) or (item.a, item.b)]
    place = next(p for p in places if p.link in goes)
    return np.asarray(poses.compose(pose[place.link], m.scaled(place.frame))[:3])


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


def _brought(rows: Rows, pose: Array, goes: set[int], pivot: Array) -> Array:
    """Moves what goes, as one whole, until the joint's rows hold: shifted, and turned about the pivot only where no shift
    will do. Where the pivot is then."""
    for _ in range(40):
        r = rows.value(pose[None], np.zeros(1))[0]
        if np.abs(r).max() < 1e-12:
            break
        whole = _whole(rows, pose, goes, pivot)
        step, spin = np.linalg.lstsq(whole[:, :3], -r[0], rcond=1e-9)[0], np.zeros(3)
        if np.abs(whole[:, :3] @ step + r[0]).max() > 1e-10:
            both = np.linalg.lstsq(whole, -r[0], rcond=1e-9)[0]
            step, spin = both[:3], both[3:]
        longest = max(float(np.abs(spin).max()), 1e-12)
        _carried(pose, goes, pivot, poses.turned(spin * min(1.0, 0.5 / longest)), step)
        pivot = pivot + step
    return pivot


def _whole(rows: Rows, pose: Array, goes: set[int], pivot: Array) -> Array:
    """(m, 6) by how much the rows change where what goes is shifted, and turned about the pivot."""
    j = rows.value(pose[None], np.zeros(1))[1]
    whole: Array = np.zeros((len(rows), 6))
    for side in range(rows.sides):
        for n in range(len(rows)):
            k = rows.touched[n, side]
            if k in goes:
                force, moment = j[0, n, side, :3], j[0, n, side, 3:]
                whole[n, :3] += force
                whole[n, 3:] += moment + np.cross(pose[k, :3] - pivot, force)
    return whole


def _as_near_as_may_be(rows: Rows, before: Array, start: Array, pose: Array, goes: set[int], pivot: Array) -> None:
    """Takes back what the rows leave free of how far it went from where it was, first of its turn, then of its shift."""
    link, size = next(iter(goes)), np.array([1.0] * 3 + [HEAVY] * 3)
    for _ in range(ROUNDS):
        turned = poses.between(before[link], pose[link])[3:]
        away = np.concatenate([pivot - start, turned]) * size
        back = _free(_whole(rows, pose, goes, pivot) / size, away) / size
        if np.abs(back).max() < NOTHING:
            return
        back *= min(1.0, 0.3 / np.abs(back).max())
        kept, there = pose.copy(), pivot
        _carried(pose, goes, pivot, poses.turned(-back[3:]), -back[:3])
        pivot = _brought(rows, pose, goes, pivot - back[:3])
        turned = poses.between(before[link], pose[link])[3:]
        if np.linalg.norm(np.concatenate([pivot - start, turned]) * size) > np.linalg.norm(away):
            pose[:], pivot = kept, there
            return


def nearest(m: Mechanism, pose: Array) -> Array:
    """Of the poses (L, 7), metres, that satisfy all joints near an assembled one, the one whose links moved least from the start, by
    the sum of the squares of shifts, in reach, and of turns."""
    rows, home, at = m.system(drives=False), m.scaled(m.start), m.scaled(pose)
    for _ in range(ROUNDS):
        away = poses.between(home, at)[1:].ravel()
        dense = rows.dense(rows.value(at[None], np.zeros(1))[1])[0][:, 6:]
        back = _free(dense, away)
        if np.abs(back).max(initial=0.0) < NOTHING:
            break
        step = np.zeros((len(home), 6))
        step[1:] = -back.reshape(-1, 6) * min(1.0, 0.3 / np.abs(back).max())
        trial, residual = (x[0] for x in newton(rows, poses.moved(at, step)[None], np.zeros(1)))
        on_side = all(aim.holds_side(trial) for aim in m.aims)
        if residual > TOLERANCE or not on_side or np.linalg.norm(poses.between(home, trial)) > np.linalg.norm(away):
            break
        at = trial
    return m.metres(at)


def _free(jacobian: Array, away: Array) -> Array:
    """The part of a move that changes no row."""
    _, s, v = np.linalg.svd(jacobian)
    constrained = v[: int((s > RANK * max(s.max(initial=0.0), 1e-300)).sum())]
    return np.asarray(away - constrained.T @ (constrained @ away))


def _least_turn(z_from: Array, z_to: Array, helper: Array) -> Array:
    """The smallest turn that takes one direction to another; half a turn about `helper` where they are opposite."""
    across = np.cross(z_from, z_to)
    size = float(np.linalg.norm(across))
    if size < 1e-12:
        return poses.turned(helper * np.pi) if z_from @ z_to < 0 else poses.IDENTITY[3:]
    return poses.turned(across / size * np.arctan2(size, z_from @ z_to))
