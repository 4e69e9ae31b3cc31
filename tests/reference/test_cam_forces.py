"""Springs, pressure angles and contact forces against closed forms and a worked example.

Spring: Shigley, Mechanical Engineering Design, example 10-1 (0.037 in music wire, 7/16 in outside, 10.5 working coils,
G = 11.85 Mpsi: 4.13 lbf/in; 6.46 lbf stress the wire to 146 kpsi by Bergsträsser's factor): from memory.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from tests.cams import sizes, sliding, swinging
from tests.reference.test_cams import TURN, lift, moved, swing
from uhrwerk.core.document import Document, apply, parse
from uhrwerk.core.elements.cams import SlidingFlat, SlidingRoller, SwingingRoller
from uhrwerk.core.elements.cams.plate_cam import traced
from uhrwerk.core.elements.cams.shape import programme
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.core.forces.cam_pressure_angle import pressure
from uhrwerk.core.forces.inverse_dynamics import contact_force
from uhrwerk.core.forces.springs import run
from uhrwerk.core.joints import spring
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.spring import SpringPair
from uhrwerk.core.quantity import Scope
from uhrwerk.core.requirements.contact_kept import ContactKept
from uhrwerk.core.requirements.pressure_angle import PressureAngle
from uhrwerk.core.requirements.spring_strength import SpringStrength
from uhrwerk.demo.folder import folder

POUND = 4.4482216152605


def held(document: Document, requirements: dict[str, object] | None = None, **how: str) -> Document:
    """With a compression spring between the plate's side and the slider's, and requirements."""
    one = SpringPair(name="Spring", a=At(placed="plate", datum="right"), b=At(placed="slider", datum="right"), **how)  # type: ignore[arg-type]
    pairs = document.pairs | ({"spring": one} if how else {})
    return document.model_copy(update={"pairs": pairs, "requirements": requirements or {}})


def test_rate_and_stress_of_a_spring_are_those_of_the_worked_example() -> None:
    stated = SpringPair(
        name="s", a=At(placed="a", datum="axis"), b=At(placed="b", datum="axis"), wire_diameter="0.037 in", mean_diameter="0.4 in", active_coils="10.5",
        shear_modulus="11.85e6 * 6.894757293 * 1000 Pa", free_length="2 in",
    )  # fmt: skip
    n = numbers(stated, Scope())
    assert spring.rate(n) / (POUND / 0.0254) == pytest.approx(4.13, abs=0.005)
    assert SpringPair.stress(n, 6.46 * POUND, 0) / 6.894757293e6 == pytest.approx(146, abs=0.5)
    assert SpringPair.push(n, 1.5 * 0.0254, 0) / POUND == pytest.approx(2.06, abs=0.01)
    assert SpringPair.push(n, 2.5 * 0.0254, 0) == 0.0
    assert spring.solid_length(n) == pytest.approx(12.5 * 0.037 * 0.0254)


def test_a_springs_length_and_force_follow_the_motion(evaluator: Evaluator) -> None:
    document = held(
        sliding(SlidingRoller(lift=lift())),
        free_length="90 mm",
        wire_diameter="1 mm",
        mean_diameter="8 mm",
        active_coils="10",
    )
    found = run(evaluator.moved(document), "spring")
    assert found is not None
    coordinate = moved(evaluator, document, found.times * TURN)
    assert found.length == pytest.approx(-coordinate, abs=1e-8)
    rate = 81.5e9 * 0.001**4 / (8 * 0.008**3 * 10)
    assert found.force == pytest.approx(rate * np.maximum(0, 0.090 + coordinate), abs=1e-5)


@pytest.mark.parametrize("law", ["poly345", "modified_sine"])
@pytest.mark.parametrize("speed", [60.0, 600.0])
def test_cam_and_follower_press_as_newton_has_it(evaluator: Evaluator, law: str, speed: float) -> None:
    """N cos(pressure angle) = m s'' w^2 + spring; without a spring the follower leaves where it is slowed down."""
    shape = SlidingRoller(lift=lift(law=law), offset="4 mm")
    document = sliding(shape, aside="4 mm")
    driver = document.drivers["motor"].model_copy(update={"speed": f"{speed} rpm"})
    document = document.model_copy(update={"drivers": {"motor": driver}})
    document = apply(document, parse({"kind": "set_value", "path": "cycle.duration", "value": f"{60 / speed!r} s"}))
    sprung = held(document, free_length="90 mm", wire_diameter="1 mm", mean_diameter="8 mm", active_coils="10")
    angle = np.linspace(0.05, TURN - 0.05, 301)
    omega = speed / 60 * TURN
    for one, stiff in ((document, 0.0), (sprung, 81.5e9 * 0.001**4 / (8 * 0.008**3 * 10))):
        e = evaluator.evaluate(one)
        n = numbers(one.parts["cam"].element, one.scope())
        p = programme(n.outline.lift)
        s, a = p.derivative(angle, 0), p.derivative(angle, 2)
        rest = np.sqrt(0.03**2 - 0.004**2)
        length = 0.18 - 0.01 - 0.08 - rest - s
        pushed = e.part_mass["slider"] * a * omega**2 + stiff * np.maximum(0, 0.090 - length)
        found = contact_force(e, "runs", angle / omega)
        # within four degrees of where the jerk jumps, the spline through the outline rounds the acceleration
        corners = np.radians([0, 120, 180, 300, 360] + ([15, 105, 195, 285] if law == "modified_sine" else []))
        smooth = np.abs(angle[:, None] - corners).min(axis=1) > np.radians(4)
        assert found[smooth] == pytest.approx(
            (pushed / np.cos(traced(n, angle).pressure))[smooth], rel=2e-5, abs=2e-6 * omega**2 / 40
        )


def test_contact_kept_fails_without_a_spring_and_holds_with_one(evaluator: Evaluator) -> None:
    asked = {"kept": ContactKept(name="Kept", pair="runs", at_least="0.1 N")}
    document = sliding(SlidingRoller(lift=lift()))
    v = evaluator.evaluate(held(document, asked)).verdicts["kept"]
    assert v.holds is False
    assert "they would part" in v.words
    v = evaluator.evaluate(held(document, asked, free_length="90 mm")).verdicts["kept"]
    assert v.holds is True
    assert v.value is not None
    assert v.value > 0.1


@pytest.mark.parametrize("limit", ["20 deg", "35 deg"])
def test_the_largest_pressure_angle_is_found_between_the_frames(evaluator: Evaluator, limit: str) -> None:
    document = sliding(SlidingRoller(lift=lift(), offset="3 mm"), aside="3 mm")
    document = document.model_copy(update={"cycle": document.cycle.model_copy(update={"frames": "12"})})
    e = evaluator.evaluate(held(document, {"p": PressureAngle(name="P", pair="runs", at_most=limit)}))
    n = numbers(document.parts["cam"].element, document.scope())
    theirs = float(np.abs(traced(n, np.linspace(0, TURN, 400_001)).pressure).max())  # type: ignore[arg-type]
    v = e.verdicts["p"]
    assert v.value == pytest.approx(theirs, abs=1e-7)
    assert v.holds is bool(theirs <= np.radians(float(limit.split()[0])))


def test_pressure_angles_of_a_flat_face_and_of_an_arm(evaluator: Evaluator) -> None:
    found = pressure(evaluator.moved(sliding(SlidingFlat(lift=lift("10 mm")), radius="")), "runs")
    assert found is not None
    assert found.most.high < 1e-6
    shape = SwingingRoller(swing=swing())
    document, _ = swinging(shape)
    found = pressure(evaluator.moved(document), "runs")
    assert found is not None
    angle = np.linspace(0, TURN, 200_001)
    assert found.most.high == pytest.approx(float(np.abs(traced(sizes(shape), angle).pressure).max()), abs=1e-6)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("ends", "slender"), [("both_flat_and_guided", 5.24), ("flat_and_pivoting", 3.74), ("both_pivoting", 2.62), ("flat_and_free", 1.31)]
)  # fmt: skip
def test_a_spring_buckles_from_the_slenderness_of_the_handbook(ends: str, slender: float) -> None:
    """Steel springs never buckle below L0 / D = 2.62 / nu: Wahl, Mechanical Springs; EN 13906-1, from memory (2.57 to 2.63 are
    printed, by the moduli taken). At the limit the deflection is 0.5 / (1 - G / E) of the length."""
    stated = SpringPair(
        name="s", a=At(placed="a", datum="axis"), b=At(placed="b", datum="axis"), mean_diameter="10 mm", ends=ends
    )  # type: ignore[arg-type]

    def at(ratio: float) -> float | None:
        return spring.buckling_length(numbers(stated.model_copy(update={"free_length": f"{10 * ratio!r} mm"}), Scope()))

    assert at(0.975 * slender) is None
    found = at(1.03 * slender)
    assert found is not None
    low, high = 0.975 * slender, 1.03 * slender
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if at(middle) is None else (low, middle)
    edge = at(high)
    assert edge is not None
    g = 81.5 / 206
    assert edge / (0.01 * high) == pytest.approx(1 - 0.5 / (1 - g), abs=1e-4)
    far = at(30 * slender)  # a very slender one gives way at once: s = (pi D / nu)^2 / (4 L0 (0.5 + g)), to first order
    assert far is not None
    long = 0.3 * slender
    nu = {"both_flat_and_guided": 0.5, "flat_and_pivoting": 0.7, "both_pivoting": 1.0, "flat_and_free": 2.0}[ends]
    assert long - far == pytest.approx((np.pi * 0.01 / nu) ** 2 / (4 * long * (0.5 + g)), rel=2e-3)


@pytest.mark.parametrize(
    ("how", "holds", "words"),
    [
        ({"free_length": "62 mm", "wire_diameter": "1 mm", "mean_diameter": "14 mm", "active_coils": "12"}, True, "of the stress allowed"),
        ({"free_length": "62 mm", "wire_diameter": "1.6 mm", "mean_diameter": "14 mm", "active_coils": "26"}, False, "of its length is coils that touch"),
        ({"free_length": "62 mm", "wire_diameter": "0.5 mm", "mean_diameter": "6 mm", "active_coils": "20", "ends": "flat_and_free"}, False, "at which it buckles"),
        ({"free_length": "160 mm", "wire_diameter": "2 mm", "mean_diameter": "8 mm", "active_coils": "10", "elastic_modulus": "206 GPa"}, False, "of the stress allowed"),
    ],
)  # fmt: skip
def test_whether_a_spring_is_sound(evaluator: Evaluator, how: dict[str, str], holds: bool, words: str) -> None:
    asked = {"sound": SpringStrength(name="Sound", pair="spring", stress="700 MPa")}
    document = held(sliding(SlidingRoller(lift=lift())), asked, **how)
    e = evaluator.evaluate(document)
    v = e.verdicts["sound"]
    assert v.holds is holds, v.words
    n, found = numbers(e.document.pairs["spring"], Scope()), run(e, "spring")
    assert found is not None
    shortest = float(found.length.min())
    parts = [
        SpringPair.stress(n, spring.rate(n) * (n.free_length - shortest), 0) / 700e6,
        (n.active_coils + 2) * n.wire_diameter / shortest,
    ]
    parts += [b / shortest for b in [spring.buckling_length(n)] if b is not None]
    assert v.value == pytest.approx(max(parts), rel=1e-6)
    assert words in v.words.split(";")[0]


def test_a_spring_is_looked_at_in_every_turn_of_a_long_cycle(evaluator: Evaluator) -> None:
    """Seven hundred and twenty turns: as many even moments as were looked at would all fall on the same angle of the cam."""
    asked = {"sound": SpringStrength(name="Sound", pair="spring", stress="700 MPa")}
    document = held(
        sliding(SlidingRoller(lift=lift())),
        asked,
        free_length="62 mm",
        wire_diameter="1.2 mm",
        mean_diameter="14 mm",
        active_coils="12",
    )
    found = []
    for turns in (1, 720):
        cycle = document.cycle.model_copy(update={"duration": f"{turns} s", "frames": "12"})
        e = evaluator.evaluate(document.model_copy(update={"cycle": cycle}))
        found.append(e.verdicts["sound"].value)
    assert found[0] == pytest.approx(found[1], rel=1e-4)


def test_what_is_no_cam_is_no_answer(evaluator: Evaluator) -> None:
    document = held(sliding(SlidingRoller(lift=lift())), free_length="90 mm")
    asked = {
        "p": PressureAngle(name="P", pair="spring"), "k": ContactKept(name="K", pair="spring"),
    }  # fmt: skip
    e = evaluator.evaluate(document.model_copy(update={"requirements": asked}))
    assert [v.holds for v in e.verdicts.values()] == [None, None]
    still = document.model_copy(update={"drivers": {}, "requirements": {"p": PressureAngle(name="P", pair="runs")}})
    assert evaluator.evaluate(still).verdicts["p"].holds is None


def test_worker_processes_are_told_all_that_a_pair_is(tmp_path: Path) -> None:
    """Cam and roller, swept by workers, touch as they do here; a task that lost its touch would not be decided."""
    many = Evaluator(folder=tmp_path, workers=2)
    try:
        v = many.evaluate(folder()).verdicts["nothing_overlaps"]
    finally:
        many.close()
    assert (v.holds, v.words) == (True, "no two parts share space deeper than 0.005 mm; 7 intended contacts")


def test_what_reaches_beyond_the_outline_is_still_looked_for(evaluator: Evaluator) -> None:
    """A block on the cam that stands in the roller's way overlaps it, though both touch by their pair."""
    document = apply(folder(), parse({"kind": "add_step", "part": "cam", "step": {
        "kind": "extrude", "name": "Block", "plane": "xy", "length": "6 mm",
        "outline": {"kind": "rectangle", "x": "40 mm", "y": "0 mm", "length": "30 mm", "width": "8 mm"},
    }}))  # fmt: skip
    e = evaluator.evaluate(document)
    assert e.verdicts["nothing_overlaps"].holds is False
    (found,) = (f for f in e.findings if {f.a.split("/")[0], f.b.split("/")[0]} == {"cam", "roller"})
    assert found.depth > 0.002
