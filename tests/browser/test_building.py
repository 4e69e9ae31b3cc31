"""Parts of one's own, on the page alone: from nothing, at faces pointed at, a step that fails and is mended."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.by_hand import (
    applied,
    choose_step,
    document,
    drafted,
    drafts,
    evaluated,
    join,
    revision,
    scene,
    shelve,
)
from tests.conftest import Server
from tests.core import test_build_steps
from tests.core.test_files_in import plate
from tests.parts import tray
from uhrwerk import Document, Draft, Evaluator, Pin
from uhrwerk.core.exchange import written
from uhrwerk.core.outlines import Circle, Rectangle
from uhrwerk.core.steps import Extrude, Hole, OnGrid

pytestmark = [pytest.mark.browser, pytest.mark.timeout(300), pytest.mark.xdist_group("building")]


def field(page: Page, path: str, text: str) -> None:
    """A field of the open step, in a draft or as a revision."""
    before, looks = revision(page), drafts(page)
    in_draft = page.get_by_role("region", name="Draft").is_visible()
    control = page.locator(f'[id="s-{path}"]')
    if control.evaluate("(e) => e.tagName") == "SELECT":
        control.select_option(text)
    else:
        control.fill(text)
        control.press("Enter")
    if in_draft:
        drafted(page, looks)
    else:
        evaluated(page, before + 1)


def add(page: Page, kind: str) -> None:
    looks = drafts(page)
    choose_step(page, kind)
    drafted(page, looks)
    expect(page.locator(".step-open")).to_be_visible()


def grow(page: Page, datum: str, offer: str, **asked: str) -> None:
    """One thing done at a face: chosen, its numbers filled, seen on the stage, taken."""
    before = revision(page)
    page.locator("#grow-at").select_option(datum)
    page.locator(f'[data-sprout="{offer}"]').click()
    for path, text in asked.items():
        page.locator(f'[data-grow="{path}"]').fill(text)
        page.locator(f'[data-grow="{path}"]').press("Tab")
    take(page)
    evaluated(page, before + 1)


def take(page: Page) -> None:
    button = page.get_by_role("button", name=re.compile("^(Add|Apply)$"))
    expect(button).to_be_enabled()
    button.click()


def test_a_bracket_from_nothing(page: Page, server: Server) -> None:
    shelve(page, server, Document(name="Bracket"))
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator('[data-element="blank"]').first.click()
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, 2)
    part = next(iter(document(page)["parts"]))
    at = f"parts.{part}.steps"
    add(page, "extrude")
    field(page, f"{at}.extrude.outline.length", "60 mm")
    field(page, f"{at}.extrude.outline.width", "40 mm")
    applied(page)
    grow(page, f"{part}/extrude.end", "extrude: A spigot", **{"outline.diameter": "16 mm", "length": "12 mm"})
    grow(page, f"{part}/spigot.end", "hole: A hole", diameter="6.4 mm")
    page.locator('[data-step="hole"]').click()
    expect(page.locator('[id="s-' + f'{at}.hole.diameter"]')).to_have_value("6.4 mm")
    field(page, f"{at}.hole.screw", "M6")  # by table: its own diameter has no effect and is not shown
    expect(page.locator('[id="s-' + f'{at}.hole.diameter"]')).to_have_count(0)
    expect(page.locator(".step-open .results")).to_contain_text("6.60 mm")
    grow(page, f"{part}/spigot.side_1", "edges: Round its edges", size="1 mm")
    expect(page.locator(".build-steps li")).to_have_count(4)
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    faces = {d["id"]: d for d in scene(page)[part]["datums"]}
    assert faces["hole.hole_1"]["radius"] == pytest.approx(3.3e-3)
    assert {"extrude.start", "extrude.side_1", "spigot.side_1"} <= set(faces)


def test_an_outline_of_another_kind_and_one_more_hole(page: Page, server: Server) -> None:
    shelve(page, server, test_build_steps.drafted()[0].document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    page.locator('[data-step="pivot"]').click()
    before = revision(page)
    page.get_by_role("button", name="Add point").click()
    evaluated(page, before + 1)
    field(page, "parts.plate.steps.pivot.at.spots.n_2.x", "20 mm")
    assert document(page)["parts"]["plate"]["steps"]["pivot"]["at"]["spots"]["n_2"]["x"] == "20 mm"
    assert "pivot.hole_2" in {d["id"] for d in scene(page)["plate"]["datums"]}
    field(page, "parts.plate.steps.pivot.at", "circle")  # its middle where the first point was
    assert document(page)["parts"]["plate"]["steps"]["pivot"]["at"] == {
        "kind": "circle", "count": "4", "diameter": "30 mm", "x": "50 mm", "y": "30 mm", "first": "0 deg",
    }  # fmt: skip


def test_a_step_fails_is_moved_switched_off_and_mended(page: Page, server: Server) -> None:
    shelve(page, server, test_build_steps.drafted()[0].document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    add(page, "edges")
    field(page, "parts.plate.steps.edges.size", "50 mm")
    applied(page)
    expect(page.locator(".build-steps li.failed")).to_contain_text("its size is too large for these edges")
    add(page, "cut")
    applied(page)
    expect(page.locator(".build-steps li.waits")).to_have_count(1)
    expect(page.locator(".strip")).to_contain_text("undecided")
    page.locator('[data-step="edges"]').click()
    for name, order in (("Move down", ["pivot", "cut", "edges"]), ("Move up", ["pivot", "edges", "cut"])):
        before = revision(page)
        page.get_by_role("button", name=name, exact=True).click()
        evaluated(page, before + 1)
        assert list(document(page)["parts"]["plate"]["steps"]) == order
    before = revision(page)
    page.get_by_role("button", name="Switch off").click()
    evaluated(page, before + 1)
    expect(page.locator(".build-steps li.off")).to_have_count(1)
    before = revision(page)
    page.get_by_role("button", name="Switch on").click()
    evaluated(page, before + 1)
    field(page, "parts.plate.steps.edges.size", "1 mm")
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    before = revision(page)
    page.get_by_role("button", name="Remove step").click()
    evaluated(page, before + 1)
    assert list(document(page)["parts"]["plate"]["steps"]) == ["pivot", "cut"]


def test_what_is_offered_at_a_face_is_seen_and_left_again(page: Page, server: Server) -> None:
    shelve(page, server, test_build_steps.drafted()[0].document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    key = "() => document.querySelector('.stage-canvas').stage.parts.get('plate').key"
    own = page.evaluate(key)
    page.locator("#grow-at").select_option("plate/top")  # the element's own name for its face
    page.locator('[data-sprout="cut: A recess"]').click()
    page.wait_for_function(f"(own) => ({key})() !== own", arg=own)
    page.get_by_role("button", name="Cancel (Esc)").click()
    page.wait_for_function(f"(own) => ({key})() === own", arg=own)
    assert list(document(page)["parts"]["plate"]["steps"]) == ["pivot"]


def test_a_lid_from_the_rim_of_a_box_follows_it(page: Page, server: Server) -> None:
    draft = Draft("Box")
    draft.own_part("Box", "acetal", tray().steps)
    shelve(page, server, draft.document)
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator('[data-element="blank"]').first.click()
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, 2)
    lid = next(p for p in document(page)["parts"] if p != "box")
    at = f"parts.{lid}.steps.extrude"
    add(page, "extrude")
    field(page, f"{at}.outline", "edge_of_face")
    field(page, f"{at}.outline.part", "box")
    field(page, f"{at}.outline.face", "block.end")
    field(page, f"{at}.outline.gap", "1 mm")
    applied(page)
    expect(page.locator(".build-steps li.failed")).to_have_count(0)

    def wide() -> float:
        flats = [d for d in scene(page)[lid]["datums"] if d["kind"] == "plane" and abs(d["z"][0]) > 0.9]
        return max(d["origin"][0] for d in flats) - min(d["origin"][0] for d in flats)

    assert wide() == pytest.approx(52e-3)
    page.locator(".scheme .list button", has_text="Box").first.click()
    page.locator('[data-step="block"]').click()
    field(page, "parts.box.steps.block.outline.length", "70 mm")
    assert wide() == pytest.approx(72e-3)


def test_holes_over_the_bores_of_a_neighbour(page: Page, server: Server) -> None:
    draft = Draft("Fan")
    fan = {
        "case": Extrude(name="Case", outline=Rectangle(length="40 mm", width="40 mm"), length="10 mm"),
        "mount": Hole(name="Mount", plane="case.end", at=OnGrid(column_distance="32 mm", row_distance="32 mm")),
    }
    draft.own_part("Fan", "acetal", fan)
    draft.own_part(
        "Plate", "steel", {"plate": Extrude(name="Plate", outline=Rectangle(length="80 mm", width="60 mm"))}, x="90 mm"
    )
    shelve(page, server, draft.document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    add(page, "hole")
    at = "parts.plate.steps.hole"
    expect(page.locator(f'[id="s-{at}.plane"]')).to_have_value("plate.end")  # its top
    field(page, f"{at}.at", "over_bores")
    field(page, f"{at}.at.part", "fan")
    field(page, f"{at}.at.face", "case.end")
    applied(page)
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    bores = [d for d in scene(page)["plate"]["datums"] if d["id"].startswith("hole.hole_") and d["id"][-1].isdigit()]
    assert sorted((round(d["origin"][0], 6), round(d["origin"][1], 6)) for d in bores) == [
        (x, y) for x in (-0.016, 0.016) for y in (-0.016, 0.016)
    ]


def test_a_bracket_with_holes_over_a_neighbours_clears_it_by_three_millimetres(page: Page, server: Server) -> None:
    """From nothing: a plate with holes over a fan's, its face pulled until it clears a post by 3 mm, and rounded."""
    draft = Draft("Fan")
    fan = {
        "case": Extrude(name="Case", outline=Rectangle(length="40 mm", width="40 mm"), length="10 mm"),
        "mount": Hole(name="Mount", plane="case.end", at=OnGrid(column_distance="24 mm", row_distance="24 mm")),
    }
    draft.own_part("Fan", "acetal", fan, z="-30 mm")
    draft.part("Post", "steel", Pin(diameter="10 mm", length="60 mm"), x="45 mm", z="-30 mm")
    shelve(page, server, draft.document)
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator('[data-element="blank"]').first.click()
    page.locator("#element-name").fill("Bracket")
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, 2)
    part, at = "bracket", "parts.bracket.steps"
    page.locator(".scheme .list button", has_text="Bracket").first.click()
    page.get_by_text("Starting position").click()  # it stands free; here it belongs over the fan
    page.locator('[id="c-placed.bracket.start.x"]').fill("0 mm")
    page.keyboard.press("Enter")
    evaluated(page, 3)
    add(page, "extrude")
    field(page, f"{at}.extrude.outline.length", "60 mm")
    field(page, f"{at}.extrude.outline.width", "40 mm")
    add(page, "hole")  # in the same draft
    expect(page.locator(f'[id="s-{at}.hole.plane"]')).to_have_value("extrude.end")  # its top
    field(page, f"{at}.hole.at", "over_bores")
    field(page, f"{at}.hole.at.part", "fan")
    field(page, f"{at}.hole.at.face", "case.end")
    applied(page)
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    assert (
        len([d for d in scene(page)[part]["datums"] if d["id"].startswith("hole.hole_") and d["id"][-1].isdigit()]) == 4
    )
    page.locator("#grow-at").select_option(f"{part}/extrude.side_2")
    page.locator('[data-sprout^="pull"]:not([data-sprout$="this side"])').click()
    page.locator('[data-grow="gap"]').fill("3 mm")
    page.get_by_role("button", name="Find it").click()
    expect(page.locator(".preview-words", has_text="nearest")).to_contain_text("3.00 mm")
    page.locator("[data-round]", has_text="step").click()  # 74 mm: the post's side stands at 40 mm
    expect(page.locator(".preview-words", has_text="nearest")).to_contain_text("3.00 mm")
    before = revision(page)
    take(page)
    evaluated(page, before + 1)
    assert document(page)["parts"][part]["steps"]["extrude"]["outline"]["length"] == "74 mm"
    before = revision(page)
    page.get_by_role("button", name="Undo").click()
    evaluated(page, before - 1)
    assert document(page)["parts"][part]["steps"]["extrude"]["outline"]["length"] == "60 mm"


