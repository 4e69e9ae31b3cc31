"""Parts made from others: a lid from a box's rim, a bracket's holes over a motor's, a leaf like another, mirrored."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from tests.parts import FINE, disc, hinge_leaf, tray
from uhrwerk import At, Document, Draft, Evaluator, FramePlate, ValidationFailed
from uhrwerk.core.document import apply, parse
from uhrwerk.core.document.document import Part
from uhrwerk.core.elements import Blank, Bore, ChangedNumber, Like
from uhrwerk.core.outlines import Circle, EdgeOfFace, Rectangle
from uhrwerk.core.part import part_datums
from uhrwerk.core.steps import Extrude, Hole, OnGrid, OverBores


def boxed() -> tuple[Draft, str, str]:
    """A tray, and a lid whose plate goes 1 mm beyond the rim and whose lip stands 0.2 mm inside it."""
    draft = Draft("Box")
    box = draft.own_part("Box", "acetal", tray().steps)
    lid = draft.own_part("Lid", "acetal", {
        "top": Extrude(name="Top", outline=EdgeOfFace(part=box, face="block.end", gap="1 mm"), length="2 mm"),
        "lip": Extrude(name="Lip", plane="top.start", outline=EdgeOfFace(part=box, face="block.end", line="inner", gap="-0.2 mm"), length="3 mm"),
    }, z="20 mm")  # fmt: skip
    return draft, str(box), str(lid)


def _around(length: float, width: float, corner: float, gap: float) -> shapely.Polygon:
    inside = shapely.box(-length / 2 + corner, -width / 2 + corner, length / 2 - corner, width / 2 - corner)
    return inside.buffer(corner + gap, quad_segs=FINE // 4)


@pytest.mark.parametrize("length", [50, 72])
def test_a_lid_follows_its_box(evaluator: Evaluator, length: float) -> None:
    draft, _, lid = boxed()
    draft.set("parts.box.steps.block.outline.length", f"{length} mm")
    e = evaluator.evaluate(draft.document)
    assert e.problems == []
    wanted = _around(length, 30, 5, 1).area * 2 + _around(length, 30, 5, -2.2).area * 3
    assert e.solids[lid].volume * 1e9 == pytest.approx(wanted, rel=3e-6)


def test_where_parts_stand_plays_no_part(evaluator: Evaluator) -> None:
    draft, _, lid = boxed()
    here = evaluator.evaluate(draft.document).solid_keys[lid]
    draft.set(f"placed.{lid}.start.turn_x", "40 deg")
    assert evaluator.evaluate(draft.document).solid_keys[lid] == here


def test_holes_over_the_bores_of_another_part(evaluator: Evaluator) -> None:
    draft = Draft("Fan")
    fan = draft.own_part("Fan", "acetal", {
        "case": Extrude(name="Case", outline=Rectangle(length="40 mm", width="40 mm"), length="10 mm"),
        "air": Hole(name="Air", plane="case.end", diameter="36 mm"),
        "mount": Hole(name="Mount", plane="case.end", diameter="3.4 mm", at=OnGrid(column_distance="32 mm", row_distance="32 mm")),
    })  # fmt: skip
    plate = draft.own_part("Plate", "steel", {
        "plate": Extrude(name="Plate", outline=Rectangle(length="80 mm", width="60 mm"), length="3 mm"),
        "holes": Hole(name="Holes", plane="plate.end", screw="M3", at=OverBores(part=fan, face="case.end")),
    })  # fmt: skip
    e = evaluator.evaluate(draft.document)
    assert e.problems == []
    names = e.mechanism.datums[plate]  # type: ignore[union-attr]
    found = {tuple(np.round(d.origin[:2] * 1e3, 6)) for n, d in names.items() if n.startswith("holes.hole_")}
    assert found == {(0.0, 0.0), (16, 16), (-16, 16), (16, -16), (-16, -16)}
    assert names["holes.hole_1"].radius == pytest.approx(1.7e-3)


def test_a_leaf_like_another_mirrored_with_one_number_changed(evaluator: Evaluator) -> None:
    draft = Draft("Hinge")
    leaf = draft.own_part("Leaf", "steel", hinge_leaf().steps)
    like = Like(part=leaf, mirrored=True, changes={"a": ChangedNumber(path="steps.screws.diameter", formula="4 mm")})
    other = draft.part("Other", "steel", like)
    e = evaluator.evaluate(draft.document)
    assert e.problems == []
    one, two = e.solids[leaf], e.solids[other]
    larger = dict(hinge_leaf().steps)
    larger["screws"] = larger["screws"].model_copy(update={"diameter": "4 mm"})
    plain = Part(name="Plain", material="steel", element=Blank(), steps=larger)
    same = evaluator.kernel_pool.build(part_datums.recipe(Document(name="One", parts={"one": plain}), "one")[0])
    assert two.volume == pytest.approx(same.volume, rel=1e-12)
    assert two.volume < one.volume
    np.testing.assert_allclose(two.centroid, same.centroid * [-1, 1, 1], atol=1e-9)
    mirrored, own = (e.mechanism.datums[p]["screws.hole_1"].origin for p in (other, leaf))  # type: ignore[union-attr]
    np.testing.assert_allclose((mirrored * [-1, 1, 1])[:2], own[:2], atol=1e-9)
    # in the middle of what a sink of 90 degrees to 6 mm leaves of a leaf of 2 mm
    assert (mirrored[2], own[2]) == (pytest.approx((2 - (6 - 4) / 2) / 2e3), pytest.approx((2 - (6 - 3.4) / 2) / 2e3))
    draft.set("parts.leaf.steps.screws.at.spots.a.y", "-14 mm")  # it follows
    after = evaluator.evaluate(draft.document).mechanism.datums[other]["screws.hole_1"].origin  # type: ignore[union-attr]
    assert after[1] == pytest.approx(mirrored[1] + 4e-3)


def test_steps_of_its_own_come_after(evaluator: Evaluator) -> None:
    draft = Draft("Like")
    plate = draft.part("Plate", "steel", FramePlate(bores={"b": Bore(x="20 mm", y="20 mm")}))
    other = draft.part("Other", "steel", Like(part=plate))
    draft.step(other, Extrude(name="Spigot", plane="element.end", outline=Circle(x="50 mm", y="50 mm"), length="4 mm"))
    e = evaluator.evaluate(draft.document)
    grown = (e.solids[other].volume - e.solids[plate].volume) * 1e9
    assert grown == pytest.approx(disc(0, 0, 10).area * 4, rel=1e-5)


def test_a_circle_is_refused_by_name() -> None:
    draft, box, lid = boxed()
    step = {"kind": "extrude", "name": "Back", "outline": {"kind": "edge_of_face", "part": lid, "face": "top.end"}}
    with pytest.raises(ValidationFailed, match="cannot be made from one another in a circle: Box, Lid"):
        apply(draft.document, parse({"kind": "add_step", "part": box, "step": step}))


def test_what_is_wrong_is_said() -> None:
    draft, box, _ = boxed()
    with pytest.raises(ValidationFailed, match="there is no part 'no'"):
        draft.set("parts.lid.steps.top.outline.part", "no")
    other = draft.part(
        "Other", "steel", Like(part=box, changes={"a": ChangedNumber(path="steps.block.nothing", formula="1 mm")})
    )
    with pytest.raises(ValidationFailed, match=r"'steps.block.nothing' is no number of Box"):
        part_datums.recipe(draft.document, str(other))
    assert At(placed=other, datum="block.end").datum == "block.end"
