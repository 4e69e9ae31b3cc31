"""Pulling a face: the number behind it, rounded by ISO 3, up to a gap from a neighbour."""

from __future__ import annotations

import pytest

from tests.context import CONTEXT
from uhrwerk import At, Document, Draft, Evaluator, FramePlate, LinkBar, Pin
from uhrwerk.core.document import parse
from uhrwerk.core.edit import join
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.grow import sprouts
from uhrwerk.core.edit.nearest_gap import nearest
from uhrwerk.core.edit.pull import to_gap
from uhrwerk.core.outlines import Circle, Rectangle
from uhrwerk.core.part import part_datums
from uhrwerk.core.quantity import length_text, value
from uhrwerk.core.quantity.preferred import R20, preferred
from uhrwerk.core.steps import Extrude, Hole, MoveFace
from uhrwerk.core.steps.cut import Cut


def block() -> Draft:
    draft = Draft("Pulled")
    draft.parameter("tall", "20 mm")
    steps = {
        "block": Extrude(name="Block", outline=Rectangle(length="40 mm", width="30 mm"), length="tall"),
        "post": Extrude(name="Post", plane="block.end", outline=Circle(diameter="10 mm"), length="8 mm"),
        "hole": Hole(name="Hole", plane="block.side_2", diameter="6 mm"),
        "recess": Cut(
            name="Recess", plane="block.side_4", outline=Rectangle(length="8 mm", width="8 mm"), depth="3 mm + 1 mm"
        ),
        "moved": MoveFace(name="Moved", face="post.end", by="2 mm"),
    }
    draft.own_part("Block", "steel", steps)
    return draft


def pull(document: Document, datum: str, by: str, label: str = "") -> Document:
    found = [
        s
        for s in sprouts(document, At(placed="block", datum=datum), CONTEXT, values={"by": by})
        if s.kind == "pull" and label in s.title and ("this side" in label or "this side" not in s.title)
    ]
    assert found, datum
    return accept(document, parse(found[0].command))


@pytest.mark.parametrize(
    ("datum", "by", "path", "text", "there"),
    [
        ("block.end", "3 mm", "parameters.tall.formula", "23 mm", 23.0),
        ("block.side_2", "2 mm", "parts.block.steps.block.outline.length", "44 mm", 22.0),
        ("recess.end", "1 mm", "parts.block.steps.recess.depth", "3 mm + 1 mm - 1 mm", None),
        ("hole.hole_1", "0.25 mm", "parts.block.steps.hole.diameter", "5.5 mm", None),
        ("post.side_1", "0.5 mm", "parts.block.steps.post.outline.diameter", "11 mm", None),
        ("post.end", "-1 mm", "parts.block.steps.moved.by", "1 mm", 29.0),
    ],
)
def test_the_number_behind_a_face_changes(
    evaluator: Evaluator, datum: str, by: str, path: str, text: str, there: float | None
) -> None:
    document = block().document
    before = part_datums.datums(document, "block", CONTEXT)[datum]
    after = pull(document, datum, by)
    at = after
    for step in path.split("."):
        at = at[step] if isinstance(at, dict) else getattr(at, step)
    assert at == text
    now = part_datums.datums(after, "block", CONTEXT)[datum]
    way = float(by.removesuffix(" mm"))
    if now.kind == "plane":
        assert (now.origin - before.origin) @ before.z * 1e3 == pytest.approx(way, abs=1e-9)
        if there is not None:
            assert now.origin @ now.z * 1e3 == pytest.approx(there, abs=1e-9)
    else:
        assert (now.radius - before.radius) * 1e3 * (-1 if now.side == "bore" else 1) == pytest.approx(way, abs=1e-9)


