"""Leaf and spiral springs against the bent strip's differential equation, solved by scipy, and against the motion that they follow.

The elastica: E I theta'' = -F cos theta for a cantilever pressed at its end; a spiral under a torque alone is bent equally
everywhere, so its ends turn by M L / (E I) (Timoshenko, Strength of Materials, parts I and II: from memory).
"""

from __future__ import annotations

import numpy as np
import pytest
from scipy.integrate import quad, solve_ivp
from scipy.optimize import brentq

from tests.cams import sliding, swinging
from tests.mechanisms import four_bar, four_bar_closed_form
from tests.reference.test_cams import TURN, lift, swing
from uhrwerk import Draft, Pin
from uhrwerk.core.curves import SpringCurve
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.document import Document
from uhrwerk.core.elements.cams import SlidingRoller, SwingingRoller
from uhrwerk.core.elements.cams.plate_cam import traced
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.evaluation.values import of_joint
from uhrwerk.core.field import Numbers, numbers
from uhrwerk.core.forces.inverse_dynamics import contact_force
from uhrwerk.core.forces.springs import run, torsional
from uhrwerk.core.joints import JointPair, LeafSpringPair, SpiralSpringPair, TorsionSpringPair
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.leaf_spring import SMALL
from uhrwerk.core.joints.spiral_spring import coils, spacing
from uhrwerk.core.quantity import Scope
from uhrwerk.core.requirements.spring_strength import SpringStrength

ENDS = {"a": At(placed="a", datum="top"), "b": At(placed="b", datum="top")}


def with_spring(document: Document, pair: JointPair, **asked: object) -> Document:
    return document.model_copy(update={"pairs": document.pairs | {"spring": pair}, "requirements": asked})


def elastica(load: float) -> tuple[float, float]:
    """Where a cantilever's end is, along and aside, in its length, under a load in E I / L^2."""

    def shot(start: float) -> tuple[float, float, float]:
        found = solve_ivp(
            lambda s, y: [y[1], -load * np.cos(y[0]), np.cos(y[0]), np.sin(y[0])], (0, 1), [0, start, 0, 0], rtol=1e-10, atol=1e-12
        )  # fmt: skip
        return float(found.y[1, -1]), float(found.y[2, -1]), float(found.y[3, -1])

    return shot(brentq(lambda k: shot(k)[0], 0, 2 * load, xtol=1e-12))[1:]


@pytest.mark.parametrize("bent", [0.01, 0.05, 0.1, SMALL])
def test_a_leafs_force_is_that_of_the_elastica_within_two_hundredths(bent: float) -> None:
    """The end slides on what it presses: where it bears stays as far from the root, and the leaf that is bent is the longer."""
    n = numbers(LeafSpringPair(name="l", rest="10 mm", width="8 mm", thickness="0.5 mm", **ENDS), Scope())
    reach = 0.010 / bent
    found = float(LeafSpringPair.push(n, np.zeros(1), np.array([reach]))[0])
    bending = 206e9 * 8e-3 * 0.5e-3**3 / 12
    load = brentq(lambda p: elastica(p)[1] / elastica(p)[0] - bent, 0.1 * bent, 10 * bent)
    assert found == pytest.approx(load * bending / (reach / elastica(load)[0]) ** 2, rel=0.02)
    used = LeafSpringPair.used(n, np.zeros(1), np.array([reach]))["bent"][0]
    assert used[0] == pytest.approx(bent / SMALL)
    assert LeafSpringPair.push(n, np.array([0.011]), np.array([reach]))[0] == 0  # it does not reach


def spiral(**how: str) -> Numbers:
    return numbers(SpiralSpringPair(name="s", **{**ENDS, **how}), Scope())  # type: ignore[arg-type]


def test_a_spirals_rate_and_stress_are_those_of_a_strip_bent_equally() -> None:
    n = spiral(width="5 mm", thickness="0.4 mm", length="600 mm")
    bending = 206e9 * 5e-3 * 0.4e-3**3 / 12
    turned = quad(lambda _: 0.02 / bending, 0, 0.6)[0]
    assert SpiralSpringPair.rate(n) == pytest.approx(0.02 / turned)
    outer_fibre = 206e9 * 0.2e-3 * 0.02 / bending  # E times half the thickness times the change of curvature
    assert float(SpiralSpringPair.stress(n, np.array([-0.02]))[0]) == pytest.approx(outer_fibre)


