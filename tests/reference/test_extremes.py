"""The greatest and the least over a cycle: jumps, corners, short moves and poles, against closed forms.

Each case once gave a value outside its own error, or let a limit hold that is broken.
"""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from tests.cams import sliding
from tests.mechanisms import four_bar
from uhrwerk import (
    At,
    ContactKept,
    CurveLimit,
    Draft,
    Evaluator,
    FramePlate,
    NoInterference,
    Pin,
    ShakingForce,
    curves,
    drivers,
)
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.document import Document, apply, command, parse, validate
from uhrwerk.core.elements.cams import Tangents
from uhrwerk.core.motion.extremes import extremes
from uhrwerk.core.quantity.interval import corners, over
from uhrwerk.core.quantity.interval_rate import hidden, steepest


def slider(way: str, **asked: object) -> Document:
    """A block that slides as a formula of the time says, its travel followed."""
    d = Draft("Slider")
    plate = d.part("Plate", "steel", FramePlate())
    block = d.part("Block", "steel", FramePlate(length="20 mm", width="20 mm"))
    j = d.prismatic("Slides", plate["right"], block["right"])
    d.drive(drivers.SlideFormula(name="Motor", joint=j, way=way))
    d.follow(curves.JointCurve(name="way", joint=j, of="slide"))
    if asked:
        d.require(CurveLimit(name="Limit", curve="way", **asked))  # type: ignore[arg-type]
    return d.document


@pytest.mark.parametrize("frames", [12, 57, 360])
def test_a_cam_of_circles_and_tangents_is_known_on_both_sides_of_its_joints(frames: int) -> None:
    """Circles of 30 and 15 mm, 15 mm apart, roller radius 3.75 mm, 60 rev/min: the roller's centre runs on circles of 18.75 and
    11.25 mm and their tangents. Greatest acceleration 1.765 m/s2 (2.379 was told), least -1.522 (-1.614), speed 99.29 mm/s (98.90)."""
    base, nose, far, w = 0.01875, 0.01125, 0.015, 2 * np.pi
    beta = np.arccos((base - nose) / far)  # of the tangents' normals from the nose
    # on the tangent the centre stands at base / cos(theta - beta); on the nose it hangs on the circle about its tip
    end = np.arctan2(far * np.sin(beta), base)  # where tangent and nose meet, from the normal
    u = np.linspace(0, end, 200_001)
    tangent = base / np.cos(u)
    slope, bend = tangent * np.tan(u), tangent * (1 + 2 * np.tan(u) ** 2)
    v = beta - end - np.linspace(0, beta - end, 200_001)
    root = np.sqrt(nose**2 - (far * np.sin(v)) ** 2)
    hang = -far * np.cos(v) - (far**2 * np.cos(2 * v)) / root - (far**2 * np.sin(2 * v) / 2) ** 2 / root**3
    speed = -far * np.sin(v) - far**2 * np.sin(2 * v) / 2 / root
    document = sliding(Tangents(nose="7.5 mm", distance="15 mm"), base="30 mm", radius="3.75 mm", reach=0.03)
    data = document.model_dump(mode="json")
    data["cycle"]["frames"] = frames
    data["curves"] = {"s": {"kind": "joint", "name": "s", "joint": "moves", "of": "slide"}}
    e = Evaluator().moved(validate(data))
    run = evaluated_curve(e, "s")
    a, r = run.extremes("acceleration"), run.extremes("rate")  # type: ignore[union-attr]
    assert a.high == pytest.approx(bend.max() * w**2, abs=max(a.high_missed, 2e-6))
    assert a.low == pytest.approx(hang.min() * w**2, abs=max(a.low_missed, 2e-6))
    assert r.high == pytest.approx(max(slope.max(), np.abs(speed).max()) * w, abs=max(r.high_missed, 1e-7))
    assert (round(a.high, 3), round(a.low, 3), round(r.high * 1e3, 2)) == (1.765, -1.522, 99.30)


def test_contact_does_not_ring_on_a_dwell(evaluator: Evaluator) -> None:
    """That cam at 600 rev/min without a spring: on the dwell nothing presses, where -0.110 N was told; it parts on its nose alone."""
    document = sliding(Tangents(nose="7.5 mm", distance="15 mm"), base="30 mm", radius="3.75 mm", reach=0.03)
    driver = document.drivers["motor"].model_copy(update={"speed": "600 rpm"})
    document = document.model_copy(update={"drivers": {"motor": driver}})
    document = apply(document, parse({"kind": "set_value", "path": "cycle.duration", "value": "0.1 s"}))
    document = document.model_copy(update={"requirements": {"k": ContactKept(name="K", pair="runs", at_least="0 N")}})
    e = evaluator.evaluate(document)
    from uhrwerk.core.forces.inverse_dynamics import contact_force

    times = np.linspace(0.035, 0.065, 301)  # the base circle faces the roller
    force = contact_force(e, "runs", times)
    greatest = np.abs(contact_force(e, "runs", np.linspace(0, 0.1, 701))).max()
    assert np.abs(force).max() < 1e-6 * greatest


