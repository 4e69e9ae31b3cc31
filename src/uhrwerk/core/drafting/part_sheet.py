"""A sheet with a part: three views and one from a corner, the sizes that can be measured in them, and the title block.

Views lie as in first or third angle projection (ISO 5456-2). Title block: the fields of ISO 7200. Both from memory.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import product
from math import ceil, floor
from typing import Any

import numpy as np
from shapely import MultiLineString, Polygon, box

from uhrwerk.core.drafting.hole_table import hole_table
from uhrwerk.core.drafting.measures import FIRST, NEXT, Measures, measures_of_views
from uhrwerk.core.drafting.notes import LINE, wrapped
from uhrwerk.core.drafting.settings import OwnDistance, SheetSettings, applied, marks, with_limits
from uhrwerk.core.drafting.sheet import (
    SCALES,
    SIZES,
    Dimension,
    Label,
    Linear,
    Round,
    Sheet,
    SizeId,
    Stroke,
    lengths,
)
from uhrwerk.core.drafting.surface_texture import for_all_others, free_foot, texture_sign, tip_of
from uhrwerk.core.drafting.threads import PartThread, circle_place, thread_strokes, threads_in_view
from uhrwerk.core.drafting.threads import at as thread_at
from uhrwerk.core.drafting.title_block import BLOCK, FILING, MARGIN, TitleBlock, fitting, title_block
from uhrwerk.core.drafting.view import View, direction, moved, view_of
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.solids import Datum

#: right on paper and towards the eye: from the front (along z), from above, from the left, from the right, from a corner
FRONT = ([1.0, 0.0, 0.0], [0.0, 0.0, 1.0])
ABOVE = ([1.0, 0.0, 0.0], [0.0, 1.0, 0.0])
LEFT = ([0.0, 0.0, 1.0], [-1.0, 0.0, 0.0])
RIGHT = ([0.0, 0.0, -1.0], [1.0, 0.0, 0.0])
CORNER = ([0.8, 0.0, -0.6], [0.45, 0.62, 0.6])
#: between views, mm
APART = 12.0
#: between two lines of a section, along the sheet's height, mm
HATCH = 3.5
#: height kept for notes above the title block at least, mm
NOTE = 11.0
#: lines of notes that the sign for all other faces takes
SIGN = 3
#: of a table of data over the title block: width of its columns, height of a row, mm
DATA = ((52.0, 38.0), 5.0)
#: m to mm
MM = 1e3


class TooLarge(ValueError):
    """A part that no sheet takes at any scale."""


def directions_of(first_angle: bool) -> dict[str, tuple[list[float], list[float]]]:
    """Right on paper and towards the eye, of each view."""
    return {"front": FRONT, "above": ABOVE, "beside": LEFT if first_angle else RIGHT, "corner": CORNER}


def part_sheet(
    lines: Callable[[list[Any]], list[dict[str, list[Any]]]],
    block: TitleBlock,
    settings: SheetSettings | None = None,
    threads: Sequence[PartThread] = (),
    bores: Sequence[Datum] = (),
) -> Sheet:
    """The drawing of a part; `lines` gives the kernel's view for each pair of right and towards the eye."""
    settings = settings or SheetSettings()
    front, above, beside, corner = (view_of(data) for data in lines(list(directions_of(block.first_angle).values())))
    section = section_of(front, above) if settings.section else None
    if section is not None:  # the view from above shows what is inside
        above = view_of(lines([(*ABOVE, section)])[0])
    views = [front, above, beside, corner]
    named = {"front": front, "above": above, "beside": beside}
    axes = {n: _axes(*d) for n, d in directions_of(block.first_angle).items()}
    threads_by_view = {n: threads_in_view(threads, axes[n], view) for n, view in named.items()}
    holes = hole_table(front, threads_by_view["front"], bores, axes["front"], block.inches) if settings.holes else []
    if holes:
        head = ("Hole", "From left, from below")
        rows = [(f"{h.tag}  {h.size}", f"X {h.x}  Y {h.y}") for h in holes]
        block = replace(block, data=(*block.data, head, *rows))
    in_table = {circle_place(*h.circle) for h in holes}
    measures = {
        n: replace(m, own=_of_view(settings, n), inches=block.inches)
        for n, m in measures_of_views(named, threads_by_view, in_table).items()
    }
    left_out = sum(m.left_out for m in measures.values())
    sampled = [
        n for n, v in (("front", front), ("above", above), ("beside", beside)) if not (v.is_exact(0) and v.is_exact(1))
    ]
    limits = "where they stand" if settings.says_more else "not stated"
    notes = [f"Lengths in {lengths(block.inches)}. Nominal sizes; limits {limits}."]
    if settings.before is not None:
        notes.append(f"A triangle marks what measures something else than at {settings.since}.")
    if settings.textures and not settings.texture:
        notes.append("Surface texture: Ra in \u00b5m.")
    if settings.holes and not holes:
        notes.append("No holes in a table: the view from the front shows none whose place is known exactly.")
    free = SIZES["A4"][0] - FILING - MARGIN - 6.0  # of the narrowest sheet
    notes += wrapped(settings.note, free - (sum(DATA[0]) if block.data else 0.0))
    if left_out:
        notes.append(f"{left_out} more sizes are not on this sheet: take them from the solid.")
    if sampled:
        notes.append(f"How far free curves reach is not stated ({', '.join(sampled)}).")
    note_rows = len(notes) + (SIGN if settings.texture else 0)
    layouts = (
        (size, scale, smaller, _arrangement(views, measures, scale, SIZES[size], block, smaller, note_rows))
        for (size, scale), smaller in product(_choices(), (1.0, 0.5))
    )
    layout = next(((size, scale, smaller, p) for size, scale, smaller, p in layouts if p is not None), None)
    if layout is None:
        raise TooLarge("the part is too large for a sheet at any scale")
    size, scale, smaller, views_on_paper = layout
    sheet = Sheet(SIZES[size], scale, block.title, block.inches)
    for view, k, (x, y), own in views_on_paper:
        sheet.strokes.extend(Stroke("visible", moved(c, k, x, y)) for c in view.visible)
        sheet.strokes.extend(Stroke("thin", line) for face in view.cut for line in hatching(face, k, x, y))
        if view is not corner and not view.cut:
            sheet.strokes.extend(Stroke("hidden", moved(c, k, x, y)) for c in view.hidden)
        sheet.strokes.extend(own.strokes)
        sheet.dimensions.extend(replace(d, inches=block.inches) for d in own.dimensions)
        sheet.labels.extend(own.labels)
    for name, (_, k, (x, y), _) in zip(measures, views_on_paper, strict=True):
        sheet.views[name] = (k, x, y)
        if name == "front":
            for hole in holes:
                u, v, r = hole.circle
                sheet.labels.append(Label(x + k * (u + 0.75 * r) + 0.6, y + k * (v + 0.75 * r) + 0.6, hole.tag, 2.5))
        if name in named:
            cut = section if named[name].cut else None
            sheet.strokes.extend(thread_strokes(threads, axes[name], named[name], cut, k, (x, y)))
    shown, hidden, unclear = applied(sheet.dimensions, settings.sizes)
    sheet.dimensions[:] = shown
    sheet.hidden.extend(hidden)
    sheet.unclear.extend(unclear)
    if settings.before is not None:
        strokes, labels = marks(shown, settings.before, block.revision)
        sheet.strokes.extend(strokes)
        sheet.labels.extend(labels)
    if section is not None:
        _mark_section(sheet, views_on_paper, section)
    if smaller < 1:
        _, k, (x, y), _ = views_on_paper[-1]
        e = corner.extent
        words = next((n for n, s in SCALES.items() if abs(s - scale * smaller) < 1e-9), "not to scale")
        sheet.labels.append(Label(x + k * (e[0] + e[2]) / 2, y + k * e[1] - 6.0, words, anchor="middle"))
    for row, note in enumerate(reversed(notes)):
        sheet.labels.append(Label(FILING + 3, MARGIN + BLOCK[1] + 1.2 + LINE * row, note, 2.5))
    _data(sheet, block.data)
    title_block(sheet, block, size, next(n for n, s in SCALES.items() if s == scale))
    _textures(sheet, settings, named, views_on_paper, len(notes), note_rows)
    return sheet


