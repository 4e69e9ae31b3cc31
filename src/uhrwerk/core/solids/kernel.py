"""The B-rep kernel (Open CASCADE) behind plain data. Only worker processes import this module.

The kernel works in millimetres, where its tolerance of 1e-7 is 0.1 nanometre; metres go in and come out.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_Transform
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_SurfaceOfExtrusion
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Quaternion, gp_Trsf, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.IMeshTools import IMeshTools_Parameters
from OCP.Message import Message
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_WIRE
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids import tooling
from uhrwerk.core.solids.contents import read_in, triangles_unpacked, unpacked
from uhrwerk.core.solids.made import Made, NotDivided, StepFailed, Tool, each, faces_of, joined, outer_middle, volume
from uhrwerk.core.solids.named import Names
from uhrwerk.core.solids.recipe import DEVIATION, Recipe, Step
from uhrwerk.core.solids.shaping import STEPS, UNCLOSED, shaped
from uhrwerk.core.solids.solid import Body, Face, Solid
from uhrwerk.core.solids.triangles import mass_sums, triangle_body
from uhrwerk.core.solids.wires import MM, level, wire

Message.DefaultMessenger_s().ChangePrinters().Clear()  # the kernel has nothing to say on our standard output


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


#: where contents of files are read from; a worker is told
contents = Path()


def _received(step: Step) -> Made:
    """A solid that came from elsewhere."""
    from uhrwerk.core.solids.step_reading import kept_shape

    told, block = _kept(step)
    if told["form"] != "faces":
        raise StepFailed(TRIANGLES)
    shape = kept_shape(block)
    faces = each(shape, TopAbs_FACE, TopoDS.Face)
    if len(told["names"]) != len(faces):
        raise StepFailed("what was kept of its file is broken")
    named = zip(faces, told["names"], strict=True)
    return Made(shape, Names((f, f"{step['id']}.{n}") for f, n in named), volume=volume(shape))


def _carry_out(made: Made, step: Step, own: str) -> Made:
    """An element's own step; its faces get names where `own` is given."""
    if step["do"] == "received":
        return _received(step)
    if step["do"] in ("extrude", "cut"):
        if own or step.get("stands"):
            return joined(made, [_named_prism(step, own)])
        if made.shape is None:
            return Made(_prism(step))
        kind = BRepAlgoAPI_Fuse if step["do"] == "extrude" else BRepAlgoAPI_Cut
        return Made(kind(made.shape, _prism(step)).Shape())
    if step["do"] == "mirror":
        behind = gp_Trsf()
        behind.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)))
        moved = BRepBuilderAPI_Transform(made.shape, behind, True)
        return Made(moved.Shape(), Names((moved.ModifiedShape(f), name) for f, name in made.names))
    maker = (BRepFilletAPI_MakeFillet if step["do"] == "fillet" else BRepFilletAPI_MakeChamfer)(made.shape)
    chosen = _chosen(made.shape, step["edges"])
    for edge in chosen:
        maker.Add(step["size"] * MM, edge)
    shape = maker.Shape()
    names = made.names.followed(maker, faces_of(shape))
    for k, edge in enumerate(chosen if own else [], 1):
        for f in maker.Generated(edge):
            names.add(f, f"{own}.edge_{k}")
    return Made(shape, names)


def at_step(step: str) -> None:
    """Hears of every build step that is begun; a worker tells it on."""


@lru_cache(maxsize=160)
def _made(text: str) -> tuple[Made, tuple[str, str] | None]:
    """One body from its steps as JSON, each carried out on what is kept of those before it; and the id and reason of a
    designer's step that failed: the part is then as it was before that, and what comes after waits."""
    import json

    steps: list[Step] = json.loads(text)
    if not steps:
        return Made(), None
    *before, step = steps
    made, failed = _made(_text(before))
    if step["do"] in STEPS or step["do"] == "nothing":
        if failed is not None or step.get("off"):
            return made, failed
        if "why" in step:
            return made, (step["id"], step["why"])
        at_step(step["id"])
        try:
            return shaped(made, step), None
        except StepFailed as error:
            return made, (step["id"], str(error))
    if step["do"] == "mirror" and made.shape is None:
        return made, failed
    at = len(steps)
    try:
        made = _carry_out(made, step, step.get("id", ""))
        if step.get("id"):
            made = replace(made, volume=volume(made.shape))
    except StepFailed:
        raise
    except Exception as error:  # the kernel raises many kinds; all mean that this step cannot be made
        raise StepFailed(f"build step {at} ({step['do']}) cannot be made with these dimensions") from error
    if step["do"] != "extrude" and not BRepCheck_Analyzer(made.shape).IsValid():
        raise StepFailed(f"build step {at} ({step['do']}) does not give a closed solid with these dimensions")
    return made, failed


