"""Planes, axes and points of a part's own, several outlines in one step, steps repeated: against coordinates worked out by hand."""

from __future__ import annotations

import numpy as np
import pytest

from tests.context import CONTEXT
from uhrwerk import At, Document, Draft, Evaluator, Pin
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.document import apply, parse
from uhrwerk.core.elements import Like
from uhrwerk.core.outlines import ArcSlot, Circle, Difference, EdgeOfFace, Rectangle, Slot, Sum
from uhrwerk.core.part import part_datums
from uhrwerk.core.part.datum_labels import labels
from uhrwerk.core.steps import Along, Behind, Extrude, Hole, OwnAxis, OwnPlane, OwnPoint, RepeatSteps, Round, Which
from uhrwerk.core.steps.cut import Cut
from uhrwerk.core.steps.reference import BesidePlane, BetweenFaces, Crossing, SquareTo

BLOCK = Extrude(name="Block", plane="xy", outline=Rectangle(length="60 mm", width="40 mm", x="7 mm"), length="20 mm")


def part(**steps: object) -> Document:
    draft = Draft("Part")
    draft.own_part("Part", "steel", steps)  # type: ignore[arg-type]
    return draft.document


def datums(document: Document) -> dict[str, part_datums.Datum]:
    return part_datums.datums(document, "part", CONTEXT)


def volume(evaluator: Evaluator, document: Document) -> float:
    """mm3"""
    e = evaluator.evaluate(document)
    assert not e.problems, e.problems
    return e.solids["part"].volume * 1e9


def test_the_middle_of_two_faces_is_drawn_on_and_mirrored_behind(evaluator: Evaluator) -> None:
    """The block lies from x = -23 to 37 mm: its middle at 7 mm. A peg 10 mm from it on one side comes again on the other."""
    document = part(
        block=BLOCK,
        middle=OwnPlane(name="Middle", how=BetweenFaces(a="block.side_2", b="block.side_4")),
        peg=Extrude(name="Peg", plane="block.end", outline=Circle(diameter="6 mm", x="17 mm"), length="5 mm"),
        again=RepeatSteps(name="Again", steps={"a": Which(step="peg")}, how=Behind(plane="middle.plane")),
        slit=Cut(name="Slit", plane="middle.plane", outline=Rectangle(length="4 mm", width="4 mm", y="10 mm"), through=True),
    )  # fmt: skip
    middle = datums(document)["middle.plane"]
    np.testing.assert_allclose([middle.origin[0], abs(middle.z[0])], [7e-3, 1.0], atol=1e-12)
    pegs = sorted(
        round(d.origin[0], 9) for n, d in datums(document).items() if n.endswith("side_1") or "peg_side_1" in n
    )
    assert {-3e-3, 17e-3} <= set(pegs)
    assert volume(evaluator, document) == pytest.approx(60 * 40 * 20 + 2 * np.pi * 9 * 5 - 4 * 4 * 60, rel=1e-9)


def test_planes_axes_and_points_lie_where_they_are_stated() -> None:
    document = part(
        block=BLOCK,
        over=OwnPlane(name="Over", how=BesidePlane(plane="block.end", offset="3 mm")),
        slanted=OwnPlane(name="Slanted", how=BesidePlane(plane="xy", offset="5 mm", turn="30 deg", about="y")),
        edge=OwnAxis(name="Edge", how=Crossing(a="block.side_2", b="block.side_3")),
        upright=OwnAxis(name="Upright", how=SquareTo(plane="block.end", x="4 mm", y="-6 mm")),
        spot=OwnPoint(name="Spot", plane="over.plane", offset="2 mm", x="1 mm", y="2 mm"),
    )
    d = datums(document)
    np.testing.assert_allclose(d["over.plane"].origin, [0, 0, 23e-3], atol=1e-12)
    np.testing.assert_allclose(
        d["slanted.plane"].z, [0.5, 0, 3**0.5 / 2], atol=1e-12
    )  # turned by the right hand about y
    np.testing.assert_allclose(d["edge.axis"].origin[:2], [37e-3, 20e-3], atol=1e-12)
    np.testing.assert_allclose(d["edge.axis"].z, [0, 0, 1], atol=1e-12)
    np.testing.assert_allclose(d["upright.axis"].origin, [4e-3, -6e-3, 20e-3], atol=1e-12)
    np.testing.assert_allclose(d["spot.point"].origin, [1e-3, 2e-3, 25e-3], atol=1e-12)
    named = labels(document, "part", d)
    assert [named[n] for n in ("over.plane", "edge.axis", "spot.point")] == ["Over", "Edge", "Spot"]


