"""Outlines of build steps, one file a kind. A new one is a file like the others and its line below."""

from uhrwerk.core.outlines.arc_slot import ArcSlot
from uhrwerk.core.outlines.circle import Circle
from uhrwerk.core.outlines.compound import Difference, Sum
from uhrwerk.core.outlines.edge_of_face import EdgeOfFace
from uhrwerk.core.outlines.hull import Disc, Hull
from uhrwerk.core.outlines.mirrored import Mirrored
from uhrwerk.core.outlines.offset import Offset
from uhrwerk.core.outlines.outline import OUTLINES, Outline, OutlineHandle, Unfit, outline_data, point, sides
from uhrwerk.core.outlines.path import Path, PathPiece
from uhrwerk.core.outlines.points import Corner, Points
from uhrwerk.core.outlines.polygon import Polygon
from uhrwerk.core.outlines.rectangle import Rectangle
from uhrwerk.core.outlines.relations import DRAWN_RELATIONS
from uhrwerk.core.outlines.slot import Slot
from uhrwerk.core.outlines.text import Text
from uhrwerk.core.outlines.traced import Traced, Turn

for _outline in (
    Circle,
    Rectangle,
    Slot,
    ArcSlot,
    Polygon,
    Points,
    Hull,
    Path,
    Traced,
    Text,
    EdgeOfFace,
    Sum,
    Difference,
    Offset,
    Mirrored,
):
    OUTLINES.register(_outline)

__all__ = [
    "DRAWN_RELATIONS",
    "OUTLINES",
    "ArcSlot",
    "Circle",
    "Corner",
    "Difference",
    "Disc",
    "EdgeOfFace",
    "Hull",
    "Mirrored",
    "Offset",
    "Outline",
    "OutlineHandle",
    "Path",
    "PathPiece",
    "Points",
    "Polygon",
    "Rectangle",
    "Slot",
    "Sum",
    "Text",
    "Traced",
    "Turn",
    "Unfit",
    "outline_data",
    "point",
    "sides",
]  # fmt: skip
