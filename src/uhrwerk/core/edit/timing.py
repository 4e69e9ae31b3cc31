"""Edits of a programme in the timing chart: corners moved, segments split, inserted, deleted; each as one command."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import BaseModel, Field, JsonValue

from uhrwerk.core.document import Document, ValidationFailed
from uhrwerk.core.field import Id, Seconds, numbers
from uhrwerk.core.laws.segment import seconds

#: formulas are written with so many digits
DIGITS = 9
What = Literal["corner", "split", "stay", "remove"]


class TimingEdit(BaseModel):
    """What is drawn. A corner is the end of a segment: `until` is where it goes, degrees of the cycle after the programme's
    beginning; `to` its new value as a formula. `following`: all that comes after it is moved along; else the next segment
    gives or takes what this one lacks."""

    driver: Id
    segment: Id
    what: What
    until: float | None = Field(default=None, ge=0, le=360 * (1 + 1e-9), description="degrees of the cycle")
    to: str | None = Field(default=None, max_length=400)
    following: bool = False


def changed(document: Document, change: TimingEdit) -> dict[str, JsonValue]:
    """The command that does what was drawn. ValidationFailed where the driver has no such segment, or no time is left."""
    driver = document.drivers.get(change.driver)
    segments = getattr(driver, "segments", None)
    if driver is None or not segments:
        raise ValidationFailed(("driver", f"there is no programme {change.driver!r}"))
    if change.segment not in segments:
        raise ValidationFailed(("segment", f"{driver.name} has no segment {change.segment!r}"))
    work = _Drawing(document, change.driver)
    if change.what == "corner":
        commands = work.corner(change)
        return {"kind": "together", "commands": list(commands), "words": f"{driver.name}: {change.segment} drawn"}
    drawing = {"split": work.split, "stay": work.stay, "remove": work.without}[change.what](change.segment)
    words = {
        "split": f"{change.segment} split",
        "stay": f"stay after {change.segment}",
        "remove": f"{change.segment} taken out",
    }[change.what]
    one: JsonValue = {"kind": "set_value", "path": f"drivers.{change.driver}.segments", "value": drawing}
    return {"kind": "together", "commands": [one], "words": f"{driver.name}: {words}"}


class _Drawing:
    """A programme at hand: its segments as stated and as numbers, their spans in s."""

    def __init__(self, document: Document, driver: str) -> None:
        stated = document.drivers[driver]
        n = numbers(stated, document.scope())
        self.path = f"drivers.{driver}.segments"
        self.cycle = document.scope().value(document.cycle.duration, "time")
        self.angle = stated.coordinate == "turn"
        self.start = n.start
        self.stated: dict[str, dict[str, JsonValue]] = stated.model_dump(mode="json")["segments"]
        self.numbers = n.segments
        self.spans = {i: seconds(s.over, self.cycle) for i, s in n.segments.items()}

    def written(self, segment: str, span: float) -> str:
        """A span, s, as a formula in the unit in which the segment's is stated."""
        if isinstance(self.numbers[segment].over, Seconds):
            return f"{_round(span):g} s"
        return f"{_round(span / self.cycle * 360):g} deg"

    def _value(self, si: float) -> str:
        return f"{_round(math.degrees(si)):g} deg" if self.angle else f"{_round(si * 1e3):g} mm"

    def _after(self, segment: str) -> list[str]:
        order = list(self.stated)
        return order[order.index(segment) + 1 :]

    def corner(self, change: TimingEdit) -> list[JsonValue]:
        out: list[JsonValue] = []
        after = self._after(change.segment)
        if change.until is not None:
            begin = sum(self.spans[i] for i in list(self.stated)[: list(self.stated).index(change.segment)])
            until = change.until / 360 * self.cycle
            if until < begin:
                raise ValidationFailed(("until", f"lies before the segment begins, at {begin / self.cycle * 360:.4g}°"))
            out.append(self._set(change.segment, "over", self.written(change.segment, until - begin)))
            if after and not change.following:
                rest = begin + self.spans[change.segment] + self.spans[after[0]] - until
                if rest < 0:
                    raise ValidationFailed(
                        ("until", f"lies behind the end of {after[0]}: move that one first, or all that follows")
                    )
                out.append(self._set(after[0], "over", self.written(after[0], rest)))
        if change.to is not None:
            stays = self.numbers[change.segment].to
            out.append(self._set(change.segment, "to", change.to))
            for i in after:  # what stood still there stands still where it is now
                if self.numbers[i].to != stays:
                    break
                out.append(self._set(i, "to", change.to))
        return out

    def _set(self, segment: str, field: str, value: str) -> JsonValue:
        return {"kind": "set_value", "path": f"{self.path}.{segment}.{field}", "value": value}

    def _halves(self, segment: str, second: dict[str, JsonValue], first: dict[str, JsonValue]) -> JsonValue:
        if self.spans[segment] <= 0:
            raise ValidationFailed(("segment", f"{segment} takes no time: there is nothing to divide"))
        half = self.written(segment, self.spans[segment] / 2)
        name = self._free("stay" if second["to"] == first["to"] else segment)
        out: dict[str, JsonValue] = {}
        for i, s in self.stated.items():
            out[i] = {**s, **first, "over": half} if i == segment else s
            if i == segment:
                out[name] = {**s, **second, "over": half}
        return out

    def split(self, segment: str) -> JsonValue:
        """Two segments in its place, each of half its span and half its way."""
        before = self.start
        for i in self.stated:
            if i == segment:
                break
            before = self.numbers[i].to
        s = self.stated[segment]
        middle = s["to"] if before == self.numbers[segment].to else self._value((before + self.numbers[segment].to) / 2)
        return self._halves(segment, {"to": s["to"]}, {"to": middle})

    def stay(self, segment: str) -> JsonValue:
        """The way in half its span, and a standstill in the other half."""
        to = self.stated[segment]["to"]
        return self._halves(segment, {"to": to}, {"to": to})

    def without(self, segment: str) -> JsonValue:
        """Taken out; the one after it, or before it, takes its time."""
        order = list(self.stated)
        if len(order) == 1:
            raise ValidationFailed(("segment", "a programme keeps one segment at least"))
        at = order.index(segment)
        heir = order[at + 1] if at + 1 < len(order) else order[at - 1]
        span = self.written(heir, self.spans[heir] + self.spans[segment])
        return {i: {**s, "over": span} if i == heir else s for i, s in self.stated.items() if i != segment}

    def _free(self, stem: str) -> str:
        stem = stem.rstrip("_0123456789") or "segment"
        return next(n for n in (stem, *(f"{stem}_{k}" for k in range(2, 1000))) if n not in self.stated)


def _round(x: float) -> float:
    return float(f"{x:.{DIGITS}g}")
