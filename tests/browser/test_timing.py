"""The timing chart on the page: a programme is chosen for a joint, drawn by pointer and by keyboard, split and held against what is
wanted."""

from __future__ import annotations

import json

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.by_hand import evaluated, shelve, step
from tests.browser.test_carrying import document
from tests.conftest import Server
from uhrwerk import At, Bore, Draft, FramePlate, LinkBar, Pin, SlideSegment, drivers
from uhrwerk.core.document import Document
from uhrwerk.core.requirements.wanted_motion import WantedMotion
from uhrwerk.core.steps import AtPoints, Hole, Spot
from uhrwerk.demo.folder import folder

pytestmark = [pytest.mark.browser, pytest.mark.timeout(300), pytest.mark.xdist_group("timing")]


def undriven() -> Document:
    d = Draft("Two inputs")
    bores = {n: Bore(x=x, y="40 mm", diameter="6 mm") for n, x in (("a", "30 mm"), ("b", "90 mm"))}
    base = d.part("Base", "steel", FramePlate(length="120 mm", width="80 mm", bores=bores))
    tappet = d.part("Tappet", "brass", Pin(diameter="6 mm", length="40 mm"), x="30 mm", y="40 mm")
    arm = d.part("Arm", "steel", LinkBar(distance="40 mm"), x="90 mm", y="40 mm", z="12 mm")
    joint = d.prismatic("Tappet in base", base["a"], tappet["axis"])
    d.revolute("Arm on base", base["b"], arm["hole_1"], offset="12 mm")
    d.require(WantedMotion(name="Up", joint=joint, slide="25 mm", by="100 deg", until="180 deg"))
    return d.document


def segments(page: Page) -> dict[str, tuple[str, str, str]]:
    (driver,) = document(page)["drivers"].values()
    return {i: (s["to"], s["over"], s["law"]["kind"]) for i, s in driver["segments"].items()}


def test_a_programme_is_drawn_by_pointer_and_by_keyboard(page: Page, server: Server) -> None:
    shelve(page, server, undriven())
    step(page, "Drive")
    page.get_by_role("button", name="Drive a joint").click()
    page.locator("#driver-kind").select_option(label="Sliding by a programme")
    page.locator("#driver-joint").select_option(label="Tappet in base")
    page.get_by_role("button", name="Add drive").click()
    evaluated(page, 2)
    page.locator(".lanes text", has_text="Motor").first.click()
    corner = page.locator('[data-corner="out"]')
    expect(corner).to_have_attribute("aria-valuetext", "120°, 20 mm")
    box = corner.bounding_box()
    wide = page.locator('[data-segment="out"]').bounding_box()
    assert box is not None
    assert wide is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - wide["width"] * 20 / 120, y, steps=4)
    page.mouse.up()
    evaluated(page, 3)
    assert segments(page)["out"] == ("20 mm", "100 deg", "poly345")
    assert segments(page)["stay"] == ("20 mm", "80 deg", "poly345")
    expect(corner).to_be_focused()
    for _ in range(10):
        page.keyboard.press("ArrowUp")
    evaluated(page, 4)
    assert {s[0] for i, s in segments(page).items() if i in ("out", "stay")} == {"25 mm"}
    expect(page.locator(".verdicts, .strip").first).to_contain_text("holds", ignore_case=True)
    page.locator("#t-drivers\\.motor\\.segments\\.out\\.law").select_option(label="Modified sine")
    evaluated(page, 5)
    assert segments(page)["out"][2] == "modified_sine"
    page.get_by_role("button", name="Split", exact=True).click()
    evaluated(page, 6)
    assert [*segments(page)] == ["out", "out_2", "stay", "back", "rest"]
    page.keyboard.press("Control+z")
    evaluated(page, 5)
    page.locator('[data-corner="rest"]').focus()
    page.keyboard.press("Delete")
    evaluated(page, 7)  # 6 was undone, and stays a revision of its own
    assert segments(page)["back"][:2] == ("0 mm", "180 deg")


