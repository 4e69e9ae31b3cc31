"""Tasks done from the empty shelf as a new user would, every action counted: a click, a drag, a key, a filled field is one."""

from __future__ import annotations

from typing import Any

import ezdxf
import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.by_hand import drafted, drafts, evaluated, revision, scene, turn_of
from tests.conftest import Server

pytestmark = [pytest.mark.browser, pytest.mark.timeout(300), pytest.mark.xdist_group("counted")]


class Hand:
    """A person at the page who counts; after each action the page is waited for."""

    def __init__(self, page: Page, server: Server) -> None:
        self.page, self.count = page, 0
        page.goto(server.url)

    def click(self, at: str | Locator) -> None:
        (self.page.locator(at).first if isinstance(at, str) else at).click()
        self.count += 1

    def button(self, name: str) -> None:
        self.click(self.page.get_by_role("button", name=name, exact=True))

    def fill(self, path: str, text: str) -> None:
        """A field by its path's end: its text is replaced and left with Enter."""
        control = self.page.locator(f'[data-path$="{path}"]:visible').last
        if control.evaluate("e => e.tagName") == "SELECT":
            control.select_option(text)
        elif control.get_attribute("type") == "checkbox":
            control.click()  # it changes once the document has
        else:
            control.fill(text)
            control.press("Tab")
        self.count += 1

    def paste(self, path: str, text: str) -> None:
        """Cells of a table, pasted into a field by its path's end."""
        control = self.page.locator(f'[data-path$="{path}"]:visible').last
        control.evaluate(
            """(field, text) => { const clipboardData = new DataTransfer(); clipboardData.setData("text/plain", text); field.focus();
            field.dispatchEvent(new ClipboardEvent("paste", { clipboardData, bubbles: true, cancelable: true })); }""",
            text,
        )
        self.count += 1

    def text(self, at: str, text: str) -> None:
        """A field of a form, filled."""
        self.page.locator(f"{at}:visible").last.fill(text)
        self.page.locator(f"{at}:visible").last.press("Tab")
        self.count += 1

    def choose(self, at: str, name: str) -> None:
        """A choice from a list, by its name or its value."""
        self.page.locator(at).first.select_option(name)
        self.count += 1

    def key(self, key: str) -> None:
        self.page.keyboard.press(key)
        self.count += 1

    def made(self, act: Any) -> None:
        """An action that makes a revision."""
        before = revision(self.page)
        act()
        evaluated(self.page, before + 1)

    def look(self, act: Any) -> None:
        """An action that changes the draft."""
        before = drafts(self.page)
        act()
        drafted(self.page, before)

    def face(self, placed: str, datum: str) -> None:
        """Points at a face on the stage: a click on its middle."""
        at = self.page.evaluate(
            """([placed, datum]) => { const stage = document.querySelector('.stage-canvas').stage, p = stage.parts.get(placed);
                const d = p.info.datums.find((x) => x.id === datum), at = stage.project(stage.world(stage.poseOf(placed), d.origin));
                const box = stage.canvas.getBoundingClientRect(); return [box.x + at.x, box.y + at.y]; }""",
            [placed, datum],
        )
        self.page.mouse.move(*at)
        self.page.mouse.click(*at)
        self.count += 1
        expect(self.page.locator("#grow-at")).to_have_value(f"{placed}/{datum}")


def new(hand: Hand) -> None:
    hand.page.locator("#new-name").fill("By hand")
    hand.page.locator("#new-name").press("Enter")
    hand.count += 1
    evaluated(hand.page, 1)


def add(hand: Hand, kind: str, **sizes: str) -> None:
    hand.button("Add from the catalogue")
    hand.click(f'[data-element="{kind}"]')
    for name, text in sizes.items():
        hand.fill(name, text)
    hand.made(lambda: hand.button("Add"))


