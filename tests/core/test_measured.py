"""Parameters that were measured: they remember from what, say when they no longer agree, and are taken again."""

from __future__ import annotations

import pytest

from tests.context import CONTEXT
from uhrwerk import At, Document, Draft, Evaluator, FramePlate, Pin, read, write
from uhrwerk.core.document import parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.elements import Bore
from uhrwerk.core.views import measured
from uhrwerk.core.views.cards import cards


@pytest.fixture
def kept() -> Document:
    """A plate with two bores and a pin in one of them; the distance from the pin to the other bore is kept."""
    draft = Draft("Measured")
    draft.parameter("far", "100 mm")
    bores = {"a": Bore(x="30 mm", y="50 mm"), "b": Bore(x="far", y="50 mm")}
    plate = draft.part("Plate", "steel", FramePlate(bores=bores))
    pin = draft.part("Pin", "steel", Pin(diameter="5 mm"))
    draft.rigid("Held", plate["a"], pin["axis"])
    found = measured(draft.document, At(placed="pin", datum="axis"), At(placed="plate", datum="b"), CONTEXT)
    own = next(m for m in found if m["name"] == "Axis to axis")
    ends = {"a": {"placed": "pin", "datum": "axis"}, "b": {"placed": "plate", "datum": "b"}}
    keep = {
        "kind": "set_parameter",
        "name": "reach",
        "formula": own["formula"],
        "measured": {"what": own["name"], **ends},
    }
    return accept(draft.document, parse(keep))


def card(evaluator: Evaluator, document: Document) -> dict:
    return cards(evaluator.evaluate(document))["parameters.reach"]  # type: ignore[return-value]


def test_it_remembers_what_it_was_measured_from(evaluator: Evaluator, kept: Document) -> None:
    assert kept.parameters["reach"].formula == "70 mm"
    assert read(write(kept)) == kept
    told = card(evaluator, kept)
    assert ["From", "Pin, axis"] in told["results"]
    assert ["To", "Plate, b"] in told["results"]
    assert "stale" not in told


def test_it_says_when_it_no_longer_agrees_and_is_taken_again(evaluator: Evaluator, kept: Document) -> None:
    moved = accept(kept, parse({"kind": "set_value", "path": "parameters.far.formula", "value": "112.5 mm"}))
    assert moved.parameters["reach"].formula == "70 mm"  # nothing hangs on where parts stand
    told = card(evaluator, moved)
    assert ["Now", "82.50 mm: it no longer agrees"] in told["results"]
    again = accept(moved, parse({"kind": "set_value", "path": "parameters.reach.formula", "value": told["stale"]}))
    assert "stale" not in card(evaluator, again)


def test_what_is_gone_is_said(evaluator: Evaluator, kept: Document) -> None:
    without = accept(kept, parse({"kind": "remove", "path": "placed.pin"}))
    assert without.parameters["reach"].formula == "70 mm"
    assert ["Now", "what it was measured from no longer exists"] in card(evaluator, without)["results"]
