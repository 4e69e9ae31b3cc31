"""Slices of a body that lies over the bed: plane regions at any height, from its triangles."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from uhrwerk.core.equations.pose import Array

MM = 1e3
#: heights that differ by no more are the same, mm; faces that lean by no more stand upright
SAME, UPRIGHT = 1e-7, 1e-7


@dataclass(frozen=True, eq=False)
class PrintedBody:
    """A body over the bed: the placed part that it belongs to, its own name, the link that it moves with; vertices (n, 3) m with
    the bed at z = 0, triangles (m, 3), and how far these stray from curved faces, m."""

    placed: str
    name: str
    link: int
    vertices: Array
    triangles: NDArray[np.int64]
    deviation: float = 0.0


class Slices:
    """Regions of a body at heights, in millimetres. Where it is a prism along z, they are taken once."""

    def __init__(self, body: PrintedBody) -> None:
        self.body = body
        self._at: dict[int | float, shapely.Geometry] = {}

    @cached_property
    def low(self) -> float:
        """mm above the bed."""
        return float(self.body.vertices[:, 2].min()) * MM

    @cached_property
    def high(self) -> float:
        return float(self.body.vertices[:, 2].max()) * MM

    @cached_property
    def box(self) -> Array:
        """(4,) mm: least x and y, greatest x and y."""
        v = self.body.vertices[:, :2] * MM
        return np.concatenate([v.min(axis=0), v.max(axis=0)])

    def at(self, z: float) -> shapely.Geometry:
        """The region at a height, mm above the bed; empty above and below the body. At the height of a level face: one side of it."""
        if not self.low <= z <= self.high:
            return shapely.Polygon()
        levels, prisms = self._levels
        k = int(np.searchsorted(levels, z))
        inside = 0 < k < len(levels) and levels[k - 1] < z < levels[k]
        key: int | float = k if inside and prisms[k - 1] else z
        if key not in self._at:
            self._at[key] = self._cut(z)
        return self._at[key]

    @cached_property
    def _levels(self) -> tuple[Array, NDArray[np.bool_]]:
        """Heights of vertices, rising, mm; and whether the body is a prism between each and the next."""
        z = self.body.vertices[self.body.triangles] * MM
        normal = np.cross(z[:, 1] - z[:, 0], z[:, 2] - z[:, 0])
        leans = np.abs(normal[:, 2]) > UPRIGHT * np.linalg.norm(normal, axis=1)
        low, high = z[:, :, 2].min(axis=1), z[:, :, 2].max(axis=1)
        heights = np.unique(np.round(z[:, :, 2].ravel() / SAME) * SAME)
        slanted = leans & (high - low > 2 * SAME)
        edges = np.searchsorted(heights, np.stack([low[slanted] + SAME, high[slanted] - SAME]))
        change = np.zeros(len(heights) + 1, dtype=int)
        np.add.at(change, np.maximum(edges[0] - 1, 0), 1)
        np.add.at(change, edges[1], -1)
        return heights, np.cumsum(change)[: max(len(heights) - 1, 0)] == 0

    @cached_property
    def _solid(self) -> manifold3d.Manifold:
        return manifold3d.Manifold(
            manifold3d.Mesh64(
                np.ascontiguousarray(self.body.vertices * MM),
                np.ascontiguousarray(self.body.triangles, dtype=np.uint64),
            )
        )

    def _cut(self, z: float) -> shapely.Geometry:
        rings = [np.asarray(r) for r in self._solid.slice(z).to_polygons()]
        lines = [np.vstack([r, r[:1]]) for r in rings if len(r) > 2]
        if not lines:
            return shapely.Polygon()
        region = shapely.build_area(shapely.multilinestrings([shapely.linestrings(r) for r in lines]))
        return shapely.simplify(
            region if region.is_valid else region.buffer(0), SAME
        )  # without points on straight lines