@pytest.mark.parametrize("wide", [0.034, 0.04, 0.004, 0.0004])
def test_a_short_pulse_is_not_overlooked(wide: float) -> None:
    """A triangle of 10 mm: one of 34 ms in a second was told as 0.0 mm, one of 40 ms as 9.80, and a limit of 9.99 mm held."""
    way = f"max(0 mm, 10 mm - abs(time - 0.5131 s) * 10 mm / ({wide / 2!r} s))"
    e = Evaluator().moved(slider(way, at_most="9.99 mm"))
    found = evaluated_curve(e, "way").extremes("value")  # type: ignore[union-attr]
    assert found.high <= 0.010 + 1e-12
    assert found.high + found.high_missed >= 0.010
    assert found.high == pytest.approx(0.010, abs=1e-7)
    assert e.document.requirements["limit"].judge(e).holds is False  # type: ignore[attr-defined]


def test_formulas_of_the_time_know_their_corners() -> None:
    known = {"p": 0.25}
    at = corners("abs(sin(360 deg * time / (1 s))) * 1 mm", {}, 1.0)
    assert [t for t in at if 1e-9 < t < 1 - 1e-9] == pytest.approx([0.5], abs=1e-9)  # at the ends rounding decides
    found = corners("min(time, 1 s - time) * 1 mm / (1 s) + max(p * 1 s, time) * 1 mm / (1 s)", known, 1.0)
    assert found == pytest.approx([0.25, 0.5], abs=1e-9)
    random = np.random.default_rng(4)
    for _ in range(200):  # bounds hold at any moment of an interval
        low = float(random.uniform(0, 1))
        high = low + float(random.uniform(0, 0.3))
        text = (
            "abs(sin(700 deg * time / (1 s))) * time ^ 2 / (1 s) ^ 2 - cos(90 deg * time / (1 s)) / (1 + time / (1 s))"
        )
        bounds = over(text, {}, np.array([low]), np.array([high]))
        t = np.linspace(low, high, 101)
        inner = over(text, {}, t, t).lo
        assert bounds.lo[0] <= inner.min() + 1e-12
        assert bounds.hi[0] >= inner.max() - 1e-12


@pytest.mark.parametrize(
    ("way", "least", "most", "slowest", "fastest"),
    [
        ("10 mm * abs(sin(180 deg * time / (1 s)))", 0.0, 0.01, -0.01 * np.pi, 0.01 * np.pi),
        ("-min(4 mm, 10 mm * abs(sin(180 deg * time / (1 s))))", -0.004, 0.0, -0.01 * np.pi, 0.01 * np.pi),
        ("10 mm * max(0, sin(360 deg * time / (1 s)))", 0.0, 0.01, -0.02 * np.pi, 0.02 * np.pi),
        ("10 mm * abs(time) / (1 s)", 0.0, 0.01, 0.01, 0.01),
        ("10 mm * abs(cos(450 deg * time / (1 s)))", 0.0, 0.01, -0.025 * np.pi, 0.025 * np.pi),
    ],
)
def test_a_corner_at_an_end_of_the_cycle_is_no_dead_point(
    way: str, least: float, most: float, slowest: float, fastest: float
) -> None:
    """The motion stopped short of it: "cannot be followed further". Rates there are those of the side within the cycle."""
    e = Evaluator().moved(slider(way))
    assert e.problems == []
    assert e.motion is not None
    assert e.motion.stop is None
    curve = evaluated_curve(e, "way")
    value, rate = curve.extremes("value"), curve.extremes("rate")  # type: ignore[union-attr]
    assert (value.low, value.high) == pytest.approx((least, most), abs=1e-9)
    assert (rate.low, rate.high) == pytest.approx((slowest, fastest), abs=1e-7)


