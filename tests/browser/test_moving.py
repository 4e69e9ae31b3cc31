"""Moving and turning a placed part on the page: by fields, by arrow and ring, to a place pointed at."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import document, scene, shelve, still, turn_of
from tests.browser.conftest import evaluated
from tests.conftest import Server
from uhrwerk import Block, Draft, FramePlate
from uhrwerk.core.document import Document

pytestmark = [pytest.mark.browser, pytest.mark.timeout(300), pytest.mark.xdist_group("moving")]


def cornered() -> Document:
    d = Draft("Cornered")
    plate = d.part("Plate", "steel", FramePlate(length="100 mm", width="60 mm", thickness="10 mm"))
    block = d.part(
        "Block", "brass", Block(length="30 mm", width="20 mm", height="12 mm"), x="50 mm", y="30 mm", z="10 mm"
    )
    d.part("Loose", "brass", Block(length="10 mm", width="10 mm", height="10 mm"), x="50 mm", y="-40 mm")
    d.flush("On it", plate["top"], block["bottom"])
    d.flush("Right", plate["right"], block["right"], side="same")
    d.flush("Back", plate["back"], block["back"], side="same")
    return d.document


def chosen(page: Page, server: Server, placed: str) -> None:
    shelve(page, server, cornered())
    page.locator(".rail button", has_text="Parts").click()
    page.locator(f'.list [data-path="placed.{placed}"]').click()
    page.get_by_role("button", name="Move or turn…").click()


def pull(page: Page, one: list[float], other: list[float]) -> None:
    page.mouse.move(*one)
    page.mouse.down()
    page.mouse.move(*other, steps=5)
    page.mouse.up()


def test_a_part_held_by_three_faces_is_turned_by_half_in_three_actions(page: Page, server: Server) -> None:
    chosen(page, server, "block")
    before = scene(page)["block"]["pose"]
    page.get_by_role("button", name="½ turn z").click()
    expect(page.locator(".move-pane .preview-words")).to_contain_text(
        "Right: opposite directions; Back: opposite directions"
    )
    page.get_by_role("button", name="Apply", exact=True).click()
    evaluated(page, 2)
    after = scene(page)["block"]["pose"]
    assert (turn_of(after) * turn_of(before).inv()).magnitude() == pytest.approx(np.pi, abs=1e-9)
    assert [r["side"] for r in document(page)["relations"].values()] == ["opposite"] * 3
    page.keyboard.press("Control+z")
    evaluated(page, 1)
    np.testing.assert_allclose(scene(page)["block"]["pose"], before, atol=1e-9)


def test_what_holds_it_is_named_and_nothing_moves(page: Page, server: Server) -> None:
    chosen(page, server, "block")
    before = scene(page)["block"]["pose"]
    page.locator("#turn-z").fill("20 deg")
    page.locator("#turn-z").press("Tab")
    expect(page.locator(".move-pane .field-error")).to_be_visible()
    expect(page.get_by_role("button", name="Apply", exact=True)).to_be_disabled()
    page.locator("#turn-z").fill("rubbish")
    page.locator("#turn-z").press("Tab")
    expect(page.locator(".move-pane .field-error")).to_contain_text("rubbish")
    page.keyboard.press("Escape")
    np.testing.assert_allclose(scene(page)["block"]["pose"], before, atol=1e-9)


def test_arrows_and_rings_are_pulled_and_typed_over(page: Page, server: Server) -> None:
    chosen(page, server, "loose")
    still(page)
    before = np.array(scene(page)["loose"]["pose"])
    at = page.evaluate(
        """() => { const g = document.querySelector('.stage-canvas').stage.grips, box = g.stage.canvas.getBoundingClientRect();
        const on = (way) => { const p = g.stage.camera.project(way); return [box.x + p.x, box.y + p.y]; }, m = g.at.toArray(), r = g.stage.reach;
        const arrow = (k) => on([m[0] + k * r, m[1], m[2]]), q = 0.1 * r * Math.SQRT1_2;
        return { from: arrow(0.16), to: arrow(0.36), knob: on([m[0] + q, m[1] + q, m[2]]), turned: on([m[0] - q, m[1] + q, m[2]]) }; }"""
    )
    pull(page, at["knob"], at["turned"])
    expect(page.locator("#turn-z")).to_have_value("90 deg")
    pull(page, at["from"], at["to"])
    expect(page.locator("#move-x")).to_have_value(re.compile(r"^[1-9][0-9.]* mm$"))
    page.locator("#move-x").fill("12 mm")
    page.locator("#move-x").press("Enter")
    evaluated(page, 2)
    after = np.array(scene(page)["loose"]["pose"])
    np.testing.assert_allclose(after[:2] - before[:2], [0.012, 0], atol=1e-9)
    assert (turn_of(after) * turn_of(before).inv()).as_rotvec() == pytest.approx([0, 0, np.pi / 2], abs=1e-9)


def test_a_loose_part_is_brought_to_a_face_pointed_at(page: Page, server: Server) -> None:
    chosen(page, server, "loose")
    page.get_by_role("button", name="Bring to a place pointed at").click()
    still(page)
    x, y = page.evaluate(
        """() => { const s = document.querySelector('.stage-canvas').stage, box = s.canvas.getBoundingClientRect();
        const p = s.camera.project([0.02, 0.02, 0]); return [box.x + p.x, box.y + p.y]; }"""
    )
    page.mouse.move(x, y)
    page.mouse.click(x, y)
    expect(page.locator(".move-pane .preview-words")).to_be_visible()
    page.keyboard.press("Enter")
    evaluated(page, 2)
    after = scene(page)["loose"]["pose"]
    assert after[:2] == pytest.approx([0.02, 0.02], abs=1e-3)
    assert after[2] == pytest.approx(0, abs=1e-6)  # the plate's top
