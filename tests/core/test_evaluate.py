"""Evaluation: the demo's verdicts, incremental equals from scratch, progress, cancelling, honest gaps."""

from __future__ import annotations

import numpy as np
import pytest

from tests.conftest import DEMO
from tests.mechanisms import four_bar, planetary
from uhrwerk import Clearance, Determinate, Draft, LinkBar, MassLimit, NoInterference, Pin, ValidationFailed
from uhrwerk.core.assembly.mass_properties import mass_of
from uhrwerk.core.document import Document
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.evaluation.evaluator import Cancelled, Evaluator
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.upgrade import read
from uhrwerk.demo.foil_tucker import MENDED
from uhrwerk.draft import Handle


def test_the_tucker_fails_as_shipped_and_names_pair_moment_and_amount(tucked: Evaluation) -> None:
    assert tucked.holds is False
    verdict = tucked.verdicts["rocker_clears_post"]
    assert verdict.holds is False
    assert set(verdict.parts) == {"plate/guide_post", "rocker_and_finger/bar"}
    assert "guide post" in verdict.words
    assert verdict.margin is not None
    assert verdict.margin < -1e-3
    assert verdict.time == pytest.approx(1.3914, abs=2e-3)
    assert tucked.verdicts["nothing_overlaps"].holds is False
    assert tucked.verdicts["moving_mass"].holds
    assert tucked.verdicts["nothing_is_loose"].holds


def test_one_changed_size_mends_it(mended_tucker: Evaluation, tucker: Document) -> None:
    assert mended_tucker.holds is True
    before, after = tucker.model_dump(), mended_tucker.document.model_dump()
    path = MENDED[0].split(".")
    before[path[0]][path[1]][path[2]] = MENDED[1]
    assert before == after


def test_mobility_of_the_tucker(tucked: Evaluation) -> None:
    assert tucked.mobility is not None
    assert (tucked.mobility.count, tucked.mobility.undriven, tucked.mobility.loose) == (1, 0, [])


def test_intended_contacts_are_told_apart(mended_tucker: Evaluation) -> None:
    """Pressed pins of the bore's own size touch; pins in wider bores have half the play, exactly."""
    by_pair = {frozenset((f.a, f.b)): f for f in mended_tucker.findings}
    pressed = by_pair[frozenset(("rocker_and_finger/bar", "rocker_pivot/pin"))]
    assert pressed.contact
    assert pressed.depth == 0
    turning = by_pair[frozenset(("plate/plate", "rocker_pivot/pin"))]
    assert turning.distance == pytest.approx(25e-6, abs=1e-9)
    assert turning.error < 1e-8


def same(a: Evaluation, b: Evaluation) -> None:
    """What was kept from a motion that differs in its last digits serves; all else is the same."""
    for i, v in a.verdicts.items():
        one, other = v.data(), b.verdicts[i].data()
        for name in ("value", "margin", "error", "time", "points"):
            values = (np.array([] if d[name] is None else d.pop(name), dtype=float) for d in (one, other))
            np.testing.assert_allclose(*values, rtol=1e-7, atol=1e-9, err_msg=f"{i}: {name}")
        assert one == other
    assert a.motion is not None
    assert b.motion is not None
    np.testing.assert_array_equal(a.motion.pose, b.motion.pose)
    assert [(f.a, f.b, f.apart, f.contact) for f in a.findings] == [(f.a, f.b, f.apart, f.contact) for f in b.findings]
    for one, other in zip(a.findings, b.findings, strict=True):
        assert (one.distance, one.error, one.depth) == pytest.approx(
            (other.distance, other.error, other.depth), abs=1e-9
        )


CHANGES = [
    ("parameters.finger_w.formula", "11 mm"),  # a size: one solid, its pairs
    ("parameters.motor_speed.formula", "-90 rpm"),  # the motion alone
    ("parts.coupler.element.distance", "86 mm"),  # both
    ("requirements.rocker_clears_post.at_least", "2 mm"),  # neither
    ("parts.wheel_arbor.material", "aluminium"),
]  # fmt: skip


@pytest.mark.parametrize(("path", "value"), CHANGES)
def test_incremental_equals_from_scratch(evaluator: Evaluator, tucked: Evaluation, path: str, value: str) -> None:
    draft = Draft("x", tucked.document)
    draft.set(path, value)
    incremental = evaluator.evaluate(draft.document)
    scratch = Evaluator(limit=60)
    try:
        same(incremental, scratch.evaluate(draft.document))
    finally:
        scratch.kernel_pool.close()


