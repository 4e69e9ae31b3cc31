"""By hand through the API: holding over the WebSocket, trying a joint, seating, measuring, playing a freedom."""

from __future__ import annotations

import json
import struct
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from starlette.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from tests.mechanisms import crossed_ring
from uhrwerk import Bore, Draft, FramePlate, LinkBar, Pin, Post, write
from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.store import Store
from uhrwerk.web.app import create_app


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory, solids: Path) -> Iterator[TestClient]:
    folder: Path = tmp_path_factory.mktemp("hold")
    app = create_app(Store(folder / "uhrwerk.db"), Evaluator(solids), frozenset({"testserver"}))
    with TestClient(app) as client:
        yield client


def shelve(client: TestClient, document: Document) -> tuple[str, int]:
    state = client.post("/api/mechanisms", json={"name": document.name, "document": json.loads(write(document))}).json()
    return state["id"], state["revision"]


def lid(limit: str = "250 deg", post: bool = False) -> Document:
    """An arm that turns in a plate, from 0 to a limit."""
    draft = Draft("Lid")
    posts = {"stop": Post(x="80 mm", y="85 mm", diameter="6 mm", height="20 mm")} if post else {}
    plate = draft.part(
        "Plate", "steel", FramePlate(bores={"pivot": Bore(x="80 mm", y="50 mm", diameter="6 mm")}, posts=posts)
    )
    arm = draft.part("Arm", "steel", LinkBar(distance="40 mm", bore_1="6 mm"), x="80 mm", y="50 mm", z="2 mm")
    draft.revolute("Arm turns", plate["pivot"], arm["hole_1"], offset="2 mm", turn_from="0 deg", turn_to=limit)
    return draft.document


def hold(client: TestClient, key: str, revision: int) -> Any:
    return client.websocket_connect(
        f"/api/mechanisms/{key}/revisions/{revision}/hold", headers={"origin": "http://testserver"}
    )


def test_a_held_part_follows_to_its_limit_beyond_half_a_turn_and_is_kept(client: TestClient) -> None:
    key, revision = shelve(client, lid())
    centre = np.array([0.08, 0.05])
    with hold(client, key, revision) as socket:
        socket.send_json({"take": "arm", "at": [0.12, 0.05, 0.002]})
        assert "poses" in socket.receive_json()
        angles = []
        for turn in np.radians(np.arange(10, 300, 10)):
            target = centre + 0.04 * np.array([np.cos(turn), np.sin(turn)])
            socket.send_json({"to": [*target, 0.002]})
            told = socket.receive_json()
            w, _, _, z = told["poses"]["arm"][3:]
            angles.append(np.degrees(2 * np.arctan2(z, w)) % 360)
        assert angles[10] == pytest.approx(110, abs=0.01)
        assert angles[-1] == pytest.approx(250, abs=1e-6)
        assert told["words"] == "Arm turns is at its limit of 250.00 deg"
        socket.send_json({"release": True})
        commands = socket.receive_json()["commands"]
    kept = {c["path"]: c["value"] for c in commands}
    assert kept["placed.arm.start"]["turn_z"].startswith("-110.0000")
    answer = client.post(
        f"/api/mechanisms/{key}/commands",
        json={"revision": revision, "command": {"kind": "together", "commands": commands}},
    )
    assert answer.status_code == 200


def test_a_held_part_stops_at_the_first_contact(client: TestClient) -> None:
    """A bar 12 mm wide, turned about its end towards a post of 6 mm at 35 mm: they touch at 90 - asin(9 / 35) degrees."""
    key, revision = shelve(client, lid("360 deg", post=True))
    with hold(client, key, revision) as socket:
        socket.send_json({"take": "arm", "at": [0.12, 0.05, 0.002], "contact": True})
        socket.receive_json()
        for turn in np.radians(np.arange(3, 100, 3)):
            socket.send_json({"to": [0.08 + 0.04 * np.cos(turn), 0.05 + 0.04 * np.sin(turn), 0.002]})
            told = socket.receive_json()
        w, _, _, z = told["poses"]["arm"][3:]
        assert np.degrees(2 * np.arctan2(z, w)) == pytest.approx(90 - np.degrees(np.arcsin(9 / 35)), abs=0.15)
        assert told["words"] in ("Plate touches Arm", "Arm touches Plate")


