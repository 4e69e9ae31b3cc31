"""The scheme: the mechanism as theory sees it (symbols: ISO 3952-1)."""

from __future__ import annotations

from typing import Any

import numpy as np

from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.assembly import teeth_of
from uhrwerk.core.evaluate import Evaluation


def scheme(e: Evaluation) -> dict[str, Any]:
    """The mechanism as theory sees it: joints as nodes fixed to placed parts, links between them, gears, inputs.

    Everything is projected along the axis that most revolute joints share (symbols: ISO 3952-1).
    """
    document, m = e.document, e.mechanism
    assert m is not None
    at = e.pose if e.pose is not None else m.start
    axes = []
    nodes = []
    driven = {d.joint for d in document.drivers.values()}
    for i, joint in document.joints.items():
        datum = m.datums[joint.b.placed].get(joint.b.datum)
        if datum is None or i not in m.frames:
            continue
        if joint.kind == "revolute":
            axes.append(poses.rotate(m.part_pose(joint.b.placed, at)[3:], datum.z))
        a, _, b, _ = m.frames[i]
        nodes.append({
            "id": i, "name": joint.name, "kind": joint.kind, "placed": joint.b.placed, "local": datum.origin.tolist(),
            "z": datum.z.tolist(), "links": [a, b], "ground": 0 in (a, b), "driven": i in driven,
        })  # fmt: skip
    normal = np.array([0.0, 0, 1])
    if axes:
        same = [sum(abs(float(u @ v)) > 0.999 for v in axes) for u in axes]
        normal = axes[int(np.argmax(same))]
    u = np.cross([0.0, 1, 0], normal)
    u = u / np.linalg.norm(u) if np.linalg.norm(u) > 0.1 else np.array([1.0, 0, 0])
    gears = []
    for i, pair in document.pairs.items():
        for placed in (pair.a, pair.b):
            if "axis" in m.datums[placed] and document.parts[document.placed[placed].part].element.kind == "spur_gear":
                gears.append({"placed": placed, "pair": i, "radius": teeth_of(document, placed).pitch_radius})
    links = [
        {
            "index": k,
            "name": document.placed[link.parts[0]].name,
            "parts": list(link.parts),
            "nodes": [n["id"] for n in nodes if k in n["links"]],
        }
        for k, link in enumerate(m.links)
    ]
    loops = max(
        0,
        len(m.frames)
        + len([r for r in m.rows if r.kind == "mesh"])
        - (len(m.links) - 1 - len({m.link_of[p] for p in m.loose})),
    )
    return {
        "nodes": nodes,
        "links": links,
        "gears": gears,
        "u": u.tolist(),
        "v": np.cross(normal, u).tolist(),
        "loops": loops,
    }
