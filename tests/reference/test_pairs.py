"""Pairs that transmit, against closed forms: ratio and sign from the teeth, phase, slots, planets."""

from __future__ import annotations

import numpy as np
import pytest

from tests.context import CONTEXT
from tests.mechanisms import mm, planetary, rack_and_pinion
from tests.spatial import drive, frame, joint, system
from uhrwerk import ArcLink, Bore, Draft, EccentricDisc, FramePlate, LinkBar, Pin, Rack, SlottedLever, SpurGear
from uhrwerk.core.assembly import NotSolvable, compile, mobility, solve
from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import assemble
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import Numbers, numbers
from uhrwerk.core.joints import BevelPair, JointFrame, ScrewPair, WormPair
from uhrwerk.core.joints.helical_pair import helical_row
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.motion import Coordinate, Motion, coordinates, cycle, follow
from uhrwerk.core.quantity import Scope
from uhrwerk.core.requirements.time_ratio import time_ratio
from uhrwerk.core.solids import Datum

TIMES = np.linspace(0.0, 1.0, 121)
AXIS = Datum("axis", np.zeros(3), np.array([0.0, 0, 1]), np.array([1.0, 0, 0]))


def run(document: Document, duration: float = 1.0, frames: int = 120) -> tuple[dict[str, Coordinate], Motion]:
    m = compile(document, CONTEXT)
    assert not m.problems, m.problems
    motion = cycle(m, solve(m), duration, frames)
    return coordinates(m, motion), motion


def test_rack_travels_by_the_pitch_circle() -> None:
    """x = r theta with r = m z / 2, a tooth of the gear in a space of the rack. ISO 21771-1; common practice."""
    draft, turn, slide = rack_and_pinion()
    draft.turn("Motor", turn, "45 rpm")
    found, motion = run(draft.document)
    travel = found[slide].value - found[slide].value[0]
    assert np.abs(travel) == pytest.approx(0.020 * 2 * np.pi * 0.75 * motion.times, abs=1e-9)
    m = compile(draft.document, CONTEXT)
    direction = motion.pose[-1, m.link_of["rack"], 0] - motion.pose[0, m.link_of["rack"], 0]
    assert direction > 0  # the gear above the rack turns left: its lowest point goes to the right


def test_a_helical_pair_on_parallel_axes_is_an_external_pair() -> None:
    row = helical_row(place(1), place(2, (0.05, 0, 0)), (20, 40), (0.3, -0.3), "pairs.x")
    assert (row.kind, row.sizes) == ("mesh", (20, 40))


def place(
    link: int, origin: tuple[float, float, float] = (0, 0, 0), z: tuple[float, float, float] = (0, 0, 1)
) -> JointFrame:
    return JointFrame(link, frame(origin, z), AXIS, str(link))


def gears(row: object, axes: list[np.ndarray], speed: float) -> tuple[np.ndarray, np.ndarray]:
    """Angular velocities (T,) about their own axes of two links turning on fixed axes and coupled by a row."""
    pose = np.tile(poses.IDENTITY, (3, 1))
    turns = [joint("revolute", 0, at, k + 1, pose, f"r{k}") for k, at in enumerate(axes)]
    rows = system(turns, 3, [row, drive(turns[0], "turn", 0.0, speed)])  # type: ignore[list-item]
    start, left = assemble(rows, pose)
    assert left < 1e-9
    _, v, *_ = follow(rows, start, 1.0, TIMES)
    along = [poses.rotate(at[3:], np.array([0.0, 0, 1])) for at in axes]
    return v[:, 1, 3:] @ along[0], v[:, 2, 3:] @ along[1]


def stated(kind: type[JointPair], **fields: object) -> Numbers:
    """The numbers of a pair between two datums."""
    ends = {"a": {"placed": "a", "datum": "axis"}, "b": {"placed": "b", "datum": "axis"}}
    return numbers(kind.model_validate({"name": "Pair", **ends, **fields}), Scope.of({}, {"length": "mm", "mass": "g"}))