def test_three_solids_joined_at_the_centres_of_their_faces(page: Page, server: Server) -> None:
    """Aim: 12."""
    hand = Hand(page, server)
    new(hand)
    add(hand, "block")
    for placed, datum, offer in (
        ("block", "top", "block: A block on it"),
        ("block_2", "top", "tube: A cylinder on it"),
    ):
        hand.face(placed, datum)
        hand.click(f'[data-sprout="{offer}"]')
        expect(page.get_by_text("computing…")).to_be_hidden()
        hand.made(lambda: hand.key("Enter"))
    told = scene(page)
    low = told["cylinder"]["pose"]
    np.testing.assert_allclose(low[:3], [0, 0, 0.03], atol=1e-6)
    np.testing.assert_allclose(turn_of(low).apply([0, 0, 1]), [0, 0, 1], atol=1e-6)
    assert hand.count <= 12, hand.count


def test_a_tray_with_a_lid_that_fits(page: Page, server: Server) -> None:
    """A tray of 90 x 60 x 30 mm; a lid on its rim that reaches in with 0.2 mm of play all round; nothing overlaps. Aim: 35."""
    hand = Hand(page, server)
    new(hand)
    add(hand, "housing", length="90 mm", width="60 mm", height="30 mm", wall="2 mm", floor="2 mm")
    add(hand, "blank")
    for outline in ({"height": "3 mm"}, {"line": "inner", "gap": "-0.2 mm", "height": "4 mm"}):
        hand.click("#step-new")
        hand.look(lambda: hand.click('#steps-list [data-kind="extrude"]'))
        hand.look(lambda: hand.fill(".outline", "edge_of_face"))
        hand.look(lambda: hand.fill(".outline.part", "housing"))
        hand.look(lambda: hand.fill(".outline.face", "element_2.end"))
        for field in ("line", "gap"):
            if field in outline:
                hand.look(lambda f=field, o=outline: hand.fill(f".outline.{f}", o[f]))
        hand.look(lambda o=outline: hand.fill(".length", o["height"]))
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    hand.made(lambda: hand.key("Control+Enter"))
    hand.key("j")
    faces = {d["id"]: d for d in scene(page)["blank_part"]["datums"] if d["kind"] == "plane"}
    rim = next(i for i, d in faces.items() if i == "extrude.end")
    page.locator("#join-a").select_option("housing/top")
    page.locator("#join-b").select_option(f"blank_part/{rim}")
    hand.count += 2
    expect(page.get_by_role("button", name="Join as shown")).to_be_enabled()
    hand.made(lambda: hand.button("Join as shown"))
    hand.key("Escape")
    hand.click(".tile.add")
    hand.click('#requirements-list [data-kind="no_interference"]')
    hand.made(lambda: hand.button("Add"))
    expect(page.locator(".sum strong")).to_contain_text("hold")
    assert hand.count <= 35, hand.count


def drive(hand: Hand, joint: str, kind: str = "", **fields: str) -> None:
    """A drive of a joint, by the form of the Drive step."""
    hand.click(hand.page.locator(".rail button", has_text="Drive"))
    hand.button("Drive a joint")
    hand.choose("#driver-joint", joint)
    if kind:
        hand.choose("#driver-kind", kind)
    for field, text in fields.items():
        hand.text(f"#driver-{field}", text)
    hand.made(lambda: hand.button("Add drive"))


def require(hand: Hand, kind: str, choices: dict[str, str] | None = None, **fields: str) -> None:
    hand.click(".tile.add")
    hand.click(f'#requirements-list [data-kind="{kind}"]')
    for field, value in (choices or {}).items():
        hand.choose(f"[id='req-{field}']", value)
    for field, text in fields.items():
        hand.text(f"#req-{field}", text)
    hand.made(lambda: hand.button("Add"))


def grow(hand: Hand, where: str, offer: str, **fields: str) -> None:
    """Something that fits a datum, chosen from the card's list."""
    if where:
        hand.choose("#grow-at", where)
    hand.click(f'[data-sprout="{offer}"]')
    expect(hand.page.get_by_text("computing…")).to_be_hidden()
    for field, text in fields.items():
        hand.text(f'[data-grow="{field}"]', text)
        expect(hand.page.get_by_text("computing…")).to_be_hidden()
    hand.made(lambda: hand.button("Add"))


def part(hand: Hand, placed: str) -> None:
    hand.click(hand.page.locator(f'.list [data-path="placed.{placed}"]'))


