"""Requests made from the API's own description, with values that fit it and values that do not: no answer of 500, none without words.

What is sent is drawn at random with a fixed seed; `python -m tests.faults.test_generated_requests 10000` sends as many.
"""

from __future__ import annotations

import json
import random
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from urllib.parse import quote

import pytest
from starlette.testclient import TestClient

from uhrwerk.core.evaluate import Evaluator
from uhrwerk.demo.foil_tucker import foil_tucker
from uhrwerk.demo.pusher import pusher
from uhrwerk.store import Store
from uhrwerk.web.app import create_app

#: s that an answer may take
SLOWEST = 5.0
ODD: list[Any] = [
    None, True, 0, -1, 2**31, 2**53, 2**63, -(2**63) - 1, 10**400, 1.5, 1e308, -0.0, "", " ", "x" * 300, "\x00", "\ud800"[:0], "../../etc", "=1+1", "<b>",
    "placed.rocker", "requirements.nothing_overlaps", "1 mm", "1 / 0", "sin(", "1;2", "∞", [], [[]], {}, {"": 0}, {"kind": "set_value"}, ["a"] * 50,
]  # fmt: skip
PATHS = ["tucker", "pusher", "gone", "1", "0", "-1", "2", str(2**63), "9" * 30, "rocker", "plate", "wheel", "x.json", "x.zip", "x.step", "x", "%00", "...", "nothing_overlaps", "a b", "é"]  # fmt: skip


class Requests:
    """Draws requests from a description of an API (OpenAPI 3.1)."""

    def __init__(self, api: dict[str, Any], seed: int) -> None:
        self.api, self.dice = api, random.Random(seed)
        self.calls = [(m, p, c) for p, item in api["paths"].items() for m, c in item.items() if m != "parameters"]

    def one(self, k: int) -> tuple[str, str, dict[str, Any]]:
        """The method, the path with its query, and what else is sent, of the k-th request: each call in turn."""
        method, path, call = self.calls[k % len(self.calls)]
        ends = (method, path) == ("delete", "/api/mechanisms/{mechanism}")  # the two must stay for the others
        query = []
        for p in call.get("parameters", []):
            if p["in"] == "path":
                there = ["gone", "new_mechanism"] if ends else ["tucker", "tucker", "pusher"]
                known = {"mechanism": there, "revision": ["1", "1", "2"]}.get(p["name"], [])
                value = (
                    self.dice.choice(known or PATHS) if self.dice.random() < 0.8 or ends else self.dice.choice(PATHS)
                )
                path = path.replace("{" + p["name"] + "}", quote(value, safe=""))
            elif p["in"] == "query" and self.dice.random() < 0.6:
                value = self.value(p["schema"], 0)
                query.append(
                    f"{p['name']}={quote(value if isinstance(value, str) else json.dumps(value)[:500], safe='')}"
                )
        sent: dict[str, Any] = {}
        content = call.get("requestBody", {}).get("content", {})
        if "application/json" in content:
            body = self.value(content["application/json"]["schema"], 0)
            text = json.dumps(body)
            if self.dice.random() < 0.05:
                text = self.dice.choice([text[:-1], "{", "NaN", "[" * 2000, '"\\ud800"', ""])
            sent = {"content": text.encode(), "headers": {"content-type": "application/json"}}
        elif content:
            sent = {
                "content": self.dice.choice(
                    [b"", b"{", b"PK\x03\x04", b"solid x", b"\x00" * 200, b'{"format": 2, "name": "x"}']
                )
            }
        return method.upper(), path + ("?" + "&".join(query) if query else ""), sent

    def value(self, schema: dict[str, Any], depth: int) -> Any:
        """A value that mostly fits a schema."""
        if self.dice.random() < 0.08 or depth > 7:
            return self.dice.choice(ODD)
        if "$ref" in schema:
            return self.value(self.api["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]], depth)
        for some in ("anyOf", "oneOf"):
            if some in schema:
                return self.value(self.dice.choice(schema[some]), depth)
        if "enum" in schema or "const" in schema:
            return self.dice.choice(schema.get("enum", [schema.get("const")]))
        kind = schema.get("type")
        if kind == "object":
            out = {
                name: self.value(inner, depth + 1)
                for name, inner in schema.get("properties", {}).items()
                if name in schema.get("required", ()) or self.dice.random() < 0.5
            }
            more = schema.get("additionalProperties")
            if isinstance(more, dict):
                out |= {
                    self.dice.choice(["a", "b_1", "kind", "path", "value", ""]): self.value(more, depth + 1)
                    for _ in range(2)
                }
            if "kind" in out and "path" not in out and self.dice.random() < 0.5:
                out |= {"kind": "set_value", "path": "parameters.crank.formula", "value": "3 mm"}
            return out
        if kind == "array":
            return [self.value(schema.get("items", {}), depth + 1) for _ in range(self.dice.randint(0, 3))]
        plain = {
            "integer": [0, 1, 2, 7, -1], "number": [0, 0.5, -3, 1e9], "boolean": [True, False], "null": [None],
            "string": ["rocker", "plate", "bore_1", "1 mm", "30 deg", "x", "nothing_overlaps", "parameters.crank.formula", "set_value"],
        }.get(str(kind), ODD)  # fmt: skip
        return self.dice.choice(plain)


def sent(client: TestClient, seed: int, count: int) -> Iterator[tuple[str, int, str, float]]:
    """What was asked, the status, the words of the answer, and how long it took."""
    requests = Requests(client.app.openapi(), seed)  # type: ignore[attr-defined]
    for k in range(count):
        method, path, more = requests.one(k)
        begun = time.monotonic()
        answer = client.request(method, path, **more)
        text = answer.text if answer.status_code >= 400 else ""
        yield f"{method} {path} {more.get('content', b'')[:300]!r}", answer.status_code, text, time.monotonic() - begun


def served(folder: Path, solids: Path | None) -> TestClient:
    store = Store(folder / "uhrwerk.db")
    store.create(foil_tucker(), key="tucker")
    store.create(pusher(), key="pusher")
    app = create_app(store, Evaluator(solids, limit=60), frozenset({"testserver"}))
    return TestClient(app, raise_server_exceptions=False)


def wrong(asked: str, status: int, text: str, taken: float) -> list[str]:
    out = [f"{status}: {asked}: {text[:300]}"] if status >= 500 and status != 503 else []
    out += [f"{taken:.1f} s: {asked}"] if taken > SLOWEST else []
    if 400 <= status < 500 and asked.split()[1].startswith("/api/"):
        try:
            out += [] if json.loads(text)["error"] else [f"no words: {asked}"]
        except (ValueError, KeyError):
            out.append(f"another form: {status}: {asked}: {text[:100]}")
    return out


@pytest.mark.timeout(600)
def test_no_request_breaks_the_server(tmp_path: Path, solids: Path) -> None:
    with served(tmp_path, solids) as client:
        for path in (
            "/api/mechanisms/tucker",
            "/api/mechanisms/pusher",
        ):  # so that nobody waits for the first evaluation
            client.get(f"{path}/revisions/1/values")
        found = [w for answer in sent(client, 1, 700) for w in wrong(*answer)]
    assert found == []


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as place, served(Path(place), None) as own:
        tally: Counter[int] = Counter()
        for one in sent(own, 7, int(sys.argv[1])):
            tally[one[1]] += 1
            for words in wrong(*one):
                print(words, flush=True)
        print(dict(sorted(tally.items())))
