"""Time and turns: stations follow the motion, turns are the stated ones, drives end where they end."""

from __future__ import annotations

import numpy as np
import pytest

from tests.context import CONTEXT
from tests.mechanisms import four_bar, four_bar_closed_form, gear_train, mm
from uhrwerk import Bore, Clearance, Cycle, Draft, FramePlate, LinkBar, NoInterference, Pin, Post, Travel
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.edit.drag_session import take
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.motion import coordinates, cycle
from uhrwerk.core.motion.coordinate import within


def arm(speed: str, start: str = "0 deg", frames: int = 12, duration: str = "1 s", **limits: str) -> Draft:
    """An arm of 85 mm on a plate with a post of 1 mm that it crosses at 100 degrees."""
    d = Draft("Arm")
    post = Post(x="100 mm + 80 mm * cos(100 deg)", y="100 mm + 80 mm * sin(100 deg)", diameter="1 mm", height="20 mm")
    plate = d.part("Plate", "steel", FramePlate(length="200 mm", width="200 mm", bores={"pivot": Bore(x="100 mm", y="100 mm")}, posts={"post": post}))  # fmt: skip
    bar = d.part(
        "Arm", "steel", LinkBar(distance="85 mm", width="7 mm"), x="100 mm", y="100 mm", z="4 mm", turn_z=start
    )
    joint = d.revolute("Arm turns", plate["pivot"], bar["hole_1"], offset="4 mm", **limits)
    if speed:
        d.turn("Motor", joint, speed, start)
    d.set("cycle", Cycle(duration=duration, frames=frames).model_dump(mode="json"))
    d.require(NoInterference(name="Apart"))
    d.require(Clearance(name="Gap", a=bar.body(), b=plate.body("post")))
    return d


@pytest.mark.parametrize("turns", [1, 12, 60, 1000])
@pytest.mark.parametrize("frames", [12, 24])
def test_an_arm_that_turns_whole_turns_between_frames_still_strikes(
    evaluator: Evaluator, turns: int, frames: int
) -> None:
    result = evaluator.evaluate(arm(f"{turns} rev / s", frames=frames).document)
    assert result.verdicts["apart"].holds is False
    assert result.verdicts["gap"].holds is False
    when = result.verdicts["gap"].time
    assert when is not None
    assert 90 < np.mod(360 * turns * when, 360) < 110


def test_turns_are_counted_however_few_the_frames(evaluator: Evaluator) -> None:
    result = evaluator.moved(arm("1000 rev / s", "30 deg").document)
    c = result.coordinates["arm_turns"]
    np.testing.assert_allclose(c.value, np.radians(30) + 2 * np.pi * 1000 * np.linspace(0, 1, 13), rtol=1e-9)


def test_a_motion_that_never_repeats_is_refused_with_a_reason(evaluator: Evaluator) -> None:
    d = Draft("Two rates", four_bar(0.03, 0.09, 0.06, 0.08, speed="300 rev/s", duration="20 s"))
    bar = d.part("Second", "steel", LinkBar(), z="30 mm")
    joint = d.revolute("Second turns", d.document.joints["crank_in_ground"].a, bar["hole_1"], offset="30 mm")
    d.turn("Second motor", joint, "sqrt(2) * 300 rev/s")
    result = evaluator.moved(d.document)
    assert result.motion is None
    assert "more turns than can be followed" in result.problems[0].words
    assert "shorten it to at most" in result.problems[0].words


def test_a_train_of_a_thousand_turns_is_known_from_its_period(evaluator: Evaluator) -> None:
    d = Draft("Train", gear_train(teeth=(18, 54), frames=24))
    d.set("drivers.motor.speed", "1000 rev / s")
    d.set("cycle.duration", "3 s")
    result = evaluator.evaluate(d.document)
    assert result.motion is not None
    assert result.motion.track.period == pytest.approx(0.003)
    wheel = result.coordinates["wheel_in_plate"].value
    assert wheel[-1] - wheel[0] == pytest.approx(-2 * np.pi * 1000, rel=1e-9)


