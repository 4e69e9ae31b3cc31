"""What a person does on the page, with the measuring beside it: joining two datums, dragging a part on the stage.

Every join is measured: what it moves turns no more and shifts no more than the joint asks, and nothing else moves.
"""

from __future__ import annotations

import json
import re
from typing import Any

import numpy as np
from playwright.sync_api import Page, expect
from scipy.spatial.transform import Rotation

from tests.browser.conftest import evaluated
from tests.conftest import Server
from uhrwerk.core.document import Document, write

SLACK = 2e-6  # m and rad: places are kept to a nanometre, shown in single precision


def shelve(page: Page, server: Server, document: Document) -> None:
    """Puts a document on the shelf by the call behind the page's own button, and opens it."""
    body = {"name": document.name, "document": json.loads(write(document))}
    answer = server.call("POST", "/api/mechanisms", json=body)
    assert answer.is_success, answer.text
    page.goto(f"{server.url}/mechanisms/{answer.json()['id']}")
    evaluated(page)


def revision(page: Page) -> int:
    return int(page.locator(".top .num").inner_text().split()[1])


def drafts(page: Page) -> int:
    """How often a draft was looked at."""
    return int(page.locator(".workspace").get_attribute("data-drafts") or 0)


def drafted(page: Page, before: int) -> None:
    """Waits until a draft is shown with what was just changed."""
    page.wait_for_selector(f'.workspace[data-drafts="{before + 1}"]', state="attached")


def choose_step(page: Page, kind: str) -> None:
    """A kind of build step, from the list with its pictures."""
    page.locator("#step-new").click()
    page.locator(f'#steps-list [data-kind="{kind}"]').click()


def choose_requirement(page: Page, kind: str) -> None:
    page.locator(f'#requirements-list [data-kind="{kind}"]').click()


def applied(page: Page) -> None:
    """Applies the draft that is open, as one revision."""
    before = revision(page)
    page.get_by_role("region", name="Draft").get_by_role("button", name="Apply").click()
    evaluated(page, before + 1)


def document(page: Page) -> dict[str, Any]:
    """The document of the mechanism that the page shows; asked for by the page itself, which opens a closed connection again."""
    where = page.url.replace("/mechanisms/", "/api/mechanisms/")
    return page.evaluate("async (url) => (await fetch(url)).json()", f"{where}/document")


def scene(page: Page) -> dict[str, Any]:
    """Every placed part's pose on the stage, with its datums."""
    return page.evaluate(
        """() => { const stage = document.querySelector('.stage-canvas').stage, out = {};
            for (const [id, p] of stage.parts) out[id] = { name: p.info.name, pose: stage.poseOf(id), datums: p.info.datums, teeth: Number.parseInt(p.info.hint) || 0 };
            return out; }"""
    )


def turn_of(pose: list[float]) -> Rotation:
    return Rotation.from_quat([*pose[4:], pose[3]])


def datum(told: dict[str, Any], end: str) -> tuple[np.ndarray, np.ndarray, dict[str, Any]]:
    part, name = end.split("/")
    d = next(x for x in told[part]["datums"] if x["id"] == name)
    turn = turn_of(told[part]["pose"])
    return np.array(told[part]["pose"][:3]) + turn.apply(d["origin"]), turn.apply(d["z"]), d


def join(
    page: Page, a: str, b: str, candidate: str = "revolute", flip: bool = False, closing: bool = False, **asked: str
) -> None:
    """Joins two datums from the list and accepts with the button; `closing`: both parts already hang together."""
    page.locator("#join-a").select_option(a)
    page.locator("#join-b").select_option(b)
    expect(page.locator(".candidates button").first).to_be_visible()
    chosen = page.locator(f'[data-candidate="{candidate}"]')
    if not chosen.is_visible():
        page.get_by_role("button", name=re.compile(r"^and \d+ more")).click()
    before, number = scene_at_home(page), revision(page)
    chosen.click()
    for field, text in asked.items():
        page.locator(f'[data-ask="{field}"]').fill(text)
        page.locator(f'[data-ask="{field}"]').press("Tab")
    if flip:
        page.get_by_label("Flip").check()
    page.locator(".preview-words:visible").first.wait_for()
    page.get_by_role("button", name="Join as shown").click()
    evaluated(page, number + 1)
    check_moves(before, scene(page), a, b, candidate, flip, closing, asked)


