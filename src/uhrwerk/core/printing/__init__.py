"""Printing in one piece: mechanisms as layers on a bed, and what of them would fuse, hang or be shut in."""

from uhrwerk.core.printing.bed import Bed, Lying
from uhrwerk.core.printing.layers import Finding, Layers, layered
from uhrwerk.core.printing.slices import PrintedBody, Slices
from uhrwerk.core.printing.stack import Stack

__all__ = ["Bed", "Finding", "Layers", "Lying", "PrintedBody", "Slices", "Stack", "layered"]
