"""Preferred numbers, ISO 3: series of ten and twenty steps a decade, from memory.

>>> preferred(0.0247, 10), preferred(0.0247, 20)
(0.025, 0.025)
>>> preferred(0.0273, 20)
0.028
"""

from __future__ import annotations

from math import floor, log10

#: of the series R20; every second one is of R10
R20 = (1.0, 1.12, 1.25, 1.4, 1.6, 1.8, 2.0, 2.24, 2.5, 2.8, 3.15, 3.55, 4.0, 4.5, 5.0, 5.6, 6.3, 7.1, 8.0, 9.0)


def preferred(value: float, steps: int) -> float:
    """The number of the series R10 or R20 that is nearest to a value above zero."""
    decade = 10.0 ** floor(log10(value))
    series = R20[:: 20 // steps]
    many = [x * scale for scale in (decade / 10, decade, decade * 10) for x in series]
    return float(f"{min(many, key=lambda x: abs(x - value)):.6g}")
