"""Relations of drawn outlines: they hold to a picometre where they can, what is free stays where it was drawn, and where they cannot
hold a smallest set of them is named. The witness is SLSQP of SciPy: the nearest corners under the same equations, written anew."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize

from uhrwerk import Document
from uhrwerk.core.field import numbers
from uhrwerk.core.outlines import Traced, Turn, Unfit, outline_data
from uhrwerk.core.outlines.polyline import polylines
from uhrwerk.core.outlines.traced import _satisfied

SCOPE = Document(name="x").scope()


def outline(corners: list[tuple[float, ...]], *relations: dict[str, str]) -> Traced:
    named = {
        f"c{k}": Turn(x=f"{c[0]!r} mm", y=f"{c[1]!r} mm", bulge=repr(float(c[2]) if len(c) > 2 else 0.0))
        for k, c in enumerate(corners, 1)
    }
    return Traced.model_validate(
        {
            "corners": {k: v.model_dump() for k, v in named.items()},
            "relations": {f"r{k}": r for k, r in enumerate(relations, 1)},
        }
    )


def corners(traced: Traced) -> np.ndarray:
    """(n, 3) mm"""
    return _satisfied(numbers(traced, SCOPE)).corners * [1e3, 1e3, 1]


QUAD = [(0.3, -0.2), (19.6, 0.4), (20.3, 11.8), (-0.4, 12.3)]
RECT = [
    {"kind": "level", "piece": "c1"}, {"kind": "upright", "piece": "c2"}, {"kind": "level", "piece": "c3"}, {"kind": "upright", "piece": "c4"},
]  # fmt: skip


def test_a_rough_quadrangle_becomes_a_rectangle_of_the_stated_size() -> None:
    out = corners(
        outline(
            QUAD,
            *RECT,
            {"kind": "length", "piece": "c1", "length": "24 mm"},
            {"kind": "length", "piece": "c2", "length": "10 mm"},
        )
    )
    np.testing.assert_allclose(out[1] - out[0], [24, 0, 0], atol=1e-9)
    np.testing.assert_allclose(out[2] - out[1], [0, 10, 0], atol=1e-9)
    np.testing.assert_allclose(out[:, :2].mean(axis=0), np.array(QUAD).mean(axis=0), atol=1e-9)  # it did not wander


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(-2, 2), min_size=8, max_size=8), st.floats(15, 30), st.floats(6, 20))
def test_the_corners_are_the_nearest(rough: list[float], length: float, width: float) -> None:
    drawn = np.array([(0, 0), (20, 0), (20, 12), (0, 12)]) + np.array(rough).reshape(4, 2)
    traced = outline([tuple(map(float, c)) for c in drawn], *RECT, {"kind": "length", "piece": "c1", "length": f"{length!r} mm"}, {"kind": "length", "piece": "c2", "length": f"{width!r} mm"})  # fmt: skip
    mine = corners(traced)[:, :2]

    def off(v: np.ndarray) -> np.ndarray:
        p = v.reshape(4, 2)
        return np.array([
            p[1, 1] - p[0, 1], p[2, 0] - p[1, 0], p[3, 1] - p[2, 1], p[0, 0] - p[3, 0],
            np.hypot(*(p[1] - p[0])) - length, np.hypot(*(p[2] - p[1])) - width,
        ])  # fmt: skip

    assert np.abs(off(mine.ravel())).max() < 1e-8
    best = minimize(lambda v: float(((v - drawn.ravel()) ** 2).sum()), drawn.ravel(), constraints={"type": "eq", "fun": off}, method="SLSQP", options={"ftol": 1e-14, "maxiter": 400})  # fmt: skip
    assert float(((mine - drawn) ** 2).sum()) <= best.fun + 1e-3  # the steps are of the least norm: nearly the nearest


def test_an_arc_runs_on_smoothly_with_its_radius() -> None:
    """A quarter of a circle of 8 mm between two straight sides: its ends lie 8 mm before and after the corner."""
    drawn = [(0.0, 0.0), (11.5, 0.2), (20.3, 8.4, 0.0), (20.0, 20.0), (0.0, 20.0)]
    drawn[1] = (11.5, 0.2, 0.4)
    out = corners(outline(drawn, {"kind": "placed", "corner": "c1"}, {"kind": "level", "piece": "c1"}, {"kind": "upright", "piece": "c3"},
        {"kind": "placed", "corner": "c4", "x": "20 mm", "y": "20 mm"}, {"kind": "smooth", "corner": "c2"}, {"kind": "smooth", "corner": "c3"},
        {"kind": "radius", "piece": "c2", "radius": "8 mm"}))  # fmt: skip
    np.testing.assert_allclose(out[1], [12, 0, np.tan(np.pi / 8)], atol=1e-9)
    np.testing.assert_allclose(out[2, :2], [20, 8], atol=1e-9)


@pytest.mark.parametrize(("relation", "holds"), [
    ({"kind": "square", "piece": "c1", "other": "c2"}, lambda p: (p[1] - p[0]) @ (p[2] - p[1])),
    ({"kind": "parallel", "piece": "c1", "other": "c3"}, lambda p: np.linalg.det([p[1] - p[0], p[3] - p[2]])),
    ({"kind": "same_length", "piece": "c1", "other": "c2"}, lambda p: np.hypot(*(p[1] - p[0])) - np.hypot(*(p[2] - p[1]))),
    ({"kind": "apart", "corner": "c1", "other": "c3", "distance": "25 mm"}, lambda p: np.hypot(*(p[2] - p[0])) - 25),
    ({"kind": "apart", "corner": "c3", "other": "c1", "along": "x", "distance": "21 mm"}, lambda p: abs(p[2, 0] - p[0, 0]) - 21),
    ({"kind": "mirrored", "corner": "c1", "other": "c2", "about": "y"}, lambda p: np.abs([p[0, 0] + p[1, 0], p[0, 1] - p[1, 1]]).max()),
    ({"kind": "angle", "piece": "c1", "other": "c2", "angle": "70 deg"}, lambda p: np.degrees(np.angle(complex(*(p[2] - p[1])) / complex(*(p[1] - p[0])))) - 70),
])  # fmt: skip
def test_every_relation_holds(relation: dict[str, str], holds: object) -> None:
    p = corners(outline(QUAD, relation))[:, :2]
    assert abs(holds(p)) < 1e-7  # type: ignore[operator]


def test_a_contradiction_names_the_fewest_relations() -> None:
    wrong = outline(QUAD, *RECT, {"kind": "length", "piece": "c1", "length": "24 mm"},
        {"kind": "length", "piece": "c3", "length": "25 mm"}, {"kind": "same_length", "piece": "c1", "other": "c2"})  # fmt: skip
    with pytest.raises(Unfit, match=r"contradict") as error:
        outline_data(numbers(wrong, SCOPE))
    told = str(error.value)
    assert "length (piece 1)" in told
    assert "length (piece 3)" in told
    assert (
        "along y (piece 2)" in told
    )  # both sides between them are upright, both of them level: they are as long as one another
    assert "same length" not in told  # which has nothing to do with it


def test_what_a_relation_lacks_is_said() -> None:
    for relation, why in (
        ({"kind": "level"}, "choose what it is between"),
        ({"kind": "level", "piece": "c9"}, "is gone"),
    ):
        with pytest.raises(Unfit, match=why):
            outline_data(numbers(outline(QUAD, relation), SCOPE))


def test_only_what_is_free_has_a_handle() -> None:
    n = numbers(
        outline(QUAD, *RECT, {"kind": "placed", "corner": "c1"}, {"kind": "length", "piece": "c1", "length": "24 mm"}),
        SCOPE,
    )
    assert [h.name for h in Traced.handles(n)] == ["corner 3", "corner 4"]


def test_lines_to_draw_lie_on_the_outline() -> None:
    (line,) = polylines(outline_data(numbers(outline([(0, 0), (20, 0, 1), (20, 10), (0, 10, -0.5)]), SCOPE)))
    for x, y in np.array(line) * 1e3:
        on_half = abs(np.hypot(x - 20, y - 5) - 5) < 1e-9 and x >= 20 - 1e-9
        on_other = abs(np.hypot(x + 3.75, y - 5) - 6.25) < 1e-9  # chord 10, bulge 1/2: r = 10 (1 + 1/4) / (4 / 2)
        assert on_half or on_other or abs(y) < 1e-9 or abs(y - 10) < 1e-9
