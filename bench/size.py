"""size: many loose parts, a long train of large gears, many links at many frames; and memory over a thousand edits."""

from __future__ import annotations

import contextlib
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from fastapi.testclient import TestClient

from uhrwerk import Bore, Determinate, Draft, FramePlate, LinkBar, NoInterference, SpurGear, write
from uhrwerk.core.document import Document, parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.upgrade import read
from uhrwerk.demo.pusher import pusher
from uhrwerk.store import Store
from uhrwerk.web.app import create_app


def loose(count: int) -> str:
    """So many bars that nothing holds, side by side."""
    document = Document(name="Loose").model_dump(mode="json")
    document["parts"] = {"bar": {"name": "Bar", "material": "steel", "element": {"kind": "link_bar"}}}
    document["placed"] = {
        f"p{k}": {"name": f"Bar {k}", "part": "bar", "start": {"x": f"{k % 25 * 80} mm", "y": f"{k // 25 * 20} mm"}} for k in range(count)
    }  # fmt: skip
    document["frame"] = "p0"
    document["requirements"] = {"apart": {"kind": "no_interference", "name": "Apart"}}
    return json.dumps(document)


def gears(count: int, teeth: int, module: float = 0.5) -> str:
    """A train of equal gears in a row."""
    d, pitch = Draft("Train"), teeth * module
    y = f"{pitch / 2 + 50} mm"
    bores = {f"b{k}": Bore(x=f"{200 + k * pitch} mm", y=y, diameter="8 mm") for k in range(count)}
    plate = d.part(
        "Plate", "steel", FramePlate(length=f"{count * pitch + 400} mm", width=f"{pitch + 100} mm", bores=bores)
    )
    gear = SpurGear(module=f"{module} mm", teeth=teeth, thinning="0.04 mm", bore="8 mm")
    made = [d.part("Gear 0", "steel", gear, x="200 mm", y=y, z="2 mm")]
    for k in range(1, count):
        made.append(
            d.place(
                str(made[0]), f"Gear {k}", x=f"{200 + k * pitch} mm", y=y, z="2 mm", turn_z=f"{k % 2 * 162 / teeth} deg"
            )
        )
    joints = [d.revolute(f"Turns {k}", plate[f"b{k}"], g["axis"], offset="2 mm") for k, g in enumerate(made)]
    for k in range(count - 1):
        d.gear_pair(f"Mesh {k}", made[k], made[k + 1])
    d.turn("Motor", joints[0], "60 rpm")
    d.require(NoInterference(name="Apart"))
    d.require(Determinate(name="Held"))
    return write(d.document)


