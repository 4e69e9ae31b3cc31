"""Cams: the plate cam, and what its outline follows from, one file a family."""

from uhrwerk.core.elements.cams.conjugate_cam import ConjugateCam
from uhrwerk.core.elements.cams.given import MeasuredOutline
from uhrwerk.core.elements.cams.groove_cam import GrooveCam
from uhrwerk.core.elements.cams.plain import Eccentric, Tangents
from uhrwerk.core.elements.cams.plate_cam import PlateCam
from uhrwerk.core.elements.cams.shape import SHAPES, CamOutline, CamShape
from uhrwerk.core.elements.cams.sliding import SlidingFlat, SlidingPoint, SlidingRoller
from uhrwerk.core.elements.cams.swinging import SwingingFlat, SwingingRoller

CAMS = (PlateCam, GrooveCam, ConjugateCam)

__all__ = [
    "CAMS",
    "SHAPES",
    "CamOutline",
    "CamShape",
    "ConjugateCam",
    "Eccentric",
    "GrooveCam",
    "MeasuredOutline",
    "PlateCam",
    "SlidingFlat",
    "SlidingPoint",
    "SlidingRoller",
    "SwingingFlat",
    "SwingingRoller",
    "Tangents",
]  # fmt: skip

for _shape in (
    SlidingRoller,
    SlidingPoint,
    SlidingFlat,
    SwingingRoller,
    SwingingFlat,
    Eccentric,
    Tangents,
    MeasuredOutline,
):
    SHAPES.register(_shape)
