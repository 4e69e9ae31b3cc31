"""The calls of the page: changes, conflicts, joining, blocks, guards, errors that name the field."""

from __future__ import annotations

import re
import struct
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from starlette.testclient import TestClient

from tests.conftest import DEMO
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.solids import BuildFailed
from uhrwerk.core.upgrade import read
from uhrwerk.store import Store
from uhrwerk.web.app import create_app
from uhrwerk.web.pages import SHIPPED, STATIC, edition

PLATE = {
    "name": "Plate",
    "material": "steel",
    "element": {"kind": "frame_plate", "bores": {"pivot": {"x": "60 mm", "y": "50 mm", "diameter": "6 mm"}}},
}
ARM = {"name": "Arm", "material": "steel", "element": {"kind": "link_bar", "bore_1": "6 mm"}}


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory, solids: Path) -> Iterator[TestClient]:
    folder = tmp_path_factory.mktemp("web")
    store = Store(folder / "uhrwerk.db")
    store.create(read(DEMO.read_text(encoding="utf-8")), demo=True, key="foil_tucker")
    with TestClient(create_app(store, Evaluator(folder=solids, limit=60)), base_url="http://127.0.0.1") as made:
        yield made


@pytest.fixture
def empty(client: TestClient) -> str:
    return client.post("/api/mechanisms", json={"name": "Empty"}).json()["id"]


def do(client: TestClient, mechanism: str, **command: object) -> dict:
    revision = client.get(f"/api/mechanisms/{mechanism}").json()["revision"]
    answer = client.post(f"/api/mechanisms/{mechanism}/commands", json={"revision": revision, "command": command})
    assert answer.status_code == 200, answer.text
    return answer.json()


def view(client: TestClient, mechanism: str, revision: int) -> dict:
    for _ in range(400):
        answer = client.get(f"/api/mechanisms/{mechanism}/revisions/{revision}/view")
        if answer.status_code != 202:
            assert answer.status_code == 200, answer.text
            return answer.json()
        assert answer.json()["words"]
    raise AssertionError("never evaluated")


def test_pages_answer_and_forbid_inline_and_foreign_code(client: TestClient) -> None:
    for path in (
        "/",
        "/mechanisms/foil_tucker",
        "/help",
        "/api",
        "/nothing",
        "/mechanisms/none",
    ):
        answer = client.get(path)
        assert answer.status_code in (200, 404)
        policy = answer.headers["content-security-policy"]
        assert "default-src 'none'" in policy
        assert "unsafe" not in policy
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert not re.search(r"<script(?![^>]*src=)", answer.text), "inline script"
        assert not re.search(r"\son[a-z]+=|\sstyle=\"", answer.text), "inline handler or style"
        assert not re.search(r"(src|href)=\"(https?:)?//", answer.text), "foreign address"


def test_shipped_files_name_no_foreign_address_to_load(client: TestClient) -> None:
    static = Path(__file__).parents[2] / "src/uhrwerk/web/static"
    files = [*static.glob("js/**/*.js"), *static.glob("css/*.css")]
    assert len(files) > 50
    for file in files:
        text = file.read_text(encoding="utf-8").replace("http://www.w3.org/2000/svg", "")
        assert "http://" not in text
        assert "https://" not in text
        assert "eval(" not in text
        assert client.get(f"{SHIPPED}/{file.relative_to(static).as_posix()}").status_code == 200


def test_a_page_names_every_script_that_it_will_ask_for_and_all_may_be_kept(client: TestClient) -> None:
    told = client.get("/mechanisms/foil_tucker").text
    named = {*re.findall(r'(?:modulepreload" href|script" src|module" src)="([^"]+[.]js)"', told)}
    own = {f"{SHIPPED}/{f.relative_to(STATIC).as_posix()}" for f in STATIC.glob("js/**/*.js")}
    others = {
        path
        for path in own
        if any(page in path for page in ("/js/shelf/", "/js/materials/", "/js/layers/", "/js/drawings/", "/js/report/"))
    }  # of other pages
    assert own - others <= named
    shelf = client.get("/").text
    assert {path for path in own if "/js/shelf/" in path} <= {*re.findall(r'"([^"]+[.]js)"', shelf)}
    for path in (*named, f"{SHIPPED}/css/base.css"):
        answer = client.get(path)
        assert answer.status_code == 200
        assert "immutable" in answer.headers["cache-control"]
    assert client.get("/").headers["cache-control"] == "no-store"


