"""Laws that are one polynomial of the time."""

from __future__ import annotations

from functools import cache

import numpy as np

from uhrwerk.core.laws.law import Array


@cache
def _derived(coefficients: tuple[float, ...], order: int) -> np.polynomial.Polynomial:
    return np.polynomial.Polynomial(coefficients).deriv(order) if order else np.polynomial.Polynomial(coefficients)


def polynomial(coefficients: tuple[float, ...], x: Array, order: int) -> Array:
    """Value or derivative at x of the polynomial with these coefficients, the constant first."""
    return np.asarray(_derived(coefficients, order)(x))
