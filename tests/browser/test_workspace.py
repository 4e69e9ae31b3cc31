"""The demo's workspace: worst moment, selection both ways, two tabs, keys, accessibility of every page."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, Route, expect

from tests.browser.by_hand import choose_step, drafted, drafts, still
from tests.browser.conftest import evaluated
from tests.conftest import DEMO, Server

pytestmark = [pytest.mark.browser, pytest.mark.timeout(300), pytest.mark.xdist_group("workspace")]
AXE = (Path(__file__).parent / "vendor/axe.min.js").read_text(encoding="utf-8")


def findings(page: Page) -> list[str]:
    """All that axe-core finds on the page as it stands, its best practices and the size of targets (WCAG 2.2, 2.5.8) too. Points of an
    outline may lie nearer to one another than a target is wide: they lie where they are."""
    page.evaluate(AXE)  # through the debugging protocol, so that the page's policy stays as shipped
    tags = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
    found = page.evaluate("(tags) => axe.run(document, { runOnly: tags, resultTypes: ['violations'] })", tags)
    return [
        f"{v['id']}: {v['help']}: {n['target']} {n['failureSummary']}"
        for v in found["violations"]
        for n in v["nodes"]
        if "drawn-handle" not in n["html"]
    ]


def test_the_page_opens_on_the_failing_requirement(page: Page, demo_server: Server) -> None:
    assert demo_server.page.split("?")[0].endswith("/mechanisms/foil_tucker")
    page.goto(demo_server.page)
    evaluated(page)
    expect(page.locator(".sum strong")).to_have_text("2 of 4 fail")
    expect(page.locator(".tile").first).to_contain_text("0.42 mm deep")
    expect(page.locator(".flag")).to_contain_text("0.42 mm deep at 333.9°")
    expect(page.locator(".lanes text.fails")).to_have_count(2)


def test_the_picture_is_drawn(page: Page, demo_server: Server) -> None:
    page.goto(demo_server.page)
    evaluated(page)
    page.wait_for_timeout(800)
    colours = page.evaluate(
        """() => { const c = document.querySelector('.stage-canvas'), s = document.createElement('canvas'); s.width = 160; s.height = 100;
        const g = s.getContext('2d'); g.drawImage(c, 0, 0, 160, 100); const d = g.getImageData(0, 0, 160, 100).data, seen = new Set();
        for (let i = 0; i < d.length; i += 4) seen.add((d[i] >> 4) * 256 + (d[i + 1] >> 4) * 16 + (d[i + 2] >> 4)); return seen.size; }"""
    )
    assert colours > 25


def test_selecting_in_scheme_list_and_stage(page: Page, demo_server: Server) -> None:
    page.goto(demo_server.page)
    evaluated(page)
    page.locator(".scheme-drawing [data-path='joints.rocker_on_coupler']").click()
    expect(page.locator(".title-input")).to_have_value("Rocker on coupler")
    page.get_by_label("View from").select_option("top")
    still(page)
    box = page.locator(".stage-canvas").bounding_box()
    assert box is not None
    at = page.evaluate("() => document.querySelector('.stage-canvas').stage.project([0.098, 0.08, 0.008])")
    page.mouse.move(box["x"] + at["x"], box["y"] + at["y"])
    page.mouse.click(box["x"] + at["x"], box["y"] + at["y"])
    expect(page.locator(".title-input")).to_have_value("Wheel with crank pin")
    expect(page.locator(".list .sel")).to_contain_text("Wheel with crank pin")


def test_keys(page: Page, demo_server: Server) -> None:
    page.goto(demo_server.page)
    evaluated(page)
    moment = page.locator(".cycle-head > .num")
    page.locator(".stage-canvas").focus()
    before = moment.inner_text()
    page.keyboard.press(".")
    expect(moment).not_to_have_text(before)
    page.keyboard.press(",")
    expect(moment).to_have_text(before)
    page.keyboard.press(" ")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press(" ")
    page.keyboard.press("w")
    expect(moment).to_contain_text("333.9°")
    page.keyboard.press("j")
    expect(page.get_by_role("heading", name="Join two datums")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Join two datums")).to_be_hidden()
    for _ in range(3):
        page.keyboard.press("Tab")
    assert page.evaluate("() => getComputedStyle(document.activeElement).outlineStyle") != "none"


def test_two_tabs_do_not_overwrite_each_other(browser: Browser, server: Server) -> None:
    made = server.call("POST", "/api/mechanisms", json={"name": "Shared"}).json()
    server.call(
        "POST",
        "/api/mechanisms/shared/commands",
        json={"revision": 1, "command": {"kind": "set_parameter", "name": "w", "formula": "3 mm"}},
    )
    assert made["id"] == "shared"
    tabs = [browser.new_page() for _ in range(2)]
    for tab in tabs:
        tab.goto(server.address("/mechanisms/shared"))
        evaluated(tab)
        tab.locator('[data-path="parameters.w"]').click()
    field = '[data-path="parameters.w.formula"]'
    tabs[0].locator(field).fill("4 mm")
    tabs[0].locator(field).press("Enter")
    evaluated(tabs[0], 3)
    tabs[1].locator(field).fill("5 mm")
    tabs[1].locator(field).press("Enter")
    expect(tabs[1].locator(".notice")).to_contain_text("changed elsewhere")
    expect(tabs[1].locator(field)).to_have_value("5 mm")
    tabs[1].get_by_role("button", name="Load revision 3").click()
    evaluated(tabs[1], 3)
    assert server.call("GET", "/api/mechanisms/shared/document").json()["parameters"]["w"]["formula"] == "4 mm"
    for tab in tabs:
        tab.close()


def test_a_tab_whose_key_is_of_an_earlier_start_goes_on_with_the_new_one(browser: Browser, server: Server) -> None:
    server.call("POST", "/api/mechanisms", json={"name": "Locked"})
    command = {"kind": "set_parameter", "name": "w", "formula": "3 mm"}
    server.call("POST", "/api/mechanisms/locked/commands", json={"revision": 1, "command": command})
    window = browser.new_context()
    page, other = window.new_page(), window.new_page()
    page.goto(server.address("/mechanisms/locked"))
    assert "key" not in page.url
    evaluated(page)
    page.locator('[data-path="parameters.w"]').click()
    window.clear_cookies()
    other.goto(f"{server.url}/mechanisms/locked")
    expect(other.get_by_role("heading", name="The key is missing")).to_be_visible()
    field = page.locator('[data-path="parameters.w.formula"]')
    field.fill("7 mm")
    field.press("Enter")
    expect(page.locator(".fields .field-error:visible")).to_contain_text("open the address that Uhrwerk printed")
    expect(field).to_have_value("7 mm")
    other.goto(server.address("/mechanisms/locked"))
    field.press("Enter")
    evaluated(page, 3)
    assert server.call("GET", "/api/mechanisms/locked/document").json()["parameters"]["w"]["formula"] == "7 mm"
    window.close()


def test_a_server_that_is_gone_is_told_and_the_text_is_kept(browser: Browser, own_server: Server) -> None:
    own_server.call("POST", "/api/mechanisms", json={"name": "Gone"})
    own_server.call(
        "POST",
        "/api/mechanisms/gone/commands",
        json={"revision": 1, "command": {"kind": "set_parameter", "name": "w", "formula": "3 mm"}},
    )
    page = browser.new_page()
    page.goto(own_server.address("/mechanisms/gone"))
    evaluated(page)
    page.locator('[data-path="parameters.w"]').click()
    own_server.kill()
    field = page.locator('[data-path="parameters.w.formula"]')
    field.fill("7 mm")
    field.press("Enter")
    expect(page.locator(".fields .field-error:visible")).to_contain_text("The server does not answer")
    expect(field).to_have_value("7 mm")
    page.close()


@pytest.mark.parametrize("path", ["/", "/help", "/api", "/mechanisms/none"])
def test_axe_finds_nothing(page: Page, demo_server: Server, path: str) -> None:
    page.goto(demo_server.url + path)
    page.wait_for_timeout(1200)
    assert findings(page) == []


def test_axe_finds_nothing_in_any_state_of_the_workspace(page: Page, demo_server: Server) -> None:
    page.goto(demo_server.page)
    evaluated(page)
    for step in ("Parts", "Joints", "Drive", "Checks", "Balance", "Revisions"):
        page.locator(".rail button", has_text=step).click()
        if page.locator(".scheme .list button").count():
            page.locator(".scheme .list button").first.click()
        assert findings(page) == [], step
    page.keyboard.press("j")
    assert findings(page) == []
    page.keyboard.press("Escape")
    page.locator(".tile.add").click()
    assert findings(page) == []
    page.locator('#requirements-list [data-kind="clearance"]').click()
    assert findings(page) == []
    page.keyboard.press("Escape")
    page.locator(".rail button", has_text="Parts").click()
    page.get_by_role("button", name="Add from the catalogue").click()
    expect(page.locator(".pictured img").first).to_be_visible()
    assert findings(page) == []
    page.locator('[data-element="block"]').first.click()
    expect(page.locator(".element-form")).to_be_visible()
    assert findings(page) == []
    page.keyboard.press("Escape")
    page.locator(".scheme .list button", has_text="Rocker").first.click()
    looks = drafts(page)
    choose_step(page, "extrude")
    drafted(page, looks)
    assert findings(page) == []
    page.locator('[data-tool="line"]').click()
    assert findings(page) == []
    page.keyboard.press("Escape")
    page.get_by_role("region", name="Draft").get_by_role("button", name="Discard").click()


def has_focus(page: Page, region: str) -> bool:
    return bool(page.evaluate("(r) => !!document.activeElement.closest(r)", region))


def test_a_key_leads_to_each_region_and_links_skip_to_them(page: Page, demo_server: Server) -> None:
    page.goto(demo_server.page)
    evaluated(page)
    for number, region in enumerate((".strip", ".scheme", ".stage", ".side", ".cycle"), 1):
        page.keyboard.press(str(number))
        assert has_focus(page, region), region
    page.reload()
    evaluated(page)
    page.keyboard.press("Tab")
    skip = page.locator(".skip button:focus")
    expect(skip).to_contain_text("Skip to the verdicts")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    assert has_focus(page, ".stage")


def test_focus_is_never_lost_to_the_page(page: Page, server: Server) -> None:
    """What had it goes away with its form: focus stays in that region."""
    document = json.loads(Path("src/uhrwerk/demo/foil-tucker.json").read_text(encoding="utf-8"))
    key = server.call("POST", "/api/mechanisms", json={"document": document}).json()["id"]
    page.goto(f"{server.url}/mechanisms/{key}")
    evaluated(page)

    def kept() -> None:
        page.wait_for_timeout(400)  # longer than what is waited for before it is brought back
        assert page.evaluate("() => document.activeElement !== document.body")

    page.locator(".rail button", has_text="Parts").click()
    page.get_by_role("button", name="Add from the catalogue").click()
    expect(page.locator("#catalogue-search")).to_be_focused()
    page.locator('[data-element="tube"]').first.focus()
    page.keyboard.press("Enter")
    kept()
    page.get_by_role("button", name="Add", exact=True).focus()
    page.keyboard.press("Enter")
    evaluated(page, 2)
    kept()
    page.keyboard.press("j")
    kept()
    page.keyboard.press("Escape")
    kept()
    page.locator("#step-new").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#steps-search")).to_be_focused()
    page.keyboard.type("hole")
    page.keyboard.press("Tab")
    looks = drafts(page)
    page.keyboard.press("Enter")
    drafted(page, looks)
    kept()
    page.keyboard.press("Control+Enter")
    evaluated(page, 3)
    kept()
    page.locator(".step-open").get_by_role("button", name="Remove step").focus()
    page.keyboard.press("Enter")
    evaluated(page, 4)
    kept()


def test_a_remedy_is_applied_within_eight_keys(page: Page, server: Server) -> None:
    document = json.loads(Path("src/uhrwerk/demo/foil-tucker.json").read_text(encoding="utf-8"))
    key = server.call("POST", "/api/mechanisms", json={"document": document}).json()["id"]
    page.goto(f"{server.url}/mechanisms/{key}")
    evaluated(page)
    expect(page.locator(".remedies .act").first).to_be_visible(timeout=60_000)
    keys = 1
    page.keyboard.press("4")  # the card: its first failing requirement is open
    while not page.evaluate("() => document.activeElement.matches('.remedies .act')"):
        page.keyboard.press("Tab")
        keys += 1
        assert keys < 8
    assert page.evaluate("() => document.activeElement.getAttribute('aria-label')").startswith("Apply: ")
    page.keyboard.press("Enter")
    assert keys + 1 <= 8
    evaluated(page, 2)


@pytest.mark.parametrize("size", [(640, 400), (900, 700)])
def test_narrow_and_enlarged_it_is_one_column(page: Page, demo_server: Server, size: tuple[int, int]) -> None:
    """1280 x 800 at 200 % is 640 x 400: nothing scrolls sideways, the stage is as high as a hand, all regions are there."""
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.goto(demo_server.page)
    evaluated(page)
    assert page.evaluate("() => document.documentElement.scrollWidth <= window.innerWidth")
    boxes = [page.locator(r).bounding_box() for r in (".scheme", ".stage", ".side", ".cycle")]
    assert all(b is not None and b["width"] > 0.9 * size[0] for b in boxes)
    stage = page.locator(".stage-canvas").bounding_box()
    assert stage is not None
    assert stage["height"] >= 280


def test_in_the_colours_of_the_system_shapes_stay(page: Page, demo_server: Server) -> None:
    page.emulate_media(forced_colors="active")
    page.goto(demo_server.page)
    evaluated(page)
    bar = page.locator(".tile.fails .bar i").first
    assert bar.evaluate("e => getComputedStyle(e).forcedColorAdjust") == "none"
    assert bar.evaluate("e => getComputedStyle(e).backgroundImage") != "none"
    chosen = page.locator('.rail [aria-pressed="true"]').first
    assert chosen.evaluate("e => getComputedStyle(e).outlineStyle") == "solid"


def test_no_text_is_smaller_than_twelve_pixels(page: Page, demo_server: Server) -> None:
    page.goto(demo_server.page)
    evaluated(page)
    small = page.evaluate(
        """() => [...document.querySelectorAll('.workspace *')].filter((e) => [...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim())
            && e.getClientRects().length && parseFloat(getComputedStyle(e).fontSize) < 11.9).map((e) => e.className + ' ' + e.textContent.slice(0, 20))"""
    )
    assert small == []


@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080)])
def test_no_sideways_scrolling(page: Page, demo_server: Server, size: tuple[int, int]) -> None:
    page.set_viewport_size({"width": size[0], "height": size[1]})
    for path in ("/", "/mechanisms/foil_tucker", "/help"):
        page.goto(demo_server.url + path)
        assert page.evaluate("() => document.documentElement.scrollWidth <= window.innerWidth"), path


def test_reversing_the_drive_turns_the_mechanism_the_other_way(page: Page, server: Server) -> None:
    document = Path("src/uhrwerk/demo/foil-tucker-mended.json").read_text(encoding="utf-8")
    key = server.call("POST", "/api/mechanisms", json={"document": json.loads(document)}).json()["id"]
    page.goto(f"{server.url}/mechanisms/{key}")
    evaluated(page)
    page.locator(".rail button", has_text="Drive").click()
    page.locator('[data-path="drivers.motor"]').click()
    page.get_by_role("button", name="Reverse direction").click()
    evaluated(page, 2)
    expect(page.locator(".sum strong")).to_have_text(re.compile("hold|fail"))
    expect(page.locator('[data-path="drivers.motor.speed"]')).to_have_value("-(motor_speed)")


def test_a_file_is_opened_from_the_shelf_or_refused_with_its_path(page: Page, server: Server) -> None:
    page.goto(server.url)
    broken = DEMO.read_text(encoding="utf-8").replace('"62 mm"', '"62 deg"', 1)
    page.locator("#open-file").set_input_files(
        {"name": "broken.json", "mimeType": "application/json", "buffer": broken.encode()}
    )
    expect(page.locator(".shelf-new .field-error")).to_contain_text(
        "parts.rocker_and_finger.element.distance: '62 deg' gives angle"
    )
    page.locator("#open-file").set_input_files(DEMO)
    evaluated(page)
    expect(page.locator(".sum strong")).to_have_text("2 of 4 fail")
    page.goto(server.url)
    expect(page.locator(".shelf li").first).to_contain_text("2 of 4 fail")
    expect(page.locator(".shelf li").first.locator(".shelf-sketch circle.gear")).to_have_count(2)


def test_a_refused_value_keeps_its_reason_and_escape_brings_back_what_was(page: Page, server: Server) -> None:
    document = json.loads(Path("src/uhrwerk/demo/foil-tucker.json").read_text(encoding="utf-8"))
    key = server.call("POST", "/api/mechanisms", json={"document": document}).json()["id"]
    page.goto(f"{server.url}/mechanisms/{key}")
    evaluated(page)
    page.locator(".rail button", has_text="Parts").click()
    page.locator('.list [data-path="parameters.play"]').click()
    field = page.locator('[id="c-parameters.play.formula"]')
    field.fill("0.05 kg +")
    field.press("Tab")
    error = page.locator(".fields .field-error:visible")
    expect(error).to_be_visible()
    reason = error.inner_text()
    field.focus()
    page.keyboard.type("1")
    page.keyboard.press("Backspace")
    field.press("Tab")  # left as it was refused: no change, but the reason is there again
    expect(error).to_have_text(reason)
    expect(field).to_have_value("0.05 kg +")
    field.press("Escape")
    expect(field).to_have_value("0.05 mm")
    expect(page.locator(".fields .field-error:visible")).to_have_count(0)
    expect(page.locator('.list [data-path="parameters.play"]')).to_be_visible()
    field.fill("0.06 mm")
    field.press("Enter")
    evaluated(page, 2)


def test_an_evaluation_stopped_elsewhere_is_begun_anew(page: Page, server: Server) -> None:
    """409 for the view, once: the page asks again by itself and shows the new revision."""
    document = json.loads(Path("src/uhrwerk/demo/foil-tucker.json").read_text(encoding="utf-8"))
    key = server.call("POST", "/api/mechanisms", json={"document": document}).json()["id"]
    page.goto(f"{server.url}/mechanisms/{key}")
    evaluated(page)
    refused = []

    def once(route: Route) -> None:
        if refused:
            route.continue_()
            return
        refused.append(route.request.url)
        route.fulfill(status=409, json={"error": "The evaluation was stopped."})

    page.route("**/revisions/2/view", once)
    page.locator(".rail button", has_text="Parts").click()
    page.locator('.list [data-path="parameters.play"]').click()
    field = page.locator('[id="c-parameters.play.formula"]')
    field.fill("0.06 mm")
    field.press("Enter")
    evaluated(page, 2)
    assert refused
    expect(page.locator(".notice")).to_be_hidden()
