"""Threads on a drawing: a thin line at what the solid does not show, and the size of the thread for that of its drill (ISO 6410-1, from
memory).

A tapped hole is modelled as its drill's, a thread that is drawn plain as its pin or bore.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import pi
from typing import Any

import numpy as np

from uhrwerk.core.drafting.sheet import Stroke, number
from uhrwerk.core.drafting.view import SAME, View
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Numbers, numbers
from uhrwerk.core.part.design import whole
from uhrwerk.core.solids import Datum
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.steps import screw_sizes
from uhrwerk.core.steps.hole import Hole, bore
from uhrwerk.core.steps.thread import Thread, sizes

MM = 1e3


@dataclass(frozen=True)
class PartThread:
    """A thread about an axis of a part: `drawn` radius of the solid's face, `other` radius that a thin line stands for, m."""

    axis: Datum
    drawn: float
    other: float
    text: str


@dataclass(frozen=True)
class ThreadInView:
    """A thread whose axis points at the eye: (x, y) and radii in the view, m; its size in words."""

    x: float
    y: float
    drawn: float
    other: float
    text: str

    @property
    def nominal(self) -> float:
        """Its radius by name, m: that of a nut's thread is the outer one, as that of a pin's."""
        return max(self.drawn, self.other)


def threads_of(e: Evaluation, placed: str) -> list[PartThread]:
    """Tapped holes of a part, those of repeated steps too, and threads that are drawn plain."""
    document, datums = e.document, e.mechanism.datums.get(placed, {})
    inches, out = document.units.length == "in", list[PartThread]()
    for i, step in whole(document, document.placed[placed].part).steps.items():
        n: Numbers[Any] = numbers(step, document.scope())
        if isinstance(step, Hole) and step.form == "tapped" and step.screw:
            radius, nominal = bore(n) / 2, screw_sizes.table()[step.screw]["head"] / 2
            deep = "" if step.through else f" \u00d7 {number(n.depth * MM, inches)}"
            for axis in _holes(datums, i, radius):
                out.append(PartThread(axis, radius, nominal, f"{step.screw}{deep}"))
        elif isinstance(step, Thread) and step.drawn == "plain" and f"{i}.axis" in datums:
            axis, t = datums[f"{i}.axis"], sizes(n)
            words = step.size or f"M{number(t['d'] * MM)}\u00d7{number(t['pitch'] * MM)}"
            other = t["outer"] / 2 if axis.side == "bore" else t["root"] / 2
            out.append(PartThread(axis, axis.radius, other, words + ("-LH" if step.hand == "left" else "")))
    return out


def _holes(datums: Mapping[str, Datum], step: str, radius: float) -> Iterator[Datum]:
    """The bores that a step drilled, and those that repeats of it did: their faces bear its name."""
    own = re.compile(rf"{step}\.hole_\d+(\.\d+)?|[a-z0-9_]+\.(\w+_)?{step}_hole(_\d+)+(\.\d+)?")
    for name, datum in datums.items():
        if own.fullmatch(name) and datum.kind == "axis" and abs(datum.radius - radius) < 1e-9:
            yield datum


def threads_in_view(threads: Sequence[PartThread], axes: Array, view: View) -> dict[tuple[int, int, int], ThreadInView]:
    """Threads that a view, whose axes are (2, 3), shows as circles, by their places."""
    circles = {circle_place(*c) for c in view.circles()}
    out = {}
    for t in threads:
        x, y = (float(v) for v in axes @ t.axis.origin)
        if np.abs(axes @ t.axis.z).max() < 1e-9 and circle_place(x, y, t.drawn) in circles:
            out[circle_place(x, y, t.drawn)] = ThreadInView(x, y, t.drawn, t.other, t.text)
    return out


def at(x: float, y: float, radius: float, known: Mapping[tuple[int, int, int], ThreadInView]) -> ThreadInView | None:
    """The thread of a circle, if it has one."""
    return known.get(circle_place(x, y, radius))


def circle_place(x: float, y: float, radius: float) -> tuple[int, int, int]:
    """The same for circles that are taken for one."""
    return round(x / SAME), round(y / SAME), round(radius / SAME)


def thread_strokes(
    threads: Sequence[PartThread], axes: Array, view: View, section: float | None, k: float, origin: tuple[float, float]
) -> list[Stroke]:
    """On paper, k mm for a metre: three quarters of a circle where a thread points at the eye, two lines along it from the side. In a
    `section` square to y only threads that it goes through have lines; elsewhere those of holes are hidden."""
    strokes = []
    for t in threads_in_view(threads, axes, view).values():
        centre = origin[0] + k * t.x, origin[1] + k * t.y
        strokes.append(Stroke("thin", ("arc", *centre, k * t.other, pi / 2, 1.5 * pi)))
    toward = np.cross(axes[0], axes[1])
    for one in threads:
        hole = one.axis.side == "bore"
        if abs(toward @ one.axis.z) > 1e-9 or (section is not None and abs(one.axis.origin[1] - section) > SAME):
            continue
        ends = np.array([one.axis.origin + d * one.axis.z for d in one.axis.ends]) @ axes.T
        across = np.array([[0.0, -1.0], [1.0, 0.0]]) @ (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
        for side in (one.other, -one.other):
            (a, b), (c, d) = (np.array(origin) + k * (ends + side * across)).tolist()
            strokes.append(Stroke("hidden" if hole and section is None else "thin", ("line", a, b, c, d)))
    return strokes
