"""Balance: rotors against textbook and standard, shaking forces against differentiated closed forms, counterweights against Berkof and Lowen."""

from __future__ import annotations

from dataclasses import replace
from math import cos, radians, sin

import numpy as np
import pytest
import sympy

from tests.mechanisms import four_bar, four_bar_closed_form, mm
from uhrwerk import (
    BalanceGrade,
    Bore,
    CentreOfGravity,
    Counterweight,
    Draft,
    EccentricDisc,
    FramePlate,
    LinkBar,
    MassLimit,
    Pin,
    ShakingForce,
    ShakingMoment,
    SlottedLever,
    SteppedShaft,
)
from uhrwerk.core.balance import corrections, counterweights
from uhrwerk.core.balance.rotor import Rotor, rotors
from uhrwerk.core.balance.shaking import shaking
from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.evaluation.values import of_part
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.remedies import numbers_of
from uhrwerk.core.stages.evaluation import Evaluation

FRAME = np.array([0.0, 0, 0, 1, 0, 0, 0])
STEEL = 7850.0


def loose_masses(*of: tuple[float, float, float, float]) -> Rotor:
    """Points of mass kg at radius m, angle deg and place along the axis m."""
    m, r, z = (np.array([x[k] for x in of]) for k in (0, 1, 3))
    angle = np.radians([x[2] for x in of])
    at = (m * r)[:, None] * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    first, second = at.sum(axis=0), (z[:, None] * at).sum(axis=0)
    centre = np.array([*(first / m.sum()), (m * z).sum() / m.sum()])
    return Rotor("j", 1, (), FRAME, float(m.sum()), centre, first, second, (0.0, 3.097), 1.2, 40.0, 0.0)


def test_norton_example_12_1_static() -> None:
    """Norton, Design of Machinery, example 12-1: 1.2 kg at 1.135 m, 113.4 deg and 1.8 kg at 0.822 m, 48.8 deg are balanced by
    2.402 kg m at 259.6 deg, of sums to three digits. From memory."""
    (found,) = corrections(loose_masses((1.2, 1.135, 113.4, 0.0), (1.8, 0.822, 48.8, 0.0)), ())
    assert found.unbalance == pytest.approx(2.402, abs=1e-3)
    assert round(np.degrees(found.angle) % 360, 1) == 259.6


def test_norton_example_12_2_in_two_planes() -> None:
    """The same, example 12-2: a third mass of 2.4 kg at 1.04 m, 251.4 deg; at 0.854, 1.701 and 2.396 m along the shaft, planes
    at 0 and 3.097 m. Printed: 0.904 kg m at 75.27 deg in B, 0.871 kg m at 278.6 deg in A, to the two digits of its sums. From memory."""
    r = loose_masses((1.2, 1.135, 113.4, 0.854), (1.8, 0.822, 48.8, 1.701), (2.4, 1.04, 251.4, 2.396))
    a, b = corrections(r, (0.0, 3.097))
    assert b.unbalance == pytest.approx(0.904, abs=2e-3)
    assert np.degrees(b.angle) % 360 == pytest.approx(75.27, abs=0.2)
    assert np.degrees(a.angle) % 360 == pytest.approx(278.6, abs=0.5)
    # what the three masses and both corrections do together: no force and no moment
    both = [c.unbalance * np.array([cos(c.angle), sin(c.angle)]) for c in (a, b)]
    np.testing.assert_allclose(r.first + both[0] + both[1], 0, atol=1e-12)
    np.testing.assert_allclose(r.second + 3.097 * both[1], 0, atol=1e-12)


def test_permissible_residuals_of_the_standard() -> None:
    """ISO 21940-11:2016, annex: a turbine rotor of 3600 kg at 3000 rev/min in grade G 2.5, its centre 1500 mm from bearing A
    and 900 mm from B: 28.6e3 g mm in all, 10.7e3 in A, 17.9e3 in B. From memory."""
    turbine = replace(loose_masses((3600.0, 0.0, 0.0, 1.5)), speed=2 * np.pi * 50, centre=np.array([0.0, 0.0, 1.5]))
    allowed = turbine.permissible(2.5e-3)
    assert round(allowed * 1e3, 1) == 28.6
    assert [round(float(x) * 1e3, 1) for x in allowed * turbine.shares(0.0, 2.4)] == [10.7, 17.9]
    # 1 um at 1500 rad/s is 1.5 mm/s; no plane has less than 0.3 or more than 0.7 of it
    assert turbine.shares(1.4, 10.0) == pytest.approx([0.7, 0.3])


