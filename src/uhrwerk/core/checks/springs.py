"""Springs over the cycle: their lengths and forces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.joints import spring
from uhrwerk.core.joints.spring import SpringPair

#: moments of the cycle looked at
MOMENTS = 720


@dataclass(frozen=True)
class Run:
    """A spring at moments (T,) s: where both its ends are (T, 3) m, its length (T,) m and force (T,) N."""

    times: Array
    a: Array
    b: Array
    length: Array
    force: Array


def ends(e: Evaluation, pair: str, pose: Array) -> tuple[Array, Array]:
    """Both ends (T, 3) of a spring at poses (T, L, 7), m."""
    m = e.mechanism
    assert m is not None
    places = [m.place(at.placed, at.datum) for at in e.document.pairs[pair].at]
    one, other = (poses.compose(pose[:, p.link], p.frame)[:, :3] for p in places)
    return one, other


def run(e: Evaluation, pair: str, times: Array | None = None) -> Run | None:
    """A spring over the cycle; None where nothing is known of the motion, or an end is missing."""
    m, asked = e.mechanism, e.document.pairs[pair]
    if m is None or e.motion is None or any(at.datum not in m.datums.get(at.placed, {}) for at in asked.at):
        return None
    at = np.linspace(0, e.motion.duration, MOMENTS + 1) if times is None else times
    a, b = ends(e, pair, e.motion.between(at))
    length, n = np.linalg.norm(b - a, axis=1), numbers(asked, e.document.scope())
    return Run(at, a, b, length, np.array([spring.force(n, float(x)) for x in length]))


def every(e: Evaluation) -> list[str]:
    return [i for i, p in e.document.pairs.items() if isinstance(p, SpringPair)]
