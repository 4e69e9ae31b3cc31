"""./dev bench: what Uhrwerk costs, as ratios against plain ways measured in the same run. Medians of several runs.

cycle  four-bar, 360 poses with velocities and accelerations; against scipy.optimize.least_squares with a numeric
       Jacobian on the same equations, pose by pose (positions alone, so the plain way does less); and against a step of
       a small C physics engine (mujoco) on the same loop, which holds it to about 1e-4
ring   closed rings of 12 and 24 crossed link pairs, 360 poses over the whole travel
drag   the gripper ring pulled by one link through the WebSocket of a server of its own
sweep  20 parts, 360 poses, smallest clearance of every pair with its bound; against every pair at every pose through
       raw python-fcl distance
edit   in every demo module the number that moves most, command and verdicts; from scratch; the command alone
cam    a cam's number changed: its outline, and the cycle of its follower
play   pictures a second while the main drive and the folder run, drawn by software
dial   a number turned step by step: verdict updates a second on the foil tucker and the main drive
remedy for every failing requirement of the demo the first offer and all offers
breaks a hundred random numbers of the mended demo spoilt, the first offer taken, smaller changes tried (half an hour; by name alone)
size   500 loose parts, 20 gears of 400 teeth, 51 links at 3,600 frames; memory over 1,000 edits
start  from the command to the first page served, warm
"""

from __future__ import annotations

import argparse
import itertools
import json
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

import fcl
import numpy as np
from scipy.optimize import least_squares

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.context import CONTEXT  # noqa: E402
from tests.mechanisms import crossed_ring, four_bar  # noqa: E402

from bench.breaks import bench_breaks  # noqa: E402
from bench.cam import bench_cam, bench_play  # noqa: E402
from bench.dial import bench_dial  # noqa: E402
from bench.edit import bench_edit  # noqa: E402
from bench.pull import bench_pull  # noqa: E402
from bench.remedy import bench_remedy  # noqa: E402
from bench.size import bench_size  # noqa: E402
from uhrwerk import Draft, LinkBar, Pin, SpurGear, write  # noqa: E402
from uhrwerk.core.assembly import compile, solve  # noqa: E402
from uhrwerk.core.equations import pose as poses  # noqa: E402
from uhrwerk.core.evaluation.evaluator import Evaluator  # noqa: E402
from uhrwerk.core.motion import cycle  # noqa: E402
from uhrwerk.core.proximity.body_geometry import MM  # noqa: E402
from uhrwerk.core.proximity.sweep import Sweep  # noqa: E402
from uhrwerk.core.proximity.sweep_pool import SweepPool  # noqa: E402
from uhrwerk.demo.gripper_ring import gripper_ring  # noqa: E402


def times(work: Callable[[], object], runs: int) -> list[float]:
    """Seconds of each run."""
    taken = []
    for _ in range(runs):
        begun = time.perf_counter()
        work()
        taken.append(time.perf_counter() - begun)
    return taken


def timed(work: Callable[[], object], runs: int) -> float:
    """Median seconds."""
    return statistics.median(times(work, runs))


def bench_cycle() -> str:
    document = four_bar(0.03, 0.09, 0.06, 0.08)
    m = compile(document, CONTEXT)
    start = solve(m)
    ours = timed(lambda: cycle(m, start, 1.0, 360), 5)
    rows, pose = m.system(), m.scaled(start)

    def plain() -> float:
        now, worst = pose, 0.0
        for t in np.linspace(0, 1, 361):

            def residual(x: np.ndarray, t: float = t, now: np.ndarray = now) -> np.ndarray:
                step = np.concatenate([np.zeros((1, 6)), x.reshape(-1, 6)])
                return rows.value(poses.moved(now, step)[None], np.array([t]))[0][0]

            found = least_squares(residual, np.zeros(6 * (len(m.links) - 1)), xtol=1e-14, ftol=1e-14, gtol=1e-14)
            now = poses.moved(now, np.concatenate([np.zeros((1, 6)), found.x.reshape(-1, 6)]))
            worst = max(worst, float(np.abs(found.fun).max()))
        return worst

    theirs = timed(plain, 1)
    left = cycle(m, start, 1.0, 360).residual
    engine = _engine_step(0.03, 0.09, 0.06, 0.08)
    return (
        f"cycle  ours {ours * 1e3:8.1f} ms   plain {theirs:7.2f} s    ratio {theirs / ours:6.1f}x  (aim 100x)   residual {left:.1e}\n"
        f"       ours {ours / 361 * 1e6:8.1f} us a pose   physics engine {engine * 1e6:.1f} us a step   {ours / 361 / engine:.0f} times its time (aim 20)"
    )


