"""A stranger's kinds (`tests/kinds/`) stand in the page as all others do."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import choose_requirement, evaluated
from tests.conftest import Server

pytestmark = [pytest.mark.browser, pytest.mark.timeout(400), pytest.mark.xdist_group("new_kinds")]


def test_the_page_offers_them(page: Page, tmp_path: Path) -> None:
    server = Server(tmp_path / "data", module="tests.kinds.serve")
    try:
        page.goto(server.url)
        names_file = {"name": "two.names", "mimeType": "text/plain", "buffer": b"One\nTwo"}
        page.locator("#open-file").set_input_files(names_file)  # type: ignore[arg-type]
        evaluated(page)
        page.get_by_role("button", name="Add from the catalogue").click()
        page.locator('[data-element="collet"]').click()
        page.locator('[data-path="bore"]').fill("12 mm")
        expect(
            page.locator(".element-form .field-error").filter(has_text="is as wide as the collet").first
        ).to_be_visible()
        page.locator('[data-path="bore"]').fill("7 mm")
        expect(page.locator(".derived")).to_contain_text("1.00 mm")
        page.get_by_role("button", name="Add", exact=True).click()
        evaluated(page, 2)
        page.locator(".rail button", has_text="Joints").click()
        page.get_by_role("button", name="Join from a list").click()
        page.locator("#join-a").select_option("one/axis")
        page.locator("#join-b").select_option("collet/axis")
        page.get_by_role("button", name=re.compile(r"^and \d+ more")).click()
        page.get_by_role("button", name="Turns as a turnstile").click()
        page.get_by_role("button", name="Join as shown").click()
        evaluated(page, 3)
        page.keyboard.press("Escape")
        page.locator(".rail button", has_text="Drive").click()
        page.get_by_role("button", name="Drive a joint").click()
        page.locator("#driver-kind").select_option("swaying")
        page.locator("#driver-most").fill("20 deg")
        page.get_by_role("button", name="Add drive").click()
        evaluated(page, 4)
        page.locator(".tile.add").click()
        choose_requirement(page, "highest")
        page.locator("#req-part").select_option(label="Collet")
        page.locator("#req-at_most").fill("2 mm")
        page.get_by_role("button", name="Add", exact=True).click()
        evaluated(page, 5)
        expect(page.locator(".sum strong")).to_have_text("1 of 1 fail")
        page.locator("details.files summary").click()
        expect(page.get_by_role("link", name="Names of the parts").first).to_be_visible()
    finally:
        server.stop()
