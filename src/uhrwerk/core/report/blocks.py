"""What a report consists of, as plain data: sections of words, tables, figures and charts."""

from __future__ import annotations

from dataclasses import dataclass, field

from uhrwerk.core.line_drawing import Picture


@dataclass(frozen=True)
class Words:
    text: str


@dataclass(frozen=True)
class Table:
    """Rows of text under heads. `wide`: the share of the width that each column gets."""

    heads: list[str]
    rows: list[list[str]]
    wide: list[float]


@dataclass(frozen=True)
class Figure:
    """A line drawing with its caption; the parts in `marked` are drawn bold, `crosses` are places in its frame, y down."""

    picture: Picture
    caption: str
    names: dict[str, str]
    marked: tuple[str, ...] = ()
    crosses: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class Chart:
    """A curve over the cycle: points (s, value in `unit`); `limits` are values drawn across."""

    name: str
    unit: str
    points: list[tuple[float, float]]
    caption: str = ""
    limits: tuple[float, ...] = ()


Block = Words | Table | Figure | Chart


@dataclass(frozen=True)
class Section:
    title: str
    blocks: list[Block]


@dataclass(frozen=True)
class Report:
    """`summary` says what the verdicts come to; `about` which revision it is of, and when it was written."""

    title: str
    note: str
    summary: str
    about: str
    sections: list[Section] = field(default_factory=list)
