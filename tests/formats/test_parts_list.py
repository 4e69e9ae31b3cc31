"""The parts list: quantities, standards, masses, and nothing in it that a spreadsheet would work out."""

from __future__ import annotations

import csv
import io

import pytest

from uhrwerk import Draft, Evaluator, Pin
from uhrwerk.core.elements.hardware.cap_screw import CapScrew
from uhrwerk.core.elements.hardware.countersunk_screw import CountersunkScrew
from uhrwerk.core.elements.hardware.washer import Washer
from uhrwerk.core.exchange import written


def test_one_line_a_design(evaluator: Evaluator) -> None:
    draft = Draft("List")
    draft.part("=SUM(1)", "steel", Pin(diameter="8 mm", length="20 mm"))
    draft.part("Screw", "steel", CapScrew(size="M5", length="16 mm"), x="50 mm")
    draft.part("Inch screw", "steel", CountersunkScrew(size="1/4-20", length="0.75 in"), x="100 mm")
    draft.part("Inch washer", "steel", Washer(size="1/4"), x="150 mm")
    e = evaluator.evaluate(draft.document)
    rows = list(csv.DictReader(io.StringIO(written("list.csv", e)[0].decode())))
    assert [r["part"] for r in rows] == ["'=SUM(1)", "Screw", "Inch screw", "Inch washer"]
    assert [(r["standard"], r["size"]) for r in rows] == [
        ("", ""), ("ISO 4762", "M5 x 16 mm"), ("ASME B18.3", "1/4-20 x 0.75 in"), ("", "1/4"),
    ]  # fmt: skip
    assert [r["source"] for r in rows] == ["made", "bought", "bought", "bought"]
    assert [r["quantity"] for r in rows] == ["1"] * 4
    assert float(rows[0]["mass of one / kg"]) == pytest.approx(e.part_mass[next(iter(draft.document.placed))])
    for r in rows:
        assert float(r["mass in all / kg"]) == pytest.approx(int(r["quantity"]) * float(r["mass of one / kg"]))