def test_a_ring_and_its_groove_in_one_action(page: Page, server: Server) -> None:
    draft = Draft("Shaft")
    draft.part("Shaft", "steel", Pin(diameter="12 mm", length="60 mm"))
    shelve(page, server, draft.document)
    page.locator(".scheme .list button", has_text="Shaft").first.click()
    grow(page, "shaft/axis", "retaining_ring: A retaining ring 12 in its groove", at="40 mm")
    told = document(page)
    assert list(told["parts"]["shaft"]["steps"]) == ["ring_groove"]
    assert set(told["placed"]) == {"shaft", "ring"}
    assert told["parameters"]["ring_at"]["formula"] == "40 mm"
    assert scene(page)["ring"]["pose"][2] == pytest.approx(40e-3, abs=1e-6)
    page.get_by_role("button", name="Undo").click()
    evaluated(page, 1)
    assert set(document(page)["placed"]) == {"shaft"}


def test_parts_of_files_are_joined_replaced_and_asked_for_their_unit(
    page: Page, server: Server, evaluator: Evaluator, tmp_path: Path
) -> None:
    """A STEP part is joined by its bore to a pin; its file is replaced and the joint stays; an STL file is required its unit."""
    for name, draft in (("lug.step", plate()), ("larger.step", plate(bore="10.4 mm")), ("lug.stl", plate())):
        (tmp_path / name).write_bytes(written(name, evaluator.evaluate(draft.document))[0])
    draft = Draft("Host")
    draft.part("Peg", "steel", Pin(diameter="9.9 mm", length="20 mm"))
    shelve(page, server, draft.document)
    page.get_by_role("button", name="Add from the catalogue").click()
    page.get_by_role("button", name="Import…", exact=True).click()
    page.set_input_files("#import-file", str(tmp_path / "lug.step"))
    evaluated(page, 2)
    bore = next(d["id"] for d in scene(page)["lug"]["datums"] if d["side"] == "bore" and abs(d["radius"] - 5e-3) < 1e-9)
    page.get_by_role("button", name="Join", exact=True).click()
    join(page, "peg/axis", f"lug/{bore}")
    page.keyboard.press("Escape")
    joints = document(page)["joints"]
    assert next(iter(joints.values()))["b"] == {"placed": "lug", "datum": bore}
    before = revision(page)
    page.locator(".rail button", has_text="Parts").click()
    page.locator(".scheme .list button", has_text="Lug").first.click()
    page.get_by_role("button", name="Replace file").click(timeout=8000)
    page.set_input_files("#import-file", str(tmp_path / "larger.step"))
    evaluated(page, before + 1)
    assert document(page)["joints"] == joints
    assert next(d for d in scene(page)["lug"]["datums"] if d["id"] == bore)["radius"] == pytest.approx(5.2e-3)
    page.get_by_role("button", name="Add from the catalogue").click()
    page.get_by_role("button", name="Import…", exact=True).click()
    page.set_input_files("#import-file", str(tmp_path / "lug.stl"))
    page.locator('[data-unit="mm"]').click()
    evaluated(page, before + 2)
    assert len(document(page)["placed"]) == 3
    (tmp_path / "no.step").write_text("hello", encoding="utf-8")
    page.get_by_role("button", name="Add from the catalogue").click()
    page.get_by_role("button", name="Import…", exact=True).click()
    page.set_input_files("#import-file", str(tmp_path / "no.step"))
    expect(page.locator(".pane .field-error", has_text="not a STEP file")).to_be_visible()


