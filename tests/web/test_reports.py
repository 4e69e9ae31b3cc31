"""The report over HTTP: a page whose text is inert, a PDF, and what changed since the pinned revision."""

from __future__ import annotations

import io
import json

import ezdxf
from fastapi.testclient import TestClient
from lxml import etree, html
from pypdf import PdfReader

from tests.core.test_report import HOSTILE, hostile, text_of
from tests.web.test_hold import client, shelve  # noqa: F401  the fixture, and what puts a document on the shelf
from uhrwerk.core.document import write
from uhrwerk.demo.pusher import pusher


def test_a_page_of_hostile_names_has_no_element_of_theirs(client: TestClient) -> None:  # noqa: F811
    for name in HOSTILE:
        document = json.loads(write(hostile(name).document))
        made = client.post("/api/mechanisms", json={"name": "x", "document": document}).json()
        answer = client.get(f"/mechanisms/{made['id']}/report/page")
        assert answer.status_code == 200
        article = html.fromstring(answer.text).find(".//article")
        assert article is not None
        assert not list(article.iter("script", "a", "img"))
        assert article.findtext("h1") == document["name"]
        assert client.get(f"/api/mechanisms/{made['id']}/report.pdf").content.startswith(b"%PDF")


def test_what_changed_since_the_pinned_revision_stands_in_it(client: TestClient) -> None:  # noqa: F811
    made = client.post("/api/mechanisms", json={"name": "Pusher", "document": json.loads(write(pusher()))}).json()
    at = f"/api/mechanisms/{made['id']}"
    client.put(f"{at}/baseline", json={"number": 1})
    command = {"kind": "set_value", "path": "parameters.crank.formula", "value": "22 mm"}
    assert client.post(f"{at}/commands", json={"revision": 1, "command": command}).status_code == 200
    page = client.get(f"/mechanisms/{made['id']}/report/page").text
    assert "revision 2" in page
    assert "Changes since revision 1" in page
    assert "22 mm" in page
    assert "Changes since revision 1" in text_of(client.get(f"{at}/report.pdf").content)


def test_a_drawing_of_a_part_in_each_format(client: TestClient) -> None:  # noqa: F811
    made = client.post("/api/mechanisms", json={"name": "Pusher", "document": json.loads(write(pusher()))}).json()
    at = f"/api/mechanisms/{made['id']}/drawings"
    part = next(iter(pusher().placed))
    for suffix, head in ((".pdf", b"%PDF"), (".svg", b"<svg"), (".dxf", b"  0\n")):
        answer = client.get(f"{at}/part{suffix}", params={"part": part, "projection": "third"})
        assert answer.status_code == 200, answer.text
        assert answer.content.startswith(head)
    for name, asked, words in (
        ("a.doc", part, "a drawing is written as"),
        ("a.pdf", "nobody", "there is no placed part"),
    ):
        answer = client.get(f"{at}/{name}", params={"part": asked})
        assert answer.status_code == 422
        assert words in answer.text


def test_hostile_names_are_inert_on_the_layers_page_and_in_a_drawing_of_the_whole(client: TestClient) -> None:  # noqa: F811
    for name in HOSTILE:
        document = json.loads(write(hostile(name).document))
        made = client.post("/api/mechanisms", json={"name": "x", "document": document}).json()
        address = made["id"]
        page = html.fromstring(client.get(f"/mechanisms/{address}/layers").text)
        assert {s.get("src") is not None for s in page.iter("script")} == {True}
        assert not [b for b in page.iter("b") if "&<" in (b.text or "")]
        layers = client.get(f"/api/mechanisms/{address}/layers")
        assert layers.status_code == 200
        assert layers.headers["content-type"] == "application/json"
        for suffix in ("svg", "pdf", "dxf"):
            for more in ("", "?exploded=true"):
                drawing = client.get(f"/api/mechanisms/{address}/drawings/{address}.{suffix}{more}")
                assert drawing.status_code == 200, drawing.text
                if suffix == "svg":
                    tags = {etree.QName(x).localname for x in etree.fromstring(drawing.content).iter()}
                    assert tags <= {"svg", "title", "rect", "path", "g", "text"}
                elif suffix == "dxf":
                    assert not ezdxf.read(io.StringIO(drawing.content.decode("utf-8"))).audit().errors
                else:
                    assert len(PdfReader(io.BytesIO(drawing.content)).pages) == 1