def _textures(
    sheet: Sheet, settings: SheetSettings, named: dict[str, View], views_on_paper: list[Any], notes: int, rows: int
) -> None:
    """Signs of faces, each where it covers nothing, and the one for all others over the notes; keys of those whose view shows no such
    edge are told."""
    low = MARGIN + BLOCK[1]
    if settings.texture:
        foot = (FILING + 6.0, low + 2.0 + LINE * notes)
        strokes, labels = for_all_others(foot, settings.texture, bool(settings.textures))
        sheet.strokes.extend(strokes)
        sheet.labels.extend(labels)
    within = box(FILING + 1, low + 1.0, sheet.size[0] - MARGIN - 1, sheet.size[1] - MARGIN - 1)
    occupied = [
        box(x + k * e[0] - 1, y + k * e[1] - 1, x + k * e[2] + 1, y + k * e[3] + 1)
        for view, k, (x, y), _ in views_on_paper
        for e in [view.extent]
    ]
    if settings.texture:
        occupied.append(box(FILING, low, FILING + 45.0, low + LINE * rows + 2.0))
    for t in settings.textures:
        at = tip_of(named[t.view], t)
        if at is None:
            sheet.unclear.append(t.key)
            continue
        k, x, y = sheet.views[t.view]
        tip = (x + k * at[0], y + k * at[1])
        u, v = free_foot(sheet, tip, t.outward, occupied, within)
        words = f"{t.view}: Ra {t.roughness}"
        sheet.signs.append(texture_sign(t.key, words, (u + t.right, v + t.up), t.roughness, t.removal, tip))