def test_an_outline_is_drawn_on_its_face_by_pointer_and_by_keyboard(page: Page, server: Server) -> None:
    steps = {
        "block": Extrude(name="Block", outline=Rectangle(length="60 mm", width="40 mm"), length="10 mm"),
        "post": Extrude(name="Post", plane="block.end", outline=Circle(diameter="10 mm"), length="8 mm"),
    }
    draft = Draft("Drawn")
    draft.own_part("Block", "steel", steps)
    shelve(page, server, draft.document)
    page.locator(".scheme .list button", has_text="Block").first.click()
    page.locator('[data-step="post"]').click()
    page.locator('[data-handle="rim"]').focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    evaluated(page, 2)
    outline = document(page)["parts"]["block"]["steps"]["post"]["outline"]
    assert outline["diameter"] == "15.5 mm"  # one step of half a millimetre, and ten
    at = page.locator('[data-handle="middle"]').bounding_box()
    assert at is not None
    page.mouse.move(at["x"] + 6, at["y"] + 6)
    page.mouse.down()
    page.mouse.move(at["x"] + 60, at["y"] - 10, steps=6)
    expect(page.locator('[data-handle="middle"]')).to_contain_text("mm")
    page.mouse.up()
    evaluated(page, 3)
    outline = document(page)["parts"]["block"]["steps"]["post"]["outline"]
    x, y = (float(outline[k].removesuffix(" mm")) for k in "xy")
    assert x > 1
    assert (2 * x).is_integer()
    assert (2 * y).is_integer()
    middle = next(d for d in scene(page)["block"]["datums"] if d["id"] == "post.side_1")["origin"]
    assert middle[:2] == pytest.approx([x / 1e3, y / 1e3], abs=1e-9)
    page.get_by_role("button", name="Undo").click()
    evaluated(page, 2)


