"""Numbers that were once silently wrong, each held against arithmetic done by hand or a common formula."""

from __future__ import annotations

from math import pi, radians, tan
from pathlib import Path
from time import thread_time

import numpy as np
import pytest

from tests.cams import sliding
from tests.context import CONTEXT
from tests.core.test_grow import grown
from tests.mechanisms import crossed_ring
from uhrwerk import (
    At,
    BearingPressure,
    Bore,
    Clearance,
    Draft,
    Evaluator,
    FramePlate,
    LinkBar,
    NoInterference,
    Pin,
    PinBending,
    PinShear,
    PressureAngle,
    PrintGap,
    SpurGear,
    ToothBending,
    write,
)
from uhrwerk.cli import main
from uhrwerk.core import views
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.document import ValidationFailed, apply, parse
from uhrwerk.core.document.command import SetValue
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.edit import held_together
from uhrwerk.core.edit.grow import sprouts
from uhrwerk.core.edit.pull import to_gap
from uhrwerk.core.elements.cams import SlidingRoller
from uhrwerk.core.outlines import Circle, Rectangle
from uhrwerk.core.steps import BuildStep, Extrude, Hollow, Opening


def named(*steps: BuildStep) -> dict[str, BuildStep]:
    return {s.name.lower(): s for s in steps}


def test_the_depth_of_an_overlap_is_what_must_be_moved(evaluator: Evaluator) -> None:
    """A fan's blade, 3 mm thick, whose tip reaches 52 mm from its axis into a lip that begins at 47 mm: its corner reaches
    hypot(52, 1.5), so that 5.022 mm must be moved; the thickness of the blade was told, 3.00 mm deep +- 5.81."""
    d = Draft("Fan")
    bracket = d.own_part("Bracket", "steel", named(
        Extrude(name="Foot", outline=Rectangle(length="120 mm", width="20 mm"), length="5 mm"),
        Extrude(name="Lip", outline=Rectangle(length="6 mm", width="20 mm", x="50 mm"), length="30 mm"),
    ))  # fmt: skip
    blade = d.own_part("Blade", "steel", named(
        Extrude(name="Hub", outline=Circle(diameter="10 mm"), length="6 mm"),
        Extrude(name="Tip", outline=Rectangle(length="52 mm", width="3 mm", x="26 mm"), length="12 mm"),
    ), z="20 mm")  # fmt: skip
    j = d.revolute("Turns", At(placed=bracket, datum="origin"), At(placed=blade, datum="origin"), offset="20 mm")
    d.turn("Motor", j, "60 rpm", start="90 deg")
    d.require(NoInterference(name="Apart"))
    v = evaluator.evaluate(d.document).verdicts["apart"]
    want = np.hypot(0.052, 0.0015) - 0.047
    assert v.holds is False
    assert v.value == pytest.approx(want, abs=max(v.error, 2e-5))
    assert v.error < 1e-4


