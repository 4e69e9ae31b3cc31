"""Repeats: placed parts used again round an axis, along a line, behind a plane, or anywhere, with the joints inside.

A copy follows its original: it is made anew from it each time. Copy k of `rocker` is named `rocker__k`; the original
is the first. A joint between an original and the first copy is one to the next: it is repeated from each copy to the
one after it, and round a full ring from the last to the first.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from pydantic import Field

from uhrwerk.core.field import Angle, AngleOrOpen, Count, Kinds, Length, Model, Name, PlacedId
from uhrwerk.core.joints import At
from uhrwerk.core.quantity import FormulaError, Scope

#: copies of one repeat, and placed parts with all their copies, at most
MOST, MOST_PLACED = 200, 2_000


class Start(Model):
    """Where a placed part is before the joints act on it: a point, and turns about x, then y, then z."""

    x: Length = "0 mm"
    y: Length = "0 mm"
    z: Length = "0 mm"
    turn_x: Angle = "0 deg"
    turn_y: Angle = "0 deg"
    turn_z: Angle = "0 deg"


class Repeat(Model):
    kind: str
    name: Name
    placed: list[PlacedId] = Field(min_length=1, max_length=200)


REPEATS: Kinds[Repeat] = Kinds("repeat")


@REPEATS.register
class RingRepeat(Repeat):
    """So many round an axis; without a step they share the full turn. An outside part that has the axis is joined too."""

    kind: Literal["ring"] = "ring"
    about: At
    count: Count = "3"
    step: AngleOrOpen = ""


@REPEATS.register
class RowRepeat(Repeat):
    """So many along the direction of a datum, a pitch apart."""

    kind: Literal["row"] = "row"
    along: At
    count: Count = "2"
    pitch: Length = "20 mm"


@REPEATS.register
class MirrorRepeat(Repeat):
    """The image behind a plane."""

    kind: Literal["mirror"] = "mirror"
    about: At


@REPEATS.register
class CopyRepeat(Repeat):
    """The same once more: a group used again, which moves inside on its own."""

    kind: Literal["copy"] = "copy"
    count: Count = "2"
    shift: Start = Field(default_factory=Start)


def count_of(repeat: Repeat, scope: Scope) -> int:
    """How many there are with the original; FormulaError unless a whole number from 2 on."""
    if isinstance(repeat, MirrorRepeat):
        return 2
    value = scope.value(repeat.count, "number")  # type: ignore[attr-defined]
    if abs(value - round(value)) > 1e-9 or not 2 <= round(value) <= MOST:
        raise FormulaError(f"gives {value:g}; a whole number from 2 to {MOST} is required")
    return round(value)


def of_copy(original: str, k: int, turn: int = 1) -> str:
    """The name of the k-th of a repeat; the first is the original itself. `turn` is 2 for the second repeat of the same original, and
    so on: its copies have names of their own."""
    return original if k == 1 else f"{original}__{k}" if turn == 1 else f"{original}__r{turn}_{k}"


def turns_of(repeats: Mapping[str, Repeat], repeat: str) -> dict[str, int]:
    """The how manieth repeat of each of its originals one is."""
    names = list(repeats)
    earlier = [repeats[i] for i in names[: names.index(repeat)]]
    return {p: 1 + sum(p in r.placed for r in earlier) for p in repeats[repeat].placed}


def original_of(name: str) -> str:
    """The original's name, of a copy or of a copy of a copy."""
    return name.split("__")[0]


def too_many(placed: int, repeats: Mapping[str, Repeat], scope: Scope) -> tuple[str, int] | None:
    """The repeat with which there are more placed parts than can be held, and how many there are then; None where there are not."""
    total = placed
    for i, repeat in repeats.items():
        try:
            total += (count_of(repeat, scope) - 1) * len(repeat.placed)
        except FormulaError:
            continue
        if total > MOST_PLACED:
            return i, total
    return None


def copies(repeats: Mapping[str, Repeat], scope: Scope) -> dict[str, str]:
    """Every copy's name and its original's."""
    out: dict[str, str] = {}
    for i, repeat in repeats.items():
        turns = turns_of(repeats, i)
        try:
            count = count_of(repeat, scope)
        except FormulaError:
            continue
        for original in repeat.placed:
            out |= {of_copy(original, k, turns[original]): original for k in range(2, count + 1)}
    return out
