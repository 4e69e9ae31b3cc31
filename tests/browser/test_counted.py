"""Tasks done from the empty shelf as a new user would, every action counted: a click, a drag, a key, a filled field is one."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.by_hand import drafted, drafts, evaluated, revision, scene, turn_of
from tests.conftest import Server

pytestmark = [pytest.mark.browser, pytest.mark.timeout(300), pytest.mark.xdist_group("counted")]


class Hand:
    """A person at the page who counts; after each action the page is waited for."""

    def __init__(self, page: Page, server: Server) -> None:
        self.page, self.count = page, 0
        page.goto(server.url)

    def click(self, at: str | Locator) -> None:
        (self.page.locator(at).first if isinstance(at, str) else at).click()
        self.count += 1

    def button(self, name: str) -> None:
        self.click(self.page.get_by_role("button", name=name, exact=True))

    def fill(self, path: str, text: str) -> None:
        """A field by its path's end: its text is replaced and left with Enter."""
        control = self.page.locator(f'[data-path$="{path}"]:visible').last
        if control.evaluate("e => e.tagName") == "SELECT":
            control.select_option(text)
        else:
            control.fill(text)
            control.press("Tab")
        self.count += 1

    def key(self, key: str) -> None:
        self.page.keyboard.press(key)
        self.count += 1

    def made(self, act: Any) -> None:
        """An action that makes a revision."""
        before = revision(self.page)
        act()
        evaluated(self.page, before + 1)

    def look(self, act: Any) -> None:
        """An action that changes the draft."""
        before = drafts(self.page)
        act()
        drafted(self.page, before)

    def face(self, placed: str, datum: str) -> None:
        """Points at a face on the stage: a click on its middle."""
        at = self.page.evaluate(
            """([placed, datum]) => { const stage = document.querySelector('.stage-canvas').stage, p = stage.parts.get(placed);
                const d = p.info.datums.find((x) => x.id === datum), at = stage.project(stage.world(stage.poseOf(placed), d.origin));
                const box = stage.canvas.getBoundingClientRect(); return [box.x + at.x, box.y + at.y]; }""",
            [placed, datum],
        )
        self.page.mouse.move(*at)
        self.page.mouse.click(*at)
        self.count += 1
        expect(self.page.locator("#grow-at")).to_have_value(f"{placed}/{datum}")


def new(hand: Hand) -> None:
    hand.page.locator("#new-name").fill("By hand")
    hand.page.locator("#new-name").press("Enter")
    hand.count += 1
    evaluated(hand.page, 1)


def add(hand: Hand, kind: str, **sizes: str) -> None:
    hand.button("Add from the catalogue")
    hand.click(f'[data-element="{kind}"]')
    for name, text in sizes.items():
        hand.fill(name, text)
    hand.made(lambda: hand.button("Add"))


def test_three_solids_joined_at_the_centres_of_their_faces(page: Page, server: Server) -> None:
    """Aim: 12."""
    hand = Hand(page, server)
    new(hand)
    add(hand, "block")
    for placed, datum, offer in (
        ("block", "top", "block: A block on it"),
        ("block_2", "top", "tube: A cylinder on it"),
    ):
        hand.face(placed, datum)
        hand.click(f'[data-sprout="{offer}"]')
        expect(page.get_by_text("computing…")).to_be_hidden()
        hand.made(lambda: hand.key("Enter"))
    told = scene(page)
    low = told["cylinder"]["pose"]
    np.testing.assert_allclose(low[:3], [0, 0, 0.03], atol=1e-6)
    np.testing.assert_allclose(turn_of(low).apply([0, 0, 1]), [0, 0, 1], atol=1e-6)
    assert hand.count <= 12, hand.count


def test_a_tray_with_a_lid_that_fits(page: Page, server: Server) -> None:
    """A tray of 90 x 60 x 30 mm; a lid on its rim that reaches in with 0.2 mm of play all round; nothing overlaps. Aim: 35."""
    hand = Hand(page, server)
    new(hand)
    add(hand, "housing", length="90 mm", width="60 mm", height="30 mm", wall="2 mm", floor="2 mm")
    add(hand, "blank")
    for outline in ({"height": "3 mm"}, {"line": "inner", "gap": "-0.2 mm", "height": "4 mm"}):
        hand.click("#step-new")
        hand.look(lambda: hand.click('#steps-list [data-kind="extrude"]'))
        hand.look(lambda: hand.fill(".outline", "edge_of_face"))
        hand.look(lambda: hand.fill(".outline.part", "housing"))
        hand.look(lambda: hand.fill(".outline.face", "element_2.end"))
        for field in ("line", "gap"):
            if field in outline:
                hand.look(lambda f=field, o=outline: hand.fill(f".outline.{f}", o[f]))
        hand.look(lambda o=outline: hand.fill(".length", o["height"]))
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    hand.made(lambda: hand.key("Control+Enter"))
    hand.key("j")
    faces = {d["id"]: d for d in scene(page)["blank_part"]["datums"] if d["kind"] == "plane"}
    rim = next(i for i, d in faces.items() if i == "extrude.end")
    page.locator("#join-a").select_option("housing/top")
    page.locator("#join-b").select_option(f"blank_part/{rim}")
    hand.count += 2
    expect(page.get_by_role("button", name="Join as shown")).to_be_enabled()
    hand.made(lambda: hand.button("Join as shown"))
    hand.key("Escape")
    hand.click(".tile.add")
    hand.click('#requirements-list [data-kind="no_interference"]')
    hand.made(lambda: hand.button("Add"))
    expect(page.locator(".sum strong")).to_contain_text("hold")
    assert hand.count <= 35, hand.count