def test_a_spiral_keeps_its_length_while_its_coils_draw_together() -> None:
    n = spiral(inner="12 mm", outer="40 mm", length="900 mm", thickness="0.3 mm")

    def long(outer: float, count: float) -> float:
        """Archimedes' spiral from the inner radius to the outer one."""
        per = (outer - n.inner) / 2 / (2 * np.pi * count)
        return quad(lambda a: np.hypot(n.inner / 2 + per * a, per), 0, 2 * np.pi * count, limit=500)[0]

    assert long(n.outer, coils(n)) == pytest.approx(0.9, rel=2e-3)
    for turns in (1.0, 3.0):
        step = float(spacing(n, np.array([2 * np.pi * turns]))[0])
        count = coils(n) + turns
        assert long(n.inner + 2 * count * step, count) == pytest.approx(0.9, rel=2e-3)
        assert step < float(spacing(n, np.zeros(1))[0])


def test_a_springs_quantities_are_followed_as_curves(evaluator: Evaluator) -> None:
    """A compression spring between a driven slide and the ground: rate times how much shorter it is than when free (Hooke)."""
    draft = Draft("Slide")
    post = draft.part("Post", "steel", Pin(diameter="20 mm", length="10 mm"))
    rod = draft.part("Rod", "steel", Pin(diameter="10 mm", length="20 mm"), z="40 mm")
    slides = draft.prismatic("Slides", At(placed=post, datum="axis"), At(placed=rod, datum="axis"))
    draft.slide("Way", slides, speed="5 mm/s", start="35 mm")
    draft.set("cycle.duration", "3 s")
    spring = draft.spring("Spring", At(placed=post, datum="top"), At(placed=rod, datum="bottom"), free_length="60 mm")
    for of in ("force", "length", "stress"):
        draft.follow(SpringCurve.model_validate({"name": of, "pair": spring, "of": of}))
    e = evaluator.evaluate(draft.document)
    force, length, stress = (
        e_curve.series["value"] for e_curve in (evaluated_curve(e, i) for i in draft.document.curves)
    )
    assert np.ptp(length) == pytest.approx(15e-3, abs=1e-9)
    rate = 81.5e9 * 1e-3**4 / (8 * 8e-3**3 * 8)  # EN 13906-1
    np.testing.assert_allclose(force, rate * (60e-3 - length), rtol=1e-9)
    assert (stress > 0).all()


def test_a_spiral_turns_a_follower_as_a_torsion_spring_of_its_rate_does(evaluator: Evaluator) -> None:
    document, _ = swinging(SwingingRoller(swing=swing()))
    ends = {
        "name": "Spring",
        "a": At(placed="plate", datum="pivot"),
        "b": At(placed="arm", datum="hole_1"),
        "preload": "70 deg",
    }
    strip = SpiralSpringPair(**ends, width="5 mm", thickness="0.5 mm", length="300 mm")  # type: ignore[arg-type]
    stiff = SpiralSpringPair.rate(numbers(strip, Scope()))
    coiled = TorsionSpringPair(**ends, active_coils=repr(206e9 * 1e-3**4 / (64 * 12e-3 * stiff)))  # type: ignore[arg-type]
    times = np.linspace(0, 1, 60)
    one, other = (evaluator.moved(with_spring(document, p)) for p in (strip, coiled))
    assert contact_force(one, "runs", times) == pytest.approx(contact_force(other, "runs", times), rel=1e-9)
    found = torsional(one, "spring", times)
    assert found is not None
    assert found.torque == pytest.approx(stiff * (np.radians(70) - found.turned), rel=1e-9)
    told = {v.name: v.value for v in of_joint(one, "pairs", "spring")}
    assert told["Rate"] == pytest.approx(stiff)
    assert told["Largest bending stress"] == pytest.approx(
        6 * np.abs(torsional(one, "spring").torque).max() / (5e-3 * 0.5e-3**2)
    )  # type: ignore[union-attr]


