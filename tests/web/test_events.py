"""The stream of events: it begins with how all stands, tells what changes, and ends with the server."""

from __future__ import annotations

import json
import signal
from collections.abc import Iterator
from typing import Any

import httpx

from tests.conftest import BEARER, Server


def events(server: Server, path: str) -> Iterator[tuple[str, Any]]:
    """Kind and data of each event, until nobody reads any more."""
    with httpx.stream("GET", server.url + path, headers=BEARER, timeout=60) as answer:
        assert answer.headers["content-type"].startswith("text/event-stream")
        kind = ""
        for line in answer.iter_lines():
            if line.startswith("event: "):
                kind = line.removeprefix("event: ")
            elif line.startswith("data: "):
                yield kind, json.loads(line.removeprefix("data: "))


def upto(stream: Iterator[tuple[str, Any]], kind: str, holds: Any) -> Any:
    return next(data for k, data in stream if k == kind and holds(data))


def width(text: str) -> dict[str, str]:
    return {"kind": "set_parameter", "name": "w", "formula": text}


def test_a_stream_tells_the_revision_that_is_current_and_each_that_follows(server: Server) -> None:
    key = server.call("POST", "/api/mechanisms", json={"name": "Heard"}).json()["id"]
    stream = events(server, f"/api/mechanisms/{key}/events")
    assert upto(stream, "revision", lambda d: True)["revision"] == 1
    server.call("POST", f"/api/mechanisms/{key}/commands", json={"revision": 1, "command": width("3 mm")})
    told = upto(stream, "revision", lambda d: d["revision"] == 2)
    assert "w" in told["words"]
    server.call("POST", f"/api/mechanisms/{key}/undo", json={"revision": 2})
    assert upto(stream, "revision", lambda d: d["revision"] == 1)["revision"] == 1


def test_a_stream_that_is_opened_again_tells_what_was_missed(server: Server) -> None:
    key = server.call("POST", "/api/mechanisms", json={"name": "Missed"}).json()["id"]
    first = events(server, f"/api/mechanisms/{key}/events")
    assert upto(first, "revision", lambda d: True)["revision"] == 1
    first.close()  # type: ignore[attr-defined]
    server.call("POST", f"/api/mechanisms/{key}/commands", json={"revision": 1, "command": width("3 mm")})
    again = events(server, f"/api/mechanisms/{key}/events")
    assert upto(again, "revision", lambda d: True)["revision"] == 2


def test_an_evaluation_is_told_to_its_end(server: Server) -> None:
    key = server.call("POST", "/api/mechanisms", json={"name": "Evaluated"}).json()["id"]
    stream = events(server, f"/api/mechanisms/{key}/events")
    upto(stream, "revision", lambda d: True)
    server.call("GET", f"/api/mechanisms/{key}/revisions/1/view")
    assert upto(stream, "evaluation", lambda d: d and d[-1][3])[-1][0] == 1


def test_streams_do_not_hold_up_the_end_of_the_server(own_server: Server) -> None:
    own_server.call("POST", "/api/mechanisms", json={"name": "Ends"})
    stream = events(own_server, "/api/mechanisms/ends/events")
    assert next(stream)
    assert own_server._end(signal.SIGTERM, 9.0)  # gone before calls under way would be given up
