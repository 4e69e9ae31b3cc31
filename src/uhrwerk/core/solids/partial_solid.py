"""A part on its way: the kernel's shape, with the name of every face followed through the kernel's own history.

A face is named by the step that made it and its role there, such as ``groove.side_2``: never by where it lies or by count.
A step without an id is carried out without names, which is quicker; elements alone are built so.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BOPAlgo import BOPAlgo_GlueEnum
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools
from OCP.collections import List_TopoDS_Shape
from OCP.GeomAbs import GeomAbs_BSplineSurface, GeomAbs_Plane
from OCP.GeomLProp import GeomLProp_SLProps
from OCP.gp import gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_SOLID, TopAbs_WIRE
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.datum import BASES, face_axes
from uhrwerk.core.solids.face_names import Names
from uhrwerk.core.solids.wires import MM, Frame

#: overlap of what is added or cut with what is there, mm
LAP = 1e-3


class StepFailed(ValueError):
    """The kernel could not carry out a build step; says which, and why where that is known. `step` is its id, where it is a
    designer's and the part is nothing without it."""

    def __init__(self, words: str, step: str = "") -> None:
        super().__init__(words)
        self.step = step


class NotTessellated(StepFailed):
    """The faces of a solid cannot be divided into triangles that keep to them."""


@dataclass
class Tool:
    """What a step adds or cuts, before it meets the part: for steps that do it again."""

    shape: Any
    names: Names
    adds: bool
    stands: bool = False  # it meets the part in faces alone and crosses it nowhere


@dataclass
class PartialSolid:
    """A shape on its way: `names` tells of each face the name that it was made with; `tools` are those of earlier steps;
    `gone` names the step that took a face."""

    shape: Any = None
    names: Names = field(default_factory=Names)
    tools: dict[str, list[Tool]] = field(default_factory=dict)
    gone: dict[str, str] = field(default_factory=dict)
    volume: float = 0.0  # mm3
    marks: dict[str, Frame] = field(default_factory=dict)  # planes and places that steps stated, by their names

    def numbered(self) -> Names:
        """Every face's own name: where a face was split, its pieces are told apart by their order along x, y, z."""
        by_name: dict[str, list[Any]] = {}
        for face in each(self.shape, TopAbs_FACE, TopoDS.Face):
            if face in self.names:
                by_name.setdefault(self.names.get(face), []).append(face)
        out = Names()
        for name, faces in by_name.items():
            if len(faces) > 1:
                faces.sort(key=lambda f: tuple(np.round(_place(f), 6)))
            for k, face in enumerate(faces, 1):
                out.add(face, name if k == 1 else f"{name}.{k}")
        return out

    def face(self, name: str) -> Any:
        """The face of a name. StepFailed where it is not there."""
        for face, own in self.numbered():
            if own == name:
                return face
        taken = self.gone.get(name)
        raise StepFailed(f"face {name} is gone: {taken} took it" if taken else f"there is no face {name} here")


def each(shape: Any, kind: Any, cast: Any) -> list[Any]:
    if shape is None:
        return []
    shapes, explorer = [], TopExp_Explorer(shape, kind)
    while explorer.More():
        shapes.append(cast(explorer.Current()))
        explorer.Next()
    return shapes


def faces_of(shape: Any) -> list[Any]:
    return each(shape, TopAbs_FACE, TopoDS.Face)


def middle(face: Any) -> np.ndarray:
    """Centre of a face's area, mm."""
    properties = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, properties)
    c = properties.CentreOfMass()
    return np.array([c.X(), c.Y(), c.Z()])


def is_spline(face: Any) -> bool:
    """Whether a face lies on a free surface, of which the centre takes the kernel long to find."""
    return bool(BRepAdaptor_Surface(face).GetType() == GeomAbs_BSplineSurface)


def _place(face: Any) -> np.ndarray:
    """Where a face is, mm, to tell it from others: its middle, or that of a box round it where that is quicker."""
    if not is_spline(face):
        return middle(face)
    box = Bnd_Box()
    BRepBndLib.Add_s(face, box, False)
    low, high = box.CornerMin(), box.CornerMax()
    return np.array([low.X() + high.X(), low.Y() + high.Y(), low.Z() + high.Z()]) / 2


def outer_middle(face: Any) -> np.ndarray:
    """Centre of the area within a flat face's outer boundary, mm: holes in it do not move that."""
    if sum(1 for _ in each(face, TopAbs_WIRE, TopoDS.Wire)) == 1:
        return middle(face)
    whole = BRepBuilderAPI_MakeFace(BRepAdaptor_Surface(face).Plane(), BRepTools.OuterWire_s(face), True)
    return middle(whole.Face() if whole.IsDone() else face)


