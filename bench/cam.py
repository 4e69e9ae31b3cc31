"""cam: a programme's number is changed; the outline, the motion of its follower and the curve are made anew.

play: pictures a second on the page, in a Chromium that draws by software, while the main drive and the folder run.
"""

from __future__ import annotations

import json
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from uhrwerk import Draft, write
from uhrwerk.core.elements.cams import plate_cam
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.demo.folder import folder
from uhrwerk.demo.main_drive import main_drive

RUNS = 9
#: s that is played
PLAYED = 4.0


def bench_cam() -> str:
    evaluator = Evaluator()
    evaluator.moved(folder())
    profile, both = [], []
    for k in range(RUNS):
        draft = Draft("x", folder())
        draft.set("parts.cam.element.outline.swing.fold.to", f"{25 + k / 10:.2f} deg")
        element = draft.document.parts["cam"].element
        plate_cam._curves.clear()  # the command has made it already
        begun = time.perf_counter()
        plate_cam.curve(numbers(element, draft.document.scope()))
        profile.append(time.perf_counter() - begun)
        e = evaluator.moved(draft.document)
        assert e.problems == []
        both.append(time.perf_counter() - begun)
    evaluator.close()
    first, whole = (statistics.median(x) * 1e3 for x in (profile, both))
    return f"cam    outline {first:.0f} ms, with the cycle of its follower {whole:.0f} ms (slowest {max(both) * 1e3:.0f} ms)  (aim 300 ms)"


def bench_play(server_of: Callable[[Path], tuple[str, Callable[[], None]]]) -> str:
    """`server_of(folder)` starts a server and gives its address and how to end it."""
    out = []
    switches = "--no-sandbox --use-angle=swiftshader --enable-unsafe-swiftshader --disable-background-networking --disable-component-update --disable-sync --no-first-run --disable-quic"
    with tempfile.TemporaryDirectory() as data, sync_playwright() as playwright:
        address, end = server_of(Path(data))
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=switches.split())
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)  # which gives it the key
        address = address.split("/?")[0]
        for document in (main_drive(), folder()):
            told = page.request.post(f"{address}/api/mechanisms", data={"document": json.loads(write(document))})
            page.goto(f"{address}/mechanisms/{told.json()['id']}")
            page.wait_for_selector("[data-evaluated]", timeout=120_000)
            page.wait_for_timeout(2500)
            out.append(f"{document.name.lower()} {_pictures(page):.1f}")
        browser.close()
        end()
    return f"play   pictures a second by software, 1280 x 800: {', '.join(out)}  (aim 10)"


def _pictures(page: Page) -> float:
    drawn = "Number(document.querySelector('.stage-canvas').dataset.drawn || 0)"
    page.get_by_role("button", name="Play").click()
    page.wait_for_timeout(500)
    before, begun = page.evaluate(drawn), time.perf_counter()
    page.wait_for_timeout(PLAYED * 1e3)
    rate = (page.evaluate(drawn) - before) / (time.perf_counter() - begun)
    page.get_by_role("button", name="Pause").click()
    return float(rate)
