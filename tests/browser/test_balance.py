"""Balance on the page: a rotor with its plot, its requirement, the force on the frame held to a limit."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import document, evaluated, shelve, step
from tests.conftest import Server
from tests.reference.test_drilling import camshaft
from uhrwerk.demo.foil_cutter import MENDED, foil_cutter

pytestmark = [pytest.mark.browser, pytest.mark.timeout(300), pytest.mark.xdist_group("curves")]


def test_a_rotor_is_read_held_to_a_grade_and_balanced(page: Page, server: Server) -> None:
    shelve(page, server, foil_cutter())
    step(page, "Balance")
    rotor = page.locator(".rotor").first
    expect(rotor).to_contain_text("Shaft turns in plate")
    expect(rotor).to_contain_text("G 217")
    expect(rotor.locator(".sign")).to_have_text("fails")
    expect(rotor.locator("figcaption")).to_contain_text("add 4.0 g at radius")
    limit, arrow = rotor.locator(".allowed"), rotor.locator(".tip")
    at = [float(arrow.get_attribute(k) or 0) for k in ("cx", "cy")]
    assert float(limit.get_attribute("r") or 0) < (at[0] ** 2 + at[1] ** 2) ** 0.5
    page.get_by_role("button", name="Require a limit", exact=True).click()
    page.locator("#req-name").fill("Calm")
    page.locator("#req-at_most").fill("0.5 N")
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, 2)
    assert document(page)["requirements"]["calm"] == {"kind": "shaking_force", "name": "Calm", "at_most": "0.5 N"}
    expect(page.locator(".sum strong")).to_have_text("3 of 5 fail")
    step(page, "Balance")
    rotor.get_by_role("button", name="Its requirement").click()
    expect(page.locator(".side")).to_contain_text("Runs quietly")
    step(page, "Parts")
    for k, (path, value) in enumerate(MENDED.items()):
        page.locator(f'.list [data-path="{path.removesuffix(".formula")}"]').click()
        field = page.locator(f'.fields [data-path="{path}"]')
        field.fill(value)
        field.press("Enter")
        evaluated(page, 3 + k)
    expect(page.locator(".sum strong")).to_contain_text("hold")
    step(page, "Balance")
    expect(rotor.locator(".sign")).to_have_text("holds")
    expect(rotor).to_contain_text("G 0.777")


def test_a_rotor_is_balanced_by_a_hole(page: Page, server: Server) -> None:
    shelve(page, server, camshaft())
    step(page, "Balance")
    rotor = page.locator(".rotor").first
    rotor.get_by_role("button", name="Drill holes").click()
    first = page.locator(".corrections li").first
    expect(first).to_contain_text("Disc, start face: a hole ⌀ 3.00 mm")
    expect(first).to_contain_text("then G below 0.001, its centre less than 0.001 µm off the axis")
    first.get_by_role("button", name="Apply", exact=True).click()
    evaluated(page, 2)
    (made,) = document(page)["parts"]["disc"]["steps"].values()
    assert (made["kind"], made["name"], made["through"]) == ("hole", "Balancing holes", False)
    rotor.get_by_role("button", name="Add studs").click()
    expect(page.locator(".corrections")).to_contain_text("lies on the axis already")
    page.get_by_role("button", name="Undo").click()
    evaluated(page, 1)
    assert document(page)["parts"]["disc"]["steps"] == {}
