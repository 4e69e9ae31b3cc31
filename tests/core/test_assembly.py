"""Assembling: nearest solution, sides, redundancy, contradiction, mobility, things that wait."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.context import CONTEXT
from tests.mechanisms import four_bar, gear_train, mm
from uhrwerk import Bore, Draft, FramePlate, LinkBar, Pin, SpurGear
from uhrwerk.core.assembly import NotSolvable, compile, mobility, solve
from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import TOLERANCE, assemble
from uhrwerk.core.equations.rows import Row, Rows


def residual(document: Document, pose: np.ndarray) -> float:
    m = compile(document, CONTEXT)
    r, _ = m.system().value(m.scaled(pose)[None], np.zeros(1))
    return float(np.abs(r).max(initial=0.0))


def assembled(document: Document) -> np.ndarray:
    m = compile(document, CONTEXT)
    assert not m.problems, m.problems
    return solve(m)


def test_four_bar_is_assembled_and_counted() -> None:
    document = four_bar(0.03, 0.09, 0.06, 0.08)
    pose = assembled(document)
    assert residual(document, pose) < TOLERANCE
    found = mobility(document, compile(document, CONTEXT), pose)
    assert (found.count, found.undriven, found.loose) == (1, 0, [])
    assert found.redundant == 3  # a planar loop in space repeats three of its equations (common practice)
    assert "Crank turns in Ground" in found.freedoms[0].words


def test_kutzbach_grubler_for_an_open_chain() -> None:
    """F = 6 n - 5 j: n revolute joints in a row on the frame give n freedoms (common practice)."""
    draft = Draft("Chain")
    last = draft.part("Base", "steel", LinkBar())
    for k in range(4):
        link = draft.part(f"Link {k}", "steel", LinkBar(distance=f"{30 + 5 * k} mm"), x=f"{10 * k} mm", z=f"{7 * k} mm")
        draft.revolute(f"Joint {k}", last["hole_2"], link["hole_1"], offset="6 mm")
        last = link
    m = compile(draft.document, CONTEXT)
    found = mobility(draft.document, m, solve(m))
    assert (found.count, found.redundant, found.undriven) == (4, 0, 4)


def test_a_parallelogram_with_an_extra_link_still_moves() -> None:
    """The count of Kutzbach and Gruebler gives 0 in the plane; parallel links of one length move all the same."""
    draft = Draft("Parallelogram")
    base = draft.part("Base", "steel", LinkBar(distance="40 mm", second_distance="40 mm"))
    top = draft.part(
        "Top", "steel", LinkBar(distance="40 mm", second_distance="40 mm"), x="15 mm", y="25.98 mm", z="12 mm"
    )
    for k in (1, 2, 3):
        link = draft.part(
            f"Link {k}", "steel", LinkBar(distance="30 mm"), x=f"{40 * (k - 1)} mm", z="6 mm", turn_z="60 deg"
        )
        draft.revolute(f"Foot {k}", base[f"hole_{k}"], link["hole_1"], offset="6 mm")
        draft.revolute(f"Head {k}", link["hole_2"], top[f"hole_{k}"], offset="6 mm")
    m = compile(draft.document, CONTEXT)
    found = mobility(draft.document, m, solve(m))
    assert found.count == 1
    top_motion = found.freedoms[0].motion[m.link_of["top"]]
    np.testing.assert_allclose(top_motion[3:], 0, atol=1e-9)  # it translates on a circle


def test_a_part_moves_to_the_nearest_place_that_satisfies_the_joint() -> None:
    draft = Draft("Nearest")
    base = draft.part("Base", "steel", FramePlate(bores={"pivot": Bore(x="60 mm", y="50 mm")}))
    arm = draft.part("Arm", "steel", LinkBar(), x="63 mm", y="48 mm", z="9 mm", turn_z="25 deg")
    draft.revolute("Arm in base", base["pivot"], arm["hole_1"], offset="5 mm")
    pose = assembled(draft.document)[1]
    np.testing.assert_allclose(pose[:3], [0.06, 0.05, 0.005], atol=1e-12)
    assert np.degrees(poses.rotation_vector(pose[3:])[2]) == pytest.approx(25.0, abs=1.5)  # it hardly turns


@pytest.mark.parametrize("flip", [False, True])
@pytest.mark.parametrize("turn_x", ["0 deg", "170 deg", "180 deg", "95 deg"])
def test_the_side_is_the_one_asked_for_wherever_the_part_was(flip: bool, turn_x: str) -> None:
    draft = Draft("Side")
    base = draft.part("Base", "steel", LinkBar())
    arm = draft.part("Arm", "steel", LinkBar(), x="30 mm", z="40 mm", turn_x=turn_x)
    draft.revolute("Arm on base", base["hole_2"], arm["hole_1"], flip=flip, offset="10 mm")
    m = compile(draft.document, CONTEXT)
    up = poses.rotate(solve(m)[1, 3:], np.array([0.0, 0, 1]))
    np.testing.assert_allclose(up, [0, 0, -1 if flip else 1], atol=1e-9)


def test_rigid_joints_merge_parts_into_one_link() -> None:
    draft = Draft("Rigid")
    base = draft.part("Base", "steel", LinkBar())
    pin = draft.part("Pin", "steel", Pin(), x="5 mm", y="9 mm")
    draft.rigid("Pin in base", base["hole_2"], pin["axis"], offset="-4 mm", turn="30 deg")
    m = compile(draft.document, CONTEXT)
    assert len(m.links) == 1
    at = m.part_pose("pin", solve(m))
    np.testing.assert_allclose(at[:3], [0.06, 0, -0.004], atol=1e-12)
    assert np.degrees(poses.rotation_vector(at[3:])[2]) == pytest.approx(30)


def test_rigid_joints_that_contradict_are_named() -> None:
    draft = Draft("Rigid")
    base = draft.part("Base", "steel", LinkBar())
    pin = draft.part("Pin", "steel", Pin())
    draft.rigid("First", base["hole_2"], pin["axis"])
    draft.rigid("Second", base["hole_1"], pin["axis"])
    words = " ".join(p.words for p in compile(draft.document, CONTEXT).problems)
    assert "First" in words
    assert "Second" in words


def test_a_contradiction_names_the_smallest_set_of_joints() -> None:
    document = four_bar(0.03, 0.02, 0.02, 0.2)  # links too short to reach
    draft = Draft("x", document)
    lone = draft.part("Lone arm", "steel", LinkBar(), z="40 mm")
    draft.revolute("Lone arm in ground", draft_handle(document, "ground")["hole_1"], lone["hole_1"], offset="30 mm")
    with pytest.raises(NotSolvable) as error:
        solve(compile(draft.document, CONTEXT), drives=False)
    assert set(error.value.joints) == {
        "joints.crank_in_ground",
        "joints.coupler_on_crank",
        "joints.rocker_in_ground",
        "joints.coupler_on_rocker",
    }
    assert "Lone arm in ground" not in str(error.value)
    assert "'Coupler on crank'" in str(error.value)


def draft_handle(document: Document, placed: str):  # type: ignore[no-untyped-def]
    from uhrwerk.draft import Handle

    assert placed in document.placed
    return Handle(placed)


def test_two_drivers_on_one_freedom_contradict_by_name() -> None:
    draft = Draft("x", four_bar(0.03, 0.09, 0.06, 0.08))
    draft.turn("Second motor", "rocker_in_ground", "10 rpm", start="100 deg")
    with pytest.raises(NotSolvable) as error:
        solve(compile(draft.document, CONTEXT))
    assert {"drivers.motor", "drivers.second_motor"} <= set(error.value.joints)


def test_a_joint_whose_datum_vanished_waits_and_says_so() -> None:
    draft = Draft("Waits")
    base = draft.part("Base", "steel", FramePlate(bores={"pivot": Bore(x="60 mm", y="50 mm")}))
    arm = draft.part("Arm", "steel", LinkBar())
    draft.revolute("Arm in base", base["pivot"], arm["hole_1"])
    draft.set("parts.base.element.bores", {"hinge": {"x": "60 mm", "y": "50 mm", "diameter": "6 mm"}})
    m = compile(draft.document, CONTEXT)
    assert [p.path for p in m.problems] == ["joints.arm_in_base"]
    assert "'pivot'" in m.problems[0].words
    assert m.loose == ["arm"]
    solve(m)


@pytest.mark.parametrize(
    ("change", "words"),
    [({"module": "2 mm"}, "module and pressure angle"), ({"kind": "pin"}, "is not a gear")],
)
def test_a_gear_pair_that_cannot_mesh_says_why(change: dict[str, str], words: str) -> None:
    draft = Draft("x", gear_train())
    element = {"kind": "pin"} if "kind" in change else draft.document.parts["wheel"].element.model_dump() | change
    draft.set("parts.wheel.element", element)
    assert any(words in p.words for p in compile(draft.document, CONTEXT).problems)


def test_gears_are_phased_into_mesh_from_any_turn() -> None:
    for turn in range(0, 360, 25):
        draft = Draft("x", gear_train())
        draft.set("placed.wheel.start.turn_z", f"{turn} deg")
        m = compile(draft.document, CONTEXT)
        pose = solve(m)
        pinion, wheel = (poses.rotation_vector(m.part_pose(p, pose)[3:])[2] for p in ("pinion", "wheel"))
        # a tooth of the pinion on the line of centres stands before a space of the wheel
        phase = 18 * pinion + 54 * (wheel - np.pi)
        assert np.cos(phase) == pytest.approx(-1.0, abs=1e-9)


@settings(max_examples=25, deadline=None)
@given(st.floats(0.02, 0.05), st.floats(0.06, 0.12), st.floats(0.05, 0.1), st.floats(0.06, 0.1), st.floats(-3.1, 3.1))
def test_never_a_pose_whose_residual_is_above_tolerance(a: float, b: float, c: float, d: float, turn: float) -> None:
    document = four_bar(a, b, c, d, start=f"{turn!r} rad")
    m = compile(document, CONTEXT)
    try:
        pose = solve(m)
    except NotSolvable as error:
        assert error.joints
    else:
        assert residual(document, pose) <= TOLERANCE


@settings(max_examples=10, deadline=None)
@given(st.floats(-0.2, 0.2), st.floats(-0.2, 0.2), st.floats(-3.1, 3.1))
def test_moving_the_whole_mechanism_changes_no_joint(x: float, y: float, turn: float) -> None:
    document = four_bar(0.03, 0.09, 0.06, 0.08)
    draft = Draft("x", document)
    q = poses.turned(np.array([0, 0, turn]))
    for i, placed in document.placed.items():
        s = compile(document, CONTEXT).start[compile(document, CONTEXT).link_of[i]]
        p = poses.rotate(q, s[:3]) + np.array([x, y, 0])
        angle = poses.rotation_vector(poses.multiply(q, s[3:]))[2]
        draft.set(
            f"placed.{i}.start",
            placed.start.model_dump()
            | {"x": mm(p[0]), "y": mm(p[1]), "z": mm(p[2]), "turn_z": f"{float(angle)!r} rad"},
        )

    def relative(d: Document) -> np.ndarray:
        m = compile(d, CONTEXT)
        pose = solve(m)
        frame = poses.inverse(m.part_pose("ground", pose))
        return np.array([poses.matrix(poses.compose(frame, m.part_pose(p, pose))[3:]) for p in d.placed])

    np.testing.assert_allclose(relative(draft.document), relative(document), atol=1e-8)


def test_rows_far_from_a_solution_say_that_they_failed() -> None:
    o, x = np.zeros(3), np.array([1.0, 0, 0])
    rows = Rows([Row("point", 0, 1, (o, x, o), "a", 1.0), Row("point", 0, 1, (o, x, o), "b", 2.0)], 2, 1.0)
    _, left = assemble(rows, np.tile(poses.IDENTITY, (2, 1)))
    assert left == pytest.approx(0.5, rel=1e-3)


def test_slider_with_a_prismatic_joint_keeps_its_turn() -> None:
    draft = Draft("Slide")
    base = draft.part("Base", "steel", LinkBar())
    block = draft.part("Block", "steel", SpurGear(), x="2 mm", z="30 mm", turn_z="40 deg")
    draft.prismatic("Block slides", base["hole_1"], block["axis"], turn="15 deg")
    m = compile(draft.document, CONTEXT)
    pose = solve(m)[1]
    assert np.degrees(poses.rotation_vector(pose[3:])[2]) == pytest.approx(15)
    np.testing.assert_allclose(pose[:2], 0, atol=1e-12)
    assert pose[2] == pytest.approx(0.03, abs=1e-3)
    assert mobility(draft.document, m, solve(m)).freedoms[0].words.startswith("Block slides along Base")
