"""Outlines drawn on their face: what a handle moves goes where the handle goes, and what is behind an edge moves the edge."""

from __future__ import annotations

import numpy as np
import pytest

from uhrwerk import Draft, Evaluator
from uhrwerk.core.document import Document, parse
from uhrwerk.core.field import Model, numbers
from uhrwerk.core.outlines import OUTLINES, Circle, Difference, Points, Rectangle, Slot
from uhrwerk.core.quantity import Scope
from uhrwerk.core.steps import Extrude, Hole
from uhrwerk.core.steps.cut import Cut
from uhrwerk.core.views.cards import _fields, cards

SCOPE = Scope.of({"r": "4 mm"}, {"length": "mm", "mass": "g"})
WAY = np.array([1.3e-3, -0.7e-3])


def changed(outline: Model, moves: tuple, way: np.ndarray) -> Model:
    data = outline.model_dump(mode="json")
    for field, axis, factor in moves:
        at = data
        *steps, last = field.split(".")
        for step in steps:
            at = at[step]
        at[last] = f"({at[last]}) + {float(factor * way['xy'.index(axis)] * 1e3)!r} mm"
    return type(outline).model_validate(data)


@pytest.mark.parametrize("kind", list(OUTLINES))
def test_a_handle_goes_where_it_is_drawn(kind: str) -> None:
    """A point goes all the way; one that has a single number goes as far as that number's direction lets it."""
    outline = OUTLINES[kind].model_validate({"turn": "33 deg"} if "turn" in OUTLINES[kind].model_fields else {})
    before = OUTLINES[kind].handles(numbers(outline, SCOPE))
    for k, handle in enumerate(before):
        after = OUTLINES[kind].handles(numbers(changed(outline, handle.moves, WAY), SCOPE))[k]
        went = np.array([after.x - handle.x, after.y - handle.y])
        fields = {f for f, _, _ in handle.moves}
        if len(fields) == 2:
            np.testing.assert_allclose(went, WAY, atol=1e-12)
        else:
            along = np.zeros(2)
            for _, axis, factor in handle.moves:
                along["xy".index(axis)] += factor
            along /= np.linalg.norm(along)
            np.testing.assert_allclose(went, (along @ WAY) * along, atol=1e-12)


def test_every_plain_outline_has_handles() -> None:
    bare = {k for k, model in OUTLINES.items() if not model.handles(numbers(model.model_validate({}), SCOPE))}
    assert bare == {"arc_slot", "edge_of_face"}  # one is round the part's own origin, the other follows a face


@pytest.mark.parametrize("kind", list(OUTLINES))
def test_the_card_has_a_field_for_all_of_an_outline(kind: str) -> None:
    model = OUTLINES[kind]
    outline = model.model_validate({})
    step = Extrude(name="Drawn", outline=outline)
    shown = {
        f["path"].split(".")[1] for f in _fields(Document(name="Drawn"), Extrude, step, "", SCOPE) if "." in f["path"]
    }
    lists = {
        name for name in model.model_fields if isinstance(getattr(outline, name), dict)
    }  # an empty one has *Add* alone
    assert shown | lists == set(model.model_fields) - {"kind"}


def test_the_card_tells_handles_on_their_plane(evaluator: Evaluator) -> None:
    draft = Draft("Drawn")
    draft.parameter("r", "4 mm")
    steps = {
        "block": Extrude(name="Block", outline=Rectangle(length="40 mm", width="30 mm"), length="20 mm"),
        "window": Cut(
            name="Window",
            plane="block.side_2",
            offset="1 mm",
            outline=Difference(of={"a": Slot(), "b": Circle(diameter="2 * r", y="3 mm")}),
            depth="2 mm",
        ),
        "hole": Hole(name="Hole", plane="block.end"),
        "plan": Extrude(name="Plan", plane="xz", outline=Points(), length="1 mm"),
    }
    draft.own_part("Block", "steel", steps)
    told = {s["id"]: s for s in cards(evaluator.evaluate(draft.document))["placed.block"]["steps"]}
    origin, x, y = (np.array(v) for v in told["window"]["plane"])
    np.testing.assert_allclose(np.cross(x, y), [1, 0, 0], atol=1e-12)
    np.testing.assert_allclose(origin, [21e-3, 0, 0], atol=1e-12)
    rim = next(h for h in told["window"]["handles"] if h["name"] == "b rim")
    assert rim["at"] == pytest.approx([4e-3, 3e-3])
    (move,) = rim["moves"]
    assert move["path"] == "parts.block.steps.window.outline.of.b.diameter"
    assert move["fixed"]  # a formula stays as it is
    assert [h["name"] for h in told["plan"]["handles"]] == ["corner 1", "corner 2", "corner 3"]
    np.testing.assert_allclose(told["plan"]["plane"], [[0, 0, 0], [1, 0, 0], [0, 0, 1]], atol=1e-12)
    draft.do(parse({"kind": "set_value", "path": "placed.block.mirrored", "value": True}))
    image = cards(evaluator.evaluate(draft.document))["placed.block"]["steps"]
    assert all(s["handles"] == [] for s in image)  # it is drawn on the original
    assert told["hole"]["handles"][0]["moves"][0]["path"] == "parts.block.steps.hole.at.spots.a.x"
