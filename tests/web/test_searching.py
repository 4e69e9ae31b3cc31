"""Searches over HTTP: begun, seen, held up, gone on with, stopped; steps taken; what is asked wrongly is told by its field."""

from __future__ import annotations

import json
import time
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.web.test_hold import client  # noqa: F401  the fixture
from uhrwerk.core.document import write
from uhrwerk.demo.foil_cutter import foil_cutter


@pytest.fixture(scope="module")
def cutter(client: TestClient) -> str:  # noqa: F811
    told = client.post("/api/mechanisms", json={"name": "Cutter", "document": json.loads(write(foil_cutter()))}).json()
    return f"/api/mechanisms/{told['id']}"


def asked(client: TestClient, cutter: str) -> dict[str, Any]:  # noqa: F811
    offered = client.get(f"{cutter}/revisions/1/searchable/centre_on_the_axis").json()
    numbers = [
        {k: n[k] for k in ("path", "low", "high")}
        for n in offered["numbers"]
        if n["path"].startswith("parameters.weight")
    ]
    return {
        "of": offered["goal"],
        "way": offered["way"],
        "to": offered["to"],
        "numbers": numbers,
        "conditions": ["nothing_is_loose"],
    }


def until(client: TestClient, at: str, state: str) -> dict[str, Any]:  # noqa: F811
    for _ in range(2400):
        told = client.get(at).json()
        if told["state"] == state:
            return dict(told)
        time.sleep(0.05)
    raise AssertionError(told)


def test_a_search_is_held_up_goes_on_and_its_end_is_taken(client: TestClient, cutter: str) -> None:  # noqa: F811
    body = asked(client, cutter)
    assert (body["way"], body["to"]) == ("equal", "0 mm")
    assert len(body["numbers"]) == 3
    id = client.post(f"{cutter}/revisions/1/searches", json=body).json()["id"]
    at = f"{cutter}/searches/{id}"
    assert client.post(f"{at}/pause").json()["state"] == "paused"
    job = client.app.state.services.search_jobs.find(cutter.rpartition("/")[2], id)  # type: ignore[attr-defined]
    assert job.held.wait(60), "the step under way when it was paused ends first"
    waits = len(client.get(at).json()["steps"])
    assert client.get(at).json()["state"] == "paused"
    assert len(client.get(at).json()["steps"]) == waits
    client.post(f"{at}/resume")
    told = until(client, at, "done")
    assert len(told["steps"]) > waits
    best = next(s for s in told["steps"] if s["number"] == told["best"])
    assert float(best["value"].split()[0]) < 0.001
    step = client.get(f"{at}/steps/{told['rounded']}").json()
    shown = client.post(f"{cutter}/revisions/1/turned", json={"values": step["values"]}).json()
    assert {v["requirement"]: v["holds"] for v in shown["view"]["verdicts"]}["runs_quietly"] is True
    assert client.get(cutter).json()["revision"] == 1
    taken = client.post(f"{cutter}/commands", json={"revision": 1, "command": step["command"]})
    assert taken.json()["revision"] == 2
    assert client.post(f"{cutter}/undo", json={"revision": 2}).status_code == 200
    assert client.get(f"{at}/steps/999").status_code == 404
    assert client.get(f"{cutter}/searches/999").status_code == 404


def test_a_search_is_stopped_by_hand_and_by_the_next(client: TestClient, cutter: str) -> None:  # noqa: F811
    body = asked(client, cutter)
    one, other = (client.post(f"{cutter}/revisions/1/searches", json=body).json()["id"] for _ in range(2))
    assert until(client, f"{cutter}/searches/{one}", "stopped")["words"].startswith("stopped after")
    assert client.post(f"{cutter}/searches/{other}/stop").json()["state"] == "stopped"


@pytest.mark.parametrize(
    ("change", "field"),
    [({"of": "requirements.nobody"}, "of"), ({"to": "3 kg"}, "to"), ({"way": "sideways"}, "way"), ({"numbers": []}, "numbers"),
     ({"numbers": [{"path": "parameters.nobody.formula", "low": "1 mm", "high": "2 mm"}]}, "numbers.0.path"),
     ({"numbers": [{"path": "parameters.weight_radius.formula", "low": "x", "high": "2 mm"}]}, "numbers.0.low"),
     ({"numbers": [{"path": "parameters.weight_radius.formula", "low": "30 mm", "high": "20 mm"}]}, "numbers.0.high"),
     ({"numbers": [{"path": "parameters.weight_radius.formula", "low": "30 mm", "high": "40 mm"}]}, "numbers.0.low"),
     ({"conditions": ["nobody"]}, "conditions.0")],
)  # fmt: skip
def test_what_is_asked_wrongly_is_told_by_its_field(
    client: TestClient,  # noqa: F811
    cutter: str,
    change: dict[str, Any],
    field: str,
) -> None:
    refused = client.post(f"{cutter}/revisions/1/searches", json=asked(client, cutter) | change)
    assert refused.status_code == 422, refused.text
    assert any(field in f["path"] for f in refused.json()["fields"]), refused.json()