def step_of(hand: Hand, kind: str, **fields: str) -> None:
    """A build step, drafted."""
    hand.click("#step-new")
    hand.look(lambda: hand.click(f'#steps-list [data-kind="{kind}"]'))
    for field, text in fields.items():
        hand.look(lambda f=field, t=text: hand.fill("." + f.replace("__", "."), t))


def test_a_hinge_of_sheet_with_its_counterpart_pin_ring_and_holes(page: Page, server: Server) -> None:
    """Two leaves of 80 x 40 x 3 mm, a pin with head, a ring in its groove, three countersunk holes in each leaf, opened to 110 degrees
    and shown to be free all the way. Aim: 60."""
    hand = Hand(page, server)
    new(hand)
    add(hand, "hinge_leaf", length="80 mm", width="40 mm", knuckle_diameter="20 mm", bore="14.1 mm")
    grow(hand, "hinge_leaf/pin", "hinge_leaf: Its counterpart, on a headed pin", pin_length="88 mm")
    grow(hand, "hinge_pin/axis", "retaining_ring: A retaining ring 14 in its groove", at="82 mm")
    for leaf in ("hinge_leaf", "other_leaf"):
        part(hand, leaf)
        hand.choose("#grow-at", f"{leaf}/inside")
        step_of(hand, "hole", at="grid", columns="1", rows="3", row_distance="25 mm", screw="M4", form="countersunk")
        expect(page.locator(".build-steps li.failed")).to_have_count(0)
        hand.made(lambda: hand.key("Control+Enter"))
    drive(hand, "Other leaf on Hinge leaf", kind="turn_programme")
    require(hand, "travel", {"joint": "Other leaf on Hinge leaf"}, turn="110 deg")
    expect(page.locator(".sum strong")).to_have_text("All 3 hold")  # nothing overlaps all the way
    assert hand.count <= 60, hand.count


def curve(hand: Hand, kind: str, **choices: str) -> None:
    hand.click(hand.page.locator(".rail button", has_text="Curves"))
    hand.button("New curve")
    hand.choose("#curve-kind", kind)
    for field, value in choices.items():
        hand.choose(f"#curve-{field}", value)
    hand.made(lambda: hand.button("Add curve"))


def plate(hand: Hand, *bores: tuple[str, str, str]) -> None:
    """A frame plate from the catalogue, with its bores: x, y and diameter."""
    hand.button("Add from the catalogue")
    hand.click('[data-element="frame_plate"]')
    hand.click(hand.page.get_by_role("button", name="Add to bores"))
    hand.paste("bores.bore_1.x", "\n".join("\t".join(bore) for bore in bores))
    expect(hand.page.locator(f'[data-path="bores.bore_{len(bores)}.diameter"]')).to_have_value(bores[-1][2])
    hand.made(lambda: hand.button("Add"))


def test_a_cam_of_circles_with_its_follower_spring_motor_and_curves(page: Page, server: Server) -> None:
    """A cam of two circles and their tangents with a recess in its face, a follower rod in a guide that a spring presses on it, a
    motor, the way of the rod and the force of the spring over a turn. Aim: 60."""
    hand = Hand(page, server)
    new(hand)
    plate(hand, ("40 mm", "50 mm", "10 mm"))
    grow(
        hand,
        "frame_plate/bore_1",
        "plate_cam: A cam that turns in it, with a bar that slides, roller and spring",
        base="36 mm",
    )
    part(hand, "cam")
    hand.made(lambda: hand.fill("element.outline", "tangents"))
    for field, text in (("nose", "10 mm"), ("distance", "18 mm")):
        hand.made(lambda f=field, t=text: hand.fill(f"element.outline.{f}", t))
    hand.choose("#grow-at", "cam/top")
    step_of(hand, "cut", outline="circle", outline__diameter="22 mm", outline__x="0 mm", depth="1.5 mm")
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    hand.made(lambda: hand.key("Control+Enter"))
    drive(hand, "Camshaft on Frame plate")
    curve(hand, "joint", joint="Follower on Guide")
    curve(hand, "spring", pair="Spring between Guide and Follower")
    require(hand, "contact_kept", {"pair": "Cam moves Roller"})
    expect(page.locator(".sum strong")).to_contain_text("hold")
    assert hand.count <= 60, hand.count


