"""The numbers of a document that a designer would turn: written out with a unit, in parameters, parts, joints and pairs.

>>> from uhrwerk.core.document import Document
>>> from uhrwerk.core.document.document import Parameter
>>> [(n.path, n.value, n.unit, n.step) for n in numbers_of(Document(name="x", parameters={"w": Parameter(formula="12.5 mm")}))]
[('parameters.w.formula', 12.5, 'mm', 0.1)]
>>> n = numbers_of(Document(name="x", parameters={"w": Parameter(formula="12.53 mm")}))[0]
>>> n.text(n.on_grid(12.61, up=True)), n.text(n.on_grid(12.61, up=False))
('12.7 mm', '12.6 mm')
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from math import ceil, floor, log10

from uhrwerk.core.document import Document, spoken
from uhrwerk.core.field import ValidationFailed, formulas
from uhrwerk.core.quantity import in_unit

#: what lengths and angles are rounded to, in the unit in which they are written: sizes that can be made and measured
STEPS = {"mm": 0.1, "cm": 0.01, "m": 1e-4, "in": 0.005, "inch": 0.005, "deg": 0.1, "°": 0.1, "rad": 0.002}
#: what a designer would rather write, the roundest first
ROUND = {
    "mm": (1.0, 0.5),
    "cm": (0.1, 0.05),
    "m": (1e-3, 5e-4),
    "in": (0.05, 0.01),
    "inch": (0.05, 0.01),
    "deg": (1.0,),
    "°": (1.0,),
}
#: by how much of a change it may be more to be round
ROUNDER = 0.5
_WRITTEN = re.compile(r"([-+]?\d+(?:\.\d+)?)\s*([a-zA-Z°µ]+(?:/[a-zA-Z]+)?)?")
#: a parameter, and what is added to it or taken from it
_ADDED = re.compile(r"([A-Za-z_]\w*)(?:\s*([-+])\s*(\d+(?:\.\d+)?)\s*([a-zA-Z°]+))?")
#: where they are looked for
PLACES = ("parts", "joints", "relations", "pairs")
#: and where there are others that a designer may turn himself
EVERYWHERE = (*PLACES, "drivers", "requirements", "materials", "curves", "cycle")
#: how far a number is changed at most: a part of itself, an angle in degrees; one that is nothing, in steps
MOST, MOST_ANGLE, FROM_NOTHING = 0.6, 60.0, 200
#: and a small one, or what is added to a parameter that a field follows, in steps
ADDED = 30
ANGLES = {"deg": 1.0, "°": 1.0, "rad": 0.0174532925}


@dataclass(frozen=True)
class Number:
    """A number by its path, with what it is called; `value` and `step` in the `unit` in which it is written. Where a field follows
    a parameter, `follows` is its name, and the number what is added to it."""

    path: str
    name: str
    value: float
    unit: str
    step: float
    follows: str = ""
    series: tuple[float, ...] = ()  # the sizes that are made, in its unit, where these are not all steps
    positive: bool = False  # its field, or one that follows it, must be above zero

    @property
    def most(self) -> float:
        """By how much it is changed at most."""
        if self.follows:
            return ADDED * self.step
        if self.unit in ANGLES:
            return MOST_ANGLE * ANGLES[self.unit]
        least = FROM_NOTHING if not self.value else ADDED if self.unit in STEPS else 0
        return max(MOST * abs(self.value), least * self.step)

    @property
    def now(self) -> str:
        """What is written there, whether it can be made or not."""
        return self.text(self.value) if self.follows else f"{self.value:.10g} {self.unit}".rstrip()

    def part(self, value: float) -> float:
        """How large a change to a value is, as a part of what it was."""
        return abs(value - self.value) / max(abs(self.value), 10 * self.step)

    def on_grid(self, value: float, up: bool) -> float:
        """The size beside a value that can be made: the next one up, or down."""
        if self.series:
            beyond = [s for s in self.series if (s >= value - 1e-9 if up else s <= value + 1e-9)]
            return (min if up else max)(beyond, default=self.series[-1 if up else 0])
        steps = value / self.step
        near = round(steps)
        if abs(steps - near) > 1e-6:
            near = ceil(steps) if up else floor(steps)
        return near * self.step

    @property
    def last_resort(self) -> int:
        """Whether others are rather changed: a field that would leave the parameter that it shares; a size of a series, such as a module."""
        return 2 if self.series else 1 if self.follows else 0

    def rounder(self, value: float) -> list[float]:
        """Values a little farther from what it is that a designer would rather write, the roundest first; an angle's whole degrees."""
        out, way = list[float](), 1 if value > self.value else -1
        for grain in () if self.series else ROUND.get(self.unit, ()):
            there = way * ceil(way * value / grain - 1e-6) * grain
            more = grain if self.unit in ANGLES else ROUNDER * abs(value - self.value)
            if abs(there - value) < 1e-9:
                break
            if there not in out and abs(there - value) <= more + 1e-9 and abs(there - self.value) <= self.most:
                out.append(there)
        return out

    def moved(self, value: float, k: int) -> float:
        """The size that is so many sizes from one that can be made."""
        if not self.series:
            return value + k * self.step
        at = min(range(len(self.series)), key=lambda i: abs(self.series[i] - value)) + k
        return self.series[min(max(at, 0), len(self.series) - 1)]

    def sizes_to(self, value: float, other: float) -> int:
        """How many sizes lie between two, the farther one counted."""
        if self.series:
            return sum(1 for s in self.series if min(value, other) < s <= max(value, other) + 1e-9)
        return ceil(abs(other - value) / self.step - 1e-6)

    def text(self, value: float) -> str:
        if self.series:
            return f"{value:.10g} {self.unit}".rstrip()
        digits = max(0, -floor(log10(self.step) + 1e-9))
        told = f"{abs(value) if self.follows else value:.{digits}f}"
        told = f"{told.rstrip('0').rstrip('.') if '.' in told else told} {self.unit}".rstrip()
        if not self.follows:
            return told
        return f"{self.follows} {'-' if value < 0 else '+'} {told}" if abs(value) > self.step / 2 else self.follows


