"""The scene: placed parts with their datums, poses and meshes as binary blocks.

Poses travel as one block of float32: frames x placed parts x 7 (metres; quaternion w, x, y, z).
"""

from __future__ import annotations

import struct
from typing import Any, Literal

import manifold3d
import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from uhrwerk.core.assembly import datum_frame
from uhrwerk.core.document import Document
from uhrwerk.core.document.repeat import original_of
from uhrwerk.core.elements.belts import wrap
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.forces.springs import every, every_winding, there
from uhrwerk.core.joints import LeafSpringPair, SpiralSpringPair, TorsionalSpring
from uhrwerk.core.joints.belt_pair import BeltPair, radius
from uhrwerk.core.joints.load import Load
from uhrwerk.core.joints.spiral_spring import coils
from uhrwerk.core.joints.torque import TorquePair
from uhrwerk.core.part import part_datums
from uhrwerk.core.part.datum_labels import group, labels
from uhrwerk.core.part.design import element_of
from uhrwerk.core.quantity import FormulaError
from uhrwerk.core.solids import Body, Datum, Solid, same_place, sharp_edges
from uhrwerk.core.stages.evaluation import Evaluation

Index = NDArray[np.int64]

#: how far the triangles of what moves may stray, as a part of the body's size
ROUGH = 0.002


class DatumShown(TypedDict):
    """A datum in its part's frame, m; `side` is pin or bore of a cylinder, which reaches along z from `low` by `length`."""

    id: str
    name: str
    group: str
    kind: str
    words: str
    origin: list[float]
    z: list[float]
    x: list[float]
    radius: float
    side: str
    length: float
    low: float


class PartShown(TypedDict):
    """A placed part: its link, its solid's key and bodies, its mass and leading size in words, its datums; the names of its
    bodies' faces where it has build steps."""

    id: str
    name: str
    part: str
    element: str
    material: str
    frame: bool
    isFrame: bool
    link: int
    solid: str | None
    bodies: list[str]
    mass: str
    hint: str
    loose: bool
    leftOut: bool
    copyOf: str
    datums: list[DatumShown]
    faces: dict[str, list[str]]
    colour: str


def scene(e: Evaluation) -> list[PartShown]:
    """Placed parts with their bodies' keys and datums."""
    document, m = e.document, e.mechanism
    out: list[PartShown] = []
    named = labels_of(e)
    for i, placed in document.placed.items():
        part = document.parts[placed.part]
        solid = e.solids.get(i)
        out.append({
            "id": i, "name": placed.name, "part": placed.part, "element": element_of(e.document, i).kind,
            "material": document.materials[part.material].name, "frame": m.link_of.get(i) == 0, "isFrame": i == document.frame,
            "link": m.link_of.get(i, 0), "solid": e.solid_keys.get(i), "bodies": list(solid.bodies) if solid else [],
            "mass": document.display(e.part_mass[i], "mass") if i in e.part_mass else "",
            "hint": _hint(document, i), "loose": i in m.loose, "leftOut": placed.left_out, "copyOf": original_of(i) if "__" in i else "",
            "datums": [datum_data(document, name, d, named[i][name]) for name, d in m.datums[i].items()],
            "faces": _faces(e, placed.part, solid), "colour": part.colour,
        })  # fmt: skip
    return out


class EndShown(TypedDict):
    """A place on a placed part, in its frame, m."""

    placed: str
    at: list[float]


class SpringShown(TypedDict):
    """A spring between two places, of a shape: a coil of mean diameter and wire, a spiral from `inner` to `outer` about b's axis, a
    leaf along the x of a's frame `turn` whose end stands at `rest` unloaded; m."""

    id: str
    shape: Literal["coil", "spiral", "leaf"]
    a: EndShown
    b: EndShown
    turn: list[float]
    sizes: dict[str, float]


class LoadShown(TypedDict):
    """A load where it acts: at `b`, along or about the direction `z` of a's frame, or away from `a` where there is none. `way` is 1
    or -1 along it, 0 where the motion says which."""

    id: str
    turns: bool
    a: EndShown
    b: EndShown
    z: list[float] | None
    way: int


class BeltShown(TypedDict):
    """A belt or chain: places along its pitch line in the world, m, closed; its axis, and how wide and thick it is drawn, m."""

    id: str
    way: list[list[float]]
    axis: list[float]
    width: float
    thick: float
    chain: bool


