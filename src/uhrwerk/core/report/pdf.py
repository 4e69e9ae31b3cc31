"""A report as PDF, by reportlab: vectors and embedded fonts."""

from __future__ import annotations

import io
from collections.abc import Iterator
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import (
    BaseDocTemplate,
    CondPageBreak,
    Flowable,
    Frame,
    KeepTogether,
    LongTable,
    PageTemplate,
    Paragraph,
    Spacer,
    TableStyle,
)

from uhrwerk.core.report.blocks import Block, Chart, Figure, Report, Table, Words
from uhrwerk.core.report.paper import BOLD, DIM, FAILS, INK, NUMBERS, RULE, TEXT, register_fonts
from uhrwerk.core.report.plain import plain
from uhrwerk.core.report.scales import extent, ticks

MARGIN = 18 * mm
WIDTH = A4[0] - 2 * MARGIN

BODY = ParagraphStyle("body", fontName=TEXT, fontSize=9, leading=12.5, textColor=INK)
CELL = ParagraphStyle("cell", parent=BODY, fontSize=7.8, leading=10, splitLongWords=1)
HEAD = ParagraphStyle("head", parent=CELL, fontName=BOLD)
CAPTION = ParagraphStyle("caption", parent=BODY, fontSize=8, leading=10.5, textColor=DIM)
TITLE = ParagraphStyle("title", parent=BODY, fontName=BOLD, fontSize=20, leading=25)
SECTION = ParagraphStyle("section", parent=BODY, fontName=BOLD, fontSize=13, leading=18, spaceBefore=12, spaceAfter=5)
SUMMARY = ParagraphStyle("summary", parent=BODY, fontName=BOLD, fontSize=11, leading=15)


def as_pdf(report: Report) -> bytes:
    """The report as a PDF file."""
    register_fonts()
    out = io.BytesIO()
    document = BaseDocTemplate(
        out, pagesize=A4, title=plain(report.title), author="Uhrwerk", leftMargin=MARGIN, rightMargin=MARGIN,
        topMargin=MARGIN, bottomMargin=MARGIN, invariant=1,
    )  # fmt: skip
    frame = Frame(MARGIN, MARGIN, WIDTH, A4[1] - 2 * MARGIN, 0, 0, 0, 0)

    def foot(canvas: Any, _: Any) -> None:
        canvas.setFont(TEXT, 7.5)
        canvas.setFillColor(DIM)
        canvas.drawString(MARGIN, 10 * mm, plain(f"{report.title} · {report.about}")[:110])
        canvas.drawRightString(A4[0] - MARGIN, 10 * mm, str(canvas.getPageNumber()))

    document.addPageTemplates([PageTemplate(frames=[frame], onPage=foot)])
    document.build(list(_flow(report)))
    return out.getvalue()


def _text(text: str, style: ParagraphStyle) -> Paragraph:
    return Paragraph(escape(plain(text)), style)


def _flow(report: Report) -> Iterator[Flowable]:
    yield _text(report.title, TITLE)
    yield _text(report.about, CAPTION)
    yield Spacer(0, 5)
    yield _text(report.summary, SUMMARY)
    if report.note:
        yield _text(report.note, BODY)
    for section in report.sections:
        yield CondPageBreak(30 * mm)
        yield _text(section.title, SECTION)
        for block in section.blocks:
            yield from _block(block)


def _block(block: Block) -> Iterator[Flowable]:
    if isinstance(block, Words):
        yield _text(block.text, BODY)
        yield Spacer(0, 3)
    elif isinstance(block, Table):
        yield _table(block)
        yield Spacer(0, 7)
    elif isinstance(block, Figure):
        yield KeepTogether([_Drawing(block), _text(block.caption, CAPTION), Spacer(0, 9)])
    else:
        more = f" · {block.caption}" if block.caption else ""
        head = f"<b>{escape(plain(block.name))}</b>{escape(plain(more))}"
        yield KeepTogether([Paragraph(head, CAPTION), _Curve(block), Spacer(0, 6)])


