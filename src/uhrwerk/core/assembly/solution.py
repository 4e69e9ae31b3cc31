"""The assembled pose, or the joints that contradict one another: a smallest set, found by leaving out one after another.

The deletion filter of Chinneck and Dravnieks, Locating minimal infeasible constraint sets in linear programs,
ORSA J. Computing 3 (1991), applied to joints as wholes. From memory.
"""

from __future__ import annotations

from collections.abc import Sequence

from uhrwerk.core.assembly.assembly import Mechanism, attempt
from uhrwerk.core.assembly.pose import Array
from uhrwerk.core.assembly.solve import TOLERANCE


class NotSolvable(Exception):
    """No pose satisfies the joints; `joints` is a smallest set that cannot hold together."""

    def __init__(self, words: str, joints: Sequence[str] = ()) -> None:
        super().__init__(words)
        self.joints = list(joints)


def solve(m: Mechanism, drives: bool = True) -> Array:
    """The assembled pose (L, 7) nearest to the start, metres. NotSolvable names the joints that cannot hold together."""
    if not m.links:
        return m.start
    rows = m.system(drives)
    pose, left = attempt(m, rows)
    if left > TOLERANCE:
        found = smallest_conflict(m, drives)
        names = [m.names[o] for o in found]
        joints = ", ".join(repr(n) for n in names)
        raise NotSolvable(f"These cannot hold together: {joints}. Change or remove one of them.", found)
    return m.metres(pose)


def smallest_conflict(m: Mechanism, drives: bool = True) -> list[str]:
    """Paths of joints, pairs and drivers that cannot hold together although any one fewer of them can."""
    owners = list(dict.fromkeys(r.owner for r in m.rows + (m.drives if drives else [])))
    out: frozenset[str] = frozenset()
    for owner in owners:
        _, left = attempt(m, m.system(drives, out | {owner}))
        if left > TOLERANCE:
            out |= {owner}
    return [o for o in owners if o not in out]
