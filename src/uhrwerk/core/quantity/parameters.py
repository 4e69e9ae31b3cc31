"""Named parameters, put in the order in which they depend on one another."""

from __future__ import annotations

import graphlib
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import pint

from uhrwerk.core.quantity.formula import RESERVED, FormulaError, names_in, quantity, value

_NAME = re.compile(r"[A-Za-z_][A-Za-z0-9_]{0,39}")


def check_name(name: str) -> None:
    """Refuses a parameter name that a formula could not use."""
    if not _NAME.fullmatch(name):
        raise FormulaError(
            f"{name!r} cannot be a parameter's name: use letters, digits and underscores, a letter first"
        )
    if name in RESERVED:
        raise FormulaError(f"{name!r} is a unit or a function; choose another name for the parameter")


def order(formulas: Mapping[str, str]) -> list[str]:
    """Names, each after those it uses (Kahn's method, graphlib). A cycle is refused with the names in it."""
    graph = {name: {n for n in names_in(text) if n in formulas} for name, text in formulas.items()}
    try:
        return list(graphlib.TopologicalSorter(graph).static_order())
    except graphlib.CycleError as error:
        raise FormulaError("goes round in a circle: " + " → ".join(reversed(error.args[1]))) from error


@dataclass(frozen=True)
class Scope:
    """Parameters with their values, and the units a bare number takes."""

    values: Mapping[str, pint.Quantity[Any]] = field(default_factory=dict)
    bare: Mapping[str, str] = field(default_factory=dict)
    _found: dict[tuple[str, str], float] = field(default_factory=dict, repr=False, compare=False)

    @classmethod
    def of(cls, formulas: Mapping[str, str], bare: Mapping[str, str] | None = None) -> Scope:
        constants: dict[str, pint.Quantity[Any]] = {}
        for name in formulas:
            check_name(name)
        for name in order(formulas):
            try:
                constants[name] = quantity(formulas[name], constants)
            except FormulaError as error:
                raise FormulaError(f"parameter {name!r} {error}") from error
        return cls(constants, bare or {})

    def value(self, text: str, dimension: str) -> float:
        """SI value of a formula in a field of `dimension`."""
        key = (text, dimension)
        if key not in self._found:
            self._found[key] = value(text, dimension, self.values, self.bare.get(dimension))
        return self._found[key]
