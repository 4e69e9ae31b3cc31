"""A number that is turned: what is seen at a glance is what the proof says afterwards, or no answer; never another."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest

from uhrwerk import Bore, Draft, FramePlate, LinkBar, TurnSegment
from uhrwerk.core.document import Document, ValidationFailed, parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.evaluation.evaluator import LOOKED_AT_LATER, Evaluator
from uhrwerk.core.laws.quadratic import Quadratic
from uhrwerk.core.motion.drivers import TurnProgramme
from uhrwerk.core.remedies import turned
from uhrwerk.demo.foil_tucker import foil_tucker
from uhrwerk.demo.folder import folder
from uhrwerk.demo.gripper_ring import gripper_ring
from uhrwerk.demo.guard_lid import guard_lid
from uhrwerk.demo.main_drive import main_drive
from uhrwerk.demo.planetary_sample import planetary_sample
from uhrwerk.demo.pusher import pusher

TURNED: list[tuple[Callable[[], Document], str, list[int]]] = [
    (foil_tucker, "parts.coupler.element.distance", [1, -4, 30]), (main_drive, "parameters.fold.formula", [2, -30]),
    (guard_lid, "parts.lid_leaf.element.width", [-3]), (pusher, "parameters.crank.formula", [4, 17, 60]),
    (folder, "parameters.base.formula", [5]), (gripper_ring, "parameters.arm.formula", [2]),
]  # fmt: skip


@pytest.fixture(scope="module")
def other(solids: Path) -> Iterator[Evaluator]:
    """One that has seen no glance."""
    made = Evaluator(folder=solids)
    yield made
    made.close()


@pytest.mark.parametrize(("make", "path", "turns"), TURNED, ids=lambda x: getattr(x, "__name__", ""))
def test_a_glance_says_what_the_proof_says(
    evaluator: Evaluator, other: Evaluator, make: Callable[[], Document], path: str, turns: list[int]
) -> None:
    document = make()
    before = evaluator.evaluate(document)
    for steps in turns:
        after = accept(document, parse({"kind": "set_value", "path": path, "value": turned(document, path, steps)}))
        seen, proved = evaluator.glance(after, before), other.evaluate(after)
        assert not seen.proved
        assert proved.proved
        if proved.motion is not None:
            assert seen.motion is not None
            np.testing.assert_allclose(seen.motion.pose, proved.motion.pose, atol=1e-9)
        for i, v in seen.verdicts.items():
            if v.holds is None and v.words == LOOKED_AT_LATER:
                continue
            assert v.holds == proved.verdicts[i].holds, (steps, i, v.words, proved.verdicts[i].words)
            if v.value is not None and proved.verdicts[i].parts and v.kind != "no_interference":
                assert v.value == pytest.approx(proved.verdicts[i].value, abs=v.error + proved.verdicts[i].error + 1e-7)


def test_what_is_asked_of_all_pairs_is_never_held_at_a_glance(evaluator: Evaluator) -> None:
    """The number that mends it and one that lets two others run into one another: neither is told to hold."""
    document = foil_tucker()
    before = evaluator.evaluate(document)
    assert before.verdicts["nothing_overlaps"].holds is False
    for path, text in (("requirements.nothing_overlaps.depth", "30 mm"), ("parameters.finger_w.formula", "2 mm")):
        after = accept(document, parse({"kind": "set_value", "path": path, "value": text}))
        assert evaluator.glance(after, before).verdicts["nothing_overlaps"].holds is not True


def test_a_glance_is_no_result_that_is_kept(other: Evaluator) -> None:
    """What was seen on the way is not taken for the motion of the document afterwards."""
    document = pusher()
    before = other.evaluate(document)
    path = "parameters.crank.formula"
    after = accept(document, parse({"kind": "set_value", "path": path, "value": turned(document, path, 9)}))
    seen = other.glance(after, before)
    assert other.evaluate(after).motion is not seen.motion


def test_a_motion_that_ends_or_goes_elsewhere_is_followed_anew(evaluator: Evaluator) -> None:
    """A crank that comes to a dead point when it is turned far: a glance tells of it as the proof does."""
    document = foil_tucker()
    before = evaluator.evaluate(document)
    after = accept(document, parse({"kind": "set_value", "path": "parts.coupler.element.distance", "value": "50 mm"}))
    seen, proved = evaluator.glance(after, before), evaluator.evaluate(after)
    assert [p.words for p in seen.problems] == [p.words for p in proved.problems]
    assert (seen.motion is None) == (proved.motion is None)
    sample = planetary_sample()
    still = evaluator.evaluate(sample.model_copy(update={"drivers": {}, "curves": {}, "requirements": {}}))
    assert evaluator.glance(still.stated, still).motion is not None


def test_a_law_whose_corner_moves_is_followed_anew(evaluator: Evaluator, other: Evaluator) -> None:
    """The dwell of a programme begins earlier: no station of the known motion stands at its corner."""
    draft = Draft("Lift")
    plate = draft.part("Plate", "steel", FramePlate(bores={"axle": Bore(x="40 mm", y="50 mm", diameter="8 mm")}))
    arm = draft.part("Arm", "steel", LinkBar())
    joint = draft.revolute("Turns", plate["axle"], arm["hole_1"])
    over = {
        "out": TurnSegment(to="40 deg", over="120 deg", law=Quadratic()),
        "back": TurnSegment(over="120 deg", law=Quadratic()),
    }
    draft.drive(TurnProgramme(name="Timed", joint=joint, segments=over))
    before = evaluator.evaluate(draft.document)
    (driver,) = draft.document.drivers
    path = f"drivers.{driver}.segments.out.over"
    after = accept(draft.document, parse({"kind": "set_value", "path": path, "value": "97 deg"}))
    seen, proved = evaluator.glance(after, before), other.evaluate(after)
    assert seen.motion is not None
    assert proved.motion is not None
    np.testing.assert_allclose(seen.motion.pose, proved.motion.pose, atol=1e-9)
    np.testing.assert_allclose(seen.motion.acceleration, proved.motion.acceleration, atol=1e-6)
    assert len(seen.motion.track.times) == len(proved.motion.track.times)


def test_numbers_turn_by_sizes_that_can_be_made() -> None:
    document = foil_tucker()
    assert turned(document, "parts.coupler.element.distance", 3) == "88.3 mm"
    assert turned(document, "requirements.rocker_clears_post.at_least", -2) == "0.8 mm"
    for path in ("parameters.nobody.formula", "parts.coupler.element.bore_1"):
        with pytest.raises(ValidationFailed, match="not a number of its own"):
            turned(document, path, 1)
