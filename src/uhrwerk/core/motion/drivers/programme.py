"""A programme: ways and dwells by motion laws, over one master cycle."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.document.driver import Driver, other_way
from uhrwerk.core.equations.law import Law
from uhrwerk.core.field import Angle, Id, Length, Numbers, Span
from uhrwerk.core.laws import segment
from uhrwerk.core.laws.segment import SlideSegment, TurnSegment
from uhrwerk.core.quantity import display


class Programmed(Driver):
    """What both programmes state."""

    begins: Span = Field(default="0 deg", title="Begins at")
    continues: bool = Field(default=False, title="Next cycle continues from the end")

    #: dimension and unit of the value, of its rate and of its acceleration
    shown: ClassVar[tuple[tuple[str, str], tuple[str, str], tuple[str, str]]]

    @staticmethod
    def law(n: Numbers, cycle: float) -> Law:
        return segment.programme(n.segments, n.start, n.begins, cycle, n.continues)

    @classmethod
    def faults(cls, n: Numbers, cycle: float) -> list[tuple[str, str]]:  # type: ignore[override]
        return segment.faults(n.segments, n.start, cycle, n.continues, cls._words(0))

    @classmethod
    def remarks(cls, n: Numbers, cycle: float) -> list[tuple[str, str]]:  # type: ignore[override]
        jumps = segment.programme(n.segments, n.start, n.begins, cycle, n.continues).jumps()
        return [("segments", words) for words in segment.jump_words(jumps, cycle, cls._words(1), cls._words(2))]

    @classmethod
    def _words(cls, order: int) -> segment.Shown:
        dimension, unit = cls.shown[order]
        return lambda si: display(si, dimension, unit)

    def reverse(self) -> dict[str, str]:
        segments: dict[str, TurnSegment | SlideSegment] = self.segments  # type: ignore[attr-defined]
        return {"start": other_way(self.start), **{f"segments.{i}.to": other_way(s.to) for i, s in segments.items()}}  # type: ignore[attr-defined]


class TurnProgramme(Programmed):
    """A joint turned by a programme: from its start to one angle after another, each by its own law."""

    title: ClassVar[str] = "Turning by a programme"
    coordinate: ClassVar[str] = "turn"
    shown = (("angle", "deg"), ("turning speed", "rpm"), ("turning acceleration", "rad/s^2"))

    kind: Literal["turn_programme"] = "turn_programme"
    start: Angle = "0 deg"
    segments: dict[Id, TurnSegment] = Field(default_factory=segment.turning, min_length=1, max_length=100)


class SlideProgramme(Programmed):
    """A joint pushed by a programme: from its start to one position after another, each by its own law."""

    title: ClassVar[str] = "Sliding by a programme"
    coordinate: ClassVar[str] = "slide"
    shown = (("length", "mm"), ("sliding speed", "mm/s"), ("acceleration", "m/s^2"))

    kind: Literal["slide_programme"] = "slide_programme"
    start: Length = "0 mm"
    segments: dict[Id, SlideSegment] = Field(default_factory=segment.sliding, min_length=1, max_length=100)