@pytest.mark.parametrize(
    ("way", "other", "least", "most", "slowest", "fastest"),
    [
        ("10 mm * max(0, sin(3 * other))", "60 rpm", 0.0, 0.01, -0.06 * np.pi, 0.06 * np.pi),
        ("5 mm * abs(other - 1.3 rad) / (1 rad)", "30 rpm", 0.0, 0.005 * (np.pi - 1.3), -0.005 * np.pi, 0.005 * np.pi),
        ("max(0 mm, 10 mm - 10 mm * abs(other - 2.001 rad) / (0.003 rad))", "60 rpm", 0.0, 0.01, -0.02 * np.pi / 0.003, 0.02 * np.pi / 0.003),
        ("10 mm / (1 + ((other - 2.001 rad) / (0.001 rad)) ^ 2)", "60 rpm", None, 0.01, -0.01 * 2000 * np.pi * 9 / 8 / np.sqrt(3), 0.01 * 2000 * np.pi * 9 / 8 / np.sqrt(3)),
        ("min(7 mm, 20 mm * abs(sin(other)))", "60 deg * sin(360 deg * time / (1 s))", 0.0, 0.007, None, None),
    ],
)  # fmt: skip
def test_a_drive_after_another_knows_its_corners(
    way: str, other: str, least: float | None, most: float, slowest: float | None, fastest: float | None
) -> None:
    """Closed forms; a short pulse is found, and rates jump where they do: with the other law going to and fro too."""
    document = slider("0 mm")
    d = Draft("Slider", document)
    arm = d.part("Arm", "steel", Pin(), z="50 mm")
    turns = d.revolute("Turns", At(placed=document.frame, datum="top"), arm["axis"])
    first = drivers.Turning if "rpm" in other else drivers.TurnFormula
    d.drive(first(name="First", joint=turns, **{"speed" if "rpm" in other else "way": other}))
    d.do(command.Remove(path="drivers.motor"))
    d.drive(drivers.SlideAfter(name="Motor", joint=document.drivers["motor"].joint, after="first", way=way))
    e = Evaluator().moved(d.document)
    assert e.problems == []
    assert e.motion is not None
    assert e.motion.stop is None
    curve = evaluated_curve(e, "way")
    value, rate = curve.extremes("value"), curve.extremes("rate")  # type: ignore[union-attr]
    assert least is None or value.low == pytest.approx(least, abs=1e-9)
    assert value.high == pytest.approx(most, abs=1e-9)
    if fastest is None:  # the arm swings through nothing: 20 mm * cos(a) * its speed, up to where 7 mm hold it
        fastest = 0.020 * np.radians(60) * 2 * np.pi
        slowest = -fastest
    assert (rate.low, rate.high) == pytest.approx((slowest, fastest), rel=1e-6)


@pytest.mark.parametrize("short", ["0.02 s", "0.002 s"])
def test_a_very_short_move_after_a_dwell_is_followed(short: str) -> None:
    """30 deg in 20 ms of a cycle of 20 s: it asked for 170 GiB, told a dead point, and drew frames beyond the end."""
    data = four_bar(0.022, 0.088, 0.062, 0.0898).model_dump(mode="json")
    joint = next(iter(data["drivers"].values()))["joint"]
    segments = {
        "stay": {"to": "0 deg", "over": "12 s"},
        "go": {"to": "30 deg", "over": short},
        "back": {"to": "0 deg", "over": "1 s"},
    }
    data["drivers"] = {
        "m": {"kind": "turn_programme", "name": "M", "joint": joint, "start": "0 deg", "segments": segments}
    }
    data["cycle"]["duration"] = "20 s"
    e = Evaluator().moved(validate(data))
    assert e.problems == []
    assert e.motion is not None
    assert e.motion.stop is None
    assert e.motion.times[-1] == pytest.approx(20.0)
    assert len(e.motion.track.times) < 1000
    turn = e.coordinates[joint]
    assert turn.whole.value.max() == pytest.approx(np.radians(30), abs=1e-6)


def test_a_ratio_through_a_standstill_has_no_bound() -> None:
    """The rocker of a crank and rocker stands still twice a turn: the ratio of crank to rocker passes infinity, and `at most 100`
    held with 12 and 36 frames."""
    for frames in (12, 36, 360):
        document = four_bar(0.022, 0.088, 0.062, 0.0898, frames=frames)
        joints = list(document.joints)
        crank = next(iter(document.drivers.values())).joint
        rocker = next(j for j in joints if "rocker" in j and "ground" in j)
        data = document.model_dump(mode="json")
        data["curves"] = {"r": {"kind": "ratio", "name": "r", "joint": crank, "over": rocker}}
        data["requirements"] = {"l": {"kind": "curve_limit", "name": "L", "curve": "r", "at_most": "100"}}
        e = Evaluator().moved(validate(data))
        v = e.document.requirements["l"].judge(e)  # type: ignore[attr-defined]
        assert v.holds is False, v.words
        assert "no bound" in v.words