def test_a_quick_return_with_a_slotted_lever_and_a_ram(page: Page, server: Server) -> None:
    """A crank disc drives a slotted lever; a second slot in the lever's other end moves a ram in its guide; it returns faster than it
    goes. Aim: 45. The ram's guide is a channel, not a dovetail."""
    hand = Hand(page, server)
    new(hand)
    plate(hand, ("70 mm", "50 mm", "10 mm"), ("20 mm", "50 mm", "6 mm"))
    grow(hand, "frame_plate/bore_1", "eccentric_disc: A crank disc that turns in it")
    grow(hand, "crank_disc/crank_pin", "slotted_lever: A slotted lever, its pivot in the plate")
    hand.choose("#grow-at", "slotted_lever/top")
    hand.made(lambda: hand.fill("element.tip", "48 mm"))
    step_of(
        hand,
        "cut",
        outline="slot",
        through="true",
    )
    hand.look(lambda: hand.paste(".outline.length", "14 mm\t6.1 mm\t110.5 mm"))
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    hand.made(lambda: hand.key("Control+Enter"))
    part(hand, "frame_plate")
    grow(
        hand,
        "frame_plate/bore_2",
        "slide_guide: A guide with a bar that slides in it",
        stroke="75 mm",
        direction="90 deg",
    )
    grow(hand, "slide/top", "pin: A post on it", diameter="6 mm", length="8 mm")
    part(hand, "slide_guide")
    hand.made(lambda: hand.fill("element.height", "7 mm"))
    hand.key("j")
    hand.choose("#join-a", "post/axis")
    hand.choose("#join-b", "slotted_lever/cut.slot")
    hand.click('[data-candidate="slot"]')
    hand.made(lambda: hand.button("Join as shown"))
    hand.made(lambda: hand.button("Drive Crank shaft on Frame plate"))
    require(hand, "time_ratio", {"joint": "Slide on Slide guide"}, at_least="1.5")
    expect(page.locator(".sum strong")).to_contain_text("hold")
    assert hand.count <= 45, hand.count


def test_a_ring_of_twelve_crossed_pairs_driven_open_and_shut(page: Page, server: Server) -> None:
    """Angled links of 40 mm arms, crossed, repeated twelve times round a plate's middle and closed to a ring. Aim: 40."""
    hand = Hand(page, server)
    new(hand)
    plate(hand, ("80 mm", "50 mm", "10 mm"))
    add(hand, "angled_link", angle="210 deg")
    hand.click(page.get_by_text("Starting position"))
    hand.made(lambda: hand.paste("start.x", "80 mm + 40 mm * sin(75 deg) / sin(15 deg)\t50 mm\t\t\t\t240 deg"))
    grow(hand, "angled_link/hole_1", "angled_link: The link that crosses it", crossed="-120 deg")
    hand.click(page.locator(".rail button", has_text="Joints"))
    hand.button("Repeat parts")
    hand.click('[data-member="angled_link"]')  # the cross link is selected, and so a member already
    hand.choose("#rep-datum", "frame_plate/bore_1")
    hand.text("#rep-count", "12")
    hand.made(lambda: hand.button("Repeat"))
    hand.key("j")
    for a, b, offset in (
        ("cross_link/hole_2", "angled_link__2/hole_2", "-4 mm"),
        ("angled_link/hole_3", "cross_link__2/hole_3", "4 mm"),
    ):
        hand.choose("#join-a", a)
        hand.choose("#join-b", b)
        hand.text('[data-ask="offset"]', offset)
        hand.made(lambda: hand.button("Join as shown"))
    hand.choose("#join-a", "frame_plate/top")
    hand.choose("#join-b", "angled_link/bottom")
    hand.click('[data-candidate="planar"]')
    hand.made(lambda: hand.button("Join as shown"))
    drive(hand, "Cross link on Angled link", kind="turn_programme")
    reached = page.evaluate("() => document.querySelector('.stage-canvas').stage.parts.size")
    assert reached == 25  # the plate and twelve pairs
    expect(page.locator(".cycle-head")).to_contain_text("of 1.000 s")
    expect(page.locator(".cycle")).to_contain_text("-120.0 … -90.0 deg")  # it opens, and shuts again
    expect(page.locator(".notice:visible")).to_have_count(0)
    assert hand.count <= 40, hand.count


