"""A sheet with a part: three views and one from a corner, the sizes that can be measured in them, and the title block.

Views lie as in first or third angle projection (ISO 5456-2). Title block: the fields of ISO 7200. Both from memory.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import product
from math import ceil, floor, pi
from typing import Any

from shapely import MultiLineString, Polygon

from uhrwerk.core.drafting.sheet import SCALES, SIZES, Dimension, Label, Linear, Round, Sheet, Stroke, lengths
from uhrwerk.core.drafting.view import View, direction, moved, view_of

#: right on paper and towards the eye: from the front (along z), from above, from the left, from the right, from a corner
FRONT = ([1.0, 0.0, 0.0], [0.0, 0.0, 1.0])
ABOVE = ([1.0, 0.0, 0.0], [0.0, 1.0, 0.0])
LEFT = ([0.0, 0.0, 1.0], [-1.0, 0.0, 0.0])
RIGHT = ([0.0, 0.0, -1.0], [1.0, 0.0, 0.0])
CORNER = ([0.8, 0.0, -0.6], [0.45, 0.62, 0.6])
#: of a sheet's frame, mm: on the left for filing, elsewhere; and the title block's
FILING, MARGIN, BLOCK = 20.0, 10.0, (180.0, 36.0)
#: between a view and its first dimension, and from one dimension to the next; beside a view for leaders; between views; mm
FIRST, NEXT, BESIDE, APART = 10.0, 8.0, 30.0, 12.0
#: between two lines of a section, along the sheet's height, mm
HATCH = 3.5
#: height of the line of notes above the title block, mm
NOTE = 11.0
#: of a table of data over the title block: width of its columns, height of a row, mm
DATA = ((52.0, 38.0), 5.0)
#: positions that are dimensioned along one side at most: more make a drawing that nobody reads
MOST = 7
#: more than so many are those of teeth: the whole of them is dimensioned, none of them alone
TOOTHED = 14
#: arcs alike about one centre from which on they are tips of teeth
TEETH = 6
#: m to mm
MM = 1e3


class TooLarge(ValueError):
    """A part that no sheet takes at any scale."""


@dataclass(frozen=True)
class TitleBlock:
    """What the title block says, empty fields stay empty; and a table of data over it, such as those of teeth."""

    title: str
    kind: str = "Part drawing"
    identity: str = ""
    material: str = ""
    mass: str = ""
    revision: str = ""
    date: str = ""
    first_angle: bool = True
    inches: bool = False
    data: tuple[tuple[str, str], ...] = ()


def part_sheet(lines: Callable[[list[Any]], list[dict[str, list[Any]]]], block: TitleBlock) -> Sheet:
    """The drawing of a part; `lines` gives the kernel's view for each pair of right and towards the eye."""
    directions = [FRONT, ABOVE, LEFT if block.first_angle else RIGHT, CORNER]
    front, above, beside, corner = (view_of(data) for data in lines(directions))
    section = section_of(front, above)
    if section is not None:  # the view from above shows what is inside
        above = view_of(lines([(*ABOVE, section)])[0])
    views = [front, above, beside, corner]
    measures = _measures(front, above, beside)
    layouts = (
        (size, scale, smaller, _arrangement(views, measures, scale, SIZES[size], block, smaller))
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
    if section is not None:
        _mark_section(sheet, views_on_paper, section)
    if smaller < 1:
        _, k, (x, y), _ = views_on_paper[-1]
        e = corner.extent
        words = next((n for n, s in SCALES.items() if abs(s - scale * smaller) < 1e-9), "not to scale")
        sheet.labels.append(Label(x + k * (e[0] + e[2]) / 2, y + k * e[1] - 6.0, words, anchor="middle"))
    left_out = sum(m.left_out for m in measures.values())
    sampled = [
        n for n, v in (("front", front), ("above", above), ("beside", beside)) if not (v.is_exact(0) and v.is_exact(1))
    ]
    notes = [f"Lengths in {lengths(block.inches)}. Nominal sizes; limits are not stated."]
    if left_out:
        notes.append(f"{left_out} more sizes are not on this sheet: take them from the solid.")
    if sampled:
        notes.append(f"How far free curves reach is not stated ({', '.join(sampled)}).")
    for row, note in enumerate(reversed(notes)):
        sheet.labels.append(Label(FILING + 3, MARGIN + BLOCK[1] + 1.2 + 3.4 * row, note, 2.5))
    _data(sheet, block.data)
    title_block(sheet, block, size, next(n for n, s in SCALES.items() if s == scale))
    return sheet


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


@dataclass(frozen=True)
class _Measures:
    """What is dimensioned in a view: heights from its lower edge, distances from its left edge (m), and groups of circles or arcs."""

    upright: list[float]
    across: list[float]
    leaders: list[tuple[bool, list[Any]]]
    left_out: int = 0

    def room(self) -> tuple[float, float, float, float]:
        """Free room for it, mm: left, below, right, above."""
        return (
            FIRST + NEXT * len(self.upright) if self.upright else 4.0,
            FIRST + NEXT * len(self.across) if self.across else 4.0,
            BESIDE if self.leaders else 4.0,
            6.0 + NEXT * len(self.leaders),
        )


def _measures(front: View, above: View, beside: View) -> dict[str, _Measures]:
    """What is dimensioned where: a size that one view shows already is not said again by another."""
    tip = _tip_circle(front)
    x, y = (_off_centre(front, 0), _off_centre(front, 1)) if tip else (_distances(front, 0), _distances(front, 1))
    z = _distances(above, 1)
    first = front.extent[0]
    if tip:  # the edges of teeth are told by their circles
        return {
            "front": _limited(y, x, [(True, [tip]), *(g for g in _leaders(front) if len(g[1]) < TEETH)]),
            "above": _limited(z, set(), _leaders(above)),
            "beside": _limited(set(), set(), _leaders(beside)),
            "corner": _Measures([], [], []),
        }
    sides = {s - first for c in front.circles() for s in (c[0] - c[2], c[0] + c[2])}  # of round holes and bosses
    depth = (b := beside.extent)[2] - b[0]
    return {
        "front": _limited(y, x, _leaders(front)),
        "above": _limited(z, _unless(_distances(above, 0), x | sides), _leaders(above)),
        "beside": _limited(
            _unless(_distances(beside, 1), y),
            _unless(_distances(beside, 0), {depth, *z, *(depth - d for d in z)}),
            _leaders(beside),
        ),
        "corner": _Measures([], [], []),
    }


def _tip_circle(view: View) -> tuple[float, float, float] | None:
    """The circle on which the tips of teeth lie (x, y, radius): that of most arcs alike about one centre."""
    groups: dict[tuple[float, ...], list[Any]] = {}
    for c in view.visible:
        if c[0] == "arc" and abs(c[5]) < pi / TEETH:
            groups.setdefault((round(c[1], 8), round(c[2], 8), round(c[3], 8)), []).append(c)
    teeth = [k for k, members in groups.items() if len(members) >= TEETH]
    if not teeth:
        return None
    x, y, r = max(teeth, key=lambda k: k[2])
    return (x, y, r) if abs(view.extent[2] - view.extent[0] - 2 * r) < 0.1 * r else None


def _off_centre(view: View, axis: int) -> set[float]:
    """How far from the view's left (or lower) end circles lie that are not in its middle, where that end is exact, m."""
    extent = view.extent
    middle = (extent[axis] + extent[axis + 2]) / 2
    if not view.is_exact(axis):
        return set()
    return {c[axis] - extent[axis] for c in view.circles() if abs(c[axis] - middle) > 1e-4}


def _distances(view: View, axis: int) -> set[float]:
    """How far from the view's lower (or left) edge its straight edges, its circles and the ends of its slots lie, m."""
    extent = view.extent
    first, last = extent[axis], extent[axis + 2]
    centres = [c[axis] for c in view.circles()] + [a[axis] for a in view.arcs() if a[4] > pi / 2 + 0.1]
    # what lies in the very middle is known by its centre lines
    off = {c - first for c in centres if abs(c - (first + last) / 2) > 1e-7}
    if not view.is_exact(axis):  # how far it reaches, and so what is counted from there, is known by samples alone
        return set()
    return {a - first for a in view.levels(axis) if _is_round(a - first)} | off | {last - first}


def _is_round(distance: float) -> bool:
    """Whether a distance, m, may be one that somebody stated: hundredths of a millimetre, or thousandths of an inch. Where two faces
    happen to meet is left out."""
    return any(abs(distance / unit - round(distance / unit)) * unit < 1e-7 for unit in (1e-5, 25.4e-6))


def _unless(distances: set[float], known: set[float]) -> set[float]:
    return {d for d in distances if all(abs(d - k) > 1e-7 for k in known)}


def _leaders(view: View) -> list[tuple[bool, list[Any]]]:
    groups: dict[tuple[bool, float], list[Any]] = {}
    for c in view.circles():
        groups.setdefault((True, round(c[2], 9)), []).append(c)
    for a in view.arcs():
        groups.setdefault((False, round(a[2], 9)), []).append(a)
    return [(whole, members) for (whole, _), members in sorted(groups.items(), key=lambda g: -g[0][1])]


def _limited(upright: set[float], across: set[float], leaders: list[tuple[bool, list[Any]]]) -> _Measures:
    """No more than so many of each, the largest always among them; how many are left out is counted."""
    sides = [_distinct(upright), _distinct(across)]
    fewer = [d if len(d) <= MOST else d[-1:] if len(d) > TOOTHED else [*d[: MOST - 1], d[-1]] for d in sides]
    left_out = sum(len(d) - len(f) for d, f in zip(sides, fewer, strict=True)) + max(0, len(leaders) - MOST)
    return _Measures(fewer[0], fewer[1], leaders[:MOST], left_out)


def _distinct(distances: set[float]) -> list[float]:
    """Without nothing and near doubles, sorted."""
    distinct = sorted(d for d in distances if d > 1e-6)
    distinct = [d for k, d in enumerate(distinct) if not k or d - distinct[k - 1] > 1e-7]
    return distinct


def _arrangement(
    views: list[View],
    measures: dict[str, _Measures],
    scale: float,
    paper: tuple[float, float],
    block: TitleBlock,
    corner_scale: float,
) -> list[tuple[View, float, tuple[float, float], _Own]] | None:
    """The views with their scale (mm on paper for a metre) and the place of their origin; None where they do not fit."""
    front, above, beside, corner = views
    (width, height), first_angle = paper, block.first_angle
    over = max(NOTE, DATA[1] * len(block.data) + 4.0 if block.data else 0.0)  # the title block
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
    other = room["beside"][0] + wide["beside"] + room["beside"][2]
    high = sum(room[n][1] + tall[n] + room[n][3] for n in (lower, upper)) + APART
    # the left column may reach lower beside the table
    wander = (width - FILING - MARGIN - column - APART - max(other, wide["corner"])) / 3
    apart = first_angle and FILING + wander + column < width - MARGIN - sum(DATA[0]) - 4.0
    left_over = NOTE if apart else over
    free = (width - FILING - MARGIN, height - 2 * MARGIN - BLOCK[1] - left_over)
    if column + APART + max(other, wide["corner"]) > free[0] or high > free[1]:
        return None
    if room["beside"][1] + tall["beside"] + APART + tall["corner"] > free[1]:
        return None
    spare = (free[0] - column - APART - max(other, wide["corner"])) / 3, (free[1] - high) / 3
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
        out.append((s, of[n], origin, _own(s, measures[n], k, origin)))
    return out


def _own(view: View, m: _Measures, k: float, origin: tuple[float, float]) -> _Own:
    """Dimensions and centre lines of a view; k is mm on paper for a metre."""
    own = _Own([], [], [])

    def at(x: float, y: float) -> tuple[float, float]:
        return origin[0] + k * x, origin[1] + k * y

    x0, y0, x1, y1 = view.extent
    upright, across, leaders = m.upright, m.across, m.leaders
    low, high = at(x0, y0), at(x1, y1)
    for row, d in enumerate(across):
        end = _end_of(view, 0, x0 + d, low[1], at)
        own.dimensions.append(Linear((low[0], low[1]), end, low[1] - FIRST - NEXT * row, False, d * MM))
    for row, d in enumerate(upright):
        end = _end_of(view, 1, y0 + d, low[0], at)
        own.dimensions.append(Linear((low[0], low[1]), end, low[0] - FIRST - NEXT * row, True, d * MM))
    # above the view on its right, each from its member that lies farthest right: the farther left, the higher
    arrows = [(whole, max(members, key=lambda c: float(c[0] + c[2])), len(members)) for whole, members in leaders]
    for row, (whole, member, count) in enumerate(sorted(arrows, key=lambda c: -float(c[1][0] + c[1][2]))):
        x, y, r, *more = member
        centre, to = at(x, y), (high[0] + 6.0, high[1] + 4.0 + NEXT * row)
        angle = direction(centre, to) if whole else more[0]
        value = (2 if whole else 1) * r * MM
        own.dimensions.append(Round(centre, k * r, angle, to, value, whole, count))
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


def title_block(sheet: Sheet, block: TitleBlock, size: str, scale: str) -> None:
    """The frame, the title block and the sign of the projection."""
    width, height = sheet.size

    def line(x0: float, y0: float, x1: float, y1: float, layer: Any = "frame") -> None:
        sheet.strokes.append(Stroke(layer, ("line", x0, y0, x1, y1)))

    def rectangle(x0: float, y0: float, x1: float, y1: float) -> None:
        for a in ((x0, y0, x1, y0), (x1, y0, x1, y1), (x1, y1, x0, y1), (x0, y1, x0, y0)):
            line(*a)

    rectangle(FILING, MARGIN, width - MARGIN, height - MARGIN)
    x, y = width - MARGIN - BLOCK[0], MARGIN
    rectangle(x, y, x + BLOCK[0], y + BLOCK[1])
    cells = (
        (0, 24, 60, 12, "Material", block.material), (60, 24, 40, 12, "Mass", block.mass),
        (100, 24, 30, 12, "Scale", scale), (130, 24, 50, 12, "Projection", ""),
        (0, 12, 60, 12, "Document type", block.kind), (60, 12, 70, 12, "Title", block.title),
        (130, 12, 50, 12, "Identification", block.identity),
        (0, 0, 60, 12, "Made with", "Uhrwerk"), (60, 0, 40, 12, "Date", block.date),
        (100, 0, 30, 12, "Revision", block.revision), (130, 0, 25, 12, "Size", size), (155, 0, 25, 12, "Sheet", "1/1"),
    )  # fmt: skip
    for cx, cy, w, h, name, text in cells:
        line(x + cx, y + cy, x + cx + w, y + cy, "thin")
        line(x + cx, y + cy, x + cx, y + cy + h, "thin")
        sheet.labels.append(Label(x + cx + 1.5, y + cy + h - 3.2, name, 1.8))
        sheet.labels.append(Label(x + cx + 1.5, y + cy + 2.4, fitting(text, w - 3, 3.5), 3.5))
    _projection_sign(sheet, x + 158, y + 30, block.first_angle)


def fitting(text: str, width: float, height: float) -> str:
    """As much of a text as fits into a width, mm."""
    most = int(width / (0.62 * height))
    return text if len(text) <= most else text[: most - 1] + "\u2026"


def _projection_sign(sheet: Sheet, x: float, y: float, first_angle: bool) -> None:
    """A frustum in two views: its circles on the right in first angle projection, on the left in third."""
    side = 1.0 if first_angle else -1.0
    cone, circles = x - 6.0 * side, x + 6.0 * side
    small, large = cone - 4.0 * side, cone + 4.0 * side
    if not first_angle:
        small, large = large, small
    a, b = (small, large) if first_angle else (large, small)
    shape = [(a, y - 1.5), (b, y - 3.0), (b, y + 3.0), (a, y + 1.5)]
    for p, q in zip(shape, [*shape[1:], shape[0]], strict=True):
        sheet.strokes.append(Stroke("visible", ("line", *p, *q)))
    for r in (1.5, 3.0):
        sheet.strokes.append(Stroke("visible", ("arc", circles, y, r, 0.0, 2 * pi)))
    sheet.strokes.append(Stroke("centre", ("line", x - 13, y, x + 13, y)))
    sheet.strokes.append(Stroke("centre", ("line", circles, y - 4.5, circles, y + 4.5)))