def test_a_step_is_repeated_where_it_is_listed(page: Page, server: Server) -> None:
    """Repeat… on a step: the new one knows which; the steps it may repeat are offered, and one more can be added."""
    steps = {
        "block": Extrude(name="Block", outline=Rectangle(length="60 mm", width="40 mm"), length="10 mm"),
        "post": Extrude(name="Post", plane="block.end", outline=Circle(diameter="8 mm", x="12 mm"), length="6 mm"),
        "hole": Hole(name="Hole", plane="block.end", diameter="3 mm", at={"kind": "points", "spots": {"a": {"x": "12 mm", "y": "0 mm"}}}),
    }  # fmt: skip
    draft = Draft("Jaws")
    draft.own_part("Jaws", "steel", steps)
    shelve(page, server, draft.document)
    page.locator(".scheme .list button", has_text="Jaws").first.click()
    page.locator('[data-step="post"]').click()
    looks = drafts(page)
    page.get_by_role("button", name="Repeat…").click()
    drafted(page, looks)
    at = "parts.jaws.steps.post_repeated"
    which = page.locator(f'[id="s-{at}.steps.a.step"]')
    expect(which).to_have_value("post")
    assert which.locator("option").all_inner_texts() == ["choose", "Block", "Post", "Hole"]
    field(page, f"{at}.how.count", "3")
    looks = drafts(page)
    page.get_by_role("button", name="Add step").click()
    drafted(page, looks)
    field(page, f"{at}.steps.n_2.step", "hole")
    assert len(document(page)["parts"]["jaws"]["steps"]) == 3  # nothing is there before it is applied
    page.keyboard.press("Control+Enter")
    evaluated(page, 2)
    told = document(page)["parts"]["jaws"]["steps"]["post_repeated"]
    assert [w["step"] for w in told["steps"].values()] == ["post", "hole"]
    pins = {
        tuple(round(v, 6) for v in d["origin"][:2])
        for d in scene(page)["jaws"]["datums"]
        if d["side"] == "pin" and abs(d["radius"] - 4e-3) < 1e-9
    }
    assert len(pins) == 3
    expect(page.locator(".build-steps li.failed")).to_have_count(0)


