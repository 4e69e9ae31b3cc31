"""Materials: those that ship, one's own for all mechanisms, and those of one mechanism."""

from __future__ import annotations

from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from uhrwerk import Draft, Evaluator, Pin, read, write
from uhrwerk.core.document import parse
from uhrwerk.core.document.material import library
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.store import Store
from uhrwerk.web.app import create_app


@pytest.fixture
def client(tmp_path: Path, evaluator: Evaluator) -> TestClient:
    return TestClient(create_app(Store(tmp_path / "uhrwerk.db"), evaluator, frozenset({"testserver"})))


def test_handbook_values() -> None:
    """Round values of common engineering handbooks, common practice: steel 7.85 g/cm3 and 210 GPa, aluminium 2.7 and 70."""
    steel, aluminium = library()["steel"], library()["aluminium"]
    assert (steel.density, steel.modulus) == ("7.85 g/cm^3", "210 GPa")
    assert (aluminium.density, aluminium.modulus) == ("2.70 g/cm^3", "70 GPa")
    assert all(m.source and m.colour for m in library().values())


def test_ones_own_are_kept_changed_and_forgotten(client: TestClient) -> None:
    made = client.post("/api/materials", json={"name": "Oiled beech", "density": "0.7 g/cm^3", "modulus": "14 GPa"})
    assert made.status_code == 201
    assert made.json()["shown"] == {"density": "0.700 g/cm^3", "modulus": "14000 MPa"}
    first = client.get("/api/materials").json()[0]
    assert (first["id"], first["own"]) == ("oiled_beech", True)
    assert "Oiled beech" in client.get("/materials").text
    changed = client.put("/api/materials/oiled_beech", json={"name": "Oiled beech", "density": "0.68 g/cm^3"})
    assert changed.json()["shown"] == {"density": "0.680 g/cm^3"}
    assert client.delete("/api/materials/oiled_beech").status_code == 204
    assert client.delete("/api/materials/oiled_beech").status_code == 404
    assert client.put("/api/materials/steel", json={"name": "Steel", "density": "1 g/cm^3"}).status_code == 422


@pytest.mark.parametrize(
    ("material", "path", "reason"),
    [
        ({"name": "X", "density": "3 mm"}, "density", "gives length, but density is required"),
        ({"name": "X", "density": "1 g/cm^3", "modulus": "-3 GPa"}, "modulus", "must be above zero"),
        ({"name": "X", "density": "1 g/cm^3", "colour": "red"}, "colour", ""),
        ({"name": "", "density": "1 g/cm^3"}, "name", ""),
        ({"name": "X", "density": "1 g/cm^3", "weight": "9"}, "weight", ""),
    ],
)
def test_what_is_no_material_is_refused_by_field(client: TestClient, material: dict, path: str, reason: str) -> None:
    answer = client.post("/api/materials", json=material)
    assert answer.status_code == 422
    (fault,) = answer.json()["fields"]
    assert fault["path"].endswith(path)
    assert reason in fault["reason"]


def test_a_part_weighs_by_the_material_it_takes(evaluator: Evaluator) -> None:
    draft = Draft("Pin")
    draft.part("Pin", "steel", Pin(diameter="10 mm", length="100 mm"))
    bronze = library()["bronze"].model_dump(mode="json")
    both = parse({"kind": "together", "words": "bronze", "commands": [
        {"kind": "add_material", "material": bronze, "id": "bronze"}, {"kind": "set_value", "path": "parts.pin.material", "value": "bronze"},
    ]})  # fmt: skip
    after = accept(draft.document, both)
    masses = [evaluator.evaluate(d).part_mass["pin"] for d in (draft.document, after)]
    assert masses[1] / masses[0] == pytest.approx(8.8 / 7.85, rel=1e-12)
    assert read(write(after)) == after
