"""The shelf by hand: created at the top, renamed, duplicated, deleted, undone, searched."""

from __future__ import annotations

import re
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import shelve
from tests.browser.conftest import evaluated
from tests.conftest import Server
from uhrwerk import Draft, MassLimit, Pin

pytestmark = pytest.mark.browser


def names(page: Page) -> list[str]:
    return page.locator(".shelf li:not([hidden]) .shelf-name").all_inner_texts()


def test_a_shelf_is_kept_in_order(page: Page, server: Server) -> None:
    for name in ("Tray", "Lid"):
        page.goto(server.page)
        page.locator("#new-name").fill(name)
        page.keyboard.press("Enter")
        page.wait_for_url("**/mechanisms/**")
    page.goto(server.page)
    assert names(page)[:2] == ["Lid", "Tray"]
    page.get_by_role("button", name="Rename Lid").click()
    expect(page.locator("#rename-name")).to_be_focused()
    page.keyboard.type("Hinged lid")
    page.keyboard.press("Enter")
    expect(page.locator(".shelf-name").first).to_have_text("Hinged lid")
    expect(page.locator(".shelf-name").first).to_be_focused()
    page.get_by_role("button", name="Duplicate Tray").click()
    expect(page.locator(".shelf-name").first).to_have_text("Tray copy")
    page.get_by_role("button", name="Delete Tray copy").click()
    expect(page.get_by_role("button", name="Undo")).to_be_focused()
    assert "Tray copy" not in names(page)
    page.keyboard.press("Enter")
    expect(page.locator(".shelf-name", has_text="Tray copy")).to_be_focused()
    page.get_by_label("Search").fill("tray")
    assert set(names(page)) == {"Tray", "Tray copy"}
    page.get_by_label("Search").fill("")
    page.get_by_label("Sort by").select_option("name")
    assert names(page) == sorted(names(page))
    page.get_by_role("button", name="Delete Tray", exact=True).click()
    expect(page.get_by_role("button", name="Undo")).to_be_focused()
    page.locator(".shelf-bin summary").click()
    page.get_by_role("button", name="Restore Tray", exact=True).click()
    expect(page.locator(".shelf-name").get_by_text("Tray", exact=True)).to_be_focused()


def test_the_units_of_a_mechanism_are_chosen_on_its_card(page: Page, server: Server) -> None:
    draft = Draft("Inches")
    draft.part("Bar", "steel", Pin(diameter="8", length="50.8 mm"))
    draft.require(MassLimit(name="Light", at_most="1 kg"))
    shelve(page, server, draft.document)
    page.locator('.list [data-path="units"]').click()
    page.locator('[id="c-units.length"]').select_option("in")
    evaluated(page, 2)
    page.locator('[id="c-units.mass"]').select_option("lb")
    evaluated(page, 3)
    page.locator('.list [data-path="placed.bar"]').click()
    diameter = page.locator('.fields [data-path$=".diameter"]')
    expect(diameter).to_have_value("8 mm")
    expect(page.get_by_label("Verdicts")).to_contain_text("lb")


def test_the_moment_of_an_export_stands_in_its_menu_and_is_chosen(page: Page, demo_server: Server) -> None:
    page.goto(demo_server.page)
    evaluated(page)
    page.locator("input.cursor").fill("0.5")
    page.locator(".files summary").click()
    link = page.locator(".files a", has_text=".step").first
    expect(page.locator("#export-at option").first).to_have_text("now, at 0.750 s")
    expect(link).to_have_attribute("href", re.compile(r"\?time=0\.750000000$"))
    page.locator("#export-at").select_option("start")
    expect(link).to_have_attribute("href", re.compile(r"\?time=0\.000000000$"))


def test_all_mechanisms_leave_and_come_back_in_one_file(page: Page, server: Server, tmp_path: Path) -> None:
    for name in ("First of all", "Second of all"):
        draft = Draft(name)
        draft.part("Bar", "steel", Pin(diameter="8 mm", length="50 mm"))
        shelve(page, server, draft.document)
    page.goto(server.page)
    before = names(page)
    with page.expect_download() as download:
        page.get_by_role("link", name="Export all").click()
    file = tmp_path / "all.shelf.zip"
    download.value.save_as(file)
    with zipfile.ZipFile(file) as archive:
        assert len(archive.namelist()) == len(before)
    page.locator("#open-file").set_input_files(file)
    expect(page.locator(".shelf-name")).to_have_count(2 * len(before))
    assert sorted(names(page)) == sorted(before * 2)
    with zipfile.ZipFile(file, "a") as archive:
        archive.writestr("broken.zip", b"nothing")
    page.locator("#open-file").set_input_files(file)
    expect(page.locator(".shelf-new .field-error")).to_contain_text(f"{len(before)} imported. broken.zip: ")
    other = tmp_path / "other.shelf.zip"
    other.write_bytes(b"no archive")
    page.locator("#open-file").set_input_files(other)
    expect(page.locator(".shelf-new .field-error")).to_contain_text("this is not an archive, or it is damaged")


def test_mechanisms_lie_in_folders(page: Page, server: Server, tmp_path: Path) -> None:
    """A folder is typed once, offered then, shown alone; it goes with the archive of the shelf and comes back from it."""
    for name in ("Cam", "Crank", "Lever"):
        shelve(page, server, Draft(name).document)
    page.goto(server.page)
    for name in ("Cam", "Crank"):
        page.get_by_role("button", name=f"Put {name} in a folder").click()
        expect(page.locator("#folder-name")).to_be_focused()
        page.keyboard.type("Drives")
        page.keyboard.press("Enter")
        expect(page.locator(".shelf li", has_text=name).first).to_contain_text("in Drives")
    assert page.locator("#folder-names option").count() <= 1
    page.locator("#shelf-folder").select_option("Drives")
    assert sorted(names(page)) == ["Cam", "Crank"]
    page.locator("#shelf-folder").select_option("")
    page.get_by_label("Search").fill("drives")
    assert sorted(names(page)) == ["Cam", "Crank"]
    with page.expect_download() as download:
        page.get_by_role("link", name="Export all").click()
    file = tmp_path / "all.shelf.zip"
    download.value.save_as(file)
    with zipfile.ZipFile(file) as archive:
        assert sum(n.startswith("Drives/") for n in archive.namelist()) == 2
    there = page.locator(".shelf-name").count()
    page.locator("#open-file").set_input_files(file)
    expect(page.locator(".shelf-name")).to_have_count(2 * there)
    page.get_by_label("Search").fill("drives")
    expect(page.locator(".shelf li:not([hidden])")).to_have_count(4)
    page.get_by_role("button", name="Put Cam in a folder").first.click()
    page.locator("#folder-name").fill("")
    page.keyboard.press("Enter")
    expect(page.locator(".shelf li:not([hidden])")).to_have_count(3)
