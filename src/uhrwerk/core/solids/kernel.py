"""The B-rep kernel (Open CASCADE) behind plain data. Only worker processes import this module.

The kernel works in millimetres, where its tolerance of 1e-7 is 0.1 nanometre; metres go in and come out.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.collections import HArray1_gp_Pnt
from OCP.GC import GC_MakeArcOfCircle
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_SurfaceOfExtrusion
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Quaternion, gp_Trsf, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.IMeshTools import IMeshTools_Parameters
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.recipe import Outline, Recipe, Step
from uhrwerk.core.solids.solid import Body, Face, Solid

MM = 1e3


class StepFailed(ValueError):
    """The kernel could not carry out a build step; says which."""


def _point(xy: Any, z: float) -> gp_Pnt:
    return gp_Pnt(float(xy[0]) * MM, float(xy[1]) * MM, z * MM)


def _wire(outline: Outline, z: float) -> Any:
    maker = BRepBuilderAPI_MakeWire()
    if "circle" in outline:
        x, y, r = outline["circle"]
        maker.Add(BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(_point((x, y), z), gp_Dir(0, 0, 1)), r * MM)).Edge())
        return maker.Wire()
    here = outline["start"]
    for step in outline["path"]:
        if step[0] == "line":
            edge = BRepBuilderAPI_MakeEdge(_point(here, z), _point(step[1], z))
            here = step[1]
        elif step[0] == "arc":
            arc = GC_MakeArcOfCircle(_point(here, z), _point(step[1], z), _point(step[2], z))
            edge = BRepBuilderAPI_MakeEdge(arc.Value())
            here = step[2]
        else:
            points = HArray1_gp_Pnt(1, len(step[1]) + 1)
            for at, xy in enumerate([here, *step[1]], 1):
                points.SetValue(at, _point(xy, z))
            curve = GeomAPI_Interpolate(points, False, 1e-9)
            curve.Perform()
            edge = BRepBuilderAPI_MakeEdge(curve.Curve())
            here = step[1][-1]
        maker.Add(edge.Edge())
    return maker.Wire()


def _prism(step: Step) -> Any:
    z0, z1 = step["z"]
    maker = BRepBuilderAPI_MakeFace(_wire(step["outline"], z0), True)
    for hole in step["holes"]:
        maker.Add(TopoDS.Wire(_wire(hole, z0).Reversed()))
    return BRepPrimAPI_MakePrism(maker.Face(), gp_Vec(0, 0, (z1 - z0) * MM)).Shape()


def _each(shape: Any, kind: Any, cast: Any) -> list[Any]:
    found, explorer = [], TopExp_Explorer(shape, kind)
    while explorer.More():
        found.append(cast(explorer.Current()))
        explorer.Next()
    return found


def _chosen(shape: Any, edges: dict[str, Any]) -> list[Any]:
    chosen: list[Any] = []
    for edge in _each(shape, TopAbs_EDGE, TopoDS.Edge):
        curve = BRepAdaptor_Curve(edge)
        a, b = curve.FirstParameter(), curve.LastParameter()
        points = [curve.Value(a + (b - a) * f) for f in (0.0, 0.37, 1.0)]
        if "at_z" in edges:
            fits = all(abs(p.Z() - edges["at_z"] * MM) < 1e-6 for p in points)
        else:
            fits = all(abs(p.X() - points[0].X()) + abs(p.Y() - points[0].Y()) < 1e-6 for p in points)
            fits = fits and not _is_seam(shape, edge)
        if fits and not any(edge.IsSame(other) for other in chosen):
            chosen.append(edge)
    return chosen


def _is_seam(shape: Any, edge: Any) -> bool:
    return any(BRep_Tool.IsClosed_s(edge, face) for face in _each(shape, TopAbs_FACE, TopoDS.Face))


def _carry_out(shape: Any, step: Step) -> Any:
    if step["do"] == "extrude":
        prism = _prism(step)
        return prism if shape is None else BRepAlgoAPI_Fuse(shape, prism).Shape()
    if step["do"] == "cut":
        return BRepAlgoAPI_Cut(shape, _prism(step)).Shape()
    if step["do"] == "mirror":
        behind = gp_Trsf()
        behind.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)))
        return BRepBuilderAPI_Transform(shape, behind, True).Shape()
    maker = BRepFilletAPI_MakeFillet(shape) if step["do"] == "fillet" else BRepFilletAPI_MakeChamfer(shape)
    for edge in _chosen(shape, step["edges"]):
        maker.Add(step["size"] * MM, edge)
    return maker.Shape()


@lru_cache(maxsize=24)
def _shape(text: str) -> Any:
    """The kernel's shape of one body, from its steps as JSON."""
    import json

    shape = None
    for at, step in enumerate(json.loads(text), 1):
        try:
            shape = _carry_out(shape, step)
        except Exception as error:  # the kernel raises many kinds; all mean that this step cannot be made
            raise StepFailed(f"build step {at} ({step['do']}) cannot be made with these dimensions") from error
        if step["do"] != "extrude" and not BRepCheck_Analyzer(shape).IsValid():
            raise StepFailed(f"build step {at} ({step['do']}) does not give a closed solid with these dimensions")
    if shape is None or not BRepCheck_Analyzer(shape).IsValid():
        raise StepFailed("the dimensions do not give a closed solid")
    return shape