def _engine_step(a: float, b: float, c: float, d: float) -> float:
    """Median seconds of a step of mujoco on the same four-bar: hinges in a tree, the loop closed by an equality."""
    import mujoco

    def bar(length: float) -> str:
        return f'<geom type="capsule" fromto="0 0 0 {length} 0 0" size=".005" contype="0" conaffinity="0"/>'

    model = mujoco.MjModel.from_xml_string(
        f'''<mujoco><option timestep="{1 / 360}" gravity="0 0 0" integrator="implicitfast"/><worldbody>
        <body><joint name="motor" axis="0 0 1"/>{bar(a)}<body name="coupler" pos="{a} 0 0"><joint axis="0 0 1"/>{bar(b)}</body></body>
        <body name="rocker" pos="{d} 0 0"><joint axis="0 0 1"/>{bar(c)}</body></worldbody>
        <equality><connect body1="coupler" body2="rocker" anchor="{b} 0 0" solref="0.006 1"/></equality>
        <actuator><velocity joint="motor" kv="10"/></actuator></mujoco>'''
    )
    data = mujoco.MjData(model)

    def steps() -> None:
        for _ in range(3600):
            mujoco.mj_step(model, data)

    steps()
    return timed(steps, 7) / 3600


def bench_ring() -> str:
    """Closed rings of crossed links over their whole travel, positions, velocities and accelerations."""
    out, took = [], {}
    for pairs in (12, 24):
        m = compile(crossed_ring(pairs), CONTEXT)
        start = solve(m)
        took[pairs] = timed(lambda m=m, start=start: cycle(m, start, 1.0, 360), 5)  # type: ignore[misc]
        left = cycle(m, start, 1.0, 360).residual
        out.append(f"{pairs} pairs {took[pairs] * 1e3:7.0f} ms residual {left:.1e}")
    growth = took[24] / took[12]
    return f"ring   {out[0]}   {out[1]}   cost {growth:.2f}x for twice the links  (aims under 1 s, 4 s, 4x)"


def bench_drag() -> str:
    """Solves a second while a link of the demo's gripper ring is pulled to and fro, through the WebSocket of a server."""
    from websockets.sync.client import connect

    document = gripper_ring().model_copy(update={"drivers": {}, "requirements": {}})
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-m", "uhrwerk", "serve", "--port", "0", "--data", folder]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, cwd=ROOT)
        try:
            assert process.stdout is not None
            url, key = process.stdout.readline().split()[-1].split("/?key=")
            bearer = {"authorization": f"Bearer {key}"}
            body = json.dumps({"name": "ring", "document": json.loads(write(document))}).encode()
            asked = urllib.request.Request(f"{url}/api/mechanisms", body, bearer | {"content-type": "application/json"})
            state = json.loads(urllib.request.urlopen(asked).read())
            at = f"{url}/api/mechanisms/{state['id']}/revisions/{state['revision']}"
            view = urllib.request.Request(f"{at}/view", headers=bearer)
            while urllib.request.urlopen(view).status == 202:
                time.sleep(0.2)
            with connect(f"{at.replace('http', 'ws')}/hold", additional_headers=bearer) as socket:
                m = compile(document, CONTEXT)
                home = m.part_pose("link__4", solve(m))[:3]
                socket.send(json.dumps({"take": "link__4", "at": home.tolist()}))
                socket.recv()
                ways = np.concatenate([np.linspace(1, 0.75, 50), np.linspace(0.75, 0.98, 50)])
                taken = []
                for way in ways:
                    begun = time.perf_counter()
                    socket.send(json.dumps({"to": [*(home[:2] * way), float(home[2])]}))
                    told = json.loads(socket.recv())
                    taken.append(time.perf_counter() - begun)
                    assert "poses" in told, told
        finally:
            process.terminate()
            process.wait()
    return (
        f"drag   {1 / statistics.median(taken):6.0f} solves a second, the slowest {max(taken) * 1e3:.0f} ms"
        "  (aim 30)   gripper ring of ten pairs, through the WebSocket"
    )


def twenty_parts() -> Draft:
    """A four-bar with a gear on its crank, and posts and pins all about: 20 parts, 190 pairs."""
    draft = Draft("Twenty", four_bar(0.03, 0.09, 0.06, 0.08))
    from uhrwerk.core.joints import At

    gear = draft.part("Gear", "steel", SpurGear(teeth=30, bore="4 mm"))
    draft.rigid("Gear on crank", At(placed="crank", datum="hole_1"), gear["axis"], offset="20 mm")
    for k in range(13):
        turn = 2 * np.pi * k / 13
        pin = draft.part(
            f"Post {k}",
            "steel",
            Pin(diameter="4 mm", length="30 mm"),
            x=f"{40 + 150 * np.cos(turn):.3f} mm",
            y=f"{20 + 130 * np.sin(turn):.3f} mm",
        )
        draft.set(f"placed.{pin}.start.z", "2 mm")
    for k in range(2):
        draft.part(f"Bar {k}", "steel", LinkBar(), x=f"{-60 + 120 * k} mm", y="-60 mm", z="14 mm")
    return draft


