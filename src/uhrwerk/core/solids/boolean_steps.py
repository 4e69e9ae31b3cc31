"""Build steps that add or take away: the tools that an outline, a turn or a hole makes, and what they do to the part."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex, BRepBuilderAPI_Transform
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.GeomAbs import GeomAbs_Cylinder, GeomAbs_Plane
from OCP.gp import gp_Ax1, gp_Dir, gp_Pln, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE
from OCP.TopoDS import TopoDS
from scipy.spatial.transform import Rotation

from uhrwerk.core.solids.face_names import Names
from uhrwerk.core.solids.partial_solid import (
    PartialSolid,
    StepFailed,
    Tool,
    bare,
    each,
    frame_of,
    is_outward,
    joined,
    middle,
    normal_at,
    reach,
    volume,
)
from uhrwerk.core.solids.recipe import COMBINED, Step
from uhrwerk.core.solids.wires import MM, Frame, flat_faces, rim


def _outline(partial: PartialSolid, data: dict[str, Any]) -> dict[str, Any]:
    """An outline with what it takes from faces filled in: those of the part as it is now, or of another."""
    if "rim" in data:
        rim = data["rim"]
        of = rim.get("part", partial)
        return {"given": (of.face(rim["face"]), frame_of(of, {"face": rim["face"]})), **rim}
    if "offset" in data:
        return data | {"offset": _outline(partial, data["offset"])}
    for how in COMBINED:
        if how in data:
            return {how: [_outline(partial, one) for one in data[how]]}
    return data


def _over(over: dict[str, Any]) -> list[tuple[float, float]]:
    """Where another part's bores lie on one of its faces, m, in the order of their names."""
    of: PartialSolid = over["part"]
    frame, face = frame_of(of, {"face": over["face"]}), of.face(over["face"])
    around = {hash(e) for e in each(face, TopAbs_EDGE, TopoDS.Edge)}
    places = []
    for one, name in of.numbered():
        surface = BRepAdaptor_Surface(TopoDS.Face(one))
        if surface.GetType() != GeomAbs_Cylinder or is_outward(TopoDS.Face(one)):
            continue
        if around & {hash(e) for e in each(one, TopAbs_EDGE, TopoDS.Edge)}:
            p = surface.Cylinder().Axis().Location()
            off = np.array([p.X(), p.Y(), p.Z()]) - frame.origin
            places.append((name, (float(off @ frame.x) / MM, float(off @ frame.y) / MM)))
    if not places:
        raise StepFailed(f"there is no bore in face {over['face']} of that part")
    return [place for _, place in sorted(places)]


def _ends(partial: PartialSolid, step: Step, frame: Frame, inward: bool) -> tuple[float, float]:
    """From where to where along the plane's normal a step reaches, mm."""
    far = 1.05 * reach(partial.shape) + 1.0 if partial.shape is not None else 0.0
    if step.get("through"):
        if partial.shape is None:
            raise StepFailed("there is nothing to go through yet")
        return (
            (-far, 0.0)
            if "face" in step["plane"] and step["plane"]["face"] not in partial.marks  # into the part
            else (-far - abs(frame.origin @ frame.n), far + abs(frame.origin @ frame.n))
        )
    if step.get("to"):
        face = partial.face(step["to"])
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


def _flat(partial: PartialSolid, step: Step, frame: Frame) -> list[tuple[Any, Names]]:
    """The faces of a step's outline on a plane, one for each piece of it."""
    try:
        return flat_faces(_outline(partial, step["outline"]), frame)
    except ValueError as error:
        raise StepFailed(str(error)) from error


def _prism(partial: PartialSolid, step: Step, adds: bool) -> list[Tool]:
    frame = frame_of(partial, step["plane"])
    low, high = _ends(partial, step, frame, not adds)
    if step.get("taper") and step.get("both"):
        flats, ways = _flat(partial, step, frame), ((low, "start"), (high, "end"))
        return [_half(step, flat, frame, far, end, adds) for far, end in ways for flat in flats]
    start_high = (not adds and low < 0 and not step.get("both")) or high <= 0
    base = frame.moved(high if start_high else low)
    way = frame.n * ((low - high) if start_high else (high - low))
    return [_whole(step, flat, base, way, adds) for flat in _flat(partial, step, base)]


def _whole(step: Step, flat: tuple[Any, Names], base: Frame, way: Any, adds: bool) -> Tool:
    """What one piece of an outline sweeps from its plane on."""
    face, roles = flat
    maker = BRepPrimAPI_MakePrism(face, gp_Vec(*way))
    ends = Names([(maker.FirstShape(), "start"), (maker.LastShape(), "end")])
    sides = Names((f, role) for edge, role in roles for f in maker.Generated(edge))
    shape = maker.Shape()
    if step.get("taper"):
        shape, ends, sides = _tapered(shape, ends, sides, base, way, step["taper"])
    return Tool(shape, Names((f, f"{step['id']}.{role}") for f, role in [*ends, *sides]), adds)


def _half(step: Step, flat: tuple[Any, Names], frame: Frame, far: float, end: str, adds: bool) -> Tool:
    """What one piece of an outline sweeps to one side of its plane, tapered from there; `end` names its far face."""
    face, roles = flat
    maker = BRepPrimAPI_MakePrism(face, gp_Vec(*(frame.n * far)))
    ends = Names([(maker.LastShape(), end)])
    sides = Names((f, role) for edge, role in roles for f in maker.Generated(edge))
    shape, ends, sides = _tapered(maker.Shape(), ends, sides, frame, frame.n * far, step["taper"])
    return Tool(shape, Names((f, f"{step['id']}.{role}") for f, role in [*ends, *sides]), adds)


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
    return maker.Shape(), names_after_taper(maker, ends), names_after_taper(maker, sides)


