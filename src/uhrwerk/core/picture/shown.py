"""How values are shown: in the unit of the document."""

from __future__ import annotations

from uhrwerk.core.document import Document
from uhrwerk.core.quantity import DIMENSIONS, display


def shown_unit(document: Document, dimension: str) -> str:
    return {"length": document.units.length, "mass": document.units.mass}.get(dimension, DIMENSIONS[dimension][1])


def shown(document: Document, si: float, dimension: str) -> str:
    return display(si, dimension, shown_unit(document, dimension))
