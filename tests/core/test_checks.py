"""Fits, sweeps, overlaps: exact where it decides, and nothing slips through between frames."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import shapely.affinity

from tests.mechanisms import four_bar
from uhrwerk import Bore, Clearance, Cycle, Draft, FramePlate, LinkBar, NoInterference, Pin, Post
from uhrwerk.core import elements
from uhrwerk.core.document import numbers
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.motion import Motion, Trajectory
from uhrwerk.core.proximity.body_geometry import BodyGeometry, BodyPair, PlacedBody
from uhrwerk.core.proximity.relative_motion import AboutFixedAxis, GeneralMotion, least
from uhrwerk.core.proximity.sweep import PairResult, Sweep
from uhrwerk.core.quantity import Scope
from uhrwerk.core.solids import BuildFailed, Solid, circle, extrude, recipe, rectangle


def turning(start: float, rise: float = 0.0, sideways: float = 0.0, frames: int = 36) -> Motion:
    """Link 1 turns once about z in front of link 0."""
    times = np.linspace(0, 1, frames + 1)
    pose = np.tile(poses.IDENTITY, (frames + 1, 2, 1))
    pose[:, 1, :3] = [sideways, 0, rise]
    pose[:, 1, 3:] = poses.turned(np.outer(start + 2 * np.pi * times, [0, 0, 1]))
    velocity = np.zeros((frames + 1, 2, 6))
    velocity[:, 1, 5] = 2 * np.pi
    still = np.zeros_like(velocity)
    track = Trajectory(times, pose, velocity, still, np.zeros((frames, 2, 2)), 1.0)
    return Motion(times, pose, velocity, still, 0.0, True, track)


def shapes(solid: Solid, link: int, name: str) -> PlacedBody:
    return PlacedBody(name, BodyGeometry(next(iter(solid.bodies.values())), name), link, poses.IDENTITY)


def element(evaluator: Evaluator, made: object, deviation: float | None = None) -> Solid:
    n = numbers(made, Scope())
    steps = elements.of(n).solid(n)
    if deviation is not None:
        steps["deviation"] = deviation
    return evaluator.kernel_pool.build(steps)


@pytest.mark.parametrize("deviation", [1e-5, 3e-4])
@pytest.mark.parametrize("start", [0.0, 0.3, 2.0])
@pytest.mark.parametrize("end", ["19 mm", "5 mm"])  # standing out, or flush within the bar
@pytest.mark.parametrize(
    ("diameter", "contact", "overlap", "clearance"),
    [("8.00 mm", True, 0.0, 0.0), ("8.10 mm", False, 5e-5, 0.0), ("7.98 mm", False, 0.0, 1e-5)],
)
def test_pin_and_bore(
    evaluator: Evaluator,
    diameter: str,
    contact: bool,
    overlap: float,
    clearance: float,
    end: str,
    start: float,
    deviation: float,
) -> None:
    """8.00 in 8.00 touches, 8.10 in 8.00 overlaps by 0.05 radially, 7.98 in 8.00 leaves 0.01: facets never decide."""
    bar = element(evaluator, LinkBar(width="16 mm", bore_1="8 mm"), deviation)
    pin = element(evaluator, Pin(diameter=diameter, length=end), deviation)
    rise = -0.007 if end == "19 mm" else 0.0
    found = Sweep(turning(start, rise)).find(shapes(bar, 0, "bar"), shapes(pin, 1, "pin"))
    assert found.contact == contact
    assert found.depth == pytest.approx(overlap, abs=1e-9)
    assert found.distance == pytest.approx(clearance, abs=1e-9)


def test_an_eccentric_pin_has_less_play(evaluator: Evaluator) -> None:
    bar = element(evaluator, LinkBar(width="16 mm", bore_1="8 mm"))
    pin = element(evaluator, Pin(diameter="7.9 mm", length="19 mm"))
    still = turning(0.0, -0.007, sideways=3e-5)
    found = Sweep(still).find(shapes(bar, 0, "bar"), shapes(pin, 1, "pin"))
    assert found.distance == pytest.approx(2e-5, abs=1e-9)


def test_a_thin_post_between_two_of_24_frames_is_found(evaluator: Evaluator) -> None:
    """A post of 1 mm that an arm crosses between two frames 15 degrees apart, where neither frame touches it."""
    draft = Draft("Thin post")
    base = draft.part("Base", "steel", FramePlate(length="200 mm", width="200 mm", bores={"pivot": Bore(x="100 mm", y="100 mm")},
                                                  posts={"post": Post(x="100 mm + 80 mm * cos(7.5 deg)", y="100 mm + 80 mm * sin(7.5 deg)", diameter="1 mm", height="20 mm")}))  # fmt: skip
    arm = draft.part("Arm", "steel", LinkBar(distance="85 mm", width="7 mm"), x="100 mm", y="100 mm", z="4 mm")
    motor = draft.revolute("Arm turns", base["pivot"], arm["hole_1"], offset="4 mm")
    draft.turn("Motor", motor, "60 rpm")
    draft.set("cycle", Cycle(duration="1 s", frames=24).model_dump(mode="json"))
    draft.require(NoInterference(name="Nothing overlaps"))
    draft.require(Clearance(name="Arm clears post", a=arm.body(), b=base.body("post")))
    result = evaluator.evaluate(draft.document)
    assert result.motion is not None
    m = result.mechanism
    assert m is not None
    pair = BodyPair(*[BodyGeometry(result.solids[p].bodies[b], p) for p, b in (("base", "post"), ("arm", "bar"))])
    at_frames = [pair.distance(poses.compose(poses.inverse(p[0]), p[1]))[0] for p in result.motion.pose]
    assert min(at_frames) > 1e-3  # no frame shows it
    assert result.verdicts["nothing_overlaps"].holds is False
    assert result.verdicts["nothing_overlaps"].parts == ("base/post", "arm/bar")
    assert result.verdicts["arm_clears_post"].holds is False
    crossing = result.verdicts["nothing_overlaps"].time
    assert crossing is not None
    assert 0 <= crossing * 360 <= 15


@pytest.mark.parametrize("sideways", [0.06, 0.075, 0.09])
def test_smallest_clearance_agrees_with_shapely(evaluator: Evaluator, sideways: float) -> None:
    """A turning square beside another: planar, so shapely gives the distance at any angle; densely sampled as witness."""
    block = evaluator.kernel_pool.build(recipe({"a": [extrude(rectangle(-0.02, -0.015, 0.02, 0.015), 0, 0.01)]}))
    wall = evaluator.kernel_pool.build(recipe({"a": [extrude(rectangle(-0.01, -0.03, 0.01, 0.03), 0, 0.01)]}))
    found = Sweep(turning(0.2, sideways=sideways)).find(
        shapes(wall, 0, "wall"), shapes(block, 1, "block"), precision=0.0
    )
    flat, other = shapely.box(-0.02, -0.015, 0.02, 0.015), shapely.box(-0.01, -0.03, 0.01, 0.03)
    witness = min(
        other.distance(
            shapely.affinity.translate(shapely.affinity.rotate(flat, np.degrees(0.2) + a, origin=(0, 0)), sideways)
        )
        for a in np.linspace(0, 360, 7201)
    )
    assert found.distance <= witness + found.error
    assert found.distance - found.error <= witness + 1e-12
    assert found.distance == pytest.approx(witness, abs=2e-6 + found.error)
    assert found.error < 2e-6 + 0.005 * witness  # known to half a per cent, where no verdict hangs on it
    sharp = Sweep(turning(0.2, sideways=sideways)).find(
        shapes(wall, 0, "wall"), shapes(block, 1, "block"), precision=0.0, limits=(witness,)
    )
    assert sharp.distance == pytest.approx(witness, abs=2e-6)
    assert sharp.error < 1e-6


@pytest.mark.parametrize("seed", range(12))
def test_the_bound_is_never_above_dense_sampling(evaluator: Evaluator, seed: int) -> None:
    """Reported smallest clearance less its error is never above what 2,000 samples find."""
    random = np.random.default_rng(seed)
    a, b, c, d = 0.03, random.uniform(0.07, 0.1), random.uniform(0.06, 0.08), random.uniform(0.07, 0.09)
    draft = Draft("x", four_bar(a, b, c, d, frames=int(random.integers(24, 90))))
    if not (a + max(b, c, d) <= b + c + d - max(b, c, d) - 0.003):
        pytest.skip("the crank does not turn fully")
    x, y = random.uniform(-60, 140), random.uniform(-80, 120)
    post = draft.part("Post", "steel", Pin(diameter="4 mm", length="40 mm"))
    from uhrwerk.core.joints import At

    draft.rigid("Post on ground", At(placed="ground", datum="hole_1"), post["axis"])
    draft.set("placed.post.start", {"x": f"{x} mm", "y": f"{y} mm", "z": "0 mm"})
    result = evaluator.evaluate(draft.document)
    assert result.motion is not None
    assert result.mechanism is not None
    sweep = Sweep(result.motion)
    parts = {p: PlacedBody(p, BodyGeometry(next(iter(s.bodies.values())), p), result.mechanism.link_of[p], result.mechanism.links[result.mechanism.link_of[p]].local[p]) for p, s in result.solids.items()}  # fmt: skip
    for one, two in (("ground", "coupler"), ("crank", "rocker"), ("post", "rocker")):
        found: PairResult = sweep.find(parts[one], parts[two], precision=0.0)
        times = np.linspace(0, result.motion.duration, 2000)
        pair = BodyPair(parts[one].form, parts[two].form)
        witness = min(pair.distance(p)[0] for p in sweep.poses(parts[one], parts[two], times))
        assert found.distance - found.error <= witness + 1e-9
        assert found.distance >= witness - 5e-6 - found.error


def test_overlap_depth_and_volume_of_two_boxes(evaluator: Evaluator) -> None:
    box = evaluator.kernel_pool.build(recipe({"a": [extrude(rectangle(0, 0, 0.02, 0.02), 0, 0.02)]}))
    pair = BodyPair(shapes(box, 0, "a").form, shapes(box, 1, "b").form)
    depth, volume, middle, _ = pair.overlap(np.array([0.019, 0.005, 0.004, 1, 0, 0, 0]))
    assert depth == pytest.approx(0.001, abs=1e-9)
    assert volume == pytest.approx(0.001 * 0.015 * 0.016, rel=1e-6)
    np.testing.assert_allclose(middle, [0.0195, 0.0125, 0.012], atol=1e-9)
    assert pair.overlap(np.array([0.03, 0, 0, 1, 0, 0, 0]))[0] == 0


def test_seated_faces_touch_and_do_not_overlap(evaluator: Evaluator) -> None:
    box = evaluator.kernel_pool.build(recipe({"a": [extrude(rectangle(-0.02, -0.02, 0.02, 0.02), 0, 0.01)]}))
    found = Sweep(turning(0.1, rise=0.01)).find(shapes(box, 0, "a"), shapes(box, 1, "b"))
    assert found.contact
    assert found.depth == 0


def test_a_kernel_that_gives_no_exact_distance_leaves_the_verdict_open(
    evaluator: Evaluator, monkeypatch: pytest.MonkeyPatch
) -> None:
    draft = Draft("No kernel")
    base = draft.part("Base", "steel", FramePlate(posts={"post": Post(x="50 mm", y="50 mm", diameter="8 mm")}))
    arm = draft.part("Arm", "steel", Pin(diameter="8 mm"), x="59 mm", y="50 mm", z="1 mm")
    draft.require(Clearance(name="Gap", a=arm.body(), b=base.body("post")))
    evaluator.evaluate(draft.document)  # solids are kept now

    def hangs(*_: object) -> None:
        raise BuildFailed("not finished after 30 s; stopped")

    monkeypatch.setattr(evaluator.kernel_pool, "call", hangs)
    verdict = evaluator.evaluate(draft.document).verdicts["gap"]
    assert verdict.holds is None
    assert "not finished" in verdict.words


def test_facets_do_not_make_an_overlap_of_a_touch(evaluator: Evaluator) -> None:
    """A pin that touches the wall of a much wider bore: its triangles may overlap the bore's, the true faces do not."""
    draft = Draft("Touch")
    bar = draft.part("Bar", "steel", LinkBar(width="30 mm", bore_1="20 mm", distance="80 mm"))
    pin = draft.part(
        "Pin",
        "steel",
        Pin(diameter="12 mm", length="20 mm"),
        x="4 mm * cos(3.3 deg)",
        y="4 mm * sin(3.3 deg)",
        z="-5 mm",
    )
    draft.require(NoInterference(name="Nothing overlaps", depth="0.0005 mm"))
    result = evaluator.evaluate(draft.document)
    assert {result.findings[0].a, result.findings[0].b} == {"bar/bar", "pin/pin"}
    assert result.findings[0].contact
    assert result.verdicts["nothing_overlaps"].holds is True
    draft.set(f"placed.{pin}.start.x", "4.004 mm * cos(3.3 deg)")
    draft.set(f"placed.{pin}.start.y", "4.004 mm * sin(3.3 deg)")
    assert evaluator.evaluate(draft.document).verdicts["nothing_overlaps"].holds is False
    assert bar == "bar"