@pytest.mark.parametrize("k", [1, 8, 23, 64])
def test_a_formula_of_a_curve_is_evaluated_on_the_motion(k: int) -> None:
    """sin(k turn) lay outside its error from k = 8 on; a peak of 10,000 was told as 819.6."""
    document = four_bar(0.022, 0.088, 0.062, 0.0898, frames=36)
    data = document.model_dump(mode="json")
    joint = next(iter(document.drivers.values())).joint
    data["curves"] = {
        "turn": {"kind": "joint", "name": "turn", "joint": joint, "of": "turn"},
        "wave": {"kind": "formula", "name": "wave", "formula": f"sin({k} * turn + 0.3 rad)"},
        "peak": {"kind": "formula", "name": "peak", "formula": "1 / (0.0001 + (turn / (1 rad) - 2.1)^2)"},
    }
    e = Evaluator().moved(validate(data))
    wave, peak = (evaluated_curve(e, i).extremes("value") for i in ("wave", "peak"))  # type: ignore[union-attr]
    assert wave.high == pytest.approx(1.0, abs=1e-6)
    assert wave.low == pytest.approx(-1.0, abs=1e-6)
    assert peak.high == pytest.approx(10_000.0, rel=1e-6)


def test_extremes_of_many_functions_lie_within_their_errors() -> None:
    """Random sums of waves, peaks, corners and jumps, looked at from few stations, against two million samples."""
    random = np.random.default_rng(12)
    dense = np.linspace(0, 1, 2_000_001)
    for _ in range(60):
        waves = [(float(random.uniform(1, 60)), float(random.uniform(0, 6)), float(random.normal())) for _ in range(3)]
        at, sharp, corner = float(random.uniform(0.1, 0.9)), float(random.uniform(5, 60)), float(random.normal())

        def value(
            t: np.ndarray, waves: list = waves, at: float = at, sharp: float = sharp, corner: float = corner
        ) -> np.ndarray:
            smooth = sum(a * np.sin(w * t + p) for w, p, a in waves)
            return np.asarray(smooth + corner * np.abs(t - at) + 1 / (1 + (sharp * (t - at)) ** 2))

        found = extremes(value, np.linspace(0, 1, int(random.integers(15, 40))))
        y = value(dense)
        slack = 1e-6 * float(np.ptp(y))
        assert found.high + found.high_missed >= y.max() - slack
        assert found.low - found.low_missed <= y.min() + slack
        assert found.high <= y.max() + slack


def test_what_shakes_the_frame_is_looked_at_on_the_motion(evaluator: Evaluator) -> None:
    """A block of known mass that moves 10 mm in a fiftieth of a second of two: 721 even moments told next to nothing. The cycloid's
    greatest acceleration is 2 pi h / T^2 (VDI 2143)."""
    d = Draft("Shaken")
    plate = d.part("Plate", "steel", FramePlate())
    block = d.part("Block", "steel", Pin(diameter="10 mm", length="10 mm"))
    j = d.prismatic("Slides", plate["right"], block["axis"])
    segments = {"stay": {"to": "0 mm", "over": "1.5 s"}, "go": {"to": "10 mm", "over": "0.002 s", "law": {"kind": "cycloidal"}}, "back": {"to": "0 mm", "over": "0.4 s", "law": {"kind": "cycloidal"}}}  # fmt: skip
    d.drive(drivers.SlideProgramme.model_validate({"name": "P", "joint": j, "segments": segments}))
    d.set("cycle.duration", "2 s")
    d.require(ShakingForce(name="Quiet", at_most="1 N"))
    e = evaluator.evaluate(d.document)
    v = e.verdicts["quiet"]
    force = e.part_mass[block] * 2 * np.pi * 0.01 / 0.002**2
    assert v.holds is False
    assert v.value == pytest.approx(force, rel=1e-5)


def test_ten_turns_are_known_from_one(evaluator: Evaluator) -> None:
    """A quick return for ten turns in ten seconds: the same verdicts as for one, and no advice to shorten the cycle."""
    from uhrwerk.demo.pusher import pusher

    told = []
    for turns in (1, 10):
        d = Draft("x", pusher())
        d.set("cycle.duration", f"{turns} s")
        e = evaluator.evaluate(d.document)
        told.append({i: (v.holds, v.value) for i, v in e.verdicts.items()})
        assert not [v for v in e.verdicts.values() if "horten the cycle" in v.words]
    for i, (holds, value) in told[0].items():
        assert told[1][i][0] is holds
        assert told[1][i][1] == pytest.approx(value, rel=1e-4, abs=1e-7)