def test_a_plane_can_come_before_anything_is_there(evaluator: Evaluator) -> None:
    document = part(
        base=OwnPlane(name="Base", how=BesidePlane(plane="yz", offset="12 mm")),
        plate=Extrude(name="Plate", plane="base.plane", outline=Circle(diameter="20 mm"), length="4 mm"),
    )
    assert volume(evaluator, document) == pytest.approx(np.pi * 100 * 4, rel=1e-9)
    assert datums(document)["plate.start"].origin[0] == pytest.approx(12e-3)


def test_planes_that_cannot_be_say_why(evaluator: Evaluator) -> None:
    for step, why in (
        (OwnPlane(name="M", how=BetweenFaces()), "choose two faces"),
        (OwnAxis(name="M", how=Crossing(a="xy", b="block.end")), "parallel"),
        (OwnPlane(name="M", how=BesidePlane(plane="post.side_1")), "not flat"),
    ):
        post = Extrude(name="Post", plane="block.end", outline=Circle(diameter="8 mm"), length="5 mm")
        e = evaluator.evaluate(part(block=BLOCK, post=post, m=step))
        assert any(p.path == "parts.part.steps.m" and why in p.words for p in e.problems), e.problems


def test_steps_are_repeated_about_an_axis_anywhere(evaluator: Evaluator) -> None:
    """Five holes about the axis of a collar that stands off the part's own z, and six about an axis that was stated."""
    collar = Extrude(
        name="Collar", plane="block.end", outline=Circle(diameter="30 mm", x="12 mm", y="3 mm"), length="6 mm"
    )
    hole = Hole(
        name="Hole",
        plane="collar.end",
        at={"kind": "points", "spots": {"a": {"x": "22 mm", "y": "3 mm"}}},
        diameter="4 mm",
    )
    for how, count, centre in (
        (Round(count="5", axis="collar.side_1"), 5, (12e-3, 3e-3)),
        (Round(count="2 * 3", axis="upright.axis"), 6, (12e-3, 3e-3)),
    ):
        document = part(
            block=BLOCK, collar=collar, upright=OwnAxis(name="U", how=SquareTo(plane="xy", x="12 mm", y="3 mm")), hole=hole,
            again=RepeatSteps(name="Again", steps={"a": Which(step="hole")}, how=how),
        )  # fmt: skip
        bores = [
            d
            for n, d in datums(document).items()
            if d.side == "bore" and abs(d.radius - 2e-3) < 1e-9 and not n.endswith(("low", "high"))
        ]
        assert len({tuple(np.round(d.origin, 9)) for d in bores}) == count
        far = [np.hypot(d.origin[0] - centre[0], d.origin[1] - centre[1]) for d in bores]
        np.testing.assert_allclose(far, 10e-3, atol=1e-9)
        assert volume(evaluator, document) == pytest.approx(48000 + np.pi * 225 * 6 - count * np.pi * 4 * 26, rel=1e-9)