@pytest.mark.parametrize(("side", "z"), [("same", (0, 1, 0)), ("opposite", (0, -1, 0)), ("same", (0, 0.8, 0.6))])
def test_bevel_gears_roll_at_their_common_cone_line(side: str, z: tuple[float, float, float]) -> None:
    """No slip along the line where the cones touch: sin(d1) w1 = sin(d2) w2, tan(d1) = sin(S) / (N2/N1 + cos(S)).

    G. Maitra, Handbook of Gear Design, bevel gears; from memory.
    """
    a, b = place(1), place(2, z=z)
    n = stated(BevelPair, teeth_a=18, teeth_b=30, side=side)
    w_a, w_b = gears(BevelPair.rows(n, a, b, (n, n), "pairs.x")[0], [a.frame, b.frame], 3.0)
    out = np.array(z) * (1 if side == "same" else -1)
    angle = np.arccos(out[2])
    cone = np.arctan2(np.sin(angle), 30 / 18 + np.cos(angle))
    across = out - out[2] * np.array([0, 0, 1])
    line = np.cos(cone) * np.array([0.0, 0, 1]) + np.sin(cone) * across / np.linalg.norm(across)
    for wa, wb in zip(w_a[::20], w_b[::20], strict=True):
        np.testing.assert_allclose(np.cross([0, 0, wa], line), np.cross(wb * np.array(z), line), atol=1e-9)
    assert np.abs(w_b) == pytest.approx(3.0 * 18 / 30, abs=1e-9)


@pytest.mark.parametrize("hand", ["right", "left"])
@pytest.mark.parametrize("above", [1.0, -1.0])
@pytest.mark.parametrize("z", [(1, 0, 0), (-1, 0, 0)])
def test_a_worm_drives_its_wheel_like_a_screw_its_nut(hand: str, above: float, z: tuple[float, float, float]) -> None:
    """Threads of a right-hand worm that turns about its axis move against that axis, and the wheel's rim with them."""
    starts, teeth = 2, 31
    worm, wheel = place(1), place(2, (0, 0.04 * above, 0), z)
    n = stated(WormPair, starts=starts, teeth=teeth, hand=hand)
    w_a, w_b = gears(WormPair.rows(n, worm, wheel, (n, n), "pairs.x")[0], [worm.frame, wheel.frame], 5.0)
    rim = np.cross(np.array(z) * w_b[0], [0, -above, 0])  # per metre of wheel radius, where the worm is
    assert np.sign(rim[2]) == (-1 if hand == "right" else 1) * np.sign(w_a[0])
    assert np.abs(w_b) == pytest.approx(5.0 * starts / teeth, abs=1e-9)


@pytest.mark.parametrize(("helix_a", "helix_b"), [(45.0, 45.0), (60.0, 30.0), (-45.0, -45.0)])
def test_crossed_helical_gears_agree_along_the_normal_of_their_teeth(helix_a: float, helix_b: float) -> None:
    """At the point between them both pitch surfaces move equally fast along the common normal of the teeth in the
    tangent plane. Litvin, Fuentes, Gear Geometry and Applied Theory, ch. 16 (screw gearing); from memory."""
    n_a, n_b, normal_module = 12, 25, 0.002
    beta = np.radians([helix_a, helix_b])
    radius = [n * normal_module / np.cos(b) / 2 for n, b in zip((n_a, n_b), beta, strict=True)]
    angle = beta.sum()
    centres = float(sum(radius))
    z_b = (0.0, -np.sin(angle), np.cos(angle))  # e points from a to b along x
    a, b = place(1), place(2, (centres, 0, 0), z_b)
    w_a, w_b = gears(helical_row(a, b, (n_a, n_b), tuple(beta), "pairs.x"), [a.frame, b.frame], 2.0)
    e = np.array([1.0, 0, 0])
    tooth = np.cos(beta[0]) * np.array([0.0, 0, 1]) + np.sin(beta[0]) * np.cross([0, 0, 1.0], e)
    along = np.cross(tooth, e)
    v_a = np.cross([0, 0, w_a[0]], radius[0] * e) @ along
    v_b = np.cross(np.array(z_b) * w_b[0], -radius[1] * e) @ along
    assert v_a == pytest.approx(v_b, abs=1e-9)
    assert abs(w_b[0]) == pytest.approx(2.0 * n_a / n_b, rel=1e-9)


def test_a_nut_on_a_left_hand_screw_goes_back_by_the_lead() -> None:
    """Travel = lead x turns, over several turns; both parts are held by joints of their own."""
    pose = np.tile(poses.IDENTITY, (3, 1))
    screw = joint("revolute", 0, frame((0, 0, 0)), 1, pose, "screw")
    nut = joint("prismatic", 0, frame((0, 0, 0.02)), 2, pose, "nut")
    n = stated(ScrewPair, lead="-4 mm")
    row = ScrewPair.rows(n, place(1), place(2), (n, n), "pairs.x")[0]
    rows = system([screw, nut], 3, [row, drive(screw, "turn", 0.0, 2 * np.pi * 3.5)])
    got, *_ = follow(rows, pose, 1.0, TIMES)
    # the screw turns forward and stays: its nut goes the other way of an advancing screw
    np.testing.assert_allclose(got[:, 2, 2], 0.004 * 3.5 * TIMES, atol=1e-9)


