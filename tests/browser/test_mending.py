"""Break and mend: a number spoils a requirement, its tile leads to the remedies, one is taken; one undo gives it back."""

from __future__ import annotations

import re
from contextlib import suppress

import pytest
from playwright.sync_api import APIResponse, Page, Route, expect
from playwright.sync_api import TimeoutError as TooLate

from tests.browser.by_hand import document, evaluated, shelve, step
from tests.conftest import Server
from uhrwerk.demo.foil_cutter import foil_cutter
from uhrwerk.demo.pusher import MENDED, pusher
from uhrwerk.draft import Draft

pytestmark = [pytest.mark.browser, pytest.mark.timeout(700), pytest.mark.xdist_group("curves")]


def test_broken_and_mended_in_three_actions(page: Page, server: Server) -> None:
    draft = Draft("x", pusher())
    for path, value in MENDED.items():
        draft.set(path, value)
    shelve(page, server, draft.document)
    expect(page.locator(".sum strong")).to_contain_text("hold")
    step(page, "Parts")
    page.locator('.list [data-path="parameters.crank"]').click()
    field = page.locator('.fields [data-path="parameters.crank.formula"]')
    field.fill("20.5 mm")
    field.press("Enter")  # 1: the break
    evaluated(page, 2)
    expect(page.locator(".sum strong")).to_have_text("1 of 4 fail")
    page.locator(".strip .tile", has_text="Return is quick").click()  # 2: its tile
    offer = page.locator(".remedies li", has_text="crank").first
    expect(offer).to_contain_text("20.5 mm", timeout=240_000)
    expect(offer).to_contain_text("it holds from 21.7 mm on")
    offer.get_by_role("button", name=re.compile("^Apply")).click()  # 3: the remedy
    evaluated(page, 3)
    expect(page.locator(".sum strong")).to_contain_text("hold")
    expect(page.locator(".remedies")).to_be_hidden()
    assert document(page)["parameters"]["crank"]["formula"] == "22 mm"
    step(page, "Revisions")
    listed = page.locator(".revisions li")
    expect(listed).to_have_count(3)
    expect(listed.nth(1)).to_contain_text("1 of 4 fail")
    listed.nth(1).get_by_role("button").first.click()
    expect(listed.nth(1).locator(".compared")).to_contain_text("crank")
    expect(listed.nth(1).locator(".compared .good")).to_contain_text("Return is quick")
    listed.nth(2).get_by_role("button").first.click()
    listed.nth(2).get_by_role("button", name="Restore", exact=True).click()
    evaluated(page, 4)
    assert document(page)["parameters"]["crank"]["formula"] == MENDED["parameters.crank.formula"]
    page.get_by_role("button", name="Undo").click()
    evaluated(page, 3)
    page.get_by_role("button", name="Undo").click()
    evaluated(page, 2)
    assert document(page)["parameters"]["crank"]["formula"] == "20.5 mm"


def test_everything_is_shown_against_a_baseline_and_a_variant_begun(page: Page, server: Server) -> None:
    shelve(page, server, pusher())
    step(page, "Parts")
    page.locator('.list [data-path="parameters.crank"]').click()
    field = page.locator('.fields [data-path="parameters.crank.formula"]')
    field.fill("24 mm")
    field.press("Enter")
    evaluated(page, 2)
    step(page, "Revisions")
    listed = page.locator(".revisions li")
    listed.nth(1).get_by_role("button").first.click()
    listed.nth(1).get_by_role("button", name="Pin as baseline").click()
    expect(page.locator(".sum")).to_contain_text("against revision 1: 1 now hold, 0 newly fail")
    page.get_by_label("outline revision 1").check()
    drawn = "() => document.querySelector('.stage-canvas').stage.ghost.parts.map((p) => p.id).sort()"
    page.wait_for_function("() => document.querySelector('.stage-canvas').stage.ghost.parts.length")
    assert page.evaluate(drawn) == ["crank_disc", "lever_pivot", "slotted_lever"]  # plate and shaft as before
    listed.nth(1).get_by_label("Name").fill("short crank")
    listed.nth(1).get_by_role("button", name="Save name").click()
    expect(listed.nth(1)).to_contain_text("short crank")
    listed.nth(1).get_by_label("Name").fill("brass")
    listed.nth(1).get_by_role("button", name="New variant from here").click()
    evaluated(page, 1)
    expect(page.locator(".variants li")).to_have_count(2)
    expect(page.locator(".sum")).not_to_contain_text("against")  # the baseline itself is current
    page.locator(".variants").get_by_role("button", name="as begun").first.click()
    evaluated(page, 2)
    page.locator("#compare-base").select_option("1")  # any two: the second against the first
    listed.nth(0).get_by_role("button").first.click()
    expect(listed.nth(0).locator(".compared")).to_contain_text("From 2 to 1")
    expect(listed.nth(0).locator(".compared .bad")).to_contain_text("Return is quick")
    step(page, "Parts")
    page.locator('.list [data-path="parameters.crank"]').click()
    expect(page.locator(".fields .was")).to_have_text("revision 1: 20 mm")
    page.reload()
    evaluated(page, 2)
    expect(page.locator(".sum")).to_contain_text("against revision 1")