@pytest.mark.parametrize(("wanted", "by"), [("3 mm", -8.0), ("1 mm", -6.0)])
def test_a_face_stops_at_a_gap_from_inside_an_overlap(evaluator: Evaluator, wanted: str, by: float) -> None:
    """A block 25 mm tall under a clip whose underside lies at 20 mm, on a base that it stands on: 5 mm into the clip. Its top face
    was said not to change the gap; against its own base nothing changes."""
    d = Draft("Clip")
    base = d.own_part(
        "Base",
        "steel",
        named(Extrude(name="Base", outline=Rectangle(length="80 mm", width="40 mm"), length="5 mm")),
        z="-5 mm",
    )
    block = d.own_part(
        "Block", "steel", named(Extrude(name="Block", outline=Rectangle(length="30 mm", width="20 mm"), length="25 mm"))
    )
    clip = d.own_part(
        "Clip",
        "steel",
        named(Extrude(name="Clip", outline=Rectangle(length="60 mm", width="30 mm"), length="4 mm")),
        z="20 mm",
    )
    d.rigid("On base", At(placed=base, datum="base.end"), At(placed=block, datum="block.start"), flip=True)
    d.rigid(
        "Over it", At(placed=base, datum="base.end"), At(placed=clip, datum="clip.start"), offset="20 mm", flip=True
    )
    at = At(placed=block, datum="block.end")
    found = next(s for s in sprouts(d.document, at, CONTEXT, values={"by": "0 mm"}) if s.kind == "pull")

    def command(far: float) -> dict:
        (one,) = sprouts(d.document, at, CONTEXT, found.id, {"by": f"{far * 1e3:.9g} mm"})
        return one.command

    gap = d.document.scope().value(wanted, "length")
    assert to_gap(d.document, block, command, gap, 0.0, evaluator) * 1e3 == pytest.approx(by, abs=1e-3)
    assert to_gap(d.document, block, command, gap, 0.0, evaluator, clip) * 1e3 == pytest.approx(by, abs=1e-3)
    with pytest.raises(ValidationFailed, match="does not change the gap"):
        to_gap(d.document, block, command, gap, 0.0, evaluator, base)


def test_a_face_stops_at_a_gap_over_the_cycle(evaluator: Evaluator) -> None:
    """An arm that reaches hypot(50, 5) mm from its axis turns past a post at 60 mm, and points away from it at the start: the post may
    come nearer by 60 - 50.249 - 2 mm until 2 mm are left, where as all stands it would go into the arm's circle."""
    d = Draft("Post")
    base = d.own_part(
        "Base",
        "steel",
        named(Extrude(name="Base", outline=Rectangle(length="200 mm", width="200 mm"), length="5 mm")),
        z="-5 mm",
    )
    post = d.own_part(
        "Post",
        "steel",
        named(Extrude(name="Post", outline=Rectangle(length="20 mm", width="60 mm", x="70 mm"), length="20 mm")),
    )
    arm = d.own_part(
        "Arm",
        "steel",
        named(Extrude(name="Arm", outline=Rectangle(length="50 mm", width="10 mm", x="25 mm"), length="10 mm")),
        z="3 mm",
    )
    d.rigid("Stands", base["origin"], post["origin"], offset="5 mm")
    turns = d.revolute("Turns", base["origin"], arm["origin"], offset="8 mm")
    d.turn("Motor", turns, "60 rpm", start="150 deg")
    at = post["post.side_4"]
    found = next(s for s in sprouts(d.document, at, CONTEXT, values={"by": "0 mm"}) if s.kind == "pull")

    def command(far: float) -> dict:
        (one,) = sprouts(d.document, at, CONTEXT, found.id, {"by": f"{far * 1e3:.9g} mm"})
        return one.command

    by = to_gap(d.document, post, command, 0.002, 0.0, evaluator, arm, cycle=True)
    assert by == pytest.approx(0.060 - np.hypot(0.050, 0.005) - 0.002, abs=2e-6)
    hub = 5e-3 * np.sin(np.radians(30))  # the arm's end lies at its axis: its corner reaches so far towards the post
    assert to_gap(d.document, post, command, 0.002, 0.0, evaluator, arm) == pytest.approx(0.060 - hub - 0.002, abs=2e-6)


def test_a_gap_that_is_just_the_limit_holds_by_either_rule(evaluator: Evaluator) -> None:
    """0.40 mm between a pin of 7.2 mm and a bore of 8 mm: clearance held, the print gap was `too close to the limit to decide`."""
    d = Draft("Gap")
    plate = d.part("Plate", "steel", FramePlate(bores={"b": Bore(x="30 mm", y="30 mm", diameter="8 mm")}))
    pin = d.part("Pin", "steel", Pin(diameter="7.2 mm", length="8 mm"))
    d.turn("Motor", d.revolute("Turns", plate["b"], pin["axis"], offset="-8 mm"), "60 rpm")
    d.require(Clearance(name="Clear", a=Of(placed=plate), b=Of(placed=pin), at_least="0.4 mm"))
    d.require(PrintGap(name="Printed", at_least="0.4 mm"))
    found = evaluator.evaluate(d.document).verdicts
    assert (found["clear"].holds, found["printed"].holds) == (True, True), [v.words for v in found.values()]