def belts_shown(e: Evaluation) -> list[BeltShown]:
    """Belts and chains whose axes stand still."""
    m, scope, out = e.mechanism, e.document.scope(), list[BeltShown]()
    for i, pair in e.document.pairs.items():
        if not isinstance(pair, BeltPair) or e.pose is None or e.motion is None:
            continue
        ends = [m.place(at) for at in pair.at if at.placed in m.link_of and at.datum in m.datums[at.placed]]
        if len(ends) < 2 or any(
            np.ptp(_carried(e.motion.track.pose, p.link, p.frame), axis=0).max() > 1e-7 for p in ends
        ):
            continue
        sizes = [numbers(element_of(e.document, p.placed), scope) for p in ends]
        (a, b), (r, s) = (poses.compose(e.pose[p.link], p.frame) for p in ends), (radius(n) for n in sizes)
        z = poses.rotate(a[3:], np.array([0.0, 0, 1]))
        off = b[:3] - a[:3]
        off = off - (off @ z) * z
        centres = float(np.linalg.norm(off))
        if centres <= r + s:
            continue
        x = off / centres
        flat = wrap.way(r, s, centres, pair.crossed)
        middle = a[:3] + z * sizes[0].width / 2
        places = middle + flat[:, :1] * x + flat[:, 1:] * np.cross(z, x)
        out.append({
            "id": i, "way": np.round(places, 7).tolist(), "axis": z.tolist(), "width": 0.85 * sizes[0].width,
            "thick": 0.3 * sizes[0].pitch if hasattr(sizes[0], "pitch") else 0.0015, "chain": sizes[0].kind == "sprocket",
        })  # fmt: skip
    return out


def _carried(pose: Array, link: int, frame: Array) -> Array:
    """Where a frame's origin is at all stations (K, 3)."""
    return np.asarray(poses.compose(pose[:, link], np.broadcast_to(frame, (len(pose), 7)))[:, :3])


def loads_shown(e: Evaluation) -> list[LoadShown]:
    """Loads, each between two datums that are there."""
    m, out = e.mechanism, list[LoadShown]()
    for i, pair in e.document.pairs.items():
        if not isinstance(pair, Load) or not there(e, i):
            continue
        n = numbers(pair, e.document.scope())
        one, other = (m.datum(at) for at in pair.at)
        size = n.torque if isinstance(pair, TorquePair) else n.force
        out.append({
            "id": i, "turns": isinstance(pair, TorquePair), "a": {"placed": pair.at[0].placed, "at": one.origin.tolist()},
            "b": {"placed": pair.at[1].placed, "at": other.origin.tolist()},
            "z": None if getattr(n, "along", "") == "line_between_both" else one.z.tolist(),
            "way": 0 if n.acts != "always" else 1 if size >= 0 else -1,
        })  # fmt: skip
    return out


def springs_shown(e: Evaluation) -> list[SpringShown]:
    """Springs, each between two datums that are there."""
    m, scope = e.mechanism, e.document.scope()
    out: list[SpringShown] = []
    for i in (*every(e), *every_winding(e)):
        pair = e.document.pairs[i]
        n = numbers(pair, scope)
        one, other = (m.datum(at) for at in pair.at)
        a: EndShown = {"placed": pair.at[0].placed, "at": one.origin.tolist()}
        b: EndShown = {"placed": pair.at[1].placed, "at": other.origin.tolist()}
        if isinstance(pair, LeafSpringPair):
            turn, sizes = datum_frame(one)[3:], {"rest": n.rest, "width": n.width, "along": n.along}
            out.append({"id": i, "shape": "leaf", "a": a, "b": b, "turn": turn.tolist(), "sizes": sizes})
        elif isinstance(pair, SpiralSpringPair):
            sizes = {"inner": n.inner, "outer": n.outer, "width": n.width, "coils": coils(n)}
            out.append(
                {"id": i, "shape": "spiral", "a": b, "b": b, "turn": datum_frame(other)[3:].tolist(), "sizes": sizes}
            )
        else:
            sizes = {"coil": n.mean_diameter, "wire": n.wire_diameter, "coils": n.active_coils}
            if isinstance(pair, TorsionalSpring):  # coil on coil, on the axis of what it turns
                a, b = (
                    b,
                    {
                        "placed": b["placed"],
                        "at": (other.origin + other.z * (-1.1 * n.active_coils * n.wire_diameter)).tolist(),
                    },
                )
            out.append({"id": i, "shape": "coil", "a": a, "b": b, "turn": [1.0, 0, 0, 0], "sizes": sizes})
    return out


def _faces(e: Evaluation, part: str, solid: Solid | None) -> dict[str, list[str]]:
    """Names of faces by body; of a part that others take something from, without build steps of its own, as one list."""
    if solid is not None and any(f.name for b in solid.bodies.values() for f in b.faces):
        return {b.name: [f.name for f in b.faces] for b in solid.bodies.values()}
    return (
        {"": part_datums.face_names(e.document, part, e.context)}
        if part in part_datums.referenced_parts(e.document)
        else {}
    )


