"""A picture as SVG 1.1."""

from __future__ import annotations

from collections.abc import Collection
from xml.sax.saxutils import escape, quoteattr

from uhrwerk.core.line_drawing.picture import Picture

INK, MARK = "#22302f", "#b3361e"


def as_svg(
    p: Picture,
    names: dict[str, str] | None = None,
    marked: Collection[str] = (),
    title: str = "",
    stroke: float = 0.8,
    ink: str = INK,
) -> str:
    """One group for each solid, those marked drawn bold; `names`: what a solid is called."""
    names = names or {}
    groups = []
    for key, lines in p.lines.items():
        d = "".join("M" + "L".join(f"{x:g} {y:g}" for x, y in line) for line in lines)
        if not d:
            continue
        look = f' stroke="{MARK}" stroke-width="{2 * stroke:g}"' if key in marked else ""
        label = f"<title>{escape(names.get(key, key))}</title>" if names else ""
        groups.append(f'<g data-part={quoteattr(key)}{look}>{label}<path d="{d}"/></g>')
    head = f"<title>{escape(title)}</title>" if title else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {p.width:g} {p.height:g}" fill="none" stroke="{ink}" '
        f'stroke-width="{stroke:g}" stroke-linecap="round" stroke-linejoin="round">{head}{"".join(groups)}</svg>\n'
    )
