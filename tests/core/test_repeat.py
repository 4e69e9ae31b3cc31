"""Repeats: rings, rows, mirrors and copies with their joints; copies follow the original."""

from __future__ import annotations

import numpy as np
import pytest

from tests.context import CONTEXT
from tests.mechanisms import crossed_ring, crossed_ring_radius, four_bar
from uhrwerk import Bore, Draft, FramePlate, LinkBar, Pin, ValidationFailed
from uhrwerk.core.assembly import compile, mobility, solve
from uhrwerk.core.document import write
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.motion import coordinates, cycle
from uhrwerk.core.upgrade import read


@pytest.mark.parametrize("pairs", [6, 12, 24])
def test_the_crossed_ring_follows_its_closed_form_over_the_whole_travel(pairs: int) -> None:
    document = crossed_ring(pairs, frames=120)
    m = compile(document, CONTEXT)
    assert not m.problems
    assert not m.remarks
    motion = cycle(m, solve(m), 1.0, 120)
    assert motion.residual < 1e-9
    outer = np.mod(-coordinates(m, motion)["crossing"].value / 2, np.pi)
    for k in (1, 2, pairs):
        part = "link" if k == 1 else f"link__{k}"
        at = motion.pose[:, m.link_of[part], :2]
        np.testing.assert_allclose(np.linalg.norm(at, axis=1), crossed_ring_radius(pairs, 0.03, outer), atol=1e-9)
        angle = np.unwrap(np.arctan2(at[:, 1], at[:, 0])) - 2 * np.pi * (k - 1) / pairs
        np.testing.assert_allclose(np.sin(angle), 0, atol=1e-9)
    assert mobility(m.document, m, motion.pose[60]).count == 1


def test_the_count_is_a_formula_and_copies_follow_the_original() -> None:
    draft = Draft("Row")
    plate = draft.part("Plate", "steel", FramePlate(bores={"hole": Bore(x="20 mm", y="20 mm", diameter="5.1 mm")}))
    pin = draft.part("Pin", "steel", Pin(diameter="5 mm"), x="21 mm", y="20 mm")
    draft.revolute("Pin in plate", plate["hole"], pin["axis"], offset="1 mm")
    draft.parameter("n", "2 * 2")
    draft.parameter("pitch", "15 mm")
    draft.row("Pins", [pin], plate["right"], "n", "pitch")
    m = compile(draft.document, CONTEXT)
    assert [p for p in m.document.placed if p.startswith("pin")] == ["pin", "pin__2", "pin__3", "pin__4"]
    pose = solve(m)
    assert m.part_pose("pin__4", pose)[:3] == pytest.approx([0.065, 0.020, 0.001], abs=1e-9)
    draft.set("joints.pin_in_plate.offset", "3 mm")
    draft.set("parameters.pitch.formula", "12 mm")
    m = compile(draft.document, CONTEXT)
    assert m.part_pose("pin__4", solve(m))[:3] == pytest.approx([0.056, 0.020, 0.003], abs=1e-9)
    assert mobility(m.document, m, solve(m)).count == 4


def test_a_joint_to_a_part_without_the_axis_says_that_it_is_not_repeated() -> None:
    draft = Draft("x")
    plate = draft.part("Plate", "steel", FramePlate(bores={"hole": Bore(x="20 mm", y="20 mm")}))
    other = draft.part("Other", "steel", FramePlate(bores={"hole": Bore(x="80 mm", y="50 mm")}))
    pin = draft.part("Pin", "steel", Pin())
    draft.revolute("Pin in plate", plate["hole"], pin["axis"])
    draft.ring("Pins", [pin], other["hole"], "3")
    m = compile(draft.document, CONTEXT)
    assert [r.words for r in m.remarks] == [
        "Pin in plate is not repeated by Pins: Plate does not have its axis or plane"
    ]
    assert set(m.loose) >= {"pin__2", "pin__3"}


def test_a_mirrored_linkage_moves_as_the_mirror_image() -> None:
    """A four-bar on a plate and its image behind the plate's left face, cranks driven opposite ways: every part of the
    image is where reflection x -> -x puts the original, at every moment."""
    draft = Draft("Pair")
    bores = {"one": Bore(x="40 mm", y="50 mm"), "two": Bore(x="120 mm", y="50 mm")}
    plate = draft.part("Plate", "steel", FramePlate(bores=bores))
    crank = draft.part("Crank", "steel", LinkBar(distance="30 mm"), x="40 mm", y="50 mm", turn_z="20 deg")
    coupler = draft.part("Coupler", "steel", LinkBar(distance="90 mm"), x="68 mm", y="60 mm", z="6 mm", turn_z="30 deg")
    rocker = draft.part("Rocker", "steel", LinkBar(distance="60 mm"), x="120 mm", y="50 mm", turn_z="95 deg")
    turns = draft.revolute("Crank in plate", plate["one"], crank["hole_1"], offset="2 mm")
    draft.revolute("Coupler on crank", crank["hole_2"], coupler["hole_1"], offset="6 mm")
    draft.revolute("Rocker in plate", plate["two"], rocker["hole_1"], offset="2 mm")
    draft.revolute("Coupler on rocker", rocker["hole_2"], coupler["hole_2"], offset="6 mm")
    draft.mirror("Image", [crank, coupler, rocker], plate["left"])
    draft.turn("One", turns, "60 rpm", "20 deg")
    draft.turn("Other", f"{turns}__2", "-60 rpm", "-20 deg")
    m = compile(draft.document, CONTEXT)
    assert not m.problems
    assert not m.remarks
    motion = cycle(m, solve(m), 1.0, 24)
    flip = np.diag([-1.0, 1, 1])
    local = np.array([0.013, 0.007, 0.002])  # any point of a part, and its image in the mirrored part
    for part in ("crank", "coupler", "rocker"):
        one, two = m.part_pose(part, motion.pose), m.part_pose(f"{part}__2", motion.pose)
        np.testing.assert_allclose(poses.place(two, flip @ local), poses.place(one, local) @ flip, atol=1e-9)
    swing = coordinates(m, motion)
    np.testing.assert_allclose(swing["rocker_in_plate__2"].value, -swing["rocker_in_plate"].value, atol=1e-8)


