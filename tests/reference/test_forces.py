"""Efforts of drives and forces in joints against Newton and Euler written out for the plane, virtual work, and tables.

Four-bar: the nine equations of its three moving links, Norton, Design of Machinery, section 11.4, with accelerations in closed form.
Tooth form factors after Lewis: Shigley, Mechanical Engineering Design, chapter 14, the table of values of Y. All from memory.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from tests.conftest import DEMO
from tests.mechanisms import four_bar, four_bar_closed_form, gear_train, mm, planetary, rack_and_pinion
from tests.reference.test_belts import two
from uhrwerk import (
    BearingPressure,
    Bore,
    CurveLimit,
    Cycle,
    DriveEffort,
    FramePlate,
    JointForce,
    LinkBar,
    PinShear,
    SpringStrength,
    ToothBending,
)
from uhrwerk.core.assembly.mass_properties import lumps_of
from uhrwerk.core.curves import EffortCurve, JointForceCurve, MeasuredCurve
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.document import Document, ValidationFailed
from uhrwerk.core.elements.belts import Pulley
from uhrwerk.core.elements.involute import Tooth, lewis
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.forces.applied_forces import acting, inertia
from uhrwerk.core.forces.inverse_dynamics import effort, reaction
from uhrwerk.core.joints import At
from uhrwerk.core.joints.force import ForcePair
from uhrwerk.core.joints.torque import TorquePair
from uhrwerk.core.joints.torsion_spring import TorsionSpringPair
from uhrwerk.core.motion import interpolated
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.moments import moments
from uhrwerk.core.upgrade import read
from uhrwerk.demo import MODULES
from uhrwerk.draft import Draft

G = 9.80665
SIZES = (0.03, 0.09, 0.06, 0.08)


def changed(document: Document, weight: str = "not_counted", **more: dict[str, Any]) -> Document:
    cycle = document.cycle.model_copy(update={"weight": weight})
    added = {name: getattr(document, name) | items for name, items in more.items()}
    return Document.model_validate(document.model_copy(update={"cycle": cycle, **added}).model_dump(mode="json"))


def of_part(e: Evaluation, part: str) -> tuple[float, float, float]:
    """Mass, distance of the centre along x from the first hole, inertia about it: kg, m, kg m2."""
    (lump,) = lumps_of(e.document, part, e.solids[part])
    assert abs(lump.centre[1]) < 1e-9
    return lump.mass, float(lump.centre[0]), float(lump.inertia[2, 2])


def newton_euler(e: Evaluation, crank: np.ndarray, speed: float, down: complex, push: float) -> dict[str, np.ndarray]:
    """Forces in all four joints as complex numbers and the torque of the drive, at crank angles; `push` acts on the rocker's end
    along x."""
    a, b, c, d = SIZES
    found = four_bar_closed_form(a, b, c, d, crank, speed)
    zero = np.zeros_like(crank)
    links = [
        (a, crank, zero + speed, zero, zero + 0j, zero + 0j, "crank"),
        (b, found.coupler, found.coupler_rate, found.coupler_acceleration, a * np.exp(1j * crank), -a * speed**2 * np.exp(1j * crank), "coupler"),
        (c, found.rocker, found.rocker_rate, found.rocker_acceleration, zero + d, zero + 0j, "rocker"),
    ]  # fmt: skip
    m = np.zeros((len(crank), 9, 9))
    r = np.zeros((len(crank), 9))
    # unknown: O on the crank, A on the coupler, B on the rocker, D on the rocker (x, y each), torque on the crank
    ends = {0: ((0, 1.0, 0), (1, -1.0, 1)), 1: ((1, 1.0, 0), (2, -1.0, 1)), 2: ((3, 1.0, 0), (2, 1.0, 1))}
    for k, (long, angle, rate, gain, _, start_acc, part) in enumerate(links):
        mass, out, inertia = of_part(e, part)
        way = np.exp(1j * angle)
        centre_acc = start_acc + out * (1j * gain - rate**2) * way
        force = mass * (centre_acc - down * G)
        if k == 2:
            force = force - push
        r[:, 3 * k], r[:, 3 * k + 1] = force.real, force.imag
        r[:, 3 * k + 2] = inertia * gain
        if k == 2:  # the push acts at the rocker's far end
            r[:, 3 * k + 2] -= (np.conj((long - out) * way) * push).imag
        for joint, sign, far in ends[k]:
            arm = ((long if far else 0.0) - out) * way
            m[:, 3 * k, 2 * joint] += sign
            m[:, 3 * k + 1, 2 * joint + 1] += sign
            m[:, 3 * k + 2, 2 * joint] -= sign * arm.imag
            m[:, 3 * k + 2, 2 * joint + 1] += sign * arm.real
    m[:, 2, 8] = 1.0
    x = np.linalg.solve(m, r[..., None])[..., 0]
    names = ("crank_in_ground", "coupler_on_crank", "coupler_on_rocker", "rocker_in_ground")
    return {n: x[:, 2 * i] + 1j * x[:, 2 * i + 1] for i, n in enumerate(names)} | {"torque": x[:, 8]}


@pytest.mark.parametrize(
    ("weight", "down", "push"), [("not_counted", 0, 0.0), ("against_y", -1j, 0.0), ("along_x", 1, 25.0)]
)
@pytest.mark.parametrize("speed", [60.0, -900.0])
def test_a_four_bars_joints_and_drive_bear_what_newton_and_euler_have(
    evaluator: Evaluator, speed: float, weight: str, down: complex, push: float
) -> None:
    load = ForcePair(
        name="Push", a=At(placed="ground", datum="hole_1"), b=At(placed="rocker", datum="hole_2"), force=f"{push} N"
    )
    document = four_bar(*SIZES, speed=f"{speed} rpm", duration=f"{60 / abs(speed)!r} s")
    if push:
        document = pushed_along_x(document, load)
    e = evaluator.evaluate(changed(document, weight))
    times = np.linspace(0, 60 / abs(speed), 25)
    omega = speed / 60 * 2 * np.pi
    wanted = newton_euler(e, omega * times, omega, down, push)
    assert effort(e, "motor", times) == pytest.approx(wanted.pop("torque"), rel=1e-6, abs=1e-8 * omega**2 / 40 + 1e-9)
    for joint, force in wanted.items():
        found = reaction(e, joint, times)
        # ground holds the crank, the crank the coupler; the rocker holds the coupler with the force that it does not get from it
        sign = -1 if joint == "coupler_on_rocker" else 1
        told = found.force[:, 0] + 1j * found.force[:, 1]
        assert told == pytest.approx(sign * force, rel=1e-6, abs=1e-7 * max(1.0, float(np.abs(force).max())))
        assert found.across == pytest.approx(np.abs(force), rel=1e-6, abs=1e-7 * float(np.abs(force).max()) + 1e-9)


def pushed_along_x(document: Document, load: ForcePair) -> Document:
    """With a plate that stands still, along the normal of whose side the load pushes."""
    draft = Draft("With a plate", document)
    size = {"length": "20 mm", "width": "20 mm", "thickness": "2 mm"}
    plate = draft.part(
        "Plate", "steel", FramePlate(**size, bores={"pivot": Bore(x="10 mm", y="10 mm", diameter="4 mm")}), z="-40 mm"
    )
    draft.rigid("Plate fixed", At(placed="ground", datum="hole_1"), plate["pivot"], offset="-40 mm")
    return changed(draft.document, pairs={"push": load.model_copy(update={"a": At(placed="plate", datum="right")})})


def arm(length: float = 0.2, speed: str = "1 deg/s", start: str = "0 deg", **bore: str) -> Document:
    """A bar that turns about a still axis along z."""
    draft = Draft("Arm")
    ground = draft.part("Ground", "steel", LinkBar(distance="60 mm"))
    bar = draft.part("Bar", "steel", LinkBar(distance=mm(length), **bore), z="10 mm", turn_z=start)
    draft.turn("Motor", draft.revolute("Pivot", ground["hole_1"], bar["hole_1"], offset="10 mm"), speed, start)
    draft.set("cycle", Cycle(duration="1 s", frames=12).model_dump(mode="json"))
    return draft.document


def test_a_bar_that_hangs_on_a_pin_shears_it_by_its_weight(evaluator: Evaluator) -> None:
    """Held level: F = m g, at half the bar's thickness from the joint, so that M = F t / 2; over a length l the ends of the pin bear
    F / 2 + M / l, and the wall at most F / (d l) + 6 M / (d l^2): common practice. The drive holds m g times the arm of the centre."""
    asked = {
        "shear": PinShear(name="Shear", joint="pivot", length="6 mm", at_most="1 MPa"),
        "single": PinShear(name="Single", joint="pivot", sections=1, diameter="2 mm", at_most="0.01 MPa"),
        "pressure": BearingPressure(name="Pressure", joint="pivot", length="6 mm", at_most="1 MPa"),
        "pressed": BearingPressure(name="Pressed", joint="pivot", length="6 mm", at_most="0.01 MPa"),
        "force": JointForce(name="Force", joint="pivot", at_most="100 N"),
        "torque": DriveEffort(name="Torque", driver="motor", at_most="0.001 N m"),
    }
    e = evaluator.evaluate(changed(arm(speed="0.001 deg/s", bore_1="4 mm"), "against_y", requirements=asked))
    mass, out, _ = of_part(e, "bar")
    value = {i: v.value for i, v in e.verdicts.items()}
    diameter = min(2 * e.mechanism.datums[p]["hole_1"].radius for p in ("ground", "bar"))  # type: ignore[union-attr]
    assert value["force"] == pytest.approx(mass * G, rel=1e-6)
    length, off = 0.006, 0.0025
    end = mass * G * (1 / 2 + off / length)
    assert value["shear"] == pytest.approx(4 * end / (np.pi * diameter**2), rel=1e-6)
    assert "a pin with one section bends under it" in undecided(e, "single")
    assert value["pressure"] == pytest.approx(mass * G * (1 + 6 * off / length) / (diameter * length), rel=1e-6)
    assert value["torque"] == pytest.approx(mass * G * out, rel=1e-6)
    assert {i: v.holds for i, v in e.verdicts.items()} == {
        "shear": True, "single": None, "pressure": True, "pressed": False, "force": True, "torque": False,
    }  # fmt: skip
    assert "weight against y" in e.verdicts["force"].basis


def test_a_bar_that_turns_fast_pulls_at_its_pivot(evaluator: Evaluator) -> None:
    """m r w^2, and with weight most where it hangs down: m (r w^2 + g)."""
    for weight, more in (("not_counted", 0.0), ("against_y", G)):
        asked = {"force": JointForce(name="Force", joint="pivot", at_most="1 N")}
        e = evaluator.evaluate(changed(arm(speed="600 rpm"), weight, requirements=asked))
        mass, out, _ = of_part(e, "bar")
        v = e.verdicts["force"]
        assert v.value == pytest.approx(mass * (out * (20 * np.pi) ** 2 + more), rel=1e-6)
        assert v.holds is False


def test_a_gear_trains_torque_its_bearings_and_teeth(evaluator: Evaluator) -> None:
    """Ratio of torques from the teeth; the bearings bear the tangential force over the cosine of the pressure angle; Lewis."""
    document = gear_train()
    resisting = TorquePair(
        name="Load", a=At(placed="plate", datum="two"), b=At(placed="wheel", datum="axis"), torque="3 N m"
    )
    asked = {
        "torque": DriveEffort(name="Torque", driver="motor", at_most="0.9 N m"),
        "bearing": JointForce(name="Bearing", joint="wheel_in_plate", at_most="50 N"),
        "other": JointForce(name="Other", joint="pinion_in_plate", at_most="500 N"),
        "teeth": ToothBending(name="Teeth", pair="mesh", at_most="60 MPa"),
        "weak": ToothBending(name="Weak", pair="mesh", at_most="40 MPa"),
    }
    e = evaluator.evaluate(changed(document, pairs={"load": resisting}, requirements=asked))
    pitch = 0.0015 * 54 / 2
    tangential = 3 / pitch
    assert e.verdicts["torque"].value == pytest.approx(3 * 18 / 54, rel=1e-6)
    assert e.verdicts["torque"].holds is False
    for which in ("bearing", "other"):
        assert e.verdicts[which].value == pytest.approx(tangential / np.cos(np.radians(20)), rel=1e-5)
    assert (e.verdicts["teeth"].holds, e.verdicts["weak"].holds) == (True, False)
    small = Tooth(0.0015, 18, np.radians(20), thinning=5e-5)
    assert e.verdicts["teeth"].value == pytest.approx(tangential / (0.004 * 0.0015 * lewis(small)), rel=1e-6)
    assert e.verdicts["teeth"].value == pytest.approx(
        tangential / (0.004 * 0.0015 * 0.309), rel=0.08
    )  # table 14-2, of teeth that are not thinned


def test_form_factors_are_those_of_the_table() -> None:
    table = {
        12: 0.245,
        15: 0.290,
        18: 0.309,
        20: 0.322,
        24: 0.337,
        30: 0.359,
        43: 0.397,
        60: 0.422,
        100: 0.447,
        300: 0.472,
    }
    for teeth, y in table.items():
        assert lewis(Tooth(0.002, teeth, np.radians(20))) == pytest.approx(y, rel=0.06)  # the table's root is not ours


def undecided(e: Evaluation, requirement: str) -> str:
    v = e.verdicts[requirement]
    assert v.holds is None
    return v.words


def test_what_two_bearings_of_one_shaft_share_is_not_told(evaluator: Evaluator) -> None:
    """The drive's torque is known all the same."""
    draft = Draft("Shared", arm())
    one, other = At(placed="ground", datum="hole_1"), At(placed="bar", datum="hole_1")
    draft.revolute("Second bearing", one, other, offset="10 mm")
    draft.require(JointForce(name="Force", joint="pivot"))
    draft.require(PinShear(name="Shear", joint="pivot"))
    draft.require(DriveEffort(name="Torque", driver="motor"))
    e = evaluator.evaluate(changed(draft.document, "against_y"))
    for asked in ("force", "shear"):
        assert "Pivot shares the force across its axis" in undecided(e, asked)
    mass, out, _ = of_part(e, "bar")
    assert e.verdicts["torque"].value == pytest.approx(mass * G * out, rel=1e-4)


