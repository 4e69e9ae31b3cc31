"""A solid of the kernel as a body: triangles that keep to its faces, its faces, mass properties. Only worker processes import
this module."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_SurfaceOfExtrusion
from OCP.GProp import GProp_GProps
from OCP.IMeshTools import IMeshTools_Parameters
from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.face_names import Names
from uhrwerk.core.solids.partial_solid import NotTessellated, StepFailed, each, outer_middle
from uhrwerk.core.solids.recipe import DEVIATION
from uhrwerk.core.solids.solid import Body, Face
from uhrwerk.core.solids.triangles import mass_sums
from uhrwerk.core.solids.wires import MM

#: faces that are straight one way: between their edges they need no points
_RULED = {GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_SurfaceOfExtrusion}


def _mesh(shape: Any, deviation: float, plain: bool) -> None:
    """Triangles within `deviation` (m) of every face; `plain` where ruled faces have the same points at both ends, as those of
    elements do."""
    how = IMeshTools_Parameters()
    how.Deflection, how.Angle, how.InParallel = deviation * MM, 0.25 if deviation <= DEVIATION else 0.6, True
    if plain and {BRepAdaptor_Surface(f).GetType() for f in each(shape, TopAbs_FACE, TopoDS.Face)} <= _RULED:
        how.InternalVerticesMode = how.ControlSurfaceDeflection = False
        how.AngleInterior, how.DeflectionInterior = 3.0, 100.0
    BRepMesh_IncrementalMesh(shape, how)


def _strip(face: Any, mesh: Any, three: NDArray[np.int64]) -> NDArray[np.int64]:
    """Triangles of an extruded face from its two ends alone: the kernel divides it along its straight direction for nothing.
    Left as they are where the ends do not match."""
    if BRepAdaptor_Surface(face).GetType() != GeomAbs_SurfaceOfExtrusion or not mesh.HasUVNodes():
        return three
    uv = np.array([(p.X(), p.Y()) for p in (mesh.UVNode(i) for i in range(1, mesh.NbNodes() + 1))])
    low, high = (np.flatnonzero(np.abs(uv[:, 1] - end) < 1e-9) for end in (uv[:, 1].min(), uv[:, 1].max()))
    low, high = low[np.argsort(uv[low, 0])], high[np.argsort(uv[high, 0])]
    if len(low) != len(high) or len(low) < 2 or np.abs(uv[low, 0] - uv[high, 0]).max() > 1e-9:
        return three
    a, b, c, d = low[:-1], low[1:], high[1:], high[:-1]
    strip = np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)])

    def turns(t: NDArray[np.int64]) -> float:
        u, v = uv[t[:, 1]] - uv[t[:, 0]], uv[t[:, 2]] - uv[t[:, 0]]
        return float((u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]).sum())

    return strip if turns(strip) * turns(three) > 0 else strip[:, ::-1]


@dataclass(frozen=True)
class _Mesh:
    """Triangles of a shape: welded vertices (V, 3) m, corners (T, 3), the face of each triangle (T,), and those that are no line."""

    vertices: NDArray[np.float64]
    corners: NDArray[np.int64]
    face_of: NDArray[np.int64]
    whole: NDArray[np.bool_]
    faces: list[Face]


def tessellated(name: str, shape: Any, names: Names, deviation: float, order: int, own: bool) -> Body:
    """A body with triangles within `deviation` (m) of its faces; `own` where a designer's steps have made it. NotDivided where its
    faces cannot be divided so."""
    properties = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, properties)
    volume = properties.Mass() / MM**3
    for plain in (False,) if own else (True, False):
        _mesh(shape, deviation, plain)
        m = _meshed(shape, names, plain)
        off = abs(volume - mass_sums(m.vertices, m.corners[m.whole])[0])
        near = off <= _stray(m.vertices, m.corners, m.face_of, m.faces, deviation)
        keeps = _lies_on(m, deviation)
        if near and keeps:
            break
        BRepTools.Clean_s(shape)  # a notch in a round face, say: it needs points between its edges
    centre, inertia = properties.CentreOfMass(), properties.MatrixOfInertia()
    centroid = np.array([centre.X(), centre.Y(), centre.Z()]) / MM
    second = np.array([[inertia.Value(i, j) for j in (1, 2, 3)] for i in (1, 2, 3)]) / MM**5
    plain_faces = {f.kind for f in m.faces} <= {"plane", "cylinder", "cone"}
    if not keeps or (plain_faces and not near):
        raise NotTessellated("its faces cannot be meshed within tolerance with these dimensions")
    if not near:  # faces on long splines, which the kernel integrates with too few points
        volume, centroid, second = mass_sums(m.vertices, m.corners[m.whole])
    return Body(
        name=name,
        vertices=m.vertices,
        triangles=m.corners[m.whole],
        face_of=m.face_of[m.whole],
        faces=tuple(m.faces),
        volume=volume,
        centroid=centroid,
        inertia=second,
        deviation=deviation,
        order=order,
    )


def closes(triangles: NDArray[np.int64]) -> bool:
    """Whether every edge belongs to two triangles."""
    ends = np.sort(np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    edges = np.sort(ends[:, 0] * (int(triangles.max()) + 1) + ends[:, 1])  # one number an edge
    one, other = edges[::2], edges[1::2]
    return len(one) == len(other) and bool((one == other).all() and (one[1:] != one[:-1]).all())


def _meshed(shape: Any, names: Names, plain: bool) -> _Mesh:
    """The triangles that the kernel has made of a shape; `plain` where extruded faces need none between their ends."""
    vertices: list[NDArray[np.float64]] = []
    triangles: list[NDArray[np.int64]] = []
    face_of: list[NDArray[np.int64]] = []
    faces: list[Face] = []
    count = 0
    for index, face in enumerate(each(shape, TopAbs_FACE, TopoDS.Face)):
        place = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, place)
        if mesh is None:
            raise StepFailed("a face could not be meshed")
        move = place.Transformation()
        still = place.IsIdentity()
        at = [mesh.Node(i) if still else mesh.Node(i).Transformed(move) for i in range(1, mesh.NbNodes() + 1)]
        xyz = np.array([(p.X(), p.Y(), p.Z()) for p in at]) / MM
        three = np.array([mesh.Triangle(i).Get() for i in range(1, mesh.NbTriangles() + 1)], dtype=np.int64)
        three = three.reshape(-1, 3) - 1
        three = _strip(face, mesh, three) if plain else three
        if face.Orientation() == TopAbs_REVERSED:
            three = three[:, ::-1]
        faces.append(_face(face, xyz, three, names.get(face)))
        vertices.append(xyz)
        triangles.append(three + count)
        face_of.append(np.full(len(three), index))
        count += len(xyz)
    # Faces meet in the same points; welding them closes the surface.
    rough, index_of = np.unique(np.round(np.concatenate(vertices) / 1e-9).astype(np.int64), axis=0, return_inverse=True)
    welded = np.zeros((len(rough), 3))
    welded[index_of.ravel()] = np.concatenate(vertices)
    corners = index_of.ravel()[np.concatenate(triangles)]
    used = np.unique(corners)
    welded, corners = welded[used], np.searchsorted(used, corners)
    whole = (corners[:, 0] != corners[:, 1]) & (corners[:, 1] != corners[:, 2]) & (corners[:, 2] != corners[:, 0])
    return _Mesh(welded, corners, np.concatenate(face_of), whole, faces)


def _lies_on(m: _Mesh, deviation: float) -> bool:
    """Whether the triangles of cylinders and cones keep to them: the middles of their edges and of themselves stand off by no more
    than the deviation."""
    for k, face in enumerate(m.faces):
        three = m.corners[m.whole & (m.face_of == k)]
        if face.kind not in ("cylinder", "cone") or not len(three):
            continue

        def places(p: NDArray[np.float64], face: Face = face) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
            along = (p - face.origin) @ face.direction
            return along, np.linalg.norm(p - face.origin - np.outer(along, face.direction), axis=1)

        along, radius = places(m.vertices[np.unique(three)])
        grows = np.polyfit(along, radius, 1) if np.ptp(along) > 1e-9 else np.array([0.0, radius.mean()])
        a, b, c = (m.vertices[three[:, i]] for i in range(3))
        at, r = places(np.concatenate([a + b, b + c, c + a, (a + b + c) * (2 / 3)]) / 2)
        if np.abs(np.polyval(grows, at) - r).max() > 1.01 * deviation + 1e-12:
            return False
    return True


def _stray(
    vertices: NDArray[np.float64],
    corners: NDArray[np.int64],
    face_of: NDArray[np.int64],
    faces: list[Face],
    deviation: float,
) -> float:
    """How far the volume within the triangles may be off, m3: what curved faces may stand off from them. The kernel integrates
    faces on long splines with too few points, and may be off by more."""
    curved = np.array([f.kind != "plane" for f in faces])[face_of]
    a, b, c = (vertices[corners[curved, k]] for k in range(3))
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2) * deviation * 1.01 + 1e-15


def _face(face: Any, xyz: NDArray[np.float64], triangles: NDArray[np.int64], name: str) -> Face:
    surface = BRepAdaptor_Surface(face)
    a, b, c = xyz[triangles[:, 0]], xyz[triangles[:, 1]], xyz[triangles[:, 2]]
    normals = np.cross(b - a, c - a)
    if surface.GetType() == GeomAbs_Plane:
        normal = normals.sum(axis=0)
        place = (
            outer_middle(face) / MM if name else xyz.mean(axis=0)
        )  # joints take hold of it: not by how it is divided
        return Face("plane", place, normal / np.linalg.norm(normal), name=name)
    if surface.GetType() == GeomAbs_Cone:
        axis, origin = surface.Cone().Axis().Direction(), surface.Cone().Location()
        return Face(
            "cone",
            np.array([origin.X(), origin.Y(), origin.Z()]) / MM,
            np.array([axis.X(), axis.Y(), axis.Z()]),
            name=name,
        )
    if surface.GetType() == GeomAbs_Cylinder:
        cylinder = surface.Cylinder()
        axis, origin = cylinder.Axis().Direction(), cylinder.Location()
        z = np.array([axis.X(), axis.Y(), axis.Z()])
        o = np.array([origin.X(), origin.Y(), origin.Z()]) / MM
        along = (xyz - o) @ z
        radial = (a + b + c) / 3 - o
        radial -= np.outer(radial @ z, z)
        outward = float(np.einsum("ij,ij->", radial, normals)) > 0
        lo, hi = float(along.min()), float(along.max())
        *_, least, most = BRepTools.UVBounds_s(face) if name else (lo * MM, hi * MM)
        return Face(
            "cylinder", o + lo * z, z, cylinder.Radius() / MM, hi - lo, outward, name, o + (least + most) / 2 / MM * z
        )
    return Face("other", xyz.mean(axis=0), np.array([0.0, 0.0, 1.0]), name=name)
