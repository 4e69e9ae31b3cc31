"""Requirements: what is asked of a mechanism. Each kind, with how it is judged, is a file of `core.checks`."""

from __future__ import annotations

from uhrwerk.core.field import Id, Kinds, Model, Name, PlacedId


class Of(Model):
    """A placed part, or one body of it, such as a post of the plate."""

    placed: PlacedId
    body: Id | None = None


class Requirement(Model):
    """What all requirements state."""

    kind: str
    name: Name


REQUIREMENTS: Kinds[Requirement] = Kinds("requirement")