def test_what_tilts_a_hinge_is_borne_by_its_pin(evaluator: Evaluator) -> None:
    """5 kg hung 300 mm from an upright axis, 60 mm of which bear: 14.71 N m, 245.2 N at both ends (common practice: M / l); shear was
    told as 0 MPa. Mean shear 4 F / (pi d^2), bending 32 M / (pi d^3) of 6 mm."""
    d = Draft("Hinge")
    bores = {"pin": Bore(x="20 mm", y="20 mm", diameter="6 mm")}
    post = d.part("Post", "steel", FramePlate(length="40 mm", width="40 mm", thickness="60 mm", bores=bores))
    arm = d.part("Arm", "steel", Pin(diameter="6 mm", length="60 mm"))
    j = d.revolute("Turns", post["pin"], arm["axis"], offset="-60 mm")
    d.turn("Motor", j, "0.001 rpm")
    for path, value in (("measured_mass", "5 kg"), ("centre_x", "300 mm"), ("centre_z", "30 mm")):
        d.set(f"parts.arm.{path}", value)
    d.set("cycle.weight", "against_z")
    d.require(PinShear(name="Shear", joint=j, at_most="5 MPa"))
    d.require(PinShear(name="One", joint=j, sections=1))
    d.require(PinBending(name="Bending", joint=j))
    d.require(BearingPressure(name="Pressure", joint=j, length="60 mm"))
    found = evaluator.evaluate(d.document).verdicts
    moment = 5 * 9.80665 * 0.3
    assert found["shear"].holds is False
    assert found["shear"].value == pytest.approx(moment / 0.06 * 4 / (pi * 0.006**2), rel=1e-6)
    assert found["bending"].value == pytest.approx(32 * moment / (pi * 0.006**3), rel=1e-6)
    assert found["pressure"].value == pytest.approx(6 * moment / (0.006 * 0.06**2), rel=1e-6)
    assert found["one"].holds is None
    assert "a pin with one section bends" in found["one"].words


def test_a_side_that_cannot_be_had_is_refused_with_all_that_it_takes() -> None:
    """Three faces flush, the side of one turned over: two alone could hold. Both that were named bore one name."""
    d = Draft("Flush")
    plate = d.part("Plate", "steel", FramePlate())
    block = d.part("Block", "steel", FramePlate(length="30 mm", width="20 mm", thickness="5 mm"))
    for a, b, side in (("top", "bottom", "opposite"), ("left", "left", "same"), ("front", "front", "same")):
        d.flush("Block flush to Plate", plate[a], block[b], side=side)
    change = SetValue(path="relations.block_flush_to_plate_2.side", value="opposite")
    with pytest.raises(ValidationFailed) as refused:
        held_together.check(d.document, apply(d.document, change), change, CONTEXT)
    ((path, words),) = refused.value.faults
    assert path == change.path
    assert all(f"({i})" in words for i in ("block_flush_to_plate", "block_flush_to_plate_2", "block_flush_to_plate_3"))
    harmless = SetValue(path="relations.block_flush_to_plate_2.side", value="same")
    held_together.check(d.document, apply(d.document, harmless), harmless, CONTEXT)


def gear_shaft(shift: str) -> Draft:
    d = Draft("Mate")
    plate = d.part(
        "Frame plate",
        "steel",
        FramePlate(length="160 mm", bores={"bore_1": Bore(x="40 mm", y="50 mm", diameter="2 mm")}),
    )
    shaft = d.part("Shaft", "steel", Pin(diameter="1.9 mm", length="20 mm"))
    d.revolute("Turns", plate["bore_1"], shaft["axis"], offset="-8 mm")
    gear = d.part("Gear", "steel", SpurGear(teeth=8, bore="1.9 mm", profile_shift=shift))
    d.rigid("Held", shaft["axis"], gear["axis"], offset="10 mm")
    return d


