"""A stack of layers of one height, from the bed up."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import ceil, floor
from typing import Any

import shapely

from uhrwerk.core.printing.slices import Slices

#: a face lies on a layer's edge within this part of a layer
EDGE = 1e-3
#: regions that share no more are apart, mm2
TOUCH = 1e-3


@dataclass(frozen=True)
class Stack:
    """Layers of `height` mm: the first, 0, lies on the bed."""

    height: float

    def count(self, top: float) -> int:
        """Layers that reach up to a height, mm."""
        return max(0, ceil(top / self.height - EDGE))

    def middle(self, layer: int) -> float:
        """Where a layer is cut, mm above the bed: what lies there is printed in the whole of it. Just above the very middle, so
        that a level face there belongs to what lies over it."""
        return (layer + 0.5 + EDGE) * self.height

    def reached(self, body: Slices, layer: int) -> shapely.Geometry:
        """What a body reaches of a layer anywhere in its height: seen at both its edges and in its middle."""
        ends = layer + EDGE, layer + 0.5 + EDGE, layer + 1 - EDGE
        regions = {id(r): r for r in (body.at(z * self.height) for z in ends)}  # a prism's are one and the same
        return shapely.union_all(list(regions.values())) if len(regions) > 1 else next(iter(regions.values()))

    def unparted(self, a: Slices, b: Slices) -> Iterator[tuple[int, shapely.Geometry]]:
        """Layers below which no whole one is left out between two bodies where one lies above the other, lowest first, each with the
        region of it. Two layers or more between them always hold a whole one."""
        if a.box[0] > b.box[2] or b.box[0] > a.box[2] or a.box[1] > b.box[3] or b.box[1] > a.box[3]:
            return
        low, high = max(a.low, b.low), min(a.high, b.high)
        first = max(0, floor(min(low, high) / self.height) - 1)
        last = ceil(max(low, high) / self.height) + 1
        before = self.reached(a, first), self.reached(b, first)
        looked: tuple[Any, ...] = ()
        for k in range(first, last):
            after = self.reached(a, k + 1), self.reached(b, k + 1)
            pairs = (before, (before[0], after[1]), (after[0], before[1]))
            if looked and all(x is y for x, y in zip(looked, (*before, *after), strict=True)):
                pass  # as in the layer below: `shared` is the same
            else:
                shared = shapely.union_all([shapely.intersection(x, y) for x, y in pairs])
            if shared.area > TOUCH:
                yield k, shared
            looked, before = (*before, *after), after
