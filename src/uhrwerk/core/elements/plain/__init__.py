"""Plain shapes: what parts of one's own begin from, their sizes in one form."""

from uhrwerk.core.elements.plain.bent_sheet import AngleBracket, BentSheet
from uhrwerk.core.elements.plain.block import Block
from uhrwerk.core.elements.plain.housing import Housing
from uhrwerk.core.elements.plain.prism import Prism
from uhrwerk.core.elements.plain.tube import Tube

PLAIN = (Block, Tube, Prism, BentSheet, AngleBracket, Housing)

__all__ = ["PLAIN", "AngleBracket", "BentSheet", "Block", "Housing", "Prism", "Tube"]
