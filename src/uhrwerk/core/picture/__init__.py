"""What a page shows of an evaluated document, as plain data: scene, scheme, lanes, cards. No HTML."""

from uhrwerk.core.picture.balance import Balance, Corrected, balance, corrected
from uhrwerk.core.picture.cards import Card, FieldShown
from uhrwerk.core.picture.catalogue import Choices, Entry, Preview, catalogue, choices, preview
from uhrwerk.core.picture.comparison import Comparison, comparison
from uhrwerk.core.picture.curves import CurveShown, curves, table
from uhrwerk.core.picture.drawing import ViewDrawn, part_drawing
from uhrwerk.core.picture.lanes import Lane, lanes
from uhrwerk.core.picture.masses import MassesShown, masses
from uhrwerk.core.picture.measuring import Measure, measured
from uhrwerk.core.picture.remedies import Moves, Offer, moves, offers
from uhrwerk.core.picture.scene import block_of, mesh_block, pose_block, rough_block, shared_block
from uhrwerk.core.picture.search import SearchShown, search
from uhrwerk.core.picture.sketch import Sketch, sketch
from uhrwerk.core.picture.view import View, view
from uhrwerk.core.solids import Solid

__all__ = [
    "Balance", "Card", "Choices", "Comparison", "Corrected", "CurveShown", "Entry", "FieldShown", "Lane", "MassesShown", "Measure", "Moves", "Offer", "Preview", "SearchShown", "Sketch", "Solid", "View", "ViewDrawn", "balance", "block_of", "catalogue", "choices", "comparison", "corrected", "curves",
    "lanes", "masses", "measured", "mesh_block", "moves", "offers", "part_drawing", "pose_block", "preview", "rough_block", "search", "shared_block", "sketch", "table", "view",
]  # fmt: skip
