"""The mechanism as a line drawing, at any moment of its cycle."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.exchange.format import Chosen
from uhrwerk.core.exchange.placing import standing
from uhrwerk.core.line_drawing import VIEWS, Eye, Picture, Shown, picture
from uhrwerk.core.report.blocks import Figure
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.views.sketch import sketch

#: of a figure, and cells of its raster for one unit
SIZE, FINE = (480.0, 300.0), 2.5


def still(
    e: Evaluation, time: float = 0.0, eye: Eye = VIEWS["corner"], size: tuple[float, float] = SIZE, fine: float = FINE
) -> Picture:
    """All parts as they stand at a moment, s. ValidationFailed where a part has no solid, or nothing is placed."""
    solids = [
        Shown(one.id, vertices, triangles)
        for one in standing(e, Chosen(time=time))
        for _, vertices, triangles in one.bodies()
    ]
    return picture(solids, eye, *size, margin=6.0, fine=fine)


def scheme_figure(e: Evaluation) -> Figure | None:
    """The scheme at the start: links as lines, joints as circles, those on the frame with a foot, gears as their pitch circles."""
    width, height = SIZE[0], SIZE[1] * 0.6
    diagram = sketch(e.document, e.context, width, height, 14)
    lines = {
        "links": [np.array([p.split() for p in path.strip("MZ").split("L")], dtype=float) for path in diagram["links"]],
        "joints": [_circle(x, y, 3.0) for x, y, _ in diagram["joints"]],
        "feet": [np.array([[x - 5, y + 11], [x, y + 3], [x + 5, y + 11], [x - 5, y + 11]]) for x, y, on in diagram["joints"] if on],
        "gears": [_circle(x, y, r) for x, y, r in diagram["gears"]],
    }  # fmt: skip
    if not any(lines.values()):
        return None
    p = Picture(width, height, lines, VIEWS["front"], 1.0, (0.0, 0.0))
    return Figure(p, "The scheme at the start: links, joints, pitch circles.", {})


def _circle(x: float, y: float, r: float) -> Array:
    turn = np.linspace(0, 2 * np.pi, 73)
    return np.stack([x + r * np.cos(turn), y + r * np.sin(turn)], axis=1)


def figure(
    e: Evaluation,
    caption: str,
    time: float = 0.0,
    marked: Iterable[str] = (),
    points: Iterable[tuple[float, float, float]] = (),
) -> Figure:
    """The same with parts marked and crosses at places (m, in the world)."""
    p = still(e, time)
    names = {i: placed.name for i, placed in e.document.placed.items()}
    places = np.asarray(list(points), dtype=float).reshape(-1, 3)
    crosses = tuple((float(x), float(y)) for x, y in p.place(places)) if len(places) else ()
    return Figure(p, caption, names, tuple(dict.fromkeys(marked)), crosses)
