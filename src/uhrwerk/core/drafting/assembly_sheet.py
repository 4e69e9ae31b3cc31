"""A sheet with a mechanism: three views and one from a corner, item numbers on leaders (ISO 6433), a parts list over the title block (ISO 7573),
and the overall sizes. Both standards from memory.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import product
from math import hypot
from typing import Any

import numpy as np
import shapely
from scipy.ndimage import distance_transform_edt

from uhrwerk.core.drafting.notes import LETTERS, LINE, wrapped
from uhrwerk.core.drafting.part_sheet import ABOVE, APART, CORNER, FRONT, LEFT, MM, RIGHT, TooLarge
from uhrwerk.core.drafting.sheet import SCALES, SIZES, Label, Linear, Sheet, Stroke, lengths
from uhrwerk.core.drafting.title_block import BLOCK, FILING, MARGIN, TitleBlock, fitting, title_block
from uhrwerk.core.line_drawing.depth import depths

#: of the circle of an item number, and from one to the next; between a view and its row of numbers; mm
BALLOON, PITCH, OFF = 4.5, 12.0, 14.0
#: a row of the parts list, mm, and its columns: item, quantity, designation, standard or size, material
ROW = 6.0
COLUMNS = ((12.0, "Item"), (14.0, "Qty"), (66.0, "Designation"), (50.0, "Standard, size"), (38.0, "Material"))
#: cells of the raster in which it is looked where an item is seen, along its larger side
CELLS = 360
#: a leader ends where an item reaches at least this part of the width all round that it has anywhere
WITHIN = 0.6


@dataclass(frozen=True)
class Item:
    """A line of the parts list: its number, how often it is there, what it is; and its solids as they stand: vertices (n, 3) m with
    triangles (m, 3)."""

    number: int
    quantity: int
    name: str
    standard: str
    material: str
    meshes: Sequence[tuple[Any, Any]]


@dataclass(frozen=True)
class _View:
    """A view as lines of points (k, 2) m, and its extent: least x and y, greatest x and y."""

    name: str
    direction: tuple[list[float], list[float]]
    lines: list[Any]
    extent: tuple[float, float, float, float]


def assembly_sheet(lines: Callable[[list[Any]], list[list[Any]]], items: Sequence[Item], block: TitleBlock) -> Sheet:
    """The drawing of a mechanism; `lines` gives the kernel's visible lines for each pair of right and towards the eye. TooLarge where no
    sheet takes it."""
    names = ("front", "above", "beside", "corner")
    directions = (FRONT, ABOVE, LEFT if block.first_angle else RIGHT, CORNER)
    views = [_view(n, d, data) for n, d, data in zip(names, directions, lines(list(directions)), strict=True)]
    anchors = _anchors(views, items)
    foot = _foot(block)
    for size, scale in _choices():
        places = _places(views, scale, SIZES[size], block.first_angle, len(items), anchors, foot)
        if places is not None:
            break
    else:
        raise TooLarge("the mechanism is too large for a sheet at any scale")
    sheet = Sheet(SIZES[size], scale, block.title, block.inches)
    k = scale * MM
    for view, (x, y) in zip(views, places, strict=True):
        for line in view.lines:
            sheet.strokes.append(Stroke("visible", ("curve", [[x + k * p, y + k * q] for p, q in line])))
    for view, at in zip(views, places, strict=True):
        _balloons(sheet, view, at, k, {n: (x, y) for n, (v, x, y) in anchors.items() if v == view.name})
    _sizes(sheet, views, places, k)
    _finish(sheet, items, block, size)
    return sheet


def exploded_sheet(
    lines: Callable[[list[Any]], list[list[Any]]], items: Sequence[Item], along: Sequence[Any], block: TitleBlock
) -> Sheet:
    """The mechanism taken apart, from a corner, with its parts list; `along` are lines (2, 3) m along which parts were moved."""
    view = _view("corner", CORNER, lines([CORNER])[0])
    anchors = _anchors([view], items)
    x0, y0, x1, y1 = view.extent
    foot = _foot(block)
    for size, scale in _choices():
        width, height = SIZES[size]
        k, table = scale * MM, BLOCK[1] + ROW * (len(items) + 1) + 6.0
        wide, tall = max(k * (x1 - x0), PITCH * len(anchors)), k * (y1 - y0) + OFF + 2 * BALLOON
        free = width - FILING - MARGIN
        beside = wide + BLOCK[0] + 2 * APART <= free
        below = foot if beside else MARGIN + max(table, foot - MARGIN)
        room = (free - BLOCK[0] - APART if beside else free, height - MARGIN - below)
        if wide <= room[0] and tall + 8.0 <= room[1]:
            break
    else:
        raise TooLarge("the mechanism is too large for a sheet at any scale")
    sheet = Sheet(SIZES[size], scale, block.title, block.inches)
    at = (
        FILING + room[0] / 2 - k * (x0 + x1) / 2,
        below + 4.0 + (room[1] - 4.0 - tall) / 2 - k * y0,
    )
    for line in view.lines:
        sheet.strokes.append(Stroke("visible", ("curve", [[at[0] + k * p, at[1] + k * q] for p, q in line])))
    right, toward = (np.array(d) / np.linalg.norm(d) for d in CORNER)
    flat = np.stack([right, np.cross(toward, right)])
    for line in along:
        (a, b), (c, d) = (np.array(at) + k * (flat @ np.asarray(p)) for p in line)
        sheet.strokes.append(Stroke("centre", ("line", float(a), float(b), float(c), float(d))))
    _balloons(sheet, view, at, k, {n: (x, y) for n, (_, x, y) in anchors.items()})
    _finish(sheet, items, block, size)
    return sheet


def _finish(sheet: Sheet, items: Sequence[Item], block: TitleBlock, size: str) -> None:
    """Parts list, notes and title block."""
    _parts_list(sheet, items)
    notes = (
        *("Visible lines, from triangles within 0.02 mm.", f"Lengths in {lengths(sheet.inches)}. Nominal sizes."),
        *reversed(_notes(block)),
    )
    for row, note in enumerate(notes):
        sheet.labels.append(Label(FILING + 3, MARGIN + 3 + LINE * row, note, LETTERS))
    title_block(sheet, block, size, next(n for n, s in SCALES.items() if s == sheet.scale))


def _notes(block: TitleBlock) -> list[str]:
    """A designer's, in lines that fit beside the title block of the narrowest sheet."""
    return wrapped(block.note, SIZES["A3"][0] - FILING - MARGIN - BLOCK[0] - 6.0)