def test_the_frame_and_nonsense_are_refused_in_words(client: TestClient) -> None:
    key, revision = shelve(client, lid())
    with hold(client, key, revision) as socket:
        for message, words in (
            ({"take": "plate", "at": [0, 0, 0]}, "Plate is the frame"), ({"take": "nobody", "at": [0, 0, 0]}, "no placed part"),
            ({"to": [0, 0, 0]}, "take hold of a part first"), ({"take": "arm", "at": [0, 0]}, "three numbers"), (["x"], "an object"),
        ):  # fmt: skip
            socket.send_json(message)
            assert words in socket.receive_json()["error"]
        socket.send_text("{")
        assert "not readable" in socket.receive_json()["error"]


def test_a_foreign_site_cannot_take_hold(client: TestClient) -> None:
    key, revision = shelve(client, lid())
    address = f"/api/mechanisms/{key}/revisions/{revision}/hold"
    with pytest.raises(WebSocketDisconnect), client.websocket_connect(address, headers={"origin": "http://elsewhere"}):
        pass


def test_the_ring_follows_a_hand_on_any_link(client: TestClient) -> None:
    document = crossed_ring(6)
    draft = Draft("x", document)
    from uhrwerk.core.document import command

    draft.do(command.Remove(path="drivers.drive"))
    key, revision = shelve(client, draft.document)
    with hold(client, key, revision) as socket:
        socket.send_json({"take": "link__3", "at": [0, 0.05, 0.002]})
        first = np.array(socket.receive_json()["poses"]["link__3"][:3])
        for part in np.linspace(1, 0.8, 8):
            socket.send_json({"to": [*(np.array([0, 0.05]) * part), 0.002]})
            told = socket.receive_json()
        radii = [np.linalg.norm(told["poses"][p][:2]) for p in ("link", *(f"link__{k}" for k in range(2, 7)))]
        assert np.ptp(radii) < 1e-8
        assert radii[0] < np.linalg.norm(first[:2]) - 1e-3


def test_trying_a_joint_tells_where_parts_would_go_and_changes_nothing(client: TestClient) -> None:
    draft = Draft("Try")
    plate = draft.part("Plate", "steel", FramePlate(bores={"pivot": Bore(x="80 mm", y="50 mm")}))
    arm = draft.part("Arm", "steel", LinkBar(), x="40 mm", y="20 mm", z="30 mm", turn_x="20 deg")
    key, revision = shelve(client, draft.document)
    joint = {"kind": "revolute", "name": "Turns", "a": plate["pivot"].model_dump(), "b": arm["hole_1"].model_dump()}
    told = client.post(
        f"/api/mechanisms/{key}/try", json={"revision": revision, "command": {"kind": "add_joint", "joint": joint}}
    ).json()
    assert set(told["moved"]) == {"arm"}
    assert told["moved"]["arm"]["turn"] == pytest.approx(
        np.radians(20), abs=1e-9
    )  # the smallest turn, nothing about the axis
    assert told["moved"]["arm"]["way"] == pytest.approx(np.linalg.norm([0.04, 0.03, -0.03]), abs=1e-9)
    assert told["freedoms"] == ["Arm turns in Plate"]
    assert client.get(f"/api/mechanisms/{key}").json()["revision"] == revision