def _hint(document: Document, placed: str) -> str:
    """The size that an element is known by, such as a pin's diameter."""
    element = element_of(document, placed)
    if hasattr(element, "teeth"):
        return f"{numbers(element, document.scope()).teeth} T"
    if not element.hint:
        return ""
    try:
        si = document.scope().value(getattr(element, element.hint), "length")
    except FormulaError:
        return ""
    return ("⌀ " if element.hint.startswith("diameter") else "") + document.display(si, "length")


def labels_of(e: Evaluation) -> dict[str, dict[str, str]]:
    """What the datums of every placed part are called, by placed part and name."""
    return e.once("datum labels", lambda: _labels(e))


def _labels(e: Evaluation) -> dict[str, dict[str, str]]:
    known: dict[tuple[str, bool, int], dict[str, str]] = {}
    out = {}
    for i, placed in e.document.placed.items():
        datums = e.mechanism.datums[i]
        key = placed.part, placed.mirrored, len(datums)  # copies of repeats may have more
        if key not in known:
            known[key] = labels(e.document, placed.part, datums)
        out[i] = known[key]
    return out


def datum_data(document: Document, name: str, d: Datum, label: str = "") -> DatumShown:
    size = f" ⌀ {document.display(2 * d.radius, 'length')}" if d.radius and d.kind == "axis" else ""
    what = d.side or ("edge" if d.length and not d.radius else "axis") if d.kind == "axis" else d.words
    return {
        "id": name, "name": label or name.replace("_", " "), "group": group(name, d), "kind": d.kind, "words": f"{what}{size}", "origin": d.origin.tolist(),
        "z": d.z.tolist(), "x": d.x.tolist(), "radius": d.radius, "side": d.side, "length": d.length, "low": d.low,
    }  # fmt: skip


def pose_block(e: Evaluation) -> bytes:
    """Header (two uint32: frames, parts), then float32 poses; the last frame closes the cycle."""
    m = e.mechanism
    at = e.motion.pose if e.motion is not None else (e.pose if e.pose is not None else m.start)[None]
    block = (
        np.stack([m.part_pose(p, at) for p in e.document.placed], axis=1)
        if e.document.placed
        else np.zeros((len(at), 0, 7))
    )
    return block_of(block)


def block_of(poses_: Array) -> bytes:
    """Poses (frames, parts, 7) as a block."""
    return struct.pack("<II", *poses_.shape[:2]) + poses_.astype("<f4").tobytes()


def mesh_block(body: Body, datums: dict[str, Datum]) -> bytes:
    """Header (four uint32: vertices, triangles, edges, faces); float32 vertices; uint32 triangles; float32 edge ends;
    uint16 face of each triangle (padded to 4 bytes); int16 datum of each face, or -1."""
    edges = sharp_edges(body.vertices, body.triangles)
    named = list(datums.values())
    of_face = []
    for f in body.faces:
        kind: Any = {"cylinder": "axis", "plane": "plane"}.get(f.kind, "")
        here = Datum(
            kind,
            f.origin,
            f.direction,
            f.direction,
            f.radius,
            ("pin" if f.outward else "bore") if kind == "axis" else "",
        )  # type: ignore[arg-type]
        of_face.append(next((i for i, d in enumerate(named) if kind and same_place(d, here)), -1))
    return _block(body.vertices, body.triangles, edges, body.face_of, of_face)


def shared_block(vertices: Array, triangles: Index) -> bytes:
    """What two bodies share, vertices (n, 3) in the world and triangles (m, 3), as a block of the same layout, without
    faces."""
    return _block(vertices, triangles, sharp_edges(vertices, triangles), np.zeros(len(triangles), dtype=int), [])


def rough_block(body: Body) -> bytes:
    """The body in as few triangles as stray by no more than a part of its size, as a block of the same layout, without faces:
    what is drawn while it moves where drawing is slow. The body itself where its triangles do not close."""
    v = body.vertices
    size = float(np.linalg.norm(v.max(axis=0) - v.min(axis=0)))
    mesh = manifold3d.Mesh((v * 1e3).astype(np.float32), body.triangles.astype(np.uint32))
    solid_ = manifold3d.Manifold(mesh)
    if solid_.status() != manifold3d.Error.NoError:
        return shared_block(v, body.triangles)
    few = solid_.simplify(size * ROUGH * 1e3).to_mesh()
    return shared_block(
        np.asarray(few.vert_properties[:, :3], dtype=float) / 1e3, np.asarray(few.tri_verts, dtype=np.int64)
    )


def _block(vertices: Array, triangles: Index, edges: Array, face_of: Index, of_face: list[int]) -> bytes:
    faces = face_of.astype("<u2").tobytes()
    return (
        struct.pack("<IIII", len(vertices), len(triangles), len(edges), len(of_face))
        + vertices.astype("<f4").tobytes()
        + triangles.astype("<u4").tobytes()
        + edges.astype("<f4").tobytes()
        + faces + b"\0" * (-len(faces) % 4)
        + np.array(of_face, dtype="<i2").tobytes()
    )  # fmt: skip
