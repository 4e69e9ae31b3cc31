"""Requirements: what must hold for a mechanism. Each kind, with how it is judged, is a file of `core.requirements`."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from uhrwerk.core.field import Id, Kinds, Model, Name, PlacedId


class Of(Model):
    """A placed part, or one body of it, such as a post of the plate."""

    placed: PlacedId
    body: Id | None = None


class StatedRequirement(Model):
    """What all requirements state."""

    kind: str
    name: Name

    def faults(self, document: Any) -> Iterable[tuple[str, str]]:
        """Fields that do not fit the document, and why."""
        return ()


REQUIREMENTS: Kinds[StatedRequirement] = Kinds("requirement")