def _text(steps: list[Step]) -> str:
    import json

    return json.dumps(steps, sort_keys=True)


def build(recipe: Recipe) -> Solid:
    """The solid of a recipe: bodies with triangles, faces and mass properties."""
    return Solid({b["name"]: _body(b["name"], b["steps"], recipe["deviation"], b["order"]) for b in recipe["bodies"]})


#: faces that are straight one way: between their edges they need no points
_RULED = {GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_SurfaceOfExtrusion}


def _mesh(shape: Any, deviation: float) -> None:
    """Triangles within `deviation` (m) of every face."""
    how = IMeshTools_Parameters()
    how.Deflection, how.Angle = deviation * MM, 0.25
    if {BRepAdaptor_Surface(f).GetType() for f in _each(shape, TopAbs_FACE, TopoDS.Face)} <= _RULED:
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


def _body(name: str, steps: list[Step], deviation: float, order: int) -> Body:
    shape = _shape(_text(steps))
    _mesh(shape, deviation)
    vertices: list[NDArray[np.float64]] = []
    triangles: list[NDArray[np.int64]] = []
    face_of: list[NDArray[np.int64]] = []
    faces: list[Face] = []
    count = 0
    for index, face in enumerate(_each(shape, TopAbs_FACE, TopoDS.Face)):
        place = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, place)
        if mesh is None:
            raise StepFailed("a face could not be meshed")
        move = place.Transformation()
        at = [mesh.Node(i).Transformed(move) for i in range(1, mesh.NbNodes() + 1)]
        xyz = np.array([(p.X(), p.Y(), p.Z()) for p in at]) / MM
        three = np.array([mesh.Triangle(i).Get() for i in range(1, mesh.NbTriangles() + 1)], dtype=np.int64)
        three = _strip(face, mesh, three.reshape(-1, 3) - 1)
        if face.Orientation() == TopAbs_REVERSED:
            three = three[:, ::-1]
        faces.append(_face(face, xyz, three))
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
    properties = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, properties)
    centre, inertia = properties.CentreOfMass(), properties.MatrixOfInertia()
    return Body(
        name=name,
        vertices=welded,
        triangles=corners[whole],
        face_of=np.concatenate(face_of)[whole],
        faces=tuple(faces),
        volume=properties.Mass() / MM**3,
        centroid=np.array([centre.X(), centre.Y(), centre.Z()]) / MM,
        inertia=np.array([[inertia.Value(i, j) for j in (1, 2, 3)] for i in (1, 2, 3)]) / MM**5,
        deviation=deviation,
        order=order,
    )