def _foot(block: TitleBlock) -> float:
    """How high a designer's notes reach, mm from the lower edge of the sheet; the margin where there are none."""
    return MARGIN + LINE * len(_notes(block))


def _choices() -> list[tuple[str, float]]:
    """Sheets with scales in the order in which they are tried: up to half the size on a sheet at hand, then larger sheets, then smaller
    scales."""
    scales = list(SCALES.values())
    half = scales.index(0.5) + 1
    sizes = [s for s in SIZES if s != "A4"]
    return [*product(sizes, scales[:half]), *product(sizes, scales[half:])]


def _view(name: str, direction: tuple[list[float], list[float]], data: list[Any]) -> _View:
    """Joined to chains, each line once."""
    segments = np.round(np.array(data), 8)
    segments = segments[np.linalg.norm(segments[:, 1] - segments[:, 0], axis=1) > 1e-7]
    merged = shapely.line_merge(shapely.node(shapely.multilinestrings([shapely.linestrings(s) for s in segments])))
    lines = [shapely.get_coordinates(shapely.simplify(line, 1e-7)) for line in shapely.get_parts(merged)]
    low, high = segments.reshape(-1, 2).min(axis=0), segments.reshape(-1, 2).max(axis=0)
    return _View(name, direction, [line.tolist() for line in lines], (*low.tolist(), *high.tolist()))