def sector(angle: float, thickness: float, outer: float, inner: float) -> float:
    """Volume times distance of its centre from the middle, m4, of a ring's sector: 2/3 t sin(a/2) (R^3 - r^3), any handbook."""
    return thickness * 2 / 3 * sin(angle / 2) * (outer**3 - inner**3)


def weights(*of: tuple[str, str, str], speed: str = "900 rpm") -> Document:
    """Counterweights (turn, offset, radius) on a shaft that turns in a plate."""
    d = Draft("Weights")
    plate = d.part("Plate", "steel", FramePlate(bores={"b": Bore(x="40 mm", y="30 mm", diameter="8.05 mm")}))
    shaft = d.part("Shaft", "steel", Pin(diameter="8 mm", length="80 mm"), x="40 mm", y="30 mm")
    joint = d.revolute("Turns", plate["b"], shaft["axis"], offset="-10 mm")
    for k, (turn, offset, radius) in enumerate(of):
        w = d.part(f"Weight {k}", "steel", Counterweight(radius=radius, thickness="6 mm", span="110 deg"), x="40 mm", y="30 mm", z="9 mm")  # fmt: skip
        d.rigid(f"Held {k}", shaft["axis"], w["axis"], offset=offset, turn=turn)
    d.turn("Motor", joint, speed)
    d.set("cycle.duration", "1 rev / (900 rpm)")
    d.require(BalanceGrade(name="Static", joint=joint, grade="6.3 mm/s"))
    d.require(
        BalanceGrade(name="In two planes", joint=joint, grade="6.3 mm/s", planes="two", low="20 mm", high="60 mm")
    )
    d.require(CentreOfGravity(name="Centred", joint=joint, at_most="0.01 mm"))
    d.require(ShakingForce(name="Calm", at_most="1 N"))
    return d.document


def turning(e: Evaluation) -> Rotor:
    assert not e.problems
    return rotors(e)["turns"]


def test_a_counterweight_against_the_sector_of_a_ring(evaluator: Evaluator) -> None:
    """Unbalance, its direction, and the force that it makes: mass times offset times speed squared."""
    e = evaluator.evaluate(weights(("30 deg", "20 mm", "24 mm")))
    r, u = turning(e), STEEL * sector(radians(110), 6e-3, 24e-3, 8e-3)
    np.testing.assert_allclose(r.first, u * np.array([cos(radians(30)), sin(radians(30))]), rtol=1e-9, atol=1e-15)
    np.testing.assert_allclose(r.second, r.first * 23e-3, rtol=1e-9, atol=1e-15)  # its middle, from the shaft's start
    static, two, centred, calm = e.verdicts.values()
    omega = 900 * 2 * np.pi / 60
    assert (static.holds, two.holds, centred.holds, calm.holds) == (False, False, False, False)
    assert static.value == pytest.approx(u * omega / r.mass, rel=1e-9)
    assert centred.value == pytest.approx(u / r.mass, rel=1e-9)
    assert calm.value == pytest.approx(u * omega**2, rel=1e-7)
    shaft = STEEL * np.pi / 4 * 8e-3**2 * 80e-3
    assert r.mass > shaft


def test_two_weights_that_balance_in_the_middle_alone(evaluator: Evaluator) -> None:
    """Opposite and apart along the shaft: nothing statically, a couple of unbalance times distance, and as much in each plane."""
    e = evaluator.evaluate(weights(("0 deg", "15 mm", "24 mm"), ("180 deg", "55 mm", "24 mm")))
    r, u = turning(e), STEEL * sector(radians(110), 6e-3, 24e-3, 8e-3)
    static, two, centred, _ = e.verdicts.values()
    assert (static.holds, centred.holds, two.holds) == (True, True, False)
    assert float(np.hypot(*r.couple)) == pytest.approx(u * 40e-3, rel=1e-9)
    low, high = r.in_planes(20e-3, 60e-3)
    np.testing.assert_allclose([low[0], high[0]], [u, -u], rtol=1e-9)
    assert two.value == pytest.approx(u * r.speed / r.mass / min(r.shares(20e-3, 60e-3)), rel=1e-9)


