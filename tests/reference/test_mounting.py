"""Pairs mounted wrongly are told in words with the amount to move; contact ratio with undercut; teeth over a whole pitch."""

from __future__ import annotations

from math import acos, cos, pi, radians, sin, sqrt, tan

import numpy as np
import pytest
import shapely
import shapely.affinity

from tests.mechanisms import gear_train
from uhrwerk import Bore, Draft, FramePlate, NoInterference, Pin, Rack, SpurGear
from uhrwerk.core.document import Document
from uhrwerk.core.elements.involute import Tooth, centre_distance, contact_ratio, tip_reaches_below
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.proximity.gear_meshing import meshes
from uhrwerk.core.proximity.relative_motion import AtPoses

ALPHA = radians(20)


def told(evaluator: Evaluator, document: Document) -> str:
    d = Draft("x", document)
    d.require(NoInterference(name="Apart"))
    result = evaluator.evaluate(d.document)
    assert result.verdicts["apart"].holds is None
    assert result.problems
    assert result.problems[0].path.startswith("pairs.")
    assert result.problems[0].words in result.verdicts["apart"].words
    return result.problems[0].words


def test_gears_too_far_apart(evaluator: Evaluator) -> None:
    words = told(evaluator, gear_train(closer=-0.125, teeth=(10, 10)))
    assert "140.000 mm apart" in words
    assert "mesh at 15.000 mm" in words
    assert "bring them 125.000 mm nearer" in words
    assert "Plate, two" in words


def test_teeth_that_part_before_the_next_ones_meet(evaluator: Evaluator) -> None:
    words = told(evaluator, gear_train(closer=-0.0018))
    assert "contact ratio 0." in words


def test_gears_side_by_side_in_layers(evaluator: Evaluator) -> None:
    d = Draft("Layers", gear_train())
    joint = next(i for i, j in d.document.joints.items() if "heel" in j.name)
    d.set(f"joints.{joint}.offset", "12 mm")
    words = told(evaluator, d.document)
    assert "do not face one another" in words
    assert "6.000 mm apart along the axis" in words
    assert "by 10.000 mm" in words


def test_parallel_axes_make_no_bevel_and_no_worm(evaluator: Evaluator) -> None:
    d = Draft("Parallel")
    bores = {"one": Bore(x="40 mm", y="50 mm"), "two": Bore(x="80 mm", y="50 mm")}
    plate = d.part("Plate", "steel", FramePlate(bores=bores))
    pins = [d.part(n, "steel", Pin(diameter="6 mm"), x=x, y="50 mm") for n, x in (("One", "40 mm"), ("Two", "80 mm"))]
    motor = d.revolute("One turns", plate["one"], pins[0]["axis"])
    d.revolute("Two turns", plate["two"], pins[1]["axis"])
    d.turn("Motor", motor, "60 rpm")
    bevel, worm = (Draft("x", d.document) for _ in range(2))
    bevel.bevel_pair("Bevel", pins[0]["axis"], pins[1]["axis"])
    worm.worm_pair("Worm", pins[0]["axis"], pins[1]["axis"])
    assert "the axes are parallel" in told(evaluator, bevel.document)
    assert "must cross at 90.00 deg" in told(evaluator, worm.document)


def angled(offset: float) -> Draft:
    """One axis along z and one along y, which miss each other by `offset` m: the second on a plate that stands upright."""
    d = Draft("Angled")
    plate = d.part("Plate", "steel", FramePlate(bores={"one": Bore(x="40 mm", y="50 mm")}))
    side = d.part(
        "Side", "steel", FramePlate(bores={"two": Bore(x="80 mm", y=f"10 mm + {offset * 1e3} mm")}), turn_x="90 deg"
    )
    d.rigid("Side on plate", plate["back"], side["bottom"], flip=True)
    one = d.part("One", "steel", Pin(diameter="6 mm"), x="40 mm", y="50 mm")
    two = d.part("Two", "steel", Pin(diameter="6 mm"), x="40 mm", y="100 mm", z="50 mm", turn_x="90 deg")
    motor = d.revolute("One turns", plate["one"], one["axis"])
    d.revolute("Two turns", side["two"], two["axis"])
    d.turn("Motor", motor, "60 rpm")
    return d


