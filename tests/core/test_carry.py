"""Pieces of mechanisms carried into others: nothing changes its size, and everything holds on to what it held."""

from __future__ import annotations

import numpy as np
import pytest

from tests.context import CONTEXT
from tests.mechanisms import four_bar
from uhrwerk import Draft, LinkBar, Pin
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.document import Document, ValidationFailed, parse
from uhrwerk.core.document.document import Units
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.copy_paste import included, piece
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.demo.foil_tucker import foil_tucker
from uhrwerk.demo.gripper_ring import gripper_ring
from uhrwerk.demo.main_drive import main_drive

SMALL = np.array([[-0.01] * 3, [0.01] * 3])


def put(document: Document, other: Document) -> tuple[Document, str]:
    found = included(document, other, lambda d, i: SMALL)
    return accept(document, parse(found.command)), found.selected


def sizes(document: Document, placed: str) -> dict:
    element = numbers(document.parts[document.placed[placed].part].element, document.scope())
    return {k: v for k, v in vars(element).items() if isinstance(v, float)}


def test_a_piece_has_what_joins_it_and_what_it_uses() -> None:
    found = piece(foil_tucker(), ["coupler", "rocker_and_finger", "rocker_pivot", "knuckle_pin"])
    assert found.name == "Swinging arm"  # the group of just these
    assert set(found.joints) == {"rocker_on_coupler", "pivot_pressed_in_rocker", "knuckle_pressed_in_rocker"}
    assert set(found.parameters) == {"arm_w", "finger_w", "play"}
    assert set(found.materials) == {"aluminium", "steel"}
    assert not found.drivers
    assert not found.requirements


def test_pasted_where_it_came_from_it_is_the_same_design_once_more() -> None:
    before = foil_tucker()
    after, selected = put(before, piece(before, ["coupler", "rocker_and_finger"]))
    assert selected == "groups.coupler"
    assert len(after.parts) == len(before.parts)
    assert after.parameters == before.parameters
    assert len(after.placed) == len(before.placed) + 2
    assert len(after.joints) == len(before.joints) + 1
    new = [i for i in after.placed if i not in before.placed]
    assert [after.placed[i].name for i in new] == ["Coupler 2", "Rocker and finger 2"]
    again, _ = put(after, piece(before, ["coupler", "rocker_and_finger"]))
    assert len(again.placed) == len(before.placed) + 4


def test_a_whole_mechanism_in_another_moves_as_it_did() -> None:
    """Both have parameters called motor_speed with different formulas: the second gets a name of its own."""
    host, guest = foil_tucker(), main_drive()
    after, selected = put(host, guest)
    assert selected == "groups.main_drive"
    assert after.parameters["motor_speed"] == host.parameters["motor_speed"]
    assert len(after.joints) == len(host.joints) + len(guest.joints)
    assert len(after.pairs) == len(host.pairs) + len(guest.pairs)
    ids = after.groups["main_drive"].placed
    for mine, theirs in zip(ids, guest.placed, strict=True):
        assert sizes(after, mine) == pytest.approx(sizes(guest, theirs), abs=1e-12)
    m, own = compile(after, CONTEXT), compile(guest, CONTEXT)
    pose, alone = solve(m, drives=False), solve(own, drives=False)
    first = m.part_pose(ids[0], pose)[:3] - own.part_pose(next(iter(guest.placed)), alone)[:3]
    for mine, theirs in zip(ids, guest.placed, strict=True):
        shift = m.part_pose(mine, pose)[:3] - own.part_pose(theirs, alone)[:3]
        assert shift == pytest.approx(first, abs=1e-3)  # the nearest assembled pose from the same start


def test_inches_beside_millimetres_keep_their_size() -> None:
    """A bare number takes the document's unit: carried over, it must not become 25.4 times smaller."""
    inches = Draft("Inches", units=Units(length="in"))
    inches.parameter("wide", "0.5")
    inches.part("Bar", "steel", LinkBar(distance="3", width="wide", thickness="0.25 in"), x="1")
    host = Draft("Millimetres")
    host.part("Pin", "steel", Pin(diameter="8"))
    after, selected = put(host.document, inches.document)
    placed = selected.removeprefix("placed.")
    assert sizes(after, placed) == pytest.approx(sizes(inches.document, "bar"), abs=1e-12)
    assert sizes(after, placed)["distance"] == pytest.approx(3 * 0.0254)


def test_repeats_and_mirrored_parts_come_along() -> None:
    guest = gripper_ring()
    after, _ = put(four_bar(0.03, 0.09, 0.06, 0.08), guest)
    assert len(after.repeats) == len(guest.repeats)
    assert len(compile(after, CONTEXT).links) == len(compile(guest, CONTEXT).links) + 4
    assert not compile(after, CONTEXT).problems


def test_into_an_empty_mechanism_the_frame_stays_the_frame() -> None:
    after, _ = put(Document(name="Empty"), foil_tucker())
    assert after.placed[after.frame or ""].name == "Plate"


def test_what_is_included_can_be_evaluated(evaluator: Evaluator) -> None:
    after, _ = put(foil_tucker(), foil_tucker())
    result = evaluator.evaluate(after)
    assert len(result.solids) == 2 * len(foil_tucker().placed)
    assert result.mobility is not None
    assert len(result.mobility.loose) > 0  # the second plate stands on nothing yet


@pytest.mark.parametrize("parts", [[], ["nothing"]])
def test_no_piece_without_parts(parts: list[str]) -> None:
    with pytest.raises(ValidationFailed, match="part"):
        piece(foil_tucker(), parts)
