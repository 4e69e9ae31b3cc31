"""The assembled pose, or the joints that contradict one another: a smallest set, found by leaving out one after another.

The deletion filter of Chinneck and Dravnieks, Locating minimal infeasible constraint sets in linear programs,
ORSA J. Computing 3 (1991), applied to joints as wholes. From memory.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from time import thread_time

import numpy as np

from uhrwerk.core.assembly.guess import attempt, brought_near, right_side, turned_over
from uhrwerk.core.assembly.mechanism import Mechanism
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import TOLERANCE, assemble
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import KINDS, Row, Rows

#: seconds of a thread's own time (others may have the processor meanwhile) after which no further way to assemble is tried, nor any further set of joints for a smaller contradiction
PATIENCE = 4.0


class NotSolvable(Exception):
    """No pose satisfies the joints; `joints` is a smallest set that cannot hold together, by path. Where teeth are part of
    it, `miss` is by how much of a tooth the last pair of them misses when all else holds. `contradiction_words` tells it."""

    def __init__(self, words: str, joints: Sequence[str] = (), miss: float | None = None) -> None:
        super().__init__(words)
        self.joints, self.miss = list(joints), miss


def solve(m: Mechanism, drives: bool = True) -> Array:
    """The assembled pose (L, 7) nearest to the start, metres. NotSolvable names the joints that cannot hold together."""
    if not m.links:
        return m.start
    rows, until = m.system(drives), thread_time() + PATIENCE
    pose, residual = attempt(m, rows, until=until)
    if residual > TOLERANCE:
        conflict = smallest_conflict(m, rows, pose, until)
        error = NotSolvable("", conflict, _teeth_miss(m, drives, conflict))
        raise NotSolvable(contradiction_words(m, error), error.joints, error.miss)
    return m.metres(pose)


def without_pairs(m: Mechanism) -> Array:
    """The pose (L, 7), metres, as far as joints, relations and drivers alone hold the parts."""
    rows = [r for r in m.rows + m.drives if not r.owner.startswith("pairs.")]
    return m.metres(attempt(m, Rows(rows, len(m.links), m.reach), 3)[0])


def contradiction_words(m: Mechanism, error: NotSolvable) -> str:
    """A contradiction with the names that its joints have now."""
    names = _distinct_names(m, error.joints)
    words = f"These cannot hold together: {', '.join(repr(n) for n in names)}. Change or remove one of them."
    if error.miss is None:
        return words
    last = [m.names[o] for o in error.joints if o.startswith("pairs.")][-1]
    return (
        f"{words} The numbers of teeth do not close this train: with all others in mesh, {last!r} misses by "
        f"{error.miss:.2f} of a tooth."
    )


def _distinct_names(m: Mechanism, owners: Sequence[str]) -> list[str]:
    """Names of joints, with their ids where two bear the same."""
    names = [m.names[o] for o in owners]
    return [n if names.count(n) == 1 else f"{n} ({o.partition('.')[2]})" for n, o in zip(names, owners, strict=True)]


def other_modes(m: Mechanism, pose: Array, trials: int = 40) -> list[Array]:
    """Other poses (L, 7) in metres that satisfy the same joints and drivers, the nearest first: a linkage's other ways
    to be assembled. Found by solving from strongly shaken poses, so that some may be missed."""
    rows, home = m.system(), m.scaled(pose)
    aims = [aim for aim in m.aims if aim.owner in {r.owner for r in rows.rows}]
    shake = np.random.default_rng(11)
    modes: list[tuple[float, Array]] = []
    for trial in range(trials):
        kick = np.zeros((len(home), 6))
        kick[1:, 3:] = shake.normal(scale=0.4 + 0.04 * trial, size=(len(home) - 1, 3))
        guess = brought_near(m, poses.moved(home, kick), aims)
        other, residual = assemble(rows, guess)
        if residual > TOLERANCE or not right_side(other, aims):
            continue
        far = float(np.abs(poses.between(home, other)).max())
        if far > 1e-3 and all(np.abs(poses.between(other, known)).max() > 1e-3 for _, known in modes):
            modes.append((far, other))
    return [m.metres(p) for _, p in sorted(modes, key=lambda f: f[0])]


def smallest_conflict(m: Mechanism, rows: Rows, pose: Array, until: float = np.inf) -> list[str]:
    """Paths of joints, relations, pairs and drivers that cannot hold together although any one fewer of them can.

    Where the search ended, the residuals that are left pull against one another (J^T r = 0): only those rows take part
    in the contradiction. If they can hold by themselves after all, every row is a suspect. Two that contradict each other
    between the same two links are told before any longer chain; else the set is one from which none can be left out, or what
    is left of it when this thread's own time comes to `until`.
    """
    owners = list(dict.fromkeys(r.owner for r in rows.rows))
    r, _ = rows.value(pose[None], np.zeros(1))
    pulling = {rows.rows[k].owner for k in np.flatnonzero(np.abs(r[0]) > 1e-3 * np.abs(r).max())}
    every = [row for row in m.rows + m.drives if row.owner in owners]

    def holds(chosen: set[str], turned: bool) -> bool:
        system = Rows([row for row in every if row.owner in chosen], len(m.links), m.reach)
        if attempt(m, system, 3, until)[1] <= TOLERANCE:
            return True
        return turned and any(attempt(m, system, 2, until, start)[1] <= TOLERANCE for start in turned_over(m, chosen))

    residual = pulling if not holds(pulling, turned=False) else set(owners)
    conflict = _without(m, every, owners, residual, lambda chosen: not holds(chosen, turned=False), until)
    # where they hold after half a turn, each is looked at from there too
    if thread_time() < until and holds(set(conflict), turned=True):
        conflict = _without(m, every, owners, set(owners), lambda chosen: not holds(chosen, turned=True), until)
    return conflict


def _without(
    m: Mechanism,
    every: list[Row],
    owners: list[str],
    residual: set[str],
    fails: Callable[[set[str]], bool],
    until: float,
) -> list[str]:
    """Of those that are left, two that fail, or as few as still fail, in the order of the owners."""
    # the commonest, and the shortest to tell
    for one, other in itertools.combinations([o for o in owners if o in residual], 2):
        if thread_time() > until:
            break
        if _links_of(every, one) == _links_of(every, other) and fails({one, other}):
            return [one, other]
    parts = [{o for o in residual if k in _links_of(every, o)} for k in range(1, len(m.links))]
    # all that takes hold of one part at once, as most parts have no share in it; then one by one
    for some in [*sorted(parts, key=len), *({o} for o in owners)]:
        if thread_time() > until:
            break
        if residual & some and fails(residual - some):
            residual = residual - some
    return [o for o in owners if o in residual]


def _links_of(rows: Sequence[Row], owner: str) -> set[int]:
    return {k for r in rows if r.owner == owner for k in (r.a, r.b)}


def _teeth_miss(m: Mechanism, drives: bool, joints: Sequence[str]) -> float | None:
    """Where teeth are part of a contradiction: by how much of a tooth the last pair misses when all else holds."""
    meshes = [o for o in joints if o.startswith("pairs.")]
    if not meshes:
        return None
    last = meshes[-1]
    chosen = [r for r in m.rows + (m.drives if drives else []) if r.owner in joints and r.owner != last]
    pose, residual = attempt(m, Rows(chosen, len(m.links), m.reach), 3)
    row = next(r for r in m.rows if r.owner == last)
    if residual > TOLERANCE or KINDS[row.kind].unit != "teeth":
        return None
    miss, _ = Rows([row], len(m.links), m.reach).value(pose[None], np.zeros(1))
    return abs(float(miss[0, 0])) / (2 * np.pi / row.sizes[0])
