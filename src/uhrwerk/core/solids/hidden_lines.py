"""Edges and outlines of solids as seen along a direction, visible ones and hidden ones, exact from the B-rep. Only worker processes
import this module."""

from __future__ import annotations

from collections.abc import Iterator
from math import atan2, pi
from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Builder
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepLib import BRepLib
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.GCPnts import GCPnts_QuasiUniformDeflection
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Line, GeomAbs_Plane
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape, HLRBRep_PolyAlgo, HLRBRep_PolyHLRToShape
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_WIRE
from OCP.TopoDS import TopoDS, TopoDS_Compound

from uhrwerk.core.solids.partial_solid import StepFailed, each
from uhrwerk.core.solids.wires import MM

#: how far the points of a curve that is neither line nor circle may stray from it, mm
FINE = 0.005
#: angle between two faces up to which they run on smoothly, rad
SMOOTH = 1e-4
#: a line or arc as plain numbers, m and rad: ("line", x0, y0, x1, y1), ("arc", x, y, radius, from, by), ("curve", [[x, y], ...])
Curve = tuple[Any, ...]


def hidden_lines(
    shapes: list[Any], right: list[float], toward: list[float], cut: float | None = None
) -> dict[str, list[Curve]]:
    """What is seen of shapes by an eye in the direction `toward`, with `right` to the right on paper: curves that are visible and
    those that are hidden, sharp edges and outlines; smooth edges are left out. `cut`: what lies farther towards the eye than so much
    is cut away, m; the faces of the cut are its loops of points ("cut")."""
    faces: list[Curve] = []
    if cut is not None:
        shapes = [rest for shape in shapes for rest in _cut(shape, right, toward, cut * MM)]
        if not shapes:
            raise StepFailed("nothing of it is left by the section")
        faces = [d for shape in shapes for d in _cut_faces(shape, right, toward, cut * MM)]
    whole = TopoDS_Compound()
    builder = BRep_Builder()
    builder.MakeCompound(whole)
    for shape in shapes:
        BRepLib.EncodeRegularity_s(shape, SMOOTH)  # edges at which faces run on smoothly are no lines of a drawing
        builder.Add(whole, shape)
    algorithm = HLRBRep_Algo()
    algorithm.Add(whole)
    algorithm.Projector(HLRAlgo_Projector(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*toward), gp_Dir(*right))))
    algorithm.Update()
    algorithm.Hide()
    extract = HLRBRep_HLRToShape(algorithm)
    sets = {
        "visible": (extract.VCompound(), extract.OutLineVCompound()),
        "hidden": (extract.HCompound(), extract.OutLineHCompound()),
    }
    if all(c.IsNull() for c in sets["visible"]):
        raise StepFailed("nothing of it is seen from there")
    sets_of_curves: dict[str, list[Curve]] = {
        name: [d for c in compounds if not c.IsNull() for d in _curves(c)] for name, compounds in sets.items()
    }
    return sets_of_curves | {"cut": faces}


def _cut(shape: Any, right: list[float], toward: list[float], at: float) -> list[Any]:
    """A shape without what lies farther towards the eye than a height, mm; none where nothing is left."""
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    low, high = (np.array([p.X(), p.Y(), p.Z()]) for p in (box.CornerMin(), box.CornerMax()))
    reach = float(np.linalg.norm(high - low)) + float(np.abs(np.concatenate([low, high])).max()) + 1.0
    n = np.array(toward) / np.linalg.norm(toward)
    x = np.array(right) - n * (np.array(right) @ n)
    x /= np.linalg.norm(x)
    corner = n * at - reach * x - reach * np.cross(n, x)
    away = BRepPrimAPI_MakeBox(gp_Ax2(gp_Pnt(*corner), gp_Dir(*n), gp_Dir(*x)), 2 * reach, 2 * reach, 2 * reach).Shape()
    rest = BRepAlgoAPI_Cut(shape, away)
    if not rest.IsDone():
        raise StepFailed("it cannot be cut there")
    return [rest.Shape()] if each(rest.Shape(), TopAbs_FACE, TopoDS.Face) else []


def _cut_faces(shape: Any, right: list[float], toward: list[float], at: float) -> Iterator[Curve]:
    """The faces that lie in the plane of a cut: each ("face", loops), a loop its points [x, y] on paper, m; the outer one first."""
    n = np.array(toward) / np.linalg.norm(toward)
    x = np.array(right) - n * (np.array(right) @ n)
    x /= np.linalg.norm(x)
    y = np.cross(n, x)
    for face in each(shape, TopAbs_FACE, TopoDS.Face):
        surface = BRepAdaptor_Surface(face)
        if surface.GetType() != GeomAbs_Plane:
            continue
        plane = surface.Plane()
        normal, origin = plane.Axis().Direction(), plane.Location()
        if abs(abs(normal.X() * n[0] + normal.Y() * n[1] + normal.Z() * n[2]) - 1) > 1e-9:
            continue
        if abs(np.array([origin.X(), origin.Y(), origin.Z()]) @ n - at) > 1e-6:
            continue
        outer = BRepTools.OuterWire_s(face)
        wires = sorted(each(face, TopAbs_WIRE, TopoDS.Wire), key=lambda w: not w.IsSame(outer))
        yield ("face", [[[float(p @ x) / MM, float(p @ y) / MM] for p in points_along(w)] for w in wires])


