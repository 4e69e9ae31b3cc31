"""Draws the small pictures of the lists: every element at its default sizes, every build step on a sample part, as lines seen
from a corner, without those that the solid hides; joints, relations, pairs and requirements by their symbols.

python docs/pictures.py
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from symbols import SYMBOLS

from uhrwerk import Document, Draft
from uhrwerk.core.elements import ELEMENTS
from uhrwerk.core.field import numbers
from uhrwerk.core.line_drawing import VIEWS, Shown, picture
from uhrwerk.core.outlines import Circle, Points, Rectangle
from uhrwerk.core.part import part_datums
from uhrwerk.core.solids import KernelPool, Solid
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
#: pixels of a picture, its margin, and of the raster of depths that tells what is hidden, for one of the picture
SIZE, MARGIN, FINE = (72, 48), 2.0, 8
INK = "#22302f"
#: what has no shape of its own: a dashed box, a box and its image, a sheet of paper
BLANKS = {
    "blank": "M14 20L36 30L58 20M36 30L36 44M14 20L36 8L58 20L58 33L36 44L14 33Z",
    "like": "M8 14L8 36L20 36M8 25L16 25M64 14L64 36L52 36M64 25L56 25M36 6L36 42",
    "imported": "M24 5L42 5L50 13L50 43L24 43ZM42 5L42 13L50 13M30 22L44 22M30 29L44 29M30 36L40 36",
}
__all__ = ["TARGET", "pictures"]


def drawn(solid: Solid) -> str:
    """A solid as an SVG picture."""
    shown = [Shown(name, b.vertices, b.triangles) for name, b in solid.bodies.items()]
    p = picture(shown, VIEWS["corner"], *SIZE, margin=MARGIN, fine=FINE)
    lines = [line.round(1) for lines in p.lines.values() for line in lines]
    return _svg("".join("M" + "L".join(f"{x:g} {y:g}" for x, y in line) for line in lines))


def _svg(path: str) -> str:
    w, h = SIZE
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {w} {h}"><path d="{path}" fill="none" stroke="{INK}" '
        'stroke-width="0.9" stroke-linecap="round"/></svg>\n'
    )


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