def test_along_the_axis_a_planar_loop_shares_what_nothing_presses(evaluator: Evaluator) -> None:
    document = changed(
        four_bar(*SIZES), requirements={"along": JointForce(name="Along", joint="coupler_on_crank", of="along")}
    )
    assert "along its axis" in undecided(evaluator.evaluate(document), "along")


def test_what_nothing_holds_has_no_forces(evaluator: Evaluator) -> None:
    document = arm()
    document = document.model_copy(update={"drivers": {}})
    asked = {"force": JointForce(name="Force", joint="pivot")}
    e = evaluator.evaluate(changed(document, "against_y", requirements=asked))
    assert "Bar can still move by itself" in undecided(e, "force")
    assert evaluator.evaluate(changed(document, requirements=asked)).verdicts["force"].value == pytest.approx(
        0, abs=1e-9
    )


@pytest.mark.parametrize(
    ("at_most", "dimension"), [("3 N", "torque"), ("-1 N m", "below zero"), ("3 bananas", "bananas")]
)
def test_a_limit_of_a_drive_that_is_none_is_refused(at_most: str, dimension: str) -> None:
    with pytest.raises(ValidationFailed, match=dimension) as error:
        changed_and_checked(arm(), DriveEffort(name="Torque", driver="motor", at_most=at_most))
    assert error.value.faults[0][0] == "requirements.torque.at_most"


