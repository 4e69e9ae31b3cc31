"""A first pose for the solver, from where the parts are: brought near along the joints, perturbed, solved."""

from __future__ import annotations

from time import thread_time

import numpy as np

from uhrwerk.core.assembly.mechanism import Aim, Mechanism
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import TOLERANCE, assemble
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Rows
from uhrwerk.core.joints import axes


def attempt(
    m: Mechanism, rows: Rows, trials: int = 14, until: float = np.inf, start: Array | None = None
) -> tuple[Array, float]:
    """From the start as it is; if that fails, with parts first brought near along the joints; then from shaken starts,
    as they are and brought near in turns, shaken more and more. No new one is begun after `until`, s of this thread's own time. `start` (L, 7), positions in reach, stands for that of the mechanism."""
    start = m.scaled(m.start) if start is None else start
    best = (start, np.inf)
    shake = np.random.default_rng(7)
    used = {r.owner for r in rows.rows}
    aims = [aim for aim in m.aims if aim.owner in used]
    for trial in range(trials):
        if trial > 1 and thread_time() > until:
            break
        guess = start
        if trial > 1:
            kick = shake.normal(scale=0.05 * trial, size=(len(start), 6))
            kick[0] = 0
            guess = poses.moved(start, kick)
        if trial % 2:
            guess = brought_near(m, guess, aims)
        pose, residual = assemble(rows, guess)
        if residual <= TOLERANCE and right_side(pose, aims):
            return pose, residual
        if TOLERANCE < residual < best[1]:
            best = (pose, residual)
    return best


def right_side(pose: Array, aims: list[Aim]) -> bool:
    """Whether every joint's axes point the same way: the equations alone would accept the opposite too."""
    return all(aim.holds_side(pose) for aim in aims)


def turned_over(m: Mechanism, chosen: set[str]) -> list[Array]:
    """Starts (L, 7) in reach with a link turned by half a turn about each axis of a frame by which one of some joints holds it: what
    small shakes never reach."""
    out = []
    for aim in m.aims:
        if aim.owner in chosen:
            link, frame = (aim.b, aim.frame_b) if aim.b else (aim.a, aim.frame_a)
            start = m.scaled(m.start)
            pivot = poses.compose(start[link], m.scaled(frame))
            for axis in axes(pivot):
                half, one = poses.turned(np.pi * axis), start.copy()
                one[link, :3] = pivot[:3] + poses.rotate(half, start[link, :3] - pivot[:3])
                one[link, 3:] = poses.multiply(half, start[link, 3:])
                out.append(one)
    return out


def brought_near(m: Mechanism, start: Array, aims: list[Aim]) -> Array:
    """Goes out from the frame along the joints; each link not yet visited makes the smallest move onto its joint's axis."""
    pose, visited, grown = start.copy(), {0}, True
    while grown:
        grown = False
        for aim in aims:
            if (aim.a in visited) == (aim.b in visited):
                continue
            (fixed, f_fixed), (free, f_free) = ((aim.a, aim.frame_a), (aim.b, aim.frame_b))
            if aim.b in visited:
                (fixed, f_fixed), (free, f_free) = (free, f_free), (fixed, f_fixed)
            target = poses.compose(pose[fixed], m.scaled(f_fixed))
            here = poses.compose(pose[free], m.scaled(f_free))
            z_to, z_from = aim.directions(pose)
            if aim.b == fixed:
                z_to, z_from = z_from, z_to
            if aim.aligned:
                across = np.cross(z_from, z_to)
                size = float(np.linalg.norm(across))
                if size < 1e-9:
                    across, size = (axes(here)[0], 1.0) if z_from @ z_to < 0 else (np.zeros(3), 1.0)
                angle = np.arctan2(size if np.any(across) else 0.0, z_from @ z_to)
                pose[free, 3:] = poses.multiply(poses.turned(across / size * angle), pose[free, 3:])
            if aim.turned:
                (x_to, x_from), z = (
                    (aim.across(pose) if aim.a == fixed else aim.across(pose)[::-1]),
                    aim.directions(pose)[0],
                )
                angle = np.arctan2(float(np.cross(x_from, x_to) @ z), float(x_from @ x_to))
                pose[free, 3:] = poses.multiply(poses.turned(z * angle), pose[free, 3:])
            if aim.meet:
                now = poses.compose(pose[free], m.scaled(f_free))
                pose[free, :3] += target[:3] - now[:3]
            visited.add(free)
            grown = True
        apart = next((aim.a for aim in aims if aim.a not in visited), None)
        if not grown and apart is not None:  # parts tied to one another but not to the frame
            visited.add(apart)
            grown = True
    return pose


__all__ = ["attempt", "brought_near", "right_side", "turned_over"]
