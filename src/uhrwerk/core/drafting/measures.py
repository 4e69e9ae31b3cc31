"""What is dimensioned in the views of a part: which distances, circles and arcs, and which are left to another view."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from math import pi
from typing import Any

from uhrwerk.core.drafting.settings import OwnDistance
from uhrwerk.core.drafting.threads import ThreadInView, circle_place
from uhrwerk.core.drafting.threads import at as thread_at
from uhrwerk.core.drafting.view import View

#: between a view and its first dimension, and from one dimension to the next; beside a view for leaders; mm
FIRST, NEXT, BESIDE = 10.0, 8.0, 30.0
#: positions that are dimensioned along one side at most: more make a drawing that nobody reads
MOST = 7
#: more than so many are those of teeth: the whole of them is dimensioned, none of them alone
TOOTHED = 14
#: arcs alike about one centre from which on they are tips of teeth
TEETH = 6


@dataclass(frozen=True)
class Measures:
    """What is dimensioned in a view: heights from its lower edge, distances from its left edge (m), and groups of circles or arcs."""

    upright: list[float]
    across: list[float]
    leaders: list[tuple[bool, list[Any]]]
    left_out: int = 0
    own: tuple[OwnDistance, ...] = ()
    threads: Mapping[tuple[int, int, int], ThreadInView] = field(default_factory=dict)
    inches: bool = False

    def rows(self, kind: str) -> int:
        """Sizes one beside another on one side of the view."""
        return len(self.upright if kind == "upright" else self.across) + sum(d.id.kind == kind for d in self.own)

    def room(self) -> tuple[float, float, float, float]:
        """Free room for it, mm: left, below, right, above."""
        return (
            FIRST + NEXT * self.rows("upright") if self.rows("upright") else 4.0,
            FIRST + NEXT * self.rows("across") if self.rows("across") else 4.0,
            BESIDE if self.leaders else 4.0,
            6.0 + NEXT * len(self.leaders),
        )


def measures_of_views(
    views: dict[str, View],
    threads: dict[str, dict[tuple[int, int, int], ThreadInView]],
    in_table: set[tuple[int, int, int]],
) -> dict[str, Measures]:
    """What is dimensioned where: a size that one view shows already is not said again by another. Holes of the front view that stand in
    a table, `in_table`, have no dimensions there."""
    front = views["front"]
    if in_table:
        front = View([c for c in front.visible if c[0] != "arc" or circle_place(*c[1:4]) not in in_table], [])
    stated = _measures_of(front, views["above"], views["beside"], threads, views["front"].circles())
    return {n: replace(m, threads=threads.get(n, {})) for n, m in stated.items()}


def _measures_of(
    front: View, above: View, beside: View, threads: dict[str, Any], circles: list[tuple[float, float, float]]
) -> dict[str, Measures]:
    """The same with the `circles` of the front view, whose sides another view need not state."""
    tip = tip_circle(front)
    x, y = (_off_centre(front, 0), _off_centre(front, 1)) if tip else (_distances(front, 0), _distances(front, 1))
    z = _distances(above, 1)
    first = front.extent[0]
    if tip:  # the edges of teeth are told by their circles
        return {
            "front": _limited(
                y, x, [(True, [tip]), *(g for g in leaders_of(front, threads["front"]) if len(g[1]) < TEETH)]
            ),
            "above": _limited(z, set(), leaders_of(above, threads["above"])),
            "beside": _limited(set(), set(), leaders_of(beside, threads["beside"])),
            "corner": Measures([], [], []),
        }
    sides = {s - first for c in circles for s in (c[0] - c[2], c[0] + c[2])}  # of round holes and bosses
    depth = (b := beside.extent)[2] - b[0]
    return {
        "front": _limited(y, x, leaders_of(front, threads["front"])),
        "above": _limited(z, _unless(_distances(above, 0), x | sides), leaders_of(above, threads["above"])),
        "beside": _limited(
            _unless(_distances(beside, 1), y),
            _unless(_distances(beside, 0), {depth, *z, *(depth - d for d in z)}),
            leaders_of(beside, threads["beside"]),
        ),
        "corner": Measures([], [], []),
    }


def tip_circle(view: View) -> tuple[float, float, float] | None:
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


def leaders_of(view: View, threads: dict[tuple[int, int, int], ThreadInView]) -> list[tuple[bool, list[Any]]]:
    """Circles and arcs by their radius, the largest first; those with a thread apart."""
    groups: dict[tuple[bool, float, str], list[Any]] = {}
    for c in view.circles():
        thread = thread_at(*c, threads)
        groups.setdefault((True, round(c[2], 9), thread.text if thread else ""), []).append(c)
    for a in view.arcs():
        groups.setdefault((False, round(a[2], 9), ""), []).append(a)
    return [(whole, members) for (whole, _, _), members in sorted(groups.items(), key=lambda g: -g[0][1])]


def _limited(upright: set[float], across: set[float], leaders: list[tuple[bool, list[Any]]]) -> Measures:
    """No more than so many of each, the largest always among them; how many are left out is counted."""
    sides = [_distinct(upright), _distinct(across)]
    fewer = [d if len(d) <= MOST else d[-1:] if len(d) > TOOTHED else [*d[: MOST - 1], d[-1]] for d in sides]
    left_out = sum(len(d) - len(f) for d, f in zip(sides, fewer, strict=True)) + max(0, len(leaders) - MOST)
    return Measures(fewer[0], fewer[1], leaders[:MOST], left_out)


def _distinct(distances: set[float]) -> list[float]:
    """Without nothing and near doubles, sorted."""
    distinct = sorted(d for d in distances if d > 1e-6)
    distinct = [d for k, d in enumerate(distinct) if not k or d - distinct[k - 1] > 1e-7]
    return distinct