def links(count: int, frames: int) -> str:
    """Four-bars side by side, each driven: so many moving links."""
    d, n = Draft("Links"), -(-count // 3)
    bores = {
        f"{s}{k}": Bore(x=f"{60 + k * 160 + off} mm", y="150 mm", diameter="5.1 mm")
        for k in range(n)
        for s, off in (("p", 0), ("q", 80))
    }
    base = d.part("Base", "steel", FramePlate(length=f"{160 * n + 200} mm", width="400 mm", bores=bores))
    for k in range(n):
        x = 60 + k * 160
        crank = d.part(f"Crank {k}", "steel", LinkBar(distance="30 mm"), x=f"{x} mm", y="150 mm", z="1 mm")
        rod = d.part(
            f"Coupler {k}", "steel", LinkBar(distance="90 mm"), x=f"{x + 30} mm", y="150 mm", z="7 mm", turn_z="30 deg"
        )
        rocker = d.part(
            f"Rocker {k}", "steel", LinkBar(distance="60 mm"), x=f"{x + 80} mm", y="150 mm", z="1 mm", turn_z="95 deg"
        )
        motor = d.revolute(f"Crank {k} turns", base[f"p{k}"], crank["hole_1"], offset="1 mm")
        d.revolute(f"Coupler {k} on crank", crank["hole_2"], rod["hole_1"], offset="6 mm")
        d.revolute(f"Rocker {k} turns", base[f"q{k}"], rocker["hole_1"], offset="1 mm")
        d.revolute(f"Coupler {k} on rocker", rocker["hole_2"], rod["hole_2"], offset="6 mm")
        d.turn(f"Motor {k}", motor, "60 rpm")
    d.set("cycle", {"duration": "1 s", "frames": frames})
    d.require(NoInterference(name="Apart"))
    d.require(Determinate(name="Held"))
    return write(d.document)


def memory() -> float:
    """Megabytes that this process and all below it hold; pages that several share count once (proportional set size)."""
    parent = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            with contextlib.suppress(OSError):
                parent[entry.name] = (entry / "stat").read_text(encoding="utf-8").rpartition(")")[2].split()[1]
    ours, total = {str(os.getpid())}, 0
    while more := {pid for pid, above in parent.items() if above in ours} - ours:
        ours |= more
    for pid in ours:
        with contextlib.suppress(OSError):
            rolled = Path("/proc", pid, "smaps_rollup").read_text(encoding="utf-8")
            total += next(int(line.split()[1]) for line in rolled.splitlines() if line.startswith("Pss:"))
    return total / 1024


CASES: dict[str, Callable[[], str]] = {
    "500 loose parts": lambda: loose(500),
    "20 gears of 400 teeth": lambda: gears(20, 400),
    "51 links, 3,600 frames": lambda: links(51, 3600),
}


def bench_size() -> str:
    """Each case in a process of its own, so that memory is its own too."""
    out = [
        "size                     read   accept   page   verdicts   memory     (aims: accept, read and page 2 s, verdicts 30 s, 1 GB)"
    ]
    for name in [*CASES, "edits"]:
        command = [sys.executable, "-W", "ignore", "-m", "bench.size", name]
        done = subprocess.run(command, capture_output=True, text=True, cwd=Path(__file__).parent.parent, check=False)
        out.append(done.stdout.strip() or done.stderr.strip().splitlines()[-1])
    return "\n".join(out)


def _one(name: str, make: Callable[[], str]) -> str:
    text = make()
    with tempfile.TemporaryDirectory() as folder:
        evaluator = Evaluator(Path(folder) / "solids", 60, workers=2)
        store = Store(Path(folder) / "uhrwerk.db")
        with TestClient(create_app(store, evaluator, frozenset({"testserver"}))) as client:
            begun = time.perf_counter()
            document = read(text)
            reading = time.perf_counter() - begun
            begun = time.perf_counter()
            accept(document, parse({"kind": "set_value", "path": "note", "value": "x"}))
            accepting = time.perf_counter() - begun
            mechanism = store.create(document)
            begun = time.perf_counter()
            assert client.get("/").status_code == 200
            assert client.get(f"/mechanisms/{mechanism}").status_code == 200
            page = time.perf_counter() - begun
            begun = time.perf_counter()
            while (answer := client.get(f"/api/mechanisms/{mechanism}/revisions/1/view")).status_code == 202:
                time.sleep(0.05)
            verdicts = time.perf_counter() - begun
            holds = [v["holds"] for v in answer.json()["verdicts"]]
            return f"{name:22} {reading:6.2f} s {accepting:6.2f} s {page:5.2f} s {verdicts:7.1f} s  {memory():6.0f} MB   {holds}"


def _edits(count: int = 1000) -> str:
    """Memory and kept files over so many edits that each make a solid anew."""
    with tempfile.TemporaryDirectory() as folder:
        evaluator = Evaluator(Path(folder) / "solids", 60, workers=2)
        evaluator.kernel_pool.folder.largest = 6_000_000  # small, so that the end of its growth can be seen here
        document, told = pusher(), []
        for k in range(1, count + 1):
            document = accept(
                document,
                parse({"kind": "set_value", "path": "parameters.crank.formula", "value": f"{20 + k * 0.002:.4f} mm"}),
            )
            evaluator.evaluate(document)
            if k % (count // 5) == 0:
                files = sum(f.stat().st_size for f in (Path(folder) / "solids").iterdir()) / 1e6
                told.append(f"{k}: {memory():.0f} MB, {files:.1f} MB kept")
        evaluator.close()
        return f"edits  {'; '.join(told)}  (aim: no longer growing; kept files bounded at 6 MB here, 300 MB else)"


if __name__ == "__main__":
    print(_edits() if sys.argv[1] == "edits" else _one(sys.argv[1], CASES[sys.argv[1]]))
