"""Datums of what stands on z = 0 about the z axis: its faces, and the planes through its middle."""

from __future__ import annotations

from uhrwerk.core.solids import Datum, axis, face, plane

#: group of all plain shapes in the catalogue
GROUP = "Plain shapes"


def box_faces(length: float, width: float, height: float) -> dict[str, Datum]:
    """The six faces of a box that is centred on the z axis, from z = 0 up, and its three middle planes."""
    x, y, z = length / 2, width / 2, height / 2
    return {
        "top": plane(0, 0, height), "bottom": plane(0, 0, 0, up=False),
        "left": face((-x, 0, z), (-1, 0, 0)), "right": face((x, 0, z), (1, 0, 0)),
        "front": face((0, -y, z), (0, -1, 0)), "back": face((0, y, z), (0, 1, 0)),
        "axis": axis(0, 0, 0), **middle_planes(z),
    }  # fmt: skip


def middle_planes(z: float) -> dict[str, Datum]:
    """The planes through the middle of what is centred on the z axis, and that at half its height."""
    return {
        "middle_yz": face((0, 0, z), (1, 0, 0)), "middle_xz": face((0, 0, z), (0, 1, 0)), "middle_xy": plane(0, 0, z),
    }  # fmt: skip