def bench_sweep(evaluator: Evaluator) -> str:
    document = twenty_parts().document
    result = evaluator.evaluate(document)
    m, motion = result.mechanism, result.motion
    assert m is not None
    assert motion is not None
    shapes = evaluator.shapes(result)
    pairs = list(itertools.combinations(shapes, 2))
    for s in shapes:
        s.form.mesh.model  # noqa: B018  both ways find the triangles ready

    sweep_pool = SweepPool(2)

    def ours() -> list:
        """As an evaluation does it: on both cores."""
        sweep = Sweep(motion)
        tasks = [sweep.task(a, b, 0.0) for a, b in pairs]
        found = sweep_pool.findings(tasks, lambda done: None)
        return [sweep.placed_result(a, b, t, f) for (a, b), t, f in zip(pairs, tasks, found, strict=True)]

    def alone() -> list:
        sweep = Sweep(motion)
        return [sweep.find(a, b, 0.0) for a, b in pairs]

    def plain() -> list[float]:
        objects = {s.name: fcl.CollisionObject(s.form.mesh.model) for s in shapes}
        request, smallest = fcl.DistanceRequest(), []
        for a, b in pairs:
            oa, ob, least = objects[a.name], objects[b.name], np.inf
            for p in motion.pose[:-1]:
                for one, s in ((oa, a), (ob, b)):
                    at = poses.compose(p[s.link], s.local)
                    one.setTransform(fcl.Transform(at[3:], at[:3] * MM))
                least = min(least, fcl.distance(oa, ob, request, fcl.DistanceResult()))
            smallest.append(max(0.0, least) / MM)
        return smallest

    ours()  # the workers know the bodies
    quick, one = times(ours, 9), timed(alone, 3)
    begun = time.perf_counter()
    witness = plain()
    slow = time.perf_counter() - begun
    quick += times(ours, 9)  # half before, half after: the machine's pace drifts while the plain way runs
    found = ours()
    sweep_pool.close()
    above = max(f.distance - f.error - w for f, w in zip(found, witness, strict=True))
    wide = statistics.median(f.error for f in found)
    calls = sum(f.measured for f in found)
    return (
        f"sweep  ours {(fast := statistics.median(quick)):8.2f} s    plain {slow:7.2f} s    ratio {slow / fast:6.1f}x  (aim 50x)   on one core {slow / one:.1f}x   {len(pairs)} pairs, {calls} distances; "
        f"bound above the witness by {max(0.0, above) * 1e3:.4f} mm; median bound ± {wide * 1e3:.3f} mm"
    )


def bench_start() -> str:
    with tempfile.TemporaryDirectory() as folder:

        def first_page() -> None:
            server = subprocess.Popen(
                [sys.executable, "-m", "uhrwerk", "demo", "--port", "0", "--data", folder],
                stdout=subprocess.PIPE,
                text=True,
                cwd=ROOT,
            )
            assert server.stdout is not None
            address, key = server.stdout.readline().split()[-1].split("?key=")
            page = urllib.request.Request(address, headers={"authorization": f"Bearer {key}"})
            assert b"Foil tucker" in urllib.request.urlopen(page).read()
            taken.append(time.perf_counter() - begun)
            server.terminate()
            server.wait()

        taken: list[float] = []
        for _ in range(4):
            begun = time.perf_counter()
            first_page()
    return f"start  {statistics.median(taken[1:]):.2f} s warm, {taken[0]:.2f} s with an empty data folder  (aim 3 s)"


def serving(data: Path) -> tuple[str, Callable[[], None]]:
    """A server with its data in a folder: its address with the key, and what ends it."""
    command = [sys.executable, "-m", "uhrwerk", "serve", "--port", "0", "--data", str(data)]
    server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, cwd=ROOT)
    assert server.stdout is not None

    def end() -> None:
        server.terminate()
        server.wait()

    return server.stdout.readline().split()[-1], end


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument(
        "which",
        nargs="*",
        default=["cycle", "ring", "drag", "sweep", "edit", "pull", "cam", "play", "dial", "remedy", "size", "start"],
    )
    chosen = parser.parse_args().which
    evaluator = Evaluator(limit=60)
    benches = {
        "cycle": bench_cycle,
        "ring": bench_ring,
        "drag": bench_drag,
        "sweep": lambda: bench_sweep(evaluator),
        "edit": bench_edit,
        "pull": bench_pull,
        "cam": bench_cam,
        "play": lambda: bench_play(serving),
        "dial": bench_dial,
        "remedy": bench_remedy,
        "breaks": bench_breaks,
        "size": bench_size,
        "start": bench_start,
    }
    for name in chosen:
        print(benches[name](), flush=True)
    evaluator.close()


if __name__ == "__main__":
    main()
