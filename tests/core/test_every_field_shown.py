"""Every number, choice, reference, list and nested choice of every kind is a field that the page can set, to any depth."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest

from uhrwerk import Document
from uhrwerk.core.elements import ELEMENTS
from uhrwerk.core.field import Kinds
from uhrwerk.core.outlines import DRAWN_RELATIONS, OUTLINES, Traced
from uhrwerk.core.steps import STEPS
from uhrwerk.core.steps.hole import PLACES
from uhrwerk.core.steps.reference import AXES, PLANES
from uhrwerk.core.steps.repeat_steps import HOW
from uhrwerk.core.views.cards import fields_of
from uhrwerk.demo import foil_cutter, foil_tucker, folder, gripper_ring, guard_lid, main_drive, planetary_sample, pusher

DOCUMENT = Document(name="x")
#: set elsewhere than in a field: the name in the title, switching off, the file by importing it
ELSEWHERE = {"kind", "name", "off", "note", "contents", "file", "colour", "source"}
DEMOS = (foil_cutter, foil_tucker, folder, gripper_ring, guard_lid, main_drive, planetary_sample, pusher)


def leaves(data: Any, path: str = "") -> Iterator[str]:
    if isinstance(data, dict) and data:
        for key, item in data.items():
            yield from leaves(item, f"{path}.{key}" if path else key)
    elif not isinstance(data, dict):
        yield path


def unshown(document: Document, model: Any) -> list[str]:
    shown: set[str] = set()
    for f in fields_of(document, model, "", document.scope()):
        path = f["path"].lstrip(".")
        shown.add(path)
        shown |= {f"{path}.kind"} if f["kind"] == "kinds" else set()
        shown |= {f"{path}.placed", f"{path}.datum"} if f["kind"] == "datum" else set()
        shown |= (
            {path.removesuffix("placed") + "body"} if f["kind"] == "reference" and path.endswith(".placed") else set()
        )
    out = (
        p
        for p in leaves(model.model_dump(mode="json"))
        if p not in shown and not (p.partition(".")[0] in ELSEWHERE and "." not in p)
    )
    return [
        p for p in out if p.rpartition(".")[2] not in ("x", "y", "z") or f"{p.rpartition('.')[0]}.datum" not in shown
    ]  # offsets have fields of their own


def nested(kinds: Kinds[Any]) -> list[str]:
    return list(kinds)


@pytest.mark.parametrize("kind", list(ELEMENTS))
def test_of_elements(kind: str) -> None:
    model = ELEMENTS[kind]
    details = {name: {f"{name[:-1]}_1": blank.model_dump()} for name, blank in model.blanks.items()}
    element = model.model_validate(
        {**({"contents": "0" * 32, "file": "x.step"} if kind == "imported" else {}), **details}
    )
    assert unshown(DOCUMENT, element) == []


@pytest.mark.parametrize("kind", list(STEPS))
def test_of_build_steps_with_every_outline_place_and_way(kind: str) -> None:
    model = STEPS[kind]
    variants: list[dict[str, Any]] = [{}]
    for field, kinds in (
        ("outline", OUTLINES),
        ("at", PLACES),
        ("how", {"repeat": HOW, "plane": PLANES, "axis": AXES}.get(kind, {})),
    ):
        if field in model.model_fields:
            variants += [{field: {"kind": k}} for k in kinds]
    for variant in variants:
        assert unshown(DOCUMENT, model.model_validate({"name": "x", **variant})) == [], variant


def test_of_outlines_within_outlines() -> None:
    """A sum of a difference of every other outline, and a drawn one with every relation."""
    inner = {f"n_{k}": {"kind": kind} for k, kind in enumerate(OUTLINES)}
    outline = {"kind": "sum", "of": {"a": {"kind": "difference", "of": inner}, "b": {"kind": "traced"}}}
    assert unshown(DOCUMENT, STEPS["extrude"].model_validate({"name": "x", "outline": outline})) == []
    drawn = Traced.model_validate({"relations": {f"r{k}": {"kind": kind} for k, kind in enumerate(DRAWN_RELATIONS)}})
    assert unshown(DOCUMENT, drawn) == []


@pytest.mark.parametrize("module", DEMOS, ids=lambda m: m.__name__.rpartition(".")[2])
def test_of_all_that_the_demo_states(module: Any) -> None:
    """Joints, relations, pairs, repeats, groups, drivers, curves, requirements, materials: with what they refer to."""
    document = getattr(module, module.__name__.rpartition(".")[2])()
    for collection in (
        "joints",
        "relations",
        "pairs",
        "repeats",
        "groups",
        "drivers",
        "curves",
        "requirements",
        "materials",
    ):
        for i, item in getattr(document, collection).items():
            assert unshown(document, item) == [], f"{collection}.{i}"
