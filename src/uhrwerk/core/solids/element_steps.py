"""The steps that elements state for themselves: prisms added and cut, rounds, bevels, an image. Only worker processes import this
module."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_Transform
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.GeomAbs import GeomAbs_Plane
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_WIRE
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.face_names import Names
from uhrwerk.core.solids.partial_solid import PartialSolid, Tool, each, faces_of, joined
from uhrwerk.core.solids.recipe import Step
from uhrwerk.core.solids.wires import MM, Frame, level, wire


def carried_out(partial: PartialSolid, step: Step, own: str) -> PartialSolid:
    """The part after an element's own step; its faces get names where `own` is given."""
    if step["do"] in ("extrude", "cut"):
        if own or step.get("stands"):
            return joined(partial, [_named_prism(step, own)])
        if partial.shape is None:
            return PartialSolid(_prism(step))
        kind = BRepAlgoAPI_Fuse if step["do"] == "extrude" else BRepAlgoAPI_Cut
        return PartialSolid(kind(partial.shape, _prism(step)).Shape())
    if step["do"] == "mirror":
        behind = gp_Trsf()
        behind.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)))
        moved = BRepBuilderAPI_Transform(partial.shape, behind, True)
        names = Names((moved.ModifiedShape(f), name) for f, name in partial.names)
        return PartialSolid(moved.Shape(), names, marks={name: _behind(m) for name, m in partial.marks.items()})
    maker = (BRepFilletAPI_MakeFillet if step["do"] == "fillet" else BRepFilletAPI_MakeChamfer)(partial.shape)
    chosen = _chosen(partial.shape, step["edges"])
    for edge in chosen:
        if "high" in step:
            maker.Add(step["size"] * MM, step["high"] * MM, edge, _flat_face(partial.shape, edge))
        else:
            maker.Add(step["size"] * MM, edge)
    shape = maker.Shape()
    names = partial.names.followed(maker, faces_of(shape))
    for k, edge in enumerate(chosen if own else [], 1):
        for f in maker.Generated(edge):
            names.add(f, f"{own}.edge_{k}")
    return PartialSolid(shape, names)


def _flat_face(shape: Any, edge: Any) -> Any:
    """The flat face that an edge bounds."""
    return next(
        f
        for f in faces_of(shape)
        if BRepAdaptor_Surface(f).GetType() == GeomAbs_Plane
        and any(e.IsSame(edge) for e in each(f, TopAbs_EDGE, TopoDS.Edge))
    )


def _behind(mark: Frame) -> Frame:
    """A plane or place of the image behind the part's own yz plane."""
    across = np.array([-1.0, 1.0, 1.0])
    x, n = mark.x * across, mark.n * across
    return Frame(mark.origin * across, x, np.cross(n, x), n)


def _prism(step: Step) -> Any:
    return _named_prism(step, "").shape


def _named_prism(step: Step, own: str) -> Tool:
    """The prism of an element's step, its faces named after `own`."""
    z0, z1 = step["z"]
    maker = BRepBuilderAPI_MakeFace(wire(step["outline"], level(z0)), True)
    for hole in step["holes"]:
        maker.Add(TopoDS.Wire(wire(hole, level(z0)).Reversed()))
    prism = BRepPrimAPI_MakePrism(maker.Face(), gp_Vec(0, 0, (z1 - z0) * MM))
    roles: list[tuple[Any, str]] = []
    if own:
        roles = [(prism.FirstShape(), "start"), (prism.LastShape(), "end")]
        for w, loop in enumerate(each(maker.Face(), TopAbs_WIRE, TopoDS.Wire)):
            for k, edge in enumerate(each(loop, TopAbs_EDGE, TopoDS.Edge), 1):
                role = f"side_{k}" if w == 0 else f"hole_{w}" if k == 1 else f"hole_{w}_{k}"
                roles += [(f, role) for f in prism.Generated(edge)]
    names = Names((f, f"{own}.{role}") for f, role in roles)
    return Tool(prism.Shape(), names, step["do"] == "extrude", step.get("stands", False))


def _chosen(shape: Any, edges: dict[str, Any]) -> list[Any]:
    chosen: list[Any] = []
    for edge in each(shape, TopAbs_EDGE, TopoDS.Edge):
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
    return any(BRep_Tool.IsClosed_s(edge, face) for face in each(shape, TopAbs_FACE, TopoDS.Face))
