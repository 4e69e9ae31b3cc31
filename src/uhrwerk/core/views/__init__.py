"""What a page shows of an evaluated document, as plain data: scene, scheme, lanes, cards. No HTML."""

from uhrwerk.core.solids import Solid
from uhrwerk.core.views.balance import Balance, Corrected, balance, corrected
from uhrwerk.core.views.cards import Card, FieldShown
from uhrwerk.core.views.catalogue import Choices, Entry, Preview, catalogue, choices, preview
from uhrwerk.core.views.comparison import Comparison, comparison
from uhrwerk.core.views.curves import CurveShown, curves, table
from uhrwerk.core.views.drawing import ViewDrawn, part_drawing
from uhrwerk.core.views.lanes import Lane, distances, lanes
from uhrwerk.core.views.masses import MassesShown, masses
from uhrwerk.core.views.measuring import Measure, measured
from uhrwerk.core.views.print_layers import PrintLayer, PrintLayers, PrintSetting, print_layer, print_layers
from uhrwerk.core.views.remedies import RemedyShown, SensitiveNumber, moves, offers
from uhrwerk.core.views.scene import block_of, mesh_block, pose_block, rough_block, shared_block
from uhrwerk.core.views.search import SearchShown, search
from uhrwerk.core.views.sketch import Sketch, sketch
from uhrwerk.core.views.view import View, view

__all__ = [
    "Balance",
    "Card",
    "Choices",
    "Comparison",
    "Corrected",
    "CurveShown",
    "Entry",
    "FieldShown",
    "Lane",
    "MassesShown",
    "Measure",
    "Preview",
    "PrintLayer",
    "PrintLayers",
    "PrintSetting",
    "RemedyShown",
    "SearchShown",
    "SensitiveNumber",
    "Sketch",
    "Solid",
    "View",
    "ViewDrawn",
    "balance",
    "block_of",
    "catalogue",
    "choices",
    "comparison",
    "corrected",
    "curves",
    "distances",
    "lanes",
    "masses",
    "measured",
    "mesh_block",
    "moves",
    "offers",
    "part_drawing",
    "pose_block",
    "preview",
    "print_layer",
    "print_layers",
    "rough_block",
    "search",
    "shared_block",
    "sketch",
    "table",
    "view",
]  # fmt: skip
