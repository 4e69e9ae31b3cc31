"""Carried on the page: parts copied from one mechanism into another, a mechanism placed in another, an element dragged onto a
datum; a failing requirement leads on to the next.
"""

from __future__ import annotations

import json

import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import document, evaluated, on_screen, revision, shelve, step
from tests.conftest import Server
from uhrwerk import Bore, Draft, FramePlate, Pin, write
from uhrwerk.demo.foil_tucker import foil_tucker
from uhrwerk.demo.guard_lid import guard_lid

pytestmark = [pytest.mark.browser, pytest.mark.timeout(300), pytest.mark.xdist_group("carrying")]


def placed(page: Page) -> dict:
    return document(page)["placed"]


def plate() -> Draft:
    draft = Draft("Host")
    draft.part("Plate", "steel", FramePlate(bores={"bore": Bore(x="80 mm", y="50 mm", diameter="10 mm")}))
    return draft


def test_a_group_is_copied_into_another_mechanism_and_cut_here(page: Page, server: Server) -> None:
    shelve(page, server, foil_tucker())
    step(page, "Parts")
    page.locator('.list [data-path="groups.swinging_arm"]').click()
    page.locator("h1").click()
    page.keyboard.press("Control+c")
    expect(page.locator(".stage-hint")).to_contain_text("4 parts copied")
    shelve(page, server, plate().document)
    page.locator("h1").click()
    page.keyboard.press("Control+v")
    evaluated(page, 2)
    expect(page.locator(".side .title-input:visible")).to_have_value("Swinging arm")
    assert [p["name"] for p in placed(page).values()] == [
        "Plate", "Coupler", "Rocker and finger", "Rocker pivot", "Knuckle pin",
    ]  # fmt: skip
    expect(page.locator(".scheme h2")).to_contain_text("4 loose")
    page.get_by_role("button", name="Cut", exact=True).click()
    evaluated(page, 3)
    assert list(placed(page)) == ["plate"]
    page.keyboard.press("Control+z")
    evaluated(page, 2)
    assert len(placed(page)) == 5


def test_a_mechanism_from_the_shelf_is_placed_as_a_group_with_its_parameters(page: Page, server: Server) -> None:
    server.call("POST", "/api/mechanisms", json={"name": "Lid", "document": json.loads(write(guard_lid()))})
    shelve(page, server, plate().document)
    step(page, "Parts")
    page.get_by_role("button", name="Insert a mechanism").click()
    page.locator("button[data-mechanism]", has_text="Guard lid").first.click()
    evaluated(page, 2)
    expect(page.locator(".side .title-input:visible")).to_have_value("Guard lid")
    field = page.locator('[id="c-parameters.pin_d.formula"]')
    expect(field).to_be_visible()
    before = field.input_value()
    field.fill(f"0.98 * ({before})")
    field.press("Enter")
    evaluated(page, 3)
    assert len(placed(page)) == 1 + len(guard_lid().placed)


def test_an_element_is_dragged_from_the_catalogue_onto_a_bore(page: Page, server: Server) -> None:
    shelve(page, server, plate().document)
    step(page, "Parts")
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator('[data-element="pin"]').first.hover()
    page.mouse.down()
    page.mouse.move(*on_screen(page, [0.08, 0.05, 0.0]), steps=5)
    expect(page.locator(".flag")).to_contain_text("bore")
    page.mouse.up()
    expect(page.get_by_role("button", name="Add", exact=True)).to_be_enabled()
    before = revision(page)
    page.locator("h1").click()
    page.keyboard.press("Enter")
    evaluated(page, before + 1)
    assert len(placed(page)) == 2
    assert [j["kind"] for j in document(page)["joints"].values()] == ["revolute"]


def test_where_an_element_does_not_grow_it_stands_beside(page: Page, server: Server) -> None:
    shelve(page, server, plate().document)
    step(page, "Parts")
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator('[data-element="rack"]').first.hover()
    page.mouse.down()
    page.mouse.move(*on_screen(page, [0.02, 0.02, 0.0]), steps=4)
    page.mouse.up()
    expect(page.locator(".element-form h2")).to_have_text("Rack")
    expect(page.locator(".stage-hint")).to_contain_text("beside")


def test_one_failing_requirement_leads_on_to_the_next(page: Page, server: Server) -> None:
    draft = Draft("Two fail", guard_lid())
    shelve(page, server, draft.document)
    failing = page.locator(".tile.fails")
    count = failing.count()
    assert count > 1
    title = page.locator(".side .title-input:visible")
    seen = [title.input_value()]
    page.locator("h1").click()
    page.keyboard.press("w")
    seen.append(title.input_value())
    page.locator(".tile.current").click()
    seen.append(title.input_value())
    page.locator("h1").click()
    page.keyboard.press("Enter")
    seen.append(title.input_value())
    assert len(set(seen)) == min(count, 4)
    expect(page.locator(".tile.current")).to_have_count(1)


def test_a_distance_starts_from_where_the_part_is(page: Page, server: Server) -> None:
    draft = plate()
    draft.part("Peg", "steel", Pin(), x="37 mm", y="20 mm", z="4 mm")
    shelve(page, server, draft.document)
    step(page, "Joints")
    page.get_by_role("button", name="Join from a list").click()
    page.locator("#join-a").select_option("plate/left")
    page.locator("#join-b").select_option("peg/axis")
    page.locator('[data-candidate="distance"]').click()
    expect(page.locator('[data-ask="distance"]')).to_have_value("-37 mm")
    expect(page.locator(".preview-words:visible").first).to_contain_text("Nothing moves")