def test_a_new_requirement_computes_neither_solids_nor_motion_again(evaluator: Evaluator, tucked: Evaluation) -> None:
    draft = Draft("x", tucked.document)
    draft.require(MassLimit(name="Light", of="swinging_arm", at_most="30 g"))
    before = evaluator.kernel_pool.built
    result = evaluator.evaluate(draft.document)
    assert evaluator.kernel_pool.built == before
    assert result.motion is tucked.motion
    assert result.verdicts["light"].holds is False


def test_evaluating_twice_gives_the_same(evaluator: Evaluator, tucked: Evaluation) -> None:
    same(evaluator.evaluate(tucked.document), tucked)


def test_display_units_change_no_verdict(evaluator: Evaluator, tucked: Evaluation) -> None:
    draft = Draft("x", tucked.document)
    draft.set("units", {"length": "in", "mass": "lb"})
    result = evaluator.evaluate(draft.document)
    for i, v in tucked.verdicts.items():
        assert result.verdicts[i].holds == v.holds
        assert result.verdicts[i].value == pytest.approx(v.value, rel=1e-9)
    assert " in" in result.verdicts["rocker_clears_post"].words


def test_progress_is_told_and_can_be_stopped(tucker: Document) -> None:
    fresh = Evaluator(limit=60)
    told: list[tuple[str, float]] = []
    try:
        fresh.evaluate(tucker, lambda words, part: told.append((words, part)))
        assert [p for _, p in told] == sorted(p for _, p in told)
        assert told[-1] == ("done", 1.0)
        assert any("pair" in words for words, _ in told)
        with pytest.raises(Cancelled):
            fresh.evaluate(tucker, cancelled=lambda: True)
    finally:
        fresh.kernel_pool.close()


def test_an_empty_document_has_no_answer_but_says_why(evaluator: Evaluator) -> None:
    draft = Draft("Empty")
    draft.require(NoInterference(name="Nothing overlaps"))
    draft.require(Determinate(name="Nothing is loose"))
    result = evaluator.evaluate(draft.document)
    assert result.holds is None
    assert all(v.holds is None and "Undecided" in v.words for v in result.verdicts.values())


def test_a_part_that_nothing_holds_is_named(evaluator: Evaluator) -> None:
    draft = Draft("x", four_bar(0.03, 0.09, 0.06, 0.08))
    draft.part("Stray pin", "steel", Pin(), y="200 mm")
    draft.require(Determinate(name="Nothing is loose"))
    verdict = evaluator.evaluate(draft.document).verdicts["nothing_is_loose"]
    assert verdict.holds is False
    assert "Stray pin" in verdict.words


def test_a_freedom_without_a_driver_is_told(evaluator: Evaluator) -> None:
    draft = Draft("x", four_bar(0.03, 0.09, 0.06, 0.08))
    draft.require(Determinate(name="Nothing is loose"))
    draft.set("drivers", {})
    verdict = evaluator.evaluate(draft.document).verdicts["nothing_is_loose"]
    assert verdict.holds is False
    assert "Crank turns in Ground" in verdict.words


def test_a_contradiction_leaves_every_verdict_open_and_names_the_joints(evaluator: Evaluator) -> None:
    draft = Draft("x", four_bar(0.03, 0.02, 0.02, 0.2))
    draft.require(NoInterference(name="Nothing overlaps"))
    result = evaluator.evaluate(draft.document)
    assert result.holds is None
    assert "joints.coupler_on_crank" in result.conflict
    assert "cannot hold together" in result.verdicts["nothing_overlaps"].words


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        ("joints.coupler_on_crank_pin.a.datum", "lost_pin", "waits"),
        ("parts.motor_pinion.element.module", "1.25 mm", "module and pressure angle"),
        ("joints.knuckle_pressed_in_rocker.a.placed", "coupler", "has no effect"),
    ],
)
def test_no_distance_is_judged_while_a_joint_or_pair_is_out_of_force(
    evaluator: Evaluator, tucked: Evaluation, path: str, value: str, words: str
) -> None:
    draft = Draft("x", tucked.document)
    draft.set(path, value)
    if "effect" in words:  # the knuckle now holds coupler and rocker together through both its joints
        draft.rigid(
            "Knuckle in rocker too",
            Handle("rocker_and_finger")["hole_2"],
            Handle("knuckle_pin")["axis"],
            offset="-7.5 mm",
        )
    result = evaluator.evaluate(draft.document)
    assert any(words in p.words for p in result.problems)
    assert result.verdicts["rocker_clears_post"].holds is None
    assert "Undecided" in result.verdicts["nothing_overlaps"].words


