"""The whole job through the real page alone: from an empty mechanism to a verdict, a mended size, undo and reload."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import check_moves, choose_requirement, join, on_screen, revision, scene, still
from tests.browser.conftest import evaluated
from tests.conftest import Server

pytestmark = [pytest.mark.browser, pytest.mark.timeout(400), pytest.mark.xdist_group("from_empty")]


def take(
    page: Page, title: str, name: str, material: str = "", maps: tuple[tuple[str, int], ...] = (), **sizes: str
) -> None:
    """Adds an element from the catalogue beside the stage."""
    if page.locator("#catalogue-search").is_hidden():
        page.get_by_role("button", name="Add from the catalogue").click()
    page.locator(f'[data-element="{title.lower().replace(" ", "_")}"]').last.click()
    expect(page.get_by_role("heading", level=2, name=title)).to_be_visible()
    page.locator("#element-name").fill(name)
    if material:
        page.locator("#element-material").select_option(material)
    for collection, count in maps:
        for n in range(1, count + 1):
            page.get_by_role("button", name=f"Add to {collection}").click()
            expect(page.locator(f'[data-path="{collection}.{collection[:-1]}_{n}.x"]')).to_be_visible()
    for path, text in sizes.items():
        page.locator(f'[data-path="{path.replace("__", ".")}"]').fill(text)
    expect(page.locator(".derived div").first).to_be_visible()
    expect(page.locator(".element-form > .field-error")).to_be_empty()
    before = revision(page)
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, before + 1)


def point_at(page: Page, point: tuple[float, float, float], words: str) -> None:
    """Moves to a point of the stage, steps through what lies there until the datum is the one wanted, and clicks."""
    x, y = on_screen(page, point)
    page.mouse.move(x, y)
    for _ in range(8):
        if words in page.locator(".flag").inner_text():
            break
        page.keyboard.press("n")
    assert words in page.locator(".flag").inner_text()
    page.mouse.click(x, y)


def test_from_an_empty_mechanism_to_a_mended_one(page: Page, server: Server) -> None:
    page.goto(server.url)
    page.get_by_label("New mechanism").fill("Foil tucker of mine")
    page.get_by_role("button", name="Create").click()
    expect(page.get_by_role("heading", name="Three things to do first")).to_be_visible()

    # parts
    page.get_by_role("button", name="Add a frame plate from the catalogue.").click()
    expect(page.locator("#catalogue-search")).to_be_visible()
    take(page, "Frame plate", "Plate", "aluminium", (("bores", 3), ("posts", 1)),
         length="226 mm", width="150 mm", bores__bore_1__x="44 mm", bores__bore_1__y="52 mm",
         bores__bore_2__x="44 mm + 1.5 mm * (18 + 54) / 2", bores__bore_2__y="52 mm", bores__bore_3__x="186 mm",
         bores__bore_3__y="34 mm", posts__post_1__x="214 mm", posts__post_1__y="114 mm", posts__post_1__diameter="8 mm",
         posts__post_1__height="22 mm")  # fmt: skip
    take(page, "Spur gear", "Pinion", module="1.5 mm", teeth="18", thinning="0.05 mm")
    take(page, "Spur gear", "Wheel", "brass", (("pins", 1),), module="1.5 mm", teeth="54", thinning="0.05 mm",
         pins__pin_1__x="22 mm", pins__pin_1__diameter="5 mm", pins__pin_1__height="7 mm")  # fmt: skip
    take(page, "Link bar", "Coupler", "aluminium", distance="88 mm", width="13 mm", bore_1="5.05 mm")
    take(
        page, "Link bar", "Rocker", "aluminium", distance="62 mm", width="15 mm", finger="36 mm", finger_width="12.8 mm"
    )
    page.keyboard.press("Escape")
    expect(page.locator(".rail button", has_text="Parts")).to_contain_text("5")
    expect(page.locator(".rail button", has_text="Joints")).to_have_class(re.compile("bad"))  # four parts are loose

    # the first joint by pointing at two datums on the stage
    page.get_by_label("View from").select_option("top")
    still(page)
    page.locator(".stage-canvas").focus()
    placed = scene(page)
    page.keyboard.press("j")
    point_at(page, (0.044, 0.052, 0.0), "bore 1")
    expect(page.locator("#join-a")).to_have_value("plate/bore_1")
    pinion = page.evaluate(
        "() => { const p = document.querySelector('.stage-canvas').stage.parts.get('pinion').group.position; return [p.x, p.y, p.z]; }"
    )
    point_at(page, (pinion[0], pinion[1], 0.006), "axis")
    expect(page.locator("#join-b")).to_have_value("pinion/axis")
    page.get_by_role("button", name=re.compile("^Turns about the axis 1")).wait_for()
    page.locator('[data-ask="offset"]').fill("1 mm")
    before = revision(page)
    page.locator('[data-ask="offset"]').press("Enter")
    evaluated(page, before + 1)
    check_moves(placed, scene(page), "plate/bore_1", "pinion/axis", "revolute", False, False, {"offset": "1 mm"})
    # the tool stays ready; the others from the list, as the keyboard would
    join(page, "plate/bore_2", "wheel/axis", offset="1 mm")
    join(page, "pinion/axis", "wheel/axis", "gear", closing=True)
    join(page, "wheel/pin_1", "coupler/hole_1", offset="1 mm")
    join(page, "plate/bore_3", "rocker/hole_1", offset="15 mm")
    join(page, "coupler/hole_2", "rocker/hole_2", offset="7 mm", closing=True)
    page.keyboard.press("Escape")
    expect(page.locator(".scheme h2 small")).to_have_text("2 loops · mobility 1")

    # drive
    page.locator(".rail button", has_text="Drive").click()
    page.get_by_role("button", name="Drive a joint").click()
    page.locator("#driver-joint").select_option(label="Pinion turns in Plate")
    page.locator("#driver-speed").fill("120 rpm")
    page.locator("#driver-cycle").fill("3 rev / (120 rpm)")
    before = revision(page)
    page.get_by_role("button", name="Add drive").click()
    page.wait_for_function(f"() => Number(document.querySelector('.top .num').textContent.split(' ')[1]) > {before}")
    evaluated(page)
    expect(page.locator(".cycle-head")).to_contain_text("of 1.500 s")

    # two requirements more
    def ask(kind: str, name: str, limited: str, limit: str, choices: dict[str, str]) -> None:
        page.locator(".tile.add").click()
        choose_requirement(page, kind)
        page.locator("#req-name").fill(name)
        for field, value in choices.items():
            page.locator(f"[id='req-{field}']").select_option(value)
        page.locator(f"#req-{limited}").fill(limit)
        before = revision(page)
        page.get_by_role("button", name="Add", exact=True).click()
        evaluated(page, before + 1)

    ask("clearance", "Rocker clears post", "at_least", "1 mm", {"a.placed": "rocker", "b.placed": "plate/post_1"})

    ask("mass", "Moving mass", "at_most", "420 g", {"of": "moving"})
    expect(page.locator(".sum strong")).to_have_text("2 of 4 fail")

    # play, both ways
    moment = page.locator(".cycle-head > .num")
    page.get_by_role("button", name="Play").click()
    seen = moment.inner_text()
    expect(moment).not_to_have_text(seen)
    page.get_by_role("button", name="forward").click()
    page.get_by_role("button", name="Pause").click()

    # read the failing verdict and open its worst moment
    tile = page.locator("[data-requirement=rocker_clears_post]")
    expect(tile).to_contain_text("deep")
    tile.click()
    expect(page.locator(".told.fails")).to_contain_text("overlap by 0.4")
    at = float(moment.inner_text().split("°")[0])
    assert 300 < at < 350
    expect(page.locator(".flag")).to_contain_text("mm deep at")

    # change one size and read that it holds
    page.locator(".rail button", has_text="Parts").click()
    page.locator('[data-path="placed.rocker"]').first.click()
    field = page.locator('[data-path="parts.rocker.element.finger_width"]')
    field.fill("9.6 deg")
    field.press("Enter")
    expect(page.locator(".fields .field-error:visible")).to_contain_text("gives angle, but length is required")
    expect(field).to_have_value("9.6 deg")  # the text is kept
    before = revision(page)
    field.fill("9.6 mm")
    field.press("Enter")
    evaluated(page, before + 1)
    expect(page.locator(".sum strong")).to_have_text("All 4 hold")
    expect(page.locator(".sum span")).to_have_text("since the last change: 2 now hold, 0 newly fail")

    # undo and redo, reload
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".sum strong")).to_have_text("2 of 4 fail")
    page.keyboard.press("Escape")
    page.locator(".stage-canvas").focus()
    page.keyboard.press("Control+y")
    expect(page.locator(".sum strong")).to_have_text("All 4 hold")
    last = revision(page)
    page.reload()
    evaluated(page)
    assert revision(page) == last
    expect(page.locator(".sum strong")).to_have_text("All 4 hold")
    expect(page.locator(".rail button", has_text="Joints")).to_contain_text("6")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".sum strong")).to_have_text("2 of 4 fail")
