"""Pulling a face: the number behind it changes, or a step is added that moves it; rounded, or up to a gap from a neighbour.

Which number of an element is behind a face is found by changing each a little and looking where its datum goes; build steps
state it of the faces that they make.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import BaseModel, ValidationError

from uhrwerk.core import elements
from uhrwerk.core.document import Document, Refused, formulas, parse
from uhrwerk.core.document.document import Part
from uhrwerk.core.edit import join
from uhrwerk.core.edit.accept import accept
from uhrwerk.core.edit.near import nearest
from uhrwerk.core.evaluate import Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.core.quantity import FormulaError, Scope, in_unit, is_plain
from uhrwerk.core.quantity.preferred import preferred
from uhrwerk.core.solids import Datum
from uhrwerk.core.steps import Under

#: change by which numbers are tried, m; looks at most until a gap is as asked, and how well it is met, m
LITTLE, LOOKS, CLOSE = 1e-6, 24, 5e-7
#: no face is pulled farther than this, m
FAR = 1.0
#: what a pulled number is rounded to unless something else is asked
STEP = "0.5 mm"


class Rounded(BaseModel):
    """A round value that a pull may end at: how far the face then moves, and the value in words."""

    by: str
    words: str


@dataclass(frozen=True)
class Behind:
    """A number behind a face: its path in the document and its text; by how much it grows where the face moves outward by one."""

    path: str
    label: str
    text: str
    value: float
    factor: float


def behind(document: Document, part: str, datum: str, face: Under) -> list[Behind]:
    """The numbers behind a face of a part, as it is stated."""
    design, scope = document.parts[part], document.scope()
    moved = [(i, s) for i, s in design.steps.items() if s.kind == "move_face" and getattr(s, "face", "") == face.name]
    if moved:
        i, step = moved[-1]
        return list(_told(document, f"parts.{part}.steps.{i}", step, (("by", 1.0),), scope, step.name))
    own, role = [*face.name.split("."), ""][:2]  # without the number of a piece
    if own in design.steps:
        step = design.steps[own]
        way = step.moves(numbers(step, scope), role)
        return list(_told(document, f"parts.{part}.steps.{own}", step, way, scope, step.name))
    return list(_of_element(document, part, design, datum, scope))


def _told(document: Document, path: str, model: Any, way: Any, scope: Scope, name: str) -> Iterator[Behind]:
    texts = {p: (text, mark) for p, text, mark in formulas(model)}
    for field, factor in way:
        text, mark = texts[field]
        label = f"{field.split('.')[-1].replace('_', ' ')} of {name.lower()}"
        yield Behind(f"{path}.{field}", label, text, scope.value(text, mark.name), factor)


def _of_element(document: Document, part: str, design: Part, datum: str, scope: Scope) -> Iterator[Behind]:
    here = elements.of(numbers(design.element, scope)).datums(numbers(design.element, scope)).get(datum)
    if here is None:
        return
    for field, text, mark in formulas(design.element):
        if mark.name != "length" or not text:
            continue
        data = design.element.model_dump(mode="json")
        _put(data, field, f"({text}) + {LITTLE * 1e3!r} mm")
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
            yield Behind(f"parts.{part}.element.{field}", label, text, scope.value(text, "length"), 1 / round(rate, 6))


def _outward(a: Datum, b: Datum) -> float:
    """How far a face went along its outward normal, m: of a bore, towards its axis."""
    if a.kind == "plane":
        return float((b.origin - a.origin) @ a.z)
    return (b.radius - a.radius) * (-1 if a.side == "bore" else 1)


def _put(data: Any, path: str, value: str) -> None:
    *way, last = path.split(".")
    for step in way:
        data = data[step]
    data[last] = value


def pulled(document: Document, number: Behind, by: float) -> dict[str, Any]:
    """The command that moves a face outward by so much, m, by the number behind it."""
    unit = document.units.length
    value = f"{round(in_unit(number.value + number.factor * by, 'length', unit), 6):g} {unit}"
    name = number.text.strip()
    if is_plain(name):
        return {"kind": "set_value", "path": number.path, "value": value}
    if name in document.parameters and is_plain(document.parameters[name].formula):
        return {"kind": "set_value", "path": f"parameters.{name}.formula", "value": value}
    more = round(in_unit(number.factor * by, "length", unit), 6)
    return {
        "kind": "set_value",
        "path": number.path,
        "value": f"{name} {'-' if more < 0 else '+'} {abs(more):g} {unit}",
    }


def rounded(document: Document, value: float, factor: float, by: float, step: float) -> list[Rounded]:
    """Round values near to the one that a pull by so much would give, each with how far the face then moves."""
    unit, aim = document.units.length, value + factor * by
    found: dict[float, str] = {}
    shown = in_unit(aim, "length", unit)
    for words, near in (
        ("R10", preferred(shown, 10) if shown > 0 else None), ("R20", preferred(shown, 20) if shown > 0 else None),
        ("step", round(aim / step) * in_unit(step, "length", unit) if step > 0 else None),
    ):  # fmt: skip
        if near is not None and near > 0:
            found[round(near, 6)] = f"{found[round(near, 6)]}, {words}" if round(near, 6) in found else words
    return [
        Rounded(by=f"{round((near - in_unit(value, 'length', unit)) / factor, 6) + 0.0:g} {unit}", words=f"{near:g} {unit} ({words})")
        for near, words in sorted(found.items())
    ]  # fmt: skip


def to_gap(document: Document, placed: str, command: Any, wanted: float, first: float, evaluator: Evaluator) -> float:
    """How far outward a face must move, m, so that its part's gap to the nearest neighbour is as wanted, m. `command(by)` moves
    it. Found by secants that are kept within what is known; Refused where moving it changes nothing about the gap."""

    def off(by: float) -> float:
        after = accept(document, parse(command(by)))
        told = join.tried(document, parse(command(by)))
        near = nearest(after, placed, told.poses, evaluator, None)
        if near is None:
            raise Refused(("gap", "there is no neighbour to keep a gap from"))
        return near.gap - wanted

    known = {by: off(by) for by in (first, first + 1e-3)}
    for _ in range(LOOKS):
        (a, fa), (b, fb) = sorted(known.items(), key=lambda x: abs(x[1]))[:2]
        if abs(fa) < CLOSE:
            return a
        signs = {f > 0: (by, f) for by, f in sorted(known.items(), key=lambda x: -abs(x[1]))}
        guess = a - fa * (b - a) / (fb - fa) if fb != fa else a + fa
        if len(signs) == 2:
            low, high = sorted(by for by, _ in signs.values())
            guess = guess if low < guess < high else (low + high) / 2
        elif abs(fb - fa) < 1e-9:
            raise Refused(("gap", "moving this face does not change the gap to its neighbour"))
        guess = float(np.clip(guess, first - FAR, first + FAR))
        if guess in known:
            break
        known[guess] = off(guess)
    by, f = min(known.items(), key=lambda x: abs(x[1]))
    if abs(f) > 1e-5:
        raise Refused(("gap", "moving this face never brings the gap to that"))
    return by