def _of_view(settings: SheetSettings, view: str) -> tuple[OwnDistance, ...]:
    return tuple(d for d in settings.own if d.id.view == view)


def _data(sheet: Sheet, rows: tuple[tuple[str, str], ...]) -> None:
    """A table of names and values over the title block."""
    (first, second), high = DATA
    right, foot = sheet.size[0] - MARGIN, MARGIN + BLOCK[1]
    left = right - first - second
    for row, (name, value) in enumerate(reversed(rows)):
        y = foot + high * row
        sheet.strokes.append(Stroke("thin", ("line", left, y + high, right, y + high)))
        sheet.labels.append(Label(left + 1.5, y + 1.4, fitting(name, first - 3, 2.5), 2.5))
        sheet.labels.append(Label(left + first + 1.5, y + 1.4, fitting(value, second - 3, 2.5), 2.5))
    for x in (left, left + first) if rows else ():
        sheet.strokes.append(Stroke("thin", ("line", x, foot, x, foot + high * len(rows))))


def section_of(front: View, above: View) -> float | None:
    """Where a section square to y shows most, m: through the largest hole that is whole in the front view; none where the view from
    above hides nothing."""
    x0, y0, x1, y1 = front.extent
    holes = [c for c in front.circles() if y0 + 1e-6 < c[1] - c[2] and c[1] + c[2] < y1 - 1e-6]
    holes = holes or [c for c in front.circles() if 2 * c[2] < min(x1 - x0, y1 - y0) - 1e-6]
    return max(holes, key=lambda c: (c[2], -c[1]))[1] if holes and above.hidden else None


def hatching(face: list[list[list[float]]], k: float, x: float, y: float) -> list[tuple[Any, ...]]:
    """Thin lines at 45 degrees across a cut face, mm on paper (ISO 128-3, section lines; the spacing by common practice)."""
    outer, *inner = [[(x + k * p, y + k * q) for p, q in loop] for loop in face]
    area = Polygon(outer, inner).buffer(0)
    x0, y0, x1, y1 = area.bounds
    first, last = ceil((y0 - x1) / HATCH), floor((y1 - x0) / HATCH)
    across = MultiLineString([[(x0, x0 + n * HATCH), (x1, x1 + n * HATCH)] for n in range(first, last + 1)])
    cut = across.intersection(area)
    pieces = [p for p in getattr(cut, "geoms", [cut]) if p.geom_type == "LineString" and p.length > 1e-6]
    return [("line", *p.coords[0], *p.coords[-1]) for p in pieces]


