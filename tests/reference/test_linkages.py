"""Linkages against closed forms and printed worked examples.

Sources: R. L. Norton, Design of Machinery (McGraw-Hill), Examples 4-1 (four-bar positions), 4-2 (slider-crank
positions), 6-7 (four-bar velocities) and 7-1 (four-bar accelerations); the printed numbers are from memory.
"""

from __future__ import annotations

import numpy as np
import pytest

from tests.context import CONTEXT
from tests.mechanisms import four_bar, four_bar_closed_form
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.law import Constant
from uhrwerk.core.equations.newton import assemble, rates
from uhrwerk.core.equations.rows import Row, Rows
from uhrwerk.core.motion import coordinates, cycle

SIZES = (0.03, 0.09, 0.06, 0.08)


@pytest.mark.parametrize("crossed", [False, True])
def test_four_bar_agrees_with_the_closed_form_over_360_poses(crossed: bool) -> None:
    """Angles, angular velocities and accelerations to 1e-9 of the largest, in both branches."""
    document = four_bar(*SIZES, crossed=crossed)
    m = compile(document, CONTEXT)
    motion = cycle(m, solve(m), 1.0, 360)
    found = coordinates(m, motion)
    want = four_bar_closed_form(*SIZES, 2 * np.pi * motion.times, 2 * np.pi, crossed)
    rocker, coupler = found["rocker_in_ground"], found["coupler_on_crank"]
    crank = found["crank_in_ground"]

    def close(got: np.ndarray, expected: np.ndarray) -> None:
        assert np.abs(got - expected).max() <= 1e-9 * np.abs(expected).max()

    assert np.abs(np.exp(1j * rocker.value) - np.exp(1j * want.rocker)).max() < 1e-9
    assert np.abs(np.exp(1j * (coupler.value + crank.value)) - np.exp(1j * want.coupler)).max() < 1e-9
    close(rocker.rate, want.rocker_rate)
    close(rocker.acceleration, want.rocker_acceleration)
    close(coupler.rate + crank.rate, want.coupler_rate)
    close(coupler.acceleration + crank.acceleration, want.coupler_acceleration)


def norton_four_bar(crossed: bool) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Angles of coupler and rocker (deg), their rates (rad/s) and accelerations at 25 rad/s constant, at 40 degrees."""
    document = four_bar(0.040, 0.120, 0.080, 0.100, speed="25 rad/s", start="40 deg", crossed=crossed)
    m = compile(document, CONTEXT)
    pose = solve(m)
    motion = cycle(m, pose, 0.01, 12)
    angle = [np.degrees(poses.rotation_vector(m.part_pose(p, pose)[3:])[2]) for p in ("coupler", "rocker")]
    links = [m.link_of[p] for p in ("coupler", "rocker")]
    return np.array(angle), motion.velocity[0, links, 5], motion.acceleration[0, links, 5]


def test_norton_example_4_1_positions() -> None:
    """d 100, a 40, b 120, c 80 mm, input at 40 deg: open 20.30 and 57.33 deg, crossed -60.98 and -98.01 deg.

    The coupler agrees to the printed digits. The rocker is 57.3249 and -98.0050 deg by the exact closed form too: the
    book carries A, B, C in four digits, which costs it half a unit of its last digit, so a unit of that is allowed.
    """
    for crossed, coupler, rocker in ((False, 20.30, 57.33), (True, -60.98, -98.01)):
        got = norton_four_bar(crossed)[0]
        assert round(float(got[0]), 2) == coupler
        assert abs(got[1] - rocker) < 0.01
        exact = four_bar_closed_form(0.040, 0.120, 0.080, 0.100, np.radians([40.0]), 25.0, crossed)
        assert got[1] == pytest.approx(np.degrees(exact.rocker[0]), rel=1e-10)


def test_norton_example_6_7_velocities() -> None:
    """The same linkage at 25 rad/s, open: coupler -4.121, rocker 6.998 rad/s."""
    assert np.round(norton_four_bar(crossed=False)[1], 3).tolist() == [-4.121, 6.998]


def test_norton_example_7_1_accelerations() -> None:
    """The same linkage at 25 rad/s and 15 rad/s2, open: coupler 296.089, rocker 470.134 rad/s2.

    Our driver turns at constant speed; the input's own acceleration adds in proportion to the velocity ratio
    (alpha_i = omega^2 h'' + alpha h').
    """
    _, rate, acceleration = norton_four_bar(crossed=False)
    assert np.round(acceleration + 15 * rate / 25, 3).tolist() == [296.089, 470.134]


@pytest.mark.parametrize(("guess", "coupler", "slider"), [(0.1, 152.91, 126.84), (-0.1, 27.09, -86.84)])
def test_norton_example_4_2_slider_crank(guess: float, coupler: float, slider: float) -> None:
    """Crank 40, coupler 120, offset -20 mm, crank at 60 deg: coupler 152.91 deg and slider at 126.84 mm, or 27.09 and -86.84.

    The coupler's angle is counted at the slider, as in the book. Made of rows, since it needs a slide across the axes.
    """
    o, (x, y, z) = np.zeros(3), np.eye(3)
    tip = np.array([0.120, 0, 0])
    crank = np.array([0.040, 0, 0])
    rows = [Row("point", 0, 1, (o, u, o), "pivot") for u in (x, y, z)]
    rows += [
        Row("square", 0, 1, (z, x), "pivot"),
        Row("square", 0, 1, (z, y), "pivot"),
        Row("turn", 0, 1, (x, y, x), "crank", law=Constant(np.radians(60), 1.0)),
    ]
    rows += [Row("point", 1, 2, (crank, u, o), "pin") for u in (x, y, z)]
    rows += [Row("square", 1, 2, (z, x), "pin"), Row("square", 1, 2, (z, y), "pin")]
    rows += [Row("point", 0, 2, (o, u, tip), "slide", c) for u, c in ((y, -0.020), (z, 0.0))]
    system = Rows(rows, 3, 0.12)
    start = np.tile(poses.IDENTITY, (3, 1))
    start[1, 3:] = poses.turned(np.array([0, 0, np.radians(60)]))
    start[2, :3] = np.array([0.02, 0.0346, 0]) / 0.12
    start[2, 3:] = poses.turned(np.array([0, 0, -0.4 if guess > 0 else np.pi + 0.4]))
    pose, left = assemble(system, start)
    assert left < 1e-9
    end = poses.place(pose[2], tip / 0.12) * 0.12
    angle = np.degrees(poses.rotation_vector(pose[2, 3:])[2]) + 180  # seen from the slider
    assert round(float(end[0]) * 1e3, 2) == slider
    assert round((angle + 180) % 360 - 180, 2) == coupler
    velocity, _ = rates(system, pose[None], np.zeros(1))
    # d' = -a w2 sin(t2) + b w3 sin(t3), by differentiating the loop
    t3, w3 = np.radians(coupler), velocity[0, 2, 5]
    speed = (velocity[0, 2, :3] + np.cross(velocity[0, 2, 3:], end / 0.12 - pose[2, :3]))[0] * 0.12
    assert speed == pytest.approx(-0.040 * np.sin(np.radians(60)) + 0.120 * w3 * np.sin(t3), rel=1e-4)
