"""Other units for a mechanism: what was written without a unit gets the one that it had, so that no size changes."""

from __future__ import annotations

from collections.abc import Iterator

from uhrwerk.core.document.document import Document
from uhrwerk.core.elements.like import Like
from uhrwerk.core.field import ValidationFailed, formulas
from uhrwerk.core.quantity import FormulaError, Scope

#: values that differ by less, as a part of themselves, are the same
SAME = 1e-12


def units_kept(before: Document, after: Document) -> dict[str, str]:
    """The texts, by path, by which every number of `after` is what it was in the units of `before`. ValidationFailed where a plain
    number stands whose dimension only shows when it is computed."""
    was, now = before.scope(), after.scope()
    texts = {}
    for path, text, dimension in _numbers(after):
        value = _value(was, text, dimension)
        if value is None or not value:
            continue
        again = _value(now, text, dimension)
        if again is None or abs(again - value) > SAME * abs(value):
            texts[path] = _with_unit(text, before.unit_of(dimension))
    for path, text in _undetermined(after):
        if _value(was, text, "number"):
            raise ValidationFailed((path, f"{text} has no unit: write one first, so that it stays what it is"))
    return texts


def _numbers(d: Document) -> Iterator[tuple[str, str, str]]:
    """Every formula with its path and dimension, those by which a part differs from the one that it is like among them."""
    for path, text, mark in formulas(d):
        if not mark.over_time:
            yield path, text, mark.name
    for i, part in d.parts.items():
        if isinstance(part.element, Like) and part.element.part in d.parts:
            known = {path: mark.name for path, _, mark in formulas(d.parts[part.element.part])}
            for key, change in part.element.changes.items():
                if change.path in known:
                    yield f"parts.{i}.element.changes.{key}.formula", change.formula, known[change.path]


def _undetermined(d: Document) -> Iterator[tuple[str, str]]:
    """Limits of curves, whose dimension is that of the curve."""
    for i, requirement in d.requirements.items():
        if requirement.kind == "curve_limit":
            for field in ("at_least", "at_most"):
                yield f"requirements.{i}.{field}", getattr(requirement, field)


def _value(scope: Scope, text: str, dimension: str) -> float | None:
    try:
        return float(scope.value(text, dimension))
    except FormulaError:
        return None


def _with_unit(text: str, unit: str) -> str:
    try:
        float(text)
    except ValueError:
        return f"({text}) * 1 {unit}"
    return f"{text.strip()} {unit}"
