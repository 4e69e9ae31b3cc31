"""dial: a number is turned step by step as the page does it; verdict updates a second, each with its view and its poses."""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

from fastapi.testclient import TestClient

from bench.edit import EDITS
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.store import Store
from uhrwerk.web.app import create_app

MODULES = ("foil tucker", "main drive")
TURNS = 20


def bench_dial() -> str:
    out = ["dial         updates a second   slowest   (aim: 5 a second on the foil tucker)"]
    with tempfile.TemporaryDirectory() as folder:
        evaluator, store = Evaluator(Path(folder) / "solids", 60, workers=2), Store(Path(folder) / "uhrwerk.db")
        app = create_app(store, evaluator, frozenset({"testserver"}))
        with TestClient(app) as client:
            for name in MODULES:
                make, path, *_ = EDITS[name]
                mechanism = store.create(make())
                at = f"/api/mechanisms/{mechanism}/revisions/1"
                while client.get(f"{at}/view").status_code == 202:
                    pass
                taken = []
                for steps in range(1, TURNS + 1):
                    begun = time.perf_counter()
                    told = client.post(f"{at}/turned", json={"path": path, "steps": steps}).json()
                    client.get(f"/api/mechanisms/{mechanism}/revisions/{told['revision']}/poses")
                    taken.append(time.perf_counter() - begun)
                out.append(f"{name:12} {1 / statistics.median(taken):10.1f}         {max(taken):6.2f} s")
        evaluator.close()
    return "\n".join(out)
