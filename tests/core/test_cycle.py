"""Cycles: branch kept, dead points found, turns counted, frames enough."""

from __future__ import annotations

import json

import numpy as np
import pytest

from tests.context import CONTEXT
from tests.mechanisms import four_bar, four_bar_closed_form, gear_train
from uhrwerk import At, Bore, Draft, FramePlate, LinkBar
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.core.motion import Motion, coordinates, cycle, dead_point_words
from uhrwerk.core.views import view


def run(document: Document) -> tuple[Motion, dict]:
    m = compile(document, CONTEXT)
    motion = cycle(
        m,
        solve(m),
        document.scope().value(document.cycle.duration, "time"),
        numbers(document.cycle, document.scope()).frames,
    )
    return motion, coordinates(m, motion)


def test_a_rocker_driven_past_its_reach_stops_at_the_dead_point() -> None:
    """Driving the rocker of a crank-rocker comes to a limit position; the tool says when, and does not flip over."""
    document = four_bar(0.09, 0.09, 0.03, 0.08, start="60 deg", speed="-60 rpm")
    m = compile(document, CONTEXT)
    motion = cycle(m, solve(m), 1.0, 360)
    assert motion.stop is not None
    assert 0 < motion.stop.time < 1
    assert "dead point" in dead_point_words(m, motion.stop)


def test_a_drive_held_from_the_first_moment_on_says_so(evaluator: Evaluator) -> None:
    d = Draft("Held")
    plate = d.part("Plate", "steel", FramePlate(bores={"bore": Bore(x="30 mm", y="40 mm", diameter="6 mm")}))
    arm = d.part("Arm", "steel", LinkBar(distance="40 mm"), x="30 mm", y="40 mm", z="12 mm")
    d.turn("Motor", d.revolute("Turns", plate["bore"], arm["hole_1"], offset="12 mm"), "60 rpm")
    d.parallel("Fixed", At(placed="plate", datum="xz_plane"), At(placed="arm", datum="xz_plane"))
    result = evaluator.evaluate(d.document)
    assert result.motion is None
    json.dumps(view(result), allow_nan=False)
    assert any("Motor cannot start" in p.words for p in result.problems), result.problems


def test_a_second_drive_of_one_coordinate_is_named_and_the_first_goes_on(evaluator: Evaluator) -> None:
    d = Draft("Twice", gear_train())
    d.turn("Other", next(iter(d.document.drivers.values())).joint, "70 rpm")
    result = evaluator.evaluate(d.document)
    assert [p.words for p in result.problems] == [
        "Other: Motor drives Pinion in plate already: remove one, or choose another joint"
    ]
    assert result.motion is not None
    assert result.motion.moving


def test_turns_are_counted_beyond_one() -> None:
    _, found = run(gear_train(frames=12))  # the pinion turns a quarter between frames
    assert found["pinion_in_plate"].value[-1] == pytest.approx(6 * np.pi, abs=1e-9)
    assert found["wheel_in_plate"].value[-1] - found["wheel_in_plate"].value[0] == pytest.approx(-2 * np.pi, abs=1e-9)
    np.testing.assert_allclose(found["wheel_in_plate"].rate, -found["pinion_in_plate"].rate / 3, rtol=1e-12)


def test_the_cycle_closes_and_frames_do_not_change_it() -> None:
    coarse, _ = run(four_bar(0.03, 0.09, 0.06, 0.08, frames=24))
    fine, _ = run(four_bar(0.03, 0.09, 0.06, 0.08, frames=360))
    np.testing.assert_allclose(fine.pose[0, :, :3], fine.pose[-1, :, :3], atol=1e-12)
    np.testing.assert_allclose(coarse.pose[:, :, :3], fine.pose[::15, :, :3], atol=1e-12)
    assert max(coarse.residual, fine.residual) < 1e-9


def test_velocities_are_the_derivative_of_the_poses() -> None:
    motion, _ = run(four_bar(0.03, 0.09, 0.06, 0.08))
    h = motion.times[1]
    middle = (motion.pose[2:, :, :3] - motion.pose[:-2, :, :3]) / (2 * h)
    np.testing.assert_allclose(motion.velocity[1:-1, :, :3], middle, atol=np.abs(middle).max() * 2e-3)
    omega = poses.between(motion.pose[:-2], motion.pose[2:])[..., 3:] / (2 * h)
    np.testing.assert_allclose(motion.velocity[1:-1, :, 3:], omega, atol=np.abs(omega).max() * 2e-3)


def test_between_frames_the_interpolation_is_close() -> None:
    motion, _ = run(four_bar(0.03, 0.09, 0.06, 0.08, frames=360))
    finer, _ = run(four_bar(0.03, 0.09, 0.06, 0.08, frames=1440))
    np.testing.assert_allclose(motion.between(finer.times)[:, :, :3], finer.pose[:, :, :3], atol=2e-9)


def test_a_slow_start_angle_is_kept() -> None:
    document = four_bar(0.03, 0.09, 0.06, 0.08, start="40 deg", speed="-30 rpm")
    _, found = run(document)
    crank = np.radians(40) - np.pi * np.linspace(0, 1, 361)
    np.testing.assert_allclose(found["crank_in_ground"].value, crank, atol=1e-9)
    want = four_bar_closed_form(0.03, 0.09, 0.06, 0.08, crank, -np.pi)
    np.testing.assert_allclose(found["rocker_in_ground"].rate, want.rocker_rate, atol=1e-9)


def test_without_a_driver_nothing_moves() -> None:
    draft = Draft("Still")
    base = draft.part("Base", "steel", LinkBar())
    arm = draft.part("Arm", "steel", LinkBar())
    draft.revolute("Arm", base["hole_1"], arm["hole_1"], offset="6 mm")
    motion, _ = run(draft.document)
    assert not motion.moving
    assert np.ptp(motion.pose, axis=0).max() == 0


def test_a_sliding_driver_pushes_along_its_axis() -> None:
    from uhrwerk.core.motion.drivers import Sliding

    draft = Draft("Push")
    base = draft.part("Base", "steel", LinkBar())
    block = draft.part("Block", "steel", LinkBar())
    joint = draft.prismatic("Push", base["hole_1"], block["hole_1"])
    draft.drive(Sliding(name="Cylinder", joint=joint, speed="20 mm/s", start="5 mm"))
    motion, found = run(draft.document)
    np.testing.assert_allclose(found[joint].value, 0.005 + 0.02 * motion.times, atol=1e-12)
    np.testing.assert_allclose(found[joint].rate, 0.02, rtol=1e-12)


def test_a_sharp_fold_keeps_its_branch() -> None:
    """Close to a change point (Grashof sum nearly equal) the links almost fold; the branch must not flip unseen."""
    a, b, c, d = 0.030, 0.0705, 0.080, 0.040
    motion, found = run(four_bar(a, b, c, d, frames=720))
    want = four_bar_closed_form(a, b, c, d, 2 * np.pi * motion.times, 2 * np.pi)
    got = np.unwrap(found["rocker_in_ground"].value)
    np.testing.assert_allclose(np.cos(got - want.rocker), 1, atol=1e-9)