def test_a_mate_stands_at_its_centre_distance_or_is_refused() -> None:
    """8 and 64 teeth: `36.000 mm apart, and mesh at 36.000 mm: bring them 0.000 mm farther apart`. Without shift their contact ratio
    is below 1; with it they mesh where the involute function says (ISO 21771), to the last digit."""
    title = "Its mate, on a shaft of its own in the plate"
    with pytest.raises(ValidationFailed, match=r"8 and 64 teeth .* do not mesh: their contact ratio is 0\.91"):
        grown(gear_shaft("0").document, "gear", "axis", title, teeth="64")
    both = grown(gear_shaft("0.5").document, "gear", "axis", title, teeth="64")
    alpha = radians(20)
    inv = tan(alpha) - alpha + 2 * (0.5 + 0.5) / (8 + 64) * tan(alpha)
    working = alpha
    for _ in range(60):
        working -= (tan(working) - working - inv) / tan(working) ** 2
    wanted = 36e-3 * np.cos(alpha) / np.cos(working)
    bore = both.parts["frame_plate"].element.bores["bore"]  # type: ignore[attr-defined]
    assert both.scope().value(bore.x, "length") - 0.040 == pytest.approx(wanted, abs=1e-9)
    m = compile(both, CONTEXT)
    assert not [p.words for p in m.problems]


def test_copies_of_copies_have_names_of_their_own() -> None:
    """A wheel used again, then the arm with both wheels three times round: six wheels, of which one stood on another arm."""
    d = Draft("Arms")
    plate = d.part("Plate", "steel", FramePlate(bores={"c": Bore(x="80 mm", y="50 mm")}))
    arm = d.part("Arm", "steel", LinkBar(distance="40 mm"), x="80 mm", y="50 mm")
    wheel = d.part("Wheel", "steel", Pin(diameter="6 mm", length="5 mm"), x="120 mm", y="50 mm")
    d.rigid("Arm on plate", plate["c"], arm["hole_1"], offset="1 mm")
    d.revolute("Wheel on arm", arm["hole_2"], wheel["axis"])
    d.copy("RepeatSteps", [wheel], "2", z="20 mm")
    d.revolute("Second wheel", arm["hole_1"], wheel.copy(2)["axis"])
    d.ring("Ring", [arm, wheel, wheel.copy(2)], plate["c"], "3")
    m = compile(d.document, CONTEXT)
    assert m.problems == []
    wheels = [i for i in m.document.placed if i.startswith("wheel")]
    assert len(wheels) == 6
    pose = solve(m)
    outer = np.array([m.part_pose(i, pose)[:2] for i in ("wheel", "wheel__r2_2", "wheel__r2_3")]) - [0.08, 0.05]
    turned = np.degrees(np.arctan2(outer[:, 1], outer[:, 0])) % 360
    np.testing.assert_allclose(np.linalg.norm(outer, axis=1), 0.04, atol=1e-9)
    np.testing.assert_allclose(turned, [0, 120, 240], atol=1e-6)


def test_what_is_mirrored_is_repeated_in_a_ring() -> None:
    """A wheel 40 mm from the axis and its image behind a plane, four times round: the last stood one place off."""
    d = Draft("Ring")
    plate = d.part("Plate", "steel", FramePlate(bores={"c": Bore(x="80 mm", y="50 mm")}))
    wheel = d.part("Wheel", "steel", Pin(diameter="6 mm", length="5 mm"), x="120 mm", y="50 mm", z="10 mm")
    d.rigid("Held", plate["c"], At(placed=wheel, datum="axis"), offset="10 mm")
    d.set("joints.held.a.x", "40 mm")
    d.mirror("Image", [wheel], plate["xz_plane"])
    d.ring("Round", [wheel, wheel.copy(2)], plate["c"], "4")
    m = compile(d.document, CONTEXT)
    assert [p.words for p in (*m.problems, *m.remarks)] == []
    pose, middle = solve(m), np.array([0.08, 0.05])
    for first, names in (([0.12, 0.05], ["wheel", "wheel__r2_2", "wheel__r2_3", "wheel__r2_4"]),
                         ([0.12, -0.05], ["wheel__2", "wheel__2__2", "wheel__2__3", "wheel__2__4"])):  # fmt: skip
        off = complex(*(np.array(first) - middle))
        for k, name in enumerate(names):
            want = middle + np.array([(off * 1j**k).real, (off * 1j**k).imag])
            np.testing.assert_allclose(m.part_pose(name, pose)[:2], want, atol=1e-9, err_msg=name)