def _table(t: Table) -> LongTable:
    def cell(text: str, style: ParagraphStyle) -> Paragraph:
        tone = f'<font color="{FAILS.hexval().replace("0x", "#")}"><b>{escape(text)}</b></font>'
        return Paragraph(tone, style) if text == "FAILS" else _text(text, style)

    heads = [[cell(h, HEAD) for h in t.heads]] if any(t.heads) else []
    rows = [[cell(c, CELL) for c in r] for r in t.rows]
    table = LongTable(heads + rows, colWidths=[w * WIDTH for w in t.wide], repeatRows=len(heads))
    lines = [("LINEBELOW", (0, 0), (-1, -1), 0.3, RULE), ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0), ("TOPPADDING", (0, 0), (-1, -1), 1.5), ("BOTTOMPADDING", (0, 0), (-1, -1), 2.5)]  # fmt: skip
    table.setStyle(TableStyle(lines + ([("LINEBELOW", (0, 0), (-1, 0), 0.8, INK)] if heads else [])))
    return table


class _Drawing(Flowable):  # type: ignore[misc]
    """A line drawing."""

    def __init__(self, figure: Figure) -> None:
        super().__init__()
        self.figure = figure
        self.unit = min(WIDTH, 150 * mm) / figure.picture.width

    def wrap(self, *_: float) -> tuple[float, float]:
        p = self.figure.picture
        return p.width * self.unit, p.height * self.unit

    def draw(self) -> None:
        p, canvas = self.figure.picture, self.canv
        canvas.saveState()
        canvas.scale(self.unit, self.unit)
        canvas.setLineCap(1)
        canvas.setLineJoin(1)
        for name, chains in p.lines.items():
            marked = name in self.figure.marked
            canvas.setStrokeColor(FAILS if marked else INK)
            canvas.setLineWidth(1.1 if marked else 0.6)
            path = canvas.beginPath()
            for chain in chains:
                path.moveTo(chain[0][0], p.height - chain[0][1])
                for x, y in chain[1:]:
                    path.lineTo(x, p.height - y)
            canvas.drawPath(path)
        canvas.setStrokeColor(FAILS)
        canvas.setLineWidth(1.2)
        for x, y in self.figure.crosses:
            canvas.line(x - 5, p.height - y, x + 5, p.height - y)
            canvas.line(x, p.height - y - 5, x, p.height - y + 5)
        canvas.restoreState()


class _Curve(Flowable):  # type: ignore[misc]
    """A curve over the cycle, with its axes."""

    HIGH, LEFT, FOOT = 26 * mm, 18 * mm, 4 * mm

    def __init__(self, chart: Chart) -> None:
        super().__init__()
        self.chart = chart

    def wrap(self, *_: float) -> tuple[float, float]:
        return WIDTH, self.HIGH

    def draw(self) -> None:
        c, canvas = self.chart, self.canv
        times, values = [t for t, _ in c.points], [v for _, v in c.points]
        low, high = extent([*values, *c.limits])
        first, last = times[0], max(times[-1], times[0] + 1e-9)
        wide, tall = WIDTH - self.LEFT, self.HIGH - self.FOOT - 4

        def at(t: float, v: float) -> tuple[float, float]:
            return self.LEFT + wide * (t - first) / (last - first), self.FOOT + tall * (v - low) / (high - low)

        canvas.setStrokeColor(RULE)
        canvas.setLineWidth(0.4)
        canvas.rect(self.LEFT, self.FOOT, wide, tall)
        canvas.setFont(NUMBERS, 6.5)
        canvas.setFillColor(DIM)
        for v in ticks(low, high):
            x, y = at(first, v)
            canvas.line(x, y, x + wide, y)
            canvas.drawRightString(x - 3, y - 2, f"{v:g}")
        canvas.drawString(0, self.FOOT + tall - 6, plain(c.unit))
        canvas.drawString(self.LEFT, self.FOOT - 8, f"{first:g} s")
        canvas.drawRightString(self.LEFT + wide, self.FOOT - 8, f"{last:.6g} s")
        canvas.setStrokeColor(FAILS)
        canvas.setDash(3, 2)
        for v in c.limits:
            canvas.line(*at(first, v), *at(last, v))
        canvas.setDash()
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(0.9)
        path = canvas.beginPath()
        for k, (t, v) in enumerate(c.points):
            (path.lineTo if k else path.moveTo)(*at(t, v))
        canvas.drawPath(path)
