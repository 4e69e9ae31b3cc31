"""Joining moves the least that the joint asks; drags stop at limits; contradictions are named and move nothing."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from tests.context import CONTEXT
from uhrwerk import At, Bore, Draft, FramePlate, LinkBar, ValidationFailed
from uhrwerk.core.assembly import compile
from uhrwerk.core.document import apply, parse
from uhrwerk.core.edit.join import joined, placed_by, tried
from uhrwerk.core.equations import pose as poses

ANGLE = st.floats(-80, 80)


@settings(max_examples=20, deadline=None)
@given(ANGLE, ANGLE, ANGLE, st.sampled_from(["revolute", "cylindrical", "spherical", "planar"]))
def test_a_joint_turns_and_shifts_no_more_than_it_asks(x: float, y: float, z: float, kind: str) -> None:
    draft = Draft("x")
    plate = draft.part("Plate", "steel", FramePlate(bores={"pivot": Bore(x="80 mm", y="50 mm")}))
    arm = draft.part(
        "Arm",
        "steel",
        LinkBar(),
        x="120 mm",
        y="20 mm",
        z="40 mm",
        turn_x=f"{x!r} deg",
        turn_y=f"{y!r} deg",
        turn_z=f"{z!r} deg",
    )
    hung = draft.part("Hung", "steel", LinkBar(), z="90 mm")
    draft.rigid("Hangs on", arm["hole_2"], hung["hole_1"], offset="5 mm")
    ends = ("top", "bottom") if kind == "planar" else ("pivot", "hole_1")
    joint = {
        "kind": kind,
        "name": "J",
        "a": plate[ends[0]].model_dump(),
        "b": arm[ends[1]].model_dump(),
        "flip": kind == "planar",
    }
    command = parse({"kind": "add_joint", "joint": joint})
    told = tried(draft.document, command, CONTEXT)
    assert set(told.moved) <= {"arm", "hung"}
    tilt = np.arccos(np.clip(np.cos(np.radians(x)) * np.cos(np.radians(y)), -1, 1))
    turned = told.moved["arm"].turn if told.moved else 0.0
    assert turned == pytest.approx(0.0 if kind == "spherical" else tilt, abs=1e-7)
    way = {
        "revolute": np.linalg.norm([40, 30, 40]),
        "spherical": np.linalg.norm([40, 30, 40]),
        "cylindrical": np.hypot(40, 30),
    }.get(kind)
    if way is not None:
        assert told.moved["arm"].way == pytest.approx(way / 1e3, abs=1e-7)


def test_two_distances_that_cannot_both_hold_are_both_named() -> None:
    draft = Draft("x")
    plate = draft.part("Plate", "steel", FramePlate())
    block = draft.part("Block", "steel", FramePlate(length="40 mm", width="30 mm"), z="22 mm")
    draft.distance("Ten above", plate["top"], block["bottom"], distance="10 mm")
    ends = {"a": plate["top"].model_dump(), "b": block["bottom"].model_dump()}
    relation = {"kind": "distance", "name": "Twelve above", "distance": "12 mm", "side": "opposite", **ends}
    before = draft.document
    with pytest.raises(ValidationFailed, match="'Ten above', 'Twelve above'"):
        joined(draft.document, parse({"kind": "add_relation", "relation": relation}), CONTEXT)
    assert draft.document == before
    relation["distance"] = "20 mm / 2"  # said twice, and the same: redundant, not a contradiction
    told = tried(draft.document, parse({"kind": "add_relation", "relation": relation}), CONTEXT)
    assert told.redundant == 3


def test_two_joints_of_the_same_parts_are_named_before_a_longer_chain() -> None:
    from tests.mechanisms import four_bar

    document = four_bar(0.03, 0.09, 0.06, 0.08)
    ends = {"a": {"placed": "ground", "datum": "hole_1"}, "b": {"placed": "crank", "datum": "hole_1"}}
    again = {"kind": "revolute", "name": "Once more", "offset": "1 mm", **ends}
    with pytest.raises(ValidationFailed, match=r"hold together: 'Crank in ground', 'Once more'\."):
        joined(document, parse({"kind": "add_joint", "joint": again}), CONTEXT)


def test_the_other_way_to_assemble_a_four_bar_is_the_crossed_one() -> None:
    """With the crank where it is, the rocker's two angles are those of the two circle crossings (closed form)."""
    from tests.mechanisms import four_bar, four_bar_closed_form
    from uhrwerk.core.assembly import compile, solve
    from uhrwerk.core.document import apply
    from uhrwerk.core.edit.join import other_mode

    document = four_bar(0.03, 0.09, 0.06, 0.08, start="50 deg")

    def rocker(d: object) -> float:
        m = compile(d, CONTEXT)  # type: ignore[arg-type]
        x, y = m.part_pose("rocker", solve(m))[[3, 6]]
        return float(2 * np.arctan2(y, x))

    for crossed in (False, True, False):
        want = four_bar_closed_form(0.03, 0.09, 0.06, 0.08, np.radians([50.0]), 1.0, crossed).rocker[0]
        assert np.exp(1j * rocker(document)) == pytest.approx(np.exp(1j * want), abs=1e-6)
        document = apply(document, other_mode(document, CONTEXT))


