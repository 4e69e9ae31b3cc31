"""Motion laws against the characteristic values of VDI 2143 part 1 and against derivatives by sympy; programmes against both.

Characteristic values (peak velocity, acceleration and jerk of the unit rise) as printed there and in handbooks of cams: from
memory.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import sympy

import uhrwerk
from tests.mechanisms import mm
from uhrwerk import Draft, LinkBar, Pin
from uhrwerk.core.equations.law import Law
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.core.laws import LAWS, at, jump, peaks
from uhrwerk.core.laws.segment import SlideSegment, TurnSegment
from uhrwerk.core.motion.coordinate import interpolated
from uhrwerk.core.motion.drivers import SlideProgramme, TurnProgramme
from uhrwerk.core.quantity import Scope

INF = math.inf
#: VDI 2143: peaks of velocity, acceleration, jerk, and the digits that are printed
PRINTED = {
    "linear": (1.0, INF, INF),
    "quadratic": (2.0, 4.0, INF),
    "harmonic": (1.571, 4.935, INF),
    "cycloidal": (2.0, 6.283, 39.48),
    "poly345": (1.875, 5.774, 60.0),
    "poly4567": (2.188, 7.513, 52.5),
    "modified_sine": (1.760, 5.528, 69.47),
    "modified_trapezoid": (2.0, 4.888, 61.43),
}


def law(kind: str, **fields: object) -> uhrwerk.core.field.Numbers:
    return numbers(LAWS[kind].model_validate(fields), Scope.of({}, {}))


@pytest.mark.parametrize("kind", PRINTED)
def test_peaks_are_those_of_the_guideline(kind: str) -> None:
    found = peaks(law(kind))
    for mine, printed in zip((found.velocity, found.acceleration, found.jerk), PRINTED[kind], strict=True):
        digits = len(str(printed).partition(".")[2])
        assert mine == printed or abs(mine - printed) <= 0.5 * 10**-digits + 1e-6


def by_sympy(kind: str) -> list[tuple[float, float, sympy.Expr]]:
    """The law as sympy has it, from the acceleration where handbooks give that: pieces (from, to, expression)."""
    x, pi = sympy.symbols("x"), sympy.pi
    plain = {
        "linear": x, "harmonic": (1 - sympy.cos(pi * x)) / 2, "cycloidal": x - sympy.sin(2 * pi * x) / (2 * pi),
        "poly345": 10 * x**3 - 15 * x**4 + 6 * x**5, "poly4567": 35 * x**4 - 84 * x**5 + 70 * x**6 - 20 * x**7,
    }  # fmt: skip
    if kind in plain:
        return [(0.0, 1.0, plain[kind])]
    if kind == "quadratic":
        return [(0.0, 0.5, 2 * x**2), (0.5, 1.0, 1 - 2 * (1 - x) ** 2)]
    e = sympy.Rational(1, 8)
    rising = {
        "modified_sine": [(0, e, sympy.sin(4 * pi * x)), (e, 7 * e, sympy.sin(sympy.Rational(4, 3) * pi * x + pi / 3)), (7 * e, 1, sympy.sin(4 * pi * x - 2 * pi))],
        "modified_trapezoid": [(0, e, sympy.sin(4 * pi * x)), (e, 3 * e, sympy.Integer(1)), (3 * e, 5 * e, sympy.cos(4 * pi * x - 3 * pi / 2)), (5 * e, 7 * e, sympy.Integer(-1)), (7 * e, 1, -sympy.cos(4 * pi * x - 7 * pi / 2))],
    }[kind]  # fmt: skip
    speed, way, out = sympy.Integer(0), sympy.Integer(0), []
    for low, high, a in rising:
        v = sympy.integrate(a, (x, low, x)) + speed
        s = sympy.integrate(v, (x, low, x)) + way
        speed, way = v.subs(x, high), s.subs(x, high)
        out.append((float(low), float(high), s))
    return [(low, high, s / way) for low, high, s in out]


@pytest.mark.parametrize("kind", PRINTED)
def test_values_and_derivatives_are_those_of_sympy(kind: str) -> None:
    x = sympy.symbols("x")
    for low, high, s in by_sympy(kind):
        places = np.linspace(low + 1e-6, high - 1e-6, 41)
        for order in range(4):
            theirs = np.broadcast_to(sympy.lambdify(x, sympy.diff(s, x, order), "numpy")(places), places.shape)
            assert at(law(kind), places, order) == pytest.approx(theirs, rel=1e-10, abs=1e-9)


@pytest.mark.parametrize("kind", PRINTED)
def test_a_rise_goes_from_nothing_to_one_and_mirrors_itself(kind: str) -> None:
    places = np.linspace(0, 1, 101)
    found = at(law(kind), places)
    assert (found[0], found[-1]) == pytest.approx((0, 1), abs=1e-12)
    assert found + found[::-1] == pytest.approx(np.ones(101), abs=1e-12)


def test_a_spline_goes_through_its_points_as_scipy_has_it() -> None:
    from scipy.interpolate import CubicSpline

    n = law("spline", points={"a": {"time": "0.3", "way": "0.6"}, "b": {"time": "0.7", "way": "0.55"}})
    theirs = CubicSpline([0, 0.3, 0.7, 1], [0, 0.6, 0.55, 1], bc_type="clamped")
    places = np.linspace(0, 1, 77)
    for order in range(3):
        assert at(n, places, order) == pytest.approx(theirs(places, order), abs=1e-12)
    assert jump(n, 0.0, 1) == 0 < jump(n, 0.0, 2)
    late = law("spline", points={"a": {"time": "0.7"}, "b": {"time": "0.3"}})
    assert LAWS["spline"].faults(late) == [("points.b.time", "must lie after the one before it, between 0 and 1")]


# programmes


def slider(segments: dict[str, SlideSegment], duration: str = "2 s", **more: object) -> uhrwerk.core.document.Document:
    """A bar on a slide, pushed by a programme."""
    d = Draft("Slide")
    base = d.part("Base", "steel", LinkBar(distance="80 mm"))
    slide = d.part("Slide", "steel", Pin(diameter="6 mm", length="10 mm"), x="80 mm", z="30 mm")
    joint = d.prismatic("Slides", base["hole_1"], slide["axis"])
    d.drive(SlideProgramme(name="Programme", joint=joint, segments=segments, **more))  # type: ignore[arg-type]
    d.set("cycle.duration", duration)
    return d.document


def seg(to: float, over: str, kind: str = "poly345") -> SlideSegment:
    return SlideSegment(to=mm(to), over=over, law={"kind": kind})  # type: ignore[arg-type]


def expected(t: np.ndarray, order: int, kind: str) -> np.ndarray:
    """20 mm out over a third of 2 s, stay a sixth, back over a quarter, rest; from the unit rise."""
    out = np.where((t > 2 / 3) & (t <= 1), 0.02, 0.0) if order == 0 else np.zeros_like(t)
    for begin, span, start, way in ((0.0, 2 / 3, 0.0, 0.02), (1.0, 0.5, 0.02, -0.02)):
        on = (t > begin) & (t <= begin + span)
        x = (t[on] - begin) / span
        out[on] = (start if order == 0 else 0) + way * at(law(kind), x, order) / span**order
    return out


@pytest.mark.parametrize("kind", PRINTED)
def test_a_programme_moves_its_joint_by_the_law(evaluator: Evaluator, kind: str) -> None:
    document = slider({"out": seg(0.02, "120 deg", kind), "stay": seg(0.02, "1 s / 3"), "back": seg(0, "90 deg", kind)})
    e = evaluator.moved(document)
    assert e.problems == []
    (c,) = e.coordinates.values()
    assert e.motion is not None
    t = np.linspace(0.0003, 1.9997, 1999)
    error = 4 * e.motion.error + 1e-12
    assert np.abs(interpolated(c.whole, t) - expected(t, 0, kind)).max() < error < 4e-9
    far = np.min(np.abs(t[:, None] - np.array([0, 1 / 3, 2 / 3, 1, 1.25, 1.5])), axis=1) > 2e-3
    for order, size in ((1, 0.02 * 2 / 0.5), (2, 0.02 * 7.6 / 0.25)):
        gap = np.abs(interpolated(c.whole, t, order) - expected(t, order, kind))[far]
        assert gap.max() < size * 2e-3
    frames = np.abs(c.value - expected(e.motion.times, 0, kind))
    assert frames.max() < 1e-9
    jumps = [p.words for p in e.mechanism.remarks] if e.mechanism else []
    wanted = {"linear": "velocity", "quadratic": "acceleration", "harmonic": "acceleration"}.get(kind, "")
    assert all(f"Programme: {wanted} jumps from" in words for words in jumps)
    assert len(jumps) == {"linear": 4, "quadratic": 6, "harmonic": 4}.get(kind, 0)


def test_where_a_programme_jumps_is_named_with_its_amount(evaluator: Evaluator) -> None:
    e = evaluator.moved(slider({"out": seg(0.02, "90 deg", "linear"), "back": seg(0, "270 deg", "poly345")}))
    assert e.mechanism is not None
    assert [p.words for p in e.mechanism.remarks] == [
        "Programme: velocity jumps from 0.000 mm/s to 40.000 mm/s at 0° of the cycle",
        "Programme: velocity jumps from 40.000 mm/s to 0.000 mm/s at 90° of the cycle",
    ]


@pytest.mark.parametrize(
    ("segments", "more", "path", "words"),
    [
        ({"out": seg(0.02, "90 deg"), "on": seg(0.01, "90 deg")}, {}, "segments.on.to", "would jump by 10.00 mm"),
        ({"out": seg(0.02, "300 deg"), "back": seg(0, "0.5 s")}, {}, "segments.back.over", "30° (0.166667 s) more than one cycle has"),
        ({"out": seg(0.02, "0 deg"), "back": seg(0, "90 deg")}, {}, "segments.out.over", "nothing moves in no time"),
        ({"out": seg(0.02, "90 deg")}, {"start": "20 mm", "begins": "-3 deg"}, "begins", "must not be negative"),
    ],
)  # fmt: skip
def test_a_programme_that_does_not_close_is_told_by_its_field(
    evaluator: Evaluator, segments: dict, more: dict, path: str, words: str
) -> None:
    try:
        e = evaluator.moved(slider(segments, **more))
        told = [(p.path, p.words) for p in e.problems]
    except uhrwerk.ValidationFailed as error:
        told = error.faults
    assert any(p.endswith(path) and words in w for p, w in told)


def test_a_programme_may_begin_later_and_go_on(evaluator: Evaluator) -> None:
    """An indexer: 90 degrees in the second quarter of each cycle of 2 s, and on from there."""
    d = Draft("Index")
    base = d.part("Base", "steel", LinkBar(distance="80 mm"))
    table = d.part("Table", "steel", LinkBar(distance="40 mm"), z="8 mm")
    joint = d.revolute("Turns", base["hole_1"], table["hole_1"], offset="8 mm")
    segments = {"on": TurnSegment(to="90 deg", over="90 deg"), "rest": TurnSegment(to="90 deg", over="270 deg")}
    d.drive(TurnProgramme(name="Index", joint=joint, segments=segments, begins="90 deg", continues=True))
    d.set("cycle.duration", "2 s")
    e = evaluator.moved(d.document)
    assert e.problems == []
    (c,) = e.coordinates.values()
    found = np.degrees(interpolated(c.whole, np.array([0.2, 0.5, 0.75, 1.0, 1.7])))
    assert found == pytest.approx([0, 0, 45, 90, 90], abs=1e-7)
    driver = TurnProgramme.law(numbers(d.document.drivers["index"], Scope.of({}, {})), 2.0)
    assert isinstance(driver, Law)
    assert np.degrees(driver.value(np.array([2.2, 2.75, 4.75]))) == pytest.approx([90, 135, 225])


def test_two_programmes_on_one_clock(evaluator: Evaluator) -> None:
    """Each follows its own law, whatever the other does."""
    document = slider({"out": seg(0.02, "120 deg", "cycloidal"), "back": seg(0, "60 deg", "modified_sine")})
    both = Draft("Two")
    base = both.part("Base", "steel", LinkBar(distance="80 mm"))
    one = both.part("One", "steel", Pin(diameter="6 mm", length="10 mm"), z="30 mm")
    other = both.part("Other", "steel", LinkBar(distance="40 mm"), x="80 mm", z="8 mm")
    slide = both.prismatic("Slides", base["hole_1"], one["axis"])
    turn = both.revolute("Turns", base["hole_2"], other["hole_1"], offset="8 mm")
    both.drive(document.drivers["programme"].model_copy(update={"joint": slide}))
    rock = {
        "there": TurnSegment(to="400 deg", over="0.3 s"),
        "back": TurnSegment(over="0.5 s", law={"kind": "harmonic"}),
    }  # type: ignore[arg-type]
    both.drive(TurnProgramme(name="Rock", joint=turn, segments=rock, begins="0.7 s"))
    both.set("cycle.duration", "2 s")
    e = evaluator.moved(both.document)
    assert e.problems == []
    t = np.linspace(0.001, 1.999, 500)
    for joint, driver in ((slide, "programme"), (turn, "rock")):
        kind = both.document.drivers[driver]
        wanted = kind.law(numbers(kind, both.document.scope()), 2.0).value(t)
        assert np.abs(interpolated(e.coordinates[joint].whole, t) - wanted).max() < 2e-8
