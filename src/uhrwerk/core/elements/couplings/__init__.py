"""Couplings: elements that fit each other, one file a family."""

from uhrwerk.core.elements.couplings.bellows import BellowsHalf
from uhrwerk.core.elements.couplings.cardan import Cross, Yoke
from uhrwerk.core.elements.couplings.half import Flex, Half
from uhrwerk.core.elements.couplings.jaws import JawHub, JawStar
from uhrwerk.core.elements.couplings.oldham import OldhamDisc, OldhamHub
from uhrwerk.core.elements.couplings.sleeve import Sleeve

COUPLINGS = (JawHub, JawStar, Sleeve, OldhamHub, OldhamDisc, Yoke, Cross, BellowsHalf)

__all__ = [
    "COUPLINGS",
    "BellowsHalf",
    "Cross",
    "Flex",
    "Half",
    "JawHub",
    "JawStar",
    "OldhamDisc",
    "OldhamHub",
    "Sleeve",
    "Yoke",
]
