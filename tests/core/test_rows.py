"""The equations: every kind of row against differences, and the elimination by links against dense least squares."""

from __future__ import annotations

import numpy as np
import pytest

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.blocks import EliminationPlan, Factors
from uhrwerk.core.equations.curve import through
from uhrwerk.core.equations.law import Constant
from uhrwerk.core.equations.newton import assemble, rates
from uhrwerk.core.equations.rows import KINDS, Row, Rows

SIZES = {
    "lean": (0.9,), "radial": (0.4,), "span": (0.5,), "screw": (0.3,), "mesh": (7, 12), "inner": (9, 24), "rack": (11, 0.1),
    "bevel": (7, 12, 1.0), "helical": (3, 17, 0.5, 0.7), "geneva": (5,), "twist": (3,), "touch": (0.1,), "rest": (0.0,),
}  # fmt: skip
_ROUND = np.linspace(0, 2 * np.pi, 90, endpoint=False)
OVAL = through(np.stack([0.5 * np.cos(_ROUND), 0.4 * np.sin(_ROUND)], axis=1))


def random_rows(kind: str, seed: int = 3, links: int = 4) -> tuple[Rows, np.ndarray]:
    random = np.random.default_rng(seed)
    marks = KINDS[kind].vectors.split()
    three = any(m[0] == "c" for m in marks)
    rows = []
    for a, b, c in ((0, 1, 2), (2, 1, 3), (3, 2, 2)):
        vectors = []
        for mark in marks:
            v = random.normal(size=3)
            vectors.append(v if mark[1] == "p" else v / np.linalg.norm(v))
        rows.append(
            Row(
                kind,
                a,
                b,
                tuple(vectors),
                "x",
                0.0,
                Constant(0.1, 0.2),
                SIZES.get(kind, ()),
                c if three else -1,
                OVAL if kind in ("touch", "rest") else None,
            )
        )
    pose = random.normal(size=(links, 7))
    pose[:, 3:] /= np.linalg.norm(pose[:, 3:], axis=1, keepdims=True)
    return Rows(rows, links, 0.7), pose


@pytest.mark.parametrize("kind", KINDS)
def test_jacobian_agrees_with_central_differences(kind: str) -> None:
    rows, pose = random_rows(kind)
    j = rows.dense(rows.value(pose[None], np.zeros(1))[1])[0]
    h = 1e-6
    for k in range(6 * len(pose)):
        step = np.zeros(6 * len(pose))
        step[k] = h
        ahead, behind = (
            rows.value(poses.moved(pose, s.reshape(-1, 6))[None], np.zeros(1))[0][0] for s in (step, -step)
        )
        np.testing.assert_allclose(j[:, k], (ahead - behind) / (2 * h), atol=5e-8 * (1 + np.abs(j[:, k]).max()))


@pytest.mark.parametrize("kind", KINDS)
def test_second_derivative_agrees_with_differences_along_steady_motion(kind: str) -> None:
    """With steady velocities only the part that velocities cause is left of the residual's second derivative."""
    rows, pose = random_rows(kind)
    twist = np.random.default_rng(8).normal(size=(len(pose), 6))
    h = 1e-4

    def at(t: float) -> np.ndarray:
        return rows.value(poses.moved(pose, twist * t)[None], np.zeros(1))[0][0]

    want = (at(h) - 2 * at(0.0) + at(-h)) / h**2
    got = rows.second(pose[None], twist[None])[0]
    np.testing.assert_allclose(got, want, atol=2e-5 * (1 + np.abs(want).max()))


def test_elimination_by_links_equals_dense_least_squares() -> None:
    """Full column rank, more rows than unknowns: numpy.linalg.lstsq on the dense matrix is the reference, its rows weighed
    down to a norm of one."""
    random = np.random.default_rng(5)
    links, rows = 7, []
    for a, b in ((0, 1), (1, 2), (2, 3), (3, 4), (4, 5), (5, 6), (6, 0), (1, 4)):
        for _ in range(9):
            u = random.normal(size=3)
            rows.append(Row("point", a, b, (random.normal(size=3), u / np.linalg.norm(u), random.normal(size=3)), "x"))
    system = Rows(rows, links, 1.0)
    pose = random.normal(size=(3, links, 7))
    pose[..., 3:] /= np.linalg.norm(pose[..., 3:], axis=-1, keepdims=True)
    _, j = system.value(pose, np.zeros(3))
    right = random.normal(size=(3, len(rows)))
    got = Factors(system.plan, j).least_squares(right, refine=2)
    for k in range(3):
        weight = 1 / np.maximum(np.sqrt((j[k] ** 2).sum(axis=(1, 2))), 1.0)
        want = np.linalg.lstsq(system.dense(j)[k][:, 6:] * weight[:, None], right[k] * weight)[0]
        np.testing.assert_allclose(got[k, 1:].ravel(), want, rtol=1e-8, atol=1e-9)


def test_where_rank_is_lost_the_smallest_motion_is_found() -> None:
    """A joint stated twice, and a freedom left: the pseudo-inverse is the reference."""
    o, (x, y, z) = np.zeros(3), np.eye(3)
    rows = [Row("point", 0, 1, (o, u, o), "a") for u in (x, y, z)] * 2 + [Row("square", 0, 1, (z, x), "a")]
    system = Rows(rows, 3, 1.0)
    pose = np.tile(poses.IDENTITY, (1, 3, 1))
    _, j = system.value(pose, np.zeros(1))
    right = np.array([[0.1, 0.2, 0.3, 0.1, 0.2, 0.3, 0.05]])
    want = np.linalg.pinv(system.dense(j)[0][:, 6:]) @ right[0]
    np.testing.assert_allclose(Factors(system.plan, j).least_squares(right, refine=2)[0, 1:].ravel(), want, atol=1e-9)


def test_links_with_fewest_neighbours_are_eliminated_first() -> None:
    touched = np.array([(0, 1), (0, 2), (0, 3), (1, 2), (1, 3), (1, 4)])
    assert EliminationPlan(5, touched).order[0] == 2
    assert EliminationPlan(5, touched).after[2] == [1]


@pytest.mark.parametrize("pose_count", [1, 3])
def test_a_single_pose_and_a_stack_are_solved_alike(pose_count: int) -> None:
    rows, pose = random_rows("point")
    poses_ = np.repeat(pose[None], pose_count, axis=0)
    r, j = rows.value(poses_, np.zeros(pose_count))
    one = Factors(rows.plan, j[:1]).least_squares(r[:1], refine=2)
    every = Factors(rows.plan, j).least_squares(r, refine=2)
    np.testing.assert_allclose(every, np.repeat(one, pose_count, axis=0), atol=1e-8)


def test_a_driver_that_nothing_holds_leaves_rates_finite() -> None:
    x, y, _ = np.eye(3)
    rows = Rows([Row("turn", 0, 1, (x, y, x), "motor", law=Constant(0.0, 2.0))], 2, 1.0)
    pose, left = assemble(rows, np.tile(poses.IDENTITY, (2, 1)))
    assert left < 1e-9
    velocity, _ = rates(rows, pose[None], np.zeros(1))
    np.testing.assert_allclose(velocity[0, 1], [0, 0, 0, 0, 0, 2.0], atol=1e-8)