def test_bevel_axes_that_miss_each_other(evaluator: Evaluator) -> None:
    d = angled(0.03)
    d.bevel_pair("Bevel", _at("one"), _at("two"))
    words = told(evaluator, d.document)
    assert "miss each other by 30.000 mm" in words
    assert "move Two by as much" in words
    assert "Two is placed by Side, two" in words


def test_a_worm_whose_axis_meets_the_wheels(evaluator: Evaluator) -> None:
    d = angled(0.0)
    d.worm_pair("Worm", _at("one"), _at("two"))
    assert "the axes meet" in told(evaluator, d.document)
    good = angled(0.03)
    good.worm_pair("Worm", _at("one"), _at("two"))
    assert evaluator.moved(good.document).problems == []


def _at(placed: str) -> object:
    from uhrwerk import At

    return At(placed=placed, datum="axis")


def test_a_gear_off_its_rack(evaluator: Evaluator) -> None:
    d = Draft("Rack")
    plate = d.part("Plate", "steel", FramePlate(bores={"pivot": Bore(x="80 mm", y="80 mm")}))
    gear = d.part("Gear", "steel", SpurGear(teeth=20), x="80 mm", y="80 mm", z="2 mm")
    rack = d.part("Rack", "steel", Rack(), x="40 mm", y="60 mm", z="2 mm")
    turns = d.revolute("Gear turns", plate["pivot"], gear["axis"], offset="2 mm")
    d.flush("Rack on plate", plate["top"], rack["bottom"], offset="2 mm")
    d.flush("Rack along", plate["front"], rack["back"], side="same", offset="-52 mm")
    d.rack_pair("Rolls", gear, rack)
    d.turn("Motor", turns, "10 rpm")
    words = told(evaluator, d.document)
    assert "stands 20.000 mm over the pitch line of Rack, and meshes at 10.000 mm" in words
    assert "10.000 mm nearer" in words


# contact ratio


def form_radius_by_envelope(module: float, teeth: int) -> float:
    """Where the involute of a tooth space begins when a rack of ISO 53 profile A is rolled through it: the space is what
    many positions of the rack's tooth cut out of a disc (shapely); its side leaves the involute at the form circle."""
    r = module * teeth / 2
    depth, rho, half = 1.25 * module, 0.38 * module, pi * module / 4
    side = half - depth * tan(ALPHA)
    corner = shapely.Point(side - rho * (1 - sin(ALPHA)) / cos(ALPHA), -(depth - rho)).buffer(rho, quad_segs=200)
    tip = shapely.Polygon(
        [
            (-side, -depth),
            (side, -depth),
            (half + 2 * module * tan(ALPHA), 2 * module),
            (-half - 2 * module * tan(ALPHA), 2 * module),
        ]
    )
    low = shapely.box(-1, -depth, 1, -(depth - rho * (1 - sin(ALPHA))))
    plain = tip.difference(low)
    rounded = shapely.union_all(
        [
            plain,
            corner,
            shapely.affinity.scale(corner, -1, 1, origin=(0, 0)),
            shapely.box(
                -side + rho * (1 - sin(ALPHA)) / cos(ALPHA),
                -depth,
                side - rho * (1 - sin(ALPHA)) / cos(ALPHA),
                -depth + rho,
            ),
        ]
    )
    cuts = []
    for roll in np.linspace(-0.9, 0.9, 1441):
        moved = shapely.affinity.translate(rounded, roll * r, r)
        cuts.append(shapely.affinity.rotate(moved, np.degrees(roll), origin=(0, 0)))
    space = shapely.union_all(cuts)
    outer = np.array(
        space.boundary.coords
        if space.boundary.geom_type == "LineString"
        else max(space.boundary.geoms, key=lambda g: g.length).coords
    )
    radius, angle = np.hypot(*outer.T), np.arctan2(outer[:, 0], outer[:, 1])
    base = r * cos(ALPHA)
    keep = (angle > 0) & (radius > base) & (radius < r)
    rr, aa = radius[keep], angle[keep]
    inv = np.tan(np.arccos(base / rr)) - np.arccos(base / rr)
    flank = pi / teeth - (pi / (2 * teeth) + (tan(ALPHA) - ALPHA) - inv)
    on = rr[np.abs(aa - flank) * rr < 2e-4 * module]
    return float(on.min())