def test_slotted_lever_quick_return() -> None:
    """Lever angle atan2(a sin t, d + a cos t); time ratio (180 + 2 asin(a/d)) / (180 - 2 asin(a/d)).

    Norton, Design of Machinery, section 3.3 (quick-return, crank-shaper); from memory.
    """
    a, d = 0.03, 0.08
    draft = Draft("Quick return")
    bores = {
        "lever": Bore(x="40 mm", y="60 mm", diameter="8 mm"),
        "crank": Bore(x=f"40 mm + {mm(d)}", y="60 mm", diameter="8 mm"),
    }
    plate = draft.part("Plate", "steel", FramePlate(length="200 mm", width="120 mm", bores=bores))
    disc = draft.part("Disc", "steel", EccentricDisc(diameter="80 mm", eccentricity=mm(a)), x="120 mm", y="60 mm")
    lever = draft.part("Lever", "steel", SlottedLever(slot_length="70 mm"), x="40 mm", y="60 mm", z="8 mm")
    crank = draft.revolute("Disc turns", plate["crank"], disc["axis"])
    swing = draft.revolute("Lever swings", plate["lever"], lever["pivot"], offset="8 mm")
    slot = draft.slot_pair("Pin in slot", disc["crank_pin"], lever["slot"])
    draft.turn("Motor", crank, "60 rpm")
    found, motion = run(draft.document, frames=360)
    t = 2 * np.pi * motion.times
    np.testing.assert_allclose(found[swing].value, np.arctan2(a * np.sin(t), d + a * np.cos(t)), atol=1e-9)
    want = np.hypot(d + a * np.cos(t), a * np.sin(t)) - (0.040 + 0.035)
    np.testing.assert_allclose(found[slot].value, want, atol=1e-9)
    swing_back = np.arcsin(a / d)
    ratio = time_ratio(found[swing])
    assert ratio is not None
    assert ratio[0] == pytest.approx((np.pi + 2 * swing_back) / (np.pi - 2 * swing_back), rel=1e-7)


def test_a_pin_in_an_arc_slot_keeps_its_distance() -> None:
    draft = Draft("Arc")
    base = draft.part("Base", "steel", ArcLink(radius="60 mm", span="120 deg", slot="80 deg"))
    arm = draft.part("Arm", "steel", LinkBar(distance="50 mm"), x="5 mm", y="3 mm", z="5 mm", turn_z="10 deg")
    draft.planar("On base", base["top"], arm["bottom"], flip=True)
    slot = draft.slot_pair("Pin in slot", arm["hole_2"], base["slot"])
    m = compile(draft.document, CONTEXT)
    pose = solve(m)
    pin = poses.place(m.part_pose(arm, pose), np.array([0.05, 0, 0]))
    assert np.hypot(pin[0], pin[1]) == pytest.approx(0.060, abs=1e-12)
    assert m.joints[slot].limits[0][1:] == pytest.approx((-np.radians(40), np.radians(40)))
    assert mobility(m.document, m, pose).count == 2


@pytest.mark.parametrize(
    ("sun", "planet", "held", "ratio"),
    [(24, 12, "ring", 24 / 72), (24, 12, "carrier", -24 / 48), (30, 15, "ring", 30 / 90)],
)
def test_planetary_ratio_through_the_carrier(sun: int, planet: int, held: str, ratio: float) -> None:
    """Willis: (w_sun - w_c) / (w_ring - w_c) = - z_ring / z_sun. Mueller, Epicyclic Drive Trains; from memory."""
    document = planetary(sun, planet, 3, held)
    _, motion = run(document, duration=0.5)
    m = compile(document, CONTEXT)
    out = {"ring": "carrier", "carrier": "ring"}[held]
    speeds = {p: motion.velocity[:, m.link_of[p], 5] for p in ("sun", out)}
    np.testing.assert_allclose(speeds[out] / speeds["sun"], ratio, atol=1e-9)


