"""Forces in joints, contacts and drives over the cycle: what must act so that the links move as they do.

Each equation between links acts on them along its own derivative; together these forces give every link's mass its
acceleration against springs, loads and weight (d'Alembert, with Lagrange's multipliers: Haug, Computer Aided Kinematics and
Dynamics of Mechanical Systems, 11.2; from memory). Without friction and play. Where joints hold more than they need, what each
of them bears is not known; what is asked of one that shares its load with others is refused.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from hashlib import sha256

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row, Rows
from uhrwerk.core.forces import springs
from uhrwerk.core.forces.applied_forces import acting, inertia
from uhrwerk.core.forces.gear_separation import separating
from uhrwerk.core.joints import BeltPair, BevelPair, GenevaPair, HelicalPair, WormPair
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.moments import moments

Index = NDArray[np.int64]
#: moments at which it is looked whether a joint shares its load with others
LOOKS = 7
#: moments that are reckoned with together
TOGETHER = 96
#: what no equation bears, of the largest that is needed, is nothing below this; so is a share in what others bear
NOTHING = 1e-6
#: pairs whose thrust or tension is not reckoned with
THRUSTS = (BevelPair, HelicalPair, WormPair, BeltPair, GenevaPair)


class ForcesUnknown(ValueError):
    """Forces that cannot be told, in words."""


@dataclass(frozen=True)
class Reaction:
    """What a joint does to b at moments (T,) s: force (T, 3) N and moment about its place (T, 3) N m, in the world; the joint's
    axis and its place (T, 3) m there."""

    times: Array
    force: Array
    moment: Array
    axis: Array
    place: Array

    def tilting(self, middle: Array) -> Array:
        """(T,) N m of the moment across the axis, about a place (T, 3) m on it."""
        about = self.moment + np.cross(self.place - middle, self.force)
        return np.asarray(np.linalg.norm(about - (about * self.axis).sum(axis=1)[:, None] * self.axis, axis=1))

    @property
    def along(self) -> Array:
        """(T,) N along the axis."""
        return np.asarray((self.force * self.axis).sum(axis=1))

    @property
    def across(self) -> Array:
        """(T,) N across the axis."""
        return np.asarray(np.linalg.norm(self.force - self.along[:, None] * self.axis, axis=1))


def assumptions(e: Evaluation) -> str:
    """What is reckoned with, in words."""
    weight = e.document.cycle.weight
    return f"springs, loads and inertia, {'without weight' if weight == 'not_counted' else 'weight ' + weight.replace('_', ' ')}, without friction"


def moments_of_interest(e: Evaluation) -> Array:
    """Moments (T,) s of one period, or of the first and the last where a spring is wound on from one to the next."""
    return springs.moments_of_interest(e, springs.every_winding(e))


def winding(e: Evaluation) -> bool:
    """Whether a spring is wound on from one period to the next."""
    return springs.winds_on(e, springs.every_winding(e))


def multipliers(e: Evaluation, times: Array) -> tuple[list[str], Array]:
    """The owner of each equation, and what it does (T, m), N m for one of its unit (the mechanism's reach, or rad), at moments
    (T,) s; drivers too. NotKnown where something moves that nothing drives."""
    return e.once(f"multipliers {sha256(times.tobytes()).hexdigest()}", lambda: _multipliers(e, times))


def _multipliers(e: Evaluation, times: Array) -> tuple[list[str], Array]:
    m = e.mechanism
    rows = m.system(drives=True)
    owners = [r.owner for r in rows.rows]
    pose, velocity, acceleration = moments(e, times)
    needed = inertia(e, pose, velocity, acceleration) - acting(e, pose, velocity, times)
    multipliers, residual = _solved(e, rows, pose, times, needed)
    apart = separating(e, pose, dict(zip(owners, multipliers.T, strict=True)))
    if apart is not None:
        needed = needed - apart
        multipliers, residual = _solved(e, rows, pose, times, needed)
    size = np.abs(needed * np.array([m.reach] * 3 + [1.0] * 3)).max(initial=0.0)
    if residual.max(initial=0.0) > NOTHING * max(float(size), 1e-9):
        link = 1 + int(np.argmax(residual.max(axis=0))) // 6
        part = e.document.placed[m.links[link].parts[0]].name
        raise ForcesUnknown(f"{part} can still move by itself, and nothing drives it so: hold it, or drive it")
    return owners, multipliers


def _solved(e: Evaluation, rows: Rows, pose: Array, times: Array, needed: Array) -> tuple[Array, Array]:
    """The multipliers (T, m) that bring what links need (T, L, 6), and what of it none brings (T, n), N m."""
    m = e.mechanism
    wanted = (needed * np.array([m.reach] * 3 + [1.0] * 3))[:, 1:].reshape(len(times), -1)
    here, at = m.scaled(pose), e.moved.motion.track.folded(times)
    multipliers, residuals = [], []
    for some in np.array_split(np.arange(len(times)), -(-len(times) // TOGETHER)):
        dense = rows.dense(rows.value(here[some], at[some])[1])[:, :, 6:]
        multipliers.append(_least(dense, wanted[some]))
        residuals.append(np.abs((multipliers[-1][:, None] @ dense)[:, 0] - wanted[some]))
    return np.concatenate(multipliers), np.concatenate(residuals)


def _least(dense: Array, wanted: Array) -> Array:
    """The smallest x (T, m) with J^T x = wanted (T, n), for J (T, m, n); the nearest to it where some motion is free."""
    across = np.swapaxes(dense, 1, 2)
    largest_wanted = max(float(np.abs(wanted).max(initial=0.0)), 1e-12)
    with contextlib.suppress(np.linalg.LinAlgError):
        back = np.linalg.inv(across @ dense)
        half = back @ wanted[..., None]
        for _ in range(3):  # refined: the square has the square of the condition
            x = dense @ half
            residual = wanted[..., None] - across @ x
            if np.abs(residual).max(initial=0.0) <= 1e-11 * largest_wanted:
                return np.asarray(x[..., 0])
            half = half + back @ residual
    return np.asarray((np.linalg.pinv(across, rcond=1e-10) @ wanted[..., None])[..., 0])


def contact_force(e: Evaluation, pair: str, times: Array) -> Array:
    """How hard a follower and its cam press on one another (T,), N, at moments (T,) s; below zero where they would part."""
    return np.asarray(generalised_force(e, f"pairs.{pair}", times) / _ready(e).reach)


def generalised_force(e: Evaluation, path: str, times: Array) -> Array:
    """(T,) What the one equation of a pair or a drive does, N m for one of its unit. NotKnown where it is not in use, or others
    can do the same."""
    owners, forces = multipliers(e, times)
    if path not in owners:
        raise ForcesUnknown("that is not in use")
    at = owners.index(path)
    if _shared(e, times, [at], lambda some: np.ones((len(some), 1, 1))) > NOTHING:
        name = _ready(e).names.get(path, path)
        raise ForcesUnknown(f"other drives do the same work as {name}: the share of each cannot be determined")
    return np.asarray(forces[:, at])


def effort(e: Evaluation, driver: str, times: Array) -> Array:
    """(T,) What a drive has to do at moments (T,) s: N m where it turns, N where it slides; below zero where it is driven.
    NotKnown where it is not in use, or drives with another what one alone could."""
    m, path = _ready(e), f"drivers.{driver}"
    row = next((r for r in m.drives if r.owner == path), None)
    if row is None:
        raise ForcesUnknown("that drive is not in use")
    forces = generalised_force(e, path, times)
    joint = m.joints[e.document.drivers[driver].joint]
    if row.kind in ("turn", "bearing"):
        return forces
    force = forces / m.reach
    turning = e.document.drivers[driver].coordinate == "turn"  # of a screw, told by its travel
    return np.asarray(force * joint.lead / (2 * np.pi)) if turning else force


def reaction(e: Evaluation, joint: str, times: Array, of: str = "across") -> Reaction:
    """What a joint does to b at moments (T,) s. NotKnown where the joint shares `of` it (`across` or `along` its axis, `bearing`: the
    force and the moment across it, or the `whole` force) with others, where no joint is, or where a thrust is not reckoned with."""
    m = _ready(e)
    resolved = m.joints.get(joint)
    if resolved is None:
        raise ForcesUnknown("that joint holds its parts rigidly, or is not in use")
    owners, forces = multipliers(e, times)
    for i, pair in e.document.pairs.items():
        if isinstance(pair, THRUSTS) and f"pairs.{i}" in owners:
            raise ForcesUnknown(f"{pair.name} presses or pulls on its axes with forces that are not computed here")
    own = [k for k, r in enumerate(m.rows) if _of_joint(r, resolved.path, resolved.a, resolved.b)]
    rows = Rows([m.rows[k] for k in own], len(m.links), m.reach)
    pose, _, _ = moments(e, times)

    def on_b(some: Index) -> Array:
        """(S, 6, k) force and torque about b's origin for one of each multiplier, of moments chosen."""
        _, j = rows.value(m.scaled(pose[some]), e.motion.track.folded(times[some]) if e.motion else times[some])
        dense = rows.dense(j).reshape(len(some), len(own), len(m.links), 6)[:, :, resolved.b]
        return np.swapaxes(dense / np.array([m.reach] * 3 + [1.0] * 3), 1, 2)

    place = poses.compose(pose[:, resolved.a], np.broadcast_to(resolved.frame_a, (len(times), 7)))
    axis = poses.rotate(place[:, 3:], np.array([0.0, 0, 1]))
    at_b = poses.compose(pose[:, resolved.b], np.broadcast_to(resolved.frame_b, (len(times), 7)))
    arms = at_b[:, :3] - pose[:, resolved.b, :3]

    def asked(some: Index) -> Array:
        if of == "bearing":  # the force and the moment across
            both = on_b(some)
            shift = np.cross(arms[some][:, None], np.swapaxes(both[:, :3], 1, 2))
            moment = both[:, 3:] - np.swapaxes(shift, 1, 2)
            z = axis[some][:, None]
            return np.concatenate([x - (z @ x) * axis[some][..., None] for x in (both[:, :3], moment)], axis=1)
        force = on_b(some)[:, :3]
        along = (axis[some][:, None] @ force) * axis[some][..., None]
        return {"across": force - along, "along": along}.get(of, force)

    if _shared(e, times, own, asked) > NOTHING:
        which = {
            "across": "across its axis",
            "along": "along its axis",
            "bearing": "across its axis or the moment that tilts it",
        }.get(of, "whole")
        raise ForcesUnknown(
            f"{resolved.name} shares the force {which} with other joints that constrain the same: the share of each cannot be determined"
        )
    wrench = (on_b(np.arange(len(times), dtype=np.int64)) @ forces[:, own, None])[..., 0]
    return Reaction(times, wrench[:, :3], wrench[:, 3:] - np.cross(arms, wrench[:, :3]), axis, at_b[:, :3])


def followed(e: Evaluation, what: str, of: str, times: Array) -> Array | str:
    """What acts over the cycle, at moments (T,) s, for a curve: the effort of a drive, the force of a joint across or along its axis
    or as a whole; or why it is not known, in words."""
    try:
        if what == "effort":
            return effort(e, of, times)
        force = reaction(e, of, times, what)
    except ForcesUnknown as why:
        return str(why)
    parts: dict[str, Array] = {"across": force.across, "along": force.along}
    return parts[what] if what in parts else np.asarray(np.linalg.norm(force.force, axis=1))


def _ready(e: Evaluation) -> Mechanism:
    if e.motion is None:
        raise ForcesUnknown("nothing moves yet")
    return e.mechanism


def _of_joint(row: Row, path: str, a: int, b: int) -> bool:
    """Whether a row is one of a joint, or of the relations that make it together."""
    if row.owner == path:
        return True
    return (
        path.startswith("relations.") and row.owner.startswith("relations.") and row.c < 0 and {row.a, row.b} == {a, b}
    )


def _shared(e: Evaluation, times: Array, own: Sequence[int], does: Callable[[Index], Array]) -> float:
    """How much of what some equations do together could be done by others as well: the largest that forces which are in balance
    by themselves do through them, N or N m; `does` (S, d, k) is what one of each does at moments chosen."""
    some, idle = e.once(f"idle {sha256(times.tobytes()).hexdigest()}", lambda: _idle(e, times))
    act = does(some)
    return max(float(np.abs(act[k] @ idle[k][list(own)]).max(initial=0.0)) for k in range(len(some)))


def _idle(e: Evaluation, times: Array) -> tuple[Index, list[Array]]:
    """A few of the moments, and for each the multipliers (m, q) that add up to nothing."""
    m = _ready(e)
    some = np.unique(np.linspace(0, len(times) - 1, LOOKS).astype(np.int64))
    rows, pose = m.system(drives=True), moments(e, times)[0]
    _, j = rows.value(m.scaled(pose[some]), e.moved.motion.track.folded(times[some]))
    u, s, _ = np.linalg.svd(rows.dense(j)[:, :, 6:], full_matrices=True)
    ranks = (s > 1e-9 * s.max(axis=1, initial=0.0, keepdims=True)).sum(axis=1)
    return some, [u[k][:, int(rank) :] for k, rank in enumerate(ranks)]
