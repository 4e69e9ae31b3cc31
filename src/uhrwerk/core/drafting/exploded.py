"""A mechanism taken apart: how far each part is moved along the axis or normal by which it is joined, clear of what is there already."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.exchange.placing import Stands
from uhrwerk.core.joints import At
from uhrwerk.core.solids.datum import any_across
from uhrwerk.core.stages.evaluation import Evaluation

#: between a part and what it is taken off, as part of the size of the whole
GAP = 0.06
#: a part goes away from the eye only where the way to the eye is so many times as long: it would be hidden there
AWAY = 3.0


@dataclass(frozen=True, eq=False)
class Apart:
    """Offsets (3,) m of placed parts, and the lines (2, 3) m along which they were moved."""

    offsets: dict[str, Array]
    lines: list[Array]


def taken_apart(e: Evaluation, stands: Sequence[Stands], toward: Array) -> Apart:
    """Outward from the frame: each part after the one that it is joined to; `toward` (3,) is where the eye is."""
    at = {one.id: one for one in stands}
    points = {i: np.concatenate([v for _, v, _ in one.bodies()]) for i, one in at.items()}
    every = np.concatenate(list(points.values()))
    gap = GAP * float(np.linalg.norm(np.ptp(every, axis=0)))
    near: dict[str, list[tuple[str, At]]] = {i: [] for i in at}
    for a, b in _joined(e):
        if a.placed in at and b.placed in at:
            near[a.placed].append((b.placed, a))
            near[b.placed].append((a.placed, b))
    first = e.document.frame if e.document.frame in at else next(iter(at))
    offsets, lines = {first: np.zeros(3)}, list[Array]()
    for start in [first, *at]:  # what is joined to nothing that is there stays where it is
        offsets.setdefault(start, np.zeros(3))
        waiting = [start]
        while waiting:
            parent = waiting.pop(0)
            for part, end in near[parent]:
                if part in offsets:
                    continue
                origin, way = _axis(e, at[parent], end)
                base = offsets[parent]
                there = {i: points[i] + o for i, o in offsets.items()}
                ways = ((way, 1.0), (-way, AWAY)) if way @ toward >= 0 else ((-way, 1.0), (way, AWAY))
                tried = [(_clear(there, points[part] + base, w, gap), dear, w) for w, dear in ways]
                clear, _, way = min(tried, key=lambda t: t[0] * t[1])
                offsets[part] = base + clear * way
                lines.append(np.array([origin + base, origin + offsets[part]]))
                waiting.append(part)
    return Apart(offsets, lines)


def _joined(e: Evaluation) -> Iterator[tuple[At, At]]:
    for joint in (*e.document.joints.values(), *e.document.relations.values()):
        a, b = getattr(joint, "a", None), getattr(joint, "b", None)
        if isinstance(a, At) and isinstance(b, At):
            yield a, b


def _axis(e: Evaluation, one: Stands, end: At) -> tuple[Array, Array]:
    """Where a datum lies in the world, and its direction."""
    datum = e.mechanism.datum(end)
    return poses.place(one.pose, datum.origin[None])[0], np.asarray(poses.rotate(one.pose[3:], datum.z))


def _clear(there: dict[str, Array], points: Array, way: Array, gap: float) -> float:
    """How far a part goes along a direction (3,) until it is clear of all that lies in its way, m."""
    x = any_across(way)
    across = np.stack([x, np.cross(way, x)])
    low, high = (points @ across.T).min(axis=0), (points @ across.T).max(axis=0)
    begin = float((points @ way).min())
    needed = 0.0
    for other in there.values():
        sideways = other @ across.T
        if (sideways.min(axis=0) < high - 1e-9).all() and (sideways.max(axis=0) > low + 1e-9).all():
            needed = max(needed, float((other @ way).max()) - begin + gap)
    return needed
