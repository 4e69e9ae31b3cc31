"""The scheme: the mechanism as theory sees it (symbols: ISO 3952-1)."""

from __future__ import annotations

import numpy as np
from typing_extensions import TypedDict

from uhrwerk.core.assembly import datum_frame
from uhrwerk.core.document import numbers
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.joints import JOINTS
from uhrwerk.core.joints.belt_pair import BeltPair, radius
from uhrwerk.core.part.design import element_of
from uhrwerk.core.stages.evaluation import Evaluation

#: places of a cam's outline
OUTLINE = 72


class Node(TypedDict):
    """A joint in the scheme: its symbol, where it is on which part (m), the links that it joins. `sense`: which way a driven
    one goes first, 1 to the left as it is seen (or forth), -1 to the right; 0 where that is not known. `first` is the same about,
    or along, its axis `z`."""

    id: str
    path: str
    name: str
    kind: str
    symbol: str
    placed: str
    local: list[float]
    z: list[float]
    links: list[int]
    ground: bool
    driven: bool
    sense: int
    first: int
    part: str


class LinkShown(TypedDict):
    index: int
    name: str
    parts: list[str]
    nodes: list[str]


class GearShown(TypedDict):
    """A toothed wheel or pulley of a pair; `belt` is open or crossed where a belt or chain runs on it."""

    placed: str
    pair: str
    radius: float
    belt: str


class CamShown(TypedDict):
    """A cam and its follower: the outline (n, 3) in its part, m; where the follower touches it, on which part, with the radius of its
    roller (0: an edge or a face), and the joint that guides it, if there is one."""

    placed: str
    pair: str
    outline: list[list[float]]
    follower: str
    local: list[float]
    radius: float
    guide: str


class Scheme(TypedDict):
    """Joints, links, gears and cams as theory sees them, drawn along the directions u and v; `loops` is how many close."""

    nodes: list[Node]
    links: list[LinkShown]
    gears: list[GearShown]
    cams: list[CamShown]
    u: list[float]
    v: list[float]
    loops: int


def scheme(e: Evaluation) -> Scheme:
    """The mechanism as theory sees it: joints as nodes fixed to placed parts, links between them, gears, inputs.

    Everything is projected along the axis that most revolute joints share (symbols: ISO 3952-1).
    """
    document, m = e.document, e.mechanism
    at = e.pose if e.pose is not None else m.start
    axes = []
    nodes: list[Node] = []
    driven = {d.joint for d in document.drivers.values()}
    for i, joint in m.joints.items():
        part = document.placed[joint.part]
        origin = poses.compose(poses.inverse(np.asarray(m.links[joint.b].local[joint.part])), joint.frame_b)
        z = poses.rotate(origin[3:], np.array([0.0, 0, 1]))
        kind = JOINTS.get(joint.kind)
        if kind is not None and kind.along:
            axes.append(poses.rotate(m.part_pose(joint.part, at)[3:], z))
        nodes.append({
            "id": i, "path": joint.path, "name": joint.name, "kind": joint.kind, "symbol": kind.symbol if kind is not None else "ring", "placed": joint.part, "local": origin[:3].tolist(),
            "z": z.tolist(), "links": [joint.a, joint.b], "ground": 0 in (joint.a, joint.b), "driven": i in driven, "sense": 0, "first": 0, "part": part.name,
        })  # fmt: skip
    normal = np.array([0.0, 0, 1])
    if axes:
        same = [sum(abs(float(u @ v)) > 0.999 for v in axes) for u in axes]
        normal = axes[int(np.argmax(same))]
    u = np.cross([0.0, 1, 0], normal)
    u = u / np.linalg.norm(u) if np.linalg.norm(u) > 0.1 else np.array([1.0, 0, 0])
    for n_ in nodes:
        n_["first"] = _first(e, n_)
        n_["sense"] = _sense(e, n_, normal, m.joints[n_["id"]].part, at)
    links: list[LinkShown] = [
        {
            "index": k,
            "name": document.placed[link.parts[0]].name,
            "parts": list(link.parts),
            "nodes": [n["id"] for n in nodes if k in n["links"]],
        }
        for k, link in enumerate(m.links)
    ]
    meshing = sum(r.owner.startswith("pairs.") for r in m.rows)
    tied = {frozenset((h.a, h.b)) for h in m.joints.values() if h.kind not in ("slot", "arc_slot")}
    tied |= {frozenset((r.a, r.b)) for r in m.rows if r.owner.startswith("relations.")}
    loops = max(0, len(tied) + meshing - (len(m.links) - 1 - len({m.link_of[p] for p in m.loose})))
    return {
        "nodes": nodes,
        "links": links,
        "gears": _wheels(e),
        "cams": _cams(e, nodes),
        "u": u.tolist(),
        "v": np.cross(normal, u).tolist(),
        "loops": loops,
    }


def _wheels(e: Evaluation) -> list[GearShown]:
    """Every gear and pulley of a pair."""
    m, document, out = e.mechanism, e.document, list[GearShown]()
    scope = document.scope()
    for i, pair in document.pairs.items():
        if pair.kind not in ("gear", "belt"):
            continue
        for placed in (at.placed for at in pair.at):
            n = numbers(element_of(document, placed), scope)
            if "axis" in m.datums[placed] and (isinstance(pair, BeltPair) or n.kind in ("spur_gear", "ring_gear")):
                size = radius(n) if isinstance(pair, BeltPair) else n.module * n.teeth / 2
                way = "" if not isinstance(pair, BeltPair) else "crossed" if pair.crossed else "open"
                out.append({"placed": placed, "pair": i, "radius": size, "belt": way})
    return out


def _sense(e: Evaluation, node: Node, normal: Array, placed: str, at: Array) -> int:
    """Which way a driven joint goes first, as it is seen along the normal."""
    c = e.coordinates.get(node["id"])
    if not node["first"] or c is None:
        return 0
    turn = e.mechanism.part_pose(placed, at)[3:]
    facing = float(poses.rotate(turn, np.array(node["z"])) @ normal) if c.turning else 1.0
    return int(node["first"] * (np.sign(facing) if abs(facing) > 0.1 else 1))


def _first(e: Evaluation, node: Node) -> int:
    """Which way a driven joint goes first: 1 as its coordinate grows."""
    c = e.coordinates.get(node["id"])
    if not node["driven"] or c is None:
        return 0
    moving = c.whole.rate[np.abs(c.whole.rate) > 1e-9]
    return int(np.sign(moving[0])) if len(moving) else 0


def _cams(e: Evaluation, nodes: list[Node]) -> list[CamShown]:
    """Every cam in use, with its follower."""
    m, out = e.mechanism, list[CamShown]()
    for row in m.rows:
        if row.curve is None:
            continue
        pair = row.owner.split(".")[1]
        cam, follower = e.document.pairs[pair].at
        frame, datum = datum_frame(m.datum(cam)), m.datum(follower)
        flat = row.curve.place(np.linspace(0, 2 * np.pi, OUTLINE, endpoint=False))
        places = poses.place(frame, np.concatenate([flat, np.zeros((len(flat), 1))], axis=1))
        link = m.link_of[follower.placed]
        guides = [n["id"] for n in nodes if link in n["links"] and 0 in n["links"]]
        out.append({
            "placed": cam.placed, "pair": pair, "outline": np.round(places, 6).tolist(), "follower": follower.placed,
            "local": datum.origin.tolist(), "radius": float(row.sizes[0]), "guide": guides[0] if guides else "",
        })  # fmt: skip
    return out
