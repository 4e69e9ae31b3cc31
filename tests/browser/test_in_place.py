"""In place: from the empty shelf to a driven, proved mechanism, with every click, drag, key and field counted."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.by_hand import choose_requirement, document, evaluated, on_screen, revision, scene
from tests.conftest import Server

pytestmark = [pytest.mark.browser, pytest.mark.timeout(400), pytest.mark.xdist_group("in_place")]


class Hand:
    """Clicks and fills, and counts what it does. What it waits for does not count."""

    def __init__(self, page: Page) -> None:
        self.page, self.actions = page, 0

    def click(self, selector: str) -> None:
        self.page.locator(selector).click()
        self.actions += 1

    def press(self, name: str | re.Pattern[str]) -> None:
        self.page.get_by_role("button", name=name, exact=isinstance(name, str)).click()
        self.actions += 1

    def fill(self, selector: str, text: str) -> None:
        field = self.page.locator(selector)
        field.fill(text)
        field.blur()
        self.actions += 1

    def point(self, placed: str, datum: str) -> None:
        """Clicks on a datum on the stage; where another lies over it, it is chosen in the list, which counts too."""
        at, known = scene(self.page), f"{placed}/{datum}"
        d = next(d for d in at[placed]["datums"] if d["id"] == datum)
        pose = at[placed]["pose"]
        far = d["length"] if d["side"] == "pin" else 0.0  # a pin is seen at its end
        local = [o + far * z for o, z in zip(d["origin"], d["z"], strict=True)]
        point = self.page.evaluate(
            "([pose, p]) => document.querySelector('.stage-canvas').stage.world(pose, p)", [pose, local]
        )
        x, y = on_screen(self.page, point)
        self.page.mouse.move(x, y)
        self.page.mouse.click(x, y)
        self.actions += 1
        self.page.wait_for_timeout(300)
        if self.page.locator("#grow-at").is_hidden() or self.page.locator("#grow-at").input_value() != known:
            self.page.locator(".scheme .list button", has_text=at[placed]["name"]).first.click()
            self.page.locator("#grow-at").select_option(known)
            self.actions += 2

    def grow(self, title: str, **asked: str) -> None:
        self.page.locator("[data-sprout]", has_text=title).click()
        self.actions += 1
        for path, text in asked.items():
            self.fill(f'[data-grow="{path}"]', text)
        expect(self.page.get_by_role("button", name="Add", exact=True)).to_be_enabled()
        before = revision(self.page)
        self.press("Add")
        evaluated(self.page, before + 1)

    def drive(self) -> None:
        before = revision(self.page)
        self.click(".cycle button.act.small:not(:text-is('Play'))")
        evaluated(self.page, before + 1)


@pytest.fixture
def hand(page: Page, server: Server) -> Hand:
    page.goto(server.url)
    made = Hand(page)
    made.fill("#new-name", "By counted hand")
    made.press("Create")
    evaluated(page)
    made.press("Add a frame plate from the catalogue.")
    return made


def plate(hand: Hand) -> None:
    hand.click('[data-element="frame_plate"]')
    hand.press("Add to bores")
    expect(hand.page.locator(".element-form > .field-error")).to_be_empty()
    hand.press("Add")
    evaluated(hand.page, 2)


def proved(hand: Hand, most: int) -> None:
    expect(hand.page.locator(".sum strong")).to_have_text("All 2 hold")
    print(f"{hand.actions} actions, at most {most} asked")
    assert hand.actions <= most


def test_two_meshed_gears_in_sixteen_actions(hand: Hand) -> None:
    plate(hand)
    hand.point("frame_plate", "bore_1")
    hand.grow("A gear that turns in it", teeth="12")
    hand.point("gear", "axis")
    hand.grow("Its mate, on a shaft of its own in the plate", teeth="60")
    hand.drive()
    proved(hand, 16)


def test_a_hinge_in_fourteen_actions(hand: Hand) -> None:
    hand.click('[data-element="hinge_leaf"]')
    hand.press("Add")
    evaluated(hand.page, 2)
    hand.point("hinge_leaf", "pin")
    hand.grow("Its counterpart, on a pin", opens_to="110 deg")
    hand.drive()
    proved(hand, 14)


def test_a_four_bar_in_fourteen_actions(hand: Hand) -> None:
    plate(hand)
    hand.point("frame_plate", "bore_1")
    hand.grow("A crank that turns in it")
    hand.point("crank", "hole_2")
    hand.grow("A coupler and a rocker to the plate")
    hand.drive()
    proved(hand, 14)


def test_a_quick_return_in_fourteen_actions(hand: Hand) -> None:
    plate(hand)
    hand.point("frame_plate", "bore_1")
    hand.grow("A crank disc that turns in it")
    hand.point("crank_disc", "crank_pin")
    hand.grow("A slotted lever, its pivot in the plate")
    hand.drive()
    proved(hand, 14)


def test_a_cam_with_arm_roller_and_spring_in_twenty_seven_actions(hand: Hand) -> None:
    plate(hand)
    hand.point("frame_plate", "bore_1")
    hand.grow("A cam that turns in it, with arm, roller and spring", swing="24 deg", base="60 mm")
    hand.drive()
    proved(hand, 27)
    hand.press("Play")
    hand.page.wait_for_timeout(400)
    hand.press("Pause")
    before = revision(hand.page)
    hand.page.locator(".rail button", has_text="Checks").click()
    hand.press("New requirement")
    choose_requirement(hand.page, "pressure_angle")
    hand.page.locator("#req-pair").select_option(label="Cam moves Roller")
    hand.fill("#req-at_most", "25.5 deg")
    hand.page.locator("form.pane:visible button[type=submit]").click()
    evaluated(hand.page, before + 1)
    expect(hand.page.locator(".sum strong")).to_have_text("1 of 3 fail")
    cam = hand.page.locator(".rail button", has_text="Parts")
    cam.click()
    hand.page.locator('.list [data-path="placed.cam"]').click()
    hand.fill('.fields [data-path="parts.cam.element.base_diameter"]', "64 mm")
    evaluated(hand.page, before + 2)
    expect(hand.page.locator(".sum strong")).to_have_text("All 3 hold")


def test_a_coupling_between_two_shafts_with_its_mass_in_twenty_actions(hand: Hand) -> None:
    plate(hand)
    hand.point("frame_plate", "bore_1")
    hand.grow("A shaft that turns in it")
    shaft = next(i for i in scene(hand.page) if i != "frame_plate")
    hand.point(shaft, "axis")
    hand.grow("A jaw coupling to the next shaft", next_shaft="12 mm")
    hand.drive()
    proved(hand, 20)
    hand.page.locator('.list [data-path="placed.star"]').click()
    hand.actions += 1
    expect(hand.page.locator(".side .dim:visible").first).to_contain_text(" g")
    assert hand.actions <= 20


def test_what_is_typed_while_an_answer_is_under_way_stays_and_counts(hand: Hand) -> None:
    """The answer to the first number arrives while the second is being typed."""
    plate(hand)
    hand.point("frame_plate", "bore_1")
    page = hand.page
    page.locator("[data-sprout]", has_text="A cam that turns in it, with arm, roller and spring").click()
    expect(page.get_by_role("button", name="Add", exact=True)).to_be_enabled()
    held: list[Route] = []
    page.route("**/grow", lambda route: held.append(route))
    swing, base = page.locator('[data-grow="swing"]'), page.locator('[data-grow="base"]')
    swing.fill("24 deg")
    base.click()
    page.keyboard.press("Control+a")
    page.keyboard.type("6")
    assert len(held) == 1
    with page.expect_response("**/grow"):
        held[0].continue_()
    page.wait_for_timeout(300)
    page.unroute("**/grow")
    page.keyboard.type("0 mm")
    expect(base).to_have_value("60 mm")
    before = revision(page)
    page.keyboard.press("Enter")
    evaluated(page, before + 1)
    card = document(page)["parts"]["cam"]
    assert card["element"]["base_diameter"] == "60 mm"
    expect(page.get_by_text("There is no such part")).to_be_hidden()
