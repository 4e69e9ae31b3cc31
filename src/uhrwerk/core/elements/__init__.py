"""Machine elements, one file each: what a designer states, what is wrong with it, its solid, its datums, its derived values.

A new one is a file like the others and its line below.
"""

from uhrwerk.core.elements import belts, cams, couplings, hardware
from uhrwerk.core.elements.angled_link import AngledLink
from uhrwerk.core.elements.arc_link import ArcLink
from uhrwerk.core.elements.belts import BELTS, Pulley, Sprocket, ToothedPulley
from uhrwerk.core.elements.blank import Blank
from uhrwerk.core.elements.bore import Bore, Post
from uhrwerk.core.elements.cams import CAMS, PlateCam
from uhrwerk.core.elements.carrier import Carrier
from uhrwerk.core.elements.counterweight import Counterweight
from uhrwerk.core.elements.couplings import (
    COUPLINGS,
    BellowsHalf,
    Cross,
    Half,
    JawHub,
    JawStar,
    OldhamDisc,
    OldhamHub,
    Sleeve,
    Yoke,
)
from uhrwerk.core.elements.eccentric_disc import EccentricDisc
from uhrwerk.core.elements.element import Derived, Element, spoken
from uhrwerk.core.elements.frame_plate import FramePlate
from uhrwerk.core.elements.geneva import GenevaDriver, GenevaWheel
from uhrwerk.core.elements.hardware import HARDWARE
from uhrwerk.core.elements.hinge_leaf import HingeLeaf
from uhrwerk.core.elements.imported import Imported
from uhrwerk.core.elements.like import ChangedNumber, Like
from uhrwerk.core.elements.link_bar import LinkBar
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.elements.plain import PLAIN, AngleBracket, BentSheet, Block, Housing, Prism, Tube
from uhrwerk.core.elements.rack import Rack
from uhrwerk.core.elements.ring_gear import RingGear
from uhrwerk.core.elements.slide_guide import SlideBar, SlideGuide
from uhrwerk.core.elements.slotted_lever import SlottedLever
from uhrwerk.core.elements.spur_gear import SpurGear
from uhrwerk.core.elements.stepped_shaft import SteppedShaft
from uhrwerk.core.field import Kinds, Numbers

ELEMENTS: Kinds[Element] = Kinds("element")
for _element in (
    *PLAIN,
    FramePlate,
    SpurGear,
    RingGear,
    Rack,
    Carrier,
    LinkBar,
    AngledLink,
    ArcLink,
    SlottedLever,
    SlideGuide,
    SlideBar,
    EccentricDisc,
    *CAMS,
    GenevaWheel,
    GenevaDriver,
    *COUPLINGS,
    *BELTS,
    HingeLeaf,
    SteppedShaft,
    Pin,
    Counterweight,
    *HARDWARE,
    Blank,
    Like,
    Imported,
):
    ELEMENTS.register(_element)


def of(sizes: Numbers) -> type[Element]:
    """The kind of an element, from its numbers."""
    return ELEMENTS[sizes.kind]


__all__ = [
    "ELEMENTS",
    "AngleBracket",
    "AngledLink",
    "ArcLink",
    "BellowsHalf",
    "BentSheet",
    "Blank",
    "Block",
    "Bore",
    "Carrier",
    "ChangedNumber",
    "Counterweight",
    "Cross",
    "Derived",
    "EccentricDisc",
    "Element",
    "FramePlate",
    "GenevaDriver",
    "GenevaWheel",
    "Half",
    "HingeLeaf",
    "Housing",
    "Imported",
    "JawHub",
    "JawStar",
    "Like",
    "LinkBar",
    "OldhamDisc",
    "OldhamHub",
    "Pin",
    "PlateCam",
    "Post",
    "Prism",
    "Pulley",
    "Rack",
    "RingGear",
    "Sleeve",
    "SlideBar",
    "SlideGuide",
    "SlottedLever",
    "Sprocket",
    "SpurGear",
    "SteppedShaft",
    "ToothedPulley",
    "Tube",
    "Yoke",
    "belts",
    "cams",
    "couplings",
    "hardware",
    "of",
    "spoken",
]