def changed_and_checked(document: Document, asked: DriveEffort) -> None:
    draft = Draft("ValidationFailed", document)
    draft.require(asked)


@pytest.mark.parametrize("sun_teeth", [(24, 12)])
def test_a_planetary_gears_torque_is_that_of_its_ratio(evaluator: Evaluator, sun_teeth: tuple[int, int]) -> None:
    """T_sun = T_carrier z_s / (z_s + z_r), Mueller, Die Umlaufgetriebe, from memory; what one planet of three bears is not told."""
    sun, planet = sun_teeth
    document = planetary(sun, planet, 3, "ring")
    resisting = TorquePair(
        name="Load", a=At(placed="plate", datum="centre"), b=At(placed="carrier", datum="axis"), torque="2 N m"
    )
    asked = {
        "torque": DriveEffort(name="Torque", driver="motor", at_most="5 N m"),
        "teeth": ToothBending(name="Teeth", pair="sun_and_planet"),
        "pin": JointForce(name="Pin", joint="planet_on_pin"),
    }
    e = evaluator.evaluate(changed(document, pairs={"load": resisting}, requirements=asked))
    assert e.verdicts["torque"].value == pytest.approx(2 * sun / (2 * sun + 2 * planet), rel=1e-4)
    assert "other drives do the same work" in undecided(e, "teeth")
    assert "shares the force" in undecided(e, "pin")


