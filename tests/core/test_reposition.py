"""Moving and turning a placed part in one action: what holds it is adapted, or named."""

from __future__ import annotations

import contextlib

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.context import CONTEXT
from tests.mechanisms import crossed_ring
from uhrwerk import Block, Bore, Draft, FramePlate, LinkBar
from uhrwerk.core.document import Document, ValidationFailed, apply, parse
from uhrwerk.core.edit.join import standing
from uhrwerk.core.edit.reposition import Repositioned, repositioned

QUARTER, HALF = np.pi / 2, np.pi
MIDDLE = np.array([0.05, 0.03, 0.02])


def after(document: Document, told: Repositioned) -> Document:
    """The document after the command; all stand there as was said."""
    done = apply(document, parse(told.command))
    stand = standing(done, CONTEXT)
    for i, pose in told.poses.items():
        sign = np.sign(np.dot(stand[i][3:], pose[3:]))
        np.testing.assert_allclose(stand[i], np.multiply(pose, [1, 1, 1, *[sign] * 4]), atol=1e-8)
    return done


def turned(before: dict[str, list[float]], told: Repositioned, part: str) -> np.ndarray:
    """The rotation vector by which a part has turned."""
    one, other = (Rotation.from_quat(p[part][3:], scalar_first=True) for p in (before, told.poses))
    return (other * one.inv()).as_rotvec()


def cornered() -> Document:
    """A block held on a plate by three flush faces."""
    d = Draft("Cornered")
    plate = d.part("Plate", "steel", FramePlate(length="100 mm", width="60 mm", thickness="10 mm"))
    block = d.part(
        "Block", "brass", Block(length="30 mm", width="20 mm", height="12 mm"), x="50 mm", y="30 mm", z="10 mm"
    )
    d.flush("On it", plate["top"], block["bottom"])
    d.flush("Right", plate["right"], block["right"], side="same")
    d.flush("Back", plate["back"], block["back"], side="same")
    return d.document


@pytest.mark.parametrize("axis", range(3))
@pytest.mark.parametrize("angle", [QUARTER, HALF])
def test_a_part_on_three_faces_turns_with_the_sides_of_all(axis: int, angle: float) -> None:
    document = cornered()
    before, way = standing(document, CONTEXT), np.eye(3)[axis] * angle
    if angle == QUARTER:  # faces that were flush would lie square
        with pytest.raises(ValidationFailed, match=r"Block is held by|cannot hold together"):
            repositioned(document, "block", np.zeros(3), way, MIDDLE, CONTEXT)
        return
    told = repositioned(document, "block", np.zeros(3), way, MIDDLE, CONTEXT)
    done = after(document, told)
    assert np.linalg.norm(np.abs(turned(before, told, "block")) - way) < 1e-6
    sides = [r.side for r in done.relations.values()]  # type: ignore[union-attr]
    stays = {0: (False, True, False), 1: (False, False, True), 2: (True, False, False)}[axis]
    was = ("opposite", "same", "same")
    assert [a == b for a, b in zip(sides, was, strict=True)] == list(stays)


def test_a_move_along_a_face_s_normal_is_its_offset_and_a_formula_is_kept() -> None:
    document = apply(cornered(), parse({"kind": "set_parameter", "name": "gap", "formula": "2 mm", "note": ""}))
    document = apply(document, parse({"kind": "set_value", "path": "relations.right.offset", "value": "-gap"}))
    told = repositioned(document, "block", np.array([-0.003, 0.0, 0.005]), np.zeros(3), MIDDLE, CONTEXT)
    done = after(document, told)
    assert done.relations["right"].offset == "-gap - 3 mm"  # type: ignore[union-attr]
    assert done.relations["on_it"].offset == "5 mm"  # type: ignore[union-attr]
    assert done.relations["back"].offset == "0 mm"  # type: ignore[union-attr]