def scene_at_home(page: Page) -> dict[str, Any]:
    """The scene as the current revision has it, whatever a preview shows."""
    told = scene(page)
    poses = page.evaluate(
        """async () => { const id = document.body.dataset.mechanism, n = document.querySelector('.workspace').dataset.evaluated;
            const b = await (await fetch(`/api/mechanisms/${id}/revisions/${n}/poses`)).arrayBuffer();
            return [...new Float32Array(b, 8)]; }"""
    )
    for at, part in enumerate(told):
        told[part]["pose"] = poses[7 * at : 7 * at + 7]
    return told


def check_moves(
    before: Any, after: Any, a: str, b: str, kind: str, flip: bool, closing: bool, asked: dict[str, str]
) -> None:
    (oa, za, da), (ob, zb, db) = datum(before, a), datum(before, b)
    faces = da["kind"] == db["kind"] == "plane"
    turned: dict[str, float] = {}
    for part in before:
        step = turn_of(after[part]["pose"]) * turn_of(before[part]["pose"]).inv()
        way = np.linalg.norm(np.subtract(after[part]["pose"][:3], before[part]["pose"][:3]))
        if step.magnitude() > SLACK or way > SLACK:
            turned[part] = step.magnitude()
    if kind in ("gear", "rack"):
        teeth = [before[end.split("/")[0]]["teeth"] for end in (a, b)]
        assert all(n > 0 for n in teeth), teeth
        for part, angle in turned.items():  # either gear turns by half of its own pitch, or its partner by half of its
            assert angle <= np.pi / min(teeth) + SLACK, (part, angle, teeth)
        return
    offset = float(asked.get("offset", asked.get("distance", "0 mm")).split()[0]) / 1e3
    opposite = flip != (faces and kind in ("rigid", "revolute", "prismatic", "planar"))
    if kind in ("flush", "concentric", "parallel", "distance"):
        opposite = flip != (za @ zb < 0)
    want = -za if opposite else za
    angle = float(np.arccos(np.clip(want @ zb, -1, 1)))
    gap = ob - oa
    across = np.linalg.norm(gap - (gap @ za) * za)
    shift = {
        "concentric": across, "cylindrical": across, "parallel": 0.0, "flush": abs(gap @ za - offset), "planar": abs(gap @ za - offset),
        "slot": np.linalg.norm(gap),
    }.get(kind, np.linalg.norm(gap - offset * za))  # fmt: skip
    for part, end in ((a.split("/")[0], a), (b.split("/")[0], b)):
        moved = np.linalg.norm(datum(after, end)[0] - datum(before, end)[0])
        assert moved <= (3 if closing else 1) * shift + SLACK, (part, moved, shift)
    if not closing:
        assert len({a.split("/")[0], b.split("/")[0]} & set(turned)) <= 1, turned  # one of the two stays where it is
        if kind not in ("rigid", "prismatic", "slot"):  # these ask for a turn about the axis too
            assert all(t <= angle + SLACK for t in turned.values()), (turned, angle)


def on_screen(page: Page, point: Any) -> tuple[float, float]:
    """Where a point of the world (m) is on the screen."""
    box = page.locator(".stage-canvas").bounding_box()
    assert box is not None
    at = page.evaluate("(p) => document.querySelector('.stage-canvas').stage.project(p)", [float(v) for v in point])
    return box["x"] + at["x"], box["y"] + at["y"]


def drag(page: Page, path: list[Any]) -> None:
    """Takes hold of what lies at the first point of a path on the stage and pulls it along; each step is answered first."""
    page.mouse.move(*on_screen(page, path[0]))
    page.mouse.down()
    x, y = on_screen(page, path[0])
    page.mouse.move(x + 5, y)
    page.wait_for_function("() => document.querySelector('.stage-canvas').dataset.solved")
    for point in path[1:]:
        seen = solved(page)
        page.mouse.move(*on_screen(page, point))
        page.wait_for_function("(n) => Number(document.querySelector('.stage-canvas').dataset.solved) > n", arg=seen)
    for _ in range(50):  # an answer seen may be that to the step before: the last one is there when no more come
        seen = solved(page)
        page.wait_for_timeout(400)
        if solved(page) == seen:
            return


def solved(page: Page) -> int:
    return int(page.locator(".stage-canvas").get_attribute("data-solved") or 0)


def step(page: Page, name: str) -> None:
    page.locator(".rail button", has_text=name).click()


def still(page: Page) -> None:
    """Waits until the view has stopped turning: the camera stands for some frames."""
    page.evaluate(
        """() => new Promise((done) => {
          let frames = 0, before = "";
          const look = () => {
            const now = [...document.querySelector(".stage-canvas").stage.camera.eye.matrixWorld.elements].join();
            frames = now === before ? frames + 1 : 0;
            before = now;
            if (frames > 4) done(); else requestAnimationFrame(look);
          };
          look();
        })"""
    )
