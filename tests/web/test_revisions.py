"""Revisions over HTTP: what one changed against another, what that did, and an earlier one restored."""

from __future__ import annotations

import json
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.web.test_hold import client, shelve  # noqa: F401  the fixture, and what puts a document on the shelf
from uhrwerk.core.document import write
from uhrwerk.core.remedies import compared
from uhrwerk.core.upgrade import read
from uhrwerk.demo.pusher import pusher
from uhrwerk.draft import Draft


@pytest.fixture
def at(client: TestClient) -> str:  # noqa: F811
    made = client.post("/api/mechanisms", json={"name": "Pusher", "document": json.loads(write(pusher()))})
    return f"/api/mechanisms/{made.json()['id']}"


def do(client: TestClient, at: str, revision: int, **command: Any) -> None:  # noqa: F811
    answer = client.post(f"{at}/commands", json={"revision": revision, "command": command})
    assert answer.status_code == 200, answer.text


def test_what_changed_and_what_it_did(client: TestClient, at: str) -> None:  # noqa: F811
    do(client, at, 1, kind="set_value", path="parameters.crank.formula", value="22 mm")
    do(client, at, 2, kind="remove", path="requirements.lever_clears_post")
    told = client.get(f"{at}/revisions/3/against/1").json()
    changes = {c["path"]: (c["before"], c["after"]) for c in told["changes"]}
    assert changes == {
        "parameters.crank.formula": ("20 mm", "22 mm"), "requirements.lever_clears_post": ("there", ""),
    }  # fmt: skip
    verdicts = {v["name"]: v for v in told["verdicts"]}
    assert (verdicts["Return is quick"]["before"], verdicts["Return is quick"]["after"]) == (False, True)
    assert verdicts["Return is quick"]["turned"]
    assert verdicts["Lever clears post"]["now"] == "not required"
    listed = {r["number"]: r for r in client.get(f"{at}/revisions").json()}
    assert (listed[1]["failing"], listed[1]["total"]) == (3, 4)
    assert listed[2]["total"] is None  # it was never evaluated
    assert client.get(f"{at}/revisions/3/against/9").status_code == 404


def test_back_to_an_earlier_revision_is_a_new_one(client: TestClient, at: str) -> None:  # noqa: F811
    do(client, at, 1, kind="set_value", path="parameters.crank.formula", value="22 mm")
    do(client, at, 2, kind="set_value", path="parameters.crank.formula", value="23 mm")
    assert client.post(f"{at}/back", json={"revision": 2, "to": 1}).status_code == 409  # 3 is current
    answer = client.post(f"{at}/back", json={"revision": 3, "to": 1})
    assert answer.status_code == 200, answer.text
    state = answer.json()
    assert (state["revision"], state["words"]) == (4, "back to revision 1")
    assert client.get(f"{at}/revisions/4/against/1").json() == {"changes": [], "verdicts": [], "mass": ""}
    undone = client.post(f"{at}/undo", json={"revision": 4}).json()
    assert undone["revision"] == 3
    assert client.post(f"{at}/back", json={"revision": 3, "to": 77}).status_code == 404


def test_every_difference_is_found() -> None:
    """A part's kind, a list, a flag, a name, a number: each told once; the same documents differ in nothing."""
    before = pusher()
    assert compared(before, read(write(before))) == []
    draft = Draft("x", before)
    draft.set("note", "Another note.")
    draft.set("placed.plate.mirrored", True)
    draft.set("parts.slotted_lever.name", "Lever")
    draft.set("parts.slotted_lever.element.width", "17 mm")
    draft.set("cycle.frames", 200)
    told = {d.path: (d.before, d.after) for d in compared(before, draft.document)}
    assert told == {
        "note": (before.note, "Another note."), "placed.plate.mirrored": ("no", "yes"), "cycle.frames": ("360", "200"),
        "parts.slotted_lever.name": ("Slotted lever", "Lever"), "parts.slotted_lever.element.width": ("16 mm", "17 mm"),
    }  # fmt: skip


def test_a_baseline_is_pinned_and_a_variant_begun(client: TestClient, at: str) -> None:  # noqa: F811
    do(client, at, 1, kind="set_value", path="parameters.crank.formula", value="22 mm")
    assert client.put(f"{at}/baseline", json={"number": 1}).json()["baseline"] == 1
    assert client.put(f"{at}/baseline", json={"number": 7}).status_code == 404
    told = client.get(f"{at}/revisions/2/against/1").json()
    (quick,) = [v for v in told["verdicts"] if v["requirement"] == "return_is_quick"]
    assert quick["was"] == "1.452"
    assert 0 < quick["mark"] < 1
    assert client.get(f"{at}/variants").json() == []
    made = client.post(f"{at}/variants", json={"revision": 2, "of": 1, "name": "slow"}).json()
    assert (made["revision"], made["variant"], made["baseline"]) == (1, "slow", 1)
    again = client.post(f"{at}/variants", json={"revision": 1, "of": 1, "name": "slow"})
    assert again.status_code == 422
    assert again.json()["fields"] == [{"path": "name", "reason": "there is a variant 'slow' already"}]
    assert client.post(f"{at}/variant", json={"revision": 9, "name": "as begun"}).status_code == 409
    assert client.post(f"{at}/variant", json={"revision": 1, "name": "as begun"}).json()["revision"] == 2
    listed = client.get(f"{at}/variants").json()
    assert [(v["name"], v["revision"], v["current"]) for v in listed] == [("as begun", 2, True), ("slow", 1, False)]
    assert listed[1]["failing"] == 3
    assert client.put(f"{at}/revisions/2/name", json={"name": "longer crank"}).status_code == 204
    assert client.get(f"{at}/revisions").json()[0]["name"] == "longer crank"
    assert client.delete(f"{at}/variants/slow").status_code == 204
    assert client.get(f"{at}/variants").json() == []


def test_a_change_on_an_old_revision_is_refused_whatever_comes_between(
    client: TestClient,  # noqa: F811
    at: str,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """An undo between reading and writing made the old revision the current one again: the document of the newer one was then stored
    on it, without the change, and answered as a success."""
    do(client, at, 1, kind="set_value", path="parameters.crank.formula", value="22 mm")
    store, key = client.app.state.services.store, at.rsplit("/", 1)[1]  # type: ignore[attr-defined]
    change = type(store).change

    def after_an_undo(self: Any, *rest: Any) -> Any:
        self.undo(key, 2)
        return change(self, *rest)

    monkeypatch.setattr(type(store), "change", after_an_undo)
    command = {"kind": "set_value", "path": "parameters.crank.formula", "value": "23 mm"}
    answer = client.post(f"{at}/commands", json={"revision": 1, "command": command})
    assert answer.status_code == 409
    answer = client.post(f"{at}/other-mode", json={"revision": 1})
    assert answer.status_code == 409
    assert store.current(key).revision == 2