def _anchors(views: Sequence[_View], items: Sequence[Item]) -> dict[int, tuple[str, float, float]]:
    """For each item that is visible: the view that shows most of it, and a place well within what it shows, m."""
    best: dict[int, tuple[float, str, float, float]] = {}
    for view in views:
        right, toward = (np.array(d) / np.linalg.norm(d) for d in view.direction)
        axes = np.stack([right, np.cross(toward, right), toward])
        x0, y0, x1, y1 = view.extent
        fine = CELLS / max(x1 - x0, y1 - y0)
        size = (int((x1 - x0) * fine) + 3, int((y1 - y0) * fine) + 3)
        shift = np.array([1 - x0 * fine, 1 - y0 * fine, 0.0])
        cells = [[(v @ axes.T * fine + shift)[t] for v, t in item.meshes] for item in items]
        own = [depths(np.concatenate(c), *size) for c in cells]
        nearest = np.max(own, axis=0)
        favour = 1.0 if view.name != "corner" else 0.5  # where several show it alike, a view square to it
        for item, depth in zip(items, own, strict=True):
            visible = np.pad(np.isfinite(depth) & (depth >= nearest), 1)
            inside = distance_transform_edt(visible)[1:-1, 1:-1]
            most = float(inside.max(initial=0.0))
            # of the places that lie well within, the highest: its leader is the shortest
            row, column = (int(k[-1]) for k in np.nonzero(inside >= WITHIN * most))
            width = most / fine * favour
            if most > 0 and width > best.get(item.number, (0.0,))[0]:
                best[item.number] = (width, view.name, x0 + (column - 0.5) / fine, y0 + (row - 0.5) / fine)
    return {n: (v, x, y) for n, (_, v, x, y) in best.items()}


#: room on the left of a view and below it, for its overall sizes; mm
LEFT_OF, BELOW = 18.0, 14.0


def _places(
    views: Sequence[_View],
    scale: float,
    size: tuple[float, float],
    first_angle: bool,
    rows: int,
    anchors: Any,
    foot: float,
) -> list[tuple[float, float]] | None:
    """Where the origin of each view lies on the sheet: front, beside and corner in columns, the view from above below the front, or above it
    in third angle projection, all above `foot`; None where they do not fit beside one another and the parts list."""
    k = scale * MM
    width, height = size
    of = {v.name: v for v in views}
    counts = {v.name: sum(1 for n, _, _ in anchors.values() if n == v.name) for v in views}
    true = {n: (k * (v.extent[2] - v.extent[0]), k * (v.extent[3] - v.extent[1])) for n, v in of.items()}
    wide = {n: max(w, PITCH * counts[n]) for n, (w, _) in true.items()}  # numbers need their row
    tall = {n: BELOW + h + (OFF + 2 * BALLOON if counts[n] else 6.0) for n, (_, h) in true.items()}
    columns = [LEFT_OF + max(wide["front"], wide["above"]), LEFT_OF + wide["beside"], LEFT_OF + wide["corner"]]
    free = width - FILING - MARGIN - 2 * APART - sum(columns)
    table = BLOCK[1] + ROW * (rows + 1) + 6.0
    upper, lower = (
        (("front", "beside", "corner"), ("above",)) if first_angle else (("above", "corner"), ("front", "beside"))
    )
    if free < 0:
        return None
    lefts = {"front": FILING + free / 4}
    lefts["above"] = lefts["front"]
    lefts["beside"] = lefts["front"] + columns[0] + APART + free / 4
    lefts["corner"] = lefts["beside"] + columns[1] + APART + free / 4
    over_table = max(lefts[n] + LEFT_OF + wide[n] for n in lower) > width - MARGIN - BLOCK[0] - 6.0
    rise = table if over_table else 0.0
    heights = max(tall[n] for n in upper), max(max(tall[n] for n in lower) + rise, table)
    spare = height - MARGIN - foot - sum(heights)
    if spare < 0:
        return None
    levels = dict.fromkeys(lower, foot + rise + spare / 3) | dict.fromkeys(upper, foot + heights[1] + 2 * spare / 3)
    if "corner" in levels and not first_angle:
        levels["corner"] = levels["above"]
    out = []
    for v in views:
        n = v.name
        column = columns[0] - LEFT_OF if n in ("front", "above") else wide[n]
        x = lefts[n] + LEFT_OF + (column - true[n][0]) / 2
        out.append((x - k * v.extent[0], levels[n] + BELOW - k * v.extent[1]))
    return out


