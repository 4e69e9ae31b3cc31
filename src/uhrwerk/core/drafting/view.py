"""A part as seen from one side, in millimetres on paper: its curves, its extent, and what can be measured in it."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from math import atan2, cos, pi, sin
from typing import Any

import numpy as np

#: how near two places are taken for one, m
SAME = 1e-7

Curve = tuple[Any, ...]


@dataclass(frozen=True)
class View:
    """Curves in metres: those that are visible and those that are hidden. `cut` are the faces of a section, each its
    loops of points, the outer one first."""

    visible: list[Curve]
    hidden: list[Curve]
    cut: list[list[list[list[float]]]] = field(default_factory=list)

    @cached_property
    def extent(self) -> tuple[float, float, float, float]:
        """Least x and y, greatest x and y, m."""
        points = np.array([p for c in self.visible for p in _reach(c)])
        return (*points.min(axis=0).tolist(), *points.max(axis=0).tolist())

    def is_exact(self, axis: int) -> bool:
        """Whether lines and arcs alone say where it begins and ends across an axis (0: x): other curves are sampled."""
        ends = [p[axis] for c in self.visible if c[0] != "curve" for p in _reach(c)]
        extent = self.extent
        return bool(ends) and abs(min(ends) - extent[axis]) < SAME and abs(max(ends) - extent[axis + 2]) < SAME

    def circles(self) -> list[tuple[float, float, float]]:
        """Whole circles (x, y, radius), m, also such as lie in several arcs; the same one once."""
        around: dict[tuple[int, int, int], list[Any]] = {}
        for c in self.visible:
            if c[0] == "arc":
                around.setdefault(_key(*c[1:4]), [*c[1:4], 0.0])[3] += abs(c[5])
        return [(x, y, r) for x, y, r, by in around.values() if by > 2 * pi - 1e-4]

    def arcs(self) -> list[tuple[float, float, float, float, float]]:
        """Arcs that are no whole circle: (x, y, radius, the angle in its middle, how far it goes), m and rad."""
        whole = {_key(*c) for c in self.circles()}
        arcs = {
            (*_key(*c[1:4]), round(c[4], 3)): (c[1], c[2], c[3], c[4] + c[5] / 2, abs(c[5]))
            for c in self.visible
            if c[0] == "arc" and _key(*c[1:4]) not in whole and abs(c[5]) > 0.05
        }
        return list(arcs.values())

    def levels(self, axis: int) -> list[float]:
        """Where straight edges lie across an axis (0: x), m, sorted."""
        at = sorted(
            c[1 + axis]
            for c in self.visible
            if c[0] == "line" and abs(c[1 + axis] - c[3 + axis]) < SAME and abs(c[2 - axis] - c[4 - axis]) > 1e-4
        )
        return [a for k, a in enumerate(at) if not k or a - at[k - 1] > SAME]


def view_of(data: dict[str, list[Curve]]) -> View:
    """Of the kernel's answer; what is hidden behind a visible line is left out."""
    visible = {_whole(c) for c in data["visible"]}
    return View(
        data["visible"],
        [c for c in data["hidden"] if _whole(c) not in visible],
        [c[1] for c in data.get("cut", [])],
    )


def moved(c: Curve, scale: float, x: float, y: float) -> Curve:
    """A curve in metres, on paper."""
    if c[0] == "line":
        return ("line", x + scale * c[1], y + scale * c[2], x + scale * c[3], y + scale * c[4])
    if c[0] == "arc":
        return ("arc", x + scale * c[1], y + scale * c[2], scale * c[3], c[4], c[5])
    return ("curve", [[x + scale * p, y + scale * q] for p, q in c[1]])


def points_of(c: Curve, step: float = pi / 60) -> list[tuple[float, float]]:
    """A curve as points that look round."""
    if c[0] == "line":
        return [(c[1], c[2]), (c[3], c[4])]
    if c[0] == "curve":
        return [(p, q) for p, q in c[1]]
    _, x, y, r, begin, by = c
    count = max(2, int(abs(by) / step) + 1)
    return [(x + r * cos(begin + by * k / count), y + r * sin(begin + by * k / count)) for k in range(count + 1)]


def _reach(c: Curve) -> list[tuple[float, float]]:
    """Points among which are the outermost of a curve."""
    if c[0] != "arc":
        return points_of(c)
    _, x, y, r, begin, by = c
    low, high = min(begin, begin + by), max(begin, begin + by)
    turns = [k * pi / 2 for k in range(int(low // (pi / 2)), int(high // (pi / 2)) + 2) if low <= k * pi / 2 <= high]
    return [(x + r * cos(a), y + r * sin(a)) for a in (low, high, *turns)]


def _key(x: float, y: float, r: float) -> tuple[int, int, int]:
    return round(x / SAME), round(y / SAME), round(r / SAME)


def _whole(c: Curve) -> tuple[Any, ...]:
    """The same for two curves that lie on one another from end to end."""
    if c[0] == "curve":
        ends = sorted((tuple(np.round(c[1][0], 6)), tuple(np.round(c[1][-1], 6))))
        return ("curve", *ends, len(c[1]))
    if c[0] == "line":
        return ("line", *sorted(((round(c[1], 7), round(c[2], 7)), (round(c[3], 7), round(c[4], 7)))))
    middle = c[4] + c[5] / 2
    return ("arc", *_key(*c[1:4]), round(cos(middle), 5), round(sin(middle), 5), round(abs(c[5]), 5))


def direction(centre: tuple[float, float], to: tuple[float, float]) -> float:
    return atan2(to[1] - centre[1], to[0] - centre[0])