def points_along(wire: Any) -> list[Any]:
    """Points along a closed line, in its order, mm."""
    points: list[Any] = []
    walk = BRepTools_WireExplorer(wire)
    while walk.More():
        edge = walk.Current()
        curve = BRepAdaptor_Curve(edge)
        spread = GCPnts_QuasiUniformDeflection(curve, FINE)
        own = [spread.Value(i) for i in range(1, spread.NbPoints() + 1)]
        own = own[::-1] if edge.Orientation() == TopAbs_REVERSED else own
        points += [np.array([p.X(), p.Y(), p.Z()]) for p in own[:-1]]
        walk.Next()
    return points


def _curves(compound: Any) -> Iterator[Curve]:
    BRepLib.BuildCurves3d_s(compound)
    for edge in each(compound, TopAbs_EDGE, TopoDS.Edge):
        curve = BRepAdaptor_Curve(edge)
        first, last = curve.FirstParameter(), curve.LastParameter()
        if curve.GetType() == GeomAbs_Line:
            a, b = curve.Value(first), curve.Value(last)
            yield ("line", a.X() / MM, a.Y() / MM, b.X() / MM, b.Y() / MM)
        elif curve.GetType() == GeomAbs_Circle:
            circle = curve.Circle()
            centre, x = circle.Location(), circle.XAxis().Direction()
            way = 1.0 if circle.Axis().Direction().Z() > 0 else -1.0
            begin = atan2(x.Y(), x.X()) + way * first
            yield (
                "arc",
                centre.X() / MM,
                centre.Y() / MM,
                circle.Radius() / MM,
                begin % (2 * pi),
                way * (last - first),
            )
        else:
            points = GCPnts_QuasiUniformDeflection(curve, FINE)
            if points.IsDone() and points.NbPoints() > 1:
                at = [points.Value(i) for i in range(1, points.NbPoints() + 1)]
                yield _line_or_curve(np.array([[p.X(), p.Y()] for p in at]) / MM)


def _line_or_curve(points: Any) -> Curve:
    """A curve by its points (n, 2) m; a circle that is seen edge on is a line."""
    off = points - points[0]
    way = off[np.argmax(np.linalg.norm(off, axis=1))]
    length = float(np.linalg.norm(way))
    along = off @ way / max(length, 1e-300)
    if length and np.abs(off[:, 0] * way[1] - off[:, 1] * way[0]).max() < 1e-9 * length:
        a, b = points[np.argmin(along)], points[np.argmax(along)]
        return ("line", float(a[0]), float(a[1]), float(b[0]), float(b[1]))
    return ("curve", points.tolist())


#: how far the triangles of an assembly's view may stray from its faces, mm, and turn against them, rad
COARSE, BEND = 0.02, 0.3


def outline_views(
    shapes: list[Any], directions: list[tuple[list[float], list[float]]]
) -> list[list[list[list[float]]]]:
    """What is visible of many solids from each pair of right and towards the eye: lines as points [x, y], m. From triangles within
    0.02 mm of the faces, which takes a hundredth of the time that exact faces take."""
    whole = TopoDS_Compound()
    builder = BRep_Builder()
    builder.MakeCompound(whole)
    for shape in shapes:
        BRepMesh_IncrementalMesh(shape, COARSE, False, BEND)
        BRepLib.EncodeRegularity_s(shape, SMOOTH)
        builder.Add(whole, shape)
    views = []
    for right, toward in directions:
        algorithm = HLRBRep_PolyAlgo(whole)
        algorithm.Projector(HLRAlgo_Projector(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*toward), gp_Dir(*right))))
        algorithm.Update()
        extract = HLRBRep_PolyHLRToShape()
        extract.Update(algorithm)
        lines = []
        for compound in (extract.VCompound(), extract.OutLineVCompound()):
            if compound is None or compound.IsNull():
                continue
            for edge in each(compound, TopAbs_EDGE, TopoDS.Edge):
                curve = BRepAdaptor_Curve(edge)
                ends = (curve.Value(curve.FirstParameter()), curve.Value(curve.LastParameter()))
                lines.append([[p.X() / MM, p.Y() / MM] for p in ends])
        if not lines:
            raise StepFailed("nothing of it is seen from there")
        views.append(lines)
    return views
