"""Several relations from one pick: corners and edges bring their faces, a hole brings those beside it.

Faces go with those that they look along as the parts stand, holes with those that lie alike about the two that were picked.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import permutations, product
from typing import NamedTuple

import numpy as np

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.joints.at import At

#: m within which two holes lie alike
SAME = 1e-6


class Match(NamedTuple):
    """Datums of both parts that belong together, by their names, and what that does in words."""

    words: str
    free: str
    relation: str
    ends: tuple[tuple[str, str], ...]


def matches(m: Mechanism, a: At, b: At) -> Iterator[Match]:
    """What goes together where two corners, two edges or two holes are picked, as the parts stand."""
    corners = _corners(m, a, b)
    if corners is not None:
        what = "corners" if m.datum(a).kind == "point" else "edges"
        yield Match(f"Three faces flush at these {what}", "no freedom", "flush", _paired(m, a, b, *corners))
    holes = _holes(m, a, b)
    if holes is not None:
        count, other = holes
        words = f"All {count} holes on one another"
        yield Match(words, "1 freedom: sliding along them", "concentric", ((a.datum, b.datum), other))


def _faces_of(m: Mechanism, at: At) -> list[str]:
    """The flat faces that meet in a corner or an edge, by its name."""
    faces = at.datum.partition(":")[0].split("+")
    known = m.datums[at.placed]
    return faces if len(faces) > 1 and all(f in known and known[f].kind == "plane" for f in faces) else []


def _corners(m: Mechanism, a: At, b: At) -> tuple[list[str], list[str]] | None:
    """Three faces of each part: those of two corners, or of two edges and of the ends of these that look one way."""
    one, other = _faces_of(m, a), _faces_of(m, b)
    if len(one) == len(other) == 3:
        return one, other
    if len(one) != 2 or len(other) != 2:
        return None
    ends = product(_third(m, a.placed, one), _third(m, b.placed, other))
    best = max(ends, key=lambda e: abs(_normal(m, a.placed, e[0]) @ _normal(m, b.placed, e[1])), default=None)
    return None if best is None else ([*one, best[0]], [*other, best[1]])


def _third(m: Mechanism, placed: str, edge: list[str]) -> list[str]:
    """The faces at the ends of an edge."""
    corners = [set(name.partition(":")[0].split("+")) for name, d in m.datums[placed].items() if d.kind == "point"]
    thirds = [c - set(edge) for c in corners if len(c) == 3 and set(edge) < c]
    return [f for (f,) in thirds if f in m.datums[placed] and m.datums[placed][f].kind == "plane"]


def _normal(m: Mechanism, placed: str, datum: str) -> Array:
    return poses.rotate(m.starts[placed][3:], m.datums[placed][datum].z)


def _paired(m: Mechanism, a: At, b: At, one: list[str], other: list[str]) -> tuple[tuple[str, str], ...]:
    """Each face of the one with that of the other which it is most nearly parallel to, all together."""

    orders = [tuple(zip(one, order, strict=True)) for order in permutations(other)]
    return max(orders, key=lambda o: sum(abs(_normal(m, a.placed, x) @ _normal(m, b.placed, y)) for x, y in o))


def _holes(m: Mechanism, a: At, b: At) -> tuple[int, tuple[str, str]] | None:
    """How many holes of both parts lie alike about those picked, and one more pair of them: that which asks for the least turn."""
    if any(m.datum(at).side != "bore" for at in (a, b)):
        return None
    za, zb = _normal(m, a.placed, a.datum), _normal(m, b.placed, b.datum)
    back = poses.turned(_least(zb, za if za @ zb >= 0 else -za))
    one = _beside(m, a, np.array([1.0, 0, 0, 0]), za)
    other = _beside(m, b, back, za)
    if not one or not other:
        return None
    best: tuple[int, float, tuple[str, str]] | None = None
    for (x, p), (y, q) in product(one.items(), other.items()):
        if abs(np.linalg.norm(p) - np.linalg.norm(q)) > SAME:
            continue
        angle = float(np.arctan2(np.cross(q, p) @ za, q @ p))
        turn = poses.turned(angle * za)
        brought = [poses.rotate(turn, v) for v in other.values()]
        count = 1 + sum(any(np.linalg.norm(v - w) < SAME for w in one.values()) for v in brought)
        if best is None or (-count, abs(angle)) < (-best[0], best[1] - 1e-9):
            best = count, abs(angle), (x, y)
    if best is None or best[0] < 1 + min(len(one), len(other)):
        return None
    return best[0], best[2]


def _least(z: Array, to: Array) -> Array:
    """The rotation vector of the least turn that lays one direction along another, which is not its opposite."""
    across = np.cross(z, to)
    size = float(np.linalg.norm(across))
    return across / size * np.arctan2(size, z @ to) if size > 1e-12 else np.zeros(3)


def _beside(m: Mechanism, at: At, turn: Array, z: Array) -> dict[str, Array]:
    """Other holes of a part along the axis of one, by name: where they lie beside it (3,), m, across the axis `z`, all turned."""
    start, known = m.starts[at.placed], m.datums[at.placed]
    foot, own = known[at.datum].origin, known[at.datum].z
    out: dict[str, Array] = {}
    for name, d in known.items():
        if d.side != "bore" or d.kind != "axis" or abs(d.z @ own) < 1 - 1e-9:
            continue
        off = poses.rotate(turn, poses.rotate(start[3:], d.origin - foot))
        off = off - (off @ z) * z
        if np.linalg.norm(off) > SAME and all(np.linalg.norm(off - x) > SAME for x in out.values()):
            out[name] = off
    return out
