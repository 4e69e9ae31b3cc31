"""Carrying out build steps on the kernel's shape, with the name of every face followed through the kernel's own history.

A face is named by the step that made it and its role there, such as ``groove.side_2``: never by where it lies or by count.
A step without an id is carried out without names, which is quicker; elements alone are built so.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Builder
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex, BRepBuilderAPI_Transform
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepGProp import BRepGProp
from OCP.BRepOffset import BRepOffset_Skin
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle, BRepOffsetAPI_MakeThickSolid
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.BRepTools import BRepTools
from OCP.collections import List_TopoDS_Shape
from OCP.GeomAbs import GeomAbs_Cylinder, GeomAbs_Intersection, GeomAbs_Plane
from OCP.GeomLProp import GeomLProp_SLProps
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pln, gp_Pnt, gp_Trsf, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_SOLID, TopAbs_VERTEX
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Compound

from uhrwerk.core.solids.datum import BASES, face_axes
from uhrwerk.core.solids.named import Names
from uhrwerk.core.solids.recipe import Step
from uhrwerk.core.solids.wires import MM, Frame, flat_face, rim

#: overlap of what is added or cut with what is there, mm
LAP = 1e-3
#: faces that meet at less than this (sine of the angle) are smooth there: no edge to be rounded
SMOOTH = 0.02


class StepFailed(ValueError):
    """The kernel could not carry out a build step; says which, and why where that is known."""


@dataclass
class Tool:
    """What a step adds or cuts, before it meets the part: for steps that do it again."""

    shape: Any
    names: Names
    adds: bool


@dataclass
class Made:
    """A shape on its way: `names` tells of each face the name that it was made with; `tools` are those of earlier steps;
    `gone` names the step that took a face."""

    shape: Any = None
    names: Names = field(default_factory=Names)
    tools: dict[str, list[Tool]] = field(default_factory=dict)
    gone: dict[str, str] = field(default_factory=dict)
    volume: float = 0.0  # mm3

    def numbered(self) -> Names:
        """Every face's own name: where a face was split, its pieces are told apart by their order along x, y, z."""
        by_name: dict[str, list[Any]] = {}
        for face in each(self.shape, TopAbs_FACE, TopoDS.Face):
            if face in self.names:
                by_name.setdefault(self.names.get(face), []).append(face)
        out = Names()
        for name, faces in by_name.items():
            if len(faces) > 1:
                faces.sort(key=lambda f: tuple(np.round(middle(f), 6)))
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
    found, explorer = [], TopExp_Explorer(shape, kind)
    while explorer.More():
        found.append(cast(explorer.Current()))
        explorer.Next()
    return found


def faces_of(shape: Any) -> list[Any]:
    return each(shape, TopAbs_FACE, TopoDS.Face)


def middle(face: Any) -> np.ndarray:
    """Centre of a face's area, mm."""
    properties = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, properties)
    c = properties.CentreOfMass()
    return np.array([c.X(), c.Y(), c.Z()])


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


def reach(shape: Any) -> float:
    """Longest way through a shape's box, mm."""
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    return float(np.sqrt(box.SquareExtent()))


# histories


def joined(made: Made, tools: list[Tool]) -> Made:
    """The part with tools added, or cut out of it."""
    if made.shape is None:
        first, *tools = tools
        made = Made(first.shape, first.names, made.tools)
        if not tools:
            return made
    adds = tools[0].adds
    maker = (BRepAlgoAPI_Fuse if adds else BRepAlgoAPI_Cut)()
    arguments, others = List_TopoDS_Shape(), List_TopoDS_Shape()
    arguments.Append(made.shape)
    for tool in tools:
        others.Append(tool.shape)
    maker.SetArguments(arguments)
    maker.SetTools(others)
    maker.Build()
    if not maker.IsDone():
        raise StepFailed("it cannot be joined with what is there")
    shape = maker.Shape()
    names = Names([*made.names, *(pair for tool in tools for pair in tool.names)])
    if not each(shape, TopAbs_SOLID, TopoDS.Solid):
        raise StepFailed("nothing is left of the part")
    return Made(shape, names.followed(maker, faces_of(shape)), made.tools)


# planes


def frame_of(made: Made, plane: dict[str, Any]) -> Frame:
    """The frame on a plane: origin, x, y and normal. On a face, the origin is the part's own moved squarely onto it."""
    if "face" in plane:
        face = made.face(plane["face"])
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


