"""Surface texture on a drawing: the sign with Ra, on a leader to a face, and one for all other faces (ISO 1302, from memory)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import product
from math import cos, hypot, pi, sin, sqrt, tau
from typing import Literal

import shapely

from uhrwerk.core.document.drawing import Removal
from uhrwerk.core.drafting.sheet import LETTER, Label, Sheet, Sign, Stroke, dimension_strokes
from uhrwerk.core.drafting.view import SAME, View

#: height of the letters of a sign, of its short and its long leg, mm
LETTERS, SHORT, LONG = 2.5, 3.5, 7.5
#: how far sideways a leg at 60 degrees goes for each mm of height
LEAN = 1 / sqrt(3)
#: of the horizontal line under a sign, either way; from a face to its sign, the nearest first; mm
FOOT, AWAY = 3.5, (10.0, 15.0, 21.0, 28.0, 36.0, 45.0, 60.0, 80.0)
#: directions in which a place is looked for
WAYS = [(cos(pi / 4 + k * pi / 8), sin(pi / 4 + k * pi / 8)) for k in range(16)]
#: free room round a sign, mm
ROOM = 1.0

Point = tuple[float, float]


@dataclass(frozen=True)
class TextureAt:
    """A face with a texture: in a view, an edge at `level` along an axis (0: x) and its place `near` (2,) m; or a circle about `near`."""

    key: str
    view: str
    near: Point
    outward: Point  # the normal of a plane, away from the material; nowhere for a circle
    axis: Literal[0, 1] | None
    radius: float
    roughness: str
    removal: Removal
    right: float = 0.0  # moved, mm on paper
    up: float = 0.0


def tip_of(view: View, t: TextureAt) -> Point | None:
    """Where a leader meets the face, m: on a visible line or circle of the view; None where it shows none."""
    x, y = t.near
    if t.axis is None:
        same = [c for c in view.visible if c[0] == "arc" and hypot(c[1] - x, c[2] - y) < SAME and abs(c[3] - t.radius) < SAME]  # fmt: skip
        if not same:
            return None
        arc = max(same, key=lambda c: abs(c[5]))
        whole = sum(abs(c[5]) for c in same) > tau - 1e-4
        turn = pi / 4 if whole else arc[4] + arc[5] / 2
        return x + t.radius * cos(turn), y + t.radius * sin(turn)
    level, along, best = t.near[t.axis], t.near[1 - t.axis], None
    for c in view.visible:
        if c[0] == "line" and abs(c[1 + t.axis] - level) < SAME and abs(c[3 + t.axis] - level) < SAME:
            low, high = sorted((c[2 - t.axis], c[4 - t.axis]))
            at = min(max(along, low), high)
            if best is None or abs(at - along) < abs(best - along):
                best = at
    if best is None:
        return None
    return (level, best) if t.axis == 0 else (best, level)


def texture_sign(key: str, words: str, foot: Point, roughness: str, removal: Removal, tip: Point | None) -> Sign:
    """The sign with its lower corner at `foot`, mm on paper, and a leader to `tip`."""
    x, y = foot
    text = f"Ra {roughness}"
    end = x + LONG * LEAN + LETTER * LETTERS * len(text) + 1.5
    legs = [[x - SHORT * LEAN, y + SHORT], [x, y], [x + LONG * LEAN, y + LONG], [end, y + LONG]]
    strokes = [Stroke("thin", ("curve", legs))]
    if removal == "required":
        strokes.append(Stroke("thin", ("line", x - SHORT * LEAN, y + SHORT, x + SHORT * LEAN, y + SHORT)))
    elif removal == "prohibited":  # the circle between the legs that is as high as the short one
        strokes.append(Stroke("thin", ("arc", x, y + SHORT * 2 / 3, SHORT / 3, 0.0, tau)))
    if tip is not None:
        right = x + FOOT if tip[1] < y else end  # a leader from above begins beside the text
        near = x - FOOT if tip[0] < x else right
        strokes.append(Stroke("thin", ("line", x - FOOT, y, right, y)))
        strokes.append(Stroke("thin", ("line", near, y, *tip)))
        strokes += _arrow(tip, (near - tip[0], y - tip[1]))
    label = Label(x + LONG * LEAN + 0.5, y + LONG - LETTERS - 0.9, text, LETTERS)
    return Sign(key, words, tuple(strokes), label)


def _arrow(tip: Point, toward: Point) -> Iterable[Stroke]:
    far = hypot(*toward) or 1.0
    u, v = toward[0] / far, toward[1] / far
    for turn in (pi / 12, -pi / 12):
        x, y = u * cos(turn) - v * sin(turn), u * sin(turn) + v * cos(turn)
        yield Stroke("thin", ("line", *tip, tip[0] + 3.0 * x, tip[1] + 3.0 * y))


def free_foot(
    sheet: Sheet, tip: Point, outward: Point, views: Sequence[shapely.Geometry], within: shapely.Geometry
) -> Point:
    """A place for the sign of a face where it covers no view, line of a dimension or text, the nearest that is looked at, on the outer
    side of the face if there is one; beside the face where there is none."""
    lines = [shapely.LineString([c[:2], c[2:]]) for d in sheet.dimensions for c in dimension_strokes(d)[0]]
    texts = [shapely.box(*t.box()) for t in sheet.texts()]
    others = [shapely.LineString(s.curve[1]) for g in sheet.signs for s in g.strokes if s.curve[0] == "curve"]
    taken = shapely.STRtree([*lines, *texts, *others, *views])
    for away, (u, v) in sorted(product(AWAY, WAYS), key=lambda w: w[1][0] * outward[0] + w[1][1] * outward[1] < -1e-9):
        foot = tip[0] + away * u, tip[1] + away * v
        if v < 0 and -_wide() < away * u < FOOT:
            continue  # its leader would cross it
        room = _room(foot)
        if within.covers(room) and not len(taken.query(room, predicate="intersects")):
            return foot
    return tip[0] + AWAY[0], tip[1] + AWAY[0]


def _room(foot: Point) -> shapely.Geometry:
    """What a sign takes, mm."""
    x, y = foot
    return shapely.box(x - FOOT - ROOM, y - ROOM, x + _wide() + ROOM, y + LONG + ROOM)


def _wide() -> float:
    return LONG * LEAN + LETTER * LETTERS * len("Ra 12.5") + 1.5


def for_all_others(foot: Point, roughness: str, some_differ: bool) -> tuple[list[Stroke], list[Label]]:
    """The sign for all faces that bear none, at the left of the sheet; with a sign in brackets where some faces bear others."""
    sign = texture_sign("", "", foot, roughness, "any", None)
    strokes, labels, x = list(sign.strokes), [sign.label], foot[0] + 18.0
    if some_differ:
        plain = [[x + 3.0 - SHORT * LEAN, foot[1] + SHORT], [x + 3.0, foot[1]], [x + 3.0 + LONG * LEAN, foot[1] + LONG]]
        strokes.append(Stroke("thin", ("curve", plain)))
        labels += [Label(x - 1.5, foot[1] + 2.0, "("), Label(x + 7.5, foot[1] + 2.0, ")")]
        x += 10.0
    return strokes, [*labels, Label(x + 3.0, foot[1] + 1.0, "Ra in \u00b5m", LETTERS)]
