"""The path of a cutter's centre round a cam: so far outside its outline as the cutter's radius, as points and as DXF.

Where the outline is hollow, the cutter must be smaller than it is there, else it takes away what is needed elsewhere.
"""

from __future__ import annotations

import csv
import io

import numpy as np
from ezdxf.filemanagement import new
from numpy.typing import NDArray

from uhrwerk.core.document import Document
from uhrwerk.core.elements import PlateCam
from uhrwerk.core.elements.cams.plate_cam import curve
from uhrwerk.core.field import ValidationFailed, numbers
from uhrwerk.core.part.design import element_of, is_mirrored
from uhrwerk.core.quantity import FormulaError

#: points round the cam, tenths of a degree of the outline's own run; straight between
POINTS = 3600
MM = 1e3

Array = NDArray[np.float64]


def cutter_path(d: Document, placed: str, diameter: str) -> Array:
    """(POINTS, 2) places of the cutter's centre in the cam's own frame, m, counter-clockwise. ValidationFailed where the part is no cam, or
    the cutter does not fit into its hollow."""
    part = d.placed.get(placed)
    element = element_of(d, placed) if part is not None else None
    if not isinstance(element, PlateCam):
        raise ValidationFailed(("part", f"{placed!r} is not a cam"))
    try:
        radius = d.scope().value(diameter, "length") / 2
    except FormulaError as error:
        raise ValidationFailed(("diameter", f"{diameter!r} {error}")) from error
    if radius < 0:
        raise ValidationFailed(("diameter", "must not be below zero"))
    n = numbers(element, d.scope())
    faults = PlateCam.faults(n)
    if faults:
        raise ValidationFailed(("part", faults[0][1]))
    line = curve(n)
    u = np.linspace(0, 2 * np.pi, POINTS, endpoint=False)
    hollow = -line.curvature(u).min()
    if hollow * radius >= 1:
        raise ValidationFailed(
            (
                "diameter",
                f"the outline is hollow with a radius of {MM / hollow:.3f} mm: the cutter must be smaller than {2 * MM / hollow:.3f} mm",
            )
        )
    places, way, _ = line.along(u)
    outward = np.stack([way[:, 1], -way[:, 0]], axis=1) / np.hypot(*way.T)[:, None]
    path = places + radius * outward
    if part is not None and part.mirrored != is_mirrored(d, part.part):
        path = path[::-1] * np.array([-1.0, 1.0])  # behind its yz plane, and counter-clockwise still
    return np.asarray(path)


def as_table(way: Array) -> str:
    """Comma-separated: angle about the cam's axis (deg), distance from it, x, y (mm)."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["angle (deg)", "radius (mm)", "x (mm)", "y (mm)"])
    for x, y in MM * way:
        writer.writerow([f"{np.degrees(np.arctan2(y, x)) % 360:.6f}", f"{np.hypot(x, y):.6f}", f"{x:.6f}", f"{y:.6f}"])
    return out.getvalue()


def as_dxf(way: Array) -> bytes:
    """One closed polyline, in millimetres."""
    drawing = new("R2000", units=4)
    drawing.modelspace().add_lwpolyline([(float(x), float(y)) for x, y in MM * way], close=True)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode("utf-8")
