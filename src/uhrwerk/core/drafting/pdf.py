"""A sheet as PDF, one page of its true size, by reportlab: vectors and embedded fonts."""

from __future__ import annotations

import io

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from uhrwerk.core.drafting.sheet import THIN, Label, Sheet, dimension_strokes
from uhrwerk.core.drafting.svg import LOOKS
from uhrwerk.core.drafting.view import points_of
from uhrwerk.core.report.paper import TEXT, register_fonts
from uhrwerk.core.report.plain import plain


def as_pdf(sheet: Sheet) -> bytes:
    register_fonts()
    sheet = sheet.with_signs()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(sheet.size[0] * mm, sheet.size[1] * mm), invariant=1, initialFontName=TEXT)
    canvas.setTitle(plain(sheet.title))
    canvas.setCreator("Uhrwerk")
    canvas.scale(mm, mm)
    canvas.setLineCap(1)
    for layer, (wide, dashes) in LOOKS.items():
        canvas.setLineWidth(wide)
        canvas.setDash(list(dashes) or [], 0)
        path = canvas.beginPath()
        for s in sheet.strokes:
            if s.layer == layer:
                (x, y), *rest = points_of(s.curve)
                path.moveTo(x, y)
                for x, y in rest:
                    path.lineTo(x, y)
        canvas.drawPath(path)
    canvas.setDash([], 0)
    canvas.setLineWidth(THIN)
    for dimension in sheet.dimensions:
        lines, arrows = dimension_strokes(dimension)
        for a, b, c, d in lines:
            canvas.line(a, b, c, d)
        for tip, one, other in arrows:
            path = canvas.beginPath()
            path.moveTo(*tip)
            path.lineTo(*one)
            path.lineTo(*other)
            path.close()
            canvas.drawPath(path, stroke=0, fill=1)
    for label in sheet.texts():
        _text(canvas, label)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _text(canvas: Canvas, label: Label) -> None:
    canvas.saveState()
    canvas.translate(label.x, label.y)
    canvas.rotate(label.angle)
    canvas.setFont(TEXT, label.height)
    draw = {"left": canvas.drawString, "middle": canvas.drawCentredString, "right": canvas.drawRightString}
    draw[label.anchor](0, 0, plain(label.text))
    canvas.restoreState()
