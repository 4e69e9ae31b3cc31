"""Spatial joints and mechanisms against closed forms, and mobility against the counts and their classic exceptions."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.spatial import drive, frame, freedoms, joint, measured, still, system
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.motion import follow

TIMES = np.linspace(0.0, 1.0, 121)


def kutzbach(links: int, joints: dict[int, int]) -> int:
    """6 (links - 1) less 6 - f for each joint with f freedoms (Gruebler's count in space)."""
    return 6 * (links - 1) - sum((6 - f) * count for f, count in joints.items())


FREEDOM = {
    "revolute": 1,
    "prismatic": 1,
    "screw": 1,
    "cylindrical": 2,
    "universal": 2,
    "spherical": 3,
    "planar": 3,
    "rigid": 0,
}


@pytest.mark.parametrize("kind", FREEDOM)
def test_each_joint_leaves_the_freedoms_of_its_kind(kind: str) -> None:
    """Freedoms of the lower pairs and the universal joint: IFToMM terminology 1.2.9-1.2.18; common practice."""
    pose = still(2)
    held = joint(kind, 0, frame((0.1, 0.2, 0.3), (1, 2, 3)), 1, pose, lead=0.01)
    assert freedoms(system([held], 2), pose) == (FREEDOM[kind], 0)


@pytest.mark.parametrize("kind", ["revolute", "prismatic", "cylindrical", "screw", "planar"])
def test_a_driven_joint_moves_its_link_as_scipy_says(kind: str) -> None:
    """b's frame is a's, moved along z (or x) and turned about z: scipy.spatial.transform.Rotation is the reference."""
    pose = still(2)
    at = frame((0.1, -0.2, 0.3), (1, 2, -1))
    held = joint(kind, 0, at, 1, pose, lead=0.02)
    turn, slide = 2 * np.pi * 2.25 * TIMES, 0.05 * TIMES
    drives = {
        "revolute": [("turn", 2.25 * 2 * np.pi)], "prismatic": [("slide", 0.05)], "screw": [("slide", 0.045)],
        "cylindrical": [("turn", 2.25 * 2 * np.pi), ("slide", 0.05)],
        "planar": [("slide_x", 0.05), ("slide_y", 0.0), ("turn", 2.25 * 2 * np.pi)],
    }[kind]  # fmt: skip
    rows = system([held], 2, [drive(held, name, 0.0, rate) for name, rate in drives])
    got, *_ = follow(rows, pose, 1.0, TIMES)
    z, x, o = Rotation.from_quat(np.roll(at[3:], -1)).apply([[0, 0, 1], [1, 0, 0], [0, 0, 0]])
    turned = np.zeros_like(turn) if kind == "prismatic" else turn
    along = {"revolute": 0 * slide, "screw": 0.02 * turn / (2 * np.pi)}.get(kind, slide)
    way = x if kind == "planar" else z
    for k in range(0, len(TIMES), 10):
        r = Rotation.from_rotvec(z * turned[k])
        want = r.apply(o - at[:3]) + at[:3] + way * along[k]
        np.testing.assert_allclose(poses.place(got[k, 1], np.zeros(3)), want, atol=1e-9)
        np.testing.assert_allclose(poses.matrix(got[k, 1, 3:]), r.as_matrix(), atol=1e-9)


@pytest.mark.parametrize("beta", np.radians([5.0, 30.0, 60.0]))
def test_crossed_universal_joint(beta: float) -> None:
    """tan(out) = tan(in) cos(beta) where the driving fork's arm starts square to the plane of the shafts, and the swing of the
    ratio between cos(beta) and 1 / cos(beta).

    H. Mabie, C. Reinholtz, Mechanisms and Dynamics of Machinery, 4th ed., section on Hooke's joint; from memory.
    """
    pose = still(3)
    in_axis, out_axis = np.array([0.0, 0, 1]), np.array([0.0, -np.sin(beta), np.cos(beta)])
    arm = np.array([1.0, 0, 0])  # square to both shafts
    one = joint("revolute", 0, frame((0, 0, -0.1), in_axis, arm), 1, pose, "in")
    two = joint("revolute", 0, frame(out_axis * 0.1, out_axis, arm), 2, pose, "out")
    cross = joint("universal", 1, frame((0, 0, 0), in_axis, arm), 2, pose, "cross", own=frame((0, 0, 0), out_axis, arm))
    rows = system([one, two, cross], 3, [drive(one, "turn", 0.0, 2 * np.pi)])
    assert freedoms(system([one, two, cross], 3), pose)[0] == 1
    got, v, *_ = follow(rows, pose, 1.0, TIMES)
    turn_in, turn_out = 2 * np.pi * TIMES, measured(two, "turn", got)
    np.testing.assert_allclose(
        np.sin(turn_out) * np.cos(turn_in), np.cos(turn_out) * np.sin(turn_in) * np.cos(beta), atol=1e-9
    )
    ratio = np.linalg.norm(v[:, 2, 3:], axis=1) / (2 * np.pi)
    assert ratio.max() == pytest.approx(1 / np.cos(beta), rel=1e-9)
    assert ratio.min() == pytest.approx(np.cos(beta), rel=1e-9)


def test_spatial_four_bar_with_two_ball_joints() -> None:
    """R-S-S-R: the rocker's angle solves A cos(phi) + B sin(phi) = C, from the coupler's constant length.

    R. S. Hartenberg, J. Denavit, Kinematic Synthesis of Linkages (1964), ch. 12; the equation is written anew here.
    """
    a, c, far = 0.02, 0.11, np.array([0.16, 0.03, 0.05])
    u, v = np.array([0.0, 1, 0]), np.array([0.0, 0, 1])  # the rocker turns about u x v = x
    axis = np.cross(u, v)

    def crank(t: float | np.ndarray) -> np.ndarray:
        return a * np.stack([np.cos(t), np.sin(t), 0 * np.asarray(t)], axis=-1)

    tip = crank(0.0)
    phi0 = 1.9
    end = far + c * (np.cos(phi0) * u + np.sin(phi0) * v)
    long = float(np.linalg.norm(end - tip))
    pose = still(4)
    joints = [
        joint("revolute", 0, frame((0, 0, 0), (0, 0, 1), (1, 0, 0)), 1, pose, "crank"),
        joint("spherical", 1, frame(tip), 2, pose, "ball 1"), joint("spherical", 2, frame(end), 3, pose, "ball 2"),
        joint("revolute", 0, frame(far, axis, u), 3, pose, "rocker"),
    ]  # fmt: skip
    assert kutzbach(4, {1: 2, 3: 2}) == 2
    assert freedoms(system(joints, 4), pose) == (2, 0)  # the coupler spins about itself
    rows = system(joints, 4, [drive(joints[0], "turn", 0.0, 2 * np.pi)])
    got, *_ = follow(rows, pose, 1.0, TIMES)
    phi = phi0 + measured(joints[3], "turn", got)
    gap = far - crank(2 * np.pi * TIMES)
    left = 2 * c * (gap @ u) * np.cos(phi) + 2 * c * (gap @ v) * np.sin(phi)
    np.testing.assert_allclose(left, long**2 - c**2 - (gap**2).sum(axis=1), atol=1e-10)


def screw_of(theta: float, length: float, twist: float) -> np.ndarray:
    """Turn about z, then the common normal and the twist about it: one link of a spatial chain."""
    turn = np.concatenate([np.zeros(3), poses.turned(np.array([0, 0, theta]))])
    return poses.compose(turn, np.concatenate([[length, 0, 0], poses.turned(np.array([twist, 0, 0]))]))


def test_bennett_linkage_moves_although_the_count_forbids_it() -> None:
    """a / sin(alpha) = b / sin(beta): mobility 1, where the count gives -2; and over the whole turn
    tan(t1/2) tan(t2/2) = sin((beta + alpha)/2) / sin((beta - alpha)/2).

    G. T. Bennett, A new mechanism, Engineering 76 (1903); K. H. Hunt, Kinematic Geometry of Mechanisms (1978), 10.4;
    from memory.
    """
    alpha, beta = np.radians(40.0), np.radians(75.0)
    a = 0.05
    b = a * np.sin(beta) / np.sin(alpha)
    constant = np.sin((beta + alpha) / 2) / np.sin((beta - alpha) / 2)
    t1 = 1.1
    t2 = 2 * np.arctan(constant / np.tan(t1 / 2))
    at = [poses.IDENTITY]
    for theta, length, twist in ((t1, a, alpha), (t2, b, beta), (2 * np.pi - t1, a, alpha), (2 * np.pi - t2, b, beta)):
        at.append(poses.compose(at[-1], screw_of(theta, length, twist)))
    np.testing.assert_allclose(poses.between(at[4], at[0]), 0, atol=1e-12)  # the loop closes
    pose = still(4)
    axes = [poses.rotate(f[3:], np.array([0.0, 0, 1])) for f in at]
    joints = [joint("revolute", k, frame(at[k][:3], axes[k]), (k + 1) % 4, pose, f"r{k}") for k in range(4)]
    assert kutzbach(4, {1: 4}) == -2
    assert freedoms(system(joints, 4), pose) == (1, 3)
    rows = system(joints, 4, [drive(joints[0], "turn", 0.0, 2 * np.pi)], reach=0.1)
    got, *_ = follow(rows, pose / np.array([0.1] * 3 + [1] * 4), 1.0, TIMES)
    moved = [measured(h, "turn", got) for h in joints]
    one = t1 + moved[0]
    for sign in (1.0, -1.0):
        two = t2 + sign * moved[1]
        if np.abs(np.tan(one / 2) * np.tan(two / 2) - constant).max() < 1e-6:
            break
    else:
        pytest.fail("no sense of the second joint satisfies the closure")


def test_sarrus_linkage_slides_straight_although_the_count_gives_none() -> None:
    """Two folding chains of three parallel revolutes in crossing planes: mobility 1, and the plate rises without turning.

    P. F. Sarrus, Comptes rendus 36 (1853); Kutzbach gives 6*5 - 5*6 = 0. From memory.
    """
    h, w = 0.05, 0.03  # half the height, how far the knees stand out
    pose = still(6)  # frame, plate, two links a side
    sides = [(np.array([0.1, 0, 0]), np.array([0.0, 1, 0]), 2), (np.array([0, 0.1, 0]), np.array([1.0, 0, 0]), 4)]
    joints = []
    for foot, axis, first in sides:
        out = foot / np.linalg.norm(foot)
        places = [
            (0, foot, first),
            (first, foot + out * w + np.array([0, 0, h]), first + 1),
            (first + 1, foot + np.array([0, 0, 2 * h]), 1),
        ]
        joints += [
            joint("revolute", a, frame(at, axis), b, pose, f"{first}-{n}") for n, (a, at, b) in enumerate(places)
        ]
    assert kutzbach(6, {1: 6}) == 0
    assert freedoms(system(joints, 6), pose) == (1, 1)
    rows = system(joints, 6, [drive(joints[0], "turn", 0.0, 0.4)])
    got, *_ = follow(rows, pose, 1.0, TIMES)
    arm = np.hypot(h, w)
    lean = np.arctan2(w, h)
    for sign in (1.0, -1.0):
        want = 2 * arm * np.cos(lean + sign * 0.4 * TIMES) - 2 * h
        if np.abs(got[:, 1, 2] - want).max() < 1e-9:
            break
    else:
        pytest.fail("the plate's height is not 2 arm cos(lean)")
    np.testing.assert_allclose(got[:, 1, :2], 0, atol=1e-9)
    np.testing.assert_allclose(got[:, 1, 4:], 0, atol=1e-9)


def test_planar_loop_in_space_and_parallelogram_with_an_extra_link() -> None:
    """Count in space -2 for the planar four-bar, with 3 redundant equations; the parallelogram with a third parallel
    crank counts 0 in its plane and moves all the same. Common practice (every textbook's exceptions)."""
    pose = still(4)
    corners = [(0, 0, 0), (0.1, 0.3, 0), (0.5, 0.4, 0), (0.6, 0, 0)]
    loop = [joint("revolute", k, frame(corners[k]), (k + 1) % 4, pose, f"r{k}") for k in range(4)]
    assert kutzbach(4, {1: 4}) == -2
    assert freedoms(system(loop, 4), pose) == (1, 3)
    pose = still(5)
    feet, up = [(0, 0, 0), (0.2, 0, 0), (0.5, 0, 0)], np.array([0.1, 0.3, 0])
    joints = [joint("revolute", 0, frame(f), 1 + k, pose, f"foot {k}") for k, f in enumerate(feet)]
    joints += [joint("revolute", 1 + k, frame(np.array(f) + up), 4, pose, f"head {k}") for k, f in enumerate(feet)]
    assert 3 * (5 - 1) - 2 * 6 == 0
    assert freedoms(system(joints, 5), pose)[0] == 1
    tilted = [joint("revolute", 0, frame(f), 1 + k, pose, f"foot {k}") for k, f in enumerate(feet)]
    heads = [np.array(f) + up + (np.array([0.0, 0.05, 0]) if k == 1 else 0) for k, f in enumerate(feet)]
    tilted += [joint("revolute", 1 + k, frame(at), 4, pose, f"head {k}") for k, at in enumerate(heads)]
    assert freedoms(system(tilted, 5), pose)[0] == 0  # no longer parallel: the count is right
