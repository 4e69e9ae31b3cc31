"""Curves against closed forms: the four-bar's coupler point and transmission angle, a slider-crank, a gear's ratio, formulas.

Four-bar: loop closure solved as in R. L. Norton, Design of Machinery, ch. 4, 6, 7 (from memory; `four_bar_closed_form` shares
no code with the solver). Extreme transmission angles where crank and frame are in line: Alt (1932), Norton ch. 4; cosine law.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from scipy.interpolate import CubicSpline

from tests.mechanisms import four_bar, four_bar_closed_form, gear_train
from tests.witness import KINDS, Case
from uhrwerk import Draft, ValidationFailed
from uhrwerk.core.curves import (
    AngleCurve,
    CurveOf,
    DistanceCurve,
    FormulaCurve,
    GapCurve,
    JointCurve,
    MeasuredCurve,
    NotMeasured,
    PointAcceleration,
    PointCurve,
    PointSpeed,
    RatioCurve,
    TransmissionAngle,
)
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.document import Document, apply, parse, validate
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.evaluation.values import of_curve
from uhrwerk.core.joints import At
from uhrwerk.core.requirements.curve_limit import CurveLimit
from uhrwerk.core.stages.evaluation import Evaluation

SIZES = (0.03, 0.09, 0.06, 0.08)
A, B, C, D = SIZES


def with_curves(document: Document, *curves: CurveOf) -> Document:
    data = document.model_dump(mode="json")
    data["curves"] = {c.name: c.model_dump(mode="json") for c in curves}
    return validate(data)


def measured(document: Document, *curves: CurveOf) -> tuple[Evaluation, list[MeasuredCurve]]:
    e = Evaluator().moved(with_curves(document, *curves))
    runs = [evaluated_curve(e, c.name) for c in curves]
    assert all(isinstance(r, MeasuredCurve) for r in runs), runs
    return e, runs  # type: ignore[return-value]


def at(text: str) -> At:
    placed, datum = text.split(".")
    return At(placed=placed, datum=datum)


def close(got: np.ndarray, wanted: np.ndarray, part: float = 1e-9) -> None:
    assert np.abs(got - wanted).max() <= part * np.abs(wanted).max()


CRANK_PIN, KNEE, PIVOT = at("crank.hole_2"), at("coupler.hole_2"), at("ground.hole_2")


def test_a_point_of_the_coupler_agrees_with_the_closed_form_up_to_its_jerk() -> None:
    """Position, velocity, acceleration to 1e-9 of the largest; the jerk, a difference between frames, to 2 parts in 1000."""
    document = four_bar(*SIZES, frames=720)
    _, (x, y, speed, gain) = measured(
        document, PointCurve(name="x", at=KNEE, along="x"), PointCurve(name="y", at=KNEE, along="y"),
        PointSpeed(name="speed", at=KNEE), PointAcceleration(name="gain", at=KNEE),
    )  # fmt: skip
    w = 2 * np.pi
    f = four_bar_closed_form(*SIZES, w * x.times, w)
    p = D + C * np.exp(1j * f.rocker)
    v = 1j * f.rocker_rate * C * np.exp(1j * f.rocker)
    a = (1j * f.rocker_acceleration - f.rocker_rate**2) * C * np.exp(1j * f.rocker)
    for got, part in ((x, np.real), (y, np.imag)):
        close(got.series["value"], part(p))
        close(got.series["rate"], part(v))
        close(got.series["acceleration"], part(a))
        j = CubicSpline(x.times, part(a), bc_type="periodic")(x.times, 1)
        close(got.series["jerk"][2:-2], j[2:-2], 2e-3)
        assert got.estimated == {"jerk"}
    close(speed.series["value"], np.abs(v))
    close(gain.series["value"], np.abs(a))
    close(speed.series["rate"], np.real(a * np.conj(v)) / np.abs(v))
    assert gain.estimated == {"rate", "acceleration", "jerk"}


@pytest.mark.parametrize("frames", [12, 90, 720])
def test_transmission_angle_is_least_where_crank_and_frame_are_in_line(frames: int) -> None:
    """Cosine law: cos mu = (b^2 + c^2 - (d -+ a)^2) / 2bc; the least of both, whatever the frames."""
    curve = TransmissionAngle(name="mu", coupler=CRANK_PIN, joint=KNEE, pivot=PIVOT)
    _, (run,) = measured(four_bar(*SIZES, frames=frames), curve)
    ends = [np.arccos((B**2 + C**2 - (D + s * A) ** 2) / (2 * B * C)) for s in (-1, 1)]
    mu = [min(m, np.pi - m) for m in ends]
    found = run.extremes("value")
    assert found.low == pytest.approx(min(mu), abs=1e-7)
    assert found.low_time % 0.5 == pytest.approx(0.0, abs=1e-6)
    inside = (B**2 + C**2 - (A**2 + D**2 - 2 * A * D * np.cos(2 * np.pi * run.times))) / (2 * B * C)
    close(run.series["value"], np.arccos(np.abs(inside)), 1e-8)


def test_distances_and_angles_of_the_four_bar() -> None:
    _, (far, along, across, angle, turned) = measured(
        four_bar(*SIZES), DistanceCurve(name="far", a=CRANK_PIN, b=PIVOT), DistanceCurve(name="along", a=CRANK_PIN, b=PIVOT, measure="along_the_axis"),
        DistanceCurve(name="across", a=CRANK_PIN, b=PIVOT, measure="across_the_axis"),
        AngleCurve(name="angle", a=CRANK_PIN, b=KNEE), AngleCurve(name="turned", a=at("ground.hole_1"), b=CRANK_PIN, measure="turn_about_the_axis"),
    )  # fmt: skip
    t = 2 * np.pi * far.times
    plane = np.sqrt(A**2 + D**2 - 2 * A * D * np.cos(t))
    close(across.series["value"], plane)
    close(across.series["rate"], A * D * np.sin(t) * 2 * np.pi / plane)
    close(far.series["value"], np.sqrt(plane**2 + along.series["value"] ** 2))
    assert np.ptp(along.series["value"]) < 1e-12
    assert np.abs(angle.series["value"]).max() < 1e-7  # parallel axes
    close(turned.series["value"] - turned.series["value"][0], t, 1e-9)
    assert turned.extremes("value").high == pytest.approx(2 * np.pi + turned.series["value"][0], abs=1e-8)


def test_a_coordinate_is_counted_over_many_turns_and_the_ratio_of_gears_is_that_of_their_teeth() -> None:
    document = gear_train()
    _, (turn, ratio) = measured(
        document, JointCurve(name="turn", joint="pinion_in_plate"), RatioCurve(name="ratio", joint="pinion_in_plate", over="wheel_in_plate"),
    )  # fmt: skip
    assert np.ptp(turn.series["value"]) == pytest.approx(3 * 2 * np.pi, rel=1e-9)
    assert np.abs(ratio.series["value"] + 3).max() < 1e-9
    assert np.abs(ratio.series["rate"]).max() < 1e-6


def test_the_curves_of_a_long_cycle_end_after_whole_periods_and_say_so() -> None:
    document = four_bar(*SIZES, speed="60000 rpm", frames=12)
    _, (run,) = measured(document, PointCurve(name="x", at=KNEE))
    assert not run.whole
    want = D + C * np.cos(four_bar_closed_form(*SIZES, np.linspace(0, 2 * np.pi, 200001), 1.0).rocker)
    assert run.extremes("value").low == pytest.approx(want.min(), abs=1e-8)
    assert run.extremes("value").high == pytest.approx(want.max(), abs=1e-8)


@pytest.mark.parametrize(
    ("curve", "holds"),
    [
        (JointCurve(name="mu", joint="crank_in_ground"), None), (AngleCurve(name="mu", a=at("ground.hole_1"), b=CRANK_PIN, measure="turn_about_the_axis"), None),
        (PointCurve(name="mu", at=KNEE), True),
    ],
)  # fmt: skip
def test_of_a_cycle_too_long_to_be_followed_only_what_repeats_may_hold(curve: CurveOf, holds: bool | None) -> None:
    """A crank of 1,000 turns passes 900 turns long after the stations that are kept: no verdict may say that it does not."""
    document = with_curves(four_bar(*SIZES, speed="60000 rpm", frames=12), curve)
    unit = "900 rev" if curve.dimension(document) == "angle" else "900 mm"
    e = Evaluator().moved(limit(document, at_most=unit))
    found = evaluated_curve(e, "mu")
    assert isinstance(found, MeasuredCurve)
    assert not found.whole
    assert e.document.requirements["asked"].judge(e).holds is holds  # type: ignore[attr-defined]
    few = Evaluator().moved(limit(document, at_most="2 rev" if "rev" in unit else "1 mm"))
    assert few.document.requirements["asked"].judge(few).holds is False  # type: ignore[attr-defined]


def test_a_formula_of_curves_is_differentiated_exactly() -> None:
    """The squared distance of two points is that of the curve; power of a constant force is force times speed."""
    far = DistanceCurve(name="far", a=CRANK_PIN, b=PIVOT, measure="across_the_axis")
    turn = JointCurve(name="turn", joint="rocker_in_ground")
    lift = FormulaCurve(name="lift", formula="40 mm * sin(turn) + far / 2")
    speed = FormulaCurve(name="speed", formula="far_rate * 2 + 5 mm/s")
    _, (f, t, r, s) = measured(four_bar(*SIZES), far, turn, lift, speed)
    assert (r.dimension, s.dimension) == ("length", "sliding speed")
    v = t.series
    close(r.series["value"], 0.04 * np.sin(v["value"]) + f.series["value"] / 2)
    close(r.series["rate"], 0.04 * np.cos(v["value"]) * v["rate"] + f.series["rate"] / 2)
    wanted = 0.04 * (np.cos(v["value"]) * v["acceleration"] - np.sin(v["value"]) * v["rate"] ** 2)
    close(r.series["acceleration"], wanted + f.series["acceleration"] / 2)
    close(s.series["value"], 2 * f.series["rate"] + 0.005)
    close(s.series["rate"], 2 * f.series["acceleration"])
    assert s.estimated == {"acceleration", "jerk"}


@pytest.mark.parametrize(
    ("formula", "reason"),
    [
        ("far + 3 deg", "mixes units"), ("gone * 2", "neither a parameter nor a unit"), ("far * far * far * far", "no unit here"),
        ("itself + far", "refers to itself"), ("far *", "cannot be read"),
    ],
)  # fmt: skip
def test_a_formula_that_cannot_be_is_refused(formula: str, reason: str) -> None:
    far = DistanceCurve(name="far", a=CRANK_PIN, b=PIVOT)
    with pytest.raises(ValidationFailed, match=r"curves\.itself\.formula") as refused:
        with_curves(four_bar(*SIZES), far, FormulaCurve(name="itself", formula=formula))
    assert reason in str(refused.value)


def test_a_curve_that_a_formula_uses_is_not_taken_away() -> None:
    far = DistanceCurve(name="far", a=CRANK_PIN, b=PIVOT)
    document = with_curves(four_bar(*SIZES), far, FormulaCurve(name="half", formula="far / 2"))
    with pytest.raises(ValidationFailed, match="far"):
        apply(document, parse({"kind": "remove", "path": "curves.far"}))
    assert "half" not in apply(document, parse({"kind": "remove", "path": "curves.half"})).curves


def limit(document: Document, **asked: str) -> Document:
    data = document.model_dump(mode="json")
    data["requirements"] = {"asked": CurveLimit(name="Asked", curve="mu", **asked).model_dump(mode="json")}  # type: ignore[arg-type]
    return validate(data)


@pytest.mark.parametrize("frames", [12, 360])
def test_a_limit_is_judged_at_the_true_extreme_between_frames(frames: int) -> None:
    """The least transmission angle is 31.585 deg at this size by the cosine law: a thousandth less holds, more fails."""
    mu = TransmissionAngle(name="mu", coupler=CRANK_PIN, joint=KNEE, pivot=PIVOT)
    document = with_curves(four_bar(*SIZES, frames=frames, start="33 deg"), mu)
    least = float(np.degrees(np.arccos((B**2 + C**2 - (D - A) ** 2) / (2 * B * C))))
    for asked, holds in ((least - 0.001, True), (least + 0.001, False)):
        e = Evaluator().evaluate(limit(document, at_least=f"{asked!r} deg"))
        v = e.verdicts["asked"]
        assert v.holds is holds, v.words
        assert v.value == pytest.approx(np.radians(least), abs=v.error + 1e-9)
    rate = Evaluator().evaluate(limit(document, of="rate", at_most="1 rpm")).verdicts["asked"]
    assert rate.holds is False
    assert rate.dimension == "turning speed"


def test_a_limit_of_another_dimension_is_refused_by_its_field() -> None:
    mu = TransmissionAngle(name="mu", coupler=CRANK_PIN, joint=KNEE, pivot=PIVOT)
    document = with_curves(four_bar(*SIZES), mu)
    with pytest.raises(ValidationFailed, match=r"requirements\.asked\.at_most"):
        limit(document, at_most="3 mm")
    with pytest.raises(ValidationFailed, match=r"requirements\.asked\.at_most: give at least one"):
        limit(document)


def test_what_cannot_be_measured_says_why() -> None:
    draft = Draft("Still")
    draft.document = four_bar(*SIZES)
    e = Evaluator().moved(with_curves(four_bar(*SIZES), JointCurve(name="slide", joint="crank_in_ground", of="slide")))
    found = evaluated_curve(e, "slide")
    assert isinstance(found, NotMeasured)
    assert str(found) == "nothing slides in Crank in ground"


@pytest.mark.parametrize("frames", [12, 57, 360])
def test_a_corner_is_not_overshot(frames: int) -> None:
    """This four-bar's angle at the knee passes 90 deg: the transmission angle has a corner there and is never more."""
    a, b, c, d = 0.022, 0.088, 0.062, 0.0898
    curve = TransmissionAngle(name="mu", coupler=CRANK_PIN, joint=KNEE, pivot=PIVOT)
    pair = FormulaCurve(name="folded", formula="abs(mu - 70 deg)")
    _, (run, folded) = measured(four_bar(a, b, c, d, frames=frames), curve, pair)
    theta = np.linspace(0, 2 * np.pi, 100001)
    inside = np.arccos((b**2 + c**2 - (a**2 + d**2 - 2 * a * d * np.cos(theta))) / (2 * b * c))
    want = np.minimum(inside, np.pi - inside)
    assert inside.max() > np.pi / 2 > inside.min()
    found = run.extremes("value")
    assert found.low == pytest.approx(want.min(), abs=1e-7)
    assert np.pi / 2 - found.high_missed <= found.high <= np.pi / 2
    least = folded.extremes("value")
    assert least.low >= 0
    assert least.low - least.low_missed <= np.abs(want - np.radians(70)).min() + 1e-9
    assert least.high + least.high_missed >= np.abs(want - np.radians(70)).max() - 1e-9


