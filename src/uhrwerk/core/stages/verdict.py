"""A verdict: the answer to one requirement, with value, limit, where and when, and how well it is known. SI."""

from __future__ import annotations

from dataclasses import KW_ONLY, dataclass
from typing import Any

from uhrwerk.core.proximity.sweep import EXACT
from uhrwerk.core.quantity import SI

Point = tuple[float, float, float]


def at_least(value: float, error: float, limit: float) -> bool | None:
    """Whether a distance, m, that may be off by an error is at least a limit: one rule at the limit. None where that cannot be
    told."""
    if value >= limit - min(error, EXACT):
        return None if value - error < limit - EXACT else True
    return None if error > EXACT and value + error >= limit else False


@dataclass(frozen=True)
class Verdict:
    """The answer to a requirement, by its name and kind. `holds` is None where there is no answer; then `words` says why and
    what to do. `error`: how far `value` may be off, in the same unit.
    """

    name: str
    kind: str
    holds: bool | None
    words: str
    _: KW_ONLY
    value: float | None = None
    limit: float | None = None
    sense: str = ""  # ">=" or "<="
    dimension: str = ""
    error: float = 0.0
    time: float | None = None
    parts: tuple[str, ...] = ()
    points: tuple[Point, ...] = ()
    basis: str = ""
    short: str = ""  # the value in few words, where a number with its unit does not say it
    drawn: bool = False  # the distance of both parts over the cycle can be drawn
    requirement: str = ""  # its id in the document

    @property
    def margin(self) -> float | None:
        """Value against limit, positive when it holds, in the same unit."""
        if self.value is None or self.limit is None:
            return None
        return self.value - self.limit if self.sense == ">=" else self.limit - self.value

    def data(self) -> dict[str, Any]:
        """Plain data with SI values, the unit named; see docs/results-schema.json."""
        return {
            "requirement": self.requirement, "name": self.name, "kind": self.kind, "holds": self.holds, "words": self.words,
            "value": self.value, "limit": self.limit, "sense": self.sense or None, "margin": self.margin, "error": self.error,
            "unit": SI[self.dimension] if self.dimension else None, "time": self.time, "parts": list(self.parts), "points": [list(p) for p in self.points],
            "basis": self.basis,
        }  # fmt: skip