@example(0.0, -40.979425235828295, -40.979425235828295, "tangent")
@settings(max_examples=25, deadline=None)
@given(ANGLE, ANGLE, ANGLE, st.sampled_from(["perpendicular", "angle", "tangent", "flush", "distance"]))
def test_a_relation_turns_and_shifts_no_more_than_it_asks(x: float, y: float, z: float, kind: str) -> None:
    """The least turn is by how much the angle of both directions is off; the place that is joined is shifted along the normal alone."""
    assume(abs(x) + abs(y) > 0.5)  # from level, any way is as near as another
    draft = Draft("x")
    plate = draft.part("Plate", "steel", FramePlate())
    turns = {f"turn_{a}": f"{v!r} deg" for a, v in zip("xyz", (x, y, z), strict=True)}
    arm = draft.part("Arm", "steel", LinkBar(), x="30 mm", y="20 mm", z="40 mm", **turns)
    hung = draft.part("Hung", "steel", LinkBar(), z="90 mm")
    hangs = {"kind": "revolute", "name": "Hangs on", "a": arm["hole_2"].model_dump(), "b": hung["hole_2"].model_dump()}
    draft.document = apply(
        draft.document, joined(draft.document, parse({"kind": "add_joint", "joint": hangs}), CONTEXT)
    )
    m = compile(draft.document, CONTEXT)
    own, there = m.place(arm["hole_1" if kind == "tangent" else "bottom"]), m.place(plate["top"])
    frame = poses.compose(m.start[own.link], own.frame)
    normal, way = (poses.rotate(f, np.array([0.0, 0, 1])) for f in (there.frame[3:], frame[3:]))
    height, between = (frame[:3] - there.frame[:3]) @ normal, np.arccos(np.clip(way @ normal, -1, 1))
    how = {"angle": {"angle": "35 deg"}, "flush": {"offset": "3 mm"}, "distance": {"distance": "7 mm"}}.get(kind, {})
    wanted = {"angle": np.radians(35), "flush": np.pi, "distance": np.pi}.get(kind, np.pi / 2)
    level = {"flush": 0.003, "distance": 0.007, "tangent": 0.0025}.get(kind)
    ends = {"a": plate["top"].model_dump(), "b": arm["hole_1" if kind == "tangent" else "bottom"].model_dump()}
    if kind == "tangent":
        ends = {"a": ends["b"], "b": ends["a"]}
    command = parse({"kind": "add_relation", "relation": {"kind": kind, "name": "R", **ends, **how}})
    _, m, pose = placed_by(draft.document, command, CONTEXT)
    assert set(tried(draft.document, command, CONTEXT).moved) == {"arm", "hung"}
    mine = At(**ends["a" if kind == "tangent" else "b"])
    after = poses.compose(pose[m.link_of["arm"]], m.place(mine).frame)
    turned = np.linalg.norm(poses.between(m.start[m.link_of["arm"]], pose[m.link_of["arm"]])[3:])
    assert turned == pytest.approx(abs(between - wanted), abs=1e-8)
    shift = 0.0 if level is None else level - height
    np.testing.assert_allclose(after[:3] - frame[:3], shift * normal, atol=1e-9)


def test_the_fewer_parts_go_to_the_more() -> None:
    draft = Draft("x")
    draft.part("Plate", "steel", FramePlate())
    bars = [draft.part(f"Bar {k}", "steel", LinkBar(), x=f"{60 * k} mm", z=f"{30 + 5 * k} mm") for k in range(4)]
    draft.revolute("One", bars[0]["hole_2"], bars[1]["hole_1"], offset="5 mm")
    draft.revolute("Two", bars[1]["hole_2"], bars[2]["hole_1"], offset="5 mm")
    joint = {"kind": "revolute", "name": "J", "a": bars[3]["hole_2"].model_dump(), "b": bars[2]["hole_2"].model_dump()}
    assert set(tried(draft.document, parse({"kind": "add_joint", "joint": joint}), CONTEXT).moved) == {"bar_3"}


def test_what_already_hangs_together_moves_no_more_than_it_must() -> None:
    """A block that lies on a plate, turned by 17.3 degrees, is laid along it: it turns by so much where it lies, and is not shifted."""
    draft = Draft("x")
    plate = draft.part("Plate", "steel", FramePlate())
    block = draft.part(
        "Block", "steel", FramePlate(length="40 mm", width="30 mm"), x="37 mm", y="21 mm", z="30 mm", turn_z="17.3 deg"
    )
    draft.flush("Lies", plate["top"], block["bottom"])
    ends = {"a": plate["right"].model_dump(), "b": block["right"].model_dump()}
    command = parse({"kind": "add_relation", "relation": {"kind": "parallel", "name": "Along", **ends}})
    moved = tried(draft.document, command, CONTEXT).moved
    assert set(moved) == {"block"}
    assert moved["block"].turn == pytest.approx(np.radians(17.3), abs=1e-9)
    _, m, pose = placed_by(draft.document, command, CONTEXT)
    assert np.abs(pose[m.link_of["block"], :2] - [0.037, 0.021]).max() < 1e-9
