"""Remedies over HTTP: found while the page waits, of one revision alone, and dropped with it."""

from __future__ import annotations

import json
import time
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.web.test_hold import client, shelve  # noqa: F401  the fixture, and what puts a document on the shelf
from uhrwerk.core.document import write
from uhrwerk.demo import mended
from uhrwerk.demo.guard_lid import guard_lid
from uhrwerk.demo.pusher import pusher


def asked(client: TestClient, at: str) -> dict[str, Any]:  # noqa: F811
    answer = client.get(at)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def test_remedies_are_found_taken_and_hold(client: TestClient) -> None:  # noqa: F811
    key = client.post("/api/mechanisms", json={"name": "Pusher", "document": json.loads(write(pusher()))}).json()["id"]
    at = f"/api/mechanisms/{key}/revisions/1/remedies/return_is_quick"
    for _ in range(1200):
        told = asked(client, at)
        if told["done"]:
            break
        time.sleep(0.1)
    assert told["done"], told
    assert told["fraction"] == 1.0
    paths = [c["path"] for o in told["offers"] for c in o["changes"]]
    assert "parameters.crank.formula" in paths
    assert asked(client, at)["offers"] == told["offers"]  # kept, not searched for again
    taken = client.post(
        f"/api/mechanisms/{key}/commands", json={"revision": 1, "command": told["offers"][0]["command"]}
    )
    assert taken.status_code == 200, taken.text
    for _ in range(1200):
        view = client.get(f"/api/mechanisms/{key}/revisions/2/view")
        if view.status_code == 200:
            break
    assert next(v for v in view.json()["verdicts"] if v["requirement"] == "return_is_quick")["holds"] is True
    assert client.get(at.replace("return_is_quick", "nobody")).status_code == 404


def test_a_search_ends_with_its_revision(client: TestClient) -> None:  # noqa: F811
    key = client.post("/api/mechanisms", json={"name": "Lid", "document": json.loads(write(guard_lid()))}).json()["id"]
    at = f"/api/mechanisms/{key}/revisions/1/remedies/nothing_overlaps"
    assert not asked(client, at)["done"]
    command = {"kind": "set_value", "path": "parameters.overhang.formula", "value": "6 mm"}
    client.post(f"/api/mechanisms/{key}/commands", json={"revision": 1, "command": command})
    search = client.app.state.services.runner.find("search for remedies", key, (1, "nothing_overlaps"))  # type: ignore[attr-defined]
    assert search.done.wait(60)
    assert search.cancelled
    assert search.fraction < 1


def test_a_search_that_nobody_asks_for_is_dropped(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:  # noqa: F811
    monkeypatch.setattr("uhrwerk.web.remedy_jobs.PATIENCE", 0.3)
    key = client.post("/api/mechanisms", json={"name": "Lid", "document": json.loads(write(guard_lid()))}).json()["id"]
    assert not asked(client, f"/api/mechanisms/{key}/revisions/1/remedies/nothing_overlaps")["done"]
    search = client.app.state.services.runner.find("search for remedies", key, (1, "nothing_overlaps"))  # type: ignore[attr-defined]
    assert search.done.wait(60)
    assert search.cancelled


def test_a_number_is_turned_at_a_glance_and_nothing_is_changed(client: TestClient) -> None:  # noqa: F811
    key = client.post("/api/mechanisms", json={"name": "Pusher", "document": json.loads(write(pusher()))}).json()["id"]
    at = f"/api/mechanisms/{key}/revisions"
    body = {"path": "parameters.crank.formula", "steps": 17}
    told = client.post(f"{at}/1/turned", json=body).json()
    assert told["text"] == "21.7 mm"
    assert told["view"]["proved"] is False
    assert {v["requirement"]: v["holds"] for v in told["view"]["verdicts"]}["return_is_quick"] is True
    assert client.get(f"{at}/{told['revision']}/poses").status_code == 200
    solid = told["view"]["placed"][0]
    assert client.get(f"{at}/{told['revision']}/solids/{solid['id']}/{solid['bodies'][0]}").status_code == 200
    assert client.get(f"/api/mechanisms/{key}").json()["revision"] == 1
    assert client.get(f"{at}/1/view").json()["proved"] is True
    assert client.get(f"{at}/-999/poses").status_code == 404
    for wrong, field in (({"steps": 1, "path": "parameters.nobody.formula"}, "parameters.nobody.formula"),
                         ({"steps": -400, "path": "parameters.crank.formula"}, "crank")):  # fmt: skip
        refused = client.post(f"{at}/1/turned", json=wrong)
        assert refused.status_code == 422
        assert field in refused.json()["fields"][0]["path"] + refused.json()["error"]


def test_what_the_last_change_spoilt_is_turned_back_first(client: TestClient) -> None:  # noqa: F811
    key = client.post(
        "/api/mechanisms", json={"name": "Lid", "document": json.loads(write(mended("guard_lid")))}
    ).json()["id"]
    command = {"kind": "set_value", "path": "parameters.overhang.formula", "value": "2.5 mm"}
    assert client.post(f"/api/mechanisms/{key}/commands", json={"revision": 1, "command": command}).status_code == 200
    at = f"/api/mechanisms/{key}/revisions/2/remedies/nothing_overlaps"
    for _ in range(1200):
        told = asked(client, at)
        if told["offers"]:
            break
        time.sleep(0.1)
    (change,) = told["offers"][0]["changes"]
    assert change["path"] == "parameters.overhang.formula"
    assert client.app.state.services.store.before(key, 1) is None  # type: ignore[attr-defined]


def test_searches_end_with_the_server(client: TestClient) -> None:  # noqa: F811
    key = client.post("/api/mechanisms", json={"name": "Lid", "document": json.loads(write(guard_lid()))}).json()["id"]
    assert not asked(client, f"/api/mechanisms/{key}/revisions/1/remedies/nothing_overlaps")["done"]
    services = client.app.state.services  # type: ignore[attr-defined]
    services.close()
    search = services.runner.find("search for remedies", key, (1, "nothing_overlaps"))
    assert search.cancelled
    assert search.done.wait(60)