def names_after_taper(maker: Any, names: Names) -> Names:
    """Names after a taper, which gives every face anew."""
    return Names((maker.ModifiedShape(face), name) for face, name in names)


def _swept(maker: Any, roles: Names) -> list[tuple[Any, str]]:
    """The faces that edges sweep out, with the edges' roles. For an edge square to the axis the kernel does not tell: its
    face is the one of this sweep on which it lies."""
    pairs, silent = [], []
    for edge, role in roles:
        faces = list(maker.Generated(edge))
        pairs += [(f, role) for f in faces]
        silent += [] if faces else [(edge, role)]
    names = Names(pairs)
    free = [f for f in each(maker.Shape(), TopAbs_FACE, TopoDS.Face) if f not in names]
    for edge, role in silent:
        curve = BRepAdaptor_Curve(TopoDS.Edge(edge))
        at = BRepBuilderAPI_MakeVertex(curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)).Vertex()
        pairs += [(f, role) for f in free if BRepExtrema_DistShapeShape(at, f).Value() < 1e-6]
    return pairs


def _revolved(partial: PartialSolid, step: Step, adds: bool) -> list[Tool]:
    frame = frame_of(partial, step["plane"])
    along = frame.x if step["axis"] == "x" else frame.y
    across = frame.y if step["axis"] == "x" else frame.x
    origin = frame.origin + across * step.get("axis_offset", 0.0) * MM
    axis = gp_Ax1(gp_Pnt(*origin), gp_Dir(*along))
    angle = step["angle"]
    whole = angle > 2 * np.pi - 1e-9
    tools = []
    for face, roles in _flat(partial, step, frame):
        maker = BRepPrimAPI_MakeRevol(face, axis) if whole else BRepPrimAPI_MakeRevol(face, axis, angle)
        names = _swept(maker, roles)
        if not whole:
            names += [(maker.FirstShape(), "start"), (maker.LastShape(), "end")]
        tools.append(Tool(maker.Shape(), Names((f, f"{step['id']}.{role}") for f, role in names), adds))
    return tools


def _holes(partial: PartialSolid, step: Step) -> list[Tool]:
    """A tool for each place: its profile turned about its axis. `profile` is [[radius, depth, role], ...], the role that of
    the face which leads there; the last depth is None where it goes through."""
    frame = frame_of(partial, step["plane"])
    deepest = 1.05 * reach(partial.shape) + 1.0 if partial.shape is not None else 0.0
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


def added(partial: PartialSolid, step: Step) -> PartialSolid:
    return _with_tools(partial, step, _prism(partial, step, True))


def cut(partial: PartialSolid, step: Step) -> PartialSolid:
    return _with_tools(partial, step, _prism(partial, step, False))


def turned(partial: PartialSolid, step: Step) -> PartialSolid:
    return _with_tools(partial, step, _revolved(partial, step, step["adds"]))


def drilled(partial: PartialSolid, step: Step) -> PartialSolid:
    return _with_tools(partial, step, _holes(partial, step))


def _with_tools(partial: PartialSolid, step: Step, tools: list[Tool]) -> PartialSolid:
    if partial.shape is None and not tools[0].adds:
        raise StepFailed("there is nothing to cut yet")
    after = joined(partial, tools)
    size = volume(after.shape)
    if abs(size - partial.volume) < 1e-9 * max(partial.volume, 1e-9):
        raise StepFailed(
            "it does not meet the part" if not tools[0].adds else "it lies within the part and adds nothing"
        )
    return PartialSolid(after.shape, after.names, {**partial.tools, step["id"]: tools}, volume=size)


def _move(partial: PartialSolid, move: Any) -> np.ndarray:
    """(3, 4) rows of a move, mm: as they stand, m; turned about an axis; or mirrored behind a plane."""
    if isinstance(move, list):
        m = np.array(move, dtype=float)
        m[:, 3] *= MM
        return m
    if "behind" in move:
        frame = frame_of(partial, {"face": move["behind"], "offset": move["offset"]})
        turn, foot = np.eye(3) - 2 * np.outer(frame.n, frame.n), frame.origin
    else:
        foot, axis = _axis(partial, move["about"])
        turn = Rotation.from_rotvec(move["angle"] * axis).as_matrix()
    return np.column_stack([turn, foot - turn @ foot])


def _axis(partial: PartialSolid, name: str) -> tuple[np.ndarray, np.ndarray]:
    """A place on the axis of a round face, or of an axis that a step stated, mm, and its direction."""
    if name in partial.marks:
        return partial.marks[name].origin, partial.marks[name].n
    surface = BRepAdaptor_Surface(partial.face(name))
    if surface.GetType() != GeomAbs_Cylinder:
        raise StepFailed(f"face {name} is not round")
    at, along = surface.Cylinder().Axis().Location(), surface.Cylinder().Axis().Direction()
    return np.array([at.X(), at.Y(), at.Z()]), np.array([along.X(), along.Y(), along.Z()])


def again(partial: PartialSolid, step: Step) -> PartialSolid:
    """Tools of earlier steps once more, moved."""
    for one in step["of"]:
        if one not in partial.tools:
            raise StepFailed(f"{one} is not an earlier step that adds or takes away")
        repeated = []
        for k, move in enumerate(step["moves"], 2):
            t = gp_Trsf()
            m = _move(partial, move)
            t.SetValues(*m.ravel())
            for tool in partial.tools[one]:
                maker = BRepBuilderAPI_Transform(tool.shape, t, True)
                names = Names((maker.ModifiedShape(f), f"{step['id']}.{bare(name)}_{k}") for f, name in tool.names)
                repeated.append(Tool(maker.Shape(), names, tool.adds))
        partial = _with_tools(partial, {"id": f"{step['id']}.{one}"}, repeated)
    return partial
