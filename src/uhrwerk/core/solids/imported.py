"""Solids imported from a file: designs with their contents, and where each is used."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class ImportedDesign:
    """A design: its name, its contents (see `contents`) or, where it is made by build steps, those as data (`part`); its
    colour (#rrggbb or nothing) and its volume, m3."""

    name: str
    contents: bytes
    colour: str = ""
    volume: float = 0.0
    part: dict[str, Any] | None = None


@dataclass(frozen=True)
class ImportedUse:
    """One use of a design: its place among them, its name, its pose (7,), m."""

    design: int
    name: str
    pose: list[float]


@dataclass(frozen=True)
class ImportedSolids:
    """All of it; `said` is what was healed and what was left out. `unitless` where the file states no unit; `size` is its
    largest, m, by the unit that was taken."""

    designs: list[ImportedDesign]
    uses: list[ImportedUse]
    said: list[str] = field(default_factory=list)
    unitless: bool = False
    size: float = 0.0
