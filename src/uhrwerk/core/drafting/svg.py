"""A sheet as SVG 1.1, at its true size."""

from __future__ import annotations

from xml.sax.saxutils import escape

from uhrwerk.core.drafting.sheet import THIN, WIDE, Dimension, Label, Layer, Sheet, dimension_strokes
from uhrwerk.core.drafting.view import points_of
from uhrwerk.core.report.plain import plain

#: width and dashes of the lines of a layer, mm
LOOKS: dict[Layer, tuple[float, tuple[float, ...]]] = {
    "visible": (WIDE, ()), "hidden": (THIN, (3.0, 1.5)), "centre": (THIN, (6.0, 1.2, 0.8, 1.2)), "thin": (THIN, ()), "frame": (0.7, ()),
}  # fmt: skip
FONT = "Commissioner, 'Liberation Sans', Arial, sans-serif"


def as_svg(sheet: Sheet) -> bytes:
    width, height = sheet.size
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" viewBox="0 0 {width:g} {height:g}" '
        f'font-family="{FONT}" fill="none" stroke="#000" stroke-linecap="round"><title>{escape(plain(sheet.title))}</title>'
        f'<rect width="{width:g}" height="{height:g}" fill="#fff" stroke="none"/>'
    ]
    for layer, (wide, dashes) in LOOKS.items():
        d = "".join(
            "M" + "L".join(f"{x:.3f} {height - y:.3f}" for x, y in points_of(s.curve))
            for s in sheet.strokes
            if s.layer == layer
        )
        dash = f' stroke-dasharray="{" ".join(f"{v:g}" for v in dashes)}"' if dashes else ""
        out.append(f'<path class="{layer}" d="{d}" stroke-width="{wide:g}"{dash}/>')
    for dimension in sheet.dimensions:
        lines, arrows = dimension_strokes(dimension)
        d = "".join(f"M{a:.3f} {height - b:.3f}L{c:.3f} {height - e:.3f}" for a, b, c, e in lines)
        tips = "".join("M" + "L".join(f"{x:.3f} {height - y:.3f}" for x, y in a) + "Z" for a in arrows)
        out.append(
            f'<g class="dimension"{_key(dimension)}><path d="{d}" stroke-width="{THIN:g}"/><path d="{tips}" fill="#000" stroke="none"/>'
            f"{_text(dimension.label(), height)}</g>"
        )
    for sign in sheet.signs:
        paths = "".join(
            f'<path d="M{"L".join(f"{x:.3f} {height - y:.3f}" for x, y in points_of(s.curve))}" stroke-width="{THIN:g}"/>'
            for s in sign.strokes
        )
        out.append(f'<g class="dimension" data-key="{sign.key}">{paths}{_text(sign.label, height)}</g>')
    out += [_text(label, height) for label in sheet.labels]
    return ("".join(out) + "</svg>\n").encode("utf-8")


def _key(dimension: Dimension) -> str:
    return f' data-key="{dimension.id.key}"' if dimension.id else ""


def _text(label: Label, height: float) -> str:
    anchor = {"left": "start", "middle": "middle", "right": "end"}[label.anchor]
    turn = f' transform="rotate({-label.angle:g} {label.x:.3f} {height - label.y:.3f})"' if label.angle else ""
    return (
        f'<text x="{label.x:.3f}" y="{height - label.y:.3f}" font-size="{label.height:g}" text-anchor="{anchor}"{turn} '
        f'fill="#000" stroke="none">{escape(plain(label.text))}</text>'
    )