def test_seating_finds_the_offset_of_a_gap(client: TestClient) -> None:
    """A pin above a plate, slid along its axis until 0.3 mm are left: its lower end at 0.3 mm."""
    draft = Draft("Seat")
    plate = draft.part("Plate", "steel", FramePlate(bores={"hole": Bore(x="80 mm", y="50 mm", diameter="3 mm")}))
    pin = draft.part("Pin", "steel", Pin(diameter="5 mm"), x="80 mm", y="50 mm", z="20 mm")
    draft.rigid("Pin on plate", plate["hole"], pin["axis"], offset="20 mm")
    key, _ = shelve(client, draft.document)
    asked = {"joint": "pin_on_plate", "against": "plate", "gap": "0.3 mm"}
    told = client.post(f"/api/mechanisms/{key}/seat", json=asked).json()
    assert float(told["offset"].split()[0]) == pytest.approx(0.3, abs=1e-4)
    wrong = client.post(f"/api/mechanisms/{key}/seat", json=asked | {"gap": "3 deg"})
    assert wrong.status_code == 422
    assert "gap" in wrong.json()["fields"][0]["path"]


def test_measuring_two_datums(client: TestClient) -> None:
    key, _ = shelve(client, lid())
    two = {"a": {"placed": "plate", "datum": "pivot"}, "b": {"placed": "arm", "datum": "hole_2"}}
    told = {m["name"]: m for m in client.post(f"/api/mechanisms/{key}/measure", json=two).json()}
    assert told["Axis to axis"]["formula"] == "40 mm"
    assert told["Angle"]["value"] == "0.00 deg"
    two = {"a": {"placed": "plate", "datum": "top"}, "b": {"placed": "arm", "datum": "top"}}
    told = {m["name"]: m for m in client.post(f"/api/mechanisms/{key}/measure", json=two).json()}
    assert told["From the face"]["formula"] == "7 mm"


def test_a_freedom_is_played(client: TestClient) -> None:
    key, revision = shelve(client, lid())
    block = client.get(f"/api/mechanisms/{key}/revisions/{revision}/freedoms/0").content
    frames, parts = struct.unpack("<II", block[:8])
    data = np.frombuffer(block[8:], "<f4").reshape(frames, parts, 7)
    turned = 2 * np.arctan2(data[:, 1, 6], data[:, 1, 3])
    assert np.ptp(turned) == pytest.approx(0.88, abs=0.02)
    assert client.get(f"/api/mechanisms/{key}/revisions/{revision}/freedoms/9").status_code == 422


@pytest.mark.parametrize(
    ("message", "field"),
    [
        ('{"take": "lid", "at": [NaN, 0, 0]}', "NaN"), ('{"take": "lid", "at": [Infinity, 0, 0]}', "Infinity"),
        ('{"take": "lid", "at": [1e400, 0, 0]}', "at: a number"), ('{"take": "lid", "at": [0, 0, 1' + "0" * 400 + "]}", "at: a number"),
        ('{"take": "lid", "at": [0, 0, 0], "frame": 1' + "0" * 400 + "}", "frame: a number"), ('{"take": "lid", "at": [0, 0]}', "at: must be a point"),
        ('{"take": "lid", "at": [true, 0, 0]}', "at: a number"), ('{"to": [0, 0, 0]}', "take hold of a part first"),
    ],
)  # fmt: skip
def test_what_a_message_may_not_hold_is_told_with_its_field(client: TestClient, message: str, field: str) -> None:
    """Messages with NaN, Infinity or huge integers were dropped without a word, and the connection with them."""
    with hold(client, *shelve(client, Draft("Held").document)) as socket:
        for _ in range(2):  # the connection stays
            socket.send_text(message)
            assert field in socket.receive_json()["error"]


def test_a_revision_that_is_not_there_is_told(client: TestClient) -> None:
    with hold(client, shelve(client, Draft("Held").document)[0], 77) as socket:
        socket.send_text('{"take": "lid", "at": [0, 0, 0]}')
        assert "no revision 77" in socket.receive_json()["error"]
