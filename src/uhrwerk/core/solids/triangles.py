"""A body from triangles alone, as files for printing hold them: its planes and cylinders are recognised, its volume summed.

Triangles that lie in one plane make a plane; those that turn smoothly about one axis, with their corners at one distance
from it, a cylinder. What is neither is left as it is. The body is taken for what its triangles are; `deviation` is the
most that the triangles of a cylinder cut into it. Volume, centre and inertia: sums over tetrahedra (Mirtich, Journal of
Graphics Tools 1 (1996) 2; here in the form of Tonon, J. Math. Stat. 1 (2005), from memory).
"""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from uhrwerk.core.solids.solid import Array, Body, Face, Index

#: rad: triangles that meet at less lie in one plane; those that meet at less than SMOOTH may be of one cylinder
FLAT, SMOOTH = 2e-4, 0.62
#: part of its radius by which corners of a cylinder may be off, and that distance at least, m
ROUND, LEAST = 2e-3, 2e-6
#: corners of a cylinder at least
CORNERS = 8


def triangle_body(name: str, vertices: Array, triangles: Index, names: list[str], order: int = 1) -> Body:
    """A closed body from its vertices (n, 3) m and triangles (m, 3), which turn left round their outward normal. Its faces
    get `names` in their order; without, they are numbered."""
    face_of, faces, deviation = recognised_faces(vertices, triangles)
    named = names if len(names) == len(faces) else [f"face_{k}" for k in range(1, len(faces) + 1)]
    volume, centre, inertia = mass_sums(vertices, triangles)
    body_faces = tuple(
        Face(f.kind, f.origin, f.direction, f.radius, f.length, f.outward, f"element.{n}", f.centre)
        for f, n in zip(faces, named, strict=True)
    )
    return Body(
        name, vertices, triangles, face_of, body_faces, volume, centre, inertia, deviation, exact=False, order=order
    )


def mass_sums(vertices: Array, triangles: Index) -> tuple[float, Array, Array]:
    """Volume m3, centroid (3,) m, inertia (3, 3) m5 about the centroid for density one."""
    foot = vertices.mean(axis=0)
    a, b, c = (vertices[triangles[:, k]] - foot for k in range(3))
    six = np.einsum("ij,ij->i", a, np.cross(b, c))
    volume = float(six.sum() / 6)
    if volume == 0:
        return 0.0, foot, np.zeros((3, 3))
    total = a + b + c
    centre = (six[:, None] * total).sum(axis=0) / 24 / volume
    second = np.einsum("i,ij,ik->jk", six, total, total) + sum(np.einsum("i,ij,ik->jk", six, p, p) for p in (a, b, c))
    second = second / 120 - volume * np.outer(centre, centre)
    return volume, foot + centre, np.trace(second) * np.eye(3) - second


def recognised_faces(vertices: Array, triangles: Index) -> tuple[Index, list[Face], float]:
    """(m,) the face of each triangle, the faces, and how far triangles stray from their cylinders, m."""
    corner = vertices[triangles]
    normal = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    area = np.linalg.norm(normal, axis=1) / 2
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    one, other = _beside(triangles)
    turn = np.arccos(np.clip(np.einsum("ij,ij->i", normal[one], normal[other]), -1, 1))
    plane = _parts(len(triangles), one[turn < FLAT], other[turn < FLAT])
    smooth = _parts(len(triangles), one[turn < SMOOTH], other[turn < SMOOTH])
    out, faces, off = np.full(len(triangles), -1), list[Face](), 0.0
    for region in _members(smooth):
        whole = _round(corner[region], normal[region], area[region])
        groups = [region] if whole is not None else _split(region, plane, area, one, other, turn, len(triangles))
        for group in groups:
            face, stray = whole or _round(corner[group], normal[group], area[group]) or (None, 0.0)
            flat = float(np.abs((normal[group] @ normal[group[0]]) - 1).max()) < FLAT**2
            if flat or face is None:
                kind = "plane" if flat else "other"
                middle = _middle(vertices, triangles[group], corner[group], area[group])
                along = (
                    np.average(normal[group], axis=0, weights=np.maximum(area[group], 1e-30)) if flat else np.eye(3)[2]
                )
                face, stray = Face(kind, middle, along / np.linalg.norm(along)), 0.0  # type: ignore[arg-type]
            off = max(off, stray)
            out[group] = len(faces)
            faces.append(face)
    order = np.argsort([int(np.flatnonzero(out == k)[0]) for k in range(len(faces))], kind="stable")
    place = np.empty(len(faces), dtype=np.int64)
    place[order] = np.arange(len(faces))
    return place[out], [faces[k] for k in order], off