def test_what_cannot_be_drawn_says_why_and_nothing_is_lost(page: Page, server: Server) -> None:
    draft = undriven()
    data = json.loads(draft.model_dump_json())
    data["drivers"]["lift"] = {"kind": "slide_programme", "name": "Lift", "joint": "tappet_in_base"}
    shelve(page, server, Document.model_validate(data))
    step(page, "Drive")
    page.locator(".lanes text", has_text="Lift").first.click()
    page.locator('[data-corner="out"]').focus()
    # at once: on a busy machine some of them would be drawn, and stored, before the others come
    page.evaluate(
        """() => { for (let k = 0; k < 7; k++) document.activeElement.dispatchEvent(
            new KeyboardEvent("keydown", { key: "ArrowRight", shiftKey: true, bubbles: true })); }"""
    )
    expect(page.locator(".timing > .field-error")).to_contain_text("lies behind the end of stay")
    assert segments(page)["out"][1] == "120 deg"
    expect(page.locator('[data-corner="out"]')).to_be_focused()
    page.get_by_label("Shift what follows").check()
    page.locator('[data-corner="rest"]').focus()
    for _ in range(2):
        page.keyboard.press("Shift+ArrowLeft")
    evaluated(page, 2)
    assert segments(page)["rest"][1] == "40 deg"
    page.locator('.fields [data-path="drivers.lift.start"]').fill("5 mm")
    page.locator('.fields [data-path="drivers.lift.start"]').press("Tab")
    evaluated(page, 3)
    expect(page.locator("main, .workspace").first).to_contain_text("would jump by 5.00 mm")


def test_keys_pressed_while_the_server_computes_are_not_lost(page: Page, server: Server) -> None:
    data = json.loads(undriven().model_dump_json())
    data["drivers"]["lift"] = {"kind": "slide_programme", "name": "Lift", "joint": "tappet_in_base"}
    shelve(page, server, Document.model_validate(data))
    step(page, "Drive")
    page.locator(".lanes text", has_text="Lift").first.click()
    asked: list[Route] = []

    def hold(route: Route) -> None:  # the first is held back until more keys were pressed
        asked.append(route)
        if len(asked) > 1:
            route.continue_()

    page.route("**/timing", hold)
    page.locator('[data-corner="out"]').focus()
    page.keyboard.press("Shift+ArrowLeft")
    page.wait_for_timeout(600)
    assert len(asked) == 1
    for key in ("ArrowLeft", "ArrowLeft", "ArrowLeft", "ArrowUp", "ArrowUp"):
        page.keyboard.press(key)
    page.wait_for_timeout(600)
    assert len(asked) == 1
    asked[0].continue_()
    evaluated(page, 3)
    assert segments(page)["out"][:2] == ("21 mm", "107 deg")
    assert segments(page)["stay"][:2] == ("21 mm", "73 deg")


def test_a_failing_pressure_angle_is_mended_by_one_number(page: Page, server: Server) -> None:
    shelve(page, server, folder())
    expect(page.locator(".sum strong")).to_have_text("2 of 5 fail")
    expect(page.locator(".side")).to_contain_text("35.61 deg at 0.1268 s, at most 32.00 deg allowed")
    step(page, "Parts")
    page.locator('.list [data-path="parameters.base"]').click()
    field = page.locator('.fields [data-path="parameters.base.formula"]')
    field.fill("56 mm")
    field.press("Tab")
    evaluated(page, 2)
    expect(page.locator(".sum strong")).to_have_text("All 5 hold")