# neighbours


def neighbour(steps: list[Step]) -> Made:
    """Another part, from its steps; the kernel's own module puts its kept ones here."""
    raise NotImplementedError


def _outline(made: Made, data: dict[str, Any]) -> dict[str, Any]:
    """An outline with what it takes from faces filled in: those of the part as it is now, or of another."""
    if "rim" in data:
        rim = data["rim"]
        of = neighbour(rim["steps"]) if "steps" in rim else made
        return {"given": (of.face(rim["face"]), frame_of(of, {"face": rim["face"]})), **rim}
    for how in ("sum", "less"):
        if how in data:
            return {how: [_outline(made, one) for one in data[how]]}
    return data


def _over(over: dict[str, Any]) -> list[tuple[float, float]]:
    """Where another part's bores lie on one of its faces, m, in the order of their names."""
    of = neighbour(over["steps"])
    frame, face = frame_of(of, {"face": over["face"]}), of.face(over["face"])
    around = {hash(e) for e in each(face, TopAbs_EDGE, TopoDS.Edge)}
    found = []
    for one, name in of.numbered():
        surface = BRepAdaptor_Surface(TopoDS.Face(one))
        if surface.GetType() != GeomAbs_Cylinder or is_outward(TopoDS.Face(one)):
            continue
        if around & {hash(e) for e in each(one, TopAbs_EDGE, TopoDS.Edge)}:
            p = surface.Cylinder().Axis().Location()
            off = np.array([p.X(), p.Y(), p.Z()]) - frame.origin
            found.append((name, (float(off @ frame.x) / MM, float(off @ frame.y) / MM)))
    if not found:
        raise StepFailed(f"there is no bore in face {over['face']} of that part")
    return [place for _, place in sorted(found)]


# tools


def _ends(made: Made, step: Step, frame: Frame, inward: bool) -> tuple[float, float]:
    """From where to where along the plane's normal a step reaches, mm."""
    far = 1.05 * reach(made.shape) + 1.0 if made.shape is not None else 0.0
    if step.get("through"):
        if made.shape is None:
            raise StepFailed("there is nothing to go through yet")
        return (
            (-far, 0.0)
            if "face" in step["plane"]
            else (-far - abs(frame.origin @ frame.n), far + abs(frame.origin @ frame.n))
        )
    if step.get("to"):
        face = made.face(step["to"])
        if (
            BRepAdaptor_Surface(face).GetType() != GeomAbs_Plane
            or np.linalg.norm(np.cross(normal_at(face), frame.n)) > 1e-9
        ):
            raise StepFailed(f"face {step['to']} does not lie along its plane")
        length = float((middle(face) - frame.origin) @ frame.n)
        if abs(length) < 1e-7:
            raise StepFailed(f"face {step['to']} lies in its plane")
        return min(0.0, length), max(0.0, length)
    length = step["length"] * MM
    if step.get("both"):
        return -length / 2, length / 2
    return (-length, 0.0) if inward else (0.0, length)


def _flat(made: Made, step: Step, frame: Frame) -> tuple[Any, Names]:
    try:
        return flat_face(_outline(made, step["outline"]), frame)
    except ValueError as error:
        raise StepFailed(str(error)) from error


def _prism(made: Made, step: Step, adds: bool) -> list[Tool]:
    frame = frame_of(made, step["plane"])
    low, high = _ends(made, step, frame, not adds)
    start_high = (not adds and low < 0 and not step.get("both")) or high <= 0
    base = frame.moved(high if start_high else low)
    face, roles = _flat(made, step, base)
    way = frame.n * ((low - high) if start_high else (high - low))
    maker = BRepPrimAPI_MakePrism(face, gp_Vec(*way))
    ends = Names([(maker.FirstShape(), "start"), (maker.LastShape(), "end")])
    sides = Names((f, role) for edge, role in roles for f in maker.Generated(edge))
    shape = maker.Shape()
    if step.get("taper"):
        shape, ends, sides = _tapered(shape, ends, sides, base, way, step["taper"])
    return [Tool(shape, Names((f, f"{step['id']}.{role}") for f, role in [*ends, *sides]), adds)]