def _balloons(
    sheet: Sheet, view: _View, at: tuple[float, float], k: float, anchors: dict[int, tuple[float, float]]
) -> None:
    """Numbers in a row above the view, in the order of the places that they point to, so that no leaders cross."""
    if not anchors:
        return
    x0, _, x1, y1 = (a + k * e for a, e in zip((*at, *at), view.extent, strict=True))
    points = {n: (at[0] + k * x, at[1] + k * y) for n, (x, y) in anchors.items()}
    level = y1 + OFF
    order = _uncrossed(points, x0, x1, level)
    for n, x in order:
        p = points[n]
        away = hypot(x - p[0], level - p[1])
        foot = (x + (p[0] - x) * BALLOON / away, level + (p[1] - level) * BALLOON / away)
        sheet.strokes.append(Stroke("thin", ("line", *foot, *p)))
        sheet.strokes.append(Stroke("thin", ("arc", x, level, BALLOON, 0.0, 6.283185307179586)))
        sheet.strokes.append(Stroke("visible", ("arc", *p, 0.35, 0.0, 6.283185307179586)))
        sheet.labels.append(Label(x, level - 1.6, str(n), 3.5, "middle"))


def _uncrossed(points: dict[int, tuple[float, float]], x0: float, x1: float, level: float) -> list[tuple[int, float]]:
    """Places in a row for numbers, and an order in which leaders do not cross: neighbours that do change places."""
    count = len(points)
    first = (x0 + x1) / 2 - PITCH * (count - 1) / 2
    slots = [first + PITCH * i for i in range(count)]
    order = sorted(points, key=lambda n: points[n])
    for _ in range(count * count):
        crossed = next(
            (
                (i, j)
                for i in range(count)
                for j in range(i + 1, count)
                if _cross((slots[i], level), points[order[i]], (slots[j], level), points[order[j]])
            ),
            None,
        )
        if crossed is None:
            break
        i, j = crossed
        order[i], order[j] = order[j], order[i]
    return list(zip(order, slots, strict=True))


def _cross(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float], d: tuple[float, float]) -> bool:
    """Whether the lines a-b and c-d meet."""

    def side(p: tuple[float, float], q: tuple[float, float], r: tuple[float, float]) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0


def _sizes(sheet: Sheet, views: Sequence[_View], places: Sequence[tuple[float, float]], k: float) -> None:
    """Width and height in the view from the front, depth in the one beside it."""
    named = {v.name: (v.extent, at) for v, at in zip(views, places, strict=True)}
    for name, upright in (("front", False), ("front", True), ("beside", False)):
        (x0, y0, x1, y1), (x, y) = named[name]
        a, b = (x + k * x0, y + k * y0), (x + k * x1, y + k * y0)
        if upright:
            sheet.dimensions.append(
                Linear(a, (x + k * x0, y + k * y1), a[0] - 10.0, True, (y1 - y0) * MM, inches=sheet.inches)
            )
        else:
            sheet.dimensions.append(Linear(a, b, a[1] - 8.0, False, (x1 - x0) * MM, inches=sheet.inches))


def _parts_list(sheet: Sheet, items: Sequence[Item]) -> None:
    """Over the title block, its heads at the foot, so that it grows upwards."""
    left, foot = sheet.size[0] - MARGIN - BLOCK[0], MARGIN + BLOCK[1]
    rows = [[name for _, name in COLUMNS]] + [
        [str(i.number), str(i.quantity), i.name, i.standard, i.material] for i in items
    ]
    for row, cells in enumerate(rows):
        y = foot + ROW * row
        sheet.strokes.append(Stroke("thin", ("line", left, y + ROW, left + BLOCK[0], y + ROW)))
        x = left
        for (width, _), text in zip(COLUMNS, cells, strict=True):
            height = 2.0 if row == 0 else 2.5
            sheet.labels.append(Label(x + 1.5, y + 1.8, fitting(text, width - 3, height), height))
            x += width
    x, top = left, foot + ROW * len(rows)
    for width, _ in (*COLUMNS, (0.0, "")):
        sheet.strokes.append(Stroke("thin", ("line", x, foot, x, top)))
        x += width
