"""Drivers by formulas of the time and by tables, against closed forms, sympy and scipy."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import sympy
from scipy.interpolate import CubicSpline

from tests.witness import segments_apart
from uhrwerk import (
    Bore,
    Clearance,
    Cycle,
    Draft,
    FramePlate,
    LinkBar,
    NoInterference,
    Pin,
    TurnSegment,
    ValidationFailed,
)
from uhrwerk.core.document import Document, apply, parse, validate
from uhrwerk.core.document.driver import Driver
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.motion.coordinate import interpolated
from uhrwerk.core.motion.drivers import SlideFormula, SlideTable, TurnFormula, TurnProgramme, TurnTable
from uhrwerk.core.quantity import FormulaError, ureg
from uhrwerk.core.quantity.over_time import OverTime
from uhrwerk.core.stages.evaluation import Evaluation


def driven(
    driver: type[Driver], duration: str = "2 s", parameters: dict[str, str] | None = None, **fields: Any
) -> Document:
    d = Draft("Driven")
    for name, formula in (parameters or {}).items():
        d.parameter(name, formula)
    base = d.part("Base", "steel", LinkBar(distance="80 mm"))
    if driver.coordinate == "slide":
        joint = d.prismatic("Moves", base["hole_1"], d.part("Slide", "steel", Pin())["axis"])
    else:
        joint = d.revolute("Moves", base["hole_1"], d.part("Arm", "steel", LinkBar())["hole_1"], offset="8 mm")
    d.drive(driver(name="Motor", joint=joint, **fields))  # type: ignore[call-arg]
    d.set("cycle.duration", duration)
    return d.document


def along(e: Evaluation, t: np.ndarray, order: int = 0) -> np.ndarray:
    assert e.problems == []
    (c,) = e.coordinates.values()
    return interpolated(c.whole, t, order)


@pytest.mark.parametrize(
    ("text", "theirs"),
    [
        ("rad * sin(180 deg/s * time)^2", "sin(pi*x)**2"),
        ("1 rad * (time / (1 s))^3 - 2 rad * sqrt(1 + time / (4 s))", "x**3 - 2*sqrt(1 + x/4)"),
        ("(3 rad/s * time + 1 rad) / (2 + cos(200 deg/s * time))", "(3*x + 1)/(2 + cos(10*pi/9*x))"),
        ("atan(2 * time / (1 s)) - asin(time / (9 s)) * 2 + acos(time / (8 s))", "atan(2*x) - 2*asin(x/9) + acos(x/8)"),
        ("abs(tan(20 deg/s * time)) * 1 rad + 1 rad / (1 + (time / (1 s))^2)", "tan(pi/9*x) + 1/(1 + x**2)"),
    ],
)  # fmt: skip
def test_value_rate_and_acceleration_of_a_formula_are_those_of_sympy(text: str, theirs: str) -> None:
    x, t = sympy.symbols("x"), np.linspace(0.01, 1.9, 57)
    found = OverTime.of(text.replace("rad *", "1 rad *", 1) if text.startswith("rad") else text, "angle", {}).at(t)
    for order in range(3):
        expected = sympy.lambdify(x, sympy.diff(sympy.sympify(theirs), x, order), "numpy")(t)
        assert found[order] == pytest.approx(expected, rel=1e-11, abs=1e-11)


def test_the_smaller_and_the_larger_of_several_with_parameters() -> None:
    known = {"most": ureg.Quantity(12, "mm")}
    t = np.array([0.1, 0.5, 1.5])
    value, rate, _ = OverTime.of("max(min(20 mm/s * time, most), 3 mm)", "length", known).at(t)
    assert value == pytest.approx([0.003, 0.01, 0.012])
    assert rate == pytest.approx([0, 0.02, 0])


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("20 * sin(90 deg/s * time)", "gives a plain number: write its unit"),
        ("20 mm * time", "gives length * time, but length is required"),
        ("20 mm * floor(time / (1 s))", "calls a function that jumps with the time"),
        ("20 mm * 2^(time / (1 s))", "has the time in an exponent"),
        ("20 mm * now", "uses 'now'"),
        ("20 mm + time", "mixes units"),
    ],
)
def test_a_formula_that_gives_no_way_is_refused_in_words(text: str, words: str) -> None:
    with pytest.raises((FormulaError, ValidationFailed)) as told:
        driven(SlideFormula, way=text)
    assert words in str(told.value)


def test_a_joint_follows_a_formula_of_time_and_parameters(evaluator: Evaluator) -> None:
    way = "-most * cos(360 deg * time / (0.5 s)) + 3 in"
    e = evaluator.moved(driven(SlideFormula, way=way, parameters={"most": "12 mm"}))
    t, w = np.linspace(0, 2, 777), 4 * math.pi
    assert np.abs(along(e, t) - (0.0762 - 0.012 * np.cos(w * t))).max() < 2e-9
    assert np.abs(along(e, t, 1) - 0.012 * w * np.sin(w * t)).max() < 1e-6 * 0.012 * w
    assert np.abs(along(e, t, 2) - 0.012 * w**2 * np.cos(w * t)).max() < 1e-4 * 0.012 * w**2


def test_turns_of_a_formula_are_counted(evaluator: Evaluator) -> None:
    e = evaluator.moved(driven(TurnFormula, way="500 deg + 900 deg * sin(180 deg * time / (2 s))"))
    t = np.linspace(0, 2, 99)
    assert np.degrees(along(e, t)) == pytest.approx(500 + 900 * np.sin(np.pi * t / 2), abs=1e-6)


@pytest.mark.parametrize(
    ("way", "when"),
    [("sqrt(2 - time / (1 s))", "2 s"), ("sqrt(time / (1 s))", "0 s"), ("1 / (time / (1 s) - 1)", "1 s")],
)
def test_a_formula_without_a_value_at_some_moment_is_told(evaluator: Evaluator, way: str, when: str) -> None:
    e = evaluator.moved(driven(SlideFormula, way=f"20 mm * {way}", duration="4 s"))
    assert [p.path for p in e.problems] == ["drivers.motor.way"]
    assert f"has no finite value, rate or acceleration at {when}" in e.problems[0].words


ROWS = "deg, mm\n0, 5\n100, 20\n150, 18\n220, 30\n360, 5"


def test_a_table_is_followed_on_the_periodic_spline_of_scipy(evaluator: Evaluator) -> None:
    e = evaluator.moved(driven(SlideTable, rows=ROWS))
    x, y = np.array([[0, 5], [100, 20], [150, 18], [220, 30], [360, 5]]).T
    theirs = CubicSpline(x / 180, y / 1e3, bc_type="periodic")
    t = np.linspace(0, 2, 555)
    assert np.abs(along(e, t) - theirs(t)).max() < 2e-9
    assert np.abs(along(e, t, 1) - theirs(t, 1)).max() < 1e-5 * np.abs(theirs(t, 1)).max()


def test_a_table_in_seconds_stands_at_its_ends(evaluator: Evaluator) -> None:
    e = evaluator.moved(driven(TurnTable, rows="s, rev; 0.5, 0; 1.0, 0.25; 1.5, 1.5"))
    theirs = CubicSpline([0.5, 1.0, 1.5], [0, np.pi / 2, 3 * np.pi], bc_type="clamped")
    t = np.linspace(0, 2, 201)
    expected = theirs(np.clip(t, 0.5, 1.5))
    assert along(e, t) == pytest.approx(expected, abs=1e-7)


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ("deg, mm\n0, 0\n10, x\n20, 0", "line 3 must hold two numbers"),
        ("deg, mm\n0, 0\n10, nan\n20, 0", "line 3 must hold two finite numbers"),
        ("deg, mm\n0, 0\n10, 1\n10, 0", "line 4 must be later"),
        ("deg, deg\n0, 0\n10, 1\n20, 0", "line 1 must name the units"),
        ("0, 0\n10, 1\n20, 0\n30, 0", "line 1 must name the units"),
        ("deg, mm\n0, 0", "needs a line with the units"),
        ("deg, mm\n0, 0, 1\n10, 0\n20, 0", "line 2 must hold two numbers"),
        ("deg, mm\n" + "\n".join(f"{k}, 0" for k in range(2001)), "more than 2000 lines"),
    ],
)
def test_a_table_that_cannot_be_read_names_its_line(evaluator: Evaluator, rows: str, words: str) -> None:
    e = evaluator.moved(driven(SlideTable, rows=rows))
    assert e.problems[0].path == "drivers.motor.rows"
    assert words in e.problems[0].words


def swept(random: np.random.Generator) -> tuple[Document, np.ndarray, float]:
    """Two bars on axes of their own, each by a programme of its own on one clock; the distances of their outlines at 40,000 moments by
    the closed form, and the distance asked for, m."""
    one, other, apart = 0.04, 0.03, float(random.choice([0.062, 0.066, 0.072, 0.078]))
    laws = [
        str(x)
        for x in random.choice(["linear", "quadratic", "harmonic", "cycloidal", "poly345", "modified_trapezoid"], 4)
    ]
    starts = random.uniform(0, 360, 2).tolist()
    ways = random.uniform(40, 300, 2) * random.choice([-1, 1], 2)
    ways, spans, begins = ways.tolist(), random.uniform(20, 150, (2, 2)).tolist(), random.uniform(0, 60, 2).tolist()
    limit = abs(float(random.normal(0, 0.002)))
    d = Draft("Two programmes")
    bar = {"width": "10 mm", "bore_1": "4 mm", "bore_2": "4 mm"}
    ground = d.part("Ground", "steel", LinkBar(distance=f"{apart!r} m", **bar), z="-20 mm")
    for k, (name, long) in enumerate((("Left", one), ("Right", other))):
        start = f"{starts[k]!r} deg"
        part = d.part(name, "steel", LinkBar(distance=f"{long!r} m", **bar), x=f"{k * apart!r} m", turn_z=start)
        joint = d.revolute(f"{name} turns", ground[f"hole_{k + 1}"], part["hole_1"], offset="20 mm")
        segments = {
            "there": TurnSegment(
                to=f"{starts[k] + ways[k]!r} deg", over=f"{spans[k][0]!r} deg", law={"kind": laws[2 * k]}
            ),
            "back": TurnSegment(to=start, over=f"{spans[k][1]!r} deg", law={"kind": laws[2 * k + 1]}),
        }  # type: ignore[arg-type]
        d.drive(
            TurnProgramme(
                name=f"{name} motor", joint=joint, start=start, begins=f"{begins[k]!r} deg", segments=segments
            )
        )
    d.set("cycle", Cycle(duration="0.4 s", frames=int(random.choice([12, 90, 360]))).model_dump(mode="json"))
    d.require(NoInterference(name="Apart"))
    d.require(Clearance(name="Gap", a=Of(placed="left"), b=Of(placed="right"), at_least=f"{limit!r} m"))
    t = np.linspace(0, 360, 40_001)
    ends = []
    for k, long in enumerate((one, other)):
        u = np.mod(t - begins[k], 360)
        angle = np.full(len(t), starts[k])
        there, back = spans[k]
        rise = law_at(laws[2 * k], np.clip(u / there, 0, 1))
        fall = law_at(laws[2 * k + 1], np.clip((u - there) / back, 0, 1))
        angle = angle + ways[k] * np.where(u <= there, rise, 1 - fall)
        tip = long * np.exp(1j * np.radians(angle))
        ends += [k * apart + 0 * tip, k * apart + tip]
    return d.document, segments_apart(*ends) - 0.010, limit


def law_at(kind: str, x: np.ndarray) -> np.ndarray:
    """The unit rise of each law by its formula."""
    turn = 2 * np.pi
    if kind == "modified_trapezoid":
        half = np.minimum(x, 1 - x)
        a = 8 * np.pi / (2 + np.pi)
        u = half - 1 / 8
        v0, s0 = a / (4 * np.pi), a * (1 / (32 * np.pi) - 1 / (16 * np.pi**2))
        w = half - 3 / 8
        v1, s1 = v0 + a / 4, s0 + v0 / 4 + a / 32
        rise = np.where(
            half < 1 / 8, a * (half / (4 * np.pi) - np.sin(4 * np.pi * half) / (16 * np.pi**2)),
            np.where(half < 3 / 8, s0 + v0 * u + a * u**2 / 2, s1 + v1 * w + a * (1 - np.cos(4 * np.pi * w)) / (16 * np.pi**2)),
        )  # fmt: skip
        return np.where(x < 0.5, rise, 1 - rise)
    return {
        "linear": x, "quadratic": np.where(x < 0.5, 2 * x**2, 1 - 2 * (1 - x) ** 2), "harmonic": (1 - np.cos(np.pi * x)) / 2,
        "cycloidal": x - np.sin(turn * x) / turn, "poly345": 10 * x**3 - 15 * x**4 + 6 * x**5,
    }[kind]  # fmt: skip


def test_two_programmes_on_one_clock_are_proved_as_constant_speed_is(evaluator: Evaluator) -> None:
    """Thirty random pairs of programmes, seed 11: no verdict holds where the witness fails, no value lies outside its ±."""
    random = np.random.default_rng(11)
    told = {True: 0, False: 0, None: 0}
    for k in range(30):
        document, distances, limit = swept(random)
        e = evaluator.evaluate(document)
        assert e.problems == [], f"case {k}: {e.problems}"
        gap, apart, truth = e.verdicts["gap"], e.verdicts["apart"], float(distances.min())
        told[gap.holds] += 1
        about = f"case {k}: witness {truth * 1e3:.4f} mm, limit {limit * 1e3:.4f} mm; {gap.words} ± {gap.error * 1e3:.4f} mm; {apart.words}"
        assert not (gap.holds and truth < limit - 2e-6), about
        assert not (apart.holds and truth < -6e-6), about
        assert not (gap.holds is False and truth > limit + gap.error + 2e-6), about
        assert not (apart.holds is False and truth > 2e-6), about
        if gap.value is not None and truth > 2e-6:
            assert abs(gap.value - truth) <= gap.error + 3e-6, about  # the witness looks at 40,000 moments
    assert told[True] > 4
    assert told[False] > 4
    assert told[None] < 4


def led(kind: str, way: str, lead: str = "turning") -> Document:
    """Two arms in a plate, or an arm and a tappet: the first driven, the second after it."""
    d = Draft("One after another")
    bores = {n: Bore(x=x, y="40 mm", diameter="6 mm") for n, x in (("a", "30 mm"), ("b", "90 mm"))}
    base = d.part("Base", "steel", FramePlate(length="120 mm", width="80 mm", bores=bores))
    arm = d.part("Arm", "steel", LinkBar(distance="20 mm"), x="30 mm", y="40 mm", z="12 mm")
    first = d.revolute("First", base["a"], arm["hole_1"], offset="12 mm")
    other = d.part("Other", "steel", LinkBar(distance="20 mm"), x="90 mm", y="40 mm", z="30 mm")
    held = d.prismatic if kind == "slide_after" else d.revolute
    second = held("Second", base["b"], other["hole_1"], **({} if kind == "slide_after" else {"offset": "30 mm"}))
    if lead == "turning":
        d.turn("Motor", first, "90 rpm", "20 deg")
    else:
        segments = {"out": TurnSegment(to="70 deg", over="150 deg"), "back": TurnSegment(over="100 deg")}
        d.drive(TurnProgramme(name="Motor", joint=first, segments=segments))
    data = d.document.model_dump(mode="json")
    data["drivers"]["led"] = {"kind": kind, "name": "Led", "joint": second, "after": "motor", "way": way}
    return validate(data)


def test_a_joint_follows_another_drive_by_the_chain_rule(evaluator: Evaluator) -> None:
    """By sympy: value, rate and acceleration of f(a(t))."""
    t = sympy.Symbol("t")
    a = sympy.rad(20) + 3 * sympy.pi * t
    for kind, way, formula in (
        ("turn_after", "other / 3 + 12 deg * sin(2 * other)", a / 3 + sympy.rad(12) * sympy.sin(2 * a)),
        ("slide_after", "20 mm * cos(other) + 2 mm/rad * other", sympy.Rational(20, 1000) * sympy.cos(a) + a * sympy.Rational(2, 1000)),
    ):  # fmt: skip
        e = evaluator.moved(led(kind, way))
        assert e.problems == []
        c = e.coordinates["second"]
        for order, got in enumerate((c.value, c.rate, c.acceleration)):
            want = sympy.lambdify(t, sympy.diff(formula, t, order), "numpy")(e.motion.times)  # type: ignore[union-attr]
            assert np.abs(got - want).max() < 1e-9 * max(1.0, float(np.abs(want).max())), (kind, order)


def test_one_drive_after_a_programme_stays_where_that_stays(evaluator: Evaluator) -> None:
    e = evaluator.moved(led("turn_after", "-2 * other", "programme"))
    one, other = (e.coordinates[k].value for k in ("first", "second"))
    assert np.abs(other + 2 * one).max() < 1e-9
    assert np.ptp(one) == pytest.approx(np.radians(70), abs=1e-6)


@pytest.mark.parametrize(
    ("kind", "way", "reason"),
    [
        ("turn_after", "other * other", "angle is required"), ("slide_after", "other / 2", "length is required"), ("turn_after", "0.5", "plain number"),
        ("turn_after", "others / 2", "neither a parameter nor a unit"), ("turn_after", "round(other, 1 deg)", "jumps"),
    ],
)  # fmt: skip
def test_a_way_that_cannot_be_is_refused_by_its_field(kind: str, way: str, reason: str) -> None:
    with pytest.raises(ValidationFailed, match=r"drivers\.led\.way") as told:
        led(kind, way)
    assert reason in str(told.value)


def test_drives_in_a_circle_and_ways_without_a_value_are_told(evaluator: Evaluator) -> None:
    data = led("turn_after", "other").model_dump(mode="json")
    data["drivers"]["motor"] = data["drivers"]["led"] | {"joint": "first", "after": "led"}
    with pytest.raises(ValidationFailed, match="in a circle"):
        validate(data)
    e = evaluator.moved(led("turn_after", "acos(other / (180 deg))"))
    assert "has no finite value" in e.problems[0].words
    gone = apply(led("turn_after", "other / 2"), parse({"kind": "remove", "path": "drivers.motor"}))
    assert gone.drivers == {}