def leafed(**how: str) -> LeafSpringPair:
    """A leaf from the plate's far side that presses the slider towards the cam, whose rest lies 130 mm beyond that face."""
    ends = {"a": At(placed="plate", datum="left"), "b": At(placed="slider", datum="back")}
    return LeafSpringPair(name="Leaf", **{**ends, **how})  # type: ignore[arg-type]


def test_a_leaf_presses_a_slider_on_its_cam(evaluator: Evaluator) -> None:
    """By hand: the leaf's push and the slider's inertia over the cosine of the pressure angle."""
    document = sliding(SlidingRoller(lift=lift()))
    leaf = leafed(rest="-109.5 mm", along="90 deg", width="10 mm", thickness="1 mm")
    e = evaluator.moved(with_spring(document, leaf))
    found = run(e, "spring")
    assert found is not None
    assert np.ptp(found.reach) < 1e-9  # the slider moves along the face's normal
    reach = float(found.reach[0])
    assert reach == pytest.approx(0.01)
    bent = -0.1095 - found.length
    assert bent.min() > 0
    assert found.push == pytest.approx(3 * 206e9 * 10e-3 * 1e-3**3 / 12 * bent / reach**3, rel=1e-9)
    assert found.stress == pytest.approx(6 * found.push * reach / (10e-3 * 1e-3**2))
    still = contact_force(e, "runs", found.times)
    without = contact_force(evaluator.moved(document), "runs", found.times)
    gained = still - without
    n = numbers(document.parts["cam"].element, document.scope())
    leaning = np.cos(traced(n, found.times * TURN).pressure)  # type: ignore[arg-type]
    assert gained * leaning == pytest.approx(found.push, rel=1e-4)


@pytest.mark.parametrize(
    ("pair", "words"),
    [
        (
            leafed(rest="-109 mm", along="90 deg", thickness="0.01 mm"),
            "of the deflection up to which its formula holds",
        ),
        (leafed(rest="-109 mm", along="90 deg", thickness="2 mm"), "of the stress allowed"),
    ],
)
def test_a_leaf_that_is_not_sound(evaluator: Evaluator, pair: LeafSpringPair, words: str) -> None:
    document = with_spring(sliding(SlidingRoller(lift=lift())), pair, sound=SpringStrength(name="S", pair="spring"))
    v = evaluator.evaluate(document).verdicts["sound"]
    assert v.holds is False
    assert words in v.words.split(";")[0]


def test_a_spiral_whose_coils_touch_is_not_sound(evaluator: Evaluator) -> None:
    document, _ = swinging(SwingingRoller(swing=swing()))
    ends = {"a": At(placed="plate", datum="pivot"), "b": At(placed="arm", datum="hole_1")}
    for length, holds in (("1000 mm", True), ("3200 mm", False)):
        pair = SpiralSpringPair(
            name="S", **ends, preload="120 deg", thickness="0.3 mm", inner="10 mm", outer="36 mm", length=length
        )  # type: ignore[arg-type]
        asked = SpringStrength(name="S", pair="spring")
        v = evaluator.evaluate(with_spring(document, pair, sound=asked)).verdicts["sound"]
        assert v.holds is holds, v.words
        assert holds or "of the space of a coil is strip" in v.words.split(";")[0]


@pytest.mark.parametrize("speed", [60.0, -90.0])
def test_a_spring_on_a_rocker_is_wound_alike_in_every_turn_of_the_crank(evaluator: Evaluator, speed: float) -> None:
    """The rocker's angle in closed form, in the first turn of the crank and in the tenth."""
    sizes = (0.03, 0.09, 0.06, 0.08)
    spring = TorsionSpringPair(name="S", a=At(placed="ground", datum="hole_2"), b=At(placed="rocker", datum="hole_1"))
    document = four_bar(*sizes, speed=f"{speed} rpm", duration="10 s")
    e = evaluator.moved(document.model_copy(update={"pairs": {"spring": spring}}))
    omega = speed / 60 * TURN
    first = np.linspace(0, abs(TURN / omega), 23)
    for turns in (0, 9, 12 if speed < 0 else 8):
        found = torsional(e, "spring", first + turns * abs(TURN / omega))
        assert found is not None
        angle = four_bar_closed_form(*sizes, omega * first, omega).rocker
        assert found.turned == pytest.approx(angle - angle[0], abs=1e-7)