def _mark_section(sheet: Sheet, views_on_paper: list[Any], at: float) -> None:
    """The line of the section in the front view, its ends wide, with arrows the way it is looked along; its name at both views."""
    (front, k, (x, y), _), (above, _, (u, v), _) = views_on_paper[:2]
    e, f = front.extent, above.extent
    level, left, right = y + k * at, x + k * e[0] - 5.0, x + k * e[2] + 5.0
    sheet.strokes.append(Stroke("centre", ("line", left, level, right, level)))
    for end, way in ((left, 1.0), (right, -1.0)):
        sheet.strokes.append(Stroke("visible", ("line", end, level, end + 4.0 * way, level)))
        sheet.strokes.append(Stroke("visible", ("line", end, level + 5.0, end, level)))
        for side in (-1.0, 1.0):
            sheet.strokes.append(Stroke("visible", ("line", end + side, level + 2.0, end, level)))
    sheet.labels.append(Label(left, level + 6.0, "A", 3.5, "middle"))
    sheet.labels.append(Label(right, level + 6.0, "A", 3.5, "middle"))
    sheet.labels.append(Label(u + k * f[0] - 2.0, v + k * f[3] + 2.5, "A\u2013A", 3.5))


def _choices() -> list[tuple[str, float]]:
    """Sheets with scales in the order in which they are tried: the largest scale at which the part fits on A4 or A3, down to its own
    size; then larger sheets and smaller scales."""
    scales = list(SCALES.values())
    return [*((s, k) for k, s in product(scales[:4], ("A4", "A3"))), *((s, k) for k, s in product(scales[3:], SIZES))]


@dataclass
class _Own:
    """What belongs to a view besides its curves, on paper; the room that it takes on each side: left, below, right, above."""

    strokes: list[Stroke]
    dimensions: list[Dimension]
    labels: list[Label]


def _axes(right: list[float], toward: list[float]) -> Array:
    """Right and up (2, 3) of a view."""
    return np.array([right, np.cross(toward, right)])


def _arrangement(
    views: list[View],
    measures: dict[str, Measures],
    scale: float,
    paper: tuple[float, float],
    block: TitleBlock,
    corner_scale: float,
    notes: int,
) -> list[tuple[View, float, tuple[float, float], _Own]] | None:
    """The views with their scale (mm on paper for a metre) and the place of their origin; None where they do not fit."""
    front, above, beside, corner = views
    (width, height), first_angle = paper, block.first_angle
    note = max(NOTE, LINE * notes + 1.0)
    over = max(note, DATA[1] * len(block.data) + 4.0 if block.data else 0.0)  # the title block
    k = scale * MM
    named = {"front": front, "above": above, "beside": beside, "corner": corner}
    of = dict.fromkeys(named, k) | {"corner": k * corner_scale}
    size = {n: ((e := s.extent)[2] - e[0], e[3] - e[1]) for n, s in named.items()}
    wide = {n: w * of[n] for n, (w, _) in size.items()}
    tall = {n: h * of[n] for n, (_, h) in size.items()}
    room = {n: m.room() for n, m in measures.items()}
    left = max(room["front"][0], room["above"][0])
    right = max(room["front"][2], room["above"][2])
    lower, upper = ("above", "front") if first_angle else ("front", "above")
    column = left + max(wide["front"], wide["above"]) + right
    # the view from a corner begins where the one beside does
    other = room["beside"][0] + max(wide["beside"] + room["beside"][2], wide["corner"])
    high = sum(room[n][1] + tall[n] + room[n][3] for n in (lower, upper)) + APART
    # the left column may reach lower beside the table
    wander = (width - FILING - MARGIN - column - APART - other) / 3
    apart = first_angle and FILING + wander + column < width - MARGIN - sum(DATA[0]) - 4.0
    left_over = note if apart else over
    free = (width - FILING - MARGIN, height - 2 * MARGIN - BLOCK[1] - left_over)
    if column + APART + other > free[0] or high > free[1]:
        return None
    if room["beside"][1] + tall["beside"] + APART + tall["corner"] > free[1]:
        return None
    spare = (free[0] - column - APART - other) / 3, (free[1] - high) / 3
    x = FILING + spare[0] + left
    y_low = MARGIN + BLOCK[1] + left_over + spare[1] + room[lower][1]
    y_high = y_low + tall[lower] + room[lower][3] + APART + spare[1] + room[upper][1]
    x_other = FILING + 2 * spare[0] + column + APART + room["beside"][0]
    at = {lower: (x, y_low), upper: (x, y_high)}
    at["beside"] = (x_other, at["front"][1])
    y_corner = at["above"][1] + (tall["above"] - tall["corner"]) / 2
    lowest = MARGIN + BLOCK[1] + (over if block.data else 0.0) + (12.0 if corner_scale < 1 else 4.0)
    if first_angle:
        y_corner = max(min(y_corner, at["front"][1] - room["beside"][1] - APART - tall["corner"]), lowest)
        if y_corner + tall["corner"] > at["front"][1] - room["beside"][1]:
            return None
    else:
        y_corner = max(y_corner, at["front"][1] + tall["beside"] + APART)
        if y_corner + tall["corner"] > height - MARGIN:
            return None
    at["corner"] = (x_other, y_corner)
    out = []
    for n, s in named.items():
        e = s.extent
        origin = (at[n][0] - e[0] * of[n], at[n][1] - e[1] * of[n])
        out.append((s, of[n], origin, _own(n, s, measures[n], k, origin)))
    return out