def test_a_screw_lifts_a_weight_by_its_lead(evaluator: Evaluator) -> None:
    """M = F p / (2 pi) without friction."""
    draft = Draft("Jack")
    ground = draft.part("Ground", "steel", LinkBar(distance="60 mm"))
    nut = draft.part("Nut", "steel", LinkBar(distance="40 mm"), z="20 mm")
    joint = draft.screw("Screw", ground["hole_1"], nut["hole_1"], lead="3 mm", offset="20 mm")
    draft.turn("Motor", joint, "-30 rpm")
    draft.require(DriveEffort(name="Torque", driver="motor", at_most="1 N m"))
    e = evaluator.evaluate(changed(draft.document, "against_z"))
    mass, _, _ = of_part(e, "nut")
    assert e.verdicts["torque"].value == pytest.approx(mass * G * 0.003 / (2 * np.pi), rel=1e-6)


@pytest.mark.parametrize(
    ("acts", "force"), [("against_the_motion", 40.0), ("with_the_motion", 40.0), ("always", 40.0), ("always", -15.0)]
)
def test_a_slide_works_against_its_load(evaluator: Evaluator, acts: str, force: float) -> None:
    draft = Draft("Slide")
    ground = draft.part("Ground", "steel", LinkBar(distance="60 mm"))
    block = draft.part("Block", "steel", LinkBar(distance="40 mm"), z="20 mm")
    joint = draft.prismatic("Guide", ground["hole_1"], block["hole_1"], offset="20 mm")
    draft.slide("Push rod", joint, "10 mm/s")
    draft.push("Load", ground["hole_1"], block["hole_2"], force=f"{force} N", acts=acts)
    e = evaluator.moved(draft.document)
    times = np.linspace(0, 1, 5)
    wanted = {"against_the_motion": force, "with_the_motion": -force}.get(acts, -force)
    assert effort(e, "push_rod", times) == pytest.approx(np.full(5, wanted), rel=1e-9)


