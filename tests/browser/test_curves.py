"""Curves on the page: a quantity followed by pointing, read off at two cursors, held to a limit, beside another revision, taken out."""

from __future__ import annotations

import csv
import io

import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import choose_requirement, datum, document, evaluated, on_screen, scene, shelve, step
from tests.conftest import Server
from uhrwerk.demo.foil_tucker import foil_tucker

pytestmark = [pytest.mark.browser, pytest.mark.timeout(300), pytest.mark.xdist_group("curves")]


def rows(page: Page) -> list[str]:
    return page.locator(".legend li").all_inner_texts()


def test_a_quantity_is_followed_by_pointing_and_held_to_a_limit(page: Page, server: Server) -> None:
    shelve(page, server, foil_tucker())
    step(page, "Curves")
    expect(page.locator(".legend li")).to_have_count(3)
    page.get_by_role("button", name="New curve").click()
    page.locator("#curve-kind").select_option(label="Position of a point")
    page.locator("#curve-name").fill("Knee, up")
    page.locator("#curve-along").select_option("y")
    place, _, _ = datum(scene(page), "coupler/hole_2")
    page.mouse.move(*on_screen(page, place))
    page.mouse.click(*on_screen(page, place))
    expect(page.locator("#curve-at")).not_to_have_value("")
    page.locator("#curve-at").select_option("coupler/hole_2")
    page.get_by_role("button", name="Add curve").click()
    evaluated(page, 2)
    expect(page.locator(".legend li")).to_have_count(4)
    assert document(page)["curves"]["knee_up"] == {
        "kind": "point", "name": "Knee, up", "at": {"placed": "coupler", "datum": "hole_2"}, "along": "y",
    }  # fmt: skip
    step(page, "Checks")
    page.get_by_role("button", name="New requirement").click()
    choose_requirement(page, "curve_limit")
    page.locator("#req-curve").select_option("transmission_angle")
    page.locator("#req-at_least").fill("3 mm")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.locator(".field-error:visible", has_text="angle is required").first).to_be_visible()
    page.locator("#req-at_least").fill("52 deg")
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, 3)
    expect(page.locator(".sum strong")).to_have_text("3 of 5 fail")
    expect(page.locator(".strip")).to_contain_text("50.18 deg")


def test_curves_are_read_off_compared_and_taken_out(page: Page, server: Server) -> None:
    shelve(page, server, foil_tucker())
    step(page, "Curves")
    expect(page.locator(".legend li")).to_have_count(3)
    page.locator("input.cursor").fill("0.5")
    page.get_by_role("button", name="Pin this moment").click()
    page.locator("input.cursor").fill("0.25")
    assert "(" in rows(page)[0]  # the difference to the pinned moment
    page.get_by_label("Show Speed of the finger tip").uncheck()
    expect(page.locator(".chart > circle")).to_have_count(2)
    page.get_by_label("What of the curves is shown").select_option("rate")
    expect(page.locator(".legend output").first).to_contain_text("rpm")
    page.get_by_label("Over what").select_option("finger_tip_sideways")
    expect(page.locator(".chart")).to_contain_text("Finger tip, sideways, mm")
    page.get_by_label("Over what").select_option("")
    page.get_by_label("What of the curves is shown").select_option("value")
    step(page, "Parts")
    page.locator('.list [data-path="parameters.motor_speed"]').click()
    field = page.locator('.fields [data-path="parameters.motor_speed.formula"]')
    field.fill("100 rpm")
    field.press("Tab")
    evaluated(page, 2)
    step(page, "Curves")
    page.get_by_label("Beside which revision").select_option("1")
    expect(page.locator('.chart > path[stroke-dasharray="2 3"]')).to_have_count(2)
    with page.expect_download() as got:
        page.get_by_role("link", name="CSV").click()
    table = list(csv.reader(io.StringIO(got.value.path().read_text(encoding="utf-8"))))
    assert table[0][:3] == ["time (s)", "transmission_angle (deg)", "transmission_angle rate (rpm)"]
    assert len(table) == 362
    with page.expect_download() as got:
        page.get_by_role("button", name="SVG").click()
    assert got.value.path().read_text(encoding="utf-8").startswith("<svg")


def test_a_joint_is_followed_and_limited_from_its_card(page: Page, server: Server) -> None:
    """Five actions from a joint to a limit on its motion."""
    shelve(page, server, foil_tucker())
    step(page, "Joints")
    page.locator('.list [data-path="joints.rocker_turns_in_plate"]').click()
    page.get_by_role("button", name="Plot its motion").click()
    evaluated(page, 2)
    expect(page.locator(".legend li")).to_have_count(4)
    page.locator('.list [data-path="curves.rocker_turns_in_plate"]').click()
    page.get_by_role("button", name="Require limits").click()
    page.locator("#req-at_most").fill("125 deg")
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, 3)
    expect(page.locator(".strip")).to_contain_text("≤ 125.00 deg")
    assert document(page)["requirements"]["curve_within_limits"]["curve"] == "rocker_turns_in_plate"
    step(page, "Parts")
    page.locator('.list [data-path="placed.coupler"]').click()
    page.locator("#grow-at").select_option("coupler/hole_2")
    page.get_by_role("button", name="Plot this point").click()
    expect(page.locator("#curve-at")).to_have_value("coupler/hole_2")
    page.get_by_role("button", name="Add curve").click()
    evaluated(page, 4)
    expect(page.locator(".legend li")).to_have_count(5)


def test_a_mechanism_without_curves_says_what_could_be_followed(page: Page, server: Server) -> None:
    data = foil_tucker()
    shelve(page, server, data.model_copy(update={"curves": {}}))
    step(page, "Curves")
    expect(page.locator(".cycle .empty").first).to_contain_text("transmission angle")