def _thread(made: Made, step: Step) -> Made:
    from uhrwerk.core.solids.threading import threaded  # seldom asked

    return threaded(made, step)


STEPS["thread"] = _thread
tooling.neighbour = lambda steps: _made(_text(steps))[0]


def _shape(text: str) -> Any:
    """The kernel's shape of one body."""
    made, failed = _made(text)
    shape = made.shape
    if shape is None:
        raise StepFailed(": ".join(failed) if failed else "it has no build step yet that adds something")
    if not BRepCheck_Analyzer(shape).IsValid():
        raise StepFailed("the dimensions do not give a closed solid")
    return shape


def _text(steps: list[Step]) -> str:
    import json

    return json.dumps(steps, sort_keys=True)


def build(recipe: Recipe) -> Solid:
    """The solid of a recipe: bodies with triangles, faces and mass properties."""
    bodies, failed = {}, None
    for b in recipe["bodies"]:
        bodies[b["name"]], why = _closed_body(b, recipe["deviation"])
        failed = failed or why
    return Solid(bodies, failed)


def _closed_body(b: dict[str, Any], deviation: float) -> tuple[Body, tuple[str, str] | None]:
    """A body, and the designer's step that failed. A step after which the surface does not close (a hole that just touches a
    face, say), or cannot be divided into triangles, is one that failed, though the kernel took it."""
    steps = b["steps"]
    if steps and steps[0]["do"] == "received":
        told, block = _kept(steps[0])
        if told["form"] == "triangles":
            return _of_triangles(b, told["names"], block)
    steps, failed = _sound(steps)
    try:
        body = _body(b["name"], steps, deviation, b["order"])
    except NotDivided as error:
        body, steps, last = _divided(b, steps, deviation, error)
        failed = (last, str(error))
    while any("id" in step for step in steps) and not _closes(body.triangles):
        *steps, last_step = steps
        if last_step["do"] not in STEPS:
            raise StepFailed("its surface does not close with these dimensions")
        failed = (last_step["id"], "it leaves a wall of no thickness, or a surface that does not close")
        body = _body(b["name"], steps, deviation, b["order"])
    return body, failed


def _divided(b: dict[str, Any], steps: list[Step], deviation: float, error: NotDivided) -> tuple[Body, list[Step], str]:
    """The body before a designer's step after which it cannot be divided into triangles, by halving; those steps, and that one."""
    low, high, found = next((k for k, step in enumerate(steps) if step["do"] in STEPS), len(steps)), len(steps), None
    while high - low > 1:
        k = (low + high) // 2
        try:
            low, found = k, _body(b["name"], steps[:k], deviation, b["order"])
        except NotDivided:
            high = k
    if found is None or "id" not in steps[low]:  # an image behind a plane is no step of the designer's
        raise error
    return found, steps[:low], steps[low]["id"]


def _sound(steps: list[Step]) -> tuple[list[Step], tuple[str, str] | None]:
    """The steps up to the first of a designer's after which the solid is not sound, and that one; all of them where it is."""
    made, failed = _made(_text(steps))
    own = [k for k, step in enumerate(steps) if step["do"] in STEPS]
    if made.shape is None or not own or BRepCheck_Analyzer(made.shape).IsValid():
        return steps, failed
    for k in own:
        shape = _made(_text(steps[: k + 1]))[0].shape
        if shape is not None and not BRepCheck_Analyzer(shape).IsValid():
            return steps[:k], (steps[k]["id"], UNCLOSED)
    return steps, failed


#: why nothing can be done to a part of triangles
TRIANGLES = "its file holds triangles, no exact faces: build steps need those of a STEP file"


def _kept(step: Step) -> tuple[dict[str, Any], bytes]:
    try:
        return unpacked(read_in(contents, step["contents"]))
    except ValueError as error:
        raise StepFailed(str(error)) from error


def _of_triangles(b: dict[str, Any], names: list[str], block: bytes) -> tuple[Body, tuple[str, str] | None]:
    """A body of triangles as they came, or its image; build steps on it cannot be carried out."""
    vertices, triangles = triangles_unpacked(block)
    failed = None
    for step in b["steps"][1:]:
        if step["do"] == "mirror":
            vertices, triangles = vertices * [-1, 1, 1], triangles[:, ::-1]
        elif failed is None and not step.get("off"):
            failed = (step["id"], TRIANGLES)
    return triangle_body(b["name"], vertices, triangles, names, b["order"]), failed


