"""Figures and charts of a report as SVG, for its page."""

from __future__ import annotations

from xml.sax.saxutils import quoteattr

from uhrwerk.core.line_drawing import as_svg
from uhrwerk.core.report.blocks import Chart, Figure
from uhrwerk.core.report.scales import extent, ticks

#: of a chart, and the room for the numbers beside it
WIDTH, HEIGHT, LEFT = 640.0, 100.0, 56.0


def figure_svg(f: Figure) -> str:
    drawing = as_svg(f.picture, f.names, f.marked, f.caption)
    crosses = "".join(f'<path class="worst" d="M{x - 5:g} {y:g}h10M{x:g} {y - 5:g}v10"/>' for x, y in f.crosses)
    return drawing.replace("</svg>", f"{crosses}</svg>")


def chart_svg(c: Chart) -> str:
    low, high = extent([*(v for _, v in c.points), *c.limits])
    first, last = c.points[0][0], max(c.points[-1][0], c.points[0][0] + 1e-9)

    def at(t: float, v: float) -> str:
        x = LEFT + (WIDTH - LEFT) * (t - first) / (last - first)
        return f"{x:.1f} {HEIGHT * (1 - (v - low) / (high - low)):.1f}"

    marks = "".join(
        f'<path class="tick" d="M{at(first, v)}L{at(last, v)}"/>'
        f'<text x="{LEFT - 5:g}" y="{at(first, v).split()[1]}" dy="3.5" text-anchor="end">{v:g}</text>'
        for v in ticks(low, high)
    )
    limits = "".join(f'<path class="limit" d="M{at(first, v)}L{at(last, v)}"/>' for v in c.limits)
    curve = "M" + "L".join(at(t, v) for t, v in c.points)
    foot = (
        f'<text x="{LEFT:g}" y="{HEIGHT + 13:g}">{first:g} s</text>'
        f'<text x="{WIDTH:g}" y="{HEIGHT + 13:g}" text-anchor="end">{last:.6g} s</text>'
    )
    label = quoteattr(f"{c.name}, {c.unit}, over the cycle")
    return (
        f'<svg viewBox="0 0 {WIDTH:g} {HEIGHT + 16:g}" role="img" aria-label={label}>{marks}{foot}{limits}'
        f'<path class="curve" d="{curve}"/></svg>'
    )