def test_a_disc_spinning_in_place_needs_no_search(evaluator: Evaluator) -> None:
    disc = evaluator.kernel_pool.build(recipe({"a": [extrude(circle(0, 0, 0.02), 0, 0.01)]}))
    post = evaluator.kernel_pool.build(recipe({"a": [extrude(circle(0.03, 0, 0.004), 0, 0.01)]}))
    found = Sweep(turning(0.0)).find(shapes(post, 0, "post"), shapes(disc, 1, "disc"))
    assert found.basis == "they do not move against one another"
    assert found.distance == pytest.approx(0.006, abs=found.error)


def test_the_exact_faces_decide_where_triangles_cannot(evaluator: Evaluator) -> None:
    """A clearance whose limit lies within the deviation of the triangles is settled on the B-rep faces."""
    for limit, holds in (("1.0000 mm", True), ("1.0010 mm", False)):
        draft = Draft("Exact")
        base = draft.part("Base", "steel", FramePlate(posts={"post": Post(x="50 mm", y="50 mm", diameter="8 mm")}))
        arm = draft.part("Arm", "steel", Pin(diameter="8 mm"), x="59 mm", y="50 mm", z="1 mm")
        draft.require(Clearance(name="Gap", a=arm.body(), b=base.body("post"), at_least=limit))
        verdict = evaluator.evaluate(draft.document).verdicts["gap"]
        assert verdict.value == pytest.approx(0.001, abs=1e-8)
        assert verdict.holds is holds
        assert "exact" in verdict.basis
        assert verdict.error < 1e-6