def test_another_edition_has_another_path(tmp_path: Path) -> None:
    (tmp_path / "one.js").write_text("a", encoding="utf-8")
    first = edition(tmp_path)
    assert edition(tmp_path) == first
    (tmp_path / "one.js").write_text("b", encoding="utf-8")
    second = edition(tmp_path)
    (tmp_path / "one.js").rename(tmp_path / "two.js")
    assert len({first, second, edition(tmp_path)}) == 3


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"host": "evil.example"}, 403),
        ({"host": "127.0.0.1.evil.example"}, 403),
        ({"origin": "http://evil.example"}, 403),
        ({"origin": "null"}, 403),
        ({"sec-fetch-site": "cross-site"}, 403),
        ({"origin": "http://127.0.0.1"}, 201),
        ({"host": "localhost:8377", "origin": "http://localhost:8377"}, 201),
    ],
)
def test_foreign_hosts_and_origins_are_refused(client: TestClient, headers: dict[str, str], status: int) -> None:
    before = len(client.get("/api/mechanisms").json())
    assert client.post("/api/mechanisms", json={"name": "From elsewhere"}, headers=headers).status_code == status
    assert len(client.get("/api/mechanisms").json()) == before + (status == 201)


def test_names_are_shown_as_text(client: TestClient) -> None:
    made = client.post("/api/mechanisms", json={"name": "<script>alert(1)</script>"}).json()
    for path in ("/", f"/mechanisms/{made['id']}"):
        text = client.get(path).text
        assert "<script>alert" not in text
        assert "&lt;script&gt;" in text
    client.delete(f"/api/mechanisms/{made['id']}")


def test_a_change_undo_redo_and_the_conflict_of_a_second_tab(client: TestClient, empty: str) -> None:
    do(client, empty, kind="add_part", part=PLATE)
    at = f"/api/mechanisms/{empty}"
    second = client.post(
        f"{at}/commands", json={"revision": 1, "command": {"kind": "set_value", "path": "name", "value": "Mine"}}
    )
    assert second.status_code == 409
    assert second.json()["current"] == 2
    assert "kept" in second.json()["error"]
    undone = client.post(f"{at}/undo", json={"revision": 2}).json()
    assert (undone["revision"], undone["redo"]) == (1, "part added: Plate")
    assert client.post(f"{at}/redo", json={"revision": 1}).json()["revision"] == 2
    assert client.post(f"{at}/redo", json={"revision": 2}).status_code == 404
    assert [r["number"] for r in client.get(f"{at}/revisions").json()] == [2, 1]


@pytest.mark.parametrize(
    ("command", "path"),
    [
        ({"kind": "set_value", "path": "parts.plate.element.length", "value": "3 deg"}, "parts.plate.element.length"),
        ({"kind": "set_value", "path": "parts.plate.element.corner", "value": "80 mm"}, "parts.plate.element.corner"),
        ({"kind": "nothing"}, "command"),
        (
            {"kind": "add_part", "part": {"name": "x", "material": "steel", "element": {"kind": "pin", "size": 1}}},
            "command.part.element.size",
        ),
    ],
)
def test_a_refusal_names_the_field_and_changes_nothing(
    client: TestClient, empty: str, command: dict, path: str
) -> None:
    do(client, empty, kind="add_part", part=PLATE)
    answer = client.post(f"/api/mechanisms/{empty}/commands", json={"revision": 2, "command": command})
    assert answer.status_code == 422
    assert answer.json()["fields"][0]["path"].startswith(path)
    assert client.get(f"/api/mechanisms/{empty}").json()["revision"] == 2