def normal_at(face: Any, point: gp_Pnt | None = None) -> np.ndarray:
    """The outward normal (3,) of a face at a point on it; of a plane anywhere."""
    surface = BRepAdaptor_Surface(face)
    if surface.GetType() == GeomAbs_Plane:
        d = surface.Plane().Axis().Direction()
        n = np.array([d.X(), d.Y(), d.Z()])
        if not surface.Plane().Direct():
            n = -n
    else:
        from OCP.BRep import BRep_Tool
        from OCP.ShapeAnalysis import ShapeAnalysis_Surface

        uv = ShapeAnalysis_Surface(BRep_Tool.Surface_s(face)).ValueOfUV(point, 1e-6)
        d = GeomLProp_SLProps(BRep_Tool.Surface_s(face), uv.X(), uv.Y(), 1, 1e-9).Normal()
        n = np.array([d.X(), d.Y(), d.Z()])
    return -n if face.Orientation() == TopAbs_REVERSED else n


def is_outward(face: Any) -> bool:
    surface = BRepAdaptor_Surface(face)
    u, v = (
        (surface.FirstUParameter() + surface.LastUParameter()) / 2,
        (surface.FirstVParameter() + surface.LastVParameter()) / 2,
    )
    p = surface.Value(u, v)
    axis = surface.Cylinder().Axis()
    off = np.array([p.X() - axis.Location().X(), p.Y() - axis.Location().Y(), p.Z() - axis.Location().Z()])
    d = np.array([axis.Direction().X(), axis.Direction().Y(), axis.Direction().Z()])
    return bool((off - (off @ d) * d) @ normal_at(face, p) > 0)


def reach(shape: Any) -> float:
    """Longest way through a shape's box, mm."""
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    return float(np.sqrt(box.SquareExtent()))


def pieces(shape: Any) -> int:
    """How many solids a shape is made of."""
    return len(each(shape, TopAbs_SOLID, TopoDS.Solid))


def volume(shape: Any) -> float:
    """mm3"""
    properties = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, properties)
    return float(properties.Mass())


def meeting(shape: Any) -> list[tuple[Any, list[Any]]]:
    """Every edge with the two faces that meet there; a seam of one face is left out."""
    faces: dict[int, tuple[Any, list[Any]]] = {}
    for face in each(shape, TopAbs_FACE, TopoDS.Face):
        for edge in each(face, TopAbs_EDGE, TopoDS.Edge):
            faces.setdefault(hash(edge), (edge, []))[1].append(face)
    return [(e, f) for e, f in faces.values() if len(f) == 2 and not f[0].IsSame(f[1])]


def joined(partial: PartialSolid, tools: list[Tool]) -> PartialSolid:
    """The part with tools added, or cut out of it."""
    if partial.shape is None:
        first, *tools = tools
        partial = PartialSolid(first.shape, first.names, partial.tools)
        if not tools:
            return partial
    adds = tools[0].adds
    maker = (BRepAlgoAPI_Fuse if adds else BRepAlgoAPI_Cut)()
    arguments, others = List_TopoDS_Shape(), List_TopoDS_Shape()
    arguments.Append(partial.shape)
    for tool in tools:
        others.Append(tool.shape)
    maker.SetArguments(arguments)
    maker.SetTools(others)
    if all(tool.stands for tool in tools):
        maker.SetGlue(BOPAlgo_GlueEnum.BOPAlgo_GlueShift)
    maker.Build()
    if not maker.IsDone():
        raise StepFailed("it cannot be joined with what is there")
    shape = maker.Shape()
    names = Names([*partial.names, *(pair for tool in tools for pair in tool.names)])
    if not each(shape, TopAbs_SOLID, TopoDS.Solid):
        raise StepFailed("nothing is left of the part")
    return PartialSolid(shape, names.followed(maker, faces_of(shape)), partial.tools, marks=partial.marks)


def frame_of(partial: PartialSolid, plane: dict[str, Any]) -> Frame:
    """The frame on a plane: origin, x, y and normal. On a face, the origin is the part's own moved squarely onto it."""
    if plane.get("face") in partial.marks:
        return partial.marks[plane["face"]].moved(plane.get("offset", 0.0) * MM)
    if "face" in plane:
        face = partial.face(plane["face"])
        surface = BRepAdaptor_Surface(face)
        if surface.GetType() != GeomAbs_Plane:
            raise StepFailed(f"face {plane['face']} is not flat")
        n = normal_at(face)
        foot = float(middle(face) @ n)
        x, origin = face_axes(n)[0], n * foot
    else:
        x, n = (np.array(v, dtype=float) for v in BASES[plane["base"]])
        origin = np.zeros(3)
    return Frame(origin + n * plane.get("offset", 0.0) * MM, x, np.cross(n, x), n)


def bare(name: str) -> str:
    return name.replace(".", "_")
