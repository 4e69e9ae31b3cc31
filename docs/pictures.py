"""Draws the small pictures of the lists: every element at its default sizes, every build step on a sample part, as lines seen
from a corner, without those that the solid hides; joints, relations, pairs and requirements by their symbols.

python docs/pictures.py
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from symbols import SYMBOLS

from uhrwerk import Document, Draft
from uhrwerk.core.elements import ELEMENTS
from uhrwerk.core.field import numbers
from uhrwerk.core.outlines import Circle, Points, Rectangle
from uhrwerk.core.part import part_datums
from uhrwerk.core.solids import KernelPool, Solid
from uhrwerk.core.solids.solid import outlines
from uhrwerk.core.steps import (
    STEPS,
    Cut,
    Edges,
    Extrude,
    Hole,
    Hollow,
    MoveFace,
    Opening,
    OwnAxis,
    OwnPlane,
    OwnPoint,
    RepeatSteps,
    Revolve,
    Round,
    Taper,
    Thread,
    Which,
)

ROOT = Path(__file__).parent.parent
TARGET = ROOT / "src/uhrwerk/web/static/pictures"
#: pixels of a picture, its margin, and of the buffer of depths that tells what is hidden, for one of the picture
SIZE, MARGIN, FINE = (72, 48), 2.0, 8
#: part of the depth by which an edge may lie behind the surface it belongs to
SLACK = 0.012
INK = "#22302f"
#: what has no shape of its own: a dashed box, a box and its image, a sheet of paper
BLANKS = {
    "blank": "M14 20L36 30L58 20M36 30L36 44M14 20L36 8L58 20L58 33L36 44L14 33Z",
    "like": "M8 14L8 36L20 36M8 25L16 25M64 14L64 36L52 36M64 25L56 25M36 6L36 42",
    "imported": "M24 5L42 5L50 13L50 43L24 43ZM42 5L42 13L50 13M30 22L44 22M30 29L44 29M30 36L40 36",
}
#: eye, and what is up
EYE = np.array([-0.55, -0.75, 0.55]) / np.linalg.norm([-0.55, -0.75, 0.55])

__all__ = ["TARGET", "pictures"]


def _axes() -> np.ndarray:
    """(3, 3) rows: right, up, towards the eye."""
    right = np.cross([0.0, 0, 1], EYE)
    right /= np.linalg.norm(right)
    return np.stack([right, np.cross(EYE, right), EYE])


def drawn(solid: Solid) -> str:
    """A solid as an SVG picture."""
    view = _axes()
    vertices = [b.vertices @ view.T for b in solid.bodies.values()]
    every = np.concatenate(vertices)
    low, high = every[:, :2].min(axis=0), every[:, :2].max(axis=0)
    scale = float(min((np.array(SIZE) - 2 * MARGIN) / np.maximum(high - low, 1e-9)))
    shift = np.array(SIZE) / 2 - scale * (low + high) / 2

    def placed(points: np.ndarray) -> np.ndarray:
        xy = points[..., :2] * scale + shift
        return np.concatenate([xy[..., :1], SIZE[1] - xy[..., 1:2], points[..., 2:] * scale], axis=-1)

    depth = np.full((SIZE[1] * FINE, SIZE[0] * FINE), -np.inf)
    lines = []
    for body, seen in zip(solid.bodies.values(), vertices, strict=True):
        _cover(depth, placed(seen)[body.triangles])
        lines.append(placed(outlines(body.vertices, body.triangles, EYE) @ view.T))
    slack = SLACK * (np.ptp(every[:, 2]) * scale + 1)
    return _svg(_joined(_seen(np.concatenate(lines), depth, slack)))


def _joined(segments: Iterator[tuple[np.ndarray, np.ndarray]]) -> str:
    """Segments as a path: those that meet run on."""
    ends: dict[tuple[float, float], list[list[tuple[float, float]]]] = {}
    chains: list[list[tuple[float, float]]] = []
    for a, b in segments:
        p, q = ((round(float(v[0]), 1), round(float(v[1]), 1)) for v in (a, b))
        if p == q:
            continue
        before = next((c for c in ends.get(p, []) if c[-1] == p), None)
        if before is None and (after := next((c for c in ends.get(q, []) if c[-1] == q), None)) is not None:
            before, q = after, p
        if before is None:
            before = [p]
            chains.append(before)
        before.append(q)
        ends.setdefault(q, []).append(before)
    return "".join("M" + "L".join(f"{x:g} {y:g}" for x, y in c) for c in chains)


def _svg(path: str) -> str:
    w, h = SIZE
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {w} {h}"><path d="{path}" fill="none" stroke="{INK}" '
        'stroke-width="0.9" stroke-linecap="round"/></svg>\n'
    )


def _cover(depth: np.ndarray, triangles: np.ndarray) -> None:
    """Puts triangles (m, 3, 3), in pixels and depth, into the buffer: nearer ones over farther ones."""
    for t in triangles * [FINE, FINE, 1]:
        (x0, y0), (x1, y1) = np.floor(t[:, :2].min(axis=0)).astype(int), np.ceil(t[:, :2].max(axis=0)).astype(int)
        x0, y0, x1, y1 = max(x0, 0), max(y0, 0), min(x1, depth.shape[1] - 1), min(y1, depth.shape[0] - 1)
        if x1 < x0 or y1 < y0:
            continue
        x, y = np.meshgrid(np.arange(x0, x1 + 1), np.arange(y0, y1 + 1))
        (ax, ay, az), (bx, by, bz), (cx, cy, cz) = t
        area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
        if abs(area) < 1e-9:
            continue
        u = ((bx - x) * (cy - y) - (cx - x) * (by - y)) / area
        v = ((cx - x) * (ay - y) - (ax - x) * (cy - y)) / area
        w = 1 - u - v
        within = (u >= -1e-3) & (v >= -1e-3) & (w >= -1e-3)
        there = depth[y0 : y1 + 1, x0 : x1 + 1]
        z = u * az + v * bz + w * cz
        there[within & (z > there)] = z[within & (z > there)]


def _seen(lines: np.ndarray, depth: np.ndarray, slack: float) -> Iterator[tuple[np.ndarray, np.ndarray]]:
    """The parts of lines (n, 2, 3) that nothing hides."""
    for a, b in lines:
        count = max(2, int(np.hypot(*(b - a)[:2]) * 2))
        s = (np.arange(count) + 0.5) / count
        points = a + s[:, None] * (b - a)
        col = np.clip((points[:, 0] * FINE).astype(int), 0, depth.shape[1] - 1)
        row = np.clip((points[:, 1] * FINE).astype(int), 0, depth.shape[0] - 1)
        near = np.min(
            [
                depth[np.clip(row + i, 0, depth.shape[0] - 1), np.clip(col + j, 0, depth.shape[1] - 1)]
                for i in (-1, 0, 1)
                for j in (-1, 0, 1)
            ],
            axis=0,
        )
        visible = points[:, 2] >= near - slack
        edges = np.flatnonzero(np.diff(np.concatenate([[False], visible, [False]]).astype(int)))
        for first, last in edges.reshape(-1, 2):
            yield a + (b - a) * first / count, a + (b - a) * last / count


def _sample(kind: str) -> dict[str, Any]:
    """Build steps of a part that shows what a step does."""
    block = Extrude(name="Block", outline=Rectangle(length="44 mm", width="30 mm"), length="12 mm")
    bar = Extrude(name="Bar", outline=Circle(diameter="16 mm"), length="34 mm")
    peg = Extrude(name="Peg", plane="block.end", outline=Circle(diameter="6 mm", x="13 mm"), length="7 mm")
    quarter = Points.model_validate(
        {
            "corners": {
                "a": {"x": "0 mm"},
                "b": {"x": "16 mm"},
                "c": {"x": "16 mm", "y": "8 mm"},
                "d": {"x": "7 mm", "y": "8 mm"},
                "e": {"x": "7 mm", "y": "26 mm"},
                "f": {"x": "0 mm", "y": "26 mm"},
            }
        }
    )
    return {
        "extrude": {"block": block, "more": Extrude(name="E", plane="block.end", outline=Rectangle(length="20 mm", width="12 mm"), length="9 mm")},
        "cut": {"block": block, "more": Cut(name="C", plane="block.end", outline=Rectangle(length="26 mm", width="14 mm"), depth="8 mm")},
        "revolve": {"more": Revolve(name="R", plane="xz", outline=quarter, axis="y")},
        "hole": {"block": block, "more": Hole(name="H", plane="block.end", diameter="11 mm")},
        "thread": {"bar": bar, "more": Thread.model_validate({"name": "T", "face": "bar.side_1", "size": "M16", "length": "22 mm", "start": "at its end"})},
        "edges": {"block": block, "more": Edges(name="E", which="of a face", a="block.end", size="5 mm")},
        "hollow": {"block": block, "more": Hollow(name="H", wall="3 mm", open={"a": Opening(face="block.end")})},
        "move_face": {"block": block, "more": MoveFace.model_validate({"name": "M", "face": "block.side_1", "by": "8 mm"})},
        "taper": {"block": block, "more": Taper.model_validate({"name": "T", "from_face": "block.start", "angle": "20 deg", "faces": {k: {"face": f"block.side_{k[1]}"} for k in ("f1", "f2", "f3", "f4")}})},
        "repeat": {"block": block, "peg": peg, "more": RepeatSteps(name="R", steps={"a": Which(step="peg")}, how=Round(count="5"))},
        "plane": {"block": block, "more": OwnPlane(name="P"), "sheet": Extrude(name="S", plane="more.plane", outline=Rectangle(length="54 mm", width="40 mm"), length="0.01 mm")},
        "axis": {"block": block, "more": OwnAxis(name="A"), "pin": Extrude(name="S", outline=Circle(diameter="0.8 mm"), length="30 mm", both=True)},
        "point": {"block": block, "more": OwnPoint(name="P"), "ball": Extrude(name="S", plane="block.end", outline=Circle(diameter="3 mm"), length="1 mm")},
    }[kind]  # fmt: skip


def pictures() -> Iterator[tuple[str, str]]:
    """Every picture by its file name."""
    for sort, symbols in SYMBOLS.items():
        for kind, path in symbols.items():
            yield f"{sort}-{kind}.svg", _svg(path)
    pool, scope = KernelPool(), Document(name="x").scope()
    try:
        for kind, model in ELEMENTS.items():
            if kind in BLANKS:
                yield f"element-{kind}.svg", _svg(BLANKS[kind])
                continue
            n = numbers(model(), scope)
            yield f"element-{kind}.svg", drawn(pool.build(model.solid(n)))
        for kind in STEPS:
            draft = Draft("Picture")
            draft.own_part("Part", "steel", _sample(kind))
            solid = pool.build(part_datums.recipe(draft.document, "part")[0])
            if solid.failed is not None:
                print(kind, solid.failed)
            yield f"step-{kind}.svg", drawn(solid)
    finally:
        pool.close()


if __name__ == "__main__":
    TARGET.mkdir(exist_ok=True)
    for name, text in pictures():
        (TARGET / name).write_text(text, encoding="utf-8")