def test_what_is_balanced_holds(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(weights(("0 deg", "25 mm", "24 mm"), ("180 deg", "25 mm", "24 mm")))
    holds = {v.name: v.holds for v in e.verdicts.values() if v.name != "In two planes"}
    assert holds == {"Static": True, "Centred": True, "Calm": True}


def test_a_grade_at_another_speed(evaluator: Evaluator) -> None:
    """The same rotor, slower: the grade is offset times speed."""
    fast, slow = (
        evaluator.evaluate(weights(("0 deg", "20 mm", "9 mm"), speed=s)).verdicts["static"]
        for s in ("900 rpm", "90 rpm")
    )
    assert fast.value == pytest.approx(10 * slow.value)  # type: ignore[operator]
    assert (fast.holds, slow.holds) == (False, True)


def bars(e: Evaluation) -> dict[str, float]:
    """kg of each placed part."""
    return dict(e.part_mass)


def test_shaking_force_of_a_four_bar(evaluator: Evaluator) -> None:
    """Mass centres of uniform bars lie in their middles; accelerations by the textbook's closed form (Norton, 7.3; from memory)."""
    a, b, c, d = 0.03, 0.09, 0.06, 0.08
    e = evaluator.evaluate(four_bar(a, b, c, d, speed="300 rpm", duration="0.2 s"))
    found, m, w = shaking(e), bars(e), 300 * 2 * np.pi / 60
    assert found is not None
    crank = w * found.times
    t = four_bar_closed_form(a, b, c, d, crank, w)

    def gained(r: float, angle: np.ndarray, rate: np.ndarray | float, more: np.ndarray | float) -> np.ndarray:
        return r * np.exp(1j * angle) * (1j * more - rate**2)

    tip = gained(a, crank, w, 0.0)
    force = -(
        m["crank"] * tip / 2 + m["coupler"] * (tip + gained(b / 2, t.coupler, t.coupler_rate, t.coupler_acceleration))
        + m["rocker"] * gained(c / 2, t.rocker, t.rocker_rate, t.rocker_acceleration)
    )  # fmt: skip
    np.testing.assert_allclose(found.force[:, 0] + 1j * found.force[:, 1], force, atol=1e-6 * np.abs(force).max())
    np.testing.assert_allclose(found.force[:, 2], 0, atol=1e-9)


def slider_crank(r: float, rod: float) -> Document:
    d = Draft("Slider-crank")
    plate = d.part("Plate", "steel", FramePlate(length="220 mm", width="80 mm", bores={"b": Bore(x="50 mm", y="40 mm", diameter="5 mm")}))  # fmt: skip
    crank = d.part("Crank", "steel", LinkBar(distance=mm(r)), x="50 mm", y="40 mm", z="6 mm")
    coupler = d.part("Rod", "steel", LinkBar(distance=mm(rod)), x=mm(0.05 + r), y="40 mm", z="12 mm")
    block = FramePlate(length="20 mm", width="20 mm", bores={"b": Bore(x="10 mm", y="10 mm", diameter="5 mm")})
    slider = d.part("Slider", "steel", block, x=mm(0.05 + r + rod - 0.01), y="30 mm")
    joint = d.revolute("Turns", plate["b"], crank["hole_1"], offset="6 mm")
    d.revolute("On crank", crank["hole_2"], coupler["hole_1"], offset="6 mm")
    d.revolute("On slider", slider["b"], coupler["hole_2"], offset="12 mm")
    d.prismatic("Slides", plate["right"], slider["right"])
    d.turn("Motor", joint, "600 rpm", "0 deg")
    d.set("cycle.duration", "0.1 s")
    d.require(ShakingForce(name="Calm", at_most="10 N"))
    d.require(MassLimit(name="Light", at_most="10 kg"))
    return d.document


def test_shaking_force_of_a_slider_crank(evaluator: Evaluator) -> None:
    """The mass centres' places differentiated by sympy, at every moment; and the verdict on the largest of them."""
    r, rod, w = 0.02, 0.07, 600 * 2 * np.pi / 60
    e = evaluator.evaluate(slider_crank(r, rod))
    assert not e.problems
    found, m = shaking(e), bars(e)
    assert found is not None
    t = sympy.symbols("t")
    angle = w * t
    tip = sympy.Matrix([r * sympy.cos(angle), r * sympy.sin(angle)])
    end = sympy.Matrix([tip[0] + sympy.sqrt(rod**2 - tip[1] ** 2), 0])
    push = -(m["crank"] * tip / 2 + m["rod"] * (tip + end) / 2 + m["slider"] * end).diff(t, 2)
    witness = np.array(sympy.lambdify(t, push, "numpy")(found.times)).reshape(2, -1).T
    np.testing.assert_allclose(found.force[:, :2], witness, atol=1e-6 * np.abs(witness).max())
    dense = np.array(sympy.lambdify(t, push, "numpy")(np.linspace(0, 0.1, 100_001))).reshape(2, -1)
    v = e.verdicts["calm"]
    assert v.value == pytest.approx(float(np.hypot(*dense).max()), abs=v.error)
    assert v.holds is (v.value < 10)  # type: ignore[operator]


def test_a_four_bar_is_fully_balanced_by_two_counterweights(evaluator: Evaluator) -> None:
    """Berkof and Lowen (1969; from memory): of uniform bars each crank with its counterweight has a first moment of half the coupler's
    mass times its own length, away from the coupler; then the frame feels no force."""
    a, b, c, d = 0.03, 0.09, 0.06, 0.08
    e = evaluator.evaluate(four_bar(a, b, c, d, speed="300 rpm", duration="0.2 s"))
    best, m, turning_ = counterweights(e), bars(e), rotors(e)
    assert best is not None
    assert np.linalg.norm(best.after, axis=1).max() < 1e-7 * np.linalg.norm(best.before, axis=1).max()
    for joint, length in (("crank_in_ground", a), ("rocker_in_ground", c)):
        whole = best.moments[joint] + turning_[joint].first
        assert np.hypot(*whole) == pytest.approx(m["coupler"] * length / 2, rel=1e-6)
        assert np.dot(whole, turning_[joint].first) < 0


def test_counterweights_on_the_crank_alone_lower_what_they_can(evaluator: Evaluator) -> None:
    """No other counterweight on it does better: least squares, tried against a thousand others."""
    e = evaluator.evaluate(slider_crank(0.02, 0.07))
    best = counterweights(e)
    assert best is not None
    ours = float((best.after**2).sum())
    assert 0 < ours < float((best.before**2).sum())
    random = np.random.default_rng(3)
    r = rotors(e)["turns"]
    w, angle = 600 * 2 * np.pi / 60, 600 * 2 * np.pi / 60 * best.times
    turn = np.exp(1j * angle)
    before = best.before[:, 0] + 1j * best.before[:, 1]
    u = complex(*best.moments[r.joint])
    np.testing.assert_allclose(before + w**2 * u * turn, best.after[:, 0] + 1j * best.after[:, 1], atol=1e-6)
    for _ in range(1000):
        other = u * (1 + random.normal() * 0.3) * np.exp(1j * random.normal() * 0.3)
        assert (np.abs(before + w**2 * other * turn) ** 2).sum() >= ours * (1 - 1e-12)


def test_what_does_not_turn_about_the_frame_has_no_grade(evaluator: Evaluator) -> None:
    document = four_bar(0.03, 0.09, 0.06, 0.08)
    asked = {"grade": BalanceGrade(name="Coupler", joint="coupler_on_crank")}
    v = evaluator.evaluate(document.model_copy(update={"requirements": asked})).verdicts["grade"]
    assert v.holds is None
    assert "axis that stands still" in v.words


@pytest.mark.parametrize(("angle", "offset"), [("0 deg", "20 mm"), ("77 deg", "35 mm"), ("-160 deg", "50 mm")])
def test_an_unbalance_does_not_hang_on_where_the_mechanism_stands(
    evaluator: Evaluator, angle: str, offset: str
) -> None:
    """Mirrored, inverted or turned: the same offset; upside down the same couple."""
    document = weights((angle, offset, "24 mm"))
    r = turning(evaluator.evaluate(document))
    draft = Draft("x", document)
    draft.set("placed.plate.start.turn_x", "180 deg")
    draft.set("placed.plate.start.z", "33 mm")
    over = turning(evaluator.evaluate(draft.document))
    assert over.offset == pytest.approx(r.offset, rel=1e-9)
    assert float(np.hypot(*over.couple)) == pytest.approx(float(np.hypot(*r.couple)), rel=1e-6, abs=1e-12)


def test_a_lever_that_swings_is_a_rotor_too(evaluator: Evaluator) -> None:
    d = Draft("Lever")
    plate = d.part("Plate", "steel", FramePlate(bores={"b": Bore(x="40 mm", y="30 mm", diameter="8.05 mm")}))
    lever = d.part("Lever", "steel", SlottedLever(), x="40 mm", y="30 mm", z="2 mm")
    joint = d.revolute("Swings", plate["b"], lever["pivot"], offset="2 mm")
    d.turn("Motor", joint, "10 rpm")
    e = evaluator.evaluate(d.document)
    r, own = rotors(e)["swings"], e.solids[str(lever)].centroid
    assert r.offset == pytest.approx(float(np.hypot(own[0], own[1])), rel=1e-9)


def one_planet(counter: str, heavy: str = "0 mm") -> Document:
    """A carrier with one planet on a pin, which a sun does not even have to turn, and a counterweight opposite; the planet has a hole
    beside its middle, if asked, and is then not balanced about its pin."""
    d = Draft("Carrier")
    plate = d.part("Plate", "steel", FramePlate(bores={"b": Bore(x="40 mm", y="30 mm", diameter="8.05 mm")}))
    shaft = d.part("Shaft", "steel", Pin(diameter="8 mm", length="60 mm"), x="40 mm", y="30 mm")
    joint = d.revolute("Turns", plate["b"], shaft["axis"], offset="-10 mm")
    arm = d.part("Arm", "aluminium", LinkBar(distance="20 mm", bore_1="8 mm"), x="40 mm", y="30 mm", z="10 mm")
    d.rigid("Arm held", shaft["axis"], arm["hole_1"], offset="20 mm")
    element = EccentricDisc(diameter="24 mm", thickness="8 mm", bore="5 mm", eccentricity="8 mm", pin_diameter="2 mm", pin_height="2 mm") if heavy else SteppedShaft(diameter_1="24 mm", length_1="8 mm", length_2="0 mm", length_3="0 mm", bore="5 mm")  # fmt: skip
    planet = d.part("Planet", "steel", element, x="60 mm", y="30 mm", z="20 mm")
    on = d.revolute("Planet on arm", arm["hole_2"], planet["axis" if heavy else "bore"], offset="6 mm")
    weight = d.part("Weight", "brass", Counterweight(radius=counter, thickness="14 mm", span="150 deg"), x="40 mm", y="30 mm", z="30 mm")  # fmt: skip
    d.rigid("Weight held", shaft["axis"], weight["axis"], offset="34 mm", turn="180 deg")
    d.turn("Motor", joint, "900 rpm")
    d.turn("Planet's motor", on, "-2500 rpm")
    d.set("cycle.duration", "1 rev / (100 rpm)")
    d.require(CentreOfGravity(name="Centred", joint=joint, at_most="0.01 mm"))
    d.require(BalanceGrade(name="Grade", joint=joint, grade="6.3 mm/s"))
    return d.document


def test_a_planet_acts_as_a_mass_in_its_pin(evaluator: Evaluator) -> None:
    """However it turns: the force on the frame, summed over all links, is that of the rotor with the planet in its pin."""
    e = evaluator.evaluate(one_planet("20 mm", heavy=""))
    r, found = turning(e), shaking(e)
    assert found is not None
    assert r.hanging == ()
    ring = STEEL * np.pi / 4 * (0.024**2 - 0.005**2) * 0.008
    chamfers = e.part_mass["planet"]
    assert chamfers == pytest.approx(ring, rel=0.02)
    np.testing.assert_allclose(found.size, np.hypot(*r.first) * r.speed**2, rtol=1e-6)
    alone = sum(e.part_mass[p] for p in ("shaft", "arm", "weight"))
    assert r.mass == pytest.approx(alone + e.part_mass["planet"], rel=1e-12)
    # and in the moments along the shaft: the force's moment about the joint's origin, at the start
    at = r.frame[:3]
    about = found.moment[0] - np.cross(at, found.force[0])
    np.testing.assert_allclose([about[1], -about[0]], r.second * r.speed**2, rtol=1e-6, atol=1e-9)


def test_what_hangs_on_a_rotor_lets_it_not_be_told(evaluator: Evaluator) -> None:
    """A planet that is itself out of balance, and a coupler: no answer, and what to ask instead."""
    e = evaluator.evaluate(one_planet("20 mm", heavy="8 mm"))
    for v in e.verdicts.values():
        assert v.holds is None
        assert v.words == "Undecided: Planet hangs on it and turns otherwise: require the shaking force instead"
    document = four_bar(0.03, 0.09, 0.06, 0.08)
    asked = {"grade": BalanceGrade(name="Crank", joint="crank_in_ground")}
    v = evaluator.evaluate(document.model_copy(update={"requirements": asked})).verdicts["grade"]
    assert v.holds is None
    assert "Coupler hangs on it" in v.words


def test_parts_left_out_are_said_to_be_left_out(evaluator: Evaluator) -> None:
    draft = Draft("x", weights(("0 deg", "25 mm", "24 mm"), ("180 deg", "25 mm", "24 mm")))
    draft.set("placed.weight_1.left_out", True)
    v = evaluator.evaluate(draft.document).verdicts["static"]
    assert v.holds is False
    assert "without the parts left out" in v.basis


def test_what_was_weighed_counts_instead_of_the_density(evaluator: Evaluator) -> None:
    """A weight of twice its steel's mass: twice the unbalance, the force on the frame, and the part of the mass; in one place."""
    d = Draft("x", weights(("30 deg", "20 mm", "24 mm")))
    volume = evaluator.evaluate(d.document).solids["weight_0"].volume
    d.set("parts.weight_0.measured_mass", f"{2 * STEEL * volume!r} kg")
    e = evaluator.evaluate(d.document)
    r, u = turning(e), 2 * STEEL * sector(radians(110), 6e-3, 24e-3, 8e-3)
    np.testing.assert_allclose(r.first, u * np.array([cos(radians(30)), sin(radians(30))]), rtol=1e-9, atol=1e-15)
    assert e.part_mass["weight_0"] == pytest.approx(2 * STEEL * volume, rel=1e-12)
    assert e.verdicts["calm"].value == pytest.approx(u * (900 * 2 * np.pi / 60) ** 2, rel=1e-7)
    assert {v.name: v.value for v in of_part(e, "weight_0")}["Mass"] == pytest.approx(2 * STEEL * volume, rel=1e-12)
    assert not [
        n for n in numbers_of(d.document) if n.path.endswith("measured_mass")
    ]  # remedies turn sizes, not what was weighed
    with pytest.raises(ValidationFailed, match="measured_mass"):
        d.set("parts.weight_0.measured_mass", "-3 g")
    with pytest.raises(ValidationFailed, match="measured_mass"):
        d.set("parts.weight_0.measured_mass", "3 mm")


def test_principal_inertia_and_radii_of_gyration_of_a_plate(evaluator: Evaluator) -> None:
    """A cuboid turned askew: m (b2 + c2) / 12 about each of its own axes (any handbook)."""
    d = Draft("Plate")
    d.part(
        "Plate",
        "steel",
        FramePlate(length="60 mm", width="40 mm", thickness="6 mm", corner="0 mm"),
        turn_x="30 deg",
        turn_z="50 deg",
    )
    told = {v.name: v.value for v in of_part(evaluator.evaluate(d.document), "plate")}
    a, b, c = 0.06, 0.04, 0.006
    squares = np.array(sorted([(b * b + c * c) / 12, (a * a + c * c) / 12, (a * a + b * b) / 12]))
    np.testing.assert_allclose(told["Principal inertia"], told["Mass"] * squares, rtol=1e-9)
    np.testing.assert_allclose(told["Radii of gyration"], np.sqrt(squares), rtol=1e-9)


@pytest.mark.parametrize(
    ("x", "y", "height", "arm"),
    [("40 mm", "30 mm", 0.0, None), ("40 mm", "30 mm", 0.01, 0.01), ("65 mm", "30 mm", 0.0, 0.025)],
)
def test_the_shaking_moment_of_one_weight(
    evaluator: Evaluator, x: str, y: str, height: float, arm: float | None
) -> None:
    """Unbalance times speed squared, times its arm: none about a point on the axis in the weight's own middle plane, the height above
    that on the axis, and beside the axis at most how far that lies."""
    d = Draft("x", weights(("0 deg", "20 mm", "24 mm")))
    e = evaluator.evaluate(d.document)
    r = turning(e)
    middle = float(r.frame[2] + r.centre[2] * 0 + r.second[0] / r.first[0])  # the plane in which the unbalance lies
    d.require(ShakingMoment(name="Turned", at_most="1 N*mm", x=x, y=y, z=f"{middle + height!r} m"))
    v = evaluator.evaluate(d.document).verdicts["turned"]
    force = sector(radians(110), 6e-3, 24e-3, 8e-3) * STEEL * (900 * 2 * np.pi / 60) ** 2
    assert v.value is not None
    if arm is None:
        assert v.value < 1e-9 * force
        assert v.holds is True
    else:
        assert v.value == pytest.approx(force * arm, rel=2e-4)
        assert v.holds is (force * arm <= 1e-3)