def _closes(triangles: NDArray[np.int64]) -> bool:
    """Whether every edge belongs to two triangles."""
    ends = np.sort(np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    edges = np.sort(ends[:, 0] * (int(triangles.max()) + 1) + ends[:, 1])  # one number an edge
    one, other = edges[::2], edges[1::2]
    return len(one) == len(other) and bool((one == other).all() and (one[1:] != one[:-1]).all())


#: faces that are straight one way: between their edges they need no points
_RULED = {GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_SurfaceOfExtrusion}


def _mesh(shape: Any, deviation: float, plain: bool) -> None:
    """Triangles within `deviation` (m) of every face; `plain` where ruled faces have the same points at both ends, as those of
    elements do."""
    how = IMeshTools_Parameters()
    how.Deflection, how.Angle, how.InParallel = deviation * MM, 0.25 if deviation <= DEVIATION else 0.6, True
    if plain and {BRepAdaptor_Surface(f).GetType() for f in each(shape, TopAbs_FACE, TopoDS.Face)} <= _RULED:
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


@dataclass(frozen=True)
class _Mesh:
    """Triangles of a shape: welded vertices (V, 3) m, corners (T, 3), the face of each triangle (T,), and those that are no line."""

    vertices: NDArray[np.float64]
    corners: NDArray[np.int64]
    face_of: NDArray[np.int64]
    whole: NDArray[np.bool_]
    faces: list[Face]


def _body(name: str, steps: list[Step], deviation: float, order: int) -> Body:
    own = any("id" in step for step in steps)
    shape = _made(_text(steps))[0].shape if own else None
    shape = shape or _shape(_text(steps))  # those of a designer's steps are known to be sound
    names = _made(_text(steps))[0].numbered() if own else Names()
    properties = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, properties)
    volume = properties.Mass() / MM**3
    for plain in (False,) if own else (True, False):
        _mesh(shape, deviation, plain)
        m = _meshed(shape, names, plain)
        off = abs(volume - mass_sums(m.vertices, m.corners[m.whole])[0])
        near = off <= _stray(m.vertices, m.corners, m.face_of, m.faces, deviation)
        keeps = _lies_on(m, deviation)
        if near and keeps:
            break
        BRepTools.Clean_s(shape)  # a notch in a round face, say: it needs points between its edges
    centre, inertia = properties.CentreOfMass(), properties.MatrixOfInertia()
    centroid = np.array([centre.X(), centre.Y(), centre.Z()]) / MM
    second = np.array([[inertia.Value(i, j) for j in (1, 2, 3)] for i in (1, 2, 3)]) / MM**5
    plain_faces = {f.kind for f in m.faces} <= {"plane", "cylinder", "cone"}
    if not keeps or (plain_faces and not near):
        raise NotDivided("its faces cannot be divided into triangles that keep to them with these dimensions")
    if not near:  # faces on long splines, which the kernel integrates with too few points
        volume, centroid, second = mass_sums(m.vertices, m.corners[m.whole])
    return Body(
        name=name,
        vertices=m.vertices,
        triangles=m.corners[m.whole],
        face_of=m.face_of[m.whole],
        faces=tuple(m.faces),
        volume=volume,
        centroid=centroid,
        inertia=second,
        deviation=deviation,
        order=order,
    )


def _meshed(shape: Any, names: Names, plain: bool) -> _Mesh:
    """The triangles that the kernel has made of a shape; `plain` where extruded faces need none between their ends."""
    vertices: list[NDArray[np.float64]] = []
    triangles: list[NDArray[np.int64]] = []
    face_of: list[NDArray[np.int64]] = []
    faces: list[Face] = []
    count = 0
    for index, face in enumerate(each(shape, TopAbs_FACE, TopoDS.Face)):
        place = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, place)
        if mesh is None:
            raise StepFailed("a face could not be meshed")
        move = place.Transformation()
        still = place.IsIdentity()
        at = [mesh.Node(i) if still else mesh.Node(i).Transformed(move) for i in range(1, mesh.NbNodes() + 1)]
        xyz = np.array([(p.X(), p.Y(), p.Z()) for p in at]) / MM
        three = np.array([mesh.Triangle(i).Get() for i in range(1, mesh.NbTriangles() + 1)], dtype=np.int64)
        three = three.reshape(-1, 3) - 1
        three = _strip(face, mesh, three) if plain else three
        if face.Orientation() == TopAbs_REVERSED:
            three = three[:, ::-1]
        faces.append(_face(face, xyz, three, names.get(face)))
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
    return _Mesh(welded, corners, np.concatenate(face_of), whole, faces)