def test_a_group_used_again_moves_inside_on_its_own() -> None:
    draft = Draft("Arms")
    plate = draft.part(
        "Plate", "steel", FramePlate(bores={"one": Bore(x="30 mm", y="50 mm"), "two": Bore(x="110 mm", y="50 mm")})
    )
    upper = draft.part("Upper", "steel", LinkBar(distance="40 mm"), x="30 mm", y="50 mm")
    lower = draft.part("Lower", "steel", LinkBar(distance="30 mm"), x="70 mm", y="50 mm", z="5 mm")
    draft.revolute("Elbow", upper["hole_2"], lower["hole_1"], offset="5 mm")
    draft.group("Arm", [upper, lower])
    draft.copy("Second arm", [upper, lower], x="80 mm")
    draft.revolute("First shoulder", plate["one"], upper["hole_1"])
    draft.revolute("Second shoulder", plate["two"], upper.copy(2)["hole_1"])
    m = compile(draft.document, CONTEXT)
    pose = solve(m)
    assert mobility(m.document, m, pose).count == 4
    np.testing.assert_allclose(m.part_pose("upper__2", pose)[:2], [0.110, 0.050], atol=1e-9)
    draft.turn("First", "elbow", "30 deg/s")
    draft.turn("Second", "elbow__2", "-60 deg/s")
    draft.turn("Shoulder 1", "first_shoulder", "0 deg/s")
    draft.turn("Shoulder 2", "second_shoulder", "0 deg/s")
    m = compile(draft.document, CONTEXT)
    motion = cycle(m, solve(m), 1.0, 24)
    datums_of = coordinates(m, motion)
    assert datums_of["elbow"].value[-1] == pytest.approx(np.radians(30))
    assert datums_of["elbow__2"].value[-1] == pytest.approx(np.radians(-60))


def test_documents_with_repeats_are_read_back_and_bad_counts_refused() -> None:
    document = crossed_ring(6)
    assert read(write(document)) == document
    draft = Draft("x", document)
    with pytest.raises(ValidationFailed, match="a whole number from 2 to 200"):
        draft.set("repeats.ring.count", "2.5")
    with pytest.raises(ValidationFailed, match="there is no placed part"):
        draft.set("joints.outer_end.b.placed", "link__9")
    with pytest.raises(ValidationFailed, match="two underscores"):
        from uhrwerk.core.document import command
        from uhrwerk.core.document.document import Placed

        draft.do(command.PlacePart(id="a__b", placed=Placed(name="x", part="link")))


def test_mirrored_datums_and_solids_agree() -> None:
    """Every named cylinder and face of a mirrored part is found on its mirrored solid."""
    from uhrwerk import AngledLink
    from uhrwerk.core.evaluation.evaluator import Evaluator
    from uhrwerk.core.solids import datums_of, same_place

    draft = Draft("x")
    draft.part("Base", "steel", FramePlate())
    link = draft.part("Link", "steel", AngledLink())
    draft.mirror("Image", [link], {"placed": "base", "datum": "left"})  # type: ignore[arg-type]
    evaluator = Evaluator()
    try:
        out = evaluator.evaluate(draft.document)
    finally:
        evaluator.kernel_pool.close()
    assert out.mechanism is not None
    on_solid = [d for body in out.solids["link__2"].bodies.values() for d in datums_of(body)]
    on_faces = {n: d for n, d in out.mechanism.datums["link__2"].items() if n != "origin" and not n.endswith("_plane")}
    assert len(on_faces) > 3
    for name, datum in on_faces.items():
        assert any(same_place(datum, other) for other in on_solid), name
    assert out.solids["link__2"].volume == pytest.approx(out.solids["link"].volume, rel=1e-9)


def test_left_out_parts_are_passed_over() -> None:
    document = four_bar(0.03, 0.09, 0.06, 0.08)
    draft = Draft("x", document)
    draft.set("placed.coupler.left_out", True)
    m = compile(draft.document, CONTEXT)
    assert not m.problems
    pose = solve(m)
    assert m.link_of["coupler"] == 0
    np.testing.assert_allclose(poses.between(m.part_pose("coupler", pose), m.starts["coupler"]), 0, atol=1e-12)
    assert mobility(m.document, m, pose).count == 2
