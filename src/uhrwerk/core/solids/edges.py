"""Straight edges between flat faces and the corners where three of them meet, read from the triangles of a body.

The vertices of a flat face's triangles lie on the edges of the B-rep, so that an edge's ends are those of the kernel.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.solids.datum import axis_direction
from uhrwerk.core.solids.solid import Array, Body

#: m: ends that are nearer than this are one
SAME = 1e-7
#: a body with more named flat faces than this has too many edges to choose from
MOST_FACES = 250


@dataclass(frozen=True)
class Edge:
    """A straight edge between two flat faces: `faces` are their numbers in the body, the lower first; `ends` (2, 3) m, from
    one to the other along the part's z, or y, or x where it lies across those before."""

    faces: tuple[int, int]
    ends: Array

    @property
    def middle(self) -> Array:
        """(3,) m"""
        return np.asarray(self.ends.mean(axis=0))

    @property
    def length(self) -> float:
        """m"""
        return float(np.linalg.norm(self.ends[1] - self.ends[0]))

    @property
    def direction(self) -> Array:
        """(3,) unit vector"""
        return np.asarray((self.ends[1] - self.ends[0]) / self.length)


@dataclass(frozen=True)
class FaceCorner:
    """A place (3,) m where the flat faces of these numbers, three or more, meet."""

    faces: tuple[int, ...]
    place: Array


def straight_edges(body: Body) -> list[Edge]:
    """The straight edges between flat faces, by their faces and along each line in its direction. What lies on one line
    between the same two faces without a gap is one edge."""
    out: list[Edge] = []
    for (a, b), sides in sorted(_sides(body).items()):
        along = np.cross(body.faces[a].direction, body.faces[b].direction)
        if np.linalg.norm(along) < 1e-9:
            continue  # two halves of one plane: nobody sees an edge there
        along = axis_direction(along / np.linalg.norm(along))
        spans = np.sort((body.vertices[np.array(sides)] - body.vertices[sides[0][0]]) @ along, axis=1)
        ends = _joined(spans[np.argsort(spans[:, 0])])
        foot = body.vertices[sides[0][0]]
        out += [Edge((a, b), foot + np.outer(span, along)) for span in ends]
    return out


def corners(body: Body) -> list[FaceCorner]:
    """The vertices where three or more flat faces of unlike direction meet."""
    at: dict[int, set[int]] = {}
    flat = {k for k, f in enumerate(body.faces) if f.kind == "plane"}
    for (a, b), sides in _sides(body).items():
        for v in {v for side in sides for v in side}:
            at.setdefault(v, set()).update((a, b))
    out = []
    for v, meeting in at.items():
        normals = np.array([body.faces[k].direction for k in sorted(meeting & flat)])
        if np.linalg.matrix_rank(normals, tol=1e-6) == 3:
            out.append(FaceCorner(tuple(sorted(meeting)), body.vertices[v]))
    return sorted(out, key=lambda c: (c.faces, tuple(np.round(c.place / SAME))))


def _sides(body: Body) -> dict[tuple[int, int], list[tuple[int, int]]]:
    """Sides of triangles (numbers of two vertices) that lie between two named flat faces, by those."""
    flat = np.array([f.kind == "plane" and bool(f.name) for f in body.faces])
    if not 2 <= flat.sum() <= MOST_FACES:
        return {}
    kept = flat[body.face_of]
    t, face_of = body.triangles[kept], body.face_of[kept]
    ends = np.sort(np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]]), axis=1)
    owner = np.tile(face_of, 3)
    order = np.lexsort((ends[:, 1], ends[:, 0]))
    ends, owner = ends[order], owner[order]
    between = np.flatnonzero((ends[:-1] == ends[1:]).all(axis=1) & (owner[:-1] != owner[1:]))
    out: dict[tuple[int, int], list[tuple[int, int]]] = {}
    for k in between:
        a, b = sorted((int(owner[k]), int(owner[k + 1])))
        out.setdefault((a, b), []).append((int(ends[k, 0]), int(ends[k, 1])))
    return out


def _joined(spans: Array) -> list[tuple[float, float]]:
    """Spans (n, 2) m on a line, in the order of their lower ends, as few as cover the same."""
    out: list[tuple[float, float]] = []
    for low, high in spans.tolist():
        if out and low <= out[-1][1] + SAME:
            out[-1] = (out[-1][0], max(high, out[-1][1]))
        else:
            out.append((low, high))
    return out