def test_no_limit_is_said_to_hold_where_a_dense_closed_form_breaks_it() -> None:
    """100 random crank-rockers, starts, speeds and frames (12 to 720); limits within 2 percent of the true extreme."""
    random = np.random.default_rng(20261126)
    told = {True: 0, False: 0, None: 0}
    for _ in range(100):
        a, b, c, d = random.uniform(15, 30), random.uniform(70, 100), random.uniform(50, 80), random.uniform(75, 100)
        if a + max(b, c, d) > b + c + d - max(b, c, d) - 1:
            continue  # no crank-rocker by Grashof
        a, b, c, d = (x / 1e3 for x in (a, b, c, d))
        turns = float(random.choice([0.35, 1.0, 2.5]))
        begin = float(random.uniform(0, 360))
        document = four_bar(
            a, b, c, d, speed=f"{60 * turns!r} rpm", start=f"{begin!r} deg", frames=int(random.integers(12, 720))
        )
        theta = np.radians(begin) + np.linspace(0, 2 * np.pi * turns, 60001)
        w = 2 * np.pi * turns
        f = four_bar_closed_form(a, b, c, d, theta, w)
        knee = d + c * np.exp(1j * f.rocker)
        inside = np.arccos((b**2 + c**2 - (a**2 + d**2 - 2 * a * d * np.cos(theta))) / (2 * b * c))
        curves: dict[str, tuple[CurveOf, str, np.ndarray, str]] = {
            "mu": (TransmissionAngle(name="mu", coupler=CRANK_PIN, joint=KNEE, pivot=PIVOT), "value", np.minimum(inside, np.pi - inside), "rad"),
            "x": (PointCurve(name="mu", at=KNEE), "value", knee.real, "m"),
            "v": (PointCurve(name="mu", at=KNEE), "rate", (1j * f.rocker_rate * c * np.exp(1j * f.rocker)).real, "m/s"),
            "s": (PointSpeed(name="mu", at=KNEE), "value", np.abs(f.rocker_rate) * c, "m/s"),
        }  # fmt: skip
        curve, of, want, unit = curves[str(random.choice(list(curves)))]
        side = str(random.choice(["at_least", "at_most"]))
        true = float(want.min() if side == "at_least" else want.max())
        if of == "value" and curve.kind == "point_speed" and side == "at_least" and np.ptp(np.sign(f.rocker_rate)):
            true = 0.0  # it turns back between two of the witness's moments
        if curve.kind == "transmission_angle" and side == "at_most" and inside.max() > np.pi / 2 > inside.min():
            true = np.pi / 2  # it has its corner there
        asked = true + float(random.normal()) * 0.02 * float(np.ptp(want) or 1.0)
        e = Evaluator().moved(limit(with_curves(document, curve), of=of, **{side: f"{asked!r} {unit}"}))
        v = e.document.requirements["asked"].judge(e)  # type: ignore[attr-defined]
        told[v.holds] += 1
        holds = true >= asked if side == "at_least" else true <= asked
        if v.holds is not None:
            assert v.holds == holds or abs(true - asked) < 1e-6 * abs(true), (v.words, true, asked)
            assert abs(v.value - true) <= v.error + 1e-6 * np.abs(want).max(), (v, true)
    print(told)
    assert told[True] > 20
    assert told[False] > 20
    assert told[None] < 20


