"""What the player holds: parts with their solids, poses over the cycle, verdicts, lanes; as plain data, blocks in base64."""

from __future__ import annotations

from base64 import b64encode
from typing import Any

import numpy as np
from numpy.typing import ArrayLike

from uhrwerk.core.exchange.placing import Stands, standing
from uhrwerk.core.solids import Solid, sharp_edges
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.views import lanes
from uhrwerk.core.views.lanes import distances
from uhrwerk.core.views.view import tile


def contents(e: Evaluation) -> dict[str, Any]:
    """ValidationFailed where a part has no solid, or nothing is placed."""
    document = e.document
    shown = standing(e)
    keys = list(dict.fromkeys(e.solid_keys[s.id] for s in shown))
    solids = {e.solid_keys[s.id]: s.solid for s in shown}
    motion = e.motion if e.motion is not None and e.motion.moving else None
    # where nothing moves, one frame as the parts stand
    poses = (
        np.stack([e.mechanism.part_pose(s.id, motion.pose) for s in shown], axis=1)
        if motion is not None
        else np.stack([s.pose for s in shown])[None]
    )
    answers = sorted(e.verdicts.values(), key=lambda v: {False: 0, None: 1, True: 2}[v.holds])
    return {
        "name": document.name,
        "note": document.note,
        "unit": document.units.length,
        "duration": motion.duration if motion is not None else 0.0,
        "frames": len(poses),
        "poses": _block(poses, "<f4"),
        "solids": [_solid(solids[k]) for k in keys],
        "parts": [_part(e, s, keys) for s in shown],
        "verdicts": [
            {k: t[k] for k in ("name", "holds", "words", "valueText", "limitText", "errorText", "basis", "time", "parts", "points")}  # type: ignore[literal-required]
            for t in (tile(document, v) for v in answers)
        ],
        "lanes": [
            {
                "name": lane["name"], "unit": lane["unit"], "points": _rounded(lane["points"]),
                "limits": lane["band"][2:] if "band" in lane else [lane["limit"]] if "limit" in lane else [],
            }
            for lane in lanes(e, distances(e))
            if lane["points"]
        ],
    }  # fmt: skip


def _part(e: Evaluation, s: Stands, keys: list[str]) -> dict[str, Any]:
    document = e.document
    part = document.parts[document.placed[s.id].part]
    rows = [["Kind", part.element.title], ["Material", document.materials[part.material].name]]
    if s.id in e.part_mass:
        rows.append(["Mass", document.display(e.part_mass[s.id], "mass")])
    rows.append(["Volume", f"{s.solid.volume * 1e6:.4g} cm3"])
    return {
        "id": s.id, "name": s.name, "solid": keys.index(e.solid_keys[s.id]), "colour": [round(c, 4) for c in s.colour],
        "still": e.mechanism.link_of.get(s.id) == 0, "rows": rows,
    }  # fmt: skip


def _solid(solid: Solid) -> dict[str, str]:
    """Vertices, corners of triangles, ends of sharp edges."""
    bodies = list(solid.bodies.values())
    first = np.cumsum([0, *(len(b.vertices) for b in bodies)])
    vertices = np.concatenate([b.vertices for b in bodies])
    triangles = np.concatenate([b.triangles + k for b, k in zip(bodies, first, strict=False)])
    edges = np.concatenate([sharp_edges(b.vertices, b.triangles) for b in bodies])
    return {"v": _block(vertices, "<f4"), "t": _block(triangles, "<u4"), "e": _block(edges, "<f4")}


def _block(values: ArrayLike, form: str) -> str:
    return b64encode(np.ascontiguousarray(values, dtype=form).tobytes()).decode("ascii")


def _rounded(points: list[list[float]]) -> list[list[float]]:
    return [[float(f"{x:.6g}") for x in p] for p in points]
