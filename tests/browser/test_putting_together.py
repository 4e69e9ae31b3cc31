"""Putting together on the real page: a hinge by relations, a ring repeated, a quick return, planets, a group used twice."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.by_hand import (
    choose_requirement,
    datum,
    document,
    drag,
    join,
    on_screen,
    revision,
    scene,
    shelve,
    step,
    still,
    turn_of,
)
from tests.browser.conftest import evaluated
from tests.conftest import Server
from tests.mechanisms import crossed_ring, gear_train, planetary
from uhrwerk import Block, Bore, Draft, EccentricDisc, FramePlate, HingeLeaf, LinkBar, Pin, SlottedLever
from uhrwerk.core.document import command
from uhrwerk.core.outlines import Rectangle
from uhrwerk.core.steps import Extrude

pytestmark = [pytest.mark.browser, pytest.mark.timeout(500), pytest.mark.xdist_group("putting_together")]


def field(page: Page, path: str, text: str) -> None:
    before = revision(page)
    page.locator(f'[data-path="{path}"]').fill(text)
    page.locator(f'[data-path="{path}"]').press("Enter")
    evaluated(page, before + 1)


def test_a_hinge_by_relations_alone_stops_at_its_limit_beyond_half_a_turn(page: Page, server: Server) -> None:
    draft = Draft("Hinge")
    draft.part("Leaf", "steel", HingeLeaf())
    draft.part("Lid leaf", "steel", HingeLeaf(first=False), x="15 mm", y="20 mm", z="75 mm", turn_x="170 deg")
    draft.part("Pin", "steel", Pin(diameter="5 mm", length="60 mm"), x="-30 mm", y="10 mm", z="4 mm", turn_y="8 deg")
    shelve(page, server, draft.document)
    step(page, "Joints")
    page.get_by_role("button", name="Join from a list").click()
    join(page, "leaf/pin", "pin/axis", "concentric")
    join(page, "leaf/bottom", "pin/bottom", "flush", closing=True)
    join(page, "leaf/pin", "lid_leaf/pin", "concentric")
    join(page, "leaf/bottom", "lid_leaf/top", "flush", closing=True)
    page.keyboard.press("Escape")
    expect(page.locator(".scheme h2 small")).to_contain_text("mobility 2")
    page.locator('.list [data-path="relations.lid_leaf_concentric_to_leaf"]').click()
    expect(page.locator(".side .preview-words:visible")).to_have_text(
        "concentric and flush: Lid leaf turns against Leaf"
    )
    field(page, "relations.lid_leaf_concentric_to_leaf.turn_from", "0 deg")
    field(page, "relations.lid_leaf_concentric_to_leaf.turn_to", "250 deg")
    page.get_by_label("View from").select_option("top")
    still(page)

    told = scene(page)["lid_leaf"]["pose"]
    held = np.array(told[:3]) + turn_of(told).apply([0.022, -0.003, 0.03])

    def at(turned: float) -> np.ndarray:
        return Rz(turned) @ held

    drag(page, [at(t) for t in np.radians(np.arange(0, 300, 12))])
    expect(page.locator(".stage-hint")).to_contain_text("is at its limit of 250.00 deg")
    now = turn_of(scene(page)["lid_leaf"]["pose"]).apply([1.0, 0, 0])
    assert np.degrees(np.arctan2(now[1], now[0])) % 360 == pytest.approx(250, abs=0.01)
    before = revision(page)
    page.mouse.up()
    evaluated(page, before + 1)  # where it was left is kept, and can be undone
    page.get_by_role("button", name="Undo").click()
    evaluated(page, before)


def test_the_gripper_ring_is_repeated_from_one_pair_and_dragged_open_and_shut(page: Page, server: Server) -> None:
    draft = Draft("Ring", crossed_ring(6))
    for path in ("repeats.ring", "drivers.drive", "joints.crossing"):
        if path.split(".")[1] in getattr(draft.document, path.split(".")[0]):
            draft.do(command.Remove(path=path))
    for kind in ("joints", "pairs"):  # what hung on copies is gone with them, or is taken away here
        for i, item in list(getattr(draft.document, kind).items()):
            if any("link" in getattr(getattr(item, s), "placed", "") for s in "ab"):
                draft.do(command.Remove(path=f"{kind}.{i}"))
    shelve(page, server, draft.document)
    step(page, "Joints")
    page.get_by_role("button", name="Join from a list").click()
    join(page, "link/hole_1", "cross_link/hole_1", offset="3 mm")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Repeat parts").click()
    page.locator("#rep-name").fill("Ring")
    for part in ("link", "cross_link"):
        page.locator(f'form:visible [data-member="{part}"]').check()
    page.locator("#rep-datum").select_option("plate/centre")
    page.locator("#rep-count").fill("2 * 3")
    before = revision(page)
    page.get_by_role("button", name="Repeat", exact=True).click()
    evaluated(page, before + 1)
    step(page, "Parts")
    page.locator('.list [data-path="placed.cross_link copies"]').click()  # copies are folded under their original
    expect(page.locator('.list [data-path="placed.cross_link__6"]')).to_be_visible()
    step(page, "Joints")
    page.get_by_role("button", name="Join from a list").click()
    join(page, "cross_link/hole_2", "link__2/hole_2", offset="-3 mm", closing=True)
    join(page, "link/hole_3", "cross_link__2/hole_3", offset="3 mm", closing=True)
    join(page, "plate/top", "link__2/bottom", "planar", closing=True)
    for k in (2, 4, 6):
        join(page, f"link__{k}/hole_1", f"rail_{k}/slot", "slot", closing=True)
    page.keyboard.press("Escape")
    expect(page.locator(".scheme h2 small")).to_contain_text("mobility 1")
    page.get_by_label("View from").select_option("top")
    still(page)

    def radii() -> np.ndarray:
        told = scene(page)
        return np.array([np.linalg.norm(told[p]["pose"][:2]) for p in ("link", *(f"link__{k}" for k in range(2, 7)))])

    wide = radii()
    assert np.ptp(wide) < 1e-6
    third = scene(page)["cross_link__3"]["pose"]
    hold = np.array(third[:3]) + turn_of(third).apply([0.005, 0, 0.003])  # beside the bore
    shut = [hold * [s, s, 1] for s in np.linspace(1, 0.66, 10)]
    drag(page, shut)
    narrow = radii()
    assert np.ptp(narrow) < 1e-6  # one ring still, of another size
    assert narrow[0] < 0.75 * wide[0]
    for point in shut[:1:-1]:  # not quite to the widest place, where a ring may branch
        page.mouse.move(*on_screen(page, point))
        page.wait_for_timeout(150)
    page.wait_for_timeout(400)
    again = radii()
    assert np.ptp(again) < 1e-6
    assert again[0] > 1.2 * narrow[0]
    page.mouse.up()


def test_a_slotted_lever_quick_return_is_joined_and_run(page: Page, server: Server) -> None:
    draft = Draft("Quick return")
    bores = {
        "lever": Bore(x="40 mm", y="60 mm", diameter="8 mm"),
        "crank": Bore(x="120 mm", y="60 mm", diameter="8 mm"),
    }
    draft.part("Plate", "steel", FramePlate(length="200 mm", width="120 mm", bores=bores))
    draft.part(
        "Disc",
        "steel",
        EccentricDisc(diameter="80 mm", eccentricity="30 mm"),
        x="100 mm",
        y="20 mm",
        z="14 mm",
        turn_z="20 deg",
    )
    draft.part("Lever", "steel", SlottedLever(slot_length="70 mm"), x="60 mm", y="90 mm", z="30 mm", turn_x="6 deg")
    shelve(page, server, draft.document)
    step(page, "Joints")
    page.get_by_role("button", name="Join from a list").click()
    join(page, "plate/crank", "disc/axis")
    join(page, "plate/lever", "lever/pivot", offset="8 mm")
    join(page, "disc/crank_pin", "lever/slot", "slot", closing=True)
    page.keyboard.press("Escape")
    expect(page.locator(".scheme h2 small")).to_contain_text("mobility 1")
    step(page, "Drive")
    page.get_by_role("button", name="Drive a joint").click()
    page.locator("#driver-joint").select_option(label="Disc turns in Plate")
    before = revision(page)
    page.get_by_role("button", name="Add drive").click()
    evaluated(page, before + 1)
    page.locator(".tile.add").click()
    choose_requirement(page, "time_ratio")
    page.locator("#req-joint").select_option(label="Lever turns in Plate")
    page.locator("#req-at_least").fill("1.8")
    before = revision(page)
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, before + 1)
    # (180 + 2 asin(30 / 80)) / (180 - 2 asin(30 / 80)) = 1.648
    expect(page.locator(".tile.fails")).to_contain_text("1.648")
    page.get_by_role("button", name="Play").click()
    moment = page.locator(".cycle-head > .num")
    seen = moment.inner_text()
    expect(moment).not_to_have_text(seen)
    page.get_by_role("button", name="Pause").click()


def test_a_planetary_set_is_phased_and_run(page: Page, server: Server) -> None:
    draft = Draft("Planets", planetary(24, 12, 3, "ring"))
    for path in (
        "repeats.planets",
        "pairs.sun_and_planet",
        "pairs.planet_and_ring",
        "joints.planet_on_pin",
        "joints.sun_turns",
        "requirements.nothing_overlaps",
    ):
        if path.split(".")[1] in getattr(draft.document, path.split(".")[0]):
            draft.do(command.Remove(path=path))
    shelve(page, server, draft.document)
    step(page, "Joints")
    page.get_by_role("button", name="Join from a list").click()
    join(page, "plate/centre", "sun/axis", offset="20 mm")
    join(page, "carrier/pin_1", "planet/axis", offset="6 mm")
    join(page, "sun/axis", "planet/axis", "gear", closing=True)
    join(page, "planet/axis", "ring/axis", "gear", closing=True)
    page.keyboard.press("Escape")
    page.locator('.list [data-path="joints.planet_turns_in_carrier"]').click()
    page.get_by_role("button", name="Repeat parts").click()
    page.locator('form:visible [data-member="planet"]').check()
    page.locator("#rep-datum").select_option("carrier/axis")
    before = revision(page)
    page.get_by_role("button", name="Repeat", exact=True).click()
    evaluated(page, before + 1)
    expect(page.locator(".problem")).to_be_hidden()
    expect(page.locator(".scheme h2 small")).to_contain_text("mobility 1")
    step(page, "Drive")
    page.get_by_role("button", name="Drive a joint").click()
    page.locator("#driver-joint").select_option(label="Sun turns in Plate")
    before = revision(page)
    page.get_by_role("button", name="Add drive").click()
    evaluated(page, before + 1)
    begun = scene(page)
    page.locator("input.cursor").fill("0.5")
    page.wait_for_timeout(300)
    told = scene(page)
    turned = (turn_of(told["carrier"]["pose"]) * turn_of(begun["carrier"]["pose"]).inv()).as_rotvec()[2]
    whole = float(re.findall(r"of ([\d.]+) s", page.locator(".cycle-head > .num").inner_text())[0])
    assert np.cos(turned - 2 * np.pi * (whole / 2) * 24 / 72) == pytest.approx(
        1, abs=1e-4
    )  # 60 rpm through the carrier


def test_a_group_used_twice_moves_inside_each_on_its_own(page: Page, server: Server) -> None:
    draft = Draft("Arms")
    bores = {"one": Bore(x="30 mm", y="50 mm"), "two": Bore(x="110 mm", y="50 mm")}
    plate = draft.part("Plate", "steel", FramePlate(bores=bores))
    upper = draft.part("Upper", "steel", LinkBar(distance="40 mm"), x="30 mm", y="50 mm")
    lower = draft.part("Lower", "steel", LinkBar(distance="30 mm"), x="70 mm", y="50 mm", z="5 mm", turn_z="40 deg")
    draft.revolute("Elbow", upper["hole_2"], lower["hole_1"], offset="5 mm")
    draft.revolute("Shoulder", plate["one"], upper["hole_1"])
    shelve(page, server, draft.document)
    page.get_by_role("button", name="New group").click()
    page.locator("#grp-name").fill("Arm")
    for part in ("upper", "lower"):
        page.locator(f'form:visible [data-member="{part}"]').check()
    before = revision(page)
    page.get_by_role("button", name="Create group").click()
    evaluated(page, before + 1)
    page.locator('.list [data-path="groups.arm"]').click()
    page.get_by_role("button", name="Duplicate", exact=True).click()
    page.locator('[data-shift="x"]').fill("70 mm")
    page.locator('[data-shift="x"]').press("Tab")
    before = revision(page)
    page.get_by_role("button", name="Repeat", exact=True).click()
    evaluated(page, before + 1)
    step(page, "Joints")
    page.get_by_role("button", name="Join from a list").click()
    join(page, "plate/two", "upper__2/hole_1", closing=True)
    page.keyboard.press("Escape")
    expect(page.locator(".scheme h2 small")).to_contain_text("mobility 4")
    page.get_by_label("View from").select_option("top")
    still(page)
    told = scene(page)
    elbow = np.array(told["lower__2"]["pose"][:3])
    out = turn_of(told["lower__2"]["pose"]).apply([0.025, 0, 0.005])
    path = [elbow + Rz(t) @ out for t in np.radians(np.arange(0, 50, 6))]
    drag(page, path)
    after = scene(page)
    assert turned_by(told, after, "lower__2") > np.radians(15)
    for part in ("upper", "lower"):
        assert turned_by(told, after, part) < 1e-6
    page.mouse.up()


def turned_by(before: dict, after: dict, part: str) -> float:
    return float((turn_of(after[part]["pose"]) * turn_of(before[part]["pose"]).inv()).magnitude())


def Rz(angle: float) -> np.ndarray:
    c, s = np.cos(angle), np.sin(angle)
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])


def test_two_distances_that_contradict_are_both_named_and_nothing_moves(page: Page, server: Server) -> None:
    draft = Draft("Contradiction")
    plate = draft.part("Plate", "steel", FramePlate())
    block = draft.part("Block", "steel", FramePlate(length="40 mm", width="30 mm"), x="60 mm", y="30 mm", z="22 mm")
    draft.distance("Ten above", plate["top"], block["bottom"], distance="10 mm")
    shelve(page, server, draft.document)
    before = scene(page)
    step(page, "Joints")
    page.get_by_role("button", name="Join from a list").click()
    page.locator("#join-a").select_option("plate/top")
    page.locator("#join-b").select_option("block/bottom")
    expect(page.locator(".candidates button").first).to_be_visible()
    page.get_by_role("button", name=re.compile(r"^and \d+ more")).click()
    page.locator('[data-candidate="distance"]').click()
    page.locator('[data-ask="distance"]').fill("12 mm")
    page.locator('[data-ask="distance"]').press("Tab")
    expect(page.locator(".pane:visible .field-error")).to_contain_text(
        "These cannot hold together: 'Ten above', 'Block distance to Plate'"
    )
    expect(page.get_by_role("button", name="Join as shown")).to_be_disabled()
    page.wait_for_timeout(400)
    after = scene(page)
    for part in before:
        assert after[part]["pose"] == pytest.approx(before[part]["pose"], abs=1e-9)
    page.keyboard.press("Escape")
    assert revision(page) == 1


def test_a_cap_is_joined_as_the_image_of_another_behind_a_plane(page: Page, server: Server) -> None:
    draft = Draft("Tank")
    draft.part("Tank", "steel", Block(length="100 mm", width="40 mm", height="40 mm"))
    for name, x in (("Cap", "-80 mm"), ("Other cap", "95 mm")):
        draft.part(name, "brass", Block(length="10 mm", width="40 mm", height="40 mm"), x=x, y="3 mm")
    shelve(page, server, draft.document)
    page.keyboard.press("j")
    page.locator("#join-a").select_option("cap/right")
    page.locator("#join-b").select_option("other_cap/left")
    expect(page.locator(".candidates button").first).to_be_visible()
    page.get_by_role("button", name=re.compile(r"^and \d+ more")).click()
    page.locator('[data-candidate="symmetric"]').click()
    expect(page.locator("#join-about")).to_have_value(
        "tank/middle_yz"
    )  # the middle between both, and square to their way
    page.locator("#join-about").select_option("tank/left")
    with page.expect_response("**/try"):
        page.locator("#join-about").select_option("tank/middle_yz")
    page.get_by_role("button", name="Join as shown").click()
    evaluated(page, 2)
    at = {p: scene(page)[p]["pose"] for p in ("cap", "other_cap")}
    inner, outer = at["cap"][0] + 0.005, at["other_cap"][0] - 0.005
    assert inner == pytest.approx(-outer, abs=1e-8)
    assert document(page)["relations"]["other_cap_symmetric_to_cap"]["about"]["datum"] == "middle_yz"


def test_an_answer_about_datums_that_are_no_longer_chosen_offers_nothing(page: Page, server: Server) -> None:
    """The candidates for two axes arrive after a face was chosen instead of the second."""
    shelve(page, server, gear_train())
    held: list[Route] = []
    page.route("**/candidates", lambda route: route.continue_() if held else held.append(route))
    page.keyboard.press("j")
    page.locator("#join-a").select_option("plate/one")
    page.locator("#join-b").select_option("pinion/axis")
    page.locator("#join-a").select_option("plate/top")
    page.locator("#join-b").select_option("pinion/bottom")
    offered = page.locator(".candidates button")
    expect(page.locator('[data-candidate="planar"]')).to_be_visible()
    before = offered.all_inner_texts()
    with page.expect_response("**/candidates"):
        held[0].continue_()
    page.wait_for_timeout(300)
    assert offered.all_inner_texts() == before


def test_a_datum_is_drawn_with_its_axes_where_it_joins(page: Page, server: Server) -> None:
    """Under the pointer, and of a joint that is selected: the dot lies where the equations have the origin; a place beside a datum
    moves it, and the part with it."""
    draft = Draft("Marks")
    plate = draft.part("Plate", "steel", FramePlate(bores={"b": Bore(x="30 mm", y="30 mm")}))
    block = draft.part("Block", "steel", FramePlate(length="30 mm", width="20 mm", thickness="6 mm"), z="20 mm")
    draft.rigid("Held", plate["top"], block["bottom"], flip=True)
    shelve(page, server, draft.document)
    page.get_by_label("View from").select_option("top")
    still(page)
    dots = """() => document.querySelector('.stage-canvas').stage.marks.datums.children.map((g) => {
        const dot = g.children.find((c) => c.geometry.type === 'SphereGeometry'); dot.updateMatrixWorld(true);
        return dot.getWorldPosition(dot.position.clone()).toArray(); })"""
    x, y = on_screen(page, [0.140, 0.020, 0.0])
    page.mouse.move(x, y)
    page.wait_for_function(f"() => ({dots})().length === 1")
    np.testing.assert_allclose(page.evaluate(dots)[0], [0.080, 0.050, 0.0], atol=1e-6)  # the middle of the plate's top
    page.mouse.move(5, 795)
    page.locator(".rail button", has_text="Joints").click()
    page.locator('.list [data-path="joints.held"]').click()
    np.testing.assert_allclose(page.evaluate(dots), [[0.080, 0.050, 0.0]] * 2, atol=1e-6)
    page.get_by_text("Offset from the datums").click()
    field(page, "joints.held.a.x", "12.5 mm")
    page.wait_for_function(f"() => ({dots})().every((p) => Math.abs(p[0] - 0.0925) < 1e-6)")
    np.testing.assert_allclose(page.evaluate(dots), [[0.0925, 0.050, 0.0]] * 2, atol=1e-6)
    assert scene(page)["block"]["pose"][0] == pytest.approx(0.0925 - 0.015, abs=1e-6)


def test_an_edge_and_a_corner_are_found_under_the_pointer(page: Page, server: Server) -> None:
    """While joining: on the edge and in the corner, seen from above; not what a face hides; elsewhere the face."""
    draft = Draft("Edges")
    for name, x in (("One", "0 mm"), ("Other", "60 mm")):
        block = Extrude(name="Block", outline=Rectangle(length="40 mm", width="20 mm"), length="10 mm")
        draft.own_part(name, "steel", {"block": block}, x=x)
    shelve(page, server, draft.document)
    page.get_by_label("View from").select_option("top")
    still(page)
    words = page.locator(".flag")

    def point(part: float, x: float, y: float) -> None:
        page.mouse.move(*on_screen(page, [part + x, y, 0.01]))

    point(0, 0.02, 0.003)
    expect(words).not_to_contain_text("edge")
    page.keyboard.press("j")
    point(0, 0.02, 0.003)
    expect(words).to_contain_text("One, edge of top and right face: edge")
    point(0, 0.02, 0.01)
    expect(words).to_contain_text("One, corner of top, right and back face: corner (1 of")
    x, y = on_screen(page, [0.02, 0.003, 0.01])
    shown = page.evaluate(
        "([x, y]) => document.querySelector('.stage-canvas').stage.picking.under({clientX: x, clientY: y}, true).map((f) => f.datum?.id)",
        [x - 2, y],  # on the block's top
    )
    assert "block.end+block.side_2" in shown
    assert "block.side_2+block.start" not in shown  # lies under it, hidden by the block itself
    page.mouse.click(*on_screen(page, [0.02, 0.003, 0.01]))
    expect(page.locator("#join-a")).to_have_value("one/block.end+block.side_2")
    point(0.06, 0.0, 0.0)
    expect(words).to_contain_text("Other, top face: face")
    page.mouse.click(*on_screen(page, [0.06 - 0.02, 0.003, 0.01]))
    expect(page.locator("#join-b")).to_have_value("other/block.end+block.side_4")
    page.locator('[data-candidate="revolute"]').click()
    page.locator(".preview-words:visible").first.wait_for()
    before = revision(page)
    page.keyboard.press("Enter")
    evaluated(page, before + 1)
    told = scene(page)
    ends = [datum(told, end) for end in ("one/block.end+block.side_2", "other/block.end+block.side_4")]
    np.testing.assert_allclose(ends[0][0], ends[1][0], atol=1e-6)
    np.testing.assert_allclose(ends[0][1], ends[1][1], atol=1e-6)