@pytest.mark.parametrize("corner", ["0 mm", "3 mm"])
@pytest.mark.parametrize("side", [1, 2, 3, 4])
@pytest.mark.parametrize("by", ["4 mm", "-1.5 mm"])
def test_one_side_alone_moves(evaluator: Evaluator, corner: str, side: int, by: str) -> None:
    """Of a block and of a pocket: the face moves, the one opposite stays, by their datums."""
    draft = Draft("Block")
    outline = Rectangle(length="40 mm", width="30 mm", corner=corner, x="7 mm", y="wide / 4")
    draft.parameter("wide", "12 mm")
    pocket = Rectangle(length="20 mm", width="16 mm", corner=corner, x="2 mm + 3 mm")
    draft.own_part(
        "Block",
        "steel",
        {
            "block": Extrude(name="Block", outline=outline, length="20 mm"),
            "pocket": Cut(name="Pocket", plane="block.end", outline=pocket, depth="5 mm"),
        },
    )
    edges = [2 * s - 1 if corner != "0 mm" else s for s in (side, (side + 1) % 4 + 1)]
    for step in ("block", "pocket"):
        moved, still = (f"{step}.side_{edge}" for edge in edges)
        before = part_datums.datums(draft.document, "block", CONTEXT)
        after = part_datums.datums(pull(draft.document, moved, by, "this side"), "block", CONTEXT)
        way = (after[moved].origin - before[moved].origin) @ before[moved].z
        assert way * 1e3 == pytest.approx(float(by.removesuffix(" mm")), abs=1e-9)
        assert (after[still].origin - before[still].origin) @ before[still].z == pytest.approx(0, abs=1e-12)


def test_numbers_of_elements_are_found(evaluator: Evaluator) -> None:
    draft = Draft("Elements")
    draft.part("Block", "steel", FramePlate())
    top = pull(draft.document, "right", "5 mm")
    assert top.parts["block"].element.length == "165 mm"  # type: ignore[attr-defined]
    assert pull(draft.document, "bottom", "2 mm").parts["block"].element.thickness == "10 mm"  # type: ignore[attr-defined]
    bar = Draft("Bar")
    bar.part("Block", "steel", LinkBar())
    wider = pull(bar.document, "hole_1", "-0.5 mm")
    before = float(LinkBar().bore_1.removesuffix(" mm"))
    assert wider.parts["block"].element.bore_1 == f"{before + 1:g} mm"  # type: ignore[attr-defined]


def test_preferred_numbers_follow_their_series() -> None:
    """ISO 3: the theoretical values are the powers of the tenth and twentieth root of ten, rounded by at most 1.3 %."""
    for k, r in enumerate(R20):
        assert r == pytest.approx(10 ** (k / 20), rel=0.013)
    assert [preferred(x, 10) for x in (0.97, 1.3, 23, 0.085, 0.095)] == [1.0, 1.25, 25, 0.08, 0.1]
    assert preferred(27.3, 20) == 28


def test_round_values_are_offered(evaluator: Evaluator) -> None:
    found = sprouts(
        block().document, At(placed="block", datum="block.end"), CONTEXT, values={"by": "4.3 mm", "step": "2 mm"}
    )
    own = next(s for s in found if s.kind == "pull")
    assert {r.words: r.by for r in own.rounded} == {"24 mm (step)": "4 mm", "25 mm (R10, R20)": "5 mm"}


@pytest.mark.parametrize("gap", ["3 mm", "0.4 mm"])
def test_pulled_until_the_neighbour_is_so_far_away(evaluator: Evaluator, gap: str) -> None:
    """A pin stands beside the block: the face is moved until it clears by what is asked, seen by the pin's own place."""
    draft = block()
    draft.part("Pin", "steel", Pin(diameter="10 mm", length="40 mm"), x="27 mm")
    at = At(placed="block", datum="block.side_2")
    own = next(s for s in sprouts(draft.document, at, CONTEXT) if s.kind == "pull")

    def command(by: float) -> dict:
        (one,) = sprouts(draft.document, at, CONTEXT, own.id, {"by": f"{by * 1e3:.9g} mm"})
        return one.command

    wanted = float(gap.removesuffix(" mm")) * 1e-3
    by = to_gap(draft.document, "block", command, wanted, 0.0, evaluator)
    assert by == pytest.approx(
        2e-3 - wanted, abs=1.1e-5
    )  # as far as the pin's triangles tell: the pin's side stands at 22 mm, the block's at 20 mm
    after = accept(draft.document, parse(command(by)))
    told = join.tried(draft.document, parse(command(by)), CONTEXT)
    near = nearest(after, "block", told.poses, evaluator)
    assert near is not None
    assert near.gap == pytest.approx(wanted, abs=5e-5)


@pytest.mark.parametrize("unit", ["mm", "cm", "m", "in"])
def test_lengths_are_written_to_a_nanometre_in_any_unit(unit: str) -> None:
    for si in (0.1234567891, 2.54e-3, -60e-3, 0.0, 1.0000001):
        assert value(length_text(si, unit), "length") == pytest.approx(si, abs=1e-9)