def numbers_of(document: Document, places: Iterable[str] = PLACES, whole: bool = False) -> list[Number]:
    """All of them, parameters first, in the order of the document; whole numbers, such as those of teeth, only where asked for."""
    named = [(f"parameters.{name}.formula", p.formula) for name, p in document.parameters.items()]
    every = [x for place in places for x in formulas(getattr(document, place), place)]
    series = {
        text.strip(): mark.series for _, text, mark in every if mark.series
    }  # of parameters that such a field follows
    counted = {text.strip() for _, text, mark in every if mark.whole}
    sizes = {text.strip() for _, text, mark in every if mark.above is not None}
    texts: list[tuple[str, str, str, tuple[float, ...], bool, bool]] = []
    for path, text in named:
        name = path.split(".")[1]
        texts.append((path, text, "", series.get(name, ()), name in counted, name in sizes))
    texts += [
        (p, t, mark.name, mark.series, mark.whole, mark.above is not None)
        for p, t, mark in every
        if not mark.over_time and not mark.measured
    ]
    numbers = [_number(document, *one) for one in texts if whole or not one[4]]
    return [n for n in numbers if n is not None]


def lately(before: Document, after: Document) -> dict[str, float]:
    """What numbers were in an earlier document, by their paths, where they are others now."""
    was = {n.path: n for n in numbers_of(before)}
    now = [n for n in numbers_of(after) if n.path in was]
    same = [n for n in now if (n.unit, n.follows) == (was[n.path].unit, was[n.path].follows)]
    return {n.path: was[n.path].value for n in same if n.value != was[n.path].value}


def turned(document: Document, path: str, steps: int) -> str:
    """The text of a number after so many of its steps. ValidationFailed where there is no number that can be turned."""
    number = next((n for n in numbers_of(document, EVERYWHERE, whole=True) if n.path == path), None)
    if number is None:
        raise ValidationFailed((path, "is not a number of its own: type what it is to be"))
    if number.series:
        return number.text(number.moved(number.on_grid(number.value, up=steps < 0), steps))
    return number.text(number.on_grid(number.value + steps * number.step, up=steps < 0))


def _number(
    document: Document,
    path: str,
    text: str,
    dimension: str,
    series: tuple[float, ...] = (),
    whole: bool = False,
    positive: bool = False,
) -> Number | None:
    """The number that is written there, or added to a parameter; None where it is another formula."""
    added = _ADDED.fullmatch(text.strip())
    if added is not None and added[1] in document.parameters and dimension in ("length", "angle") and not series:
        unit = added[4] or document.unit_of(dimension)
        value = float(f"{added[2] or ''}{added[3] or 0}")
        return Number(path, spoken(path, document), value, unit, STEPS[unit], added[1]) if unit in STEPS else None
    match = _WRITTEN.fullmatch(text.strip())
    if match is None:
        return None
    value, unit = float(match[1]), match[2] or ""
    step = 1.0 if whole else STEPS.get(unit) or (10.0 ** (floor(log10(abs(value))) - 1) if value else 0.0)
    sizes = tuple(round(in_unit(s, "length", unit), 9) for s in series) if series and unit in ("mm", "cm", "m") else ()
    return (
        Number(
            path, spoken(path.removesuffix(".formula"), document), value, unit, step, series=sizes, positive=positive
        )
        if step
        else None
    )


def nearest_first(document: Document, numbers: list[Number], parts: Iterable[str], requirement: str) -> list[Number]:
    """Numbers in the order in which a designer would try them: those of the very bodies concerned and the parameters that stand
    in what touches them; other parameters, which somebody took the trouble to name; other sizes of those parts; their
    joints and pairs; all others. `parts` are placed parts or bodies of them (part/body), `requirement` a joint or pair."""
    bodies = [tuple(p.split("/")) for p in parts]
    designs = {document.placed[p[0]].part for p in bodies if p[0] in document.placed}
    own = [f".{p[1]}." for p in bodies if len(p) > 1]
    near = [f"parts.{d}." for d in designs]
    touched = []
    for kind in ("joints", "relations", "pairs"):
        for i, item in getattr(document, kind).items():
            if i == requirement or {p[0] for p in bodies} & {at.placed for at in getattr(item, "at", ())}:
                touched.append(f"{kind}.{i}.")
    every = (x for place in PLACES for x in formulas(getattr(document, place), place))
    texts = " ".join(text for path, text, _ in every if path.startswith((*near, *touched)))
    words = set(re.findall(r"[A-Za-z_]\w*", texts))

    def rank(n: Number) -> int:
        if n.path.startswith("parameters."):
            return 1 if n.path.split(".")[1] in words else 2
        if n.path.startswith(tuple(near)):
            return 0 if any(name in f".{n.path.split('.', 2)[2]}" for name in own) else 3
        return 4 if n.path.startswith(tuple(touched)) else 5

    return sorted(numbers, key=rank)
