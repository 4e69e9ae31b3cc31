"""A load is put on a wheel, weight is switched on, and what the drive has to bring is required: all by hand."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import evaluated, revision, shelve
from tests.conftest import Server
from tests.mechanisms import gear_train

pytestmark = [pytest.mark.browser, pytest.mark.xdist_group("forces")]


def test_a_torque_is_put_on_a_wheel_and_the_motor_held_to_a_limit(page: Page, server: Server) -> None:
    shelve(page, server, gear_train())
    number = revision(page)
    page.keyboard.press("j")
    page.locator("#join-a").select_option("plate/two")
    page.locator("#join-b").select_option("wheel/axis")
    expect(page.locator(".candidates button").first).to_be_visible()
    page.get_by_role("button", name=re.compile(r"^and \d+ more")).click()
    page.locator('[data-candidate="torque"]').click()
    page.get_by_role("button", name="Join as shown").click()
    evaluated(page, number + 1)
    page.keyboard.press("Escape")
    load = page.locator('.list [data-path^="pairs."]', has_text="torque")
    load.click()
    torque = page.locator('.fields [data-path$=".torque"]')
    torque.fill("3 N m")  # as it is shown
    torque.press("Enter")
    evaluated(page, number + 2)
    marks = page.evaluate(
        "() => document.querySelector('.stage-canvas').stage.loads.all.map((m) => [m.turns, m.mark.visible])"
    )
    assert marks == [[True, True]]
    page.locator(".rail button", has_text="Drive").click()
    page.locator('.list [data-path="cycle"]').click()
    page.locator('[id="c-cycle.weight"]').select_option(label="against y")
    evaluated(page, number + 3)
    page.locator('.list [data-path="drivers.motor"]').click()
    page.locator("#ask-of-it").select_option(label="Effort of a drive")
    page.locator("#req-at_most").fill("0.9 N m")
    page.locator("form.pane:visible button[type=submit]").click()
    evaluated(page, number + 4)
    tile = page.locator(".strip button", has_text="Effort of a drive")
    expect(tile).to_contain_text("1000 N mm")
    expect(tile).to_contain_text("≤ 900 N mm")
    expect(page.locator(".sum strong")).to_have_text("1 of 1 fail")
