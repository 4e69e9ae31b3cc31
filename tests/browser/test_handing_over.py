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
    evaluated(page)
    page.get_by_label("Steps").get_by_role("button", name="Parts").click()
    page.locator(".scheme .list button", has_text="Rocker and finger").first.click()
    heads = {'[data-drawing=".pdf"]': b"%PDF", '[data-drawing=".dxf"]': b"  0\n", '[href$="report.pdf"]': b"%PDF", '[href$=".html"]': b"<!DOCTYPE html>"}  # fmt: skip
    for link, head in heads.items():
        page.locator(".files summary").click()
        with page.expect_download() as download:
            page.locator(f".files {link}").first.click()
        assert Path(download.value.path()).read_bytes().startswith(head)
    page.locator(".files summary").click()
    page.locator('.files [href$="/report"]').click()
    expect(page.locator(".report h1")).to_have_text("Foil tucker")
    expect(page.locator(".report-summary")).to_have_text("2 of 4 requirements fail.")
    expect(page.locator(".report figure svg")).not_to_have_count(0)
    assert findings(page) == []


def test_an_export_that_takes_longer_is_shown_stopped_and_refused_with_its_reason(
    page: Page, demo_server: Server
) -> None:
    page.goto(demo_server.page)
    evaluated(page)

    page.route("**/drawings/*.pdf?**", lambda route: None)  # an answer that does not come
    running = page.locator(".exporting")
    page.locator(".files summary").click()
    page.locator('[data-assembly=".pdf"]').click()
    expect(running).to_contain_text("Computing")
    expect(running.get_by_role("status")).to_contain_text(".pdf")
    running.get_by_role("button", name="Stop").click()
    expect(running).to_be_hidden()
    expect(page.locator(".notice", has_text="answer")).to_be_hidden()
    page.unroute("**/drawings/*.pdf?**")

    waiting = page.context.new_page()  # the report: shown as under way, then why there is none
    waiting.route("**/report/page", lambda route: None)
    waiting.goto(f"{page.url.split('?')[0].split('#')[0]}/report")
    expect(waiting.get_by_role("status")).to_have_text("Writing the report of Foil tucker")
    waiting.unroute("**/report/page")
    waiting.route("**/report/page", lambda r: r.fulfill(status=422, json={"error": "It has no parts."}))
    waiting.reload()
    expect(waiting.get_by_role("status")).to_have_text("The report cannot be written. It has no parts.")
    waiting.close()

    page.route(
        "**/drawings/*.dxf?**",
        lambda r: r.fulfill(status=422, json={"error": "The part is too large for a sheet at any scale"}),
    )
    page.locator(".files summary").click()
    page.locator('[data-assembly=".dxf"]').click()
    expect(page.get_by_role("alert").filter(has_text="too large for a sheet")).to_be_visible()
    expect(page.locator(".workspace")).to_be_visible()  # not a page with the answer
    page.locator(".files summary").click()
    with page.expect_download() as download:
        page.locator('[data-assembly=".svg"]').click()
    assert download.value.suggested_filename.endswith(".svg")
    assert b"<svg" in Path(download.value.path()).read_bytes()[:400]
    expect(running).to_be_hidden()


def test_a_section_lies_where_it_is_typed(page: Page, demo_server: Server) -> None:
    """In millimetres of the mechanism, by slider or by field; what is no length is said and changes nothing."""
    page.goto(demo_server.page)
    evaluated(page)
    page.get_by_label("Section square to").select_option("z")
    field = page.get_by_label("Position of the section")
    planes = "() => document.querySelector('.stage-canvas').stage.renderer.clippingPlanes.map((p) => [p.normal.z, p.constant])"
    field.fill("8.25")
    field.press("Enter")
    expect(field).to_have_value("8.25 mm")
    (plane,) = page.evaluate(planes)
    assert plane == pytest.approx([-1, 0.00825], abs=1e-9)
    field.fill("half an inch")
    field.press("Enter")
    expect(page.get_by_text("Type a length, such as 12.5 mm")).to_be_visible()
    assert page.evaluate(planes)[0] == pytest.approx([-1, 0.00825], abs=1e-9)
    page.get_by_label("Where the section lies").press("End")
    assert page.evaluate(planes)[0][1] > 0.0083
    page.get_by_text("Show all").click()
    assert page.evaluate(planes) == []


def test_escape_closes_the_menu_of_exports(page: Page, demo_server: Server) -> None:
    page.goto(demo_server.page)
    evaluated(page)
    menu = page.locator(".files")
    menu.locator("summary").click()
    expect(menu.get_by_role("link", name="Report .pdf")).to_be_visible()
    page.keyboard.press("Escape")
    expect(menu.get_by_role("link", name="Report .pdf")).to_be_hidden()
    expect(menu.locator("summary")).to_be_focused()