@pytest.mark.parametrize("seed", range(12))
def test_no_point_comes_nearer_along_a_line_than_is_bounded(seed: int) -> None:
    """Dense sampling of random courses, of links that turn in place and that move any way, never passes the bound that
    the search takes along the line of the nearest points."""
    random = np.random.default_rng(seed)
    turning = bool(seed % 2)
    axis = random.normal(size=3)
    axis /= np.linalg.norm(axis)
    course: AboutFixedAxis | GeneralMotion
    if turning:
        pose = np.concatenate([random.normal(size=3) * 0.1, poses.turned(random.normal(size=3))])
        ends = np.array([0.0, 1.0])
        course = AboutFixedAxis(pose, axis, random.normal(size=3) * 0.1, random.uniform(0.1, 6), 2 * np.pi, ends, ends)
    else:
        first = np.concatenate([random.normal(size=3) * 0.1, poses.turned(random.normal(size=3))])
        second = poses.moved(first, random.normal(size=6) * np.array([0.05] * 3 + [0.4] * 3))
        course = GeneralMotion(
            np.array([0.0, 1.0]), np.stack([first, second]), random.normal(size=(2, 6)) * 0.3,
            random.normal(size=(2, 6)), np.zeros(2),
        )  # fmt: skip
    corners = random.normal(size=(20, 3)) * 0.03 + random.normal(size=3) * 0.05
    centre = (corners.min(axis=0) + corners.max(axis=0)) / 2
    reach = np.array([np.linalg.norm(corners - centre, axis=1).max()])
    for _ in range(20):
        cell, middle, half = (
            np.array([random.integers(course.cells)]),
            np.array([random.uniform(0.25, 0.75)]),
            random.uniform(0.01, 0.25),
        )
        n = random.normal(size=3)
        n /= np.linalg.norm(n)
        at = course.poses(cell, middle)
        velocity, omega = course.pace(cell, middle, at)
        bend = course.bend(cell, centre[None], reach)
        bound = least(velocity[0], omega[0], bend[0], half, n, corners @ poses.matrix(at[0, 3:]).T) + n @ at[0, :3]
        many = course.poses(np.repeat(cell, 400), middle + half * np.linspace(-1, 1, 400))
        seen = (poses.place(many[:, None], corners[None]) @ n).min()
        assert bound <= seen + 1e-12
        assert (
            seen - bound
            < 4 * np.abs(n) @ bend[0] * half**2
            + 2 * half * np.linalg.norm(poses.cross(omega[0], corners - centre), axis=1).max()
        )  # not idle
