"""The player, opened from disk in a browser without a network: what is drawn is where the computation says, and nothing is asked for."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Browser, Page, Request, expect

from tests.browser.test_workspace import findings
from tests.core.test_report import hostile
from uhrwerk import Evaluator
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.line_drawing import Eye
from uhrwerk.core.player import as_page
from uhrwerk.core.stages.evaluation import Evaluation

pytestmark = pytest.mark.browser

MOST = 5_000_000  # bytes of one file
PICTURE = "() => { const c = document.querySelector('#stage'); return c.toDataURL().length; }"


@pytest.fixture
def offline(browser: Browser) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 1000, "height": 1000}, offline=True)
    page = context.new_page()
    foreign: list[str] = []
    page.on("request", lambda r: _noted(r, foreign))
    page.on("pageerror", lambda error: foreign.append(str(error)))
    page.on("dialog", lambda dialog: foreign.append(dialog.message))
    yield page
    context.close()
    assert foreign == []


def _noted(request: Request, foreign: list[str]) -> None:
    if not request.url.startswith(("file:", "data:", "blob:")):
        foreign.append(request.url)


def opened(page: Page, e: Evaluation, folder: Path) -> int:
    file = folder / "player.html"
    file.write_bytes(as_page(e))
    page.goto(file.as_uri())
    return file.stat().st_size


def test_parts_are_where_the_motion_has_them(offline: Page, tucked: Evaluation, tmp_path: Path) -> None:
    """At the worst moment of a verdict, and elsewhere in the cycle, a part is chosen where it is seen."""
    assert opened(offline, tucked, tmp_path) < MOST
    expect(offline.locator("#name")).to_have_text("Foil tucker")
    failing = offline.locator("#verdicts .fails")
    expect(failing).to_have_count(2)
    failing.first.click()
    v = next(v for v in tucked.verdicts.values() if v.holds is False)
    assert v.time is not None
    expect(offline.locator("#moment")).to_contain_text(f"{v.time:.4f} s of")
    for _ in range(6):
        offline.keyboard.press("Shift+ArrowLeft")
    frame = round(v.time / tucked.moved.motion.duration * 360 - 60)
    box = offline.locator("#stage").bounding_box()
    assert box is not None
    m = tucked.mechanism
    shown = {i: m.part_pose(i, tucked.moved.motion.pose) for i in tucked.document.placed}
    at_start = np.concatenate(
        [poses.place(p[0], b.vertices) for i, p in shown.items() for b in tucked.solids[i].bodies.values()]
    )
    low, high = at_start.min(axis=0), at_start.max(axis=0)
    scale = 1.25 / (np.linalg.norm(high - low) / 2) * box["height"] / 2
    axes = Eye((np.cos(0.53) * np.sin(-0.63), -np.cos(0.53) * np.cos(-0.63), np.sin(0.53))).axes
    there = {
        i: np.concatenate([poses.place(p[frame], b.vertices)[b.triangles] for b in tucked.solids[i].bodies.values()])
        for i, p in shown.items()
    }
    rng, met = np.random.default_rng(3), set()
    for _ in range(30):
        x, y = rng.uniform(-0.45, 0.45, 2) * [box["width"], box["height"]] * [0.7, 1]
        ray = (low + high) / 2 + axes[0] * x / scale + axes[1] * y / scale + axes[2]
        near = {i: nearest(ray, -axes[2], corners) for i, corners in there.items()}
        first, second = sorted(near.values())[:2]
        if second - first < 1e-3 and np.isfinite(first):
            continue  # two parts as far off as one another
        part = min(near, key=lambda i: near[i])
        wanted = tucked.document.placed[part].name if np.isfinite(first) else "Parts"
        offline.mouse.click(box["x"] + box["width"] / 2 + x, box["y"] + box["height"] / 2 - y)
        expect(offline.locator("#part-name")).to_have_text(wanted)
        met.add(wanted)
    assert len(met) >= 4


def nearest(origin: Array, way: Array, corners: Array) -> float:
    """How far along a ray the first of triangles (m, 3, 3) lies; inf where none does."""
    a, u, v = corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    h = np.cross(way, v)
    det = (u * h).sum(axis=1)
    det[np.abs(det) < 1e-18] = np.nan
    s = origin - a
    x = (s * h).sum(axis=1) / det
    q = np.cross(s, u)
    y = q @ way / det
    t = (v * q).sum(axis=1) / det
    hit = (x >= 0) & (y >= 0) & (x + y <= 1) & (t > 0)
    return float(t[hit].min()) if hit.any() else np.inf


def test_it_plays_steps_cuts_and_hides(offline: Page, tucked: Evaluation, tmp_path: Path) -> None:
    opened(offline, tucked, tmp_path)
    moment = offline.locator("#moment")
    expect(moment).to_contain_text("0.0000 s of 1.5 s")
    offline.keyboard.press("ArrowRight")
    expect(moment).to_contain_text("0.0042 s")  # a frame of 360 in 1.5 s
    offline.keyboard.press("Space")
    expect(offline.locator("#play")).to_have_text("Stop")
    expect(moment).not_to_contain_text("0.0042 s")
    offline.keyboard.press("Space")
    whole = offline.evaluate(PICTURE)
    offline.locator("#axis").select_option("2")
    expect(offline.locator("#cut-at")).to_contain_text("z = ")
    offline.locator("#cut").press("Home")
    least = offline.locator("#cut-at").inner_text()
    assert least.endswith(" mm")
    assert offline.evaluate(PICTURE) < 0.5 * whole  # nothing is left below
    offline.locator("#axis").select_option("")
    plate = offline.get_by_label("Show Plate", exact=True)
    plate.uncheck()
    assert offline.evaluate(PICTURE) != whole
    offline.get_by_role("button", name="Rocker and finger", exact=True).click()
    offline.get_by_role("button", name="Show only this").click()
    expect(offline.get_by_label("Show Coupler", exact=True)).not_to_be_checked()
    offline.keyboard.press("a")
    expect(plate).to_be_checked()
    lane = offline.locator("#lanes svg").first
    box = lane.bounding_box()
    assert box is not None
    offline.mouse.click(box["x"] + box["width"] / 2, box["y"] + 10)
    expect(moment).to_contain_text("0.75")
    with offline.expect_download() as download:
        offline.get_by_role("button", name="Picture").click()
    assert Path(download.value.path()).read_bytes().startswith(b"\x89PNG")


@pytest.mark.parametrize("size", [(390, 800), (1000, 720)])
def test_it_fits_a_phone_and_axe_finds_nothing(
    offline: Page, tucked: Evaluation, tmp_path: Path, size: tuple[int, int]
) -> None:
    offline.set_viewport_size({"width": size[0], "height": size[1]})
    opened(offline, tucked, tmp_path)
    assert offline.evaluate("() => document.documentElement.scrollWidth") <= size[0]
    assert findings(offline) == []


def test_hostile_names_are_shown_as_they_are(offline: Page, evaluator: Evaluator, tmp_path: Path) -> None:
    name = "</script><script>alert(1)</script>[[SCRIPT]]<img src=x onerror=alert(2)>"
    e = evaluator.evaluate(hostile(name).document)
    opened(offline, e, tmp_path)
    expect(offline.locator("#name")).to_have_text(e.document.name)
    expect(offline.locator("#parts button")).to_have_text(e.document.name)
    assert offline.title() == e.document.name
    expect(offline.locator("#moment")).to_have_text("Nothing moves.")