def test_joining_offers_candidates_in_words_and_keeps_parts_where_they_are(client: TestClient, empty: str) -> None:
    do(client, empty, kind="add_part", part=PLATE)
    do(client, empty, kind="add_part", part=ARM, start={"x": "63 mm", "y": "47 mm", "z": "20 mm", "turn_z": "20 deg"})
    two = {"a": {"placed": "plate", "datum": "pivot"}, "b": {"placed": "arm", "datum": "hole_1"}}
    offered = client.post(f"/api/mechanisms/{empty}/candidates", json=two).json()
    kinds = [c["kind"] for c in offered]
    assert kinds[:4] == ["revolute", "cylindrical", "rigid", "prismatic"]
    assert {"concentric", "distance", "tangent", "angle"} <= set(kinds)
    assert offered[0]["free"] == "1 freedom: turning"
    state = do(client, empty, **offered[0]["command"])
    document = read(client.get(f"/api/mechanisms/{empty}/document").text)
    assert document.placed["arm"].start.x.startswith("60.0000")
    told = view(client, empty, state["revision"])
    assert told["mobility"]["count"] == 1
    assert told["problems"] == []
    wrong = client.post(f"/api/mechanisms/{empty}/candidates", json={"a": two["a"], "b": two["a"]})
    assert wrong.status_code == 422


def test_a_joint_that_cannot_hold_is_refused_by_name(client: TestClient, empty: str) -> None:
    do(
        client,
        empty,
        kind="add_part",
        part=PLATE
        | {
            "element": PLATE["element"]
            | {"bores": {"one": {"x": "30 mm", "y": "30 mm"}, "two": {"x": "130 mm", "y": "30 mm"}}}
        },
    )
    do(client, empty, kind="add_part", part=ARM)
    joint = {
        "kind": "revolute",
        "name": "First",
        "a": {"placed": "plate", "datum": "one"},
        "b": {"placed": "arm", "datum": "hole_1"},
    }
    state = do(client, empty, kind="add_joint", joint=joint)
    second = joint | {
        "name": "Second",
        "a": {"placed": "plate", "datum": "two"},
        "b": {"placed": "arm", "datum": "hole_2"},
    }
    answer = client.post(
        f"/api/mechanisms/{empty}/commands",
        json={"revision": state["revision"], "command": {"kind": "add_joint", "joint": second}},
    )
    assert answer.status_code == 422
    assert "'First'" in answer.json()["error"]
    assert "'Second'" in answer.json()["error"]


def test_blocks_of_poses_and_meshes(client: TestClient) -> None:
    told = view(client, "foil_tucker", 1)
    at = "/api/mechanisms/foil_tucker/revisions/1"
    block = client.get(f"{at}/poses").content
    frames, parts = struct.unpack("<II", block[:8])
    poses = np.frombuffer(block[8:], "<f4").reshape(frames, parts, 7)
    assert (frames, parts) == (361, len(told["placed"]))
    np.testing.assert_allclose(np.linalg.norm(poses[..., 3:], axis=-1), 1, atol=1e-6)
    gear = client.get(f"{at}/solids/motor_pinion/gear").content
    vertices, triangles, edges, faces = struct.unpack("<IIII", gear[:16])
    assert (
        len(gear) == 16 + 12 * vertices + 12 * triangles + 24 * edges + 2 * triangles + (-2 * triangles) % 4 + 2 * faces
    )
    datum_of = np.frombuffer(gear[-2 * faces :], "<i2")
    datums = next(p for p in told["placed"] if p["id"] == "motor_pinion")["datums"]
    assert {datums[d]["id"] for d in datum_of if d >= 0} == {"axis", "top", "bottom"}
    assert client.get(f"{at}/solids/motor_pinion/none").status_code == 404
    assert client.get("/api/mechanisms/foil_tucker/revisions/99/view").status_code == 404


def test_the_view_holds_what_the_page_shows(client: TestClient) -> None:
    told = view(client, "foil_tucker", 1)
    assert [v["holds"] for v in told["verdicts"]] == [False, False, True, True]
    assert {lane["kind"] for lane in told["lanes"]} == {"input", "output", "requirement"}
    assert told["scheme"]["loops"] == 2
    assert len(told["scheme"]["gears"]) == 2
    mesh = dict(told["cards"]["pairs.pinion_drives_wheel"]["results"])
    assert mesh["Ratio"] == "−18 : 54"
    assert mesh["Centre distance for mesh"] == mesh["Centre distance now"] == "54.00 mm"
    assert told["cards"]["parameters.finger_w"]["fields"][0]["value"] == "12.80 mm"
    assert told["cards"]["drivers.motor"]["reverse"] == {"drivers.motor.speed": "-(motor_speed)"}


