"""The demo's modules: written as shipped, failing as told, and mended by what they say would mend them."""

from __future__ import annotations

from importlib import import_module

import pytest

from tests.conftest import DEMO
from tests.context import CONTEXT
from uhrwerk import Draft, write
from uhrwerk.core import views
from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.demo import MODULES

FAILING = {
    "main_drive": {"wheel_clears_motor_arbor"},
    "folder": {"cam_pushes_straight", "roller_stays_on_the_cam"},
    "pusher": {"nothing_overlaps", "lever_clears_post", "return_is_quick"},
    "guard_lid": {"nothing_overlaps", "lid_clears_the_cover", "lid_turns_on_its_pin"},
    "foil_cutter": {"runs_quietly", "centre_on_the_axis"},
    "planetary_sample": {"nothing_fuses"},
    "gripper_ring": {"ring_clears_the_cup"},
}  # fmt: skip


def written(module: str) -> Document:
    return getattr(import_module(f"uhrwerk.demo.{module}"), module)()


@pytest.mark.parametrize("module", MODULES)
def test_the_shipped_file_is_what_the_module_writes(module: str) -> None:
    assert (DEMO.parent / f"{module.replace('_', '-')}.json").read_text(encoding="utf-8") == write(written(module))


@pytest.mark.parametrize("module", FAILING)
def test_a_module_fails_as_drawn_and_holds_when_mended(evaluator: Evaluator, module: str) -> None:
    draft = Draft("x", written(module))
    out = evaluator.evaluate(draft.document)
    assert out.problems == []
    assert out.mechanism is not None
    assert out.mechanism.remarks == []
    assert {i for i, v in out.verdicts.items() if v.holds is False} == FAILING[module]
    assert not [v for v in out.verdicts.values() if v.holds is None]
    told = views.view(out)
    assert {v["requirement"] for v in told["verdicts"] if v["holds"] is False} == FAILING[module]
    assert all(v["valueText"] for v in told["verdicts"])
    for path, value in import_module(f"uhrwerk.demo.{module}").MENDED.items():
        draft.set(path, value)
    assert evaluator.evaluate(draft.document).holds is True


def test_the_lid_is_held_by_relations_that_make_a_hinge() -> None:
    from uhrwerk.core.assembly import compile

    held = compile(written("guard_lid"), CONTEXT).joints["lid_on_the_axis"]
    assert (held.kind, held.by) == ("revolute", ("concentric", "flush"))
