"""A formula of other curves."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import Any, ClassVar, Literal

import numpy as np
import pint

from uhrwerk.core.curves.curve_of import CurveOf
from uhrwerk.core.curves.followed import FollowedMotion, NotMeasured
from uhrwerk.core.document import Document
from uhrwerk.core.equations.jet import Jet
from uhrwerk.core.field import Formula
from uhrwerk.core.quantity import DIMENSIONS, FormulaError, names_in, quantity
from uhrwerk.core.quantity.over_time import Taylor, composed
from uhrwerk.core.quantity.units import dimension_of, si_unit, ureg

#: a name that ends so is the rate of the curve before it
RATE = "_rate"
#: values at which a formula is tried for its dimension, in SI
TRIED = (0.37, 0.0061, 1.9)


class FormulaCurve(CurveOf):
    """A formula of other curves by their ids, of their rates (`id_rate`), of parameters and of `time`."""

    title: ClassVar[str] = "Formula of other curves"

    kind: Literal["formula"] = "formula"
    formula: Formula

    def _used(self, d: Document) -> list[tuple[str, str, bool]]:
        """(name, curve, whether its rate) of all curves that it names."""
        out = []
        for name in sorted(names_in(self.formula)):
            if name in d.curves:
                out.append((name, name, False))
            elif name.endswith(RATE) and name.removesuffix(RATE) in d.curves:
                out.append((name, name.removesuffix(RATE), True))
        return out

    def _quantity(self, d: Document, above: frozenset[int] = frozenset()) -> pint.Quantity[Any]:
        if id(self) in above:
            raise FormulaError("refers to itself")
        known = dict(d.scope().values)
        problem: FormulaError | None = None
        for at in TRIED:
            for name, curve, rate in self._used(d):
                other = d.curves[curve]
                assert isinstance(other, CurveOf)
                if isinstance(other, FormulaCurve):
                    unit = other._quantity(d, above | {id(self)}).to_base_units().units
                else:
                    unit = si_unit(other.dimension(d))
                known[name] = ureg.Quantity(at, unit / ureg.second if rate else unit)
            try:
                return quantity(self.formula, known | {"time": ureg.Quantity(at, "second")})
            except FormulaError as error:
                problem = problem or error
        raise problem or FormulaError("has no value")

    def faults(self, document: Document) -> Iterable[tuple[str, str]]:
        try:
            q = self._quantity(document)
        except FormulaError as error:
            yield "formula", f"{self.formula!r} {error}"
            return
        if dimension_of(q) not in DIMENSIONS:
            yield "formula", f"gives {dimension_of(q)}, which has no unit here; known are {', '.join(DIMENSIONS)}"

    def dimension(self, d: Document) -> str:
        return dimension_of(self._quantity(d))

    def repeats(self, d: Document) -> bool:
        parts = [(d.curves[i], rate) for _, i, rate in self._used(d)]
        steady = all(rate or (isinstance(p, CurveOf) and p.repeats(d)) for p, rate in parts)
        return steady and "time" not in names_in(self.formula)

    def folds(self, d: Document) -> tuple[float, ...] | None:
        corners = re.search(r"\b(abs|min|max)\s*\(", self.formula) is not None
        parts = [other for _, i, _ in self._used(d) if isinstance(other := d.curves[i], CurveOf)]
        return None if corners or any(p.folds(d) != () for p in parts) else ()

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        d, n = f.mechanism.document, len(f.times)
        lost = np.full(n, np.nan)
        names = {"time": Taylor(f.times, np.ones(n), np.zeros(n))}
        for name, curve, rate in self._used(d):
            j = other(curve)
            dd = lost if j.dd is None else j.dd
            names[name] = Taylor(j.d, dd, lost) if rate else Taylor(j.v, j.d, dd)
        known = {k: float(q.to_base_units().magnitude) for k, q in d.scope().values.items()}
        try:
            jet = composed(self.formula, known, names)
        except FormulaError as error:
            raise NotMeasured(f"the formula {error}") from error
        return Jet(jet.v, jet.d, jet.dd)