@pytest.mark.parametrize("swapped", [False, True])
@pytest.mark.parametrize("kind", ["rigid", "held"])
def test_a_part_that_is_fixed_goes_where_it_is_put(kind: str, swapped: bool) -> None:
    d = Draft("Fixed")
    plate = d.part("Plate", "steel", FramePlate())
    block = d.part("Block", "brass", Block(), x="30 mm", y="20 mm", z="40 mm", turn_z="20 deg")
    ends = (block["bottom"], plate["top"]) if swapped else (plate["top"], block["bottom"])
    getattr(d, kind)("Fast", *ends, **({"flip": True} if kind == "rigid" else {"turn_x": "180 deg"}))
    before = standing(d.document, CONTEXT)
    move, turn = np.array([0.004, -0.007, 0.002]), np.array([0.0, 0.0, 0.5])
    told = repositioned(d.document, "block", move, turn, np.array(before["block"][:3]), CONTEXT)
    after(d.document, told)
    np.testing.assert_allclose(turned(before, told, "block"), turn, atol=1e-8)
    np.testing.assert_allclose(np.subtract(told.poses["block"][:3], before["block"][:3]), move, atol=1e-8)
    assert told.poses["plate"] == pytest.approx(before["plate"], abs=1e-12)


def hinged() -> Document:
    d = Draft("Hinged")
    plate = d.part("Plate", "steel", FramePlate(bores={"b": Bore(x="30 mm", y="40 mm", diameter="6 mm")}))
    arm = d.part("Arm", "steel", LinkBar(distance="40 mm"), x="30 mm", y="40 mm", z="12 mm")
    tip = d.part("Tip", "steel", LinkBar(distance="20 mm"), x="70 mm", y="40 mm", z="20 mm")
    d.revolute("Turns", plate["b"], arm["hole_1"], offset="12 mm")
    d.revolute("Hangs", arm["hole_2"], tip["hole_1"], offset="8 mm")
    return d.document


def test_what_hangs_on_it_alone_goes_along() -> None:
    document = hinged()
    before = standing(document, CONTEXT)
    at = np.array(before["arm"][:3])
    told = repositioned(document, "arm", np.array([0, 0, 0.004]), np.array([0, 0, QUARTER]), at, CONTEXT)
    done = after(document, told)
    assert done.joints["turns"].offset == "16 mm"
    assert done.joints["hangs"].offset == "8 mm"
    for part in ("arm", "tip"):
        np.testing.assert_allclose(turned(before, told, part), [0, 0, QUARTER], atol=1e-8)


def test_a_part_turned_over_turns_its_joint_over() -> None:
    document = hinged()
    before = standing(document, CONTEXT)
    told = repositioned(document, "tip", np.zeros(3), np.array([HALF, 0, 0]), np.array(before["tip"][:3]), CONTEXT)
    assert after(document, told).joints["hangs"].flip is True


@pytest.mark.parametrize(("move", "turn"), [((0.005, 0, 0), (0, 0, 0)), ((0, 0, 0), (0, 0.3, 0))])
def test_what_does_not_let_it_go_there_is_named(move: tuple[float, ...], turn: tuple[float, ...]) -> None:
    document = hinged()
    with pytest.raises(ValidationFailed, match="Arm is held by Turns: it would stand"):
        repositioned(document, "arm", np.array(move), np.array(turn), np.array([0.03, 0.04, 0.012]), CONTEXT)


def test_a_drive_that_holds_the_angle_is_named() -> None:
    d = Draft("Driven", hinged())
    d.turn("Motor", "turns", "60 rpm")
    with pytest.raises(ValidationFailed, match="held by Turns, Motor"):
        repositioned(d.document, "arm", np.zeros(3), np.array([0, 0, 1.0]), np.array([0.03, 0.04, 0.012]), CONTEXT)


@pytest.mark.parametrize("part", range(3))
def test_what_is_repeated_is_moved_or_says_what_holds_it(part: int) -> None:
    """Joints of a closed ring end on copies: an answer, never an error."""
    document = crossed_ring(8, frames=12)
    for placed in list(document.placed)[part::3]:
        if placed != document.frame:
            with contextlib.suppress(ValidationFailed):
                after(document, repositioned(document, placed, np.array([0, 0, 0.002]), np.zeros(3), MIDDLE, CONTEXT))


def test_the_frame_stands_still() -> None:
    with pytest.raises(ValidationFailed, match="Plate is the frame"):
        repositioned(hinged(), "plate", np.ones(3), np.zeros(3), MIDDLE, CONTEXT)