def test_what_is_on_the_card_is_asked_and_what_moves_it_told(page: Page, server: Server) -> None:
    shelve(page, server, pusher())
    step(page, "Parts")
    page.locator('.list [data-path="placed.slotted_lever"]').click()
    page.locator("#ask-of-it").select_option(label="Wall thickness")
    page.locator("#req-name").fill("Stiff lever")
    page.locator("#req-at_least").fill("4.5 mm")
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, 2)
    asked = document(page)["requirements"]["stiff_lever"]
    assert asked == {
        "kind": "wall_thickness",
        "name": "Stiff lever",
        "of": {"placed": "slotted_lever", "body": None},
        "at_least": "4.5 mm",
    }
    page.locator('.tile[data-requirement="stiff_lever"]').click()
    expect(page.locator(".told")).to_contain_text("Slotted lever: 4.00 mm, at least 4.50 mm")
    offers = page.locator(".remedies li")
    expect(offers.first).to_contain_text("Apply", timeout=240_000)
    page.locator(".moved-by summary").click()
    expect(page.locator(".moved-by li").first).to_contain_text("1 mm more")
    page.locator(".moved-by li").first.get_by_role("button").click()
    expect(page.locator(".title-input")).to_have_value("Slotted lever")


def test_a_remedy_that_is_pointed_at_is_seen_before_it_is_taken(page: Page, server: Server) -> None:
    """On the strip and the stage, by the pointer and by the keyboard; pointed away from, all is as it was."""
    shelve(page, server, pusher())
    page.locator(".strip .tile", has_text="Return is quick").click()
    tile = page.locator('.tile[data-requirement="return_is_quick"]')
    offers = page.locator(".remedies li")
    expect(page.locator(".remedies [role=status]")).to_contain_text("remed", timeout=240_000)
    count = offers.count()
    assert count > 1
    expect(tile).to_have_class(re.compile("fails"))
    offers.nth(0).hover()
    expect(tile).to_have_class(re.compile("holds.*glance"))
    expect(page.locator(".sum strong")).to_have_text("Changing: not proved yet")
    expect(offers).to_have_count(count)
    offers.nth(1).hover()
    expect(tile).to_have_class(re.compile("holds.*glance"))
    page.locator(".top").hover()
    expect(tile).to_have_class(re.compile("fails"))
    expect(page.locator(".sum strong")).to_contain_text("fail")
    expect(offers).to_have_count(count)
    take = offers.nth(0).get_by_role("button", name=re.compile("^Apply"))
    take.focus()
    expect(tile).to_have_class(re.compile("holds.*glance"))
    take.press("Enter")
    evaluated(page, 2)
    expect(tile).to_have_class(re.compile("holds(?!.*glance)"))
    expect(page.locator(".sum")).to_contain_text("1 now hold")  # told against what was proved before
    expect(page.locator(".told")).to_have_class("told holds")


def tiles(page: Page) -> list[str]:
    """The requirements in the order of the strip."""
    return page.locator(".tile[data-requirement]").evaluate_all("(all) => all.map((t) => t.dataset.requirement)")


def test_a_number_is_dialled_until_it_holds(page: Page, server: Server) -> None:
    """By its handle with the keyboard, by the pointer, and given back: what is seen is marked until it is proved."""
    shelve(page, server, pusher())
    step(page, "Parts")
    page.locator('.list [data-path="parameters.crank"]').click()
    dial = page.get_by_role("slider", name="Change Formula")
    tile = page.locator('.tile[data-requirement="return_is_quick"]')
    expect(tile).to_have_class("tile fails")
    order = tiles(page)
    dial.focus()
    for _ in range(2):
        dial.press("PageUp")
    expect(tile).to_have_class("tile holds glance")
    assert tiles(page) == order  # they keep their places until it is proved
    expect(page.locator(".sum strong")).to_have_text("Changing: not proved yet")
    dial.press("Escape")
    expect(tile).to_have_class("tile fails")
    assert document(page)["parameters"]["crank"]["formula"] == "20 mm"
    box = dial.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 7 * 17, y, steps=4)
    expect(tile).to_have_class("tile holds glance")
    expect(dial).to_have_attribute("aria-valuetext", "21.7 mm")
    page.mouse.up()
    evaluated(page, 2)
    expect(tile).to_have_class("tile holds")
    assert document(page)["parameters"]["crank"]["formula"] == "21.7 mm"
    page.get_by_role("button", name="Undo").click()
    evaluated(page, 1)
    assert document(page)["parameters"]["crank"]["formula"] == "20 mm"


