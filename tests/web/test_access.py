"""The access key: part of the address that is printed, kept by the browser, asked for by every call (RFC 6750, section 2.1; cookies
by RFC 6265). Connections that say nothing are closed."""

from __future__ import annotations

import os
import re
import resource
import socket
import subprocess
import sys
import time
from pathlib import Path

import httpx
import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from tests.conftest import BEARER, ROOT, Server
from tests.nursery import Nursery
from uhrwerk import Evaluator
from uhrwerk.store import Store
from uhrwerk.web import connections
from uhrwerk.web.access import Access
from uhrwerk.web.app import create_app


@pytest.fixture
def client(tmp_path: Path, evaluator: Evaluator) -> TestClient:
    app = create_app(Store(tmp_path / "uhrwerk.db"), evaluator, frozenset({"testserver"}), key="a-key-of-its-own")
    return TestClient(app, follow_redirects=False)


@pytest.mark.parametrize("path", ["/", "/mechanisms/none", "/help", "/api/mechanisms", "/openapi.json", "/static/none"])
def test_nothing_is_told_without_the_key(client: TestClient, path: str) -> None:
    for headers in ({}, {"authorization": "Bearer other"}, {"cookie": "uhrwerk_80=other"}, {"cookie": 'a="; b'}):
        answer = client.get(path, headers=headers)
        assert answer.status_code == 401
        assert answer.headers["content-type"] == "application/json"
        assert "open the address" in answer.json()["error"]
        assert "default-src 'none'" in answer.headers["content-security-policy"]
    assert client.get(f"{path}?key=other").status_code == 401
    assert client.post("/api/mechanisms", json={"name": "Mine"}).status_code == 401
    with pytest.raises(WebSocketDisconnect), client.websocket_connect("/api/mechanisms/a/revisions/1/hold"):
        pass


def test_a_browser_without_it_sees_a_page(client: TestClient) -> None:
    answer = client.get("/mechanisms/foil_tucker", headers={"accept": "text/html,*/*"})
    assert answer.status_code == 401
    assert "open the address that Uhrwerk printed" in answer.text
    style = re.findall(r'href="(/static/[^"]+\.css)"', answer.text)
    assert style
    assert all(client.get(s).status_code == 200 for s in style)


def test_the_address_with_it_gives_the_cookie_and_keeps_the_rest(client: TestClient) -> None:
    answer = client.get("/mechanisms/x?a=1&key=a-key-of-its-own&b=%26")
    assert answer.status_code == 303
    assert answer.headers["location"] == "/mechanisms/x?a=1&b=%26"
    cookie = answer.headers["set-cookie"]
    assert cookie.startswith("uhrwerk_80=a-key-of-its-own;")
    assert "HttpOnly" in cookie
    assert "SameSite=lax" in cookie
    scope = {"type": "http", "method": "GET", "path": "//elsewhere.example/", "query_string": b"key=k"}
    elsewhere = Access("k").welcome(scope)
    assert elsewhere is not None
    assert elsewhere.headers["location"] == "/elsewhere.example/"
    assert client.get("/").status_code == 200  # the client has kept it
    assert client.get("/?key=a-key-of-its-own").headers["location"] == "/"  # it never stays in the address
    client.cookies.clear()
    assert client.get("/api/mechanisms").status_code == 401
    assert client.get("/api/mechanisms", headers={"authorization": "Bearer a-key-of-its-own"}).status_code == 200


def test_each_start_has_a_key_of_its_own(tmp_path: Path) -> None:
    keys = []
    without = {k: v for k, v in os.environ.items() if k != "UHRWERK_KEY"}
    for _ in range(2):
        command = [sys.executable, "-m", "uhrwerk", "serve", "--port", "0", "--data", str(tmp_path / "data")]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, cwd=ROOT, env=without)
        try:
            assert process.stdout is not None
            address, key = process.stdout.readline().split()[-1].split("?key=")
            keys.append(key)
            assert httpx.get(address, timeout=60).status_code == 401
            assert httpx.get(address, timeout=60, headers={"authorization": f"Bearer {key}"}).status_code == 200
            with httpx.Client(timeout=60, follow_redirects=True) as browser:
                assert browser.get(f"{address}?key={key}").status_code == 200
                assert browser.get(address).status_code == 200
            assert key not in (tmp_path / "data" / "uhrwerk.lock").read_text()
        finally:
            process.terminate()
            process.wait()
    assert len(set(keys)) == 2
    assert min(map(len, keys)) >= 32


def test_connections_that_say_nothing_are_closed(tmp_path: Path, nursery: Nursery) -> None:
    """80 idle connections took all descriptors (`prlimit --nofile=64`), and none was ever closed."""
    server = Server(tmp_path / "data", nursery=nursery)
    port = int(server.url.rsplit(":", 1)[1])
    try:
        resource.prlimit(server.pid, resource.RLIMIT_NOFILE, (4096, 4096))
        silent = [socket.create_connection(("127.0.0.1", port)) for _ in range(connections.MOST + 40)]
        slow = socket.create_connection(("127.0.0.1", port))
        slow.sendall(b"GET /api/mechanisms HTTP/1.1\r\nhost: 127.0.0.1\r\n")
        broken = socket.create_connection(("127.0.0.1", port))
        broken.sendall(b"\x00\x01 no http\r\n\r\n")
        said = b"".join(iter(lambda: broken.recv(4000), b""))
        assert said.startswith(b"HTTP/1.1 400")
        assert b"content-security-policy" in said
        assert b'{"error": "This is not a readable HTTP request' in said
        assert server.call("GET", "/api/mechanisms").status_code == 200
        until = time.monotonic() + 4 * connections.PATIENCE
        waiting = [*silent, slow]
        for s in waiting:
            s.settimeout(max(0.1, until - time.monotonic()))
            assert s.recv(1) == b""  # closed by the server
        assert server.call("GET", "/api/mechanisms").status_code == 200
        assert httpx.get(f"{server.url}/api/mechanisms", headers=BEARER, timeout=60).status_code == 200
    finally:
        server.stop()
        for s in silent:
            s.close()
