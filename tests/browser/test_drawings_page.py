"""Drawings in the page: sizes dragged, hidden and moved by key, a size between two places, undo, files; the count of actions is held."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_workspace import findings
from tests.conftest import Server
from uhrwerk import Bore, Draft, FramePlate

pytestmark = [pytest.mark.browser, pytest.mark.without_picture]


def opened(page: Page, server: Server) -> None:
    """The drawing of a plate with three holes, of which there is none yet."""
    draft = Draft("Bracket")
    bores = {i: Bore(x=x, y=y, diameter=d) for i, x, y, d in (("low", "14 mm", "10 mm", "8 mm"), ("far", "61 mm", "10 mm", "8 mm"), ("high", "30 mm", "33 mm", "5 mm"))}  # fmt: skip
    draft.part("Bracket", "steel", FramePlate(length="80 mm", width="50 mm", thickness="6 mm", bores=bores))
    made = server.call(
        "POST", "/api/mechanisms", json={"name": "x", "document": draft.document.model_dump(mode="json")}
    )
    assert made.status_code < 300, made.text
    page.goto(server.address(f"/mechanisms/{made.json()['id']}/drawings"))
    expect(page.get_by_text("No drawing yet.")).to_be_visible()
    page.get_by_label("New drawing of").select_option(label="Bracket")
    looked(page, lambda: page.get_by_role("button", name="Add drawing").click())


def looked(page: Page, act) -> None:  # type: ignore[no-untyped-def]
    """Waits until the sheet is shown as it is after an act."""
    root = page.locator(".drawings")
    before = int(root.get_attribute("data-shown") or 0)
    act()
    expect(root).to_have_attribute("data-shown", str(before + 1))


def size(page: Page, key: str):  # type: ignore[no-untyped-def]
    return page.locator(f'.drawings-sheet .size[data-key="{key}"]')


def foot(page: Page, key: str) -> tuple[float, float]:
    box = size(page, key).locator("text").bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_a_drawing_is_worked_on_by_pointer_and_by_keyboard(page: Page, server: Server) -> None:
    opened(page, server)
    assert findings(page) == []
    x, y = foot(page, "front_across_4")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 9, y + 15)
    page.mouse.move(x + 9, y + 30)
    looked(page, page.mouse.up)
    moved = foot(page, "front_across_4")
    assert moved[0] == pytest.approx(x, abs=1)  # along its own line it does not move
    assert moved[1] == pytest.approx(y + 30, abs=2)

    size(page, "front_upright_1").focus()
    looked(page, lambda: page.keyboard.press("Delete"))
    expect(size(page, "front_upright_1")).to_have_count(0)
    expect(page.locator(".drawings-sizes .hidden")).to_have_count(1)
    assert page.evaluate("document.activeElement.closest('.size') !== null")
    size(page, "front_diameter_2").focus()
    before = foot(page, "front_diameter_2")
    looked(page, lambda: page.keyboard.press("Shift+ArrowRight"))
    assert foot(page, "front_diameter_2")[0] > before[0] + 5
    assert page.evaluate("document.activeElement.dataset.key") == "front_diameter_2"
    page.get_by_label("After the value").fill("H7")
    looked(page, lambda: page.keyboard.press("Tab"))
    expect(size(page, "front_diameter_2")).to_contain_text("8 H7")

    # two places of the view from the front: 47 mm from hole to hole
    for datum in ("low", "far"):
        spot = page.locator(f'.spot[data-view="front"][data-datum="{datum}"] .reach')
        if datum == "far":
            looked(page, lambda at=spot: at.click(force=True))
        else:
            spot.click(force=True)
            expect(page.locator(".drawings-keys")).to_contain_text("From low")
    expect(page.locator(".drawings-sizes")).to_contain_text("front: 47")
    # and by fields: the width again, from the side
    page.get_by_label("View").select_option(label="above")
    page.get_by_label("Along").select_option(label="the height")
    page.get_by_label("From", exact=True).select_option(label="top")
    page.get_by_label("To", exact=True).select_option(label="bottom")
    looked(page, lambda: page.get_by_role("button", name="Add size").click())
    expect(page.locator(".drawings-sizes")).to_contain_text("above: 6")
    assert findings(page) == []
    looked(page, lambda: page.keyboard.press("Control+z"))
    expect(page.get_by_role("button", name="Remove: above: 6")).to_have_count(0)
    with page.expect_download() as download:
        page.get_by_role("link", name=".svg").click()
    text = Path(download.value.path()).read_text(encoding="utf-8")
    assert ">47<" in text
    assert "H7" in text

    looked(page, lambda: page.get_by_label("Holes", exact=True).select_option(label="in a table"))
    expect(page.locator(".drawings-sheet text", has_text="From left, from below")).to_have_count(1)
    looked(page, lambda: page.get_by_label("Holes", exact=True).select_option(label="with dimensions"))
    # the mechanism changes: what is set goes along, and what is gone is told
    api = f"/api/mechanisms/{page.url.split('/')[-2]}"
    for path, value in (("parts.bracket.element.bores.far.x", "63 mm"), ("parts.bracket.element.bores.far.diameter", "9 mm"), ("parts.bracket.element.bores.low.diameter", "10 mm")):  # fmt: skip
        revision = server.call("GET", api).json()["revision"]
        command = {"kind": "set_value", "path": path, "value": value}
        answer = server.call("POST", f"{api}/commands", json={"revision": revision, "command": command})
        assert answer.status_code == 200, answer.text
    page.reload()
    expect(page.locator(".drawings-sizes")).to_contain_text("front: 49")
    expect(page.locator(".drawings-unclear li")).to_have_count(
        1
    )  # there is no hole of 8 mm any more, and one diameter more
    looked(page, lambda: page.locator(".drawings-unclear").get_by_role("button", name="Remove").click())
    expect(page.locator(".drawings-unclear li")).to_have_count(0)
    page.get_by_role("button", name="Delete drawing").click()
    expect(page.get_by_text("No drawing yet.")).to_be_visible()


def test_a_drawing_with_eight_sizes_and_a_section_in_few_actions(page: Page, server: Server) -> None:
    """From the open page of a bracket's mechanism: at most 14 (docs/decisions); what is drawn by itself needs none."""
    opened(page, server)  # 1: the part chosen, 2: added
    actions = 2
    assert page.locator(".drawings-sheet .size").count() >= 8
    expect(page.locator(".drawings-sheet text", has_text="A\u2013A")).to_have_count(1)
    with page.expect_download() as download:
        page.get_by_role("link", name="Export .pdf").click()
    actions += 1
    assert findings(page) == []
    assert Path(download.value.path()).read_bytes().startswith(b"%PDF")
    assert actions <= 14


