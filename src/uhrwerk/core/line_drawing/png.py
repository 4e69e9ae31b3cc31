"""A picture as PNG, by Pillow: drawn larger and scaled down, so that its lines are smooth."""

from __future__ import annotations

import io

from PIL import Image, ImageDraw

from uhrwerk.core.line_drawing.picture import Picture
from uhrwerk.core.line_drawing.svg import INK

#: pixels drawn for one that is written, and the width of a line in those that are written
TIMES, STROKE = 3, 1.3


def as_png(p: Picture) -> bytes:
    image = Image.new("L", (round(p.width * TIMES), round(p.height * TIMES)), 0)
    draw = ImageDraw.Draw(image)
    for chains in p.lines.values():
        for chain in chains:
            draw.line([(x * TIMES, y * TIMES) for x, y in chain], fill=255, width=round(STROKE * TIMES), joint="curve")
    ink = image.resize((round(p.width), round(p.height)), Image.Resampling.BOX)
    sheet = Image.new("RGB", ink.size, "white")
    sheet.paste(INK, mask=ink)
    out = io.BytesIO()
    sheet.save(out, "PNG", optimize=True)
    return out.getvalue()
