"""A new mechanism: empty, with the requirements that every mechanism should meet."""

from __future__ import annotations

from uhrwerk.core.document import Document
from uhrwerk.core.document.requirement import StatedRequirement
from uhrwerk.core.requirements.determinate import Determinate
from uhrwerk.core.requirements.no_interference import NoInterference


def fresh(name: str) -> Document:
    """Nothing overlaps, and nothing is loose."""
    requirements: dict[str, StatedRequirement] = {
        "nothing_overlaps": NoInterference(name="Nothing overlaps"),
        "nothing_is_loose": Determinate(name="Nothing is loose"),
    }
    return Document(name=name, requirements=requirements)
