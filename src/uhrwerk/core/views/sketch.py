"""A small still drawing of the scheme, for the shelf: links, joints and gears in a box of given size."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike
from typing_extensions import TypedDict

from uhrwerk.core.assembly import NotSolvable, compile, solve
from uhrwerk.core.context import Context
from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.stages.evaluation import Compiled, Evaluation, Stopped
from uhrwerk.core.views.scheme import scheme


class Sketch(TypedDict):
    """`links` as paths, `joints` as (x, y, on the frame), `gears` as (x, y, radius), in pixels."""

    links: list[str]
    joints: list[tuple[float, float, bool]]
    gears: list[tuple[float, float, float]]


def sketch(document: Document, context: Context, width: float = 150, height: float = 84, edge: float = 12) -> Sketch:
    """The scheme of a document at its start, in a box of given size with an edge round it, pixels."""
    m = compile(document, context)
    try:
        pose = solve(m)
    except NotSolvable:
        pose = m.start
    diagram = scheme(Evaluation(Compiled(document, m, context), Stopped(pose=pose)))
    if not diagram["nodes"]:
        return {"links": [], "joints": [], "gears": []}
    across = np.array([diagram["u"], diagram["v"]])

    def flat(placed: str, local: ArrayLike) -> np.ndarray:
        return across @ poses.place(m.part_pose(placed, pose), np.asarray(local, float))

    nodes = {n["id"]: flat(n["placed"], n["local"]) for n in diagram["nodes"]}
    gears = [(flat(g["placed"], [0, 0, 0]), g["radius"]) for g in diagram["gears"]]
    cams = [[flat(c["placed"], p) for p in c["outline"]] for c in diagram["cams"]]
    arms = [(nodes[c["guide"]], flat(c["follower"], c["local"])) for c in diagram["cams"] if c["guide"]]
    ends = [p for arm in arms for p in arm]
    reach = np.array(
        [*nodes.values(), *(c + s * r for c, r in gears for s in (-1, 1)), *(p for o in cams for p in o), *ends]
    )
    low, span = reach.min(axis=0), np.maximum(np.ptp(reach, axis=0), 1e-9)
    scale = float(min((width - 2 * edge) / span[0], (height - 2 * edge) / span[1]))
    middle = low + span / 2

    def at(p: np.ndarray) -> tuple[float, float]:
        x, y = (p - middle) * scale
        return round(width / 2 + float(x), 1), round(height / 2 - float(y), 1)

    moving = [link for link in diagram["links"] if link["index"] and len(link["nodes"]) > 1]
    return {
        "links": [
            *("M" + "L".join(f"{x} {y}" for x, y in (at(nodes[n]) for n in link["nodes"])) for link in moving),
            *("M" + "L".join(f"{x} {y}" for x, y in map(at, outline)) + "Z" for outline in cams),
            *("M" + "L".join(f"{x} {y}" for x, y in map(at, arm)) for arm in arms),
        ],
        "joints": [(*at(nodes[n["id"]]), n["ground"]) for n in diagram["nodes"]],
        "gears": [(*at(c), round(r * scale, 1)) for c, r in gears],
    }
