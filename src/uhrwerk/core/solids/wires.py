"""Outlines as the kernel's faces on a plane, each edge with its role."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeOffset
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.collections import Array1_double, Array1_gp_Pnt, Array1_int, HArray1_gp_Pnt, List_TopoDS_Shape
from OCP.GC import GC_MakeArcOfCircle
from OCP.Geom import Geom_BSplineCurve
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Intersection
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Dir, gp_Pln, gp_Pnt, gp_Trsf
from OCP.ShapeFix import ShapeFix_Face
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_WIRE
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.face_names import Names
from uhrwerk.core.solids.recipe import Outline

MM = 1e3


@dataclass(frozen=True)
class Frame:
    """A plane in the part: origin (mm), and the unit vectors x, y and n (its normal)."""

    origin: np.ndarray
    x: np.ndarray
    y: np.ndarray
    n: np.ndarray

    def at(self, x: float, y: float) -> np.ndarray:
        """A place on the plane given in metres, in mm."""
        return np.asarray(self.origin + self.x * x * MM + self.y * y * MM)

    def point(self, xy: Any) -> gp_Pnt:
        return gp_Pnt(*self.at(float(xy[0]), float(xy[1])))

    def moved(self, by: float) -> Frame:
        return Frame(self.origin + self.n * by, self.x, self.y, self.n)


def level(z: float) -> Frame:
    """The plane across z at a height in metres."""
    return Frame(np.array([0.0, 0, z * MM]), np.array([1.0, 0, 0]), np.array([0.0, 1, 0]), np.array([0.0, 0, 1]))


def edges(outline: Outline, frame: Frame) -> list[Any]:
    """The edges of a single closed loop, in its order."""
    if "circle" in outline:
        x, y, r = outline["circle"]
        place = gp_Ax2(frame.point((x, y)), gp_Dir(*frame.n), gp_Dir(*frame.x))
        return [BRepBuilderAPI_MakeEdge(gp_Circ(place, r * MM)).Edge()]
    here, out = outline["start"], []
    for step in outline["path"]:
        if step[0] == "line":
            out.append(BRepBuilderAPI_MakeEdge(frame.point(here), frame.point(step[1])).Edge())
            here = step[1]
        elif step[0] == "arc":
            arc = GC_MakeArcOfCircle(frame.point(here), frame.point(step[1]), frame.point(step[2]))
            out.append(BRepBuilderAPI_MakeEdge(arc.Value()).Edge())
            here = step[2]
        elif step[0] == "bspline":
            out.append(_bspline(step, frame))
            here = step[3][-1]
        else:
            points = HArray1_gp_Pnt(1, len(step[1]) + 1)
            for at, xy in enumerate([here, *step[1]], 1):
                points.SetValue(at, frame.point(xy))
            curve = GeomAPI_Interpolate(points, False, 1e-9)
            curve.Perform()
            out.append(BRepBuilderAPI_MakeEdge(curve.Curve()).Edge())
            here = step[1][-1]
    return out


def _bspline(step: list[Any], frame: Frame) -> Any:
    """An edge on a B-spline by its distinct knots, how often each counts, and its poles; closed where the poles say so."""
    _, knots, often, poles = step
    places = Array1_gp_Pnt(1, len(poles))
    for at, xy in enumerate(poles, 1):
        places.SetValue(at, frame.point(xy))
    values, counts = Array1_double(1, len(knots)), Array1_int(1, len(knots))
    for at, (knot, count) in enumerate(zip(knots, often, strict=True), 1):
        values.SetValue(at, knot)
        counts.SetValue(at, int(count))
    degree = sum(often) - len(poles) - 1
    return BRepBuilderAPI_MakeEdge(Geom_BSplineCurve(places, values, counts, degree)).Edge()


def wire(outline: Outline, frame: Frame) -> Any:
    maker = BRepBuilderAPI_MakeWire()
    for edge in edges(outline, frame):
        maker.Add(edge)
    return maker.Wire()


def flat_faces(outline: Outline, frame: Frame) -> list[tuple[Any, Names]]:
    """Flat faces on a plane, one for each piece of the outline, and of each of their edges the role: side_1, side_2, in the order
    of the outline. A sum or difference counts through its members."""
    faces, roles, _ = _faces(outline, frame, 0)
    if len(faces) == 1:
        return [(faces[0], roles)]
    out = []
    for face in faces:
        around = {hash(e) for e in _each(face, TopAbs_EDGE, TopoDS.Edge)}
        out.append((face, Names((e, role) for e, role in roles if hash(e) in around)))
    return out


def _faces(outline: Outline, frame: Frame, count: int) -> tuple[list[Any], Names, int]:
    if "given" in outline:
        face, roles, count = _enlarged_edge(outline, frame, count)
        return [face], roles, count
    if "offset" in outline:
        faces, _, _ = _faces(outline["offset"], frame, 0)
        if len(faces) != 1:
            raise ValueError("an outline in several pieces has no offset: take that of each piece")
        return _enlarged(faces[0], outline["by"], frame, count)
    if "holed" in outline:
        return _holed(outline["holed"], frame, count)
    if "apart" in outline:
        apart, all_roles = list[Any](), Names()
        for one in outline["apart"]:
            more_faces, more, count = _faces(one, frame, count)
            apart += more_faces
            all_roles = Names([*all_roles, *more])
        return apart, all_roles, count
    members = outline.get("sum") or outline.get("less")
    if members is None:
        maker = BRepBuilderAPI_MakeWire()
        roles = Names()
        for edge in edges(outline, frame):
            maker.Add(edge)
            count += 1
            roles.add(maker.Edge(), f"side_{count}")
        plane = gp_Pln(gp_Pnt(*frame.origin), gp_Dir(*frame.n))
        return [BRepBuilderAPI_MakeFace(plane, maker.Wire(), True).Face()], roles, count
    faces, roles, count = _faces(members[0], frame, count)
    for other in members[1:]:
        more_faces, more, count = _faces(other, frame, count)
        faces, roles = _combined(faces, more_faces, Names([*roles, *more]), adds="sum" in outline)
    return faces, roles, count


def _holed(lines: list[Outline], frame: Frame, count: int) -> tuple[list[Any], Names, int]:
    """A face within the first of several closed lines, around the others."""
    (face,), roles, count = _faces(lines[0], frame, count)
    maker = BRepBuilderAPI_MakeFace(face)
    for line in lines[1:]:
        hole = BRepBuilderAPI_MakeWire()
        for edge in edges(line, frame):
            hole.Add(edge)
            count += 1
            roles.add(hole.Edge(), f"side_{count}")
        maker.Add(hole.Wire())
    mend = ShapeFix_Face(maker.Face())
    mend.FixOrientation()  # the image of an outline runs the other way round
    return [mend.Face()], roles, count


def _combined(faces: list[Any], others: list[Any], roles: Names, adds: bool) -> tuple[list[Any], Names]:
    maker = (BRepAlgoAPI_Fuse if adds else BRepAlgoAPI_Cut)()
    arguments, tools = List_TopoDS_Shape(), List_TopoDS_Shape()
    for shapes, taken in ((arguments, faces), (tools, others)):
        for one in taken:
            shapes.Append(one)
    maker.SetArguments(arguments)
    maker.SetTools(tools)
    maker.Build()
    roles = roles.followed(maker, _each(maker.Shape(), TopAbs_EDGE, TopoDS.Edge))
    unify = ShapeUpgrade_UnifySameDomain(maker.Shape(), False, True, False)
    unify.Build()
    history = unify.History()
    roles = Names(
        (e, role) for edge, role in roles if not history.IsRemoved(edge) for e in list(history.Modified(edge)) or [edge]
    )
    pieces = _each(unify.Shape(), TopAbs_FACE, TopoDS.Face)
    if not pieces:
        raise ValueError("nothing is left of the outline")
    return pieces, roles


def _enlarged_edge(outline: Outline, frame: Frame, count: int) -> tuple[Any, Names, int]:
    """The edge of a face that lies on another frame, brought to this one and made larger by a gap."""
    face, own = outline["given"]
    loops = _each(face, TopAbs_WIRE, TopoDS.Wire)
    outer = BRepTools.OuterWire_s(face)
    inner = [w for w in loops if not w.IsSame(outer)]
    if outline["inner"] and not inner:
        raise ValueError("that face has no opening")
    line = inner[0] if outline["inner"] else outer
    move = gp_Trsf()
    move.SetDisplacement(_ax3(own), _ax3(frame))
    line = TopoDS.Wire(BRepBuilderAPI_Transform(line, move, True).Shape())
    line = _larger(line, outline["gap"], frame)
    return _within(line, frame, count)


def _enlarged(face: Any, by: float, frame: Frame, count: int) -> tuple[list[Any], Names, int]:
    """A flat face whose outline is so much larger, m, and whose openings are so much smaller."""
    outer = BRepTools.OuterWire_s(face)
    larger, roles, count = _within(_larger(outer, by, frame), frame, count)
    inner = [w for w in _each(face, TopAbs_WIRE, TopoDS.Wire) if not w.IsSame(outer)]
    faces = [larger]
    for opening in inner:
        smaller, more, count = _within(_larger(opening, -by, frame), frame, count)
        faces, roles = _combined(faces, [smaller], Names([*roles, *more]), adds=False)
    return faces, roles, count


def _larger(line: Any, by: float, frame: Frame) -> Any:
    """A closed line so much larger all round, m."""
    if abs(by) <= 1e-9:
        return line
    if (round_one := _circle(line)) is not None:
        radius = round_one.Radius() + by * MM
        if radius < 1e-6:
            raise ValueError("that distance leaves nothing of the circle")
        edge = BRepBuilderAPI_MakeEdge(gp_Circ(round_one.Position(), radius)).Edge()
        return BRepBuilderAPI_MakeWire(edge).Wire()
    flat = BRepBuilderAPI_MakeFace(gp_Pln(_ax3(frame)), line, True).Face()
    larger = BRepOffsetAPI_MakeOffset(flat, GeomAbs_Intersection)
    larger.Perform(by * MM)
    wires = _each(larger.Shape(), TopAbs_WIRE, TopoDS.Wire)
    if len(wires) != 1:
        raise ValueError("that distance leaves no single line")
    return wires[0]


def _within(line: Any, frame: Frame, count: int) -> tuple[Any, Names, int]:
    """The flat face within a closed line, its edges counted on."""
    roles, walk = Names(), BRepTools_WireExplorer(line)
    while walk.More():
        count += 1
        roles.add(walk.Current(), f"side_{count}")
        walk.Next()
    return BRepBuilderAPI_MakeFace(gp_Pln(_ax3(frame)), line, True).Face(), roles, count


def _circle(line: Any) -> Any:
    """The circle that a wire is, if it is a single one: the kernel's own offset of it has a seam that does not close."""
    edges_ = _each(line, TopAbs_EDGE, TopoDS.Edge)
    if len(edges_) != 1:
        return None
    curve = BRepAdaptor_Curve(edges_[0])
    return curve.Circle() if curve.GetType() == GeomAbs_Circle else None


