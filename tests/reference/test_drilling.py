"""Corrections as build steps: holes and studs that balance a rotor, by the solids that come of them and by closed forms."""

from __future__ import annotations

import numpy as np
import pytest

from tests.reference.test_balance import weights
from uhrwerk import BalanceGrade, Bore, Draft, EccentricDisc, FramePlate, Pin
from uhrwerk.core.balance import DrillingPlan, Form, plans
from uhrwerk.core.balance.rotor import Rotor, rotors
from uhrwerk.core.document import Document
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.elements import Like
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.outlines import Circle
from uhrwerk.core.remedies import planned, worked
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.steps import Cut
from uhrwerk.demo import mended

STEEL = 7850.0


def camshaft(length: str = "mm") -> Document:
    """A disc with a crank pin on a shaft in a plate, at 900 rev/min."""
    d = Draft("Camshaft")
    bores = {"shaft": Bore(x="60 mm", y="60 mm", diameter="10.05 mm")}
    plate = d.part("Plate", "aluminium", FramePlate(length="120 mm", width="120 mm", thickness="10 mm", bores=bores))
    shaft = d.part("Shaft", "steel", Pin(diameter="10 mm", length="60 mm"), x="60 mm", y="60 mm")
    disc = d.part(
        "Disc", "steel", EccentricDisc(diameter="60 mm", thickness="12 mm", bore="10 mm", eccentricity="22 mm", pin_diameter="4 mm", pin_height="3 mm"),
        x="60 mm", y="60 mm", z="20 mm",
    )  # fmt: skip
    turns = d.revolute("Shaft turns", plate["shaft"], shaft["axis"], offset="-10 mm")
    d.rigid("Disc on shaft", shaft["axis"], disc["axis"], offset="30 mm")
    d.turn("Motor", turns, "900 rpm")
    d.require(BalanceGrade(name="Quiet", joint=turns, grade="1 mm/s"))
    d.set("units.length", length)
    return d.document


def only(e: Evaluation) -> Rotor:
    (r,) = rotors(e).values()
    return r


@pytest.mark.parametrize("form", ["drilled", "added"])
@pytest.mark.parametrize("unit", ["mm", "in"])
def test_a_disc_with_a_pin_is_balanced_in_one_plane(evaluator: Evaluator, form: Form, unit: str) -> None:
    """The pin's unbalance by its own size: 4 mm thick, 3 mm long, 22 mm off the axis. What is planned takes that away, and the solid
    made with it is balanced to a thousandth of a micrometre, where it was off by some."""
    document = camshaft(unit)
    e = evaluator.evaluate(document)
    pin = STEEL * np.pi / 4 * 4e-3**2 * 3e-3 * 22e-3
    assert np.hypot(*only(e).first) == pytest.approx(pin, rel=1e-9)
    found = plans(e, only(e), 1, form)
    assert found
    for plan in found:
        (holes,) = plan.holes
        assert np.allclose(holes.unbalance, -only(e).first, rtol=1e-9)
        step = 1e-4 if unit == "mm" else 0.005 * 25.4e-3
        assert holes.length / step == pytest.approx(round(holes.length / step), abs=1e-6)  # it can be made
        after = evaluator.evaluate(accept(document, plan.command(document)))
        assert only(after).offset < 1e-9
        assert abs(only(after).mass - only(e).mass) == pytest.approx(holes.mass, rel=1e-9)
        assert after.verdicts["quiet"].holds is True


@pytest.mark.parametrize("form", ["drilled", "added"])
def test_in_two_planes_the_couple_goes_as_well(evaluator: Evaluator, form: Form) -> None:
    """The camshaft of the main drive, whose eccentric and its weight lie apart along it."""
    document = mended("main_drive")
    e = evaluator.evaluate(document)
    r = rotors(e)["camshaft_turns"]
    assert np.hypot(*r.couple) > 1e-7
    plan = plans(e, r, 2, form)[0]
    assert len(plan.holes) == 2
    after = rotors(evaluator.evaluate(accept(document, plan.command(document))))["camshaft_turns"]
    assert np.hypot(*after.couple) < 1e-4 * np.hypot(*r.couple)
    assert after.offset < 1e-3 * r.offset


def test_holes_side_by_side_where_one_has_no_room(evaluator: Evaluator) -> None:
    """A larger pin: the walls between, round and beneath them are kept."""
    draft = Draft("x", camshaft())
    draft.set("parts.disc.element.pin_diameter", "14 mm")
    draft.set("parts.disc.element.pin_height", "16 mm")
    document = draft.document
    e = evaluator.evaluate(document)
    holes = plans(e, only(e), 1, "drilled")[0].holes[0]
    assert len(holes.angles) > 1
    spots = np.array(holes.spots())
    apart = np.linalg.norm(np.diff(spots, axis=0), axis=1)
    assert (apart >= holes.diameter + 1e-3 - 1e-9).all()
    assert holes.radius + holes.diameter / 2 <= 30e-3 - 1e-3 + 1e-5
    assert holes.length <= 11e-3 + 1e-9
    after = evaluator.evaluate(accept(document, DrillingPlan((holes,)).command(document)))
    assert only(after).offset < 1e-8


def test_a_hole_that_runs_into_another_is_not_offered(evaluator: Evaluator) -> None:
    """A hollow narrower than the hole lies beneath its middle: the solid loses less than planned."""
    document = camshaft()
    e = evaluator.evaluate(document)
    (plan, *_) = plans(e, only(e), 1, "drilled")
    ((x, y),) = plan.holes[0].spots()
    cut = Cut(
        name="Hollow",
        plane="xy",
        offset="6 mm",
        depth="3 mm",
        outline=Circle(diameter="2 mm", x=f"{x!r} m", y=f"{y!r} m"),
    )
    draft = Draft("x", document)
    draft.step("disc", cut)
    hollow = evaluator.evaluate(draft.document)
    joint = next(iter(rotors(hollow)))
    assert worked(hollow, joint, plan, evaluator.evaluate) is None
    for p in planned(hollow, joint, 1, "drilled"):
        done = worked(hollow, joint, p, evaluator.evaluate)
        assert done is None or done.rotor.offset < 1e-8


def test_what_others_share_is_left_alone(evaluator: Evaluator) -> None:
    """A part that is placed twice, one that another is like, and one that was weighed: a hole in it would be elsewhere too, or would
    not count."""
    document = camshaft()
    placed = Draft("x", document)
    placed.place("disc", "Spare", x="200 mm")
    like = Draft("x", document)
    like.part("Mirror", "steel", Like(part="disc"), x="200 mm")
    weighed = Draft("x", document)
    weighed.set("parts.disc.measured_mass", "300 g")
    for draft in (placed, like, weighed):
        e = evaluator.evaluate(draft.document)
        assert not any(h.seat.part == "disc" for p in plans(e, only(e), 1, "drilled") for h in p.holes)
    e = evaluator.evaluate(document)
    assert any(h.seat.part == "disc" for p in plans(e, only(e), 1, "drilled") for h in p.holes)


def test_a_balanced_rotor_and_one_without_room_have_none(evaluator: Evaluator) -> None:
    balanced = weights(("0 deg", "20 mm", "24 mm"), ("180 deg", "20 mm", "24 mm"))
    e = evaluator.evaluate(balanced)
    r = only(e)
    assert r.offset < 1e-9
    assert plans(e, r, 1, "drilled") == []
    far = mended("folder")
    e = evaluator.evaluate(far)
    assert plans(e, rotors(e)["bell_crank_swings_in_plate"], 1, "drilled") == []
