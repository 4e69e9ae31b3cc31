"""Killed at a random moment after an answer: every answered edit is there when the server is started again."""

from __future__ import annotations

import random
import sqlite3
import threading
import time
from pathlib import Path

import httpx
import pytest

from tests.conftest import Server
from tests.nursery import Nursery

ROUNDS = 10


@pytest.mark.parametrize("part", range(10))  # 100 kills in ten parts, so that two cores share them
@pytest.mark.timeout(400)
def test_every_answered_edit_survives_kill_9(tmp_path: Path, nursery: Nursery, part: int) -> None:
    dice = random.Random(part)
    server = Server(tmp_path / "data", nursery=nursery)
    try:
        key = server.call("POST", "/api/mechanisms", json={"name": "Killed"}).json()["id"]
        revision, answered = 1, ""
        for turn in range(ROUNDS):
            answered = f"{part}.{turn} mm"
            told = server.call(
                "POST",
                f"/api/mechanisms/{key}/commands",
                json={"revision": revision, "command": {"kind": "set_parameter", "name": "w", "formula": answered}},
            )
            assert told.status_code == 200, told.text
            revision = told.json()["revision"]
            storm = threading.Thread(target=_edit_on, args=(server, key, revision), daemon=True)
            if turn % 2:
                storm.start()  # the kill then falls into the middle of further writes
            time.sleep(dice.uniform(0, 0.03))
            server.kill()
            if turn % 2:
                storm.join()
            sound = sqlite3.connect(tmp_path / "data" / "uhrwerk.db").execute("PRAGMA integrity_check").fetchone()
            assert sound == ("ok",)
            server.start()
            now = server.call("GET", f"/api/mechanisms/{key}").json()
            assert now["revision"] >= revision
            history = server.call("GET", f"/api/mechanisms/{key}/revisions").json()
            assert f"parameter w = {answered}" in [r["words"] for r in history]
            revision = now["revision"]
        document = server.call("GET", f"/api/mechanisms/{key}/document").json()
        assert "w" in document["parameters"]
    finally:
        server.stop()


def _edit_on(server: Server, key: str, revision: int) -> None:
    for n in range(50):
        try:
            command = {"kind": "set_parameter", "name": "storm", "formula": f"{n} mm"}
            revision = server.call(
                "POST", f"/api/mechanisms/{key}/commands", json={"revision": revision, "command": command}
            ).json()["revision"]
        except httpx.HTTPError:
            return
