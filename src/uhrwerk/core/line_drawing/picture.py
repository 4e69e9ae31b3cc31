"""A picture: what is seen of solids in a frame of given size, as lines, a group for each solid."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.line_drawing.depth import depths, visible_pieces
from uhrwerk.core.line_drawing.eye import Eye
from uhrwerk.core.solids.solid import outlines

Array = NDArray[np.float64]

#: part of the depth by which an edge may lie behind the surface it belongs to
SLACK = 0.008


@dataclass(frozen=True)
class Shown:
    """One solid as it stands: vertices (n, 3) m in the world, triangles (m, 3)."""

    name: str
    vertices: Array
    triangles: NDArray[np.int64]


@dataclass(frozen=True)
class Picture:
    """Lines by the name of their solid: chains of points (k, 2) in the frame, y down. `scale`: units of the frame for one metre;
    `shift`: where the world's origin, seen from the eye, lies in the frame, y up."""

    width: float
    height: float
    lines: dict[str, list[Array]]
    eye: Eye
    scale: float
    shift: tuple[float, float]

    def place(self, points: Array) -> Array:
        """Where points (n, 3) m of the world lie in the frame (n, 2), y down."""
        xy = np.asarray(points) @ self.eye.axes[:2].T * self.scale + self.shift
        return np.stack([xy[..., 0], self.height - xy[..., 1]], axis=-1)


def picture(
    solids: Sequence[Shown], eye: Eye, width: float, height: float, margin: float = 2.0, fine: float = 2.0
) -> Picture:
    """What is seen of solids, as large as fits within the margin; `fine` cells of the raster for one unit of the frame."""
    axes = eye.axes
    placed = [s.vertices @ axes.T for s in solids if len(s.triangles)]
    every = np.concatenate(placed) if placed else np.zeros((1, 3))
    low, high = every[:, :2].min(axis=0), every[:, :2].max(axis=0)
    room = np.array([width, height]) - 2 * margin
    scale = float(min(room / np.maximum(high - low, 1e-9)))
    shift = np.array([width, height]) / 2 - scale * (low + high) / 2
    size = (round(width * fine), round(height * fine))

    def cells(points: Array) -> Array:
        xy = (points[..., :2] * scale + shift) * fine
        return np.concatenate([xy, points[..., 2:] * scale * fine], axis=-1)

    shown = [s for s in solids if len(s.triangles)]
    triangles = [cells(v)[s.triangles] for s, v in zip(shown, placed, strict=True)]
    depth = depths(np.concatenate(triangles) if triangles else np.zeros((0, 3, 3)), *size)
    slack = SLACK * (float(np.ptp(every[:, 2])) * scale * fine + 1)
    lines: dict[str, list[Array]] = {}
    for s in shown:
        pieces, _ = visible_pieces(cells(outlines(s.vertices, s.triangles, axes[2]) @ axes.T), depth, slack)
        pieces = pieces / fine
        pieces[..., 1] = height - pieces[..., 1]
        lines.setdefault(s.name, []).extend(chains(pieces))
    return Picture(width, height, lines, eye, scale, (float(shift[0]), float(shift[1])))


def chains(segments: Array, decimals: int = 2) -> list[Array]:
    """Segments (n, 2, 2) joined where they meet: chains of points (k, 2)."""
    open_ends: dict[tuple[float, float], list[list[tuple[float, float]]]] = {}
    out: list[list[tuple[float, float]]] = []
    for a, b in np.round(segments, decimals).tolist():
        p, q = (a[0], a[1]), (b[0], b[1])
        if p == q:
            continue
        chain = next((c for c in open_ends.get(p, []) if c[-1] == p), None)
        if chain is None and (other := next((c for c in open_ends.get(q, []) if c[-1] == q), None)) is not None:
            chain, q = other, p
        if chain is None:
            chain = [p]
            out.append(chain)
        else:
            open_ends[chain[-1]].remove(chain)
        chain.append(q)
        open_ends.setdefault(q, []).append(chain)
    return [_without_straight_points(np.array(c)) for c in out]


def _without_straight_points(chain: Array) -> Array:
    """Without the points that lie on the line between their neighbours."""
    if len(chain) < 3:
        return chain
    to, on = chain[1:-1] - chain[:-2], chain[2:] - chain[1:-1]
    bends = np.abs(to[:, 0] * on[:, 1] - to[:, 1] * on[:, 0]) > 1e-3 * np.linalg.norm(to, axis=1)
    back = (to * on).sum(axis=1) < 0
    return np.asarray(chain[np.concatenate([[True], bends | back, [True]])])
