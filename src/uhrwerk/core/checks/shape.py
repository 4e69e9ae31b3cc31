"""The shape that a check sees: one body of one placed part, as triangles in the frame of its link, in millimetres.

Triangles stand for curved faces only to within the deviation. Where a pin sits in a bore that must not decide the
answer, so for such a pair the two cylinders are compared exactly and their triangles are drawn back (`relieved`).
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import Any

import fcl
import manifold3d
import numpy as np

from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.assembly.pose import IDENTITY, Array
from uhrwerk.core.solids import Body, Face
from uhrwerk.core.solids.datum import any_across

MM = 1e3
WHEEL_SIDES = 96


@dataclass(frozen=True, eq=False)
class Shape:
    """A body in its link's frame. `key` tells shapes with the same content; lengths of `mesh` are millimetres."""

    placed: str
    body: Body
    link: int
    local: Array
    key: str

    @property
    def name(self) -> str:
        return f"{self.placed}/{self.body.name}"

    @cached_property
    def faces(self) -> list[Face]:
        return [
            Face(
                f.kind,
                poses.place(self.local, f.origin),
                poses.rotate(self.local[3:], f.direction),
                f.radius,
                f.length,
                f.outward,
            )
            for f in self.body.faces
        ]

    @cached_property
    def centre(self) -> Array:
        """Middle of the box round the body, in the link's frame, m; on the axis of a solid of revolution."""
        v = self.vertices / MM
        middle = (v.min(axis=0) + v.max(axis=0)) / 2
        if self.spun is None:
            return middle
        foot = next(f.origin for f in self.faces if f.kind == "cylinder")
        return foot + ((middle - foot) @ self.spun) * self.spun

    @cached_property
    def radius(self) -> float:
        """Reach of the body from its centre, m."""
        return float(np.linalg.norm(self.vertices / MM - self.centre, axis=1).max()) + self.body.deviation

    @cached_property
    def corners(self) -> Array:
        """(8, 3) corners of the box round the body, in the link's frame, m."""
        v = self.vertices / MM
        return np.array(list(itertools.product(*zip(v.min(axis=0), v.max(axis=0), strict=True))))

    @cached_property
    def vertices(self) -> Array:
        return poses.place(self.local, self.body.vertices) * MM

    @cached_property
    def mesh(self) -> Mesh:
        return Mesh(self.vertices, self.body.triangles)

    @cached_property
    def spun(self) -> Array | None:
        """The axis direction (3,), if the body is a solid of revolution: turning about it moves nothing."""
        round_faces = [f for f in self.faces if f.kind == "cylinder"]
        if not round_faces or any(f.kind == "other" for f in self.faces):
            return None
        first = round_faces[0]
        for f in self.faces:
            if abs(f.direction @ first.direction) < 1 - 1e-9:
                return None
            off = f.origin - first.origin
            if f.kind != "plane" and np.linalg.norm(off - (off @ first.direction) * first.direction) > 1e-9:
                return None
        return first.direction

    @cached_property
    def wheel(self) -> Shape | None:
        """A disc round the body, if it nearly is one, such as a gear: turning it moves nothing, and it is never farther
        from anything than the body itself."""
        axis = next((f for f in self.faces if f.kind == "cylinder"), None)
        if axis is None or self.spun is not None:
            return None
        off = self.vertices / MM - axis.origin
        along = off @ axis.direction
        radius = float(np.linalg.norm(off - np.outer(along, axis.direction), axis=1).max()) + self.body.deviation
        low, high = float(along.min()), float(along.max())
        if self.body.volume < 0.5 * np.pi * radius**2 * (high - low):
            return None
        x = any_across(axis.direction)
        y = np.cross(axis.direction, x)
        angles = 2 * np.pi * np.arange(WHEEL_SIDES) / WHEEL_SIDES
        rim = radius / np.cos(np.pi / WHEEL_SIDES) * (np.outer(np.cos(angles), x) + np.outer(np.sin(angles), y))
        vertices = axis.origin + np.concatenate([rim + low * axis.direction, rim + high * axis.direction])
        i, n = np.arange(WHEEL_SIDES), WHEEL_SIDES
        j = (i + 1) % n
        sides = np.concatenate([np.stack([i, j, j + n], axis=1), np.stack([i, j + n, i + n], axis=1)])
        caps = np.concatenate([np.stack([0 * i, j, i], axis=1), np.stack([0 * i + n, i + n, j + n], axis=1)])
        triangles = np.concatenate([sides, caps[(caps[:, 1] % n != 0) & (caps[:, 2] % n != 0)]])
        face = Face("cylinder", axis.origin + low * axis.direction, axis.direction, radius, high - low)
        body = replace(
            self.body,
            vertices=vertices,
            triangles=triangles,
            face_of=np.zeros(len(triangles), int),
            faces=(face,),
            deviation=0.0,
        )
        return Shape(self.placed, body, self.link, IDENTITY, f"{self.key} wheel")

    def relieved(self, faces: Iterable[tuple[int, float]]) -> Mesh:
        """The mesh with the triangles of some cylinders drawn back into the material by so many metres."""
        vertices = self.vertices.copy()
        for index, depth in faces:
            f = self.faces[index]
            used = np.unique(self.body.triangles[self.body.face_of == index])
            radial = vertices[used] / MM - f.origin
            radial -= np.outer(radial @ f.direction, f.direction)
            radial /= np.linalg.norm(radial, axis=1, keepdims=True)
            vertices[used] += radial * (-depth if f.outward else depth) * MM
        return Mesh(vertices, self.body.triangles)


