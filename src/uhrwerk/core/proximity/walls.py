"""Walls of a body: how thick its material is, square to its surface, where two surfaces lie opposite one another.

Every triangle is looked at against every other that lies beneath it, square to the first, and faces the other way (outward directions
more than 120 degrees apart: two faces that meet at a right angle are an edge, not a wall). Over what both cover the thickness is linear, so that
its least is at a corner of that polygon: nothing is sampled. Triangles stand for curved faces to within the body's deviation; where
two planes, or cylinders and planes along one axis make the wall, it is taken from these.
Polygons are cut as by Sutherland and Hodgman, Reentrant polygon clipping, CACM 17 (1974); from memory.

>>> from uhrwerk.core.solids import Body
>>> import numpy as np
>>> corners = np.array([[x, y, z] for x in (0.0, 4) for y in (0.0, 3) for z in (0.0, 2)])
>>> sides = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
>>> triangles = np.array([t for a, b, c, d in sides for t in ((a, b, c), (a, c, d))])
>>> box = Body("box", corners, triangles, np.arange(12) // 2, (), 24.0, np.zeros(3), np.eye(3), 0.0, exact=False)
>>> round(thinnest(box).thickness, 12)
2.0
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.cache import Cache
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.solids import Body
from uhrwerk.core.solids.flat import inside
from uhrwerk.core.solids.solid import Face

#: surfaces lie opposite one another where the cosine between their outward directions is below this
OPPOSED = -0.5
#: sizes below this are nothing, m
NOTHING = 1e-9
#: faces are parallel, and axes the same, to within this
SAME = 1e-9
#: by how many deviations a wall between triangles may be off where a face is neither plane nor cylinder
ROUGH = 4.0
#: how deep it is looked first, as a part of the body's size, and how much deeper each time where nothing was found
FIRST, WIDER = 0.02, 4.0
#: triangles that are held against all others at once, and walls of bodies that are kept
ROWS, KEPT = 200, 400

_Faces = tuple[int, int]
_known: Cache[Wall] = Cache(KEPT)


@dataclass(frozen=True)
class Wall:
    """The thinnest wall of a body: m, by how much that may be off, and where both its sides are, in the body's frame; `thickness` is
    infinite where there is none."""

    thickness: float
    error: float
    points: tuple[Array, Array]


def thinnest(body: Body) -> Wall:
    """The thinnest wall, looked for once for each body."""
    key = hashlib.sha256(body.vertices.tobytes() + body.triangles.tobytes()).hexdigest()
    return _known.get(key, lambda: _thinnest(body))


def _thinnest(body: Body) -> Wall:
    corners = body.vertices[body.triangles]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(normal, axis=1)
    solid = size > 0
    mesh = _WallMesh(corners[solid], normal[solid] / size[solid, None], body.face_of[solid])
    whole = float(np.linalg.norm(np.ptp(body.vertices, axis=0)))
    within = max(2 * ROUGH * body.deviation, FIRST * whole)
    while True:
        wall = _within(body, mesh, within)
        if wall.thickness + ROUGH * body.deviation <= within or within > whole:
            return wall
        within *= WIDER


@dataclass(frozen=True)
class _WallMesh:
    """Triangles (n, 3, 3), their outward directions (n, 3) and faces (n,)."""

    corners: Array
    normal: Array
    face: NDArray[np.int64]


def _within(body: Body, mesh: _WallMesh, within: float) -> Wall:
    """The thinnest of those that are thinner than so much."""
    slack, best = ROUGH * body.deviation, np.inf
    checked, taken, walls = dict[_Faces, float | None](), set[_Faces](), dict[_Faces, Wall]()
    for lower, i, j in _pairs(mesh, within, _sector(mesh, body.order)):
        if lower > best + slack:
            break
        faces = min(mesh.face[i], mesh.face[j]), max(mesh.face[i], mesh.face[j])
        if faces not in checked:
            checked[faces] = _of_faces(body, *faces)
        known = walls[faces].thickness if faces in walls else best if _flat(body, *faces) else np.inf
        if faces in taken or (checked[faces] is None and lower >= known):
            continue
        thickness = _between(mesh.corners, mesh.normal, i, j)
        if thickness is None or not _in_material(mesh.corners, mesh.normal[i], thickness):
            continue
        depth, exact = float(np.linalg.norm(thickness[1] - thickness[0])), checked[faces]
        if exact is not None and abs(exact - depth) <= slack + NOTHING and _there(body, mesh, faces, thickness[0]):
            taken.add(faces)  # none between these two is thinner
            walls[faces] = Wall(exact, NOTHING, thickness)
        elif faces not in walls or depth < walls[faces].thickness:
            walls[faces] = Wall(depth, NOTHING if _flat(body, *faces) else slack, thickness)
        best = min(best, walls[faces].thickness)
    if not walls:
        return Wall(np.inf, 0.0, (np.zeros(3), np.zeros(3)))
    thin = min(walls.values(), key=lambda w: w.thickness)
    return replace(thin, error=max(w.error for w in walls.values() if w.thickness <= thin.thickness + slack))


def _sector(mesh: _WallMesh, order: int) -> NDArray[np.int64]:
    """Triangles (k,) that reach into one of so many equal sectors about z: what is in the others is the same."""
    angle = np.arctan2(mesh.corners[..., 1], mesh.corners[..., 0]) % (2 * np.pi)
    low, high = angle.min(axis=1), angle.max(axis=1)
    return np.flatnonzero((low <= 2 * np.pi / order + 1e-6) | (high - low > np.pi))


def _pairs(mesh: _WallMesh, within: float, faces: NDArray[np.int64]) -> Iterator[tuple[float, int, int]]:
    """Triangles (i) of those with others (j) opposite that lie beneath them at least in part and not deeper than `within`, with a lower
    bound of the thickness between, the smallest first."""
    lows, ones, others = [np.zeros(0)], [np.zeros(0, dtype=np.int64)], [np.zeros(0, dtype=np.int64)]
    first, last = mesh.corners.min(axis=1), mesh.corners.max(axis=1)
    ways, which = np.unique(np.round(mesh.normal[faces], 9), axis=0, return_inverse=True)
    order = np.argsort(which.ravel(), kind="stable")
    groups = np.split(faces[order], np.flatnonzero(np.diff(which.ravel()[order])) + 1)
    for way, own in zip(ways, groups, strict=True):
        a, b = first[own].min(axis=0), last[own].max(axis=0)
        a, b = np.minimum(a, a - within * way) - NOTHING, np.maximum(b, b - within * way) + NOTHING
        facing = np.flatnonzero(((first <= b) & (last >= a)).all(axis=1))
        facing = facing[mesh.normal[facing] @ way < OPPOSED]
        if not len(facing):
            continue
        x, y = _across(way)
        flat = mesh.corners[facing] @ np.stack([x, y], axis=1)  # (f, 3, 2)
        here = mesh.corners[own] @ np.stack([x, y], axis=1)
        low, high, top = flat.min(axis=1), flat.max(axis=1), (mesh.corners[facing] @ way).max(axis=1)
        bottom, level = (mesh.corners[facing] @ way).min(axis=1), (mesh.corners[own] @ way).mean(axis=1)
        for k in range(0, len(own), ROWS):
            rows = slice(k, k + ROWS)
            over = (low[None] < here[rows].max(axis=1)[:, None] - NOTHING) & (
                high[None] > here[rows].min(axis=1)[:, None] + NOTHING
            )
            deep = level[rows, None] - top[None]
            near = over.all(axis=2) & (bottom[None] < level[rows, None] - NOTHING) & (deep <= within)
            i, j = np.nonzero(near)
            lows.append(np.maximum(deep[i, j], 0.0))
            ones.append(own[rows][i])
            others.append(facing[j])
    lower, one, other = (np.concatenate(v) for v in (lows, ones, others))
    for k in np.argsort(lower, kind="stable"):
        yield float(lower[k]), int(one[k]), int(other[k])


def _across(way: Array) -> tuple[Array, Array]:
    """Two directions (3,) square to one and to each other."""
    x = np.cross(way, np.eye(3)[int(np.argmin(np.abs(way)))])
    x = x / np.linalg.norm(x)
    return x, np.cross(way, x)


def _between(corners: Array, normal: Array, i: int, j: int) -> tuple[Array, Array] | None:
    """Where the way from one triangle square into the material to another is shortest; None where none leads there."""
    way = normal[i]
    x, y = _across(way)
    origin = corners[i, 0]
    flat = [np.stack([(corners[k] - origin) @ x, (corners[k] - origin) @ y], axis=-1) for k in (i, j)]
    cut = _common(flat[0], flat[1])
    if len(cut) < 3:
        return None
    middle = cut.mean(axis=0)
    cut = cut + 1e-6 * (middle - cut)  # within both, not on an edge
    over = normal[j] @ way
    height = ((corners[j, 0] - origin) @ normal[j] - cut @ np.array([x @ normal[j], y @ normal[j]])) / over
    depth = -height
    if depth.max() <= NOTHING or depth.min() < -NOTHING:
        return None
    k = int(np.argmin(depth))
    start = origin + cut[k, 0] * x + cut[k, 1] * y
    return start, start - max(float(depth[k]), 0.0) * way


def _common(one: Array, other: Array) -> Array:
    """The polygon (n, 2) that two triangles (3, 2) share; of fewer corners where they share none."""
    (ax, ay), (bx, by), (cx, cy) = other
    turn = 1.0 if (bx - ax) * (cy - ay) - (by - ay) * (cx - ax) > 0 else -1.0
    spans = [(float(u), float(v)) for u, v in one]
    for k in range(3):
        (px, py), (qx, qy) = other[k], other[(k + 1) % 3]
        sides = [turn * ((qx - px) * (v - py) - (qy - py) * (u - px)) for u, v in spans]
        kept: list[tuple[float, float]] = []
        for n, (p, s) in enumerate(zip(spans, sides, strict=True)):
            q, t = spans[(n + 1) % len(spans)], sides[(n + 1) % len(spans)]
            if s >= 0:
                kept.append(p)
            if (s > 0 > t) or (s < 0 < t):
                f = s / (s - t)
                kept.append((p[0] + f * (q[0] - p[0]), p[1] + f * (q[1] - p[1])))
        spans = kept
        if len(spans) < 3:
            return np.zeros((0, 2))
    ends = np.array(spans)
    area = 0.5 * abs(float(np.sum(ends[:, 0] * np.roll(ends[:, 1], -1) - ends[:, 1] * np.roll(ends[:, 0], -1))))
    return ends if area > NOTHING * NOTHING else np.zeros((0, 2))


def _in_material(corners: Array, way: Array, ends: tuple[Array, Array]) -> bool:
    """Whether nothing lies between both ends: a ray against all triangles (Moeller and Trumbore, J. Graphics Tools 2 (1997); from
    memory)."""
    start, length = ends[0], float(np.linalg.norm(ends[1] - ends[0]))
    e1, e2 = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    p = np.cross(-way, e2)
    det = np.sum(e1 * p, axis=1)
    level = np.abs(det) < 1e-24
    inv = 1.0 / np.where(level, 1.0, det)
    s = start - corners[:, 0]
    u = np.sum(s * p, axis=1) * inv
    q = np.cross(s, e1)
    v, t = (q @ -way) * inv, np.sum(e2 * q, axis=1) * inv
    hit = ~level & (u >= 0) & (v >= 0) & (u + v <= 1) & (t > NOTHING) & (t < length - NOTHING)
    return not bool(hit.any())


def _there(body: Body, mesh: _WallMesh, faces: _Faces, near: Array) -> bool:
    """Whether both faces reach to where a wall that they tell is thinnest, beside a place (3,) of it; one that is as thick all over is
    everywhere."""
    feet = _feet(body.faces[faces[0]], body.faces[faces[1]], near)
    return all(_reaches(mesh.corners[mesh.face == k], body.faces[k], p) for k, p in zip(faces, feet, strict=False))


def _feet(a: Face, b: Face, near: Array) -> list[Array]:
    """Where a cylinder and a plane, or two cylinders side by side, come nearest, on each; nothing where that is all along."""
    if a.kind == "plane" and b.kind == "cylinder":
        return _feet(b, a, near)[::-1]
    if a.kind != "cylinder":
        return []
    at = a.origin + a.direction * ((near - a.origin) @ a.direction)
    if b.kind == "plane":
        return [at + a.radius * b.direction, at + b.direction * ((b.origin - at) @ b.direction)]
    other = b.origin + b.direction * ((near - b.origin) @ b.direction)
    apart = float(np.linalg.norm(other - at))
    if apart < NOTHING:
        return []
    way = (other - at) / apart
    if a.outward:  # round the other, which lies nearer to its side there
        return [at + a.radius * way, other + b.radius * way]
    return (
        [at + a.radius * way, other - b.radius * way]
        if not b.outward
        else [at - a.radius * way, other - b.radius * way]
    )


def _reaches(corners: Array, face: Face, point: Array) -> bool:
    """Whether a face, by its triangles (n, 3, 3), reaches to a point (3,) of its plane or cylinder."""
    if face.kind == "plane":
        x, y = _across(face.direction)
        flat = (corners - point) @ np.stack([x, y], axis=1)
    else:  # unrolled, the point in the middle
        z, off = face.direction, corners - face.origin
        out = point - face.origin
        u = (out - (out @ z) * z) / face.radius
        turn = np.arctan2(off @ np.cross(z, u), off @ u)
        flat = np.stack([turn * face.radius, (corners - point) @ z], axis=-1)[np.ptp(turn, axis=1) < np.pi]
    return bool(inside(flat, np.zeros((1, 2)), NOTHING).any())


def _flat(body: Body, one: int, other: int) -> bool:
    """Whether both faces are planes, as their triangles are."""
    return body.exact and body.faces[one].kind == body.faces[other].kind == "plane"


def _of_faces(body: Body, one: int, other: int) -> float | None:
    """m: the wall between two faces where it is as thick all over and they tell it: parallel planes, and cylinders or a plane along one
    axis; None otherwise."""
    if not body.exact:
        return None
    a, b = body.faces[one], body.faces[other]
    off = b.origin - a.origin
    if a.kind == b.kind == "plane":
        return abs(float(off @ a.direction)) if np.linalg.norm(np.cross(a.direction, b.direction)) < SAME else None
    if a.kind == "plane":
        a, b = b, a
    if a.kind != "cylinder":
        return None
    if one == other:
        return 2 * a.radius if a.outward else None
    if b.kind == "plane":
        along = abs(float(a.direction @ b.direction)) < SAME and not a.outward
        return abs(float(off @ b.direction)) - a.radius if along else None
    if b.kind != "cylinder" or np.linalg.norm(np.cross(a.direction, b.direction)) > SAME:
        return None
    apart = float(np.linalg.norm(off - (off @ a.direction) * a.direction))
    if a.outward == b.outward:
        return None if a.outward else apart - a.radius - b.radius
    return abs(a.radius - b.radius) - apart