def _ax3(frame: Frame) -> gp_Ax3:
    return gp_Ax3(gp_Pnt(*frame.origin), gp_Dir(*frame.n), gp_Dir(*frame.x))


def _each(shape: Any, kind: Any, cast: Any) -> list[Any]:
    shapes, explorer = [], TopExp_Explorer(shape, kind)
    while explorer.More():
        shapes.append(cast(explorer.Current()))
        explorer.Next()
    return shapes


def rim(frame: Frame, corners: list[tuple[float, float, str]]) -> tuple[Any, Names]:
    """Half a section beside an axis: from the axis at height 0 through corners (radius, depth along y; mm), each with the role
    of the edge that leads there, and back along the axis."""

    def place(r: float, d: float) -> gp_Pnt:
        return gp_Pnt(*(frame.origin + frame.x * r + frame.y * d))

    maker, roles = BRepBuilderAPI_MakeWire(), Names()
    here = (0.0, 0.0)
    for r, d, role in corners:
        maker.Add(BRepBuilderAPI_MakeEdge(place(*here), place(r, d)).Edge())
        if role:
            roles.add(maker.Edge(), role)
        here = (r, d)
    if here[0] > 0:
        maker.Add(BRepBuilderAPI_MakeEdge(place(*here), place(0.0, here[1])).Edge())
        here = (0.0, here[1])
    maker.Add(BRepBuilderAPI_MakeEdge(place(*here), place(0.0, 0.0)).Edge())
    return BRepBuilderAPI_MakeFace(maker.Wire(), True).Face(), roles
