"""An outline as lines to draw: every loop of it as points close enough to look round."""

from __future__ import annotations

from math import ceil, pi

import numpy as np
from shapely import Polygon, union_all
from shapely.geometry.base import BaseGeometry

from uhrwerk.core.solids.recipe import COMBINED
from uhrwerk.core.solids.recipe import Outline as Drawn

#: rad between two points of an arc
FINE = pi / 24

Line = list[list[float]]


def polylines(outline: Drawn) -> list[Line]:
    """The loops of an outline as closed lines of points [x, y], m; those of its members where it is made of others. What is taken
    from a face is not among them."""
    if "circle" in outline:
        x, y, r = outline["circle"]
        turn = np.linspace(0, 2 * pi, 49)
        return [np.column_stack([x + r * np.cos(turn), y + r * np.sin(turn)]).tolist()]
    if "path" in outline:
        return [_path(outline)]
    if "offset" in outline:
        return _lines(_region(outline))
    members: list[Drawn] = next((outline[how] for how in COMBINED if how in outline), [])
    return [line for one in members for line in polylines(one)]


def _region(outline: Drawn) -> BaseGeometry:
    """What an outline encloses, by points on its lines, m."""
    members: list[Drawn] = next((outline[how] for how in COMBINED if how in outline), [])
    if members:
        first, *others = (_region(one) for one in members)
        if "less" in outline or "holed" in outline:
            return first.difference(union_all(others))
        return union_all([first, *others])
    if "offset" in outline:
        return _region(outline["offset"]).buffer(outline["by"], join_style="mitre", mitre_limit=20)
    return union_all([Polygon(line) for line in polylines(outline) if len(line) > 3])


def _lines(region: BaseGeometry) -> list[Line]:
    """The closed lines round a region, those of its holes too."""
    pieces = [p for p in getattr(region, "geoms", [region]) if not p.is_empty]
    return [[list(p) for p in ring.coords] for piece in pieces for ring in (piece.exterior, *piece.interiors)]


def _path(outline: Drawn) -> Line:
    line: Line = [list(outline["start"])]
    for step in outline["path"]:
        if step[0] == "line":
            line.append(list(step[1]))
        elif step[0] == "arc":
            line += _arc(line[-1], step[1], step[2])
        elif step[0] == "bspline":
            line += _quadratic(*step[3]) if len(step[3]) == 3 else [list(p) for p in step[3]]
        else:
            line += [list(p) for p in step[1]]
    return line


def _quadratic(start: list[float], pole: list[float], end: list[float]) -> Line:
    """Points of a quadratic Bezier curve, after the first."""
    t = np.linspace(0, 1, 7)[1:, None]
    points: Line = ((1 - t) ** 2 * start + 2 * t * (1 - t) * np.array(pole) + t**2 * end).tolist()
    return points


def _arc(start: list[float], through: list[float], end: list[float]) -> Line:
    """Points of the arc through three, after the first."""
    a, b, c = (complex(*p) for p in (start, through, end))
    w = (c - a) / (b - a)
    if abs(w.imag) < 1e-12:
        return [list(end)]
    centre = (b - a) * (w - abs(w) ** 2) / (2j * w.imag) + a
    first, sweep = a - centre, np.angle((c - centre) / (a - centre))
    if (np.angle((b - centre) / (a - centre)) > 0) != (sweep > 0) or abs(np.angle((b - centre) / (a - centre))) > abs(
        sweep
    ):
        sweep -= 2 * pi * np.sign(sweep)
    count = max(2, ceil(abs(sweep) / FINE))
    points = centre + first * np.exp(1j * sweep * np.arange(1, count + 1) / count)
    return [[float(p.real), float(p.imag)] for p in points]