def test_thrust_that_is_not_reckoned_with_is_named(evaluator: Evaluator) -> None:
    document = two(Pulley(diameter="60 mm"), Pulley(diameter="30 mm"))
    e = evaluator.evaluate(
        changed(document, requirements={"force": JointForce(name="Force", joint=next(iter(document.joints)))})
    )
    assert "presses or pulls on its axes" in undecided(e, "force")


@pytest.mark.parametrize("module", MODULES)
def test_drives_bring_all_the_power_that_the_links_take(evaluator: Evaluator, module: str) -> None:
    """Torque times speed of all drives is what masses, springs and weight take at that moment: whatever the joints, no work is lost."""
    document = changed(
        read((DEMO.parent / f"{module.replace('_', '-')}.json").read_text(encoding="utf-8")), "against_y"
    )
    e = evaluator.evaluate(document)
    assert e.motion is not None
    times = np.linspace(0, e.motion.period, 11)[1:-1] + 1e-4 * e.motion.period
    pose, velocity, acceleration = moments(e, times)
    needed = inertia(e, pose, velocity, acceleration) - acting(e, pose, velocity, times)
    power = (needed * velocity).sum(axis=(1, 2))
    brought = np.zeros(len(times))
    for i, driver in document.drivers.items():
        c = e.coordinate(driver.joint, driver.coordinate == "turn")
        assert c is not None
        brought += effort(e, i, times) * interpolated(c.whole, e.motion.track.folded(times), 1)
    assert brought == pytest.approx(power, rel=1e-5, abs=1e-6 * float(np.abs(power).max()) + 1e-9)


def test_curves_of_effort_and_force_are_those_of_the_requirements(evaluator: Evaluator) -> None:
    document = changed(four_bar(*SIZES, speed="300 rpm", duration="0.2 s"), "against_y")
    draft = Draft("Curves", document)
    draft.follow(EffortCurve(name="Torque", driver="motor"))
    draft.follow(JointForceCurve(name="Bearing", joint="crank_in_ground"))
    draft.follow(JointForceCurve(name="Along", joint="crank_in_ground", of="along"))
    e = evaluator.evaluate(draft.document)
    torque, bearing = evaluated_curve(e, "torque"), evaluated_curve(e, "bearing")
    assert isinstance(torque, MeasuredCurve)
    assert isinstance(bearing, MeasuredCurve)
    wanted = newton_euler(e, 10 * np.pi * torque.times, 10 * np.pi, -1j, 0.0)
    assert torque.series["value"] == pytest.approx(wanted["torque"], rel=1e-6, abs=1e-8)
    assert bearing.series["value"] == pytest.approx(np.abs(wanted["crank_in_ground"]), rel=1e-6)
    assert "along its axis" in str(evaluated_curve(e, "along"))
    with pytest.raises(ValidationFailed, match="known only at the frames: use Effort of a drive"):
        draft.require(CurveLimit(name="Limit", curve="torque", at_most="1 N m"))


