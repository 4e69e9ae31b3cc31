"""Text as an outline, by the font that ships with Uhrwerk: its curves exactly, no triangles and no arcs in their place."""

from __future__ import annotations

from functools import lru_cache
from itertools import pairwise
from math import cos, sin
from pathlib import Path
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont
from numpy.typing import NDArray
from pydantic import StringConstraints
from shapely import Point, Polygon

from uhrwerk.core.field import Angle, Length, Numbers, ShownAsWritten, Size
from uhrwerk.core.outlines.outline import Outline, OutlineHandle, Unfit, point
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import path

FONT = Path(__file__).parent.parent / "fonts" / "commissioner-semibold.ttf"
#: a closed line: its start, and steps of one (a line) or two points (a quadratic curve by its pole and its end); font units
Contour = tuple[NDArray[np.float64], list[NDArray[np.float64]]]
#: points in which a curve is looked at to see what lies within what
LOOKED_AT = 8


class Text(Outline):
    """A line of text, its letters as high as stated for a capital; (x, y) is the foot of its left end, middle or right end.

    Letters are quadratic curves and lines of the font, their distances its advance widths, without kerning (ISO/IEC 14496-22,
    Open Font Format, tables glyf and hmtx).
    """

    title: ClassVar[str] = "Text"

    kind: Literal["text"] = "text"
    text: Annotated[str, ShownAsWritten(), StringConstraints(max_length=40)] = "A1"
    height: Size = "6 mm"
    align: Literal["left", "middle", "right"] = "left"
    x: Length = "0 mm"
    y: Length = "0 mm"
    turn: Angle = "0 deg"

    @staticmethod
    def handles(n: Numbers[Text]) -> list[OutlineHandle]:
        return [point("foot", n.x, n.y)]

    @staticmethod
    def outline_data(n: Numbers[Text]) -> Drawn:
        units_high, widths = _measures()
        if unknown := [c for c in n.text if c not in widths]:
            raise Unfit(f"the font has no {unknown[0]!r}")
        scale = n.height / units_high
        along = np.array([cos(n.turn), sin(n.turn)])
        across = np.array([-along[1], along[0]])
        pen = -scale * sum(widths[c] for c in n.text) * {"left": 0.0, "middle": 0.5, "right": 1.0}[n.align]
        frame = scale * np.stack([along, across])
        pieces: list[Drawn] = []
        for c in n.text:
            foot = np.array([n.x, n.y]) + pen * along
            pieces += [_drawn(shape, foot, frame) for shape in _letter(c)]
            pen += scale * widths[c]
        if not pieces:
            raise Unfit("the text is empty")
        if cramped := next((a + b for a, b in pairwise(n.text) if _meet(a, b)), ""):
            raise Unfit(f"the letters {cramped!r} overlap: put a space between them")
        return {"apart": pieces}


class _Contours(BasePen):  # type: ignore[misc]
    """Hears a letter's lines and curves, those of composed letters too."""

    def __init__(self, glyphs: Any) -> None:
        super().__init__(glyphs)
        self.contours: list[Contour] = []

    def _moveTo(self, at: tuple[float, float]) -> None:
        self.contours.append((np.array(at, dtype=float), []))

    def _lineTo(self, to: tuple[float, float]) -> None:
        self.contours[-1][1].append(np.array([to], dtype=float))

    def _qCurveToOne(self, pole: tuple[float, float], to: tuple[float, float]) -> None:
        self.contours[-1][1].append(np.array([pole, to], dtype=float))


@lru_cache(maxsize=1)
def _measures() -> tuple[float, dict[str, float]]:
    """How high a capital is, and how wide each letter, font units."""
    font = TTFont(FONT)
    names, advances = font.getBestCmap(), font["hmtx"]
    return float(font["OS/2"].sCapHeight), {chr(c): float(advances[name][0]) for c, name in names.items()}


@lru_cache(maxsize=256)
def _letter(letter: str) -> tuple[tuple[Contour, ...], ...]:
    """The pieces of a letter: of each the line round it, counterclockwise, then those of its holes, clockwise. A line that runs the
    way of the outermost one bounds material, the others bound holes of the smallest piece that they lie within."""
    font = TTFont(FONT)  # read as far as it is needed, and so not shared by threads
    glyphs = font.getGlyphSet()
    pen = _Contours(glyphs)
    glyphs[font.getBestCmap()[ord(letter)]].draw(pen)
    contours = [c for c in pen.contours if c[1]]
    areas = [Polygon(_points(c)) for c in contours]
    ways = [np.sign(_turned(_points(c))) for c in contours]
    outer_way = ways[int(np.argmax([a.area for a in areas]))] if contours else 0
    if outer_way < 0:
        contours = [_reversed(c) for c in contours]
    pieces = {k: [contours[k]] for k, way in enumerate(ways) if way == outer_way}
    for k, way in enumerate(ways):
        if way != outer_way:
            inside = Point(_points(contours[k])[0])
            pieces[min((p for p in pieces if areas[p].contains(inside)), key=lambda p: areas[p].area)].append(
                contours[k]
            )
    return tuple(tuple(p) for p in pieces.values())


def _reversed(contour: Contour) -> Contour:
    """A contour run through the other way."""
    at, steps = contour
    starts = [at, *(step[-1] for step in steps)]
    back = [np.array([*step[-2::-1], start]) for step, start in zip(steps, starts, strict=False)]
    return starts[-1], back[::-1]


@lru_cache(maxsize=1000)
def _meet(one: str, other: str) -> bool:
    """Whether a letter and the next one share anything; looked at by points on their curves."""
    wide = _measures()[1][one]
    return any(
        Polygon(_points(a[0])).intersects(Polygon(_points(b[0]) + np.array([wide, 0.0])))
        for a in _letter(one)
        for b in _letter(other)
    )


def _points(contour: Contour) -> NDArray[np.float64]:
    """Points on a contour (N, 2)."""
    at, steps = contour
    out = [at]
    for step in steps:
        if len(step) == 1:
            out.append(step[0])
        else:
            t = np.linspace(0, 1, LOOKED_AT + 1)[1:, None]
            out.extend((1 - t) ** 2 * at + 2 * t * (1 - t) * step[0] + t**2 * step[1])
        at = step[-1]
    return np.array(out)


def _turned(points: NDArray[np.float64]) -> float:
    """Twice the area within a line, less than zero where it runs clockwise."""
    x, y = points.T
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1))


def _drawn(piece: tuple[Contour, ...], foot: NDArray[np.float64], frame: NDArray[np.float64]) -> Drawn:
    """A piece of a letter as a recipe has it, m."""
    outer, *holes = [_path(contour, foot, frame) for contour in piece]
    return {"holed": [outer, *holes]} if holes else outer


def _path(contour: Contour, foot: NDArray[np.float64], frame: NDArray[np.float64]) -> Drawn:
    start, steps = contour
    at = foot + start @ frame
    first, out = at.tolist(), list[list[Any]]()
    for step in steps:
        points = foot + step @ frame
        if len(step) == 1:
            if np.hypot(*(points[0] - at)) > 1e-9:
                out.append(["line", points[0].tolist()])
        else:
            out.append(["bspline", [0.0, 1.0], [3, 3], [at.tolist(), *points.tolist()]])
        at = points[-1]
    if np.hypot(*(at - first)) > 1e-9:
        out.append(["line", first])
    return path(first, *out)
