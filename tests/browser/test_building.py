"""Parts of one's own, on the page alone: from nothing, at faces pointed at, a step that fails and is mended."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import evaluated, revision, scene, shelve
from tests.conftest import Server
from tests.core.test_build_steps import drafted
from tests.parts import tray
from uhrwerk import Document, Draft
from uhrwerk.core.outlines import Rectangle
from uhrwerk.core.steps import Extrude, Hole, OnGrid

pytestmark = [pytest.mark.browser, pytest.mark.timeout(300), pytest.mark.xdist_group("building")]


def document(page: Page) -> dict[str, Any]:
    return page.request.get(f"{page.url.replace('/mechanisms/', '/api/mechanisms/')}/document").json()


def field(page: Page, path: str, text: str) -> None:
    """A field of the open step."""
    before = revision(page)
    control = page.locator(f'[id="s-{path}"]')
    if control.evaluate("(e) => e.tagName") == "SELECT":
        control.select_option(text)
    else:
        control.fill(text)
        control.press("Enter")
    evaluated(page, before + 1)


def add(page: Page, kind: str) -> None:
    before = revision(page)
    page.locator("#step-new").select_option(kind)
    evaluated(page, before + 1)
    expect(page.locator(".step-open")).to_be_visible()


def grow(page: Page, at: str, offer: str, **asked: str) -> None:
    """One thing done at a face: chosen, its numbers filled, seen on the stage, taken."""
    before = revision(page)
    page.locator("#grow-at").select_option(at)
    page.locator(f'[data-sprout="{offer}"]').click()
    for path, text in asked.items():
        page.locator(f'[data-grow="{path}"]').fill(text)
        page.locator(f'[data-grow="{path}"]').press("Tab")
    expect(page.get_by_role("button", name="Grow it")).to_be_enabled()
    page.get_by_role("button", name="Grow it").click()
    evaluated(page, before + 1)


def test_a_bracket_from_nothing(page: Page, server: Server) -> None:
    shelve(page, server, Document(name="Bracket"))
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator('[data-element="blank"]').first.click()
    page.get_by_role("button", name="Add it").click()
    evaluated(page, 2)
    part = next(iter(document(page)["parts"]))
    at = f"parts.{part}.steps"
    add(page, "extrude")
    field(page, f"{at}.extrude.outline.length", "60 mm")
    field(page, f"{at}.extrude.outline.width", "40 mm")
    grow(page, f"{part}/extrude.end", "extrude: A spigot", **{"outline.diameter": "16 mm", "length": "12 mm"})
    grow(page, f"{part}/spigot.end", "hole: A hole", diameter="6.4 mm")
    page.locator('[data-step="hole"]').click()
    expect(page.locator('[id="s-' + f'{at}.hole.diameter"]')).to_have_value("6.4 mm")
    field(page, f"{at}.hole.screw", "M6")  # by table: its own diameter has no effect and is not shown
    expect(page.locator('[id="s-' + f'{at}.hole.diameter"]')).to_have_count(0)
    expect(page.locator(".step-open .results")).to_contain_text("6.60 mm")
    grow(page, f"{part}/spigot.side_1", "edges: Its edges rounded", size="1 mm")
    expect(page.locator(".build-steps li")).to_have_count(4)
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    faces = {d["id"]: d for d in scene(page)[part]["datums"]}
    assert faces["hole.hole_1"]["radius"] == pytest.approx(3.3e-3)
    assert {"extrude.start", "extrude.side_1", "spigot.side_1"} <= set(faces)


def test_an_outline_of_another_kind_and_one_more_hole(page: Page, server: Server) -> None:
    shelve(page, server, drafted()[0].document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    page.locator('[data-step="pivot"]').click()
    before = revision(page)
    page.get_by_role("button", name="One more of spots").click()
    evaluated(page, before + 1)
    field(page, "parts.plate.steps.pivot.at.spots.n_2.x", "20 mm")
    assert document(page)["parts"]["plate"]["steps"]["pivot"]["at"]["spots"]["n_2"]["x"] == "20 mm"
    assert "pivot.hole_2" in {d["id"] for d in scene(page)["plate"]["datums"]}
    field(page, "parts.plate.steps.pivot.at", "circle")
    field(page, "parts.plate.steps.pivot.at.x", "50 mm")
    assert document(page)["parts"]["plate"]["steps"]["pivot"]["at"] == {
        "kind": "circle", "count": 4, "diameter": "30 mm", "x": "50 mm", "y": "0 mm", "first": "0 deg",
    }  # fmt: skip


def test_a_step_fails_is_moved_switched_off_and_mended(page: Page, server: Server) -> None:
    shelve(page, server, drafted()[0].document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    add(page, "edges")
    field(page, "parts.plate.steps.edges.size", "50 mm")
    expect(page.locator(".build-steps li.failed")).to_contain_text("its size is too large for these edges")
    add(page, "cut")
    expect(page.locator(".build-steps li.waits")).to_have_count(1)
    expect(page.locator(".strip")).to_contain_text("no answer")
    page.locator('[data-step="edges"]').click()
    for name, order in (("Later", ["pivot", "cut", "edges"]), ("Earlier", ["pivot", "edges", "cut"])):
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
    shelve(page, server, drafted()[0].document)
    page.locator(".scheme .list button", has_text="Plate").first.click()
    key = "() => document.querySelector('.stage-canvas').stage.parts.get('plate').key"
    own = page.evaluate(key)
    page.locator("#grow-at").select_option("plate/top")  # the element's own name for its face
    page.locator('[data-sprout="cut: A recess"]').click()
    page.wait_for_function(f"(own) => ({key})() !== own", arg=own)
    page.get_by_role("button", name="Leave (Esc)").click()
    page.wait_for_function(f"(own) => ({key})() === own", arg=own)
    assert list(document(page)["parts"]["plate"]["steps"]) == ["pivot"]


def test_a_lid_from_the_rim_of_a_box_follows_it(page: Page, server: Server) -> None:
    draft = Draft("Box")
    draft.own_part("Box", "acetal", tray().steps)
    shelve(page, server, draft.document)
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator('[data-element="blank"]').first.click()
    page.get_by_role("button", name="Add it").click()
    evaluated(page, 2)
    lid = next(p for p in document(page)["parts"] if p != "box")
    at = f"parts.{lid}.steps.extrude"
    add(page, "extrude")
    field(page, f"{at}.outline", "edge_of_face")
    field(page, f"{at}.outline.part", "box")
    field(page, f"{at}.outline.face", "block.end")
    field(page, f"{at}.outline.gap", "1 mm")
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
    field(page, f"{at}.plane", "plate.end")
    field(page, f"{at}.at", "over_bores")
    field(page, f"{at}.at.part", "fan")
    field(page, f"{at}.at.face", "case.end")
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    bores = [d for d in scene(page)["plate"]["datums"] if d["id"].startswith("hole.hole_")]
    assert sorted((round(d["origin"][0], 6), round(d["origin"][1], 6)) for d in bores) == [
        (x, y) for x in (-0.016, 0.016) for y in (-0.016, 0.016)
    ]