class Mesh:
    """Triangles for the distance and overlap libraries, millimetres."""

    def __init__(self, vertices: Array, triangles: Any) -> None:
        self.vertices, self.triangles = vertices, triangles
        model = fcl.BVHModel()
        model.beginModel(len(vertices), len(triangles))
        model.addSubModel(vertices, triangles)
        model.endModel()
        self.model = model

    @cached_property
    def solid(self) -> Any:
        return manifold3d.Manifold(
            manifold3d.Mesh64(
                np.ascontiguousarray(self.vertices), np.ascontiguousarray(self.triangles, dtype=np.uint64)
            )
        )


@dataclass(frozen=True)
class Fit:
    """A pin in a bore of another body: face numbers and the radial play, m (negative: overlap)."""

    face_a: int
    face_b: int
    play: float


def fits(a: Shape, b: Shape, b_in_a: Array) -> list[Fit]:
    """Coaxial pins and bores of two bodies, where b's link is posed at b_in_a (7,) in a's: exact, from the B-rep faces.

    A pin counts as fitted where it reaches into the bore and their radii differ by less than a tenth.
    """
    found = []
    for (i, f), (j, g) in itertools.product(enumerate(a.faces), enumerate(b.faces)):
        if f.kind != "cylinder" or g.kind != "cylinder" or f.outward == g.outward:
            continue
        pin, bore = (f.radius, g.radius) if f.outward else (g.radius, f.radius)
        if abs(pin - bore) > 0.1 * bore:
            continue
        z = poses.rotate(b_in_a[3:], g.direction)
        gap = poses.place(b_in_a, g.origin) - f.origin
        off = gap - (gap @ f.direction) * f.direction
        eccentric = float(np.linalg.norm(off))
        if abs(z @ f.direction) < 1 - 1e-10 or eccentric > 0.1 * bore:
            continue
        low = float(gap @ f.direction)
        high = low + g.length * float(z @ f.direction)
        if max(low, high) <= 1e-9 or min(low, high) >= f.length - 1e-9:
            continue
        play = bore - pin - eccentric
        found.append(Fit(i, j, 0.0 if abs(play) < 1e-9 else play))
    return found


@lru_cache(maxsize=64)
def _prepared(a: Shape, b: Shape, fitted: tuple[Fit, ...]) -> tuple[Mesh, Mesh]:
    if not fitted:
        return a.mesh, b.mesh
    relief = 2 * max(a.body.deviation, b.body.deviation)
    depth = {f: relief + max(0.0, -f.play) for f in fitted}
    return a.relieved([(f.face_a, depth[f]) for f in fitted]), b.relieved([(f.face_b, depth[f]) for f in fitted])


class Pair:
    """Two shapes and how far apart they are at a relative pose."""

    def __init__(self, a: Shape, b: Shape, fitted: Iterable[Fit] = ()) -> None:
        self.a, self.b = a, b
        self.fits = tuple(fitted)
        self.mesh_a, self.mesh_b = _prepared(a, b, self.fits)
        self._objects = fcl.CollisionObject(self.mesh_a.model), fcl.CollisionObject(self.mesh_b.model)
        self.asked = 0

    @property
    def play(self) -> float | None:
        """Smallest radial play of the fits, m."""
        return min((f.play for f in self.fits), default=None)

    @property
    def error(self) -> float:
        """What triangles may be off, m. Flat-faced bodies have none."""
        return sum(s.body.deviation for s in (self.a, self.b) if any(f.kind != "plane" for f in s.body.faces))

    def _pose(self, b_in_a: Array) -> None:
        self._objects[1].setTransform(fcl.Transform(b_in_a[3:], b_in_a[:3] * MM))

    def distance(self, b_in_a: Array) -> tuple[float, Any]:
        """Distance in m (0: touching or overlapping) and the library's result, of the triangles."""
        self.asked += 1
        self._pose(b_in_a)
        result = fcl.DistanceResult()
        found = fcl.distance(*self._objects, fcl.DistanceRequest(enable_nearest_points=True), result)
        return max(0.0, float(found)) / MM, result

    def touches(self, b_in_a: Array) -> bool:
        self._pose(b_in_a)
        return bool(fcl.collide(*self._objects, fcl.CollisionRequest(), fcl.CollisionResult()))

    def overlap(self, b_in_a: Array) -> tuple[float, float, Array]:
        """Depth (m), volume (m3) and middle (3,) in a's link of the space that both triangle meshes share.

        Depth is the smallest width of the shared space, over the directions of its faces.
        """
        turn = np.hstack([poses.matrix(b_in_a[3:]), b_in_a[:3, None] * MM])
        shared = self.mesh_a.solid ^ self.mesh_b.solid.transform(turn)
        best = (0.0, 0.0, np.zeros(3))
        if shared.is_empty():
            return best
        for piece in shared.decompose():
            mesh = piece.to_mesh64()
            v = np.asarray(mesh.vert_properties)[:, :3]
            t = np.asarray(mesh.tri_verts)
            normals = np.cross(v[t[:, 1]] - v[t[:, 0]], v[t[:, 2]] - v[t[:, 0]])
            size = np.linalg.norm(normals, axis=1)
            normals = normals[np.argsort(size)[-300:]]
            normals = normals[np.linalg.norm(normals, axis=1) > 1e-12]
            directions = np.vstack(
                [
                    normals / np.linalg.norm(normals, axis=1, keepdims=True),
                    np.linalg.svd(v - v.mean(axis=0), full_matrices=False)[2],
                ]
            )
            along = v @ directions.T
            depth = float((along.max(axis=0) - along.min(axis=0)).min()) / MM
            if depth > best[0]:
                best = (depth, best[1], v.mean(axis=0) / MM)
        return best[0], float(shared.volume()) / MM**3, best[2]
