"""./dev shots: takes the current picture of each main view from the demo data, 1280 by 800."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, Playwright, sync_playwright

from uhrwerk import AngledLink, Bore, Draft, FramePlate, TurnSegment, drivers, laws, write
from uhrwerk.demo.guard_lid import guard_lid

HERE = Path(__file__).parent
SWITCHES = [
    "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--no-sandbox", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--no-first-run", "--disable-quic",
]  # fmt: skip


def settled(page: Page) -> None:
    page.wait_for_selector("[data-evaluated]")
    page.wait_for_timeout(1200)


def take(page: Page, name: str) -> None:
    page.mouse.move(5, 795)
    page.wait_for_timeout(1000)
    page.screenshot(path=HERE / f"{name}.png")
    print(name)


def previewed(page: Page) -> None:
    """Waits until what is chosen to be done stands on the stage."""
    page.wait_for_timeout(400)
    page.get_by_text("computing…").wait_for(state="hidden")
    page.wait_for_timeout(800)


def building(page: Page, root: str) -> None:
    """The build steps of a demo part, and a face of it pulled."""
    page.goto(f"{root}/mechanisms/main_drive")
    settled(page)
    page.evaluate("() => window.Alpine.$data(document.querySelector('.workspace')).select('placed.motor_hub')")
    page.get_by_role("button", name="Show only this").click()
    page.get_by_role("button", name="Fit").click()
    page.locator('[data-step="jaw"]').click()
    page.locator('[data-step="jaw"]').hover()
    page.wait_for_timeout(800)
    page.screenshot(path=HERE / "building.png")
    print("building")
    page.locator("#grow-at").select_option("motor_hub/jaw.end")
    page.locator('[data-sprout^="pull"]').click()
    page.locator('[data-grow="by"]').fill("1.7 mm")
    page.locator('[data-grow="by"]').press("Tab")
    previewed(page)
    page.locator('[data-grow="by"]').scroll_into_view_if_needed()
    take(page, "pulling")
    page.get_by_role("button", name="Cancel (Esc)").click()


def drawing(page: Page, root: str) -> None:
    """An outline being drawn on the plate of a demo module, in the draft of a new step."""
    page.goto(f"{root}/mechanisms/foil_tucker")
    settled(page)
    page.locator(".rail button", has_text="Parts").click()
    page.locator('[data-path="placed.rocker_and_finger"]').first.click()
    page.locator("#step-new").click()
    page.locator('#steps-list [data-kind="cut"]').click()
    page.wait_for_selector('.workspace[data-drafts="1"]', state="attached")
    page.locator('[data-tool="line"]').click()
    page.wait_for_timeout(800)
    box = page.locator(".drawing-sheet").bounding_box()
    state = "window.Alpine.$data(document.querySelector('.workspace'))"
    m = page.evaluate(f"() => {state}.planeMap()")
    assert box is not None

    def at(x: float, y: float) -> tuple[float, float]:
        """A place on the plane, mm, in the window."""
        ax, ay, o = m["ax"], m["ay"], m["o"]
        return box["x"] + o["x"] + (x * ax[0] + y * ay[0]) / 1e3, box["y"] + o["y"] + (x * ax[1] + y * ay[1]) / 1e3

    for x, y in ((14, -3), (40, -3)):
        page.mouse.move(*at(x, y))
        page.mouse.click(*at(x, y))
    page.keyboard.press("a")
    page.mouse.move(*at(40, 3))
    page.mouse.click(*at(40, 3))
    page.mouse.move(*at(14, 3))
    page.wait_for_timeout(800)
    page.screenshot(path=HERE / "drawing.png")
    print("drawing")
    page.keyboard.press("Escape")
    page.get_by_role("region", name="Draft").get_by_role("button", name="Discard").click()


def main() -> None:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = subprocess.Popen(
            [sys.executable, "-m", "uhrwerk", "demo", "--port", "0", "--data", folder],
            stdout=subprocess.PIPE,
            text=True,
        )
        try:
            pictures(playwright, server)
        finally:
            server.kill()


def pictures(playwright: Playwright, server: subprocess.Popen[str]) -> None:
    assert server.stdout is not None
    demo = server.stdout.readline().split()[-1]
    root = "/".join(demo.split("/")[:3])
    browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=SWITCHES)
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.set_default_timeout(120_000)
    page.goto(demo)
    settled(page)
    page.locator(".strip .tile", has_text="Rocker clears post").click()
    page.locator(".remedies [role=status]", has_text="remed").wait_for()
    take(page, "workspace-failing")
    page.locator(".rail button", has_text="Parts").click()
    page.locator('[data-path="placed.rocker_and_finger"]').first.click()
    take(page, "workspace-part")
    building(page, root)
    drawing(page, root)
    page.goto(demo)
    settled(page)
    page.keyboard.press("Escape")
    page.locator(".rail button", has_text="Parts").click()
    page.locator('[data-path="parameters.finger_w"]').click()
    field = page.locator('[data-path="parameters.finger_w.formula"]')
    field.fill("9.6 mm")
    field.press("Enter")
    page.wait_for_function("() => document.querySelector('.workspace').dataset.evaluated === '2'")
    page.wait_for_timeout(800)
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator('[data-element="spur_gear"]').last.click()
    page.wait_for_timeout(2500)
    take(page, "catalogue")
    page.keyboard.press("Escape")
    page.locator('.list [data-path="placed.wheel_with_crank_pin"]').click()
    page.locator("#grow-at").select_option("wheel_with_crank_pin/axis")
    page.locator("[data-sprout]", has_text="Its mate").click()
    previewed(page)
    take(page, "growing")
    page.keyboard.press("Escape")
    page.locator(".rail button", has_text="Curves").click()
    page.locator('.list [data-path="curves.transmission_angle"]').click()
    page.locator("input.cursor").fill("0.2")
    page.get_by_role("button", name="Pin this moment").click()
    page.locator("input.cursor").fill("0.62")
    page.get_by_label("Beside which revision").select_option("1")
    page.wait_for_timeout(1200)
    take(page, "curves")
    page.goto(f"{root}/mechanisms/foil_cutter")
    settled(page)
    page.locator(".rail button", has_text="Balance").click()
    take(page, "balance")
    page.goto(f"{root}/mechanisms/planetary_sample/layers")
    page.get_by_text("Fails.").wait_for(timeout=120_000)
    take(page, "layers")
    timing(page, root)
    page.goto(f"{root}/mechanisms/main_drive")
    settled(page)
    page.get_by_label("View from").select_option("front")
    page.get_by_label("Section square to").select_option("y")
    page.locator(".section-at").fill("0.36")
    take(page, "section")
    page.goto(f"{root}/mechanisms/gripper_ring")
    settled(page)
    page.locator(".rail button", has_text="Joints").click()
    page.locator('.list [data-path="repeats.ring_of_pairs"]').click()
    take(page, "gripper-ring")
    revisions(page, root)
    sheet(page, root)
    joining(page, root)
    page.goto(root)
    page.get_by_label("New mechanism").fill("Stacker")
    page.get_by_role("button", name="Create").click()
    settled(page)
    take(page, "empty")
    page.goto(root)
    page.wait_for_function("() => !document.querySelector('[data-unchecked]')")
    take(page, "shelf")
    page.goto(f"{root}/materials")
    take(page, "materials")
    browser.close()


def sheet(page: Page, root: str) -> None:
    """A drawing that a mechanism keeps: a fit beside the bore, a size chosen."""
    page.goto(f"{root}/mechanisms/guard_lid/drawings?part=lid_leaf")
    desk = page.locator(".drawings")
    page.locator(".drawings-sheet svg").wait_for()
    bore = page.locator(".drawings-size", has_text="\u2300").first
    bore.click()
    page.get_by_label("After the value").fill("H7")
    shown = int(desk.get_attribute("data-shown") or 0)
    page.keyboard.press("Tab")
    page.wait_for_selector(f'.drawings[data-shown="{shown + 1}"]')
    take(page, "sheet")


def revisions(page: Page, root: str) -> None:
    """The pusher with a longer crank, against its first revision, which is pinned and outlined."""
    page.goto(f"{root}/mechanisms/pusher")
    settled(page)
    page.locator(".rail button", has_text="Parts").click()
    page.locator('.list [data-path="parameters.crank"]').click()
    field = page.locator('[data-path="parameters.crank.formula"]')
    field.fill("24 mm")
    field.press("Enter")
    page.wait_for_function("() => document.querySelector('.workspace').dataset.evaluated === '2'")
    page.locator(".rail button", has_text="Revisions").click()
    page.locator(".revisions li .link").nth(1).click()
    page.get_by_role("button", name="Pin as baseline").click()
    page.get_by_label("outline revision 1").check()
    page.wait_for_function("() => document.querySelector('.stage-canvas').stage.ghost.parts.length")
    take(page, "revisions")


def timing(page: Page, root: str) -> None:
    """The guard lid by a programme: open, stay, shut; a segment chosen in the timing chart."""
    document = guard_lid()
    motor, old = next(iter(document.drivers.items()))
    segments = {
        "open": TurnSegment(to="200 deg", over="120 deg"), "stay": TurnSegment(to="200 deg", over="60 deg"),
        "shut": TurnSegment(over="140 deg", law=laws.ModifiedSine()), "rest": TurnSegment(over="40 deg"),
    }  # fmt: skip
    driven = drivers.TurnProgramme(name="Lid", joint=old.joint, segments=segments)
    document = document.model_copy(update={"drivers": {motor: driven}})
    told = page.request.post(
        f"{root}/api/mechanisms", data={"name": "Guard lid, timed", "document": json.loads(write(document))}
    )
    page.goto(f"{root}/mechanisms/{told.json()['id']}")
    settled(page)
    page.locator(".lanes text", has_text="Lid").first.click()
    page.locator('[data-segment="shut"]').click()
    take(page, "timing")


def joining(page: Page, root: str) -> None:
    """A link on its way to a plate: shown where it would land, not joined yet."""
    draft = Draft("Stacker, begun")
    draft.part("Plate", "aluminium", FramePlate(bores={"pivot": Bore(x="50 mm", y="40 mm", diameter="6 mm")}))
    draft.part("Bell crank", "steel", AngledLink(bore_1="6 mm"), x="100 mm", y="80 mm", z="30 mm", turn_x="25 deg")
    told = page.request.post(
        f"{root}/api/mechanisms", data={"name": "Stacker, begun", "document": json.loads(write(draft.document))}
    )
    page.goto(f"{root}/mechanisms/{told.json()['id']}")
    settled(page)
    page.locator(".stage-canvas").focus()
    page.keyboard.press("j")
    page.locator("#join-a").select_option("plate/pivot")
    page.locator("#join-b").select_option("bell_crank/hole_1")
    page.locator('[data-ask="offset"]').fill("6 mm")
    page.locator('[data-ask="offset"]').press("Tab")
    page.wait_for_timeout(2500)
    take(page, "joining")


if __name__ == "__main__":
    main()