def _tapered(shape: Any, ends: Names, sides: Names, base: Frame, way: Any, angle: float) -> tuple[Any, Names, Names]:
    along = way / np.linalg.norm(way)
    maker = BRepOffsetAPI_DraftAngle(shape)
    plane = gp_Pln(gp_Pnt(*base.origin), gp_Dir(*base.n))
    for face, _ in sides:
        maker.Add(TopoDS.Face(face), gp_Dir(*along), angle, plane)
        if not maker.AddDone():
            raise StepFailed("its sides cannot be tapered")
    maker.Build()
    if not maker.IsDone():
        raise StepFailed("its taper is too large")
    return maker.Shape(), _drawn(maker, ends), _drawn(maker, sides)


def _drawn(maker: Any, names: Names) -> Names:
    """Names after a taper, which gives every face anew."""
    return Names((maker.ModifiedShape(face), name) for face, name in names)


def _swept(maker: Any, roles: Names) -> list[tuple[Any, str]]:
    """The faces that edges sweep out, with the edges' roles. For an edge square to the axis the kernel does not tell: its
    face is the one of this sweep on which it lies."""
    found, silent = [], []
    for edge, role in roles:
        faces = list(maker.Generated(edge))
        found += [(f, role) for f in faces]
        silent += [] if faces else [(edge, role)]
    told = Names(found)
    free = [f for f in each(maker.Shape(), TopAbs_FACE, TopoDS.Face) if f not in told]
    for edge, role in silent:
        curve = BRepAdaptor_Curve(TopoDS.Edge(edge))
        at = BRepBuilderAPI_MakeVertex(curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)).Vertex()
        found += [(f, role) for f in free if BRepExtrema_DistShapeShape(at, f).Value() < 1e-6]
    return found


def _revolved(made: Made, step: Step, adds: bool) -> list[Tool]:
    frame = frame_of(made, step["plane"])
    face, roles = _flat(made, step, frame)
    along = frame.x if step["axis"] == "x" else frame.y
    across = frame.y if step["axis"] == "x" else frame.x
    origin = frame.origin + across * step.get("axis_offset", 0.0) * MM
    axis = gp_Ax1(gp_Pnt(*origin), gp_Dir(*along))
    angle = step["angle"]
    whole = angle > 2 * np.pi - 1e-9
    maker = BRepPrimAPI_MakeRevol(face, axis) if whole else BRepPrimAPI_MakeRevol(face, axis, angle)
    names = _swept(maker, roles)
    if not whole:
        names += [(maker.FirstShape(), "start"), (maker.LastShape(), "end")]
    return [Tool(maker.Shape(), Names((f, f"{step['id']}.{role}") for f, role in names), adds)]


def _holes(made: Made, step: Step) -> list[Tool]:
    """A tool for each place: its profile turned about its axis. `profile` is [[radius, depth, role], ...], the role that of
    the face which leads there; the last depth is None where it goes through."""
    frame = frame_of(made, step["plane"])
    deepest = 1.05 * reach(made.shape) + 1.0 if made.shape is not None else 0.0
    tools = []
    places = _over(step["places"]["over"]) if isinstance(step["places"], dict) else step["places"]
    for k, (x, y) in enumerate(places, 1):
        foot = frame.at(x, y)
        corners = [(r * MM, deepest if d is None else d * MM, role) for r, d, role in step["profile"]]
        across = Frame(foot, frame.x, -frame.n, np.cross(frame.x, -frame.n))
        face, roles = rim(across, corners)
        maker = BRepPrimAPI_MakeRevol(face, gp_Ax1(gp_Pnt(*foot), gp_Dir(*frame.n)))
        names = Names((f, f"{step['id']}.{role}_{k}") for f, role in _swept(maker, roles))
        tools.append(Tool(maker.Shape(), names, False))
    return tools


# steps


def _added(made: Made, step: Step) -> Made:
    return _with_tools(made, step, _prism(made, step, True))


def _cut(made: Made, step: Step) -> Made:
    return _with_tools(made, step, _prism(made, step, False))


def _turned(made: Made, step: Step) -> Made:
    return _with_tools(made, step, _revolved(made, step, step["adds"]))


def _drilled(made: Made, step: Step) -> Made:
    return _with_tools(made, step, _holes(made, step))


def _with_tools(made: Made, step: Step, tools: list[Tool]) -> Made:
    if made.shape is None and not tools[0].adds:
        raise StepFailed("there is nothing to cut yet")
    after = joined(made, tools)
    size = volume(after.shape)
    if abs(size - made.volume) < 1e-9 * max(made.volume, 1e-9):
        raise StepFailed(
            "it does not meet the part" if not tools[0].adds else "it lies within the part and adds nothing"
        )
    return Made(after.shape, after.names, {**made.tools, step["id"]: tools}, volume=size)