def test_contact_ratio_of_an_undercut_pinion(evaluator: Evaluator) -> None:
    """12 : 60 cut without shift: the rack's envelope says where the involute begins, and the length of action from there to
    the pinion's tip circle over the base pitch is the contact ratio; 1.60 would be that of teeth without undercut."""
    a, b = Tooth(0.001, 12, ALPHA), Tooth(0.001, 60, ALPHA)
    centres = centre_distance(a, b)
    form = form_radius_by_envelope(1.0, 12) / 1e3
    assert a.form_radius == pytest.approx(form, abs=4e-6)
    action = sqrt(a.tip_radius**2 - a.base_radius**2) - sqrt(form**2 - a.base_radius**2)
    assert contact_ratio(a, b, centres) == pytest.approx(action / (pi * 0.001 * cos(ALPHA)), abs=0.01)
    assert contact_ratio(a, b, centres) == pytest.approx(1.27, abs=0.01)
    assert tip_reaches_below(a, b, centres)


def test_contact_ratio_without_undercut_is_the_textbooks() -> None:
    """Sum of both tips' reach less a sin(alpha), over the base pitch (any textbook; ISO 21771-1)."""
    for za, zb in ((24, 24), (20, 40), (30, 75)):
        a, b = Tooth(0.001, za, ALPHA), Tooth(0.001, zb, ALPHA)
        c = centre_distance(a, b)
        action = sum(sqrt(g.tip_radius**2 - g.base_radius**2) for g in (a, b)) - c * sin(ALPHA)
        assert contact_ratio(a, b, c) == pytest.approx(action / (pi * 0.001 * cos(ALPHA)), rel=1e-9)
        assert not tip_reaches_below(a, b, c)
    assert acos(1) == 0


# the whole pitch


@pytest.mark.parametrize("teeth", [(18, 54), (24, 24), (17, 40)])
def test_teeth_in_mesh_are_looked_at_over_their_whole_pitch(evaluator: Evaluator, teeth: tuple[int, int]) -> None:
    result = evaluator.evaluate(gear_train(teeth=teeth))
    shapes = {s.name: s for s in evaluator.shapes(result)}
    ((names, meshing),) = meshes(result.mechanism, result.pose).items()
    course = result.moved.sweep.course(shapes[names[0]], shapes[names[1]], meshing)
    assert isinstance(course, AtPoses)
    at = course.many[:, :3]  # b's centre seen from a: it goes round by one pitch of a
    angle = np.unwrap(np.arctan2(at[:, 1], at[:, 0]))
    assert len(angle) == 48
    np.testing.assert_allclose(np.abs(np.diff(angle)), 2 * pi / teeth[0] / 48, rtol=1e-9)
    for k, t in enumerate(course.times):  # each moment is one at which the pair really stands so, but for whole teeth
        pose = result.moved.sweep.poses(shapes[names[0]], shapes[names[1]], np.array([t]))[0]
        turn = np.arctan2(pose[1], pose[0]) - angle[k]
        assert abs(turn / (2 * pi / teeth[0]) - round(turn / (2 * pi / teeth[0]))) < 1e-6