def repeated(hand: Hand, count: str = "") -> None:
    """The step that is open, repeated round the part's axis."""
    hand.look(lambda: hand.button("Repeat…"))
    if count:
        hand.look(lambda: hand.fill(".how.count", count))


def test_a_coupling_of_own_parts_in_inches(page: Page, server: Server) -> None:
    """Two hubs of 2 in with four jaws each, a keyway, a tapped hole and a bevel of 0.030 in at 45 degrees; between them a star with
    eight rounded arms; pounds. Aim: 75."""
    hand = Hand(page, server)
    new(hand)
    hand.click('.list [data-path="units"]')
    hand.made(lambda: hand.choose('[id="c-units.length"]', "in"))
    hand.made(lambda: hand.choose('[id="c-units.mass"]', "lb"))
    hand.button("Add from the catalogue")
    hand.click('[data-element="tube"]')
    hand.paste("diameter", "2 in\t0.5 in\t0.75 in")
    hand.made(lambda: hand.button("Add"))
    step_of(hand, "extrude", outline="arc_slot")
    hand.look(lambda: hand.paste(".outline.radius", "0.7 in\t0.25 in\t8 deg"))
    hand.look(lambda: hand.fill(".length", "0.325 in"))
    repeated(hand)  # four times, as it begins
    step_of(hand, "cut", through="true")
    hand.look(lambda: hand.paste(".outline.length", "0.125 in\t0.18 in\t0\t0.25 in\t0 in"))
    step_of(hand, "hole", plane="xz", form="tapped", screw="10-24")
    hand.look(lambda: hand.paste(".at.spots.a.x", "0 in\t0.35 in"))
    step_of(hand, "edges", how="bevel", which="of a face", a="element.start", size="0.030 in")
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    hand.made(lambda: hand.key("Control+Enter"))
    add(hand, "like", part="cylinder_or_tube")
    hand.button("Add from the catalogue")
    hand.click('[data-element="tube"]')
    hand.paste("diameter", "0.8 in\t0.5 in\t0.35 in")
    hand.made(lambda: hand.button("Add"))
    step_of(hand, "extrude", plane="xy", offset="0.03 in", outline="slot")
    hand.look(lambda: hand.paste(".outline.length", "0.5 in\t0.16 in\t0.6 in\t0 in"))
    hand.look(lambda: hand.fill(".length", "0.29 in"))
    repeated(hand, "8")
    step_of(hand, "edges", size="0.02 in")
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    hand.made(lambda: hand.key("Control+Enter"))
    hand.key("j")
    hub, other, star = "cylinder_or_tube/bore", "like_another_part/bore", "cylinder_or_tube_2/bore"
    for a, b, flip, offset, turn in (
        (hub, star, False, "0.75 in", "22.5 deg"),
        (hub, other, True, "1.85 in", "45 deg"),
    ):
        hand.choose("#join-a", a)
        hand.choose("#join-b", b)
        hand.click('[data-candidate="rigid"]')
        hand.text('[data-ask="offset"]', offset)
        hand.text('[data-ask="turn"]', turn)
        if flip:
            hand.click(page.locator(".check-row:visible", has_text="Flip"))
        expect(page.get_by_role("button", name="Join as shown")).to_be_enabled()
        hand.made(lambda: hand.button("Join as shown"))
    require(hand, "mass", at_most="1.5 lb")
    expect(page.locator(".sum strong")).to_have_text("All 3 hold")
    assert hand.count <= 75, hand.count


