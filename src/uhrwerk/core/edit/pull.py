"""Pulling a face: the number behind it changes, or a step is added that moves it; rounded, or up to a gap from a neighbour.

Which number of an element is behind a face is found by changing each a little and looking where its datum goes; build steps
state it of the faces that they make.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any

from pydantic import BaseModel, ValidationError

from uhrwerk.core import elements
from uhrwerk.core.document import Document, ValidationFailed, formulas, parse
from uhrwerk.core.document.document import Part
from uhrwerk.core.edit import join
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.nearest_gap import gap_to, gaps_over_cycle
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.core.field.plain_data import put
from uhrwerk.core.outlines.outline import one_side
from uhrwerk.core.quantity import FormulaError, Scope, in_unit, is_plain, length_text
from uhrwerk.core.quantity.preferred import preferred
from uhrwerk.core.solids import Datum
from uhrwerk.core.steps import Under

#: change by which numbers are tried, m; looks at most until a gap is as asked, and how well it is met, m
LITTLE, LOOKS, CLOSE = 1e-6, 24, 5e-7
#: how far a face is pulled to see where a gap is as asked, m; gaps that differ by no more are the same, m
AWAY, SAME = [x * 1e-3 for x in (0.5, 1, 2, 3, 4, 6, 8, 11, 15, 20, 30, 45, 70, 100)], 1e-8
#: what a pulled number is rounded to unless something else is asked
STEP = "0.5 mm"


class RoundedPull(BaseModel):
    """A round value that a pull may end at: how far the face then moves, and the value in words."""

    by: str
    words: str


@dataclass(frozen=True)
class NumberBehindFace:
    """A number behind a face: its path in the document and its text; by how much it grows where the face moves outward by one.
    `shifts` are the numbers that change beside it so that the opposite face stays."""

    path: str
    label: str
    text: str
    value: float
    factor: float
    shifts: tuple[NumberBehindFace, ...] = ()


def behind(document: Document, part: str, datum: str, face: Under) -> list[NumberBehindFace]:
    """The numbers behind a face of a part, as it is stated."""
    design, scope = document.parts[part], document.scope()
    moved = [(i, s) for i, s in design.steps.items() if s.kind == "move_face" and getattr(s, "face", "") == face.name]
    if moved:
        i, step = moved[-1]
        return list(_numbers_behind(document, f"parts.{part}.steps.{i}", step, (("by", 1.0),), scope, step.name))
    own, role = [*face.name.split("."), ""][:2]  # without the number of a piece
    if own in design.steps:
        step = design.steps[own]
        n, path = numbers(step, scope), f"parts.{part}.steps.{own}"
        both = list(_numbers_behind(document, path, step, step.moves(n, role), scope, step.name))
        return [*(one for b in both for one in _one_side(document, path, step, n, role, b, scope)), *both]
    return list(_of_element(document, part, design, datum, scope))


def _numbers_behind(
    document: Document, path: str, model: Any, way: Any, scope: Scope, name: str
) -> Iterator[NumberBehindFace]:
    texts = {p: (text, mark) for p, text, mark in formulas(model)}
    for field, factor in way:
        text, mark = texts[field]
        label = f"{field.split('.')[-1].replace('_', ' ')} of {name.lower()}"
        yield NumberBehindFace(f"{path}.{field}", label, text, scope.value(text, mark.name), factor)


def _one_side(
    document: Document, path: str, step: Any, n: Any, role: str, number: NumberBehindFace, scope: Scope
) -> Iterator[NumberBehindFace]:
    """The same number, where the opposite face can stay as it is."""
    way = one_side(n.outline, role, number.factor) if hasattr(step, "outline") else ()
    shifts = tuple(_numbers_behind(document, path, step, way, scope, step.name))
    if shifts:
        yield replace(number, factor=number.factor / 2, shifts=shifts)


def _of_element(document: Document, part: str, design: Part, datum: str, scope: Scope) -> Iterator[NumberBehindFace]:
    here = elements.of(numbers(design.element, scope)).datums(numbers(design.element, scope)).get(datum)
    if here is None:
        return
    for field, text, mark in formulas(design.element):
        if mark.name != "length" or not text:
            continue
        data = design.element.model_dump(mode="json")
        put(data, field, f"({text}) + {LITTLE * 1e3!r} mm")
        try:
            n = numbers(type(design.element).model_validate(data), scope)
            there = elements.of(n).datums(n).get(datum)
        except (FormulaError, ValidationError, ValueError):
            continue
        if there is None:
            continue
        rate = _outward(here, there) / LITTLE
        if abs(rate) > 1e-3:
            label = field.split(".")[-1].replace("_", " ")
            yield NumberBehindFace(
                f"parts.{part}.element.{field}", label, text, scope.value(text, "length"), 1 / round(rate, 6)
            )


def _outward(a: Datum, b: Datum) -> float:
    """How far a face went along its outward normal, m: of a bore, towards its axis."""
    if a.kind == "plane":
        return float((b.origin - a.origin) @ a.z)
    return (b.radius - a.radius) * (-1 if a.side == "bore" else 1)


def pulled(document: Document, number: NumberBehindFace, by: float) -> dict[str, Any]:
    """The command that moves a face outward by so much, m, by the number behind it."""
    if number.shifts:
        every = [replace(number, shifts=()), *number.shifts]
        return {
            "kind": "together",
            "words": f"{number.label} pulled",
            "commands": [pulled(document, n, by) for n in every],
        }
    unit = document.units.length
    value = length_text(number.value + number.factor * by, unit)
    name = number.text.strip()
    if is_plain(name):
        return {"kind": "set_value", "path": number.path, "value": value}
    if name in document.parameters and is_plain(document.parameters[name].formula):
        return {"kind": "set_value", "path": f"parameters.{name}.formula", "value": value}
    more = number.factor * by
    return {
        "kind": "set_value",
        "path": number.path,
        "value": f"{name} {'-' if more < 0 else '+'} {length_text(abs(more), unit)}",
    }


def rounded(document: Document, value: float, factor: float, by: float, step: float) -> list[RoundedPull]:
    """Round values near to the one that a pull by so much would give, each with how far the face then moves."""
    unit, aim = document.units.length, value + factor * by
    texts: dict[float, str] = {}
    shown = in_unit(aim, "length", unit)
    in_one = 1 / in_unit(1.0, "length", unit)
    for words, near in (
        ("R10", preferred(shown, 10) if shown > 0 else None), ("R20", preferred(shown, 20) if shown > 0 else None),
        ("step", round(aim / step) * in_unit(step, "length", unit) if step > 0 else None),
    ):  # fmt: skip
        if near is not None and near > 0:
            texts[round(near, 6)] = f"{texts[round(near, 6)]}, {words}" if round(near, 6) in texts else words
    return [
        RoundedPull(by=length_text((near * in_one - value) / factor, unit), words=f"{near:g} {unit} ({words})")
        for near, words in sorted(texts.items())
    ]  # fmt: skip


def to_gap(
    document: Document,
    placed: str,
    command: Any,
    wanted: float,
    first: float,
    evaluator: Evaluator,
    against: str = "",
    cycle: bool = False,
) -> float:
    """How far outward a face must move, m, so that its part's gap to a neighbour is as wanted, m: to the one that is named, or to one
    whose gap the face changes; as all stands, or the smallest over the `cycle`. `command(by)` moves it. Looked for on both sides of `first`, farther and farther from it; ValidationFailed where
    moving it changes nothing about any gap, or never brings it to that."""
    known: dict[float, dict[str, float]] = {}

    def gaps(by: float) -> dict[str, float]:
        if by not in known:
            change = parse(command(by))
            after = accept(document, change)
            every = [i for i, p in document.placed.items() if i != placed and not p.left_out]
            chosen = [against] if against else every
            if cycle:
                known[by] = gaps_over_cycle(after, placed, chosen, wanted, evaluator)
                return known[by]
            at = join.standing(after, evaluator.context)
            measured_gaps = {i: gap_to(after, placed, i, at, evaluator) for i in chosen}
            known[by] = {i: gap for i, gap in measured_gaps.items() if gap is not None}
        return known[by]

    here = gaps(first)
    if not here:
        raise ValidationFailed(("gap", "there is no neighbour to keep a gap from"))
    for inner, outer in itertools.pairwise([0.0, *AWAY]):
        for sign in (1.0, -1.0):
            low, high = first + sign * inner, first + sign * outer
            try:
                then, now = gaps(low), gaps(high)
            except ValidationFailed:
                continue  # the part cannot be made so
            changed = [i for i in now if i in then and abs(now[i] - here[i]) > SAME]
            passed = [i for i in changed if (now[i] - wanted) * (then[i] - wanted) <= 0]
            if passed:
                other = min(passed, key=lambda i: abs(here[i] - wanted))
                return _closed_in(lambda by, other=other: gaps(by)[other] - wanted, low, high)  # type: ignore[misc]
    if all(abs(g[i] - here[i]) <= SAME for g in known.values() for i in g if i in here):
        raise ValidationFailed(("gap", "moving this face does not change the gap to any neighbour"))
    raise ValidationFailed(("gap", "moving this face never brings the gap to that"))


def _closed_in(off: Callable[[float], float], low: float, high: float) -> float:
    """Where `off` is nothing between two places, m: the rule of false position, Illinois variant."""
    a, b = off(low), off(high)
    for _ in range(LOOKS):
        if abs(a) < CLOSE:
            return low
        if abs(b) < CLOSE or a == b:
            return high
        at = (low * b - high * a) / (b - a)
        c = off(at)
        a, low = (a / 2, low) if c * b > 0 else (b, high)
        high, b = at, c
    return high
