"""The geometry of one body of one placed part, as triangles in the body's own frame.

Triangles stand for curved faces only to within the deviation. Where a pin sits in a bore, or faces keep a constant gap,
that must not decide the answer: those faces are compared exactly (`fits`), and their triangles drawn back (`relieved`).
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import fcl
import manifold3d
import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.proximity.bounding_tree import BoundingTree
from uhrwerk.core.solids import Body, Face
from uhrwerk.core.solids.datum import any_across

MM = 1e3
#: numbers of widths that are measured together
TOGETHER = 200_000
WHEEL_SIDES = 96


class BodyGeometry:
    """A body's geometry as checks use it, in its own frame. `key` tells forms with the same content."""

    def __init__(self, body: Body, key: str) -> None:
        self.body, self.key = body, key
        self._relieved: dict[tuple[tuple[int, float], ...], Mesh] = {}
        self._clusters: dict[bytes, BoundingTree] = {}

    @cached_property
    def mesh(self) -> Mesh:
        return Mesh(self.body.vertices, self.body.triangles)

    @cached_property
    def centre(self) -> Array:
        """Middle of the box round the body, m; on the axis of a solid of revolution."""
        v = self.body.vertices
        middle = (v.min(axis=0) + v.max(axis=0)) / 2
        if self.spun is None:
            return np.asarray(middle)
        foot, z = self.spun
        return np.asarray(foot + ((middle - foot) @ z) * z)

    @cached_property
    def radius(self) -> float:
        """Reach of the body from its centre, m."""
        return float(np.linalg.norm(self.body.vertices - self.centre, axis=1).max()) + self.body.deviation

    @cached_property
    def round_and_flat(self) -> tuple[NDArray[np.int64], Array, Array, Array]:
        """Numbers (n,), origins and directions (n, 3) and radii (n,) of the cylinders and planes; a plane's radius is zero."""
        chosen = [k for k, f in enumerate(self.body.faces) if f.kind in ("plane", "cylinder")]
        faces = [self.body.faces[k] for k in chosen]
        origins, directions = (
            np.array(x).reshape(len(faces), 3) for x in ([f.origin for f in faces], [f.direction for f in faces])
        )
        return np.array(chosen, dtype=np.int64), origins, directions, np.array([f.radius for f in faces])

    @property
    def unmarked(self) -> NDArray[np.int64]:
        return np.zeros(len(self.body.triangles), dtype=np.int64)

    def clusters(self, marks: NDArray[np.int64], axis: tuple[Array, Array] | None = None) -> BoundingTree:
        """Clusters that keep triangles of different marks (m,) apart, with their rings round an axis if one is given."""
        if axis is None and not marks.any():
            return self.mesh.clusters
        key = marks.tobytes() + (
            b"" if axis is None else np.round(np.concatenate(axis) / 1e-9).astype(np.int64).tobytes()
        )
        if key not in self._clusters:
            if len(self._clusters) > 20:
                self._clusters.clear()
            tree = BoundingTree(self.body.vertices, self.body.triangles, marks if marks.any() else None, axis)
            self._clusters[key] = tree
            return tree
        return self._clusters[key]

    @cached_property
    def curved(self) -> bool:
        return any(f.kind != "plane" for f in self.body.faces)

    @cached_property
    def spun(self) -> tuple[Array, Array] | None:
        """A point and the direction of the axis, if the body is a solid of revolution: turning about it moves nothing."""
        round_faces = [f for f in self.body.faces if f.kind == "cylinder"]
        if not round_faces or any(f.kind == "other" for f in self.body.faces):
            return None
        first = round_faces[0]
        for f in self.body.faces:
            if abs(f.direction @ first.direction) < 1 - 1e-9:
                return None
            off = f.origin - first.origin
            if f.kind != "plane" and np.linalg.norm(off - (off @ first.direction) * first.direction) > 1e-9:
                return None
        return first.origin, first.direction

    @cached_property
    def wheel(self) -> BodyGeometry | None:
        """A disc round the body, if it nearly is one, such as a gear: turning it moves nothing, and it is never farther
        from anything than the body itself."""
        axis = next((f for f in self.body.faces if f.kind == "cylinder"), None)
        if axis is None or self.spun is not None:
            return None
        off = self.body.vertices - axis.origin
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
            self.body, vertices=vertices, triangles=triangles, face_of=np.zeros(len(triangles), int), faces=(face,),
            deviation=0.0, centroid=axis.origin + (low + high) / 2 * axis.direction, inertia=np.eye(3),
        )  # fmt: skip
        return BodyGeometry(body, f"{self.key} wheel")

    @cached_property
    def flanks(self) -> BoundingTree:
        """Clusters of what stands upright along z: of a gear or rack, all that meets teeth of a parallel one."""
        t = self.body.triangles
        v = self.body.vertices
        normal = poses.cross(v[t[:, 1]] - v[t[:, 0]], v[t[:, 2]] - v[t[:, 0]])
        upright = np.abs(normal[:, 2]) < 1e-6 * np.linalg.norm(normal, axis=1)
        return BoundingTree(v, t[upright])

    def patch(self, face: int) -> Mesh:
        """The triangles of one face alone."""
        key = ((-1 - face, 0.0),)
        if key not in self._relieved:
            self._relieved[key] = Mesh(self.body.vertices, self.body.triangles[self.body.face_of == face])
        return self._relieved[key]

    def relieved(self, faces: Iterable[tuple[int, float]]) -> Mesh:
        """The mesh with the triangles of some faces drawn back into the material by so many metres."""
        key = tuple(sorted(faces))
        if not key:
            return self.mesh
        if key in self._relieved:
            return self._relieved[key]
        vertices = self.body.vertices.copy()
        for index, depth in key:
            f = self.body.faces[index]
            used = np.unique(self.body.triangles[self.body.face_of == index])
            if f.kind == "plane":
                vertices[used] -= f.direction * depth
                continue
            radial = vertices[used] - f.origin
            radial -= np.outer(radial @ f.direction, f.direction)
            radial /= np.linalg.norm(radial, axis=1, keepdims=True)
            vertices[used] += radial * (-depth if f.outward else depth)
        if len(self._relieved) > 40:
            self._relieved.clear()
        self._relieved[key] = Mesh(vertices, self.body.triangles)
        return self._relieved[key]


