"""What of lines is seen before triangles, by a raster of depths.

Sampled: a line's ends are known to half a step of the raster.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

#: rows of triangles, and cells, that are looked at in one go
ROWS, CELLS = 300_000, 600_000
#: how far outside a triangle a cell still counts, as a part of its height
EDGE = 1e-3
#: steps of the raster between two looks along a line
STEP = 0.5


def depths(triangles: Array, width: int, height: int) -> Array:
    """The depth (height, width) of what is nearest to the eye in each cell, -inf where nothing is: triangles (m, 3, 3), x and y in
    cells, z towards the eye."""
    depth = np.full(height * width, -np.inf)
    corner, after = triangles, np.roll(triangles, -1, axis=1)
    # over the line from one corner to the next: less than zero outside, one at the third corner
    across = corner[:, :, 1] - after[:, :, 1]
    along = after[:, :, 0] - corner[:, :, 0]
    level = -(across * corner[:, :, 0] + along * corner[:, :, 1])
    area = across[:, 0] * corner[:, 2, 0] + along[:, 0] * corner[:, 2, 1] + level[:, 0]
    flat = np.abs(area) < 1e-9
    across, along, level = (np.divide(v, np.where(flat, 1.0, area)[:, None]) for v in (across, along, level))
    low = np.clip(np.floor(triangles[:, :, 1].min(axis=1)), 0, height).astype(int)
    high = np.clip(np.floor(triangles[:, :, 1].max(axis=1)) + 1, 0, height).astype(int)
    rows = np.where(flat, 0, high - low)
    for first, last in _chunks(np.cumsum(rows), ROWS):
        t = np.arange(first, last)
        of = np.repeat(t, rows[t])
        y = low[of] + np.arange(len(of)) - np.repeat(np.cumsum(rows[t]) - rows[t], rows[t])
        begin, end = _span(across[of], along[of] * (y + 0.5)[:, None] + level[of], width)
        wide = np.maximum(end - begin, 0)
        for one, other in _chunks(np.cumsum(wide), CELLS):
            k = np.arange(one, other)
            row = np.repeat(k, wide[k])
            x = begin[row] + np.arange(len(row)) - np.repeat(np.cumsum(wide[k]) - wide[k], wide[k])
            o = of[row]
            over = across[o] * (x + 0.5)[:, None] + along[o] * (y[row] + 0.5)[:, None] + level[o]
            z = (over * corner[o][:, [2, 0, 1], 2]).sum(axis=1)
            np.maximum.at(depth, y[row] * width + x, z)
    return depth.reshape(height, width)


def _span(slope: Array, level: Array, width: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """From which cell of a row to which (not with it) three heights (n, 3), slope times x and level, are all above zero, but for
    rounding."""
    with np.errstate(divide="ignore", invalid="ignore"):
        zero = (-EDGE - level) / slope
    begin = np.where(slope > 0, zero, -np.inf).max(axis=1)
    end = np.where(slope < 0, zero, np.inf).min(axis=1)
    never = ((slope == 0) & (level < -EDGE)).any(axis=1)
    first = np.ceil(np.clip(begin - 0.5, 0, width)).astype(int)
    last = np.floor(np.clip(end - 0.5, -1, width - 1)).astype(int) + 1
    return first, np.where(never, first, last)


def _chunks(ends: NDArray[np.int64], most: int) -> list[tuple[int, int]]:
    """Runs of what adds up to such ends, none of more than so much, but for single ones."""
    out, first = list[tuple[int, int]](), 0
    while first < len(ends):
        before = ends[first - 1] if first else 0
        last = max(first + 1, int(np.searchsorted(ends, before + most, "right")))
        out.append((first, last))
        first = last
    return out


def visible_pieces(lines: Array, depth: Array, slack: float) -> tuple[Array, NDArray[np.int64]]:
    """The pieces of lines (n, 2, 3), in cells and depth, that nothing hides by more than `slack`: (k, 2, 2) cells, and of which
    line each is (k,)."""
    if not len(lines):
        return np.zeros((0, 2, 2)), np.zeros(0, dtype=np.int64)
    length = np.linalg.norm(lines[:, 1, :2] - lines[:, 0, :2], axis=1)
    count = np.maximum(2, np.ceil(length / STEP)).astype(int)
    of = np.repeat(np.arange(len(lines)), count)
    start = np.cumsum(count) - count
    s = (np.arange(len(of)) - start[of] + 0.5) / count[of]
    at = lines[of, 0] + s[:, None] * (lines[of, 1] - lines[of, 0])
    height, width = depth.shape
    col = np.clip(at[:, 0].astype(int), 0, width - 1)
    row = np.clip(at[:, 1].astype(int), 0, height - 1)
    # the least of the neighbours: an edge lies at the rim of its own faces
    near = np.full(len(at), np.inf)
    for i in (-1, 0, 1):
        for j in (-1, 0, 1):
            near = np.minimum(near, depth[np.clip(row + i, 0, height - 1), np.clip(col + j, 0, width - 1)])
    visible = at[:, 2] >= near - slack
    begins = visible & ~(np.concatenate([[False], visible[:-1]]) & (np.concatenate([[-1], of[:-1]]) == of))
    ends = visible & ~(np.concatenate([visible[1:], [False]]) & (np.concatenate([of[1:], [-1]]) == of))
    first, last = np.flatnonzero(begins), np.flatnonzero(ends)
    line = of[first]
    a = (first - start[line]) / count[line]
    b = (last - start[line] + 1) / count[line]
    from_, way = lines[line, 0, :2], lines[line, 1, :2] - lines[line, 0, :2]
    return np.stack([from_ + a[:, None] * way, from_ + b[:, None] * way], axis=1), line