def test_preview_of_an_element(client: TestClient) -> None:
    told = client.post(
        "/api/elements/preview",
        json={"element": {"kind": "spur_gear", "teeth": 30, "module": "gear_m"}, "mechanism": "foil_tucker"},
    )
    assert told.status_code == 200
    assert ["Pitch diameter", "45.00 mm"] in told.json()["derived"]
    assert client.get(f"/api/elements/solids/{told.json()['solid']}/gear").status_code == 200
    wrong = client.post("/api/elements/preview", json={"element": {"kind": "spur_gear", "teeth": 3}})
    assert wrong.json()["fields"][0]["path"].endswith("teeth")
    wrong = client.post("/api/elements/preview", json={"element": {"kind": "link_bar", "bore_1": "20 mm"}})
    assert wrong.json()["fields"][0]["path"] == "element.bore_1"


def test_every_call_is_described_offline(client: TestClient) -> None:
    page = client.get("/api").text
    for path in client.get("/openapi.json").json()["paths"]:
        assert path in page


JSON = st.recursive(st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False, allow_infinity=False) | st.text(max_size=12), lambda x: st.lists(x, max_size=3) | st.dictionaries(st.text(max_size=10), x, max_size=3), max_leaves=8)  # fmt: skip


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(body=JSON, which=st.sampled_from(["commands", "undo", "redo", "candidates"]))
def test_no_body_makes_the_server_fail(client: TestClient, body: object, which: str) -> None:
    assert client.post(f"/api/mechanisms/foil_tucker/{which}", json=body).status_code < 500


@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    inner=st.dictionaries(
        st.sampled_from(["kind", "path", "value", "part", "joint", "name", "formula"]), JSON, max_size=4
    )
)
def test_no_command_makes_the_server_fail(client: TestClient, inner: dict) -> None:
    assert client.post(
        "/api/mechanisms/foil_tucker/commands", json={"revision": 10**6, "command": inner}
    ).status_code in (409, 422)
    assert client.post("/api/elements/preview", json={"element": inner}).status_code < 500


def test_the_description_shows_the_shape_of_every_answer(client: TestClient) -> None:
    """Each call has a schema of what it answers, or says that it answers nothing, or a binary block."""
    described = client.get("/openapi.json").json()
    bare = []
    for path, methods in described["paths"].items():
        for method, call in methods.items():
            good = {status: told for status, told in call["responses"].items() if status.startswith("2")}
            assert good, (method, path)
            for status, told in good.items():
                schemas = [media.get("schema") for media in told.get("content", {}).values()]
                if status != "204" and not any(schemas):
                    bare.append((method, path, status))
    assert not bare


def test_ghosts_of_a_part_that_cannot_be_made_are_refused_with_its_name(client: TestClient, empty: str) -> None:
    """Sizes within their ranges whose solid fails in the kernel end in words, never in an answer of 500."""
    part = {"name": "Thin", "material": "steel", "element": {"kind": "link_bar"}}
    asked = {"revision": 0, "command": {"kind": "add_part", "part": part}}
    told = client.post(f"/api/mechanisms/{empty}/ghosts", json=asked)
    assert [g["name"] for g in told.json()] == ["Thin"]
    evaluator = client.app.state.services.evaluator  # type: ignore[attr-defined]
    build, evaluator.kernel_pool.build = evaluator.kernel_pool.build, _fails
    try:
        told = client.post(f"/api/mechanisms/{empty}/ghosts", json=asked)
    finally:
        evaluator.kernel_pool.build = build
    assert told.status_code == 422
    assert told.json()["error"] == "Thin: the kernel gave up"


def _fails(recipe: object) -> None:
    raise BuildFailed("the kernel gave up")


def test_what_nobody_foresaw_is_answered_in_one_form_and_logged(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def broken(_: object) -> None:
        raise ZeroDivisionError("a secret of the inside")

    monkeypatch.setattr(Store, "shelf", broken)
    for path in ("/api/mechanisms", "/"):
        answer = client.get(path)
        assert answer.status_code == 500
        assert "secret" not in answer.text
        assert answer.headers["x-request-id"] in answer.json()["error"]
        assert answer.headers["x-request-id"] in caplog.text
        assert "default-src 'none'" in answer.headers["content-security-policy"]
    assert "a secret of the inside" in caplog.text
