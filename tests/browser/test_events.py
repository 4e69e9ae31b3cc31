"""The page hears of changes by one stream; where it breaks, nothing is missed."""

from __future__ import annotations

from playwright.sync_api import BrowserContext, Page, expect

from tests.browser.conftest import evaluated
from tests.conftest import Server


def change(server: Server, key: str, revision: int, text: str) -> None:
    command = {"kind": "set_parameter", "name": "w", "formula": text}
    answer = server.call("POST", f"/api/mechanisms/{key}/commands", json={"revision": revision, "command": command})
    assert answer.status_code in (200, 201), answer.text


def opened(page: Page, server: Server, name: str) -> str:
    key = server.call("POST", "/api/mechanisms", json={"name": name}).json()["id"]
    page.goto(server.address(f"/mechanisms/{key}"))
    evaluated(page)
    return key


def test_a_change_made_elsewhere_is_told_and_one_click_away(page: Page, server: Server) -> None:
    key = opened(page, server, "Elsewhere")
    change(server, key, 1, "3 mm")
    expect(page.locator(".notice")).to_contain_text("Changed elsewhere")
    page.get_by_role("button", name="Load revision 2").click()
    evaluated(page, 2)
    expect(page.locator(".notice")).to_be_hidden()
    expect(page.locator('.list [data-path="parameters.w"]')).to_be_visible()


def test_a_stream_that_broke_goes_on_and_tells_what_was_missed(
    context: BrowserContext, page: Page, server: Server
) -> None:
    key = opened(page, server, "Cable pulled")
    context.set_offline(True)
    change(server, key, 1, "3 mm")
    expect(page.locator(".notice")).to_be_hidden()
    context.set_offline(False)
    expect(page.locator(".notice")).to_contain_text("Changed elsewhere")
    page.get_by_role("button", name="Load revision 2").click()
    evaluated(page, 2)


def test_an_evaluation_that_ends_while_the_stream_is_broken_is_shown(page: Page, server: Server) -> None:
    key = opened(page, server, "Deaf for a while")
    page.evaluate("() => Object.defineProperty(document, 'hidden', { value: true, configurable: true })")
    page.evaluate(
        "() => document.dispatchEvent(new Event('visibilitychange'))"
    )  # a page that nobody sees has no stream
    change(server, key, 1, "3 mm")
    server.view(key, 2)
    page.evaluate("() => Object.defineProperty(document, 'hidden', { value: false, configurable: true })")
    page.evaluate("() => document.dispatchEvent(new Event('visibilitychange'))")
    expect(page.locator(".notice")).to_contain_text("Changed elsewhere")
