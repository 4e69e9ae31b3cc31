"""The document and its commands: reading, refusing with a path, changing, and going back."""

from __future__ import annotations

import json

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import DEMO, MENDED
from uhrwerk import Draft
from uhrwerk.core.document import Document, ValidationFailed, apply, new_id, parse, schema, validate, words, write
from uhrwerk.core.outlines import Circle
from uhrwerk.core.steps import Extrude, Hole
from uhrwerk.core.upgrade import read
from uhrwerk.demo.foil_tucker import foil_tucker, mended


def changed(document: Document, **command: object) -> Document:
    return apply(document, parse(command))


def faults(document: Document, **command: object) -> dict[str, str]:
    with pytest.raises(ValidationFailed) as error:
        changed(document, **command)
    return dict(error.value.faults)


def test_shipped_files_are_the_demo_as_written_in_python() -> None:
    assert read(DEMO.read_text(encoding="utf-8")) == foil_tucker()
    assert read(MENDED.read_text(encoding="utf-8")) == mended()


def test_written_and_read_is_equal(tucker: Document) -> None:
    assert read(write(tucker)) == tucker
    assert write(read(write(tucker))) == write(tucker)


def test_schema_accepts_the_demo_and_refuses_what_we_refuse(tucker: Document) -> None:
    jsonschema.Draft202012Validator.check_schema(schema())
    data = json.loads(write(tucker))
    jsonschema.validate(data, schema())
    data["parts"]["coupler"]["element"]["widht"] = "3 mm"
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(data, schema())


@pytest.mark.parametrize(
    ("path", "value", "reason"),
    [
        ("parts.coupler.element.width", "3 deg", "length is required"),
        ("parts.coupler.element.width", "-3 mm", "above zero"),
        ("parts.coupler.element.width", "wide", "'wide'"),
        ("parts.coupler.element.width", True, "yes or no"),
        ("parts.coupler.material", "unobtainium", "no material 'unobtainium'"),
        ("placed.coupler.part", "gone", "no part 'gone'"),
        ("joints.rocker_on_coupler.a.placed", "gone", "no placed part"),
        ("joints.rocker_on_coupler.a.placed", "rocker_and_finger", "two different parts"),
        ("drivers.motor.joint", "gone", "no joint"),
        ("drivers.motor.joint", "arbor_pressed_in_wheel", "needs a revolute or cylindrical or screw joint"),
        ("requirements.rocker_clears_post.a.placed", "gone", "no placed part"),
        ("requirements.moving_mass.of", "gone", "no group"),
        ("frame", "gone", "no placed part"),
        ("cycle.duration", "0 s", "above zero"),
        ("pairs.pinion_drives_wheel.b", "motor_pinion", "two different parts"),
    ],
)
def test_a_bad_value_is_refused_with_its_path(tucker: Document, path: str, value: object, reason: str) -> None:
    found = faults(tucker, kind="set_value", path=path, value=value)
    assert any(".".join(path.split(".")[:2]) in p and reason in r for p, r in found.items()), found


@pytest.mark.parametrize(
    "path", ["nothing", "parts.coupler.element.widht", "parts.gone.element.width", "cycle.frames.x", "joints.x.y.z"]
)
def test_a_path_that_leads_nowhere_is_refused(tucker: Document, path: str) -> None:
    assert path in str(faults(tucker, kind="set_value", path=path, value="3 mm"))


@pytest.mark.parametrize(
    ("text", "path"),
    [
        ("{", "document"),
        ("[]", "document"),
        ("null", "document"),
        ('{"format": 99, "name": "x"}', "format"),
        ('{"name": "x"}', "format"),
        ('{"format": 1}', "name"),
        ('{"format": 1, "name": "x", "colour": "red"}', "colour"),
        ('{"format": 1, "name": "x", "cycle": {"frames": 1e99}}', "cycle.frames"),
        ('{"format": 1, "name": "x", "parameters": {"mm": {"formula": "3"}}}', "parameters"),
        ('{"format": 1, "name": "x", "parts": {"Bad Id": {}}}', "parts.Bad Id"),
        ('{"format": 1, "name": "x", "parts": {"a": {"name": "a", "material": "steel", "element": {"kind": "pin", "diameter": "NaN"}}}}', "parts.a.element.diameter"),
    ],
)  # fmt: skip
def test_a_broken_file_is_refused_with_the_fields_path(text: str, path: str) -> None:
    with pytest.raises(ValidationFailed) as error:
        read(text)
    assert any(p.startswith(path) for p, _ in error.value.faults), error.value.faults


def test_nesting_and_size_are_bounded() -> None:
    with pytest.raises(ValidationFailed):
        read("[" * 100_000)
    with pytest.raises(ValidationFailed):
        read('{"format": 1, "name": "x", "note": "' + "y" * 3000 + '"}')


def test_first_part_becomes_the_frame() -> None:
    document = changed(
        Document(name="x"),
        kind="add_part",
        part={"name": "Base", "material": "steel", "element": {"kind": "frame_plate"}},
    )
    assert document.frame == "base"
    assert document.placed["base"].part == "base"


