"""Numbers of a model: every formula as its SI value, in a frozen class made from the model once.

A model `Pin(diameter="5 mm")` gives `PinNumbers(kind="pin", diameter=0.005, ...)`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import make_dataclass
from functools import cache
from typing import TYPE_CHECKING, Any, Generic, overload

from typing_extensions import TypeVar

from uhrwerk.core.field.dimension import dimension_of, solve_field
from uhrwerk.core.field.validation import Model
from uhrwerk.core.quantity import Scope

M = TypeVar("M", bound=Model, covariant=True, default=Any)
N = TypeVar("N", bound=Model)


class Numbers(Generic[M]):
    """Base of the classes made by `numbers`; a formula field is a float in SI, or None where it is open and left empty.

    `Numbers[Pin]` has the fields of `Pin`, which the type checker knows by `lint/numbers_plugin.py`.
    """

    if TYPE_CHECKING:

        def __getattr__(self, name: str) -> Any: ...


@cache
def numbers_class(model: type[N]) -> type[Numbers[N]]:
    """The frozen class that holds a model's numbers: floats for formulas, nested numbers for nested models."""
    fields: list[tuple[str, Any]] = []
    for name, field in model.model_fields.items():
        mark = dimension_of(field)
        fields.append(
            (name, field.annotation if mark is None else float | None if mark.open else int if mark.whole else float)
        )
    return make_dataclass(f"{model.__name__}Numbers", fields, bases=(Numbers,), frozen=True)


@overload
def numbers(model: N, scope: Scope) -> Numbers[N]: ...
@overload
def numbers(model: Mapping[str, N], scope: Scope) -> dict[str, Numbers[N]]: ...
@overload
def numbers(model: Any, scope: Scope) -> Any: ...
def numbers(model: Any, scope: Scope) -> Any:
    """`model` with every formula replaced by its SI value; containers stay containers. FormulaError where one has none."""
    if isinstance(model, Model):
        values = {}
        for name, field in type(model).model_fields.items():
            mark, item = dimension_of(field), getattr(model, name)
            if mark is None:
                values[name] = numbers(item, scope)
            else:
                values[name] = None if mark.open and not item else solve_field(item, mark, scope)
        return numbers_class(type(model))(**values)
    if isinstance(model, dict):
        return {key: numbers(item, scope) for key, item in model.items()}
    if isinstance(model, list | tuple):
        return [numbers(item, scope) for item in model]
    return model