class Mesh:
    """Triangles for the distance and overlap libraries, which work in millimetres; vertices (n, 3) are metres."""

    def __init__(self, vertices: Array, triangles: Any) -> None:
        self.vertices, self.triangles = vertices, triangles

    @cached_property
    def model(self) -> Any:
        model = fcl.BVHModel()
        model.beginModel(len(self.vertices), len(self.triangles))
        model.addSubModel(self.vertices * MM, self.triangles)
        model.endModel()
        return model

    @cached_property
    def solid(self) -> Any:
        return manifold3d.Manifold(
            manifold3d.Mesh64(
                np.ascontiguousarray(self.vertices * MM), np.ascontiguousarray(self.triangles, dtype=np.uint64)
            )
        )

    @cached_property
    def clusters(self) -> BoundingTree:
        return BoundingTree(self.vertices, self.triangles)

    @cached_property
    def thickness(self) -> float:
        """The smallest width of the whole, m: nothing that it shares with another is thicker."""
        return narrowest(self.vertices, self.triangles)[0]

    @cached_property
    def outermost(self) -> Array:
        """(6, 3) m, the vertices that reach farthest along its axes, those of its low sides first."""
        used = self.vertices[np.unique(self.triangles)]
        return np.asarray(used[np.concatenate([used.argmin(axis=0), used.argmax(axis=0)])])

    def may_hold(self, points: Array) -> bool:
        """Whether points (n, 3) m lie within its box: else it does not hold what they belong to."""
        ends = self.outermost
        return bool((points >= ends[:3].diagonal()).all() and (points <= ends[3:].diagonal()).all())

    def holds(self, point: Array) -> bool:
        """Whether a point (3,) m lies inside: the solid angles of all triangles seen from it add up to a full sphere
        (van Oosterom and Strackee, IEEE Trans. Biomed. Eng. 30 (1983)). From memory."""
        a, b, c = (self.vertices[self.triangles[:, k]] - point for k in range(3))
        la, lb, lc = (np.linalg.norm(x, axis=1) for x in (a, b, c))
        dots = [np.einsum("ij,ij->i", x, y) for x, y in ((a, b), (b, c), (c, a))]
        volume = np.einsum("ij,ij->i", a, poses.cross(b, c))
        return bool(abs(np.arctan2(volume, la * lb * lc + dots[0] * lc + dots[1] * la + dots[2] * lb).sum()) > np.pi)


