"""A recipe: how a part's bodies are made, as plain data, so that it can be hashed and sent to a worker process.

An outline is a closed loop in the xy plane: ``{"circle": [x, y, r]}`` or ``{"start": [x, y], "path": [...]}`` whose
steps are ``["line", [x, y]]``, ``["arc", [xm, ym], [x, y]]`` (through a middle point), ``["spline", [[x, y], ...]]``
and ``["bspline", knots, often, [[x, y], ...]]`` (distinct knots, how often each counts, poles). Outlines are combined as
``sum`` and ``less`` (the first without the others), and where their lines are known to meet nowhere as ``apart`` (side by side) and
``holed`` (the first with holes, which run the other way round).
Build steps: ``extrude`` (which may stand on what is there) and ``cut`` (outline, holes, z range), ``fillet`` and ``chamfer`` (edges at a z, or along z),
``mirror`` (x to -x).
All lengths are metres.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Sequence
from math import cos, hypot, sin
from typing import Any

#: largest distance between a curved face and the triangles that stand for it, metres
DEVIATION = 1e-5

Outline = dict[str, Any]
Step = dict[str, Any]
Recipe = dict[str, Any]


#: by which outlines are combined
COMBINED = ("sum", "less", "apart", "holed")


def circle(x: float, y: float, radius: float) -> Outline:
    return {"circle": [x, y, radius]}


def path(start: Sequence[float], *steps: list[Any]) -> Outline:
    return {"start": list(start), "path": list(steps)}


def rectangle(x0: float, y0: float, x1: float, y1: float, corner: float = 0.0) -> Outline:
    """A rectangle with rounded corners."""
    if corner <= 0:
        return path((x0, y0), ["line", [x1, y0]], ["line", [x1, y1]], ["line", [x0, y1]], ["line", [x0, y0]])
    c, k = corner, corner * (1 - 0.5**0.5)
    return path(
        (x0 + c, y0),
        ["line", [x1 - c, y0]], ["arc", [x1 - k, y0 + k], [x1, y0 + c]],
        ["line", [x1, y1 - c]], ["arc", [x1 - k, y1 - k], [x1 - c, y1]],
        ["line", [x0 + c, y1]], ["arc", [x0 + k, y1 - k], [x0, y1 - c]],
        ["line", [x0, y0 + c]], ["arc", [x0 + k, y0 + k], [x0 + c, y0]],
    )  # fmt: skip


def extrude(outline: Outline, z0: float, z1: float, holes: Iterable[Outline] = ()) -> Step:
    return {"do": "extrude", "outline": outline, "holes": list(holes), "z": [z0, z1]}


def stood(outline: Outline, z0: float, z1: float, holes: Iterable[Outline] = ()) -> Step:
    """A prism that stands on what is there or hangs below it: they meet in whole faces, or parts of faces, and cross nowhere.
    The kernel is spared looking for where they cross."""
    return extrude(outline, z0, z1, holes) | {"stands": True}


def cut_out(outline: Outline, z0: float, z1: float) -> Step:
    return {"do": "cut", "outline": outline, "holes": [], "z": [z0, z1]}


def fillet(size: float, **edges: Any) -> Step:
    """Edges are chosen by ``at_z=height`` (those lying in that plane) or ``along="z"``."""
    return {"do": "fillet", "size": size, "edges": edges}


def chamfer(size: float, **edges: Any) -> Step:
    return {"do": "chamfer", "size": size, "edges": edges}


def bevel(size: float, high: float, **edges: Any) -> Step:
    """A chamfer that goes so far into the flat face at the edges, and so far along the other."""
    return chamfer(size, **edges) | {"high": high}


def recipe(bodies: dict[str, list[Step]], deviation: float = DEVIATION, order: dict[str, int] | None = None) -> Recipe:
    """`order` tells into how many equal parts a body falls round its z axis, such as a gear's teeth."""
    order = order or {}
    of_bodies = [{"name": name, "steps": steps, "order": order.get(name, 1)} for name, steps in bodies.items()]
    return {"bodies": of_bodies, "deviation": deviation}


def behind(one: Recipe) -> Recipe:
    """The recipe of the image behind the part's own yz plane."""
    return one | {"bodies": [b | {"steps": [*b["steps"], {"do": "mirror"}]} for b in one["bodies"]]}


def arc_band(radius: float, width: float, low: float, high: float) -> Outline:
    """A band of so much width along an arc round the origin, from angle `low` to `high`, with round ends."""
    inner, outer, h = radius - width / 2, radius + width / 2, width / 2
    mid = (low + high) / 2

    def at(r: float, angle: float) -> list[float]:
        return [r * cos(angle), r * sin(angle)]

    def end(angle: float, turn: float) -> list[float]:
        x, y = at(radius, angle)
        return [x - turn * h * sin(angle), y + turn * h * cos(angle)]

    return path(
        at(outer, low), ["arc", at(outer, mid), at(outer, high)], ["arc", end(high, 1.0), at(inner, high)],
        ["arc", at(inner, mid), at(inner, low)], ["arc", end(low, -1.0), at(outer, low)],
    )  # fmt: skip


def bar(x0: float, y0: float, x1: float, y1: float, width: float) -> Outline:
    """A straight band with round ends between two centres."""
    long = hypot(x1 - x0, y1 - y0)
    ux, uy, h = (x1 - x0) / long, (y1 - y0) / long, width / 2
    return path(
        (x0 + uy * h, y0 - ux * h), ["line", [x1 + uy * h, y1 - ux * h]], ["arc", [x1 + ux * h, y1 + uy * h], [x1 - uy * h, y1 + ux * h]],
        ["line", [x0 - uy * h, y0 + ux * h]], ["arc", [x0 - ux * h, y0 - uy * h], [x0 + uy * h, y0 - ux * h]],
    )  # fmt: skip


def key(what: Any) -> str:
    """Content hash of plain data."""
    return hashlib.sha256(json.dumps(what, sort_keys=True, separators=(",", ":")).encode()).hexdigest()[:32]
