"""pull: a face of a part of twenty steps is pulled, through the server: solids a second, with the gap to the nearest neighbour."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from fastapi.testclient import TestClient

from uhrwerk import Draft, Evaluator, Pin
from uhrwerk.core.outlines import Circle, Disc, Hull
from uhrwerk.core.steps import AtPoints, BuildStep, Extrude, Hole, Spot
from uhrwerk.store import Store
from uhrwerk.web.app import create_app


def _draft() -> Draft:
    steps: dict[str, BuildStep] = {
        "arm": Extrude(name="Arm", length="6 mm", outline=Hull(circles={"a": Disc(diameter="20 mm"), "b": Disc(diameter="12 mm", x="50 mm")})),
        "hub": Extrude(name="Hub", plane="arm.end", outline=Circle(diameter="16 mm"), length="4 mm"),
        "bore": Hole(name="Bore", plane="hub.end", diameter="10 mm"),
    }  # fmt: skip
    for k in range(len(steps), 20):
        at = AtPoints(spots={"a": Spot(x=f"{10 + 1.8 * k} mm", y=f"{k % 3 - 1} mm")})
        steps[f"hole_{k}"] = Hole(name=f"Hole {k}", plane="arm.end", diameter="1 mm", at=at)
    draft = Draft("Pulled")
    draft.own_part("Lever", "steel", steps)
    draft.part("Pin", "steel", Pin(), x="70 mm")
    return draft


def bench_pull(runs: int = 20) -> str:
    """The last step's own number changed by hand; then the same for a step early in the part, and a face moved at its end."""
    with tempfile.TemporaryDirectory() as folder:
        evaluator = Evaluator(Path(folder) / "solids", 60, workers=2)
        store = Store(Path(folder) / "uhrwerk.db")
        told = []
        with TestClient(create_app(store, evaluator, frozenset({"testserver"}))) as client:
            mechanism = store.create(_draft().document)

            def seconds(command: dict) -> float:
                begun = time.perf_counter()
                answer = client.post(f"/api/mechanisms/{mechanism}/ghosts", json={"revision": 1, "command": command})
                assert answer.status_code == 200, answer.text
                ghost = answer.json()[0]
                body = client.get(f"/api/elements/solids/{ghost['solid']}/{ghost['bodies'][0]}")
                assert body.status_code == 200
                return time.perf_counter() - begun

            def moved(k: int) -> dict:
                step = {"kind": "move_face", "name": "Moved", "face": "hub.end", "by": f"{1 + k / 10} mm"}
                return {"kind": "add_step", "part": "lever", "step": step}

            def changed(step: str) -> object:
                return lambda k: {
                    "kind": "set_value",
                    "path": f"parts.lever.steps.{step}.diameter",
                    "value": f"{0.9 - k / 1000} mm",
                }

            for name, command in (
                ("a face moved", moved),
                ("a hole fifth from the end", changed("hole_15")),
                ("the first hole", changed("hole_3")),
            ):
                seconds(command(99))
                taken = sorted(seconds(command(k)) for k in range(runs))
                told.append(f"{name} {1 / taken[runs // 2]:4.1f} a second (slowest {taken[-1] * 1e3:.0f} ms)")
        evaluator.close()
        return f"pull   {'; '.join(told)}  (aim 4 a second)"