@pytest.mark.parametrize("frames", [12, 24, 360])
@pytest.mark.parametrize("sizes", [(0.03, 0.09, 0.06, 0.08), (0.03, 0.0705, 0.08, 0.04)])
def test_between_stations_the_error_is_what_it_says(sizes: tuple[float, ...], frames: int) -> None:
    """10,000 moments against the closed form: every pose within the stated error of its interval, and that is small."""
    document = four_bar(*sizes, frames=frames)
    m = compile(document, CONTEXT)
    motion = cycle(m, solve(m), 1.0, frames)
    times = np.linspace(0, 1, 10_001)
    want = four_bar_closed_form(*sizes, 2 * np.pi * times, 2 * np.pi)
    pose = motion.between(times)
    link = m.link_of["coupler"]
    angle = 2 * np.arctan2(pose[:, link, 6], pose[:, link, 3])
    off = np.abs(np.angle(np.exp(1j * (angle - want.coupler))))
    index, _ = motion.track.located(times)
    assert np.all(off <= motion.track.error[index, link, 1] + 1e-12)
    assert motion.track.error[:, link, 1].max() < 1e-8


def test_rates_are_as_good_as_positions() -> None:
    for sizes in ((0.03, 0.09, 0.06, 0.08), (0.03, 0.0705, 0.08, 0.04), (0.02, 0.07, 0.05, 0.06)):
        m = compile(four_bar(*sizes), CONTEXT)
        motion = cycle(m, solve(m), 1.0, 360)
        found = coordinates(m, motion)["rocker_in_ground"]
        want = four_bar_closed_form(*sizes, 2 * np.pi * motion.times, 2 * np.pi)
        for got, closed in ((found.rate, want.rocker_rate), (found.acceleration, want.rocker_acceleration)):
            assert np.abs(got - closed).max() < 1e-12 * np.abs(closed).max()


# which turn


def test_a_driven_hinge_starts_in_the_turn_that_its_driver_states(evaluator: Evaluator) -> None:
    result = evaluator.evaluate(arm("-120 deg/s", "270 deg", turn_from="0 deg", turn_to="270 deg").document)
    assert result.problems == []
    assert result.coordinates["arm_turns"].value[0] == pytest.approx(np.radians(270))
    assert result.verdicts["gap"].holds is not None


def test_a_drive_beyond_its_limit_is_told_in_its_own_turn(evaluator: Evaluator) -> None:
    result = evaluator.moved(arm("40 deg/s", "380 deg", turn_to="400 deg").document)
    assert [p.words for p in result.problems] == [
        "Arm turns would go to 420.00 deg, beyond its limit of 400.00 deg, from 0.500 s on"
    ]


@pytest.mark.parametrize(("start", "value"), [("200 deg", 200), ("-160 deg", 200), ("90 deg", 90), ("269 deg", 269)])
def test_a_joint_without_a_drive_stands_within_its_limits(evaluator: Evaluator, start: str, value: float) -> None:
    result = evaluator.evaluate(arm("", start, turn_from="0 deg", turn_to="270 deg").document)
    assert result.problems == []
    assert np.degrees(result.coordinates["arm_turns"].value[0]) == pytest.approx(value)
    assert result.verdicts["gap"].holds is not None


def test_a_joint_outside_its_limits_says_where_it_stands(evaluator: Evaluator) -> None:
    result = evaluator.moved(arm("", "300 deg", turn_from="0 deg", turn_to="270 deg").document)
    assert [p.words for p in result.problems] == ["Arm turns stands at 300.00 deg, beyond its limit of 270.00 deg"]