def test_segments_and_build_steps_are_dialled(page: Page, server: Server) -> None:
    draft = Draft("x", undriven())
    joint = next(iter(draft.document.joints))
    segments_ = {"up": SlideSegment(over="180 deg", to="20 mm"), "down": SlideSegment(over="180 deg", to="0 mm")}
    draft.drive(drivers.SlideProgramme(name="Motor", joint=joint, segments=segments_))
    draft.step("arm", Hole(name="Lightening", plane="xy", diameter="3 mm", at=AtPoints(spots={"a": Spot(x="20 mm")})))
    shelve(page, server, draft.document)
    page.locator(".lanes text", has_text="Motor").first.click()
    page.locator("#segment-at").select_option("up")
    dial = page.locator('.segment-open .field-row:has([data-path$="segments.up.to"]) .dial')
    dial.focus()
    for _ in range(3):
        dial.press("ArrowRight")
    expect(page.locator(".sum strong")).to_have_text("Changing: not proved yet")
    expect(dial).to_have_attribute("aria-valuetext", "20.3 mm")
    dial.press("Enter")
    evaluated(page, 2)
    assert segments(page)["up"][0] == "20.3 mm"
    step(page, "Parts")
    page.locator('.list [data-path="placed.arm"]').click()
    page.locator('[data-step="lightening"]').click()
    dial = page.locator('.step-open .field-row:has([data-path$="steps.lightening.diameter"]) .dial')
    dial.focus()
    dial.press("ArrowLeft")
    expect(dial).to_have_attribute("aria-valuetext", "2.9 mm")
    dial.press("Enter")
    evaluated(page, 3)
    assert document(page)["parts"]["arm"]["steps"]["lightening"]["diameter"] == "2.9 mm"


def test_play_pressed_before_the_motion_is_there_starts_with_it(page: Page, server: Server) -> None:
    shelve(page, server, undriven())
    step(page, "Drive")
    page.get_by_role("button", name="Drive a joint").click()
    page.locator("#driver-joint").select_option(label="Arm on base")
    held: list[Route] = []
    page.route("**/revisions/2/view", lambda route: route.continue_() if held else held.append(route))
    page.get_by_role("button", name="Add drive").click()
    play = page.get_by_role("button", name="Play", exact=True)
    play.click()
    expect(page.get_by_text("starts when it is computed")).to_be_visible()
    held[0].continue_()
    evaluated(page, 2)
    expect(page.get_by_role("button", name="Pause", exact=True)).to_be_visible()
    moment = page.locator(".cycle-head > .num")
    expect(moment).not_to_have_text(moment.inner_text())


def test_what_cannot_be_played_says_why(page: Page, server: Server) -> None:
    draft = Draft("x", undriven())
    draft.turn("Motor", "arm_on_base", "60 rpm")
    draft.parallel("Fixed", At(placed="base", datum="xz_plane"), At(placed="arm", datum="xz_plane"))
    shelve(page, server, draft.document)
    expect(page.locator(".cycle")).to_contain_text("Nothing to play: Motor cannot start")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_disabled()


def test_the_joint_of_a_drive_is_exchanged_in_one_action(page: Page, server: Server) -> None:
    draft = Draft("x", undriven())
    draft.drive(drivers.SlideProgramme(name="Motor", joint="tappet_in_base"))
    bores = {"c": Bore(x="20 mm", y="15 mm", diameter="6 mm")}
    plate = draft.part("Carrier", "steel", FramePlate(length="40 mm", width="30 mm", bores=bores), x="150 mm")
    slider = draft.part("Slider", "brass", Pin(diameter="6 mm", length="40 mm"), x="170 mm", y="15 mm")
    draft.rigid("Held", At(placed="base", datum="right"), plate["left"], flip=True)
    draft.prismatic("Slider in carrier", plate["c"], slider["axis"])
    shelve(page, server, draft.document)
    step(page, "Drive")
    page.locator('.list [data-path="drivers.motor"]').click()
    page.locator('[id="c-drivers.motor.joint"]').select_option(label="Slider in carrier")
    evaluated(page, 2)
    assert document(page)["drivers"]["motor"]["joint"] == "slider_in_carrier"
    expect(page.locator(".lanes")).to_contain_text("Motor")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_enabled()
