"""A verdict: the answer to one requirement, with value, limit, where and when, and how well it is known. SI."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Verdict:
    """`holds` is None where there is no answer; then `words` says why and what to do.

    margin: value against limit, positive when it holds, in the same unit; error: how far `value` may be off.
    """

    requirement: str
    name: str
    kind: str
    holds: bool | None
    words: str
    value: float | None = None
    limit: float | None = None
    sense: str = ""  # ">=" or "<="
    dimension: str = ""
    error: float = 0.0
    time: float | None = None
    parts: tuple[str, ...] = ()
    points: tuple[tuple[float, float, float], ...] = ()
    basis: str = ""
    drawn: bool = False  # the distance of both parts over the cycle can be drawn

    @property
    def margin(self) -> float | None:
        if self.value is None or self.limit is None:
            return None
        return self.value - self.limit if self.sense == ">=" else self.limit - self.value

    def data(self) -> dict[str, Any]:
        """Plain data with SI values, the unit named; see docs/results-schema.json."""
        unit = {"length": "m", "angle": "rad", "mass": "kg", "number": "1", "": None}[self.dimension]
        return {
            "requirement": self.requirement, "name": self.name, "kind": self.kind, "holds": self.holds, "words": self.words,
            "value": self.value, "limit": self.limit, "sense": self.sense or None, "margin": self.margin, "error": self.error,
            "unit": unit, "time": self.time, "parts": list(self.parts), "points": [list(p) for p in self.points],
            "basis": self.basis,
        }  # fmt: skip
