"""Holes of a view in a table: a tag each, its size and its place."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from string import ascii_uppercase

import numpy as np

from uhrwerk.core.drafting.measures import leaders_of, tip_circle
from uhrwerk.core.drafting.sheet import number
from uhrwerk.core.drafting.threads import ThreadInView, circle_place
from uhrwerk.core.drafting.threads import at as thread_at
from uhrwerk.core.drafting.view import SAME, View
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.solids import Datum

MM = 1e3


@dataclass(frozen=True)
class HoleRow:
    """A hole of the front view: a tag, its size and place as they are written; its centre and radius there, m."""

    tag: str
    size: str
    x: str
    y: str
    circle: tuple[float, float, float]


def hole_table(
    front: View,
    threads: dict[tuple[int, int, int], ThreadInView],
    bores: Sequence[Datum],
    axes: Array,
    inches: bool,
) -> list[HoleRow]:
    """Round `bores` that the front view shows as whole circles, a letter for those alike, the largest first; places from the lower left end of the view. None where
    these ends are known by samples of a free curve alone, or there are no holes."""
    if not (front.is_exact(0) and front.is_exact(1)) or tip_circle(front):
        return []
    x0, y0 = front.extent[:2]
    square = [b for b in bores if np.abs(axes @ b.z).max() < SAME]
    known = {circle_place(float(axes[0] @ b.origin), float(axes[1] @ b.origin), b.radius) for b in square}
    groups = [
        [c for c in members if circle_place(*c) in known] for whole, members in leaders_of(front, threads) if whole
    ]
    out = []
    for letter, members in zip(_letters(), (g for g in groups if g), strict=False):
        for n, (x, y, r) in enumerate(sorted(members, key=lambda c: (round(c[0], 7), round(c[1], 7))), 1):
            thread = thread_at(x, y, r, threads)
            size = thread.text if thread else f"\u2300{number(2 * r * MM, inches)}"
            place = number((x - x0) * MM, inches), number((y - y0) * MM, inches)
            out.append(HoleRow(f"{letter}{n}", size, *place, (x, y, r)))
    return out


def _letters() -> Iterator[str]:
    """A, B, ... Z, AA, AB, ...; without I and O, which look like figures."""
    plain = [c for c in ascii_uppercase if c not in "IO"]
    yield from plain
    yield from (a + b for a in plain for b in plain)