def test_members_of_a_sum_have_their_fields_at_once(page: Page, server: Server) -> None:
    """A kind chosen anywhere in an outline brings its own fields there, and leaves all other choosers where they were."""
    shelve(page, server, test_build_steps.drafted()[0].document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    add(page, "extrude")
    at = "parts.plate.steps.extrude.outline"
    field(page, at, "sum")
    field(page, f"{at}.of.a", "polygon")
    for path in ("of.a", "of.a.sides", "of.a.across_flats", "of.b", "of.b.diameter"):
        expect(page.locator(f'[id="s-{at}.{path}"]')).to_be_visible()
    expect(page.locator(f'[id="s-{at}.of.a.length"]')).to_have_count(0)
    field(page, f"{at}.of.a.sides", "2 * 4")
    field(page, f"{at}.of.b", "difference")
    field(page, f"{at}.of.b.of.b", "slot")
    expect(page.locator(f'[id="s-{at}.of.b.of.b.length"]')).to_be_visible()
    looks = drafts(page)
    page.get_by_role("button", name="Add outline").first.click()
    drafted(page, looks)
    expect(page.locator(f'[id="s-{at}.of.n_3"]')).to_be_visible()
    expect(page.locator(f'[id="s-{at}.of.a"]')).to_have_value("polygon")


def test_a_draft_outlives_a_reload_is_shortened_and_discarded(page: Page, server: Server) -> None:
    shelve(page, server, test_build_steps.drafted()[0].document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    add(page, "hole")
    field(page, "parts.plate.steps.hole.diameter", "4 mm")
    page.reload()
    banner = page.get_by_role("region", name="Draft")
    expect(banner).to_contain_text("2 changes, not applied yet")
    page.locator(".scheme .list button", has_text="Plate").first.click()
    page.locator('[data-step="hole"]').click()
    expect(page.locator('[id="s-parts.plate.steps.hole.diameter"]')).to_have_value("4 mm")
    looks = drafts(page)
    page.get_by_role("button", name="Undo").click()
    drafted(page, looks)
    expect(banner).to_contain_text("1 change, not applied yet")
    banner.get_by_role("button", name="Discard").click()
    expect(banner).to_be_hidden()
    expect(page.locator(".build-steps li")).to_have_count(1)
    assert revision(page) == 1
    evaluated(page, 1)
    page.get_by_text("1 change discarded").wait_for()
    looks = drafts(page)
    page.get_by_role("button", name="Restore draft").click()
    drafted(page, looks)
    expect(banner).to_contain_text("1 change, not applied yet")
    expect(page.locator(".build-steps li")).to_have_count(2)
    banner.get_by_role("button", name="Discard").click()
    evaluated(page, 1)
    page.reload()
    evaluated(page, 1)
    expect(banner).to_be_hidden()


def test_a_draft_refused_keeps_what_was_typed(page: Page, server: Server) -> None:
    shelve(page, server, test_build_steps.drafted()[0].document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    add(page, "hole")
    control = page.locator('[id="s-parts.plate.steps.hole.diameter"]')
    control.fill("4 kg")
    control.press("Enter")
    expect(page.locator(".step-open .field-error:visible")).to_contain_text("length is required")
    expect(control).to_have_value("4 kg")
    field(page, "parts.plate.steps.hole.diameter", "4 mm")
    expect(page.locator(".step-open .field-error:visible")).to_have_count(0)
    applied(page)
    assert document(page)["parts"]["plate"]["steps"]["hole"]["diameter"] == "4 mm"


def test_text_is_cut_into_a_plate(page: Page, server: Server) -> None:
    """Its letters are chosen, sized and applied as one revision; a letter that the font has not is said at the step."""
    shelve(page, server, test_build_steps.drafted()[0].document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    add(page, "cut")
    at = "parts.plate.steps.cut.outline"
    looks = drafts(page)
    page.locator(f'[id="s-{at}"]').select_option("text")
    drafted(page, looks)
    field(page, f"{at}.text", "\u6f22")
    expect(page.locator(".build-steps li.failed")).to_have_count(1)
    expect(page.locator(".build-steps")).to_contain_text("the font has no")
    field(page, f"{at}.text", "No. 7")
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    field(page, f"{at}.height", "5 mm")
    page.keyboard.press("Control+Enter")
    evaluated(page, 2)
    outline = document(page)["parts"]["plate"]["steps"]["cut"]["outline"]
    assert (outline["kind"], outline["text"], outline["height"]) == ("text", "No. 7", "5 mm")


@pytest.mark.parametrize("kind", ["angled_link", "spur_gear", "pin"])
def test_what_ends_a_form_keeps_its_place_while_its_preview_comes(page: Page, server: Server, kind: str) -> None:
    """A button that moves between a press and its release loses the click."""
    page.goto(server.url)
    page.locator("#new-name").fill("A place")
    page.locator("#new-name").press("Enter")
    evaluated(page, 1)
    page.get_by_role("button", name="Add from the catalogue", exact=True).click()
    add = page.locator(".element-form .act")
    held: list[Route] = []

    def hold(route: Route) -> None:
        if held:
            route.continue_()
        held.append(route)

    page.route("**/api/elements/preview", hold)
    with page.expect_request("**/api/elements/preview"):
        page.locator(f'[data-element="{kind}"]').first.click()
    before = add.bounding_box()
    held[0].continue_()
    expect(page.locator(".element-form .derived div").first).to_be_visible()
    assert before is not None
    assert add.bounding_box() == before
    assert before["y"] + before["height"] <= 800