def test_a_drive_is_offered_from_where_its_joint_stands(evaluator: Evaluator) -> None:
    d = Draft("Stands")
    plate = d.part("Plate", "steel", FramePlate(bores={"c": Bore(x="80 mm", y="50 mm")}))
    arm = d.part("Arm", "steel", LinkBar(), x="80 mm", y="50 mm", turn_z="-160 deg")
    d.revolute("Turns", plate["c"], arm["hole_1"], offset="1 mm")
    (offered,) = views.view(evaluator.evaluate(d.document))["driveable"]
    assert offered["driver"] is not None
    assert offered["driver"]["start"] == "-160 deg"


def test_a_motion_that_is_not_reached_fails_the_check(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """A rocker driven through its dead point, nothing asked of it: exit 0 said that all was well."""
    from tests.mechanisms import four_bar

    document = four_bar(0.06, 0.05, 0.04, 0.07)
    file = tmp_path / "dead.json"
    file.write_text(write(document.model_copy(update={"requirements": {}})), encoding="utf-8")
    assert main(["check", str(file)]) == 1
    assert "dead point" in capsys.readouterr().err


@pytest.mark.parametrize(("width", "shift", "shared"), [("3 mm", "0 mm", 3.0), ("10 mm", "6 mm", 4.0)])
def test_teeth_bend_over_the_width_that_both_have(evaluator: Evaluator, width: str, shift: str, shared: float) -> None:
    """One gear 10 mm wide, the other narrower or shifted along its axis: the stress is as much more as the shared width is less."""

    def stress(width: str, shift: str) -> float:
        d = Draft("Teeth")
        bores = {"a": Bore(x="40 mm", y="50 mm", diameter="6 mm"), "b": Bore(x="70 mm", y="50 mm", diameter="6 mm")}
        plate = d.part("Plate", "steel", FramePlate(bores=bores))
        one = d.part("One", "steel", SpurGear(teeth=20, width="10 mm"))
        other = d.part("Other", "steel", SpurGear(teeth=40, width=width))
        d.turn("Motor", d.revolute("Turns", plate["a"], one["axis"], offset="2 mm"), "60 rpm")
        d.revolute("Driven", plate["b"], other["axis"], offset=f"2 mm + {shift}")
        d.gear_pair("Mesh", one, other)
        d.torque("Load", plate["b"], other["axis"], torque="1 N*m", acts="against_the_motion")
        d.require(ToothBending(name="Teeth", pair="mesh", at_most="1000 MPa"))
        found = evaluator.evaluate(d.document).verdicts["teeth"]
        assert found.value is not None, found.words
        return found.value

    assert stress(width, shift) / stress("10 mm", "0 mm") == pytest.approx(10 / shared, rel=2e-3)


def test_a_rollers_own_pin_is_not_its_guide(evaluator: Evaluator) -> None:
    """A roller that turns on a pin of the slider: the pressure angle is the slider's, where 90.00 deg was told."""
    document = sliding(SlidingRoller())
    d = Draft("Roller", document)
    roller = d.part("Roller", "steel", Pin(diameter="10 mm", length="8 mm"), x="120 mm", y="60 mm")
    d.revolute("Rolls", At(placed="slider", datum="roller"), roller["axis"])
    d.set("pairs.runs.b", {"placed": roller, "datum": "axis"})
    d.require(PressureAngle(name="Angle", pair="runs"))
    d.document = document.model_copy(update={"requirements": d.document.requirements, **{
        c: getattr(d.document, c) for c in ("parts", "placed", "joints", "pairs")}})  # fmt: skip
    own = Draft("Own", document)
    own.require(PressureAngle(name="Angle", pair="runs"))
    wanted = evaluator.moved(own.document)
    found = evaluator.moved(d.document)
    values = [e.document.requirements["angle"].judge(e).value for e in (wanted, found)]  # type: ignore[attr-defined]
    assert values[0] is not None
    assert values[1] == pytest.approx(values[0], abs=1e-5)


def frustum(r: float, s: float, h: float) -> float:
    return pi * h * (r * r + r * s + s * s) / 3


@pytest.mark.parametrize("taper", [10.0, -10.0])
def test_a_taper_to_both_sides_stands_on_its_plane(evaluator: Evaluator, taper: float) -> None:
    """Two frustums on one circle of 40 mm; the outline stood at the far end of a single one."""
    d = Draft("Taper")
    step = Extrude(name="B", outline=Circle(diameter="40 mm"), length="30 mm", both=True, taper=f"{taper} deg")
    part = d.own_part("P", "steel", {"b": step})
    solid = evaluator.evaluate(d.document).solids[part]
    end = 20 - 15 * tan(radians(taper))
    assert solid.volume * 1e9 == pytest.approx(2 * frustum(20, end, 15), rel=1e-9)
    low, high = (f(solid.bodies["part"].vertices[:, 2]) for f in (np.min, np.max))
    assert (low, high) == (pytest.approx(-0.015), pytest.approx(0.015))


def test_a_cup_that_narrows_to_its_opening_is_hollowed(evaluator: Evaluator) -> None:
    """A frustum of 40 mm at its foot, 30 mm tall, 10 deg: the inside begins 2 mm above the floor, 2 mm / cos(10 deg) within."""
    d = Draft("Cup")
    step = Extrude(name="B", outline=Circle(diameter="40 mm"), length="30 mm", taper="10 deg")
    part = d.own_part("P", "steel", {"b": step, "h": Hollow(name="H", wall="2 mm", open={"a": Opening(face="b.end")})})
    e = evaluator.evaluate(d.document)
    assert e.problems == []
    t, wall = tan(radians(10)), 2 / np.cos(radians(10))
    inside = frustum(20 - 2 * t - wall, 20 - 30 * t - wall, 28)
    assert e.solids[part].volume * 1e9 == pytest.approx(frustum(20, 20 - 30 * t, 30) - inside, rel=1e-6)


def test_limits_are_told_as_they_were_written() -> None:
    """0.01 MPa was told as `at most 0 MPa allowed`."""
    document = Draft("Limits").document
    assert document.limit(0.01e6, "stress") == "0.01 MPa"
    assert document.limit(60e6, "stress") == "60 MPa"
    assert document.limit(1.2345e-3, "length") == "1.2345 mm"
    assert document.limit(1.5e-3, "length") == "1.50 mm"


@pytest.mark.parametrize("start", ["0 deg", "-160 deg", "175 deg", "30 deg"])
def test_a_ring_of_twelve_answers_soon_wherever_its_drive_is_to_begin(evaluator: Evaluator, start: str) -> None:
    """It computed for over 100 s without a word from a start that it cannot take. At most 20 s of its own thread, and a joint that is
    held stands where its equations say."""
    document = crossed_ring(12)
    (driver,) = document.drivers
    moved = apply(document, parse({"kind": "set_value", "path": f"drivers.{driver}.start", "value": start}))
    begun = thread_time()
    e = evaluator.moved(moved)
    assert thread_time() - begun < 20
    assert e.problems or (e.motion is not None and e.motion.residual < 1e-9)