@pytest.mark.parametrize(
    ("value", "low", "high", "want"),
    [(-160, 0, 270, 200), (-90, 0, 270, 270), (10, 0, 270, 10), (10, 370, 800, 370), (10, 360, 800, 370), (-10, 0, 90, -10), (100, 0, 90, 100), (0, -np.inf, -300, -360)],
)  # fmt: skip
def test_the_turn_within_limits(value: float, low: float, high: float, want: float) -> None:
    assert np.degrees(within(*np.radians([value, low, high]))) == pytest.approx(want)


def test_a_hand_counts_as_a_drive_does(evaluator: Evaluator) -> None:
    """Taken at 200 degrees under limits of 0 to 270 and pulled on, the arm stops at 270; pulled back, at 0."""
    result = evaluator.evaluate(arm("", "200 deg", turn_from="0 deg", turn_to="270 deg").document)
    middle = np.array([0.1, 0.1, 0.006])
    hold = take(
        result, evaluator, "arm", middle + 0.08 * np.array([np.cos(np.radians(200)), np.sin(np.radians(200)), 0])
    )
    assert hold.grip.values["arm_turns", "turn"] == pytest.approx(np.radians(200))
    for angle in range(200, 331, 10):
        told = hold.pull(middle + 0.08 * np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle)), 0]))
    assert "at its limit of 270.00 deg" in told.words
    for angle in range(270, -41, -10):
        told = hold.pull(middle + 0.08 * np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle)), 0]))
    assert "at its limit of 0.00 deg" in told.words


# dead points


@pytest.mark.parametrize("speed", ["60 rpm", "-60 rpm", "6000 rpm", "1 deg/s"])
def test_a_dead_point_is_found_to_a_hundredth_of_a_degree(evaluator: Evaluator, speed: str) -> None:
    """Driven at the rocker, a crank-rocker stops where crank and coupler are in line: the law of cosines gives the angle."""
    rocker, coupler, crank, ground = 0.09, 0.09, 0.03, 0.08

    def angle(reach: float) -> float:  # of the driven link, where the other two are in line
        return float(np.degrees(np.arccos((rocker**2 + ground**2 - reach**2) / (2 * rocker * ground))))

    forth = not speed.startswith("-")
    want = angle(coupler + crank) if forth else angle(coupler - crank)
    start = 60.0
    duration = {"1 deg/s": "300 s"}.get(speed, "1 s")
    document = four_bar(rocker, coupler, crank, ground, start=f"{start} deg", speed=speed, duration=duration, frames=90)
    d = Draft("x", document)
    d.require(NoInterference(name="Apart"))
    d.require(Travel(name="Swings", joint="crank_in_ground", turn="300 deg"))
    result = evaluator.evaluate(d.document)
    assert result.motion is not None
    assert result.motion.stop is not None
    told = next(p.words for p in result.problems if "dead point" in p.words)
    value = document.scope().value(speed, "turning speed") * result.motion.stop.time
    assert start + np.degrees(value) == pytest.approx(want, abs=1e-6)
    assert f"Motor at {want:.2f} deg" in told
    assert "Coupler and Rocker are in line" in told
    # the motion up to there is kept, played and checked
    assert result.coordinates["crank_in_ground"].value[-1] == pytest.approx(np.radians(want), abs=2e-4)
    assert len(result.motion.times) > 2
    assert result.verdicts["apart"].holds is None
    assert "up to" in result.verdicts["apart"].words
    assert result.verdicts["swings"].holds is False  # it goes no farther


def test_what_fails_before_a_dead_point_fails(evaluator: Evaluator) -> None:
    d = Draft("x", four_bar(0.09, 0.09, 0.03, 0.08, start="60 deg", speed="-60 rpm"))
    d.part(
        "Post",
        "steel",
        Pin(diameter="6 mm", length="60 mm"),
        x=f"{mm(0.06)} * cos(50 deg)",
        y=f"{mm(0.06)} * sin(50 deg)",
        z="-10 mm",
    )
    d.require(NoInterference(name="Apart"))
    verdict = evaluator.evaluate(d.document).verdicts["apart"]
    assert verdict.holds is False
    assert "dead point" in verdict.basis
