"""What leaves the page: a drawing of the selected part, the report and the motion to play, each in a few actions."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import evaluated
from tests.browser.test_workspace import findings
from tests.conftest import Server

pytestmark = pytest.mark.browser


def test_a_drawing_a_report_and_a_motion_from_the_page(page: Page, demo_server: Server) -> None:
    page.goto(demo_server.page)
    evaluated(page, 1)
    page.get_by_label("Steps").get_by_role("button", name="Parts").click()
    page.locator(".scheme .list button", has_text="Rocker and finger").first.click()
    page.locator(".files summary").click()
    heads = {'[data-drawing=".pdf"]': b"%PDF", '[data-drawing=".dxf"]': b"  0\n", '[href$="report.pdf"]': b"%PDF", '[href$=".html"]': b"<!DOCTYPE html>"}  # fmt: skip
    for link, head in heads.items():
        with page.expect_download() as download:
            page.locator(f".files {link}").first.click()
        assert Path(download.value.path()).read_bytes().startswith(head)
    page.locator('.files [href$="/report"]').click()
    expect(page.locator(".report h1")).to_have_text("Foil tucker")
    expect(page.locator(".report-summary")).to_have_text("2 of 4 requirements fail.")
    expect(page.locator(".report figure svg")).not_to_have_count(0)
    assert findings(page) == []