def test_the_cutter_is_balanced_by_a_search(page: Page, server: Server) -> None:
    """Three numbers are turned by the search; it is held up, goes on; a step is shown; the rounded end is taken, and one undo
    gives it back."""
    shelve(page, server, foil_cutter())
    page.locator(".strip .tile", has_text="Centre on the axis").click()
    page.get_by_role("button", name="Search for numbers").click()
    expect(page.locator(".search-numbers input[type=checkbox]:checked")).to_have_count(3)
    expect(page.get_by_label("Least weight_angle")).to_have_value("130 deg")
    page.get_by_role("button", name="Search", exact=True).click()
    with suppress(
        TooLate
    ):  # the search may be over before a busy page is there: tests/web/test_searching.py holds one up for sure
        page.get_by_role("button", name="Pause").click(timeout=10_000)
        page.get_by_role("button", name="Resume").click(timeout=10_000)
    rounded = page.locator(".search-steps li.rounded")
    expect(rounded).to_be_visible(timeout=240_000)
    rounded.get_by_role("button", name="Show").click()
    tile = page.locator('.tile[data-requirement="runs_quietly"]')
    expect(tile).to_have_class("tile holds glance")
    page.get_by_role("button", name="Apply rounded").click()
    evaluated(page, 2)
    expect(page.locator(".sum strong")).to_have_text("All 4 hold")
    expect(page.locator(".search-steps")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    evaluated(page, 1)
    assert document(page)["parameters"]["weight_radius"]["formula"] == "19 mm"


def test_an_answer_from_before_a_search_was_held_up_does_not_let_it_seem_to_run(page: Page, server: Server) -> None:
    shelve(page, server, foil_cutter())
    page.locator(".strip .tile", has_text="Centre on the axis").click()
    page.get_by_role("button", name="Search for numbers").click()
    held: list[tuple[Route, APIResponse]] = []

    def late(route: Route) -> None:
        if route.request.method != "GET" or held:
            route.continue_()
        else:
            held.append((route, route.fetch()))  # still runs, it says

    page.route(re.compile("/searches/[0-9]+$"), late)
    page.get_by_role("button", name="Search", exact=True).click()
    for _ in range(2000):
        if held:
            break
        page.wait_for_timeout(20)
    page.get_by_role("button", name="Pause").click()
    expect(page.get_by_role("button", name="Resume")).to_be_visible()
    route, answer = held[0]
    assert answer.json()["state"] == "running"
    route.fulfill(response=answer)
    page.wait_for_timeout(200)  # less than until it is asked again
    expect(page.get_by_role("button", name="Resume")).to_be_visible(timeout=50)
    page.get_by_role("button", name="Resume").click()
    expect(page.locator(".search-steps li.rounded")).to_be_visible(timeout=240_000)


def test_verdicts_of_a_former_revision_say_so_until_the_new_ones_are_there(page: Page, server: Server) -> None:
    shelve(page, server, pusher())
    before = page.locator(".sum strong").inner_text()
    busy = {"words": "Nothing overlaps: pair 3 of 9", "fraction": 0.96}
    page.route("**/revisions/2/view", lambda route: route.fulfill(status=202, json=busy))
    step(page, "Parts")
    page.locator('.list [data-path="parameters.crank"]').click()
    field = page.locator('.fields [data-path="parameters.crank.formula"]')
    field.fill("21 mm")
    field.press("Enter")
    expect(page.locator(".sum strong")).to_have_text(f"Revision 1: {before}")
    expect(page.locator(".strip .hidden-words").first).to_contain_text("of revision 1")
    expect(page.get_by_text("Nothing overlaps: pair 3 of 9").first).to_be_visible()
    page.unroute("**/revisions/2/view")
    page.evaluate("() => document.dispatchEvent(new Event('visibilitychange'))")  # a new stream: it reads again
    evaluated(page, 2)
    expect(page.locator(".sum strong")).not_to_contain_text("Revision")
