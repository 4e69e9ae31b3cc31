"""The line drawing of an element: its edges in one or two views, and its dimensions with their lines."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from uhrwerk.core import elements
from uhrwerk.core.document import numbers
from uhrwerk.core.document.repeat import original_of
from uhrwerk.core.elements.drawn import DrawnDimension, View
from uhrwerk.core.solids import Solid, outlines
from uhrwerk.core.stages.evaluation import Evaluation

Array = NDArray[np.float64]

#: which axes of the part run to the right and up, and towards the eye
VIEWS: dict[View, tuple[int, int, tuple[float, float, float]]] = {
    "top": (0, 1, (0.0, 0.0, 1.0)),
    "side": (0, 2, (0.0, -1.0, 0.0)),
}
#: room between two dimension lines, and before the first, as a part of the drawing's size
STEP, FIRST = 0.09, 0.08


class DimensionLine(TypedDict):
    """A dimension: its field; the two points that it measures; the line between its arrows, as far off as keeps them clear
    of one another; `round` with a diameter sign. Points are x and y in mm, y up."""

    path: str
    of: list[list[float]]
    line: list[list[float]]
    round: bool


class ViewDrawn(TypedDict):
    """One view: edges as x1, y1, x2, y2 in mm, dimensions, and the box round all of it as x, y of two corners."""

    name: str
    edges: list[list[float]]
    dimensions: list[DimensionLine]
    box: list[float]


def drawing(solid: Solid, dimensions: list[DrawnDimension]) -> list[ViewDrawn]:
    """The views that its dimensions ask for; seen from above where there are none."""
    if not solid.bodies:
        return []
    views: list[View] = [v for v in VIEWS if any(d.view == v for d in dimensions)]
    return [_view(solid, v, [d for d in dimensions if d.view == v]) for v in views or ["top"]]


def part_drawing(e: Evaluation, placed: str) -> list[ViewDrawn]:
    """The drawing of a placed part, as its design is (not mirrored), with the paths of its fields in the document."""
    part = e.document.placed[placed].part
    n = numbers(e.document.parts[part].element, e.document.scope())
    solid = e.solids.get(original_of(placed), Solid({}))
    views = drawing(solid, [] if e.document.parts[part].steps else elements.of(n).dimensions(n))
    for view in views:
        for d in view["dimensions"]:
            d["path"] = f"parts.{part}.element.{d['path']}"
    return views


def _view(solid: Solid, view: View, dimensions: list[DrawnDimension]) -> ViewDrawn:
    right, up, eye = VIEWS[view]
    ends = np.concatenate([outlines(b.vertices, b.triangles, np.array(eye)) for b in solid.bodies.values()])
    flat = np.round(ends[:, :, [right, up]] * 1e3, 3)
    flat = flat[np.abs(flat[:, 0] - flat[:, 1]).max(axis=1) > 0]
    flipped = (flat[:, 0, 0] > flat[:, 1, 0]) | ((flat[:, 0, 0] == flat[:, 1, 0]) & (flat[:, 0, 1] > flat[:, 1, 1]))
    edges = np.unique(np.where(flipped[:, None, None], flat[:, ::-1], flat).reshape(-1, 4), axis=0)
    corners = edges.reshape(-1, 2)
    low, high = corners.min(axis=0), corners.max(axis=0)
    lines = _spread(dimensions, right, up, low, high)
    every = np.concatenate([corners, *(np.array(d["line"]) for d in lines)])
    box = [*every.min(axis=0).tolist(), *every.max(axis=0).tolist()]
    return {"name": view, "edges": edges.tolist(), "dimensions": lines, "box": box}


def _spread(dimensions: list[DrawnDimension], right: int, up: int, low: Array, high: Array) -> list[DimensionLine]:
    """Dimension lines: lengths along x below the part, one below the other, along y to its left; all others in place."""
    size = float(np.max(high - low))
    placed: list[list[tuple[float, float, float]]] = [[], []]  # what is taken: (from, to, row)
    out: list[DimensionLine] = []
    for d in sorted(dimensions, key=lambda d: np.linalg.norm(np.subtract(d.b, d.a))):
        of = [[1e3 * p[right], 1e3 * p[up]] for p in (d.a, d.b)]
        run = [k for k in (0, 1) if abs(of[0][1 - k] - of[1][1 - k]) < 1e-9]
        line = [list(p) for p in of]
        if len(run) == 1 and not (d.round and d.view == "top"):
            k = run[0]
            first, last = sorted((of[0][k], of[1][k]))
            row = 0
            while any(r == row and first < b - 1e-9 and a < last - 1e-9 for a, b, r in placed[k]):
                row += 1
            placed[k].append((first, last, row))
            for p in line:
                p[1 - k] = float(low[1 - k]) - size * (FIRST + STEP * row)
        out.append({"path": d.field, "of": of, "line": line, "round": d.round})
    return out


__all__ = ["DimensionLine", "ViewDrawn", "drawing", "part_drawing"]