def _face(face: Any, xyz: NDArray[np.float64], triangles: NDArray[np.int64]) -> Face:
    surface = BRepAdaptor_Surface(face)
    a, b, c = xyz[triangles[:, 0]], xyz[triangles[:, 1]], xyz[triangles[:, 2]]
    normals = np.cross(b - a, c - a)
    if surface.GetType() == GeomAbs_Plane:
        normal = normals.sum(axis=0)
        return Face("plane", xyz.mean(axis=0), normal / np.linalg.norm(normal))
    if surface.GetType() == GeomAbs_Cone:
        axis, origin = surface.Cone().Axis().Direction(), surface.Cone().Location()
        return Face(
            "cone", np.array([origin.X(), origin.Y(), origin.Z()]) / MM, np.array([axis.X(), axis.Y(), axis.Z()])
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
        return Face("cylinder", o + lo * z, z, radius=cylinder.Radius() / MM, length=hi - lo, outward=outward)
    return Face("other", xyz.mean(axis=0), np.array([0.0, 0.0, 1.0]))


def distance(
    steps_a: list[Step], faces_a: list[int], pose_a: Any, steps_b: list[Step], faces_b: list[int], pose_b: Any
) -> tuple[float, Any, Any]:
    """Exact smallest distance between chosen faces of two posed bodies.

    Poses are (7,) arrays: position in metres, unit quaternion (w, x, y, z). Returns metres and the two points.
    """
    best: tuple[float, Any, Any] = (np.inf, None, None)
    for fa in faces_a:
        for fb in faces_b:
            found = BRepExtrema_DistShapeShape(_posed(steps_a, fa, pose_a), _posed(steps_b, fb, pose_b))
            if found.IsDone() and found.Value() / MM < best[0]:
                p, q = found.PointOnShape1(1), found.PointOnShape2(1)
                best = (found.Value() / MM, *(np.array([v.X(), v.Y(), v.Z()]) / MM for v in (p, q)))
    return best


def _posed(steps: list[Step], face: int, pose: Any) -> Any:
    return _moved(_each(_shape(_text(steps)), TopAbs_FACE, TopoDS.Face)[face], pose)


def _moved(shape: Any, pose: Any) -> Any:
    move = gp_Trsf()
    w, x, y, z = (float(v) for v in pose[3:])
    move.SetRotation(gp_Quaternion(x, y, z, w))
    move.SetTranslationPart(gp_Vec(*(float(v) * MM for v in pose[:3])))
    return shape.Moved(TopLoc_Location(move))


def common_volume(steps_a: list[Step], pose_a: Any, steps_b: list[Step], pose_b: Any) -> float:
    """Volume (m3) of the space that two posed bodies share, from the B-rep."""
    properties = GProp_GProps()
    shared = BRepAlgoAPI_Common(_moved(_shape(_text(steps_a)), pose_a), _moved(_shape(_text(steps_b)), pose_b)).Shape()
    BRepGProp.VolumeProperties_s(shared, properties)
    return abs(properties.Mass()) / MM**3


def circle_crossings(steps: list[Step], radius: float, z: float) -> list[float]:
    """Angles (rad, sorted) at which a body's vertical faces cross the circle of `radius` round the z axis at height z.

    The measuring probe behind tooth thickness: it asks the B-rep faces, not the triangles.
    """
    ring = BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(0, 0, z * MM), gp_Dir(0, 0, 1)), radius * MM)).Edge()
    angles = []
    for face in _each(_shape(_text(steps)), TopAbs_FACE, TopoDS.Face):
        found = BRepExtrema_DistShapeShape(face, ring)
        if found.IsDone() and found.Value() < 1e-7 and found.NbSolution() < 5:
            angles += [
                np.arctan2(found.PointOnShape1(i).Y(), found.PointOnShape1(i).X())
                for i in range(1, found.NbSolution() + 1)
            ]
    return sorted(float(a) for a in angles)


JOBS = {"build": build, "distance": distance, "common_volume": common_volume, "circle_crossings": circle_crossings}
