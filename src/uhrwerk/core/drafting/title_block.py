"""The frame of a sheet and its title block: the fields of ISO 7200, the sign of the projection by ISO 5456-2. Both from memory."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi
from typing import Any

from uhrwerk.core.drafting.sheet import Label, Sheet, Stroke

#: of a sheet's frame, mm: on the left for filing, elsewhere; and the title block's
FILING, MARGIN, BLOCK = 20.0, 10.0, (180.0, 36.0)


@dataclass(frozen=True)
class TitleBlock:
    """What the title block says, empty fields stay empty; a table of data over it, such as those of teeth; and a
    designer's notes on the whole."""

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
    note: str = ""


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