def _again(made: Made, step: Step) -> Made:
    """Tools of earlier steps once more, moved; `moves` are 3 x 4 matrices, m."""
    for one in step["of"]:
        if one not in made.tools:
            raise StepFailed(f"{one} is no earlier step that adds or takes away")
        repeated = []
        for k, move in enumerate(step["moves"], 2):
            t = gp_Trsf()
            m = np.array(move, dtype=float)
            m[:, 3] *= MM
            t.SetValues(*m.ravel())
            for tool in made.tools[one]:
                maker = BRepBuilderAPI_Transform(tool.shape, t, True)
                names = Names((maker.ModifiedShape(f), f"{step['id']}.{_bare(name)}_{k}") for f, name in tool.names)
                repeated.append(Tool(maker.Shape(), names, tool.adds))
        made = _with_tools(made, {"id": f"{step['id']}.{one}"}, repeated)
    return made


def _edges(made: Made, step: Step) -> Made:
    own, size = step["id"], step["size"] * MM
    between = meeting(made.shape)
    names = made.numbered()
    chosen = [e for e, faces in between if _fits(e, faces, names, step)]
    if not chosen:
        raise StepFailed("no edge is chosen by it")
    rounds = step["how"] == "round"
    maker = BRepFilletAPI_MakeFillet(made.shape) if rounds else BRepFilletAPI_MakeChamfer(made.shape)
    for edge in chosen:
        if maker.Contour(edge) == 0:
            maker.Add(size, edge)
    try:
        maker.Build()
    except Exception as error:
        raise StepFailed("its size is too large for these edges") from error
    if not maker.IsDone():
        raise StepFailed("its size is too large for these edges")
    out = made.names.followed(maker, faces_of(maker.Shape()))
    for edge, faces in between:
        pair = sorted({_bare(names.get(f, "face")) for f in faces})
        for f in maker.Generated(edge):
            out.add(f, f"{own}.{'_'.join(pair)}")
    for vertex, faces in _corners(made.shape):
        around = "_".join(sorted({_bare(names.get(f, "face")) for f in faces}))
        for f in maker.Generated(vertex):
            out.add(f, f"{own}.{around}")
    return Made(maker.Shape(), out, made.tools)


def _bare(name: str) -> str:
    return name.replace(".", "_")


def _corners(shape: Any) -> list[tuple[Any, list[Any]]]:
    """Every corner with the faces that meet there."""
    found: dict[int, tuple[Any, list[Any]]] = {}
    for face in each(shape, TopAbs_FACE, TopoDS.Face):
        for vertex in each(face, TopAbs_VERTEX, TopoDS.Vertex):
            faces = found.setdefault(hash(vertex), (vertex, []))[1]
            if face not in faces:
                faces.append(face)
    return list(found.values())


def meeting(shape: Any) -> list[tuple[Any, list[Any]]]:
    """Every edge with the two faces that meet there; a seam of one face is left out."""
    found: dict[int, tuple[Any, list[Any]]] = {}
    for face in each(shape, TopAbs_FACE, TopoDS.Face):
        for edge in each(face, TopAbs_EDGE, TopoDS.Edge):
            found.setdefault(hash(edge), (edge, []))[1].append(face)
    return [(e, f) for e, f in found.values() if len(f) == 2 and not f[0].IsSame(f[1])]


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


def _hollowed(made: Made, step: Step) -> Made:
    closing = List_TopoDS_Shape()
    for name in step["open"]:
        closing.Append(made.face(name))
    maker = BRepOffsetAPI_MakeThickSolid()
    names = made.numbered()
    maker.MakeThickSolidByJoin(
        made.shape, closing, -step["wall"] * MM, 1e-4, BRepOffset_Skin, False, False, GeomAbs_Intersection
    )
    if not maker.IsDone():
        raise StepFailed("its wall is too thick for this part")
    out = made.names.followed(maker, faces_of(maker.Shape()))
    inner = [(f, name) for face, name in names for f in maker.Generated(face)]
    for f, name in inner:
        out.add(f, f"{step['id']}.{_bare(name)}")
    _check_wall(made, step, [f for f, _ in inner])
    return Made(maker.Shape(), out, made.tools)


