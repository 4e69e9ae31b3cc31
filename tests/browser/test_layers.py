"""Layers for print, in the page: stepped by key, led to what is found, changed by a field, saved, exported."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import evaluated
from tests.browser.test_workspace import findings
from tests.conftest import Server
from uhrwerk.core.document import write
from uhrwerk.demo import shipped

pytestmark = pytest.mark.browser


def test_layers_from_the_bed_up(page: Page, server: Server) -> None:
    document = json.loads(write(shipped("planetary_sample")))
    document["requirements"] = {i: r for i, r in document["requirements"].items() if r["kind"] == "print_gap"}
    made = server.call("POST", "/api/mechanisms", json={"name": "x", "document": document}).json()
    page.goto(server.address(f"/mechanisms/{made['id']}/layers"))
    verdict = page.locator(".layers-verdict")
    expect(verdict).to_contain_text("Fails.")
    expect(verdict).to_contain_text("no whole layer of 0.20 mm")
    where = page.locator(".layers-where b")
    expect(where).to_have_text("2.90 mm")  # what fails first
    expect(page.locator('.layers-findings button[aria-pressed="true"]').first).to_contain_text("above Carrier")
    page.keyboard.press("ArrowUp")
    expect(where).to_have_text("3.10 mm")
    page.keyboard.press("Home")
    expect(where).to_have_text("0.10 mm")
    page.keyboard.press("PageUp")
    page.keyboard.press("PageUp")
    expect(where).to_have_text("4.10 mm")
    expect(page.locator(".layers-where")).to_contain_text("exact")
    expect(page.locator(".layers-part")).to_have_count(6)
    assert findings(page) == []

    page.get_by_label("Layer height").fill("0 mm")
    page.keyboard.press("Tab")
    expect(page.get_by_text("it must be greater than nothing")).to_be_visible()
    expect(where).to_have_text("4.10 mm")  # what was there stays
    page.get_by_label("Layer height").fill("0.1 mm")
    page.get_by_label("Least gap").fill("0.15 mm")
    page.keyboard.press("Tab")
    expect(verdict).to_contain_text("Holds.")
    page.get_by_role("button", name="Save to the requirement").click()
    expect(page.get_by_role("button", name="Save to the requirement")).to_be_hidden()
    page.get_by_label("Face on the bed").select_option(label="Ring: top")
    expect(page.get_by_role("button", name="Save to the requirement")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Export .3mf").click()
    assert Path(download.value.path()).read_bytes().startswith(b"PK")
    page.locator(".layers-part").first.click()
    evaluated(page)
    expect(page.locator(".title-input")).to_have_value("Ring")
    page.get_by_label("Verdicts").get_by_role("button", name="Nothing fuses").click()
    page.get_by_role("link", name="Layers for print", exact=True).click()
    expect(page.locator(".layers-verdict")).to_contain_text("Holds.")
