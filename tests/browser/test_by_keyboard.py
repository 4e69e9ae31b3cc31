"""Everything by keyboard alone: keys that lead to the regions, Tab, Enter; the focus is not lost to the page's body."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import drafted, drafts, evaluated, revision, shelve
from tests.conftest import Server
from uhrwerk import Block, Draft
from uhrwerk.core.document import Document
from uhrwerk.demo.pusher import pusher

pytestmark = [pytest.mark.browser, pytest.mark.timeout(400), pytest.mark.xdist_group("keyboard")]

#: keys at most to what is looked for in a region
FAR = 60


def press(page: Page, *keys: str) -> int:
    for key in keys:
        page.keyboard.press(key)
        page.wait_for_timeout(50)
        # what had it may go with what was done: within a second its region has it
        page.wait_for_function("() => document.activeElement !== document.body", timeout=10_000)
    return len(keys)


def tab_to(page: Page, selector: str) -> int:
    """Tab until what has the focus is one of those; how many keys that took."""
    for count in range(FAR):
        if page.evaluate("(s) => document.activeElement.matches(s)", selector):
            return count
        page.keyboard.press("Tab")
    raise AssertionError(f"{selector} is not within {FAR} keys")


def type_in(page: Page, selector: str, text: str) -> None:
    tab_to(page, selector)
    page.keyboard.press("Control+a")
    page.keyboard.type(text)


def blocks() -> Document:
    draft = Draft("Two blocks")
    draft.part("Base", "steel", Block(length="60 mm", width="40 mm", height="20 mm"))
    draft.part("Lid", "steel", Block(length="30 mm", width="20 mm", height="10 mm"), x="90 mm")
    return draft.document


def test_a_remedy_within_eight_keys(page: Page, server: Server) -> None:
    shelve(page, server, pusher())
    page.locator(".skip button").first.focus()  # as the first Tab of a page that was just opened does
    before, keys = revision(page), 0
    keys += press(page, "w")
    offer = page.locator(".remedies li button").first
    offer.wait_for()
    keys += press(page, "4")
    keys += tab_to(page, ".remedies li .act")
    keys += press(page, "Enter")
    evaluated(page, before + 1)
    assert keys <= 8, keys


def test_two_parts_are_joined(page: Page, server: Server) -> None:
    shelve(page, server, blocks())
    before = revision(page)
    press(page, "3", "j")
    tab_to(page, "#join-a")
    page.keyboard.type("Base: top")
    tab_to(page, "#join-b")
    page.keyboard.type("Lid: bottom")
    page.locator(".preview-words:visible").first.wait_for()  # the first candidate is chosen, and shown
    tab_to(page, ".candidates button.sel")
    press(page, "Enter")
    evaluated(page, before + 1)
    expect(page.locator(".rail button", has_text="Joints")).to_contain_text("1")


def test_a_part_is_added(page: Page, server: Server) -> None:
    shelve(page, server, blocks())
    before = revision(page)
    press(page, "2")
    tab_to(page, "button.link")
    press(page, "Enter")
    expect(page.locator("#catalogue-search")).to_be_focused()
    page.keyboard.type("tube")
    page.locator('[data-element="block"]').wait_for(state="hidden")
    tab_to(page, '[data-element="tube"]')
    press(page, "Enter")
    expect(page.locator("#element-name")).to_be_visible()
    tab_to(page, ".element-form .act")
    press(page, "Enter")
    evaluated(page, before + 1)
    expect(page.locator(".rail button", has_text="Parts")).to_contain_text("3")


def test_a_face_is_pulled(page: Page, server: Server) -> None:
    shelve(page, server, blocks())
    before = revision(page)
    press(page, "2")
    tab_to(page, '[data-path="placed.lid"]')
    press(page, "Enter")
    press(page, "4")
    tab_to(page, "#grow-at")
    page.keyboard.type("top")
    page.locator('[data-sprout^="pull"]').first.wait_for()
    tab_to(page, '[data-sprout^="pull"]')
    press(page, "Enter")
    type_in(page, '[data-grow="by"]', "3 mm")
    page.keyboard.press("Tab")
    expect(page.locator(".preview-words:visible", has_text="nearest")).to_be_visible()
    press(page, "Enter")
    evaluated(page, before + 1)
    field = page.locator('[data-path="parts.lid.element.height"]')
    expect(field).to_have_value("13 mm")


def test_a_requirement_is_added_and_a_build_step_drafted(page: Page, server: Server) -> None:
    shelve(page, server, blocks())
    before = revision(page)
    press(page, "1")
    tab_to(page, ".tile.add")
    press(page, "Enter")
    expect(page.locator("#requirements-search")).to_be_focused()
    page.keyboard.type("mass")
    tab_to(page, '[data-kind="mass"]')
    press(page, "Enter")
    type_in(page, "#req-at_most", "2 kg")
    press(page, "Enter")
    evaluated(page, before + 1)
    expect(page.locator(".strip")).to_contain_text("2000.0 g")
    press(page, "2")
    page.locator(".rail button", has_text="Parts").focus()
    press(page, "Enter")
    tab_to(page, '[data-path="placed.base"]')
    press(page, "Enter", "4")
    tab_to(page, "#step-new")
    press(page, "Enter")
    seen = drafts(page)
    page.keyboard.type("hole")
    tab_to(page, '[data-kind="hole"]')
    press(page, "Enter")
    drafted(page, seen)
    press(page, "Control+Enter")
    evaluated(page, before + 2)


def test_a_file_is_exported(page: Page, server: Server) -> None:
    shelve(page, server, blocks())
    page.locator(".skip button").first.focus()
    tab_to(page, ".files summary")
    press(page, "Enter")
    tab_to(page, '.files a[href*=".step"]')
    with page.expect_download() as download:
        page.keyboard.press("Enter")
    assert download.value.suggested_filename.endswith(".step")
    assert page.evaluate("() => document.activeElement !== document.body")


def test_a_face_is_chosen_on_the_stage_and_joined_to_another(page: Page, server: Server) -> None:
    """Key 3 leads to the stage; braces step through parts, brackets through what can be joined; Enter picks it."""
    shelve(page, server, blocks())
    hint = page.locator(".hint, [role=status]").filter(has_text=", ")
    press(page, "3", "j", "3")
    canvas = page.locator(".stage-canvas")
    canvas.focus()

    def step_to(words: str) -> None:
        for _ in range(40):
            press(page, "]")
            if hint.first.inner_text().startswith(words):
                return
        raise AssertionError(words)

    press(page, "}")
    step_to("Base, top")
    press(page, "Enter")
    expect(page.locator("#join-a")).to_have_value("base/top")
    press(page, "}")
    step_to("Lid, bottom")
    press(page, "Enter")
    expect(page.locator("#join-b")).to_have_value("lid/bottom")
    expect(page.get_by_role("button", name="Join as shown")).to_be_enabled()