def test_four_circles_in_one_extrusion_stand_on_a_plate(evaluator: Evaluator) -> None:
    """Each is a piece of its own; so is the step before a plate joins them; loose in the end, the step says so."""
    circles = {
        f"c{k}": Circle(diameter="6 mm", x=f"{x} mm", y=f"{y} mm")
        for k, (x, y) in enumerate(((20, 12), (-10, 12), (-10, -12), (20, -12)))
    }
    posts = Extrude(name="Posts", plane="xy", outline=Sum(of=circles), length="30 mm")
    want = 48000 + 4 * np.pi * 9 * 10
    assert volume(evaluator, part(block=BLOCK, posts=posts)) == pytest.approx(want, rel=1e-9)
    assert volume(evaluator, part(posts=posts, block=BLOCK)) == pytest.approx(want, rel=1e-9)
    names = datums(part(block=BLOCK, posts=posts))
    assert {"posts.side_1", "posts.side_2", "posts.side_3", "posts.side_4"} <= set(names)
    np.testing.assert_allclose(names["posts.side_3"].origin[:2], [-10e-3, -12e-3], atol=1e-9)
    e = evaluator.evaluate(part(posts=posts))
    assert [(p.path, "4 pieces" in p.words) for p in e.problems] == [("parts.part.steps.posts", True)]
    loose = Extrude(name="Loose", plane="xy", outline=Circle(diameter="5 mm", x="80 mm"), length="5 mm")
    e = evaluator.evaluate(part(block=BLOCK, loose=loose, last=Hole(name="Last", plane="block.end", diameter="3 mm")))
    assert [p.path for p in e.problems] == ["parts.part.steps.loose"]
    assert e.solids["part"].volume * 1e9 == pytest.approx(48000, rel=1e-9)  # as it was before


def test_a_part_cut_in_two_is_refused_unless_it_is_joined_again(evaluator: Evaluator) -> None:
    gap = Cut(name="Gap", plane="xy", outline=Rectangle(length="5 mm", width="60 mm"), through=True)
    bridge = Extrude(name="Bridge", plane="xy", outline=Rectangle(length="20 mm", width="10 mm"), length="5 mm")
    e = evaluator.evaluate(part(block=BLOCK, gap=gap))
    assert [p.path for p in e.problems] == ["parts.part.steps.gap"]
    assert not evaluator.evaluate(part(block=BLOCK, gap=gap, bridge=bridge)).problems


def test_teeth_and_counts_take_parameters_and_must_be_whole() -> None:
    draft = Draft("Gears")
    draft.parameter("z", "24")
    draft.own_part("Part", "steel", {
        "block": BLOCK, "peg": Extrude(name="Peg", plane="block.end", outline=Circle(diameter="3 mm", x="-15 mm"), length="4 mm"),
        "again": RepeatSteps(name="Again", steps={"a": Which(step="peg")}, how=Along(count="z / 6", x="10 mm")),
    })  # fmt: skip
    pegs = {
        tuple(np.round(d.origin[:2], 9))
        for n, d in datums(draft.document).items()
        if "side_1" in n and d.kind == "axis" and "w" not in n.rpartition("_")[2]
    }
    assert {(x * 1e-3, 0.0) for x in (-15, -5, 5, 15)} <= pegs
    with pytest.raises(ValueError, match=r"whole number, not 2\.5"):
        draft.set("parts.part.steps.again.how.count", "z / 9.6")
    with pytest.raises(ValueError, match="from 2 to 360"):
        draft.set("parts.part.steps.again.how.count", "1")
    after = apply(draft.document, parse({"kind": "set_value", "path": "parts.part.steps.again.how.count", "value": 3}))
    assert after.parts["part"].steps["again"].how.count == "3"  # type: ignore[attr-defined]


@pytest.mark.parametrize("gap", ["0.2 mm", "-0.2 mm"])
@pytest.mark.parametrize("face", ["block.end", "block.start"])
def test_the_edge_of_a_round_face_with_a_gap(evaluator: Evaluator, face: str, gap: str) -> None:
    """A lid round a round box, and a plug in its bore: circles so much larger."""
    draft = Draft("Lid")
    ring = Difference(of={"a": Circle(diameter="40 mm", x="5 mm"), "b": Circle(diameter="20 mm", x="5 mm")})
    draft.own_part("Box", "acetal", {"block": Extrude(name="Block", outline=ring, length="10 mm")})
    more = float(gap.split()[0])
    for line, radius in (("outer", 20), ("inner", 10)):
        outline = EdgeOfFace(part="box", face=face, gap=gap, line=line)  # type: ignore[arg-type]
        draft.own_part(line.title(), "acetal", {"lid": Extrude(name="Lid", outline=outline, length="3 mm")}, z="40 mm")
        e = evaluator.evaluate(draft.document)
        assert not e.problems, e.problems
        assert e.solids[line].volume * 1e9 == pytest.approx(3 * np.pi * (radius + more) ** 2, rel=1e-9)