def _own(name: str, view: View, m: Measures, k: float, origin: tuple[float, float]) -> _Own:
    """Dimensions and centre lines of a view; k is mm on paper for a metre."""
    own = _Own([], [], [])

    def at(x: float, y: float) -> tuple[float, float]:
        return origin[0] + k * x, origin[1] + k * y

    x0, y0, x1, y1 = view.extent
    upright, across, leaders = m.upright, m.across, m.leaders
    low, high = at(x0, y0), at(x1, y1)
    for row, d in enumerate(across):
        end = _end_of(view, 0, x0 + d, low[1], at)
        which = SizeId(name, "across", row + 1, len(across))
        own.dimensions.append(Linear((low[0], low[1]), end, low[1] - FIRST - NEXT * row, False, d * MM, id=which))
    for row, d in enumerate(upright):
        end = _end_of(view, 1, y0 + d, low[0], at)
        which = SizeId(name, "upright", row + 1, len(upright))
        own.dimensions.append(Linear((low[0], low[1]), end, low[0] - FIRST - NEXT * row, True, d * MM, id=which))
    beyond = {"across": len(across), "upright": len(upright)}
    for size in m.own:
        kind, axis = size.id.kind, int(size.id.kind == "upright")
        line = low[1 - axis] - FIRST - NEXT * beyond[kind]
        beyond[kind] += 1
        far = abs(size.b[axis] - size.a[axis]) * MM
        stated = Linear(at(*size.a), at(*size.b), line, kind == "upright", far, id=size.id)
        stated = replace(stated, after=with_limits(size.after, far, m.inches))
        own.dimensions.append(stated.moved(size.right, size.up))
    # above the view on its right, each from its member that lies farthest right: the farther left, the higher
    arrows = [(whole, max(members, key=lambda c: float(c[0] + c[2])), len(members)) for whole, members in leaders]
    for row, (whole, member, count) in enumerate(sorted(arrows, key=lambda c: -float(c[1][0] + c[1][2]))):
        x, y, r, *more = member
        thread = thread_at(x, y, r, m.threads) if whole else None
        r = thread.nominal if thread else r
        centre, to = at(x, y), (high[0] + 6.0, high[1] + 4.0 + NEXT * row)
        angle = direction(centre, to) if whole else more[0]
        value = (2 if whole else 1) * r * MM
        alike = sorted((float(c[2]), c[:2]) for w, c, _ in arrows if w == whole)
        place = alike.index((float(member[2]), member[:2])) + 1
        which = SizeId(name, "diameter" if whole else "radius", place, len(alike))
        words = thread.text if thread else ""
        own.dimensions.append(Round(centre, k * r, angle, to, value, whole, count, id=which, thread=words))
    for x, y, r in view.circles():
        reach = k * r + 3.0
        cx, cy = at(x, y)
        own.strokes.append(Stroke("centre", ("line", cx - reach, cy, cx + reach, cy)))
        own.strokes.append(Stroke("centre", ("line", cx, cy - reach, cx, cy + reach)))
    return own


def _end_of(
    view: View, axis: int, value: float, edge: float, at: Callable[[float, float], tuple[float, float]]
) -> tuple[float, float]:
    """Where the extension line of a distance begins: at the lowest (or leftmost) point that lies there."""
    ends = [
        p for c in view.visible if c[0] == "line" for p in ((c[1], c[2]), (c[3], c[4])) if abs(p[axis] - value) < 1e-7
    ]
    ends += [(x, y) for x, y, _ in view.circles() if abs((x, y)[axis] - value) < 1e-7]
    if not ends:
        point = at(value, value)
        return (point[0], edge) if axis == 0 else (edge, point[1])
    return at(*min(ends, key=lambda p: p[1 - axis]))