def _middle(vertices: Array, triangles: Index, corner: Array, area: Array) -> Array:
    """The centroid of the area within the outer boundary of triangles (m, 3): holes in it do not move that. Where they have no
    such boundary, of the triangles themselves."""
    weights = np.maximum(area, 1e-30)
    normal = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]).sum(axis=0)
    own = np.average(corner.mean(axis=1), axis=0, weights=weights)
    loops = _loops(triangles)
    if len(loops) < 2:
        return own
    sums = []
    for loop in loops:
        a, b = vertices[loop] - own, vertices[np.roll(loop, -1)] - own
        size = np.cross(a, b) @ normal
        sums.append((size.sum(), (size[:, None] * (a + b)).sum(axis=0) / 3))
    whole, moment = max(sums, key=lambda s: s[0])
    return own + moment / whole if whole > 0 else own


def _loops(triangles: Index) -> list[Index]:
    """Closed chains of the edges that one triangle alone has, in the order in which it runs through them; none where chains
    meet in a corner."""
    edges = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    there = {(int(a), int(b)) for a, b in edges}
    following = {a: b for a, b in there if (b, a) not in there}
    if len(following) < sum((b, a) not in there for a, b in there):
        return []
    out = []
    while following:
        first, at = following.popitem()
        loop = [first]
        while at != first:
            loop.append(at)
            if at not in following:
                return []
            at = following.pop(at)
        out.append(np.array(loop))
    return out


def _split(region: Index, plane: Index, area: Array, one: Index, other: Index, turn: Array, count: int) -> list[Index]:
    """A region that is no single cylinder: its large flat pieces, and what is left of it in connected parts."""
    pieces = [region[plane[region] == p] for p in np.unique(plane[region])]
    if len(pieces) == 1:
        return pieces
    sizes = np.array([area[p].sum() for p in pieces])
    usual = float(np.median(sizes))
    large = [p for p, size in zip(pieces, sizes, strict=True) if size > 4 * usual or len(p) > 4]
    remaining = np.setdiff1d(region, np.concatenate(large)) if large else region
    inside = np.isin(one, remaining) & np.isin(other, remaining) & (turn < SMOOTH)
    parts = _parts(count, one[inside], other[inside])
    return [*large, *(remaining[parts[remaining] == p] for p in np.unique(parts[remaining]))]


def _round(corner: Array, normal: Array, area: Array) -> tuple[Face, float] | None:
    """The cylinder on which corners (m, 3, 3) lie, with how far their triangles stray from it; None where there is none."""
    weights = np.maximum(area, 1e-30) / max(float(area.sum()), 1e-30)
    scatter = np.einsum("i,ij,ik->jk", weights, normal, normal)
    size, axes = np.linalg.eigh(scatter)
    axis = axes[:, 0]
    if size[0] > 1e-6 or size[1] < 1e-3:  # normals do not lie in one plane, or all point one way
        return None
    points = np.unique(np.round(corner.reshape(-1, 3), 12), axis=0)
    if len(points) < CORNERS:
        return None
    x, y = axes[:, 1], axes[:, 2]
    flat = np.stack([points @ x, points @ y], axis=1)
    shift = flat.mean(axis=0)
    design = np.column_stack([2 * (flat - shift), np.ones(len(flat))])
    (u, v, w), *_ = np.linalg.lstsq(design, ((flat - shift) ** 2).sum(axis=1), rcond=None)
    middle = np.array([u, v])
    radius = float(np.sqrt(max(w + middle @ middle, 0.0)))
    middle = middle + shift
    off = np.abs(np.linalg.norm(flat - middle, axis=1) - radius).max()
    if radius == 0 or off > max(ROUND * radius, LEAST):
        return None
    axis = axis * np.sign(next(c for c in axis[::-1] if abs(c) > 1e-9))
    along = points @ axis
    low, high = float(along.min()), float(along.max())
    foot = middle[0] * x + middle[1] * y
    spokes = corner.mean(axis=1) - foot
    outward = bool(np.einsum("ij,ij,i->", spokes, normal, weights) > 0)
    inner = radius - np.abs(np.einsum("ij,ij->i", corner[:, 0] - foot, normal))
    return Face("cylinder", foot + low * axis, axis, radius, high - low, outward), float(max(inner.max(), off, 0.0))


def _beside(triangles: Index) -> tuple[Index, Index]:
    """Triangles that share an edge, in pairs."""
    ends = np.sort(np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    owner = np.tile(np.arange(len(triangles)), 3)
    order = np.lexsort((ends[:, 1], ends[:, 0]))
    ends, owner = ends[order], owner[order]
    same = np.flatnonzero((ends[:-1] == ends[1:]).all(axis=1))
    return owner[same], owner[same + 1]


def _parts(count: int, one: Index, other: Index) -> Index:
    """The connected part that each of `count` belongs to."""
    graph = coo_array((np.ones(len(one), dtype=bool), (one, other)), shape=(count, count))
    return np.asarray(connected_components(graph, directed=False)[1], dtype=np.int64)


def _members(label: Index) -> list[Index]:
    order = np.argsort(label, kind="stable")
    return np.split(order, np.flatnonzero(np.diff(label[order])) + 1)