@pytest.mark.parametrize("size", ["7.5 mm", "0.5 in"])
@pytest.mark.parametrize("kind", ["prismatic", "revolute", "cylindrical"])
def test_equal_diameters_slide_as_a_contact_without_play(evaluator: Evaluator, size: str, kind: str) -> None:
    from uhrwerk import Bore

    d = Draft("Fit")
    guide = d.part("Guide", "steel", FramePlate(length="60 mm", width="40 mm", thickness="20 mm", bores={"b": Bore(x="30 mm", y="20 mm", diameter=size)}))  # fmt: skip
    rod = d.part("Rod", "steel", Pin(diameter=size, length="80 mm"))
    j = getattr(d, kind)("Moves", guide["b"], rod["axis"], offset="-60 mm")
    if kind != "revolute":
        d.slide("Push", j, "20 mm/s")
    if kind != "prismatic":
        d.turn("Motor", j, "60 rpm")
    d.require(NoInterference(name="Apart"))
    v = evaluator.evaluate(d.document).verdicts["apart"]
    assert (v.holds, v.value, v.error) == (True, 0.0, 0.0), v.words
    assert "1 intended contact" in v.words


@pytest.mark.parametrize("seed", range(60))
def test_neither_a_jump_from_rest_nor_rounding_is_taken_for_a_pole(seed: int) -> None:
    """What stands still for most of the cycle is usually zero: a jump to 1 is a thousand times that, and has a bound."""
    random = np.random.default_rng(seed)
    at = random.uniform(0.6, 0.9)
    jumps = extremes(lambda t: np.where(t > at, 1.0, 0.0), np.linspace(0.0, 1.0, 50))
    assert (jumps.low, jumps.high) == (0.0, 1.0)
    rounded = extremes(lambda t: 1e-14 * (np.modf(np.sin(t * 1e7) * 1e4)[0] > 0.8), np.linspace(0.0, 1.0, 50))
    assert rounded.high == 1e-14
    pole = extremes(lambda t: np.where(t > 0.5, 1 / np.where(t == at, np.nan, t - at), 0.0), np.linspace(0.0, 1.0, 50))
    assert (pole.low, pole.high) == (-np.inf, np.inf)


FORMULAS = [
    ("0.7 * sin(360 deg * time / (1 s)) + 0.3 * cos(1080 deg * time / (1 s))", lambda t: 0.7 * np.sin(2 * np.pi * t) + 0.3 * np.cos(6 * np.pi * t)),
    ("max(0, 1 - abs(time - 0.37 s) / (1 ms)) + 0.2 * time / (1 s)", lambda t: np.maximum(0, 1 - np.abs(t - 0.37) / 1e-3) + 0.2 * t),
    ("1 / (1 + ((time - 0.61 s) / (2 ms)) ^ 2) + atan(5 * time / (1 s))", lambda t: 1 / (1 + ((t - 0.61) / 2e-3) ** 2) + np.arctan(5 * t)),
    ("min(sqrt(time / (1 s) + 0.1), sin(720 deg * time / (1 s))) * tan(0.3 * time / (1 s))", lambda t: np.minimum(np.sqrt(t + 0.1), np.sin(4 * np.pi * t)) * np.tan(0.3 * t)),
    ("asin(0.9 * sin(360 deg * time / (1 s))) - acos(0.5 * time / (1 s))", lambda t: np.arcsin(0.9 * np.sin(2 * np.pi * t)) - np.arccos(0.5 * t)),
]  # fmt: skip


@pytest.mark.parametrize(("text", "same"), FORMULAS)
def test_no_formula_changes_faster_than_its_bound_nor_hides_between_its_marks(text: str, same) -> None:  # type: ignore[no-untyped-def]
    """Differences of the same in numpy never pass the bound; between marks, what five samples do not show is small."""
    edges = np.linspace(0.0, 1.0, 65)
    fast = steepest(text, {}, edges[:-1], edges[1:])
    t = np.linspace(0.0, 1.0, 64 * 2000 + 1)
    rate = np.abs(np.diff(same(t)) / np.diff(t)).reshape(64, 2000).max(axis=1)
    assert (rate <= fast * (1 + 1e-6) + 1e-6).all()
    marks = np.unique(np.concatenate([edges, hidden(text, {}, 1.0)]))
    assert len(marks) < 200
    whole = np.ptp(same(t))
    for low, high in itertools.pairwise(marks):
        few, many = (same(np.linspace(low, high, n)) for n in (5, 501))
        assert np.ptp(many) <= 4 * np.ptp(few) + 4e-3 * whole