@pytest.mark.parametrize("kind", KINDS)
def test_a_clearance_over_the_cycle_is_that_of_the_witness(
    evaluator: Evaluator, kind: Callable[[np.random.Generator], Case]
) -> None:
    """Bars and posts by closed forms (tests/witness.py): at the frames, within what triangles may stray."""
    random = np.random.default_rng(11)
    apart = 0
    for _ in range(6):
        case = kind(random)
        gap = case.document.requirements["gap"]
        document = with_curves(case.document, GapCurve(name="gap", a=gap.a, b=gap.b))  # type: ignore[attr-defined]
        e = evaluator.evaluate(document)
        run = evaluated_curve(e, "gap")
        assert isinstance(run, MeasuredCurve), run
        theirs = np.maximum(case.distances(run.times), 0)
        ours = run.series["value"]
        assert np.abs(ours - theirs).max() < 2e-5 + 1e-3 * theirs.max()
        apart += int((theirs > 0).sum())
        assert run.extremes("value").basis == "sampled at the frames"
    assert apart > 100


def test_what_is_known_at_the_frames_alone_is_no_limit_and_no_formula(evaluator: Evaluator) -> None:
    case = KINDS[0](np.random.default_rng(2))
    gap = case.document.requirements["gap"]
    curve = GapCurve(name="gap", a=gap.a, b=gap.b)  # type: ignore[attr-defined]
    document = with_curves(case.document, curve, FormulaCurve(name="twice", formula="2 * gap"))
    asked = document.model_dump(mode="json")
    asked["requirements"]["narrow"] = CurveLimit(name="Narrow", curve="gap", at_least="1 mm").model_dump(mode="json")
    with pytest.raises(ValidationFailed, match="known between them"):
        validate(asked)
    e = evaluator.evaluate(document)
    assert isinstance(evaluated_curve(e, "twice"), NotMeasured)
    assert "known only at the frames" in str(evaluated_curve(e, "twice"))
    assert isinstance(evaluated_curve(evaluator.moved(document), "gap"), NotMeasured)
    told = [v.value for v in of_curve(e, "gap")]
    assert document.placed[gap.a.placed].name in told  # type: ignore[attr-defined]
