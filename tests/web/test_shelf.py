"""The shelf: duplicate, delete into a bin and restore, modules of the demo put back."""

from __future__ import annotations

import json
from datetime import timedelta
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from tests.web.test_api import client  # noqa: F401
from uhrwerk import Draft
from uhrwerk.store import Missing, Store
from uhrwerk.store.tables import now


def test_a_copy_is_one_of_its_own(client: TestClient) -> None:  # noqa: F811
    first = client.post("/api/mechanisms", json={"name": "Pusher"}).json()
    one, two = (client.post(f"/api/mechanisms/{first['id']}/copy").json() for _ in range(2))
    assert (one["name"], two["name"]) == ("Pusher copy", "Pusher copy 2")
    command = {"kind": "set_value", "path": "name", "value": "Other"}
    client.post(f"/api/mechanisms/{one['id']}/commands", json={"revision": 1, "command": command})
    names = {m["id"]: m["name"] for m in client.get("/api/mechanisms").json()}
    assert (names[first["id"]], names[one["id"]]) == ("Pusher", "Other")


def test_what_is_deleted_can_be_restored_with_all_its_revisions(client: TestClient) -> None:  # noqa: F811
    made = client.post("/api/mechanisms", json={"name": "Pusher"}).json()
    at = f"/api/mechanisms/{made['id']}"
    command = {"kind": "set_value", "path": "note", "value": "kept"}
    client.post(f"{at}/commands", json={"revision": 1, "command": command})
    assert client.delete(at).status_code == 204
    assert made["id"] not in {m["id"] for m in client.get("/api/mechanisms").json()}
    gone = client.get(at)
    assert (gone.status_code, gone.json()["error"]) == (404, "Pusher is in the bin: restore it on the shelf.")
    assert "Pusher" in client.get("/").text.split('class="shelf-bin"')[1]
    assert client.post(f"{at}/restore").json()["revision"] == 2
    assert client.post(f"{at}/undo", json={"revision": 2}).json()["revision"] == 1


def test_the_bin_is_emptied_after_thirty_days(tmp_path: Path) -> None:
    store = Store(tmp_path / "u.db")
    old, new = (store.create(Draft(name).document) for name in ("Old", "New"))
    store.remove(old)
    assert store.empty_bin() == 0
    assert store.empty_bin(before=now() + timedelta(days=1)) == 1
    store.remove(new)
    with pytest.raises(Missing, match="30 days"):
        store.restore(old)
    assert [m.id for m, _, _ in store.shelf(deleted=True)] == [new]
    assert store.create(Draft("Old").document) != old, "an id that was given once is not given again"
    store.close()


def test_a_module_of_the_demo_is_put_back(client: TestClient) -> None:  # noqa: F811
    reply = client.post("/api/mechanisms/demo/pusher")
    assert (reply.status_code, reply.json()["name"]) == (201, "Pusher")
    missing = client.post("/api/mechanisms/demo/nobody")
    assert missing.status_code == 404
    assert "foil_tucker" in missing.json()["error"]


def test_hostile_names_are_inert_on_the_shelf(client: TestClient) -> None:  # noqa: F811
    name = '"><script>alert(1)</script>'
    client.post("/api/mechanisms", json={"name": name})
    page = client.get("/").text
    assert "<script>alert" not in page
    assert json.dumps(name) not in page
