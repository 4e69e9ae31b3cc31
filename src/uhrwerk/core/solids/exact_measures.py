"""Measures of the kernel's own faces, not of triangles. Only worker processes import this module."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pln, gp_Pnt, gp_Quaternion, gp_Trsf, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_FACE
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.partial_solid import each
from uhrwerk.core.solids.wires import MM


def distance(
    a: Any, faces_a: list[int], pose_a: Any, b: Any, faces_b: list[int], pose_b: Any
) -> tuple[float, Any, Any]:
    """Exact smallest distance between chosen faces of two posed solids.

    Poses are (7,) arrays: position in metres, unit quaternion (w, x, y, z). Returns metres and the two points.
    """
    best: tuple[float, Any, Any] = (np.inf, None, None)
    for fa in faces_a:
        for fb in faces_b:
            extrema = BRepExtrema_DistShapeShape(_posed_face(a, fa, pose_a), _posed_face(b, fb, pose_b))
            if extrema.IsDone() and extrema.Value() / MM < best[0]:
                p, q = extrema.PointOnShape1(1), extrema.PointOnShape2(1)
                best = (extrema.Value() / MM, *(np.array([v.X(), v.Y(), v.Z()]) / MM for v in (p, q)))
    return best


def reach(shapes: list[Any], pose: Any, direction: list[float]) -> float:
    """How far posed solids reach along a direction from the origin, m: less the distance of the nearest of them from a plane well
    beyond them."""
    standing = [posed(shape, pose) for shape in shapes]
    n = np.array(direction) / np.linalg.norm(direction)
    box = Bnd_Box()
    for shape in standing:
        BRepBndLib.Add_s(shape, box)
    ends = np.array([[p.X(), p.Y(), p.Z()] for p in (box.CornerMin(), box.CornerMax())])
    middle, size = ends.mean(axis=0), float(np.linalg.norm(ends[1] - ends[0]))
    beyond = float(middle @ n) + size
    at = middle + (beyond - middle @ n) * n
    plane = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(*at), gp_Dir(*n)), -size, size, -size, size).Face()
    distances = [BRepExtrema_DistShapeShape(shape, plane) for shape in standing]
    return float((beyond - min(d.Value() for d in distances if d.IsDone())) / MM)


def common_volume(a: Any, pose_a: Any, b: Any, pose_b: Any) -> float:
    """Volume (m3) of the space that two posed solids share, from the B-rep."""
    properties = GProp_GProps()
    BRepGProp.VolumeProperties_s(BRepAlgoAPI_Common(posed(a, pose_a), posed(b, pose_b)).Shape(), properties)
    return float(abs(properties.Mass()) / MM**3)


def circle_crossings(solid: Any, radius: float, z: float) -> list[float]:
    """Angles (rad, sorted) at which a solid's vertical faces cross the circle of `radius` round the z axis at height z.

    The measuring probe behind tooth thickness: it asks the B-rep faces, not the triangles.
    """
    ring = BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(0, 0, z * MM), gp_Dir(0, 0, 1)), radius * MM)).Edge()
    angles = []
    for face in each(solid, TopAbs_FACE, TopoDS.Face):
        extrema = BRepExtrema_DistShapeShape(face, ring)
        if extrema.IsDone() and extrema.Value() < 1e-7 and extrema.NbSolution() < 5:
            angles += [
                np.arctan2(extrema.PointOnShape1(i).Y(), extrema.PointOnShape1(i).X())
                for i in range(1, extrema.NbSolution() + 1)
            ]
    return sorted(float(a) for a in angles)


def transformed(pose: Any) -> gp_Trsf:
    """A pose (7,) as the kernel has it."""
    move = gp_Trsf()
    w, x, y, z = (float(v) for v in pose[3:])
    move.SetRotation(gp_Quaternion(x, y, z, w))
    move.SetTranslationPart(gp_Vec(*(float(v) * MM for v in pose[:3])))
    return move


def posed(shape: Any, pose: Any) -> Any:
    return shape.Moved(TopLoc_Location(transformed(pose)))


def _posed_face(shape: Any, face: int, pose: Any) -> Any:
    return posed(each(shape, TopAbs_FACE, TopoDS.Face)[face], pose)