def test_a_pin_runs_in_a_slot_that_a_step_cut(evaluator: Evaluator) -> None:
    """A straight slot of 20 mm at 30 degrees on top of a block, and an arc slot: a pin travels just so far in each."""
    slot = Cut(
        name="Slot",
        plane="block.end",
        outline=Slot(length="20 mm", width="6 mm", x="5 mm", y="2 mm", turn="30 deg"),
        through=True,
    )
    arc = Cut(
        name="Arc",
        plane="block.end",
        outline=ArcSlot(radius="18 mm", width="4 mm", span="50 deg", middle="160 deg"),
        through=True,
    )
    document = part(block=BLOCK, slot=slot, arc=arc)
    d = datums(document)["slot.slot"]
    np.testing.assert_allclose(d.origin, [5e-3, 2e-3, 20e-3], atol=1e-12)
    np.testing.assert_allclose(d.x, [np.cos(np.pi / 6), 0.5, 0], atol=1e-12)
    assert (d.kind, d.length) == ("slot", pytest.approx(20e-3))
    a = datums(document)["arc.slot"]
    np.testing.assert_allclose(a.x, [np.cos(np.radians(160)), np.sin(np.radians(160)), 0], atol=1e-12)
    assert (a.kind, a.radius, a.length) == ("arc_slot", pytest.approx(18e-3), pytest.approx(18e-3 * np.radians(50)))
    draft = Draft("Runs", document)
    pin = draft.part("Pin", "steel", Pin(diameter="6 mm", length="30 mm"), z="-5 mm")
    draft.slot_pair("Runs", pin["axis"], At(placed="part", datum="slot.slot"))
    m = compile(draft.document, CONTEXT)
    assert not m.problems, m.problems
    at = m.part_pose("pin", solve(m))[:3]
    assert abs((at[:2] - [5e-3, 2e-3]) @ [-0.5, np.cos(np.pi / 6)]) < 1e-9  # on the middle line of the slot


def test_patterns_and_slots_of_a_mirrored_part_lie_behind_its_plane() -> None:
    """The image behind the yz plane: what lay at x = 12 mm lies at -12 mm."""
    draft = Draft("Like")
    hole = Hole(
        name="Holes",
        plane="block.end",
        diameter="3 mm",
        at={"kind": "circle", "count": "3", "diameter": "10 mm", "x": "12 mm", "y": "3 mm"},
    )
    slot = Cut(
        name="Slot",
        plane="block.end",
        outline=Slot(length="10 mm", width="4 mm", x="-9 mm", y="-8 mm", turn="30 deg"),
        through=True,
    )
    draft.own_part("Part", "steel", {"block": BLOCK, "holes": hole, "slot": slot})
    draft.part("Image", "steel", Like(part="part", mirrored=True), x="100 mm")
    own, image = (part_datums.datums(draft.document, p, CONTEXT) for p in ("part", "image"))
    for name in ("holes.middle", "slot.slot"):
        np.testing.assert_allclose(image[name].origin, own[name].origin * [-1, 1, 1], atol=1e-12)
        np.testing.assert_allclose(image[name].x, own[name].x * [-1, 1, 1], atol=1e-12)
    bores = [image[f"holes.hole_{k}"].origin for k in (1, 2, 3)]
    np.testing.assert_allclose(np.mean(bores, axis=0)[:2], image["holes.middle"].origin[:2], atol=1e-9)