def test_ids_come_from_names_and_never_clash() -> None:
    assert new_id("Wheel with crank-pin", {}) == "wheel_with_crank_pin"
    assert new_id("Wheel", {"wheel": 1, "wheel_2": 1}) == "wheel_3"
    assert new_id("6 mm pin", {}) == "n_6_mm_pin"
    assert new_id("字", {}) == "item"


def test_removing_takes_with_it_what_refers_to_it(tucker: Document) -> None:
    after = changed(tucker, kind="remove", path="placed.motor_pinion")
    assert "pinion_turns_in_plate" not in after.joints
    assert not after.pairs
    assert not after.drivers
    assert "coupler" in after.placed
    assert set(tucker.joints) - set(after.joints) == {"pinion_turns_in_plate", "shaft_pressed_in_pinion"}


def test_removing_a_part_removes_its_uses_and_moves_the_frame(tucker: Document) -> None:
    after = changed(tucker, kind="remove", path="parts.plate")
    assert "plate" not in after.placed
    assert after.frame == "motor_pinion"
    assert "rocker_clears_post" not in after.requirements


def test_removing_a_parameter_in_use_is_refused(tucker: Document) -> None:
    assert "'play'" in str(faults(tucker, kind="remove", path="parameters.play"))


def test_commands_together_are_one_change(tucker: Document) -> None:
    pair = [
        {"kind": "set_value", "path": "cycle.frames", "value": 24},
        {"kind": "set_parameter", "name": "extra", "formula": "1 mm"},
    ]
    after = changed(tucker, kind="together", commands=pair)
    assert after.cycle.frames == "24"
    assert after.parameters["extra"].formula == "1 mm"
    pair[1]["formula"] = "nonsense here"
    assert faults(tucker, kind="together", commands=pair)


def test_commands_speak(tucker: Document) -> None:
    assert (
        words(parse({"kind": "set_value", "path": "parts.coupler.element.width", "value": "9 mm"}), tucker)
        == "Coupler width = 9 mm"
    )
    assert words(parse({"kind": "remove", "path": "placed.coupler"}), tucker) == "removed Coupler"


def test_apply_leaves_the_document_as_it_was(tucker: Document) -> None:
    before = write(tucker)
    changed(tucker, kind="set_value", path="parts.coupler.element.width", value="9 mm")
    assert write(tucker) == before


@settings(max_examples=40, deadline=None)
@given(st.recursive(st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=8), lambda x: st.lists(x, max_size=3) | st.dictionaries(st.text(max_size=8), x, max_size=3), max_leaves=12))  # fmt: skip
def test_any_json_is_read_or_refused(data: object) -> None:
    try:
        validate(data)
    except ValidationFailed as error:
        assert error.faults


@settings(max_examples=40, deadline=None)
@given(st.sampled_from(["parts.coupler.element", "placed", "joints", "frame", "cycle", "requirements.moving_mass", "parameters.play.formula", "units.length"]), st.none() | st.booleans() | st.integers() | st.text(max_size=20) | st.dictionaries(st.text(max_size=5), st.text(max_size=5), max_size=2))  # fmt: skip
def test_any_value_anywhere_is_taken_or_refused(path: str, value: object) -> None:
    try:
        assert read(write(changed(foil_tucker_cached, kind="set_value", path=path, value=value)))
    except ValidationFailed as error:
        assert error.faults


foil_tucker_cached = read(DEMO.read_text(encoding="utf-8"))


def test_another_kind_keeps_what_both_have() -> None:
    draft = Draft("Plate")
    spots = {"a": {"x": "7 mm", "y": "side / 2"}, "b": {"x": "1 mm", "y": "2 mm"}}
    draft.parameter("side", "30 mm")
    hole = Hole.model_validate({"name": "Holes", "plane": "plate.end", "at": {"kind": "points", "spots": spots}})
    outline = Circle(diameter="20 mm", x="3 mm", y="4 mm")
    draft.own_part("Plate", "steel", {"plate": Extrude(name="Plate", outline=outline, length="8 mm"), "hole": hole})
    draft.set("parts.plate.steps.hole.at", {"kind": "grid"})
    draft.set("parts.plate.steps.plate.outline", {"kind": "rectangle"})
    grid, rectangle = (
        draft.document.parts["plate"].steps["hole"].at,
        draft.document.parts["plate"].steps["plate"].outline,
    )  # type: ignore[attr-defined]
    assert (grid.kind, grid.x, grid.y, grid.columns) == ("grid", "7 mm", "side / 2", "2")
    assert (rectangle.x, rectangle.y, rectangle.length) == ("3 mm", "4 mm", "40 mm")
    draft.set(
        "parts.plate.steps.plate.outline", {"kind": "circle", "diameter": "5 mm"}
    )  # stated whole: nothing is kept
    assert draft.document.parts["plate"].steps["plate"].outline.x == "0 mm"  # type: ignore[attr-defined]