def test_a_body_that_vanished_is_told(evaluator: Evaluator, tucked: Evaluation) -> None:
    draft = Draft("x", tucked.document)
    draft.set("requirements.rocker_clears_post.b.body", "old_post")
    verdict = evaluator.evaluate(draft.document).verdicts["rocker_clears_post"]
    assert verdict.holds is None
    assert "'old_post'" in verdict.words


def test_sizes_that_do_not_fit_are_refused_when_they_are_set(tucker: Document) -> None:
    with pytest.raises(ValidationFailed) as error:
        Draft("x", tucker).set("parts.wheel_with_crank_pin.element.bore", "80 mm")
    assert error.value.faults[0][0] == "parts.wheel_with_crank_pin.element.bore"


def test_mass_of_two_pins_by_hand(evaluator: Evaluator) -> None:
    """Two steel cylinders: mass by volume times density, centre between them, inertia by the parallel axes theorem."""
    draft = Draft("Two pins")
    draft.part("One", "steel", Pin(diameter="10 mm", length="20 mm"))
    draft.part("Two", "steel", Pin(diameter="10 mm", length="20 mm"), x="60 mm")
    draft.require(MassLimit(name="Mass", at_most="30 g"))
    result = evaluator.evaluate(draft.document)
    one = 7850 * np.pi * 0.005**2 * 0.02
    whole = result.masses["whole"]
    assert whole.mass == pytest.approx(2 * one, rel=1e-9)
    np.testing.assert_allclose(whole.centre, [0.03, 0, 0.01], atol=1e-12)
    along = one * (3 * 0.005**2 + 0.02**2) / 12
    about_z = one * 0.005**2 / 2
    np.testing.assert_allclose(
        np.diag(whole.inertia), [2 * along, 2 * along + 2 * one * 0.03**2, 2 * about_z + 2 * one * 0.03**2], rtol=1e-9
    )
    assert mass_of([], {}, {}).mass == 0


def test_turning_a_part_turns_its_inertia(evaluator: Evaluator) -> None:
    draft = Draft("Turned")
    draft.part("Bar", "brass", LinkBar(), turn_z="90 deg", x="10 mm")
    level = Draft("Level")
    level.part("Bar", "brass", LinkBar())
    turned, plain = (evaluator.evaluate(d.document).masses["whole"] for d in (draft, level))
    np.testing.assert_allclose(np.diag(turned.inertia), np.diag(plain.inertia)[[1, 0, 2]], rtol=1e-9)
    np.testing.assert_allclose(turned.centre, [0.01, plain.centre[0], plain.centre[2]], atol=1e-12)


def test_clearance_of_one_part_with_itself_has_no_answer(evaluator: Evaluator) -> None:
    document = read(DEMO.read_text(encoding="utf-8"))
    draft = Draft("x", document)
    draft.require(Clearance(name="Self", a=Of(placed="plate"), b=Of(placed="plate", body="guide_post")))
    assert evaluator.evaluate(draft.document).verdicts["self"].holds is None


def test_every_stage_is_heard_of_in_order() -> None:
    """Nobody waits without a word: motion, solids, clearances, and each requirement with the pairs that it looks at again."""
    heard: list[tuple[str, float]] = []
    evaluator = Evaluator()
    try:
        out = evaluator.evaluate(planetary(24, 12, 3, "ring"), lambda words, far: heard.append((words, far)))
    finally:
        evaluator.kernel_pool.close()
    words = [w for w, _ in heard]
    for stage in ("motion", "solids: ", "clearances: pair", "Nothing overlaps: pair 1 of", "done"):
        assert any(w.startswith(stage) for w in words), stage
    far = [
        f for w, f in heard if not w.startswith("clearances")
    ]  # pairs are looked at twice: those that may meet, then the rest
    assert far == sorted(far)
    before = len(heard)
    out.report("nobody is listening any more")
    assert len(heard) == before
