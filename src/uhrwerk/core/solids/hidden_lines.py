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
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_Torus,
)
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape, HLRBRep_PolyAlgo, HLRBRep_PolyHLRToShape
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_WIRE
from OCP.TopoDS import TopoDS, TopoDS_Compound

from uhrwerk.core.solids.partial_solid import StepFailed, each
from uhrwerk.core.solids.wires import MM

#: how far the points of a curve that is neither line nor circle may stray from it, mm
FINE = 0.005
#: faces, and faces of free shape, such as flanks of teeth, from which on what is hidden is found from triangles: exact ones would take many
#: seconds
MANY, FREE = 150, 16
PLAIN = {GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_Sphere, GeomAbs_Torus}
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
    every = [BRepAdaptor_Surface(f).GetType() for shape in shapes for f in each(shape, TopAbs_FACE, TopoDS.Face)]
    if len(every) > MANY or sum(t not in PLAIN for t in every) > FREE:
        return {"visible": _outline_with_circles(shapes, right, toward), "hidden": [], "cut": faces}
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


#: mm within which a point of a triangle's edge lies on a circle; part of a circle that must be visible for the whole of it to be drawn
ON, SEEN = 1e-3, 0.97


def _outline_with_circles(shapes: list[Any], right: list[float], toward: list[float]) -> list[Curve]:
    """The visible lines by triangles, in which the chains along circular edges that face the eye are arcs again, exact."""
    segments = np.array(outline_views(shapes, [(right, toward)])[0]) * MM
    curves: list[Curve] = []
    for x, y, r, begin, by in _facing_arcs(shapes, right, toward):
        off = segments - np.array([x, y])
        on = np.abs(np.hypot(off[..., 0], off[..., 1]) - r).max(axis=1) < ON
        middle = off.mean(axis=1)
        turn = (np.arctan2(middle[:, 1], middle[:, 0]) - begin) * (1.0 if by > 0 else -1.0) % (2 * pi)
        on &= turn < abs(by)
        along = np.linalg.norm(segments[on, 1] - segments[on, 0], axis=1)
        if 2 * np.arcsin(np.minimum(1.0, along / (2 * r))).sum() > SEEN * abs(by):
            segments = segments[~on]
            curves.append(("arc", x / MM, y / MM, r / MM, begin % (2 * pi), by))
    straight = _along_straight_edges(segments, shapes, right, toward)
    return curves + [
        ("line", *(s.ravel() / MM).tolist()) if line else ("curve", (s / MM).tolist())
        for s, line in zip(segments, straight, strict=True)
    ]


def _along_straight_edges(segments: Any, shapes: list[Any], right: list[float], toward: list[float]) -> Any:
    """Whether segments (n, 2, 2) on paper, mm, lie along straight edges (n,): others are pieces of curves."""
    n = np.array(toward) / np.linalg.norm(toward)
    u = np.array(right) - n * (np.array(right) @ n)
    u /= np.linalg.norm(u)
    axes = np.stack([u, np.cross(n, u)])
    ends = []
    for shape in shapes:
        for edge in each(shape, TopAbs_EDGE, TopoDS.Edge):
            curve = BRepAdaptor_Curve(edge)
            if curve.GetType() == GeomAbs_Line:
                points = (curve.Value(curve.FirstParameter()), curve.Value(curve.LastParameter()))
                ends.append([axes @ np.array([p.X(), p.Y(), p.Z()]) for p in points])
    out = np.zeros(len(segments), dtype=bool)
    for a, b in ends:
        way, length = b - a, float(np.linalg.norm(b - a))
        if length < ON:
            continue
        off = segments - a
        beside = np.abs(off[..., 0] * way[1] - off[..., 1] * way[0]).max(axis=1) / length
        along = (off @ way) / length
        out |= (beside < ON) & (along.min(axis=1) > -ON) & (along.max(axis=1) < length + ON)
    return out | _edge_on(segments)


#: part of a view's size along which lines at one height show a flat face that is seen edge on
FLAT = 0.3


def _edge_on(segments: Any) -> Any:
    """Whether segments lie level or upright where so many do at the same place that they are a flat face seen edge on (n,)."""
    out = np.zeros(len(segments), dtype=bool)
    length = np.linalg.norm(segments[:, 1] - segments[:, 0], axis=1)
    for axis in (0, 1):
        same = np.abs(segments[:, 0, axis] - segments[:, 1, axis]) < 1e-7
        size = float(np.ptp(segments[..., 1 - axis])) if len(segments) else 0.0
        at, place = np.unique(np.round(segments[:, 0, axis], 6), return_inverse=True)
        total = np.bincount(place[same], weights=length[same], minlength=len(at))
        out |= same & (total[place] > FLAT * size)
    return out


def _facing_arcs(shapes: list[Any], right: list[float], toward: list[float]) -> list[tuple[float, ...]]:
    """Circular edges in planes square to the eye, on paper: (x, y, radius mm, from, by rad), those that lie on one another once."""
    n = np.array(toward) / np.linalg.norm(toward)
    u = np.array(right) - n * (np.array(right) @ n)
    u /= np.linalg.norm(u)
    axes = np.stack([u, np.cross(n, u)])
    arcs: dict[tuple[float, ...], tuple[float, ...]] = {}
    for shape in shapes:
        for edge in each(shape, TopAbs_EDGE, TopoDS.Edge):
            curve = BRepAdaptor_Curve(edge)
            if curve.GetType() != GeomAbs_Circle:
                continue
            circle = curve.Circle()
            axis = circle.Axis().Direction()
            facing = float(np.array([axis.X(), axis.Y(), axis.Z()]) @ n)
            if abs(abs(facing) - 1) > 1e-9:
                continue
            first, last = curve.FirstParameter(), curve.LastParameter()
            centre, start = (axes @ np.array([p.X(), p.Y(), p.Z()]) for p in (circle.Location(), curve.Value(first)))
            begin = atan2(*(start - centre)[::-1])
            by = (last - first) * (1.0 if facing > 0 else -1.0)
            middle = (begin + by / 2) % (2 * pi)
            key = (
                *np.round(centre, 6).tolist(),
                round(circle.Radius(), 6),
                round(middle, 5) if abs(by) < 6.28 else 0.0,
            )
            arcs.setdefault(key, (float(centre[0]), float(centre[1]), circle.Radius(), begin, by))
    return list(arcs.values())