def _lies_on(m: _Mesh, deviation: float) -> bool:
    """Whether the triangles of cylinders and cones keep to them: the middles of their edges and of themselves stand off by no more
    than the deviation."""
    for k, face in enumerate(m.faces):
        three = m.corners[m.whole & (m.face_of == k)]
        if face.kind not in ("cylinder", "cone") or not len(three):
            continue

        def places(p: NDArray[np.float64], face: Face = face) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
            along = (p - face.origin) @ face.direction
            return along, np.linalg.norm(p - face.origin - np.outer(along, face.direction), axis=1)

        along, radius = places(m.vertices[np.unique(three)])
        grows = np.polyfit(along, radius, 1) if np.ptp(along) > 1e-9 else np.array([0.0, radius.mean()])
        a, b, c = (m.vertices[three[:, i]] for i in range(3))
        at, r = places(np.concatenate([a + b, b + c, c + a, (a + b + c) * (2 / 3)]) / 2)
        if np.abs(np.polyval(grows, at) - r).max() > 1.01 * deviation + 1e-12:
            return False
    return True


def _stray(
    vertices: NDArray[np.float64],
    corners: NDArray[np.int64],
    face_of: NDArray[np.int64],
    faces: list[Face],
    deviation: float,
) -> float:
    """How far the volume within the triangles may be off, m3: what curved faces may stand off from them. The kernel integrates
    faces on long splines with too few points, and may be off by more."""
    curved = np.array([f.kind != "plane" for f in faces])[face_of]
    a, b, c = (vertices[corners[curved, k]] for k in range(3))
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2) * deviation * 1.01 + 1e-15


def _face(face: Any, xyz: NDArray[np.float64], triangles: NDArray[np.int64], name: str) -> Face:
    surface = BRepAdaptor_Surface(face)
    a, b, c = xyz[triangles[:, 0]], xyz[triangles[:, 1]], xyz[triangles[:, 2]]
    normals = np.cross(b - a, c - a)
    if surface.GetType() == GeomAbs_Plane:
        normal = normals.sum(axis=0)
        place = (
            outer_middle(face) / MM if name else xyz.mean(axis=0)
        )  # joints take hold of it: not by how it is divided
        return Face("plane", place, normal / np.linalg.norm(normal), name=name)
    if surface.GetType() == GeomAbs_Cone:
        axis, origin = surface.Cone().Axis().Direction(), surface.Cone().Location()
        return Face(
            "cone",
            np.array([origin.X(), origin.Y(), origin.Z()]) / MM,
            np.array([axis.X(), axis.Y(), axis.Z()]),
            name=name,
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
        *_, least, most = BRepTools.UVBounds_s(face) if name else (lo * MM, hi * MM)
        return Face(
            "cylinder", o + lo * z, z, cylinder.Radius() / MM, hi - lo, outward, name, o + (least + most) / 2 / MM * z
        )
    return Face("other", xyz.mean(axis=0), np.array([0.0, 0.0, 1.0]), name=name)


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
    return _moved(each(_shape(_text(steps)), TopAbs_FACE, TopoDS.Face)[face], pose)


def transformed(pose: Any) -> gp_Trsf:
    """A pose (7,) as the kernel has it."""
    move = gp_Trsf()
    w, x, y, z = (float(v) for v in pose[3:])
    move.SetRotation(gp_Quaternion(x, y, z, w))
    move.SetTranslationPart(gp_Vec(*(float(v) * MM for v in pose[:3])))
    return move


def shape_of(steps: list[Step]) -> Any:
    """The kernel's shape of a body's steps."""
    return _shape(_text(steps))


def _moved(shape: Any, pose: Any) -> Any:
    return shape.Moved(TopLoc_Location(transformed(pose)))


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
    for face in each(_shape(_text(steps)), TopAbs_FACE, TopoDS.Face):
        found = BRepExtrema_DistShapeShape(face, ring)
        if found.IsDone() and found.Value() < 1e-7 and found.NbSolution() < 5:
            angles += [
                np.arctan2(found.PointOnShape1(i).Y(), found.PointOnShape1(i).X())
                for i in range(1, found.NbSolution() + 1)
            ]
    return sorted(float(a) for a in angles)


def _step_file(*arguments: Any) -> bytes:
    from uhrwerk.core.solids.step_file import step_file  # half a second to import, and seldom asked

    return step_file(*arguments)


def _profile(recipe: Recipe) -> list[Any]:
    from uhrwerk.core.solids.profile import profile  # this module is its own base

    return list(profile(recipe))


JOBS = {
    "build": build, "distance": distance, "common_volume": common_volume, "circle_crossings": circle_crossings,
    "step_file": _step_file, "profile": _profile,
}  # fmt: skip