@pytest.mark.parametrize("sign", [1, -1])
def test_a_spring_that_is_wound_on_from_turn_to_turn_is_looked_at_to_the_end(evaluator: Evaluator, sign: int) -> None:
    """E d^4 / (64 D n) times the angle: after five turns against the spring; turned the other way it is most at the start."""
    document = arm(speed=f"{-sign * 60} rpm")
    document = document.model_copy(update={"cycle": document.cycle.model_copy(update={"duration": "5 s"})})
    spring = TorsionSpringPair(
        name="Spring", a=At(placed="ground", datum="hole_1"), b=At(placed="bar", datum="hole_1"), preload="30 deg"
    )
    asked = {
        "torque": DriveEffort(name="Torque", driver="motor", at_most="0.5 N m"),
        "sound": SpringStrength(name="Sound", pair="spring", stress="2000 MPa"),
    }
    e = evaluator.evaluate(changed(document, pairs={"spring": spring}, requirements=asked))
    turned = np.radians(30) + (10 * np.pi if sign > 0 else 0)
    torque = 206e9 * 0.001**4 / (64 * 0.012 * 5) * turned
    assert e.verdicts["torque"].value == pytest.approx(torque, rel=1e-6)
    assert e.verdicts["sound"].value == pytest.approx(32 * torque / (np.pi * 0.001**3) / 2e9, rel=1e-6)
    assert e.verdicts["torque"].holds is (sign < 0)
    assert e.verdicts["torque"].time == pytest.approx(5 if sign > 0 else 0)


@pytest.mark.parametrize("speed", ["45 rpm", "-45 rpm"])
def test_a_rack_presses_its_gear_away(evaluator: Evaluator, speed: str) -> None:
    """Torque F r; the gear's bearing bears F / cos a, the rack's guide F tan a across its way, away from the gear."""
    draft, turn, slide = rack_and_pinion()
    draft.turn("Motor", turn, speed)
    draft.push(
        "Load",
        At(placed="plate", datum="right"),
        At(placed="rack", datum="right"),
        force="50 N",
        acts="against_the_motion",
    )
    e = evaluator.evaluate(draft.document)
    times, alpha = np.linspace(0.01, 0.2, 7), np.radians(20)
    assert np.abs(effort(e, "motor", times)) == pytest.approx(np.full(7, 50 * 0.020), rel=1e-6)
    assert reaction(e, turn, times).across == pytest.approx(np.full(7, 50 / np.cos(alpha)), rel=1e-6)
    guide = reaction(e, slide, times)
    assert guide.across == pytest.approx(np.full(7, 50 * np.tan(alpha)), rel=1e-6)
    assert guide.force[:, 1] == pytest.approx(np.full(7, 50 * np.tan(alpha)), rel=1e-6)  # the rack lies below the gear


def test_a_planets_pin_bears_both_meshes_and_neither_separating_force(evaluator: Evaluator) -> None:
    """Sun and ring press one planet outwards and inwards alike: its pin bears the carrier's torque over its arm, and no more."""
    document = planetary(24, 12, 3, "ring").model_copy(update={"repeats": {}})
    resisting = TorquePair(
        name="Load", a=At(placed="plate", datum="centre"), b=At(placed="carrier", datum="axis"), torque="2 N m"
    )
    asked = {
        "pin": JointForce(name="Pin", joint="planet_on_pin"),
        "teeth": ToothBending(name="Teeth", pair="sun_and_planet"),
    }
    e = evaluator.evaluate(changed(document, pairs={"load": resisting}, requirements=asked))
    assert e.verdicts["pin"].value == pytest.approx(2 / 0.018, rel=1e-4)
    width = 0.006
    bent = 1 / 0.018 / (width * 0.001 * lewis(Tooth(0.001, 12, np.radians(20))))
    assert e.verdicts["teeth"].value == pytest.approx(bent, rel=1e-3)


def test_a_drive_that_nothing_resists_holds_its_limit(evaluator: Evaluator) -> None:
    """Two gears at constant speed, no weight, no load: the torque is the rounding of numbers that cancel, and holds any limit."""
    draft = Draft("Idle", gear_train())
    draft.require(DriveEffort(name="Effort", driver="motor", at_most="1 N mm"))
    (verdict,) = (v for v in evaluator.evaluate(draft.document).verdicts.values() if v.kind == "drive_effort")
    assert verdict.holds, verdict.words
    assert verdict.value == 0
