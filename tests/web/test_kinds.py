"""A stranger's kinds: an element, a joint, a requirement, a driver and a format (`tests/kinds/`), used through Python, command
line and calls; the page uses them in `tests/browser/test_new_kinds.py`.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from starlette.testclient import TestClient

from tests.kinds import collet, highest, names, swaying, turnstile
from uhrwerk import At, Draft, FramePlate, write
from uhrwerk.cli import main
from uhrwerk.core.document import command
from uhrwerk.core.document.driver import DRIVERS
from uhrwerk.core.document.requirement import REQUIREMENTS
from uhrwerk.core.elements import ELEMENTS, Bore
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.exchange import FORMATS
from uhrwerk.core.joints import JOINTS
from uhrwerk.store import Store
from uhrwerk.web.app import create_app

MADE_UP = (collet, turnstile, highest, swaying, names)


@pytest.fixture
def kinds() -> Iterator[None]:
    for kind in MADE_UP:
        kind.register()
    yield
    for registry, kind in (
        (ELEMENTS, "collet"),
        (JOINTS, "turnstile"),
        (REQUIREMENTS, "highest"),
        (DRIVERS, "swaying"),
    ):
        registry.drop(kind)
    FORMATS.drop(".names")


def swaying_collet() -> Draft:
    draft = Draft("Swaying collet")
    plate = draft.part("Plate", "steel", FramePlate(bores={"pivot": Bore(x="80 mm", y="50 mm", diameter="9.2 mm")}))
    sleeve = draft.part("Collet", "brass", collet.Collet(), x="80 mm", y="50 mm", z="2 mm")
    joint = turnstile.Turnstile(
        name="Collet in plate", a=At(placed=plate, datum="pivot"), b=At(placed=sleeve, datum="axis"), offset="2 mm"
    )
    draft.do(command.AddJoint(joint=joint))
    draft.do(command.AddDriver(driver=swaying.Swaying(name="Motor", joint="collet_in_plate")))
    draft.do(command.AddRequirement(requirement=highest.Highest(name="Low enough", part=sleeve, at_most="6 mm")))
    return draft


@pytest.mark.usefixtures("kinds")
def test_python_judges_and_moves_them(evaluator: Evaluator) -> None:
    result = evaluator.evaluate(swaying_collet().document)
    assert not result.problems
    turn = result.coordinates["collet_in_plate"]
    assert result.motion is not None
    t = result.motion.times
    np.testing.assert_allclose(turn.value, np.radians(30) * np.sin(2 * np.pi * t), atol=1e-9)
    np.testing.assert_allclose(turn.rate, np.radians(30) * 2 * np.pi * np.cos(2 * np.pi * t), atol=1e-8)
    np.testing.assert_allclose(turn.acceleration, -((2 * np.pi) ** 2) * turn.value, atol=1e-6)
    verdict = result.verdicts["low_enough"]
    assert (verdict.holds, verdict.value) == (False, pytest.approx(0.007, abs=1e-9))


@pytest.mark.usefixtures("kinds")
def test_the_command_line_takes_them(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "collet.json"
    file.write_text(write(swaying_collet().document), encoding="utf-8")
    assert main(["check", str(file)]) == 1
    assert "FAILS      Low enough: Collet lies at 7.00 mm" in capsys.readouterr().out
    assert main(["export", str(file), "--to", str(tmp_path / "collet.names")]) == 0
    assert (tmp_path / "collet.names").read_text(encoding="utf-8") == "Plate\nCollet"
    assert main(["mass", str(tmp_path / "collet.names")]) == 0
    capsys.readouterr()
    assert main(["export", str(file), "--to", str(tmp_path / "collet.xyz")]) == 2
    assert (
        "cannot be exported; formats: .json, .zip, .csv, .step, .3mf, .stl, .glb, .mjcf, .urdf.zip, .dxf, .svg, .html, .scheme.svg, .names"
        in capsys.readouterr().err
    )


@pytest.mark.usefixtures("kinds")
def test_calls_take_them(tmp_path: Path) -> None:
    with TestClient(
        create_app(Store(tmp_path / "u.db"), Evaluator(tmp_path / "solids")), base_url="http://127.0.0.1"
    ) as client:
        assert {"collet"} <= {e["kind"] for e in client.get("/api/elements").json()}
        told = client.get("/api/kinds").json()
        assert "highest" in {k["kind"] for k in told["requirements"]}
        assert "swaying" in {k["kind"] for k in told["drivers"]}
        made = client.post("/api/files/some.names", content=b"One\nTwo").json()
        assert client.get(f"/api/mechanisms/{made['id']}/files/again.names").text == "One\nTwo"
        whole = client.post("/api/mechanisms", json={"document": json.loads(write(swaying_collet().document))}).json()
        view = client.get(f"/api/mechanisms/{whole['id']}/revisions/1/view")
        while view.status_code == 202:
            view = client.get(f"/api/mechanisms/{whole['id']}/revisions/1/view")
        assert view.json()["verdicts"][0]["valueText"] == "7.00 mm"
        ends = {"a": {"placed": "plate", "datum": "pivot"}, "b": {"placed": "collet", "datum": "axis"}}
        offers = client.post(f"/api/mechanisms/{whole['id']}/candidates", json=ends).json()
        assert "Turns as a turnstile" in {o["words"] for o in offers}
        assert '"title":"Collet"' in client.get("/api/schema").text
