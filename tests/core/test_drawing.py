"""The line drawing of an element: every dimension is as long as its number says, and lies on the part."""

from __future__ import annotations

import numpy as np
import pytest

from uhrwerk import Draft
from uhrwerk.core.elements import ELEMENTS, Element
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import dimension_of, numbers
from uhrwerk.core.quantity import Scope
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.views import part_drawing

#: lengths that are told elsewhere than by a line: what is counted in modules or pitches, or left away at an edge
UNDRAWN = {"module", "thinning", "chamfer", "gap", "play", "pitch", "roller"}
#: and how far a coupling may be out of line: nothing of its solid
UNDRAWN |= {"offset", "shift"}
#: and of an arm of the follower's, which is no part of the cam
UNDRAWN |= {"arm_2"}


def filled(kind: str) -> Element:
    """An element of a kind with all that is left out by default, and one of each detail."""
    model = ELEMENTS[kind]
    extra = {"link_bar": {"second_distance": "20 mm", "finger": "30 mm"}, "pin": {"head_diameter": "8 mm", "head_height": "3 mm"}, "arc_link": {"slot": "20 deg"},
             "stepped_shaft": {"bore": "3 mm"}, "block": {"corner": "4 mm", "bore": "8 mm"}, "tube": {"bore": "8 mm"}, "prism": {"bore": "8 mm"},
             "bent_sheet": {"form": "channel"}, "housing": {"bore": "20 mm"}}  # fmt: skip
    details = {name: {f"{name[:-1]}_1": blank.model_dump()} for name, blank in model.blanks.items()}
    if kind == "frame_plate":
        details["posts"]["post_1"]["x"] = "60 mm"
    return model.model_validate(extra.get(kind, {}) | details)


@pytest.mark.parametrize("kind", list(ELEMENTS))
def test_every_dimension_is_as_long_as_its_number(kind: str) -> None:
    element = filled(kind)
    n = numbers(element, Scope.of({}, {"length": "mm", "mass": "g"}))
    drawn = {d.field: d for d in ELEMENTS[kind].dimensions(n)}
    for path, d in drawn.items():
        at = n
        for step in path.split("."):
            at = at[step] if isinstance(at, dict) else getattr(at, step)
        seen = [0, 1] if d.view == "top" else [0, 2]
        a, b = np.array(d.a), np.array(d.b)
        assert np.linalg.norm((b - a)[seen]) == pytest.approx(abs(at), abs=1e-12), path  # nothing is foreshortened
    lengths = {k for k, f in type(element).model_fields.items() if (m := dimension_of(f)) and m.name == "length"}
    assert lengths - set(drawn) <= UNDRAWN


@pytest.fixture(scope="module")
def each(evaluator: Evaluator) -> Evaluation:
    draft = Draft("Each")
    for k, kind in enumerate(ELEMENTS):
        draft.part(kind, "steel", filled(kind), x=f"{200 * k} mm")
    return evaluator.evaluate(draft.document)


@pytest.mark.parametrize("kind", list(ELEMENTS))
def test_the_drawing_has_edges_of_the_solid_and_fields_of_the_document(each: Evaluation, kind: str) -> None:
    views = part_drawing(each, kind)
    if ELEMENTS[kind].datums_from_faces:
        assert views == []  # nothing yet
        return
    corners = np.concatenate([b.vertices for b in each.solids[kind].bodies.values()]) * 1e3
    for view in views:
        axes = [0, 1] if view["name"] == "top" else [0, 2]
        edges = np.array(view["edges"]).reshape(-1, 2)
        assert edges.min(axis=0) == pytest.approx(corners[:, axes].min(axis=0), abs=2e-3)
        assert edges.max(axis=0) == pytest.approx(corners[:, axes].max(axis=0), abs=2e-3)
        assert len({tuple(e) for e in view["edges"]}) == len(view["edges"])
        for d in view["dimensions"]:
            assert d["path"].startswith(f"parts.{kind}.element.")
            of, line = np.array(d["of"]), np.array(d["line"])
            assert np.linalg.norm(of[1] - of[0]) == pytest.approx(np.linalg.norm(line[1] - line[0]))
