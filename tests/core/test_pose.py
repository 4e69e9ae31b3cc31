"""Poses and jets against scipy's rotations and central differences."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from uhrwerk.core.equations import jet
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.jet import Jet


@pytest.fixture
def random() -> np.random.Generator:
    return np.random.default_rng(3)


def poses_of(random: np.random.Generator, count: int) -> np.ndarray:
    q = Rotation.random(count, rng=random).as_quat(scalar_first=True)
    return np.concatenate([random.normal(size=(count, 3)), q], axis=1)


def test_rotation_agrees_with_scipy(random: np.random.Generator) -> None:
    p, q = poses_of(random, 50), poses_of(random, 50)
    v = random.normal(size=(50, 3))
    r, s = (Rotation.from_quat(x[:, 3:], scalar_first=True) for x in (p, q))
    np.testing.assert_allclose(poses.rotate(p[:, 3:], v), r.apply(v), atol=1e-14)
    np.testing.assert_allclose(poses.matrix(p[:, 3:]), r.as_matrix(), atol=1e-14)
    np.testing.assert_allclose(poses.matrix(poses.multiply(p[:, 3:], q[:, 3:])), (r * s).as_matrix(), atol=1e-14)
    np.testing.assert_allclose(poses.rotation_vector(p[:, 3:]), r.as_rotvec(), atol=1e-13)
    np.testing.assert_allclose(poses.matrix(poses.turned(v)), Rotation.from_rotvec(v).as_matrix(), atol=1e-14)


def test_compose_inverse_between(random: np.random.Generator) -> None:
    p, q = poses_of(random, 50), poses_of(random, 50)
    np.testing.assert_allclose(poses.compose(p, poses.inverse(p))[:, :3], 0, atol=1e-14)
    np.testing.assert_allclose(
        poses.place(poses.compose(p, q), np.ones(3)), poses.place(p, poses.place(q, np.ones(3))), atol=1e-13
    )
    there = poses.moved(p, poses.between(p, q))
    np.testing.assert_allclose(there[:, :3], q[:, :3], atol=1e-13)
    np.testing.assert_allclose(poses.matrix(there[:, 3:]), poses.matrix(q[:, 3:]), atol=1e-12)


@pytest.mark.parametrize("seed", range(8))
def test_from_axes(seed: int) -> None:
    m = Rotation.random(rng=seed).as_matrix()
    p = poses.from_axes(np.array([1.0, 2, 3]), m[:, 0], m[:, 2])
    np.testing.assert_allclose(poses.matrix(p[3:]), m, atol=1e-14)


@pytest.mark.parametrize("name", ["dot", "cross", "atan2"])
def test_jets_agree_with_central_differences(name: str, random: np.random.Generator) -> None:
    a = random.normal(size=(2, 3, 3))

    def curve(k: int, t: float) -> np.ndarray:  # a vector that moves with constant second derivative
        return a[k % 2, 0] + a[k % 2, 1] * t + a[k % 2, 2] * t * t / 2 + k

    def at(k: int) -> Jet:
        return Jet(curve(k, 0.0), a[k % 2, 1], a[k % 2, 2])

    def plain(t: float) -> np.ndarray:
        u, v = curve(0, t), curve(1, t)
        return {"dot": np.asarray(u @ v), "cross": np.cross(u, v), "atan2": np.asarray(np.arctan2(u @ v, u @ u))}[name]

    u, v = at(0), at(1)
    got = {
        "dot": lambda: jet.dot(u, v),
        "cross": lambda: jet.cross(u, v),
        "atan2": lambda: jet.atan2(jet.dot(u, v), jet.dot(u, u)),
    }[name]()
    h = 1e-4
    np.testing.assert_allclose(got.v, plain(0.0), rtol=1e-12)
    np.testing.assert_allclose(got.d, (plain(h) - plain(-h)) / (2 * h), rtol=1e-6, atol=1e-7)
    assert got.dd is not None
    np.testing.assert_allclose(got.dd, (plain(h) - 2 * plain(0.0) + plain(-h)) / h**2, rtol=1e-5, atol=1e-5)