def test_planets_are_phased_into_both_meshes() -> None:
    """The solids themselves: over the cycle no tooth of sun, planets and ring shares space with another."""
    document = planetary(24, 12, 3, "ring", thinning="0.08 mm")
    evaluator = Evaluator()
    try:
        out = evaluator.evaluate(document)
    finally:
        evaluator.kernel_pool.close()
    assert not out.problems, out.problems
    verdict = out.verdicts["nothing_overlaps"]
    assert verdict.holds, verdict.words


def test_teeth_that_cannot_close_the_train_are_named() -> None:
    """(sun + ring) / planets must be whole: (24 + 48) / 5 = 14.4. Mueller, Epicyclic Drive Trains; from memory."""
    document = planetary(24, 12, 5, "ring")
    with pytest.raises(NotSolvable) as error:
        solve(compile(document, CONTEXT))
    words = str(error.value)
    assert "numbers of teeth do not close this train" in words
    assert "of a tooth" in words
    assert any(path.startswith("pairs.") for path in error.value.joints)


@pytest.mark.parametrize("planets", [2, 3, 4, 6])
def test_planets_close_where_the_count_is_whole(planets: int) -> None:
    """On each line of centres a tooth of the sun meets a gap of the planet: phases in teeth, counted against one another, add up
    to the same half for all planets (closed form)."""
    sun, planet = 24, 12
    m = compile(planetary(sun, planet, planets, "ring"), CONTEXT)
    pose = solve(m)
    wheels = [p for p in m.document.placed if p.startswith("planet")]
    assert len(wheels) == planets
    phases = []
    for wheel in wheels:
        (sx, sy, _), (px, py, _) = (m.part_pose(p, pose)[:3] for p in ("sun", wheel))
        line = np.arctan2(py - sy, px - sx)
        turned = [2 * np.arctan2(q[6], q[3]) for q in (m.part_pose(p, pose) for p in ("sun", wheel))]
        phases.append(sun * (line - turned[0]) / (2 * np.pi) + planet * (line + np.pi - turned[1]) / (2 * np.pi))
    off = (np.array(phases) - 0.5 + 0.5) % 1.0 - 0.5
    np.testing.assert_allclose(off - np.round(off - off[0]), off[0], atol=1e-8)
    assert min(abs(off[0]), abs(abs(off[0]) - 0.5)) < 1e-8


def test_a_closed_train_over_two_shafts_finds_its_phase() -> None:
    """Two gears on one shaft, each in mesh with a partner, and the partners on one shaft too: ratios agree (12/36 twice),
    so turning the second shaft by whole teeth must close it."""
    draft = Draft("Closed train")
    bores = {"one": Bore(x="30 mm", y="60 mm", diameter="6 mm"), "two": Bore(x="78 mm", y="60 mm", diameter="6 mm")}
    plate = draft.part("Plate", "steel", FramePlate(bores=bores))
    a = draft.part("A", "steel", SpurGear(module="2 mm", teeth=12), x="30 mm", y="60 mm")
    b = draft.part("B", "steel", SpurGear(module="2 mm", teeth=36, bore="6 mm"), x="78 mm", y="60 mm")
    c = draft.part("C", "steel", SpurGear(module="2 mm", teeth=12), x="30 mm", y="60 mm", z="10 mm")
    e = draft.part("E", "steel", SpurGear(module="2 mm", teeth=36, bore="6 mm"), x="78 mm", y="60 mm", z="10 mm")
    one = draft.revolute("First", plate["one"], a["axis"])
    draft.revolute("Second", plate["two"], b["axis"])
    draft.rigid("A and C", a["axis"], c["axis"], offset="10 mm", turn="30 deg")
    draft.rigid("B and E", b["axis"], e["axis"], offset="10 mm", turn="10 deg")
    draft.gear_pair("A B", a, b)
    draft.gear_pair("C E", c, e)
    draft.turn("Motor", one, "60 rpm")
    found, motion = run(draft.document)
    np.testing.assert_allclose(found["second"].rate / found["first"].rate, -1 / 3, atol=1e-9)
    draft.set("joints.b_and_e.turn", "13 deg")
    with pytest.raises(NotSolvable, match=r"misses by 0\.30 of a tooth"):
        solve(compile(draft.document, CONTEXT))
    assert motion.residual < 1e-9


def test_the_pin_of_another_part_is_no_gear() -> None:
    draft = Draft("x")
    one = draft.part("Rack", "steel", Rack())
    two = draft.part("Pin", "steel", Pin())
    draft.rack_pair("Rolls", two, one)
    assert any("gear" in p.words for p in compile(draft.document, CONTEXT).problems)
