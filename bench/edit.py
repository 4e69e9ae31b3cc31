"""edit: in every demo module one number that moves things is changed ten times, command and verdicts together."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from fastapi.testclient import TestClient

from uhrwerk.core.document import Document, parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.upgrade import read
from uhrwerk.demo.foil_tucker import foil_tucker
from uhrwerk.demo.folder import folder
from uhrwerk.demo.gripper_ring import gripper_ring
from uhrwerk.demo.guard_lid import guard_lid
from uhrwerk.demo.main_drive import main_drive
from uhrwerk.demo.pusher import pusher
from uhrwerk.store import Store
from uhrwerk.web.app import create_app


def six_wheels() -> Document:
    """Six wheels in mesh on a turning arm: all that a mesh needs is known again where the speed alone is changed."""
    return read((Path(__file__).parent / "cases" / "six_wheels.json").read_text())


#: module -> its document, the number that moves most, how it is written, where it starts and how far it goes each time
EDITS: dict[str, tuple[Callable[[], Document], str, str, float, float]] = {
    "foil tucker": (foil_tucker, "parts.coupler.element.distance", "{:.3f} mm", 88.0, 0.05),
    "main drive": (main_drive, "parameters.fold.formula", "{:.3f} deg", 123.0, -0.15),
    "guard lid": (guard_lid, "parts.lid_leaf.element.width", "{:.3f} mm", 30.0, -0.1),
    "pusher": (pusher, "parameters.crank.formula", "{:.3f} mm", 20.0, 0.1),
    "folder": (folder, "parameters.base.formula", "{:.3f} mm", 48.0, 0.05),
    "gripper ring": (gripper_ring, "parameters.arm.formula", "{:.3f} mm", 18.0, 0.02),
    "six wheels": (six_wheels, "drivers.motor.speed", "{:.3f} rpm", 20.0, 1.7),
}
TIMES = 10


def bench_edit() -> str:
    """Median and worst of ten edits; from scratch with solids kept; the command alone, as it is answered over HTTP."""
    out = [
        "edit         median    worst   scratch   command (median, worst)   (aims: worst 1 s, scratch 3 s, command 50 ms)"
    ]
    with tempfile.TemporaryDirectory() as folder:
        evaluator = Evaluator(Path(folder) / "solids", 60, workers=2)
        store = Store(Path(folder) / "uhrwerk.db")
        app = create_app(store, evaluator, frozenset({"testserver"}))
        with TestClient(app) as client:
            for name, (make, path, how, first, step) in EDITS.items():
                document = make()
                evaluator.evaluate(document)
                taken = []
                for k in range(1, TIMES + 1):
                    begun = time.perf_counter()
                    document = accept(
                        document, parse({"kind": "set_value", "path": path, "value": how.format(first + k * step)})
                    )
                    evaluator.evaluate(document)
                    taken.append(time.perf_counter() - begun)
                scratch = _scratch(evaluator, document)
                answered = _answered(client, store, make(), path, [how.format(first + k * step) for k in range(TIMES)])
                out.append(
                    f"{name:12} {statistics.median(taken):6.2f} s {max(taken):6.2f} s {scratch:7.2f} s   "
                    f"{statistics.median(answered) * 1e3:5.0f} ms {max(answered) * 1e3:5.0f} ms"
                )
    return "\n".join(out)


def _scratch(warm: Evaluator, document: Document) -> float:
    """All verdicts by an evaluator that knows nothing but the solids."""
    fresh = Evaluator(None, 60)
    fresh.kernel_pool, fresh.bodies.kernel_pool, fresh.sweep_pool = warm.kernel_pool, warm.kernel_pool, warm.sweep_pool
    begun = time.perf_counter()
    fresh.evaluate(document)
    return time.perf_counter() - begun


def _answered(client: TestClient, store: Store, document: Document, path: str, values: list[str]) -> list[float]:
    mechanism, taken = store.create(document), []
    revision = store.current(mechanism).revision
    client.get(f"/mechanisms/{mechanism}")  # as one must before one can give a command
    client.get(f"/api/mechanisms/{mechanism}")
    for value in values:
        command = {"kind": "set_value", "path": path, "value": value}
        begun = time.perf_counter()
        answer = client.post(f"/api/mechanisms/{mechanism}/commands", json={"revision": revision, "command": command})
        taken.append(time.perf_counter() - begun)
        revision = answer.json()["revision"]
    return taken