def narrowest(v: Array, t: NDArray[np.int64]) -> tuple[float, Array]:
    """The smallest width of a mesh and its direction (3,), among the normals of its largest triangles and its principal
    axes."""
    normals = poses.cross(v[t[:, 1]] - v[t[:, 0]], v[t[:, 2]] - v[t[:, 0]])
    size = np.linalg.norm(normals, axis=1)
    chosen = np.argsort(size)[-300:]
    chosen = chosen[size[chosen] > 1e-12 * size.max(initial=0.0)]
    off = v - v.mean(axis=0)
    directions = np.vstack(
        [normals[chosen] / size[chosen, None], np.linalg.eigh(np.einsum("ni,nj->ij", off, off))[1].T]
    )
    # some at a time: all of them over a large mesh would take a hundred megabytes
    parts = -(-len(directions) * len(v) // TOGETHER)
    widths = np.concatenate([np.ptp(v @ some.T, axis=0) for some in np.array_split(directions, parts)])
    least = int(np.argmin(widths))
    return float(widths[least]), directions[least]


@dataclass(frozen=True, eq=False)
class PlacedBody:
    """A form in the mechanism: which placed part it belongs to, its link and its pose (7,) there."""

    placed: str
    form: BodyGeometry
    link: int
    local: Array

    @property
    def name(self) -> str:
        return f"{self.placed}/{self.form.body.name}"


#: m, to which a way out is found; directions that are tried, of so many faces, and those that are the same
CLOSE, WAYS_OUT, WAYS_LOOKED, ALIKE = 1e-8, 8, 60, 0.9999


class BodyPair:
    """Two forms and how far apart they are at a pose of b's body in a's. `drawn_back` names faces of each that are
    compared exactly, with how far their triangles are drawn back."""

    def __init__(
        self,
        a: BodyGeometry,
        b: BodyGeometry,
        drawn_back: tuple[tuple[tuple[int, float], ...], tuple[tuple[int, float], ...]] = ((), ()),
    ) -> None:
        self.a, self.b = a, b
        self.mesh_a, self.mesh_b = a.relieved(drawn_back[0]), b.relieved(drawn_back[1])

    @cached_property
    def _objects(self) -> tuple[Any, Any]:
        return fcl.CollisionObject(self.mesh_a.model), fcl.CollisionObject(self.mesh_b.model)

    @property
    def error(self) -> float:
        """What triangles may be off, m. Flat-faced bodies have none."""
        return sum(f.body.deviation for f in (self.a, self.b) if f.curved)

    def _pose(self, b_in_a: Array) -> None:
        self._objects[1].setTransform(fcl.Transform(b_in_a[3:], b_in_a[:3] * MM))

    def distance(self, b_in_a: Array) -> tuple[float, Any]:
        """Distance in m (0: touching or overlapping) and the library's result, of the triangles."""
        self._pose(b_in_a)
        result = fcl.DistanceResult()
        distance_ = fcl.distance(*self._objects, fcl.DistanceRequest(enable_nearest_points=True), result)
        return max(0.0, float(distance_)) / MM, result

    def touches(self, b_in_a: Array) -> bool:
        self._pose(b_in_a)
        return bool(fcl.collide(*self._objects, fcl.CollisionRequest(), fcl.CollisionResult()))

    def encloses(self, b_in_a: Array) -> bool:
        """Whether one lies wholly inside the other, where their surfaces do not meet."""
        centre = poses.place(b_in_a, self.b.centre)
        if np.linalg.norm(centre - self.a.centre) > self.a.radius + self.b.radius:
            return False
        theirs = poses.place(b_in_a, self.mesh_b.outermost)
        if self.mesh_a.may_hold(theirs) and self.mesh_a.holds(theirs[0]):
            return True
        mine = poses.place(poses.inverse(b_in_a), self.mesh_a.outermost)
        return self.mesh_b.may_hold(mine) and self.mesh_b.holds(mine[0])

    def shared(self, b_in_a: Array) -> tuple[Array, NDArray[np.int64]]:
        """The space that both meshes share, in a's frame: vertices (n, 3) m, triangles (m, 3)."""
        mesh = self._common(b_in_a).to_mesh64()
        vertices = np.asarray(mesh.vert_properties)[:, :3].reshape(-1, 3) / MM
        return vertices, np.asarray(mesh.tri_verts, dtype=np.int64).reshape(-1, 3)

    def _common(self, b_in_a: Array) -> Any:
        turn = np.hstack([poses.matrix(b_in_a[3:]), b_in_a[:3, None] * MM])
        return self.mesh_a.solid ^ self.mesh_b.solid.transform(turn)

    def overlap(self, b_in_a: Array) -> tuple[float, float, Array, Array]:
        """Depth (m), volume (m3), middle (3,) and direction of the depth (3,), in a's frame, of the space that both meshes share.

        Depth is the smallest width of the shared space, over the directions of its faces.
        """
        shared = self._common(b_in_a)
        best = (0.0, np.zeros(3), np.zeros(3))
        if shared.is_empty():
            return best[0], 0.0, best[1], best[2]
        for piece in shared.decompose():
            mesh = piece.to_mesh64()
            v = np.asarray(mesh.vert_properties)[:, :3]
            t = np.asarray(mesh.tri_verts)
            width, n = narrowest(v, t)
            if width / MM > best[0]:
                best = (width / MM, v.mean(axis=0) / MM, n)
        return best[0], float(shared.volume()) / MM**3, best[1], best[2]

    def freed(self, b_in_a: Array) -> tuple[float, Array]:
        """The shortest move of b, m, after which both share nothing, and its direction (3,) in a's frame, among the normals of what
        they share and the axes of both, either way. Exact where a face slides out over a face; else the shortest that is found along
        these directions."""
        best, along, meet = np.inf, np.zeros(3), self._meeting(b_in_a)
        for width, n in self._ways_out(b_in_a):
            if width >= best:
                continue
            for sign in (1.0, -1.0):
                far = self._out(meet, sign * n, max(width, CLOSE), best)
                if far < best:
                    best, along = far, sign * n
        return (0.0, along) if np.isinf(best) else (best, along)

    def _ways_out(self, b_in_a: Array) -> list[tuple[float, Array]]:
        """Directions (3,) across the faces of what both share, and along the axes of both, as what is pinched may slide out there;
        each with the width of what they share, m, the narrowest first."""
        ways: list[tuple[float, Array]] = []
        axes = np.vstack([np.eye(3), poses.rotate(b_in_a[3:], np.eye(3))])
        widths = np.zeros(len(axes))
        shared = self._common(b_in_a)
        for piece in () if shared.is_empty() else shared.decompose():
            mesh = piece.to_mesh64()
            v, t = np.asarray(mesh.vert_properties)[:, :3] / MM, np.asarray(mesh.tri_verts)
            normals = poses.cross(v[t[:, 1]] - v[t[:, 0]], v[t[:, 2]] - v[t[:, 0]])
            size = np.linalg.norm(normals, axis=1)
            large = [k for k in np.argsort(-size)[:WAYS_LOOKED] if size[k] > 1e-12 * size.max()]
            for n in normals[large] / size[large, None]:
                if not ways or np.abs(np.array([other for _, other in ways]) @ n).max() < ALIKE:
                    ways.append((float(np.ptp(v @ n)), n))
            widths = np.maximum(widths, np.ptp(v @ axes.T, axis=0))
        if not ways:
            return []
        narrow = sorted(ways, key=lambda w: w[0])[:WAYS_OUT]
        return sorted([*narrow, *((float(w), n) for w, n in zip(widths, axes, strict=True))], key=lambda w: w[0])

    def _meeting(self, b_in_a: Array) -> Callable[[Array], bool]:
        """Whether both touch, or one encloses the other, where b has gone by a vector (3,) m: it does not turn on its way, so that
        what would enclose is placed once."""
        turn, origin = poses.matrix(b_in_a[3:]), b_in_a[:3]
        centre = poses.place(b_in_a, self.b.centre) - self.a.centre
        theirs = poses.place(b_in_a, self.mesh_b.outermost)
        mine = poses.place(poses.inverse(b_in_a), self.mesh_a.outermost)
        near = self.a.radius + self.b.radius

        def meet(gone: Array) -> bool:
            self._objects[1].setTransform(fcl.Transform(turn, (origin + gone) * MM))
            if fcl.collide(*self._objects, fcl.CollisionRequest(), fcl.CollisionResult()):
                return True
            if np.linalg.norm(centre + gone) > near:
                return False
            there, here = theirs + gone, mine - gone @ turn
            return (self.mesh_a.may_hold(there) and self.mesh_a.holds(there[0])) or (
                self.mesh_b.may_hold(here) and self.mesh_b.holds(here[0])
            )

        return meet

    def _out(self, meet: Callable[[Array], bool], n: Array, step: float, best: float) -> float:
        """How far b must go along a direction (3,) until both are apart, m; infinite where that is no less than `best`."""
        if np.isfinite(best) and meet(best * (1 - 1e-6) * n):
            return np.inf
        low, high = 0.0, step
        while meet(high * (1 + 1e-9) * n):
            low, high = high, high + max(step, high / 16)  # what they share may be a sliver
            if high > 4 * (self.a.radius + self.b.radius):
                return np.inf
        while high - low > max(CLOSE, 1e-7 * high):
            middle = (low + high) / 2
            low, high = (middle, high) if meet(middle * n) else (low, middle)
        return high