def test_a_swivel_base_on_five_double_casters(page: Page, server: Server) -> None:
    """A hub with five arms, in it a threaded stem that turns by a programme; in each arm a caster with two wheels. Drawn upside down,
    as it is put together. Aim: 80."""
    hand = Hand(page, server)
    new(hand)
    hand.button("Add from the catalogue")
    hand.click('[data-element="tube"]')
    hand.paste("diameter", "60 mm\t14 mm\t20 mm")
    hand.made(lambda: hand.button("Add"))
    step_of(hand, "extrude", plane="xy", outline="slot")
    hand.look(lambda: hand.paste(".outline.length", "100 mm\t24 mm\t70 mm\t0 mm"))
    hand.look(lambda: hand.fill(".length", "12 mm"))
    repeated(hand, "5")
    step_of(hand, "hole", at="circle")
    hand.look(lambda: hand.paste(".at.count", "5\t220 mm\t0 mm\t0 mm"))
    hand.look(lambda: hand.fill("hole.diameter", "8 mm"))
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    hand.made(lambda: hand.key("Control+Enter"))
    base = "cylinder_or_tube"
    grow(hand, f"{base}/bore", "pin: A shaft that turns in it", length="60 mm")
    grow(hand, "shaft/axis", "thread: A thread M14", length="25 mm")
    part(hand, base)
    holes = {
        d["id"]: d["origin"] for d in scene(page)[base]["datums"] if d["id"].startswith("hole.") and d["side"] == "bore"
    }
    tip = max((i for i in holes if "low" not in i and "high" not in i), key=lambda i: holes[i][0])
    grow(hand, f"{base}/{tip}", "pin: A shaft that turns in it", length="30 mm")
    grow(hand, "shaft_2/top", "block: A block on it", length="20 mm", width="10 mm", height="20 mm")
    grow(hand, "block/front", "hole: A hole", diameter="6 mm")
    bore = next(d["id"] for d in scene(page)["block"]["datums"] if d["side"] == "bore" and d["id"].startswith("hole."))
    grow(hand, f"block/{bore}", "pin: A pin held in it", length="34 mm")
    hand.key("p")
    hand.text("#move-y", "-12 mm")
    hand.made(lambda: hand.key("Enter"))
    for k, at in enumerate(("1 mm", "23 mm")):
        if k:
            part(hand, "pin")
        grow(hand, "pin/axis", "tube: A wheel that turns on it", diameter="24 mm", length="10 mm", at=at)
    hand.click(page.locator(".rail button", has_text="Joints"))
    hand.button("Repeat parts")
    for member in ("shaft_2", "block", "pin", "wheel"):  # the second wheel is selected, and so a member already
        hand.click(f'[data-member="{member}"]')
    hand.choose("#rep-datum", f"{base}/bore")
    hand.text("#rep-count", "5")
    hand.made(lambda: hand.button("Repeat"))
    drive(hand, "Shaft on Cylinder or tube", kind="turn_programme")
    assert page.evaluate("() => document.querySelector('.stage-canvas').stage.parts.size") == 2 + 5 * 5
    expect(page.locator('[data-requirement="nothing_overlaps"]')).to_contain_text("holds")
    assert hand.count <= 80, hand.count


def test_a_lettered_plate_in_inches_is_drawn(page: Page, server: Server) -> None:
    """A plate of 3 x 1 x 1/8 in with text 0.02 in deep on its top face, its drawing as DXF in inches. Aim: 18."""
    hand = Hand(page, server)
    new(hand)
    hand.click('.list [data-path="units"]')
    hand.made(lambda: hand.choose('[id="c-units.length"]', "in"))
    add(hand, "block", length="3 in", width="1 in", height="(1/8) in")
    hand.click("#step-new")
    hand.look(lambda: hand.click('#steps-list [data-kind="cut"]'))
    hand.look(lambda: hand.fill(".outline", "text"))
    hand.look(lambda: hand.fill(".outline.text", "No. 7"))
    hand.look(lambda: hand.fill(".outline.height", "0.3 in"))
    hand.look(lambda: hand.fill(".depth", "0.02 in"))
    expect(page.locator(".build-steps li.failed")).to_have_count(0)
    hand.made(lambda: hand.key("Control+Enter"))
    hand.click(".files summary")
    with page.expect_download() as download:
        hand.click('[data-drawing=".dxf"]')
    doc = ezdxf.readfile(download.value.path())
    assert not doc.audit().errors
    sizes = {round(d.get_measurement() * d.override().get("dimlfac"), 6) for d in doc.modelspace().query("DIMENSION")}
    assert {3.0, 1.0, 0.125} <= sizes
    assert any("inches" in t.dxf.text for t in doc.modelspace().query("TEXT"))
    assert hand.count <= 18, hand.count
