"""Outlines drawn on a face: by the pointer, by the keyboard, with sizes typed over; what comes out is what was drawn."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.by_hand import applied, choose_step, drafted, drafts, evaluated, scene, shelve
from tests.conftest import Server
from uhrwerk import Block, Draft, Pin

pytestmark = [
    pytest.mark.browser,
    pytest.mark.without_picture,
    pytest.mark.timeout(300),
    pytest.mark.xdist_group("drawing"),
]

#: outlines in each of the batches: 200 in all
BATCHES, OUTLINES = 5, 40


def sheet(page: Page, server: Server, inch: bool = False, turned: str = "30 deg") -> None:
    """A block with a bore and a neighbour, and a new step on its top that is drawn on."""
    draft = Draft("Drawn")
    draft.part("Block", "steel", Block(length="90 mm", width="60 mm", height="10 mm", bore="8 mm"), turn_z=turned)
    draft.part("Post", "steel", Pin(diameter="6 mm", length="25 mm"), x="38 mm", y="-4 mm")
    if inch:
        draft.set("units", {"length": "in", "mass": "lb"})
    shelve(page, server, draft.document)
    page.locator(".scheme .list button", has_text="Block").first.click()
    looks = drafts(page)
    choose_step(page, "extrude")
    drafted(page, looks)


def data(page: Page, expression: str) -> Any:
    return page.evaluate(
        f"() => {{ const d = window.Alpine.$data(document.querySelector('.workspace')); return {expression}; }}"
    )


def take(page: Page, tool: str) -> None:
    """Takes up a tool and waits until the view has turned."""
    page.locator(f'[data-tool="{tool}"]').click()
    page.evaluate("() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)))")


def click(page: Page, x: float, y: float) -> None:
    """Points at a place of the plane, mm, and clicks."""
    m, box = data(page, "d.planeMap()"), page.locator(".drawing-sheet").bounding_box()
    assert box is not None
    px = box["x"] + m["o"]["x"] + (x * m["ax"][0] + y * m["ay"][0]) / 1e3
    py = box["y"] + m["o"]["y"] + (x * m["ax"][1] + y * m["ay"][1]) / 1e3
    page.mouse.move(px, py)
    page.mouse.down()
    page.mouse.up()


def mm(text: str) -> float:
    value, unit = text.split()
    return float(value) * {"mm": 1.0, "in": 25.4}[unit]


def ring(rng: np.random.Generator) -> list[tuple[float, float]]:
    """Corners of a polygon that does not cross itself, on a grid of 6 mm, all of them apart."""
    while True:
        count = int(rng.integers(3, 8))
        turn = np.sort(rng.uniform(0, 2 * np.pi, count))
        far = rng.uniform(12, 28, count)
        corners = [(6 * round(r * np.cos(t) / 6), 6 * round(r * np.sin(t) / 6)) for t, r in zip(turn, far, strict=True)]
        sides = np.diff([*corners, corners[0]], axis=0)
        if (
            len(set(corners)) == count
            and (0, 0) not in corners
            and np.diff([*turn, turn[0] + 2 * np.pi]).max() < 2.8
            and np.abs(sides).max(axis=1).min() > 5
        ):
            return corners


@pytest.mark.parametrize("batch", range(BATCHES))
def test_random_outlines_come_out_as_drawn(page: Page, server: Server, batch: int) -> None:
    """40 of 200: circles, rectangles, slots and polygons; to 1e-9 m."""
    sheet(page, server, turned="0 deg")
    rng = np.random.default_rng(batch)
    for _ in range(OUTLINES):
        looks, tool = drafts(page), str(rng.choice(["circle", "rectangle", "slot", "line", "line"]))
        if data(page, "d.tool"):
            page.keyboard.press("Escape")
        take(page, tool)
        page.evaluate(
            "() => { window.Alpine.$data(document.querySelector('.workspace')).drawnFresh = true; }"
        )  # each by itself
        a, b = (6.0 * rng.integers(-4, 5, 2) for _ in range(2))
        while np.abs(a - b).min() < 5:
            b = 6.0 * rng.integers(-4, 5, 2)
        points = ring(rng) if tool == "line" else [tuple(a), tuple(b)]
        if tool == "slot":
            points.append((float(b[0] + 6), float(b[1] + 9)))
        for x, y in points:
            click(page, x, y)
        if tool == "line":
            page.keyboard.press("c")
        drafted(page, looks)
        out = data(page, "d.outlineNow()")
        if tool == "line":
            np.testing.assert_allclose([(mm(c["x"]), mm(c["y"])) for c in out["corners"].values()], points, atol=1e-6)
            names = list(out["corners"])
            for r in out.get("relations", {}).values():  # each is true of what was drawn
                i = names.index(r["piece"])
                p, q = points[i], points[(i + 1) % len(points)]
                assert (p[1] == q[1]) if r["kind"] == "level" else (p[0] == q[0])
        elif tool == "circle":
            assert [mm(out["x"]), mm(out["y"])] == pytest.approx(list(a), abs=1e-6)
            assert mm(out["diameter"]) == pytest.approx(2 * float(np.hypot(*(b - a))), abs=1e-6)
        elif tool == "rectangle":
            assert [mm(out[k]) for k in ("x", "y", "length", "width")] == pytest.approx(
                [*(a + b) / 2, *np.abs(b - a)], abs=1e-6
            )
        else:
            along = (b - a) / np.hypot(*(b - a))
            off = np.array(points[2]) - a
            wide = 2 * abs(float(along[0] * off[1] - along[1] * off[0]))
            assert [mm(out[k]) for k in ("x", "y", "length", "width")] == pytest.approx(
                [*(a + b) / 2, float(np.hypot(*(b - a))), wide], abs=1e-6
            )


def test_a_bracket_is_drawn_with_an_arc_a_typed_length_and_a_hole(page: Page, server: Server) -> None:
    sheet(page, server)
    take(page, "line")
    click(page, -15, -12)
    click(page, 9, -12)
    page.keyboard.type("14")  # upward: towards where the pen is
    expect(page.locator("#drawn-size")).to_be_focused()
    page.keyboard.press("Escape")
    click(page, 9, 0)
    page.keyboard.press("a")
    click(page, 3, 6)
    click(page, -15, 6)
    looks = drafts(page)
    page.get_by_role("button", name="Close outline (C)").click()
    drafted(page, looks)
    out = data(page, "d.outlineNow()")
    kinds = sorted(r["kind"] for r in out["relations"].values())
    assert kinds == ["level", "level", "smooth", "smooth", "upright", "upright"]
    assert float(out["corners"]["c3"]["bulge"]) == pytest.approx(np.tan(np.pi / 8), abs=1e-10)
    # a circle within what is there is left open; its diameter is typed
    page.keyboard.press("Escape")
    take(page, "circle")
    click(page, -9, -6)
    looks = drafts(page)
    page.keyboard.type("5.5")
    page.keyboard.press("Enter")
    drafted(page, looks)
    page.keyboard.press("Escape")
    expect(page.locator(".step-open .field-error:visible")).to_have_count(0)
    applied(page)
    datums = {d["id"]: d for d in scene(page)["block"]["datums"]}
    hole = next(d for d in datums.values() if d["side"] == "bore" and abs(d["radius"] - 2.75e-3) < 1e-9)
    assert hole["origin"][:2] == pytest.approx([-9e-3, -6e-3], abs=1e-9)
    rounding = next(d for d in datums.values() if d["side"] == "pin" and abs(d["radius"] - 6e-3) < 1e-9)
    assert rounding["origin"][:2] == pytest.approx([3e-3, 0], abs=1e-9)


def test_points_go_to_a_neighbour_and_to_the_bore(page: Page, server: Server) -> None:
    """The block is turned by 30 degrees: the post's centre is where it stands in the block's own frame."""
    sheet(page, server)
    take(page, "circle")
    x, y = 38 * np.cos(np.pi / 6) - 4 * np.sin(np.pi / 6), -38 * np.sin(np.pi / 6) - 4 * np.cos(np.pi / 6)
    click(page, x + 0.6, y - 0.5)
    expect(page.locator(".drawing-bar")).to_contain_text("Post")
    looks = drafts(page)
    page.keyboard.type("7 mm")
    page.keyboard.press("Enter")
    drafted(page, looks)
    out = data(page, "d.outlineNow()")
    assert [mm(out["x"]), mm(out["y"])] == pytest.approx([x, y], abs=1e-5)  # poses on the stage are in single precision
    assert out["diameter"] == "7 mm"


def test_an_outline_is_drawn_by_keyboard_alone(page: Page, server: Server) -> None:
    sheet(page, server)
    tool = page.locator('[data-tool="rectangle"]')
    tool.focus()
    page.keyboard.press("Enter")
    expect(page.locator(".drawing-sheet")).to_be_focused()
    for _ in range(2):
        page.keyboard.press("Shift+ArrowRight")  # ten steps of half a millimetre
    page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Enter")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowUp")
    page.keyboard.type("12")
    page.keyboard.press("Enter")
    expect(page.locator(".drawing-bar label span")).to_have_text("Width")
    looks = drafts(page)
    page.keyboard.type("2 * 4 mm")
    page.keyboard.press("Enter")
    drafted(page, looks)
    out = data(page, "d.outlineNow()")
    assert [out["length"], out["width"]] == ["12 mm", "2 * 4 mm"]
    assert mm(out["x"]) == pytest.approx(10 + 6, abs=1e-6)
    assert out["y"] == "-5 mm + (2 * 4 mm) / 2"
    page.keyboard.press("Escape")
    expect(page.locator(".drawing-sheet")).to_have_count(0)
    page.keyboard.press("Control+Enter")
    evaluated(page, 2)


def test_drawing_in_inches_keeps_inches(page: Page, server: Server) -> None:
    sheet(page, server, inch=True)
    take(page, "rectangle")
    click(page, -25.4 / 2, -25.4 / 4)
    looks = drafts(page)
    click(page, 25.4 / 2, 25.4 / 4)
    drafted(page, looks)
    out = data(page, "d.outlineNow()")
    assert [out[k] for k in ("length", "width", "x", "y")] == ["1 in", "0.5 in", "0 in", "0 in"]


def test_a_relation_is_added_on_the_card_and_a_contradiction_named(page: Page, server: Server) -> None:
    sheet(page, server)
    take(page, "line")
    for x, y in ((-15, -12), (9, -12), (9, 6), (-15, 6)):
        click(page, x, y)
    looks = drafts(page)
    page.keyboard.press("c")
    drafted(page, looks)
    page.keyboard.press("Escape")
    at = "parts.block.steps.extrude.outline.relations"

    def add(kind: str, **fields: str) -> None:
        looks, before = drafts(page), page.locator(f'[id^="s-{at}"][id$="piece"]').count()
        page.get_by_role("button", name="Add relation").click()
        drafted(page, looks)
        path = f"{at}.n_{before + 1}"
        for name, text in {"": kind, **fields}.items():
            looks = drafts(page)
            control = page.locator(f'[id="s-{path}{name and "."}{name}"]')
            if control.input_value() == text:  # one more begins as the last one
                continue
            if control.evaluate("e => e.tagName") == "SELECT":
                control.select_option(text)
            else:
                control.fill(text)
                control.press("Enter")
            drafted(page, looks)

    add("length", piece="c1", length="30 mm")
    loops = data(page, "d.openStep.loops")
    xs = [p[0] for p in loops[0]]
    assert max(xs) - min(xs) == pytest.approx(30e-3, abs=1e-9)
    add("length", piece="c3", length="31 mm")
    failed = page.locator(".build-steps li.failed")
    expect(failed).to_contain_text("contradict one another")
    expect(failed).to_contain_text("length (piece 1)")
    expect(failed).to_contain_text("length (piece 3)")
