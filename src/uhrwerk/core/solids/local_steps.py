"""Build steps that alter what is there: edges, a hollow, a face moved, a taper."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepOffset import BRepOffset_Skin
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle, BRepOffsetAPI_MakeThickSolid
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakePrism
from OCP.collections import List_TopoDS_Shape
from OCP.GeomAbs import GeomAbs_Cylinder, GeomAbs_Intersection, GeomAbs_Plane
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Ax2, gp_Dir, gp_Pln, gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_VERTEX
from OCP.TopoDS import TopoDS, TopoDS_Compound

from uhrwerk.core.solids.boolean_steps import names_after_taper
from uhrwerk.core.solids.face_names import Names
from uhrwerk.core.solids.partial_solid import (
    LAP,
    PartialSolid,
    StepFailed,
    Tool,
    bare,
    each,
    faces_of,
    is_outward,
    joined,
    meeting,
    middle,
    normal_at,
)
from uhrwerk.core.solids.recipe import Step
from uhrwerk.core.solids.wires import MM

#: faces that meet at less than this (sine of the angle) are smooth there: no edge to be rounded
SMOOTH = 0.02


def edges(partial: PartialSolid, step: Step) -> PartialSolid:
    own, size = step["id"], step["size"] * MM
    between = meeting(partial.shape)
    names = partial.numbered()
    chosen = [e for e, faces in between if _fits(e, faces, names, step)]
    if not chosen:
        raise StepFailed("no edge is chosen by it")
    rounds = step["how"] == "round"
    maker = BRepFilletAPI_MakeFillet(partial.shape) if rounds else BRepFilletAPI_MakeChamfer(partial.shape)
    for edge in chosen:
        if maker.Contour(edge) == 0:
            maker.Add(size, edge)
    try:
        maker.Build()
    except Exception as error:
        raise StepFailed("its size is too large for these edges") from error
    if not maker.IsDone():
        raise StepFailed("its size is too large for these edges")
    out = partial.names.followed(maker, faces_of(maker.Shape()))
    for edge, faces in between:
        pair = sorted({bare(names.get(f, "face")) for f in faces})
        for f in maker.Generated(edge):
            out.add(f, f"{own}.{'_'.join(pair)}")
    for vertex, faces in _corners(partial.shape):
        around = "_".join(sorted({bare(names.get(f, "face")) for f in faces}))
        for f in maker.Generated(vertex):
            out.add(f, f"{own}.{around}")
    return PartialSolid(maker.Shape(), out, partial.tools)


def _corners(shape: Any) -> list[tuple[Any, list[Any]]]:
    """Every corner with the faces that meet there."""
    corners: dict[int, tuple[Any, list[Any]]] = {}
    for face in each(shape, TopAbs_FACE, TopoDS.Face):
        for vertex in each(face, TopAbs_VERTEX, TopoDS.Vertex):
            faces = corners.setdefault(hash(vertex), (vertex, []))[1]
            if face not in faces:
                faces.append(face)
    return list(corners.values())


def _fits(edge: Any, faces: list[Any], names: Names, step: Step) -> bool:
    own = {names.get(f) for f in faces}
    if step["which"] == "of a face" and step["a"] not in own:
        return False
    if step["which"] == "between two faces" and own != {step["a"], step["b"]}:
        return False
    turn = _turn(edge, faces)
    if abs(turn) < SMOOTH:
        return False
    return step["which"] != "outer" or turn > 0


def _turn(edge: Any, faces: list[Any]) -> float:
    """Sine of the angle by which the surface turns over an edge: above zero where the edge stands out."""
    curve = BRepAdaptor_Curve(edge)
    at = 0.5 * (curve.FirstParameter() + curve.LastParameter())
    point, tangent = gp_Pnt(), gp_Vec()
    curve.D1(at, point, tangent)
    t = np.array([tangent.X(), tangent.Y(), tangent.Z()])
    t /= max(np.linalg.norm(t), 1e-300)
    within = next(e for e in each(faces[0], TopAbs_EDGE, TopoDS.Edge) if e.IsSame(edge))
    if within.Orientation() == TopAbs_REVERSED:
        t = -t
    a, b = (normal_at(f, point) for f in faces)
    return float(np.cross(a, b) @ t)


def hollowed(partial: PartialSolid, step: Step) -> PartialSolid:
    closing = List_TopoDS_Shape()
    for name in step["open"]:
        closing.Append(partial.face(name))
    maker = BRepOffsetAPI_MakeThickSolid()
    names = partial.numbered()
    maker.MakeThickSolidByJoin(
        partial.shape, closing, -step["wall"] * MM, 1e-4, BRepOffset_Skin, False, False, GeomAbs_Intersection
    )
    if not maker.IsDone():
        raise StepFailed("its wall is too thick for this part")
    out = partial.names.followed(maker, faces_of(maker.Shape()))
    inner = [(f, name) for face, name in names for f in maker.Generated(face)]
    for f, name in inner:
        out.add(f, f"{step['id']}.{bare(name)}")
    _check_wall(partial, step, [f for f, _ in inner])
    return PartialSolid(maker.Shape(), out, partial.tools)


def _check_wall(partial: PartialSolid, step: Step, inner: list[Any]) -> None:
    """Every corner of the inside must lie a wall's thickness from the faces outside: where the shape is intricate, the kernel
    gives solids that close and yet are wrong."""
    outer, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(outer)
    for face, name in partial.numbered():
        if name not in step["open"]:
            builder.Add(outer, face)
    wall = step["wall"] * MM
    surfaces = [BRep_Tool.Surface_s(face) for face, name in partial.numbered() if name not in step["open"]]
    for vertex in _once([v for f in inner for v in each(f, TopAbs_VERTEX, TopoDS.Vertex)]):
        apart, point = BRepExtrema_DistShapeShape(vertex, outer).Value() - wall, BRep_Tool.Pnt_s(vertex)
        # where the part narrows to an opening, the wall's foot lies beyond the rim
        beyond = apart > 0 and min(abs(_far(point, s) - wall) for s in surfaces) < 1e-3
        if abs(apart) > 1e-3 and not beyond:
            raise StepFailed("its wall would be of another thickness somewhere: the part is too intricate there")


def _far(point: gp_Pnt, surface: Any) -> float:
    """How far a point lies from a surface without its bounds, mm."""
    projection = GeomAPI_ProjectPointOnSurf(point, surface)
    return float(projection.LowerDistance()) if projection.NbPoints() else float("inf")


def _once(shapes: list[Any]) -> list[Any]:
    return list({hash(s): s for s in shapes}.values())


def moved_face(partial: PartialSolid, step: Step) -> PartialSolid:
    """A plane moved along its normal, or a cylinder made larger or smaller, by adding or cutting what lies between."""
    face, by, own = partial.face(step["face"]), step["by"] * MM, step["id"]
    surface = BRepAdaptor_Surface(face)
    name = partial.names.get(face)
    if surface.GetType() == GeomAbs_Plane:
        maker = BRepPrimAPI_MakePrism(face, gp_Vec(*(normal_at(face) * by)))
        names = Names([(maker.LastShape(), name)])
        for edge in each(face, TopAbs_EDGE, TopoDS.Edge):
            beside = next((f for f in _meeting_at(partial.shape, edge) if not f.IsSame(face)), face)
            for f in maker.Generated(edge):
                names.add(f, partial.names.get(beside, f"{own}.side"))
        return joined(partial, [Tool(maker.Shape(), names, by > 0)])
    if surface.GetType() == GeomAbs_Cylinder:
        cylinder = surface.Cylinder()
        outward = is_outward(face)
        radius = cylinder.Radius() + (by if outward else -by)
        if radius <= 1e-4:
            raise StepFailed("nothing is left of that cylinder")
        if surface.LastUParameter() - surface.FirstUParameter() < 2 * np.pi - 1e-6:
            raise StepFailed(f"face {step['face']} is not round all the way")
        low, high = surface.FirstVParameter(), surface.LastVParameter()
        axis = cylinder.Position().Ax2()
        start = axis.Location().Translated(gp_Vec(axis.Direction()).Multiplied(low))
        place = gp_Ax2(start, axis.Direction())

        def rod(r: float) -> Any:
            return BRepPrimAPI_MakeCylinder(place, r, high - low).Shape()

        more = radius > cylinder.Radius()
        # a little of what is there is taken along, so that both are one afterwards
        large, small = max(radius, cylinder.Radius() + LAP), min(radius, cylinder.Radius() - LAP)
        shape = rod(large) if not outward and more else BRepAlgoAPI_Cut(rod(large), rod(small)).Shape()
        names = Names(
            (f, name)
            for f in each(shape, TopAbs_FACE, TopoDS.Face)
            if BRepAdaptor_Surface(f).GetType() == GeomAbs_Cylinder
            and abs(BRepAdaptor_Surface(f).Cylinder().Radius() - radius) < 1e-9
        )
        return joined(partial, [Tool(shape, names, outward == more)])
    raise StepFailed(f"face {step['face']} is neither flat nor round")


def _meeting_at(shape: Any, edge: Any) -> list[Any]:
    return next((faces for e, faces in meeting(shape) if e.IsSame(edge)), [])


def drafted(partial: PartialSolid, step: Step) -> PartialSolid:
    neutral = partial.face(step["neutral"])
    if BRepAdaptor_Surface(neutral).GetType() != GeomAbs_Plane:
        raise StepFailed(f"face {step['neutral']} is not flat")
    n, origin = normal_at(neutral), middle(neutral)
    maker = BRepOffsetAPI_DraftAngle(partial.shape)
    plane = gp_Pln(gp_Pnt(*origin), gp_Dir(*n))
    for name in step["faces"]:
        maker.Add(partial.face(name), gp_Dir(*(-n)), step["angle"], plane)
        if not maker.AddDone():
            raise StepFailed(f"face {name} cannot be tapered from there")
    maker.Build()
    if not maker.IsDone():
        raise StepFailed("its angle is too large")
    return PartialSolid(maker.Shape(), names_after_taper(maker, partial.names), partial.tools)