def _check_wall(made: Made, step: Step, inner: list[Any]) -> None:
    """Every corner of the inside must lie a wall's thickness from the faces outside: where the shape is intricate, the kernel
    gives solids that close and yet are wrong."""
    outer, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(outer)
    for face, name in made.numbered():
        if name not in step["open"]:
            builder.Add(outer, face)
    wall = step["wall"] * MM
    for vertex in _once([v for f in inner for v in each(f, TopAbs_VERTEX, TopoDS.Vertex)]):
        if abs(BRepExtrema_DistShapeShape(vertex, outer).Value() - wall) > 1e-3:
            raise StepFailed("its wall would be of another thickness somewhere: the part is too intricate there")


def _once(shapes: list[Any]) -> list[Any]:
    return list({hash(s): s for s in shapes}.values())


def _moved_face(made: Made, step: Step) -> Made:
    """A plane moved along its normal, or a cylinder made larger or smaller, by adding or cutting what lies between."""
    face, by, own = made.face(step["face"]), step["by"] * MM, step["id"]
    surface = BRepAdaptor_Surface(face)
    name = made.names.get(face)
    if surface.GetType() == GeomAbs_Plane:
        maker = BRepPrimAPI_MakePrism(face, gp_Vec(*(normal_at(face) * by)))
        names = Names([(maker.LastShape(), name)])
        for edge in each(face, TopAbs_EDGE, TopoDS.Edge):
            beside = next((f for f in _meeting_at(made.shape, edge) if not f.IsSame(face)), face)
            for f in maker.Generated(edge):
                names.add(f, made.names.get(beside, f"{own}.side"))
        return joined(made, [Tool(maker.Shape(), names, by > 0)])
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
        return joined(made, [Tool(shape, names, outward == more)])
    raise StepFailed(f"face {step['face']} is neither flat nor round")


def _meeting_at(shape: Any, edge: Any) -> list[Any]:
    return next((faces for e, faces in meeting(shape) if e.IsSame(edge)), [])


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


def _drafted(made: Made, step: Step) -> Made:
    neutral = made.face(step["neutral"])
    if BRepAdaptor_Surface(neutral).GetType() != GeomAbs_Plane:
        raise StepFailed(f"face {step['neutral']} is not flat")
    n, origin = normal_at(neutral), middle(neutral)
    maker = BRepOffsetAPI_DraftAngle(made.shape)
    plane = gp_Pln(gp_Pnt(*origin), gp_Dir(*n))
    for name in step["faces"]:
        maker.Add(made.face(name), gp_Dir(*(-n)), step["angle"], plane)
        if not maker.AddDone():
            raise StepFailed(f"face {name} cannot be tapered from there")
    maker.Build()
    if not maker.IsDone():
        raise StepFailed("its angle is too large")
    return Made(maker.Shape(), _drawn(maker, made.names), made.tools)


STEPS: dict[str, Callable[[Made, Step], Made]] = {
    "add": _added, "take": _cut, "turn": _turned, "holes": _drilled, "again": _again, "edges": _edges, "hollow": _hollowed,
    "move_face": _moved_face, "draft": _drafted,
}  # fmt: skip


def volume(shape: Any) -> float:
    """mm3"""
    properties = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, properties)
    return float(properties.Mass())


#: what is said of a step after which the solid is not sound; asked of the last step, and of those before only if that is not
UNCLOSED = "it does not give a closed solid with these dimensions"


def shaped(made: Made, step: Step) -> Made:
    """The part after one build step. StepFailed, in a designer's words, where it cannot be carried out."""
    try:
        after = STEPS[step["do"]](made, step)
    except StepFailed:
        raise
    except Exception as error:  # the kernel raises many kinds
        raise StepFailed("the kernel cannot make it with these dimensions") from error
    size = after.volume or volume(after.shape)
    if size <= 0:
        raise StepFailed(UNCLOSED)
    if len(each(after.shape, TopAbs_SOLID, TopoDS.Solid)) != 1:
        raise StepFailed("the part would fall into several pieces")
    BRepTools.Clean_s(after.shape)
    new = [f for f in each(after.shape, TopAbs_FACE, TopoDS.Face) if f not in after.names]
    names = Names([*after.names, *((f, f"{step['id']}.face") for f in new)])
    after = Made(after.shape, names, after.tools, made.gone, size)
    now = {name for _, name in after.numbered()}
    return replace(after, gone={**made.gone, **{n: step["id"] for _, n in made.numbered() if n not in now}})
