"""A sheet as DXF (R2010), by ezdxf: lines, arcs and texts on layers, dimensions as real dimension entities that measure the part."""

from __future__ import annotations

import io
from math import degrees
from typing import Any

from ezdxf import filemanagement
from ezdxf.enums import TextEntityAlignment

from uhrwerk.core.drafting.sheet import ARROW, INCH, TEXT, THIN, WIDE, Label, Round, Sheet
from uhrwerk.core.report.plain import plain

LAYERS = {"visible": ("CONTINUOUS", WIDE), "hidden": ("DASHED", THIN), "centre": ("CENTER", THIN), "thin": ("CONTINUOUS", THIN), "frame": ("CONTINUOUS", 0.7), "dimension": ("CONTINUOUS", THIN), "text": ("CONTINUOUS", THIN)}  # fmt: skip


def as_dxf(sheet: Sheet) -> bytes:
    """Millimetres on paper; the dimensions are scaled so that they measure the part itself."""
    sheet = sheet.with_signs()
    doc: Any = filemanagement.new("R2010", setup=True)
    doc.header["$INSUNITS"] = 4
    for name, (linetype, weight) in LAYERS.items():
        doc.layers.add(name, linetype=linetype, lineweight=round(weight * 100))
    style = doc.dimstyles.duplicate_entry("EZDXF", "PART") if "EZDXF" in doc.dimstyles else doc.dimstyles.new("PART")
    style.dxf.dimtxt, style.dxf.dimasz = TEXT, ARROW
    style.dxf.dimlfac, style.dxf.dimdec = (1.0 / sheet.scale / INCH, 4) if sheet.inches else (1.0 / sheet.scale, 3)
    style.dxf.dimscale, style.dxf.dimzin, style.dxf.dimdsep = 1.0, 8, ord(".")
    style.dxf.dimexo, style.dxf.dimexe, style.dxf.dimgap = 0.8, 1.6, 0.8
    space = doc.modelspace()
    for s in sheet.strokes:
        _curve(space, s.curve, {"layer": s.layer})
    for d in sheet.dimensions:
        attribs = {"layer": "dimension"}
        if isinstance(d, Round):
            add = space.add_diameter_dim_2p if d.diameter else space.add_radius_dim_2p
            foot = d.foot
            opposite = (2 * d.centre[0] - foot[0], 2 * d.centre[1] - foot[1])
            ends = (opposite, foot) if d.diameter else (d.centre, foot)
            add(*ends, text=plain(d.text).replace("\u2300", "%%c"), dimstyle="PART", dxfattribs=attribs).render()
        else:
            base = (d.at, d.a[1]) if d.upright else (d.a[0], d.at)
            angle = 90 if d.upright else 0
            text = f"<> {plain(d.after)}" if d.after else "<>"
            space.add_linear_dim(base, d.a, d.b, angle=angle, text=text, dimstyle="PART", dxfattribs=attribs).render()
    for label in sheet.labels:
        _text(space, label)
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode("utf-8")


def _curve(space: Any, c: tuple[Any, ...], attribs: dict[str, str]) -> None:
    if c[0] == "line":
        space.add_line((c[1], c[2]), (c[3], c[4]), attribs)
    elif c[0] == "curve":
        space.add_lwpolyline(c[1], dxfattribs=attribs)
    else:
        _, x, y, r, begin, by = c
        if abs(by) > 6.2831:
            space.add_circle((x, y), r, attribs)
        else:
            low, high = (begin, begin + by) if by > 0 else (begin + by, begin)
            space.add_arc((x, y), r, degrees(low), degrees(high), dxfattribs=attribs)


def _text(space: Any, label: Label) -> None:
    place = {"left": TextEntityAlignment.LEFT, "middle": TextEntityAlignment.CENTER, "right": TextEntityAlignment.RIGHT}
    text = space.add_text(
        plain(label.text).replace("%%", "% %"), height=label.height, rotation=label.angle, dxfattribs={"layer": "text"}
    )
    text.set_placement((label.x, label.y), align=place[label.anchor])
