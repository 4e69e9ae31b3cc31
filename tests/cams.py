"""Cams with their followers as small mechanisms: a cam turning in a plate; a follower that slides along x, or swings beside it."""

from __future__ import annotations

import numpy as np

from uhrwerk import Bore, Draft, FramePlate, LinkBar
from uhrwerk.core.document import Document
from uhrwerk.core.elements.cams import CamShape, PlateCam, SwingingFlat, SwingingRoller
from uhrwerk.core.field import Numbers, numbers
from uhrwerk.core.quantity import Scope


def sizes(shape: CamShape, base: str = "50 mm", bore: str = "8 mm") -> Numbers:
    return numbers(PlateCam(outline=shape, base_diameter=base, bore=bore), Scope())


def _cam(shape: CamShape, base: str, pivot: float) -> tuple[Draft, str, str]:
    d = Draft("Cam")
    bores = {
        "cam": Bore(x="80 mm", y="60 mm", diameter="8 mm"),
        "pivot": Bore(x=f"{80 + pivot * 1e3!r} mm", y="60 mm", diameter="6 mm"),
    }
    plate = d.part("Plate", "steel", FramePlate(length="180 mm", width="120 mm", bores=bores))
    cam = d.part("Cam", "steel", PlateCam(outline=shape, base_diameter=base), x="80 mm", y="60 mm")
    d.turn("Motor", d.revolute("Cam turns", plate["cam"], cam["axis"], offset="-8 mm"), "60 rpm")
    return d, plate, cam  # type: ignore[return-value]


def sliding(
    shape: CamShape, base: str = "50 mm", radius: str = "5 mm", aside: str = "0 mm", reach: float = 0.04
) -> Document:
    """A follower that slides along x: the axis of its bore as a roller's, `aside` above the line through the cam's axis; or,
    without a radius, its flat face. It starts `reach` (m) from the cam's axis."""
    d, plate, cam = _cam(shape, base, 0.06)
    bore = Bore(x="10 mm", y=f"10 mm + ({aside})", diameter="4 mm")
    slide = FramePlate(length="20 mm", width="20 mm", bores={"roller": bore})
    slider = d.part("Slider", "steel", slide, x=f"{80 + reach * 1e3 - 10!r} mm", y="50 mm")
    d.prismatic("Moves", plate["right"], slider["right"])  # type: ignore[index]
    if radius:
        d.cam_pair("Runs", cam["axis"], slider["roller"], roller_radius=radius)  # type: ignore[index]
    else:
        d.cam_pair("Runs", cam["axis"], slider["left"])  # type: ignore[index]
    return d.document


def bore_from_axis(coordinate: np.ndarray) -> np.ndarray:
    """Where the sliding follower's bore stands from the cam's axis, m, at its coordinate."""
    return coordinate + 0.18 - 0.01 - 0.08


def swinging(shape: SwingingRoller | SwingingFlat, base: str = "50 mm", ahead: float = 0.1) -> tuple[Document, float]:
    """A follower that swings beside the cam, and its coordinate where it rests on the base circle, rad."""
    n = sizes(shape, base)
    d, plate, cam = _cam(shape, base, n.outline.pivot)
    rest = np.pi - type(shape).rest(n.outline, n.base_diameter / 2)
    start = {"x": f"{80 + n.outline.pivot * 1e3!r} mm", "y": "60 mm", "turn_z": f"{rest - ahead!r} rad"}
    if isinstance(shape, SwingingRoller):
        arm = d.part("Arm", "steel", LinkBar(distance=shape.arm), **start)
        d.revolute("Moves", plate["pivot"], arm["hole_1"], offset="-8 mm")  # type: ignore[index]
        d.cam_pair("Runs", cam["axis"], arm["hole_2"], roller_radius=f"({shape.roller}) / 2")  # type: ignore[index]
    else:  # the face lies `offset` before the pivot
        bore = Bore(x="12 mm", y=f"20 mm - ({shape.offset})", diameter="6 mm")
        arm = d.part("Arm", "steel", FramePlate(length="70 mm", width="20 mm", bores={"pivot": bore}), **start)
        d.revolute("Moves", plate["pivot"], arm["pivot"])  # type: ignore[index]
        d.cam_pair("Runs", cam["axis"], arm["back"])  # type: ignore[index]
    return d.document, rest
