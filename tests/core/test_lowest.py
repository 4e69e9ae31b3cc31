"""The lowest cost where kinks are: test problems with printed optima, which a quadratic model alone stands still on.

Luksan and Vlcek, Test problems for nonsmooth unconstrained and linearly constrained optimization, technical report 798 (2000): CB2, CB3, DEM,
QL, LQ, Mifflin 1, crescent, Wolfe. From memory, the optima confirmed here by polishing.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from uhrwerk.core.remedies.lowest import lowest

Cost = Callable[[float, float], float]
#: name, function, optimum, start, and the box it is looked for in
PROBLEMS: list[tuple[str, Cost, float, tuple[float, float], float]] = [
    ("CB2", lambda x, y: max(x * x + y**4, (2 - x) ** 2 + (2 - y) ** 2, 2 * np.exp(y - x)), 1.9522245, (1, -0.1), 3),
    ("CB3", lambda x, y: max(x**4 + y * y, (2 - x) ** 2 + (2 - y) ** 2, 2 * np.exp(y - x)), 2.0, (2, 2), 3),
    ("DEM", lambda x, y: max(5 * x + y, -5 * x + y, x * x + y * y + 4 * y), -3.0, (1, 1), 4),
    ("QL", lambda x, y: max(x * x + y * y, x * x + y * y + 10 * (4 - 4 * x - y), x * x + y * y + 10 * (6 - x - 2 * y)), 7.2, (-1, 4.5), 6),
    ("LQ", lambda x, y: max(-x - y, -x - y + x * x + y * y - 1), -np.sqrt(2), (-0.5, -0.5), 2),
    ("Mifflin 1", lambda x, y: -x + 20 * max(x * x + y * y - 1, 0), -1.0, (0.8, 0.6), 2),
    ("crescent", lambda x, y: max(x * x + (y - 1) ** 2 + y - 1, -x * x - (y - 1) ** 2 + y + 1), 0.0, (-1.5, 1.8), 3),
    ("Wolfe", lambda x, y: _wolfe(x, y), -8.0, (3, 2), 6),
]  # fmt: skip


def _wolfe(x: float, y: float) -> float:
    if x >= abs(y):
        return float(5 * np.sqrt(9 * x * x + 16 * y * y))
    return float(9 * x + 16 * abs(y)) if x > 0 else float(9 * x + 16 * abs(y) - x**9)


@pytest.mark.parametrize(("name", "of", "optimum", "start", "box"), PROBLEMS, ids=[p[0] for p in PROBLEMS])
def test_kinks_do_not_stop_it(name: str, of: Cost, optimum: float, start: tuple[float, float], box: float) -> None:
    begin = (np.array(start) + box) / (2 * box)
    found = lowest(lambda z: of(*(2 * box * z - box)), lambda z: np.array([]), begin, 400)
    gained = of(*start) - optimum
    assert of(*(2 * box * found.at - box)) - optimum < 5e-3 * gained


@pytest.mark.parametrize("lean", [0.1, 0.5, 0.9])
@pytest.mark.parametrize("start", [(0.05, 0.9), (0.9, 0.95), (0.6, 0.7)])
def test_a_valley_between_two_constraints_is_followed_to_its_end(lean: float, start: tuple[float, float]) -> None:
    """Down a groove that is as narrow as it is long is steep, with a kink along its floor: the end is at (0.1, lean * 0.1)."""

    def margins(z: np.ndarray) -> np.ndarray:
        return np.array([z[1] - lean * z[0], 0.02 + lean * z[0] + 0.2 - z[1], z[0] - 0.1])

    cost = lambda z: 10 * abs(z[1] - lean * z[0]) + z[0]  # noqa: E731
    found = lowest(cost, margins, np.array(start), 400)
    assert margins(found.at).min() > -1e-9
    assert cost(found.at) == pytest.approx(0.1, abs=4e-3)


def test_a_search_that_is_out_of_steps_says_so() -> None:
    assert lowest(lambda z: float(z @ z), lambda z: np.array([]), np.ones(4), 12).settled is False
    assert lowest(lambda z: float(z @ z), lambda z: np.array([]), np.ones(2), 400).settled is True