def test_a_drawing_of_the_whole_looks_as_its_file(page: Page, server: Server) -> None:
    opened(page, server)
    page.get_by_label("New drawing of").select_option(label="the whole")
    looked(page, lambda: page.get_by_role("button", name="Add drawing").click())
    expect(page.get_by_label("Texture", exact=True)).to_be_hidden()  # of parts alone
    page.get_by_label("Notes").fill("Grease the pins.")
    looked(page, lambda: page.keyboard.press("Tab"))
    expect(page.locator(".drawings-sheet svg")).to_contain_text("Grease the pins.")
    text = page.locator(".drawings-sheet .stated text").first
    assert float(text.evaluate("(t) => getComputedStyle(t).fontSize.replace('px', '')")) == pytest.approx(3.5)
    page.get_by_label("Drawing", exact=True).select_option(label="Bracket")
    expect(page.get_by_label("Texture", exact=True)).to_be_visible()


def test_a_face_gets_a_texture(page: Page, server: Server) -> None:
    opened(page, server)
    looked(page, lambda: page.get_by_label("Texture", exact=True).select_option("3.2"))
    expect(page.locator(".drawings-sheet svg")).to_contain_text("Ra 3.2")
    add = page.get_by_role("button", name="Add texture")
    expect(add).to_be_disabled()
    page.get_by_label("Face", exact=True).select_option("right")
    page.get_by_label("At most").select_option("0.8")
    page.get_by_label("Material", exact=True).select_option("required")
    looked(page, add.click)
    sign = page.locator('.drawings-sheet .size[data-key^="texture_"]')
    expect(sign).to_contain_text("Ra 0.8")
    expect(page.get_by_label("After the value")).to_be_hidden()
    key = sign.get_attribute("data-key") or ""
    x, y = foot(page, key)
    sign.focus()
    looked(page, lambda: page.keyboard.press("Shift+ArrowRight"))
    looked(page, lambda: page.keyboard.press("ArrowUp"))
    moved = foot(page, key)
    assert moved[0] > x + 4
    assert moved[1] < y
    assert findings(page) == []
    looked(page, lambda: page.keyboard.press("Delete"))
    expect(sign).to_have_count(0)
    looked(page, lambda: page.keyboard.press("Control+z"))
    expect(sign).to_contain_text("Ra 0.8")
