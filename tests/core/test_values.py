"""Every number on a card can be had by the command line and by `import uhrwerk`, and is the same."""

from __future__ import annotations

import json
import math
import re
from pathlib import Path

import numpy as np
import pytest

import uhrwerk
from tests.mechanisms import four_bar, four_bar_closed_form
from uhrwerk.cli import main
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.views import view

ROOT = Path(__file__).parent.parent.parent / "src/uhrwerk/demo"
MODULES = [
    "foil-tucker",
    "main-drive",
    "folder",
    "pusher",
    "guard-lid",
    "foil-cutter",
    "gripper-ring",
    "planetary-sample",
]
#: SI of one of each unit that a card shows: exact by definition
ONE = {
    "mm": 1e-3, "in": 0.0254, "deg": math.pi / 180, "g": 1e-3, "kg": 1.0, "s": 1.0, "rpm": 2 * math.pi / 60, "mm/s": 1e-3,
    "g/cm^3": 1e3, "MPa": 1e6, "rad/s^2": 1.0, "rad/s^3": 1.0, "m/s^2": 1.0, "m/s^3": 1.0, "N": 1.0, "N/mm": 1e3, "N mm": 1e-3, "": 1.0, "field": 1.0, "fields": 1.0,
}  # fmt: skip
NUMBER = re.compile(r"^(-?\d+(?:\.\d+)?)(?: ([a-zA-Z/^0-9]+))?$")


def agrees(text: str, value: object) -> bool:
    """Whether a card's text is a JSON value, to the digits that are shown."""
    if isinstance(value, str):
        return text == value
    parts = re.split(" … |, ", text)
    numbers = value if isinstance(value, list) else [value]
    if len(parts) != len(numbers):
        return False
    for part, number in zip(parts, numbers, strict=True):
        found = NUMBER.match(part)
        if found is None:
            return False
        digits = len(found[1].partition(".")[2])
        if abs(float(found[1]) - float(number) / ONE[found[2] or ""]) > 0.51 * 10**-digits:
            return False
    return True


@pytest.mark.parametrize("module", MODULES)
def test_every_number_on_a_card_is_on_the_command_line_and_in_python(
    module: str, evaluator: Evaluator, capsys: pytest.CaptureFixture[str]
) -> None:
    file = ROOT / f"{module}.json"
    assert main(["values", str(file), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    result = evaluator.evaluate(uhrwerk.read(file.read_text(encoding="utf-8")))
    known = {path: {v.name: v for v in found} for path, found in uhrwerk.values(result).items()}
    seen = 0
    page = view(result)
    for path, card in page["cards"].items():
        for name, text in card["results"]:
            assert agrees(text, told[path][name]["value"]), (path, name, text, told[path][name])
            python = known[path][name].value
            if isinstance(python, str):
                assert python == told[path][name]["value"]
            else:
                assert np.allclose(python, told[path][name]["value"])
            seen += 1
        for field in card["fields"] + card.get("start", []):
            if (
                field["kind"] == "formula"
                and field["value"] not in ("", "open")
                and not field["path"].startswith("parameters.")
            ):
                assert agrees(field["value"], told[field["path"]]["Value"]["value"]), (field, told[field["path"]])
                seen += 1
    for v in page["verdicts"]:
        if v["value"] is not None:
            assert told[f"requirements.{v['requirement']}"]["Value"]["value"] == pytest.approx(v["value"], abs=1e-9)
            seen += 1
    for placed in page["placed"]:
        if placed["mass"]:
            assert agrees(placed["mass"], told[f"placed.{placed['id']}"]["Mass"]["value"])
            seen += 1
    assert seen > 30


def test_a_parts_place_over_the_cycle_is_the_closed_forms(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    sizes = (0.03, 0.09, 0.06, 0.08)
    file = tmp_path / "m.json"
    file.write_text(uhrwerk.write(four_bar(*sizes)), encoding="utf-8")
    assert main(["motion", str(file), "--place", "coupler", "coupler.hole_2", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    times = np.array(told["time"]["values"])
    want = four_bar_closed_form(*sizes, 2 * np.pi * times, 2 * np.pi)
    tip = 0.03 * np.exp(2j * np.pi * times) + 0.09 * np.exp(1j * want.coupler)
    end = np.array(told["places"]["coupler.hole_2"]["position"]["values"])
    np.testing.assert_allclose(end[:, 0] + 1j * end[:, 1], tip, atol=1e-12)
    turn = np.array(told["places"]["coupler"]["turns"]["values"])[:, 2]
    np.testing.assert_allclose(np.cos(turn - want.coupler), 1, atol=1e-12)
    rate = np.array(told["places"]["coupler"]["turning"]["values"])[:, 2]
    np.testing.assert_allclose(rate, want.coupler_rate, atol=1e-9)
    assert main(["motion", str(file), "--place", "coupler.nothing"]) == 2
    assert "known are" in capsys.readouterr().err


def test_the_mass_of_a_part_with_its_inertia(capsys: pytest.CaptureFixture[str]) -> None:
    """A steel pin 8 by 30 mm less two edges of 0.5 mm: a cylinder's mass and inertia, to a part in fifty."""
    assert main(["mass", str(ROOT / "main-drive.json"), "--group", "motor_shaft", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)["motor_shaft"]
    mass = 7850 * math.pi * 0.004**2 * 0.030
    assert told["mass"]["value"] == pytest.approx(mass, rel=0.02)
    inertia = np.array(told["inertia"]["value"])
    assert inertia[2, 2] == pytest.approx(mass * 0.004**2 / 2, rel=0.06)
    assert inertia[0, 0] == pytest.approx(mass * (3 * 0.004**2 + 0.030**2) / 12, rel=0.06)
