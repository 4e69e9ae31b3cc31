"""Gears against ISO definitions, handbook values, and what is measured on the solid itself."""

from __future__ import annotations

from math import acos, cos, pi, radians, sin, sqrt, tan

import numpy as np
import pytest

from tests.mechanisms import gear_train
from uhrwerk import Clearance, NoInterference, SpurGear
from uhrwerk.core.document import numbers
from uhrwerk.core.elements import spur_gear
from uhrwerk.core.elements.involute import Tooth, centre_distance, contact_ratio, inv, normal_backlash
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.proximity.sweep import PairResult
from uhrwerk.core.quantity import Scope
from uhrwerk.draft import Draft

ALPHA = radians(20)


def test_diameters_follow_iso_21771() -> None:
    """d = m z, d_b = d cos(alpha), d_a = d + 2 m (1 + x), d_f = d - 2 m (1.25 - x): ISO 21771, ISO 53 profile A."""
    t = Tooth(0.0015, 54, ALPHA, x=0.2)
    assert 2 * t.pitch_radius == pytest.approx(0.081)
    assert 2 * t.base_radius == pytest.approx(0.081 * cos(ALPHA))
    assert 2 * t.tip_radius == pytest.approx(0.081 + 0.003 * 1.2)
    assert 2 * t.root_circle == pytest.approx(0.081 - 0.003 * 1.05)
    assert t.thickness == pytest.approx(0.0015 * (pi / 2 + 0.4 * tan(ALPHA)))


@pytest.mark.parametrize(("teeth", "span", "millimetres"), [(20, 3, 7.6604), (30, 4, 10.7526), (50, 6, 16.9370)])
def test_span_over_teeth_agrees_with_the_handbook(teeth: int, span: int, millimetres: float) -> None:
    """Base tangent length W_k at module 1 and 20 degrees: the common handbook table (values from memory)."""
    t = Tooth(0.001, teeth, ALPHA)
    base_thickness = 2 * t.base_radius * t.half_angle(t.base_radius)
    measured = base_thickness + (span - 1) * pi * 0.001 * cos(ALPHA)
    assert measured * 1e3 == pytest.approx(millimetres, abs=6e-5)


def test_undercut_begins_below_18_teeth() -> None:
    """Full-depth teeth of 20 degrees are undercut below 2 / sin^2(alpha) = 17.1 teeth (common practice)."""
    assert Tooth(0.001, 17, ALPHA).undercut
    assert not Tooth(0.001, 18, ALPHA).undercut
    assert not Tooth(0.001, 12, ALPHA, x=0.3).undercut  # x >= (17 - z) / 17 (common practice)


def test_centre_distance_of_15_and_15_teeth_at_six_per_inch() -> None:
    """(N1 + N2) / (2 P) = 2.5 in (common practice)."""
    t = Tooth(0.0254 / 6, 15, ALPHA)
    assert centre_distance(t, t) == pytest.approx(2.5 * 0.0254, rel=1e-12)


def test_profile_shift_spreads_the_centres() -> None:
    """inv(alpha_w) = inv(alpha) + 2 (x1 + x2) tan(alpha) / (z1 + z2), ISO 21771; solved here in steps of Newton."""
    a, b = Tooth(0.002, 12, ALPHA, x=0.4), Tooth(0.002, 25, ALPHA, x=0.1)
    wanted = inv(ALPHA) + 2 * 0.5 * tan(ALPHA) / 37
    angle = ALPHA
    for _ in range(20):
        angle -= (inv(angle) - wanted) / tan(angle) ** 2
    assert centre_distance(a, b) == pytest.approx(0.002 * 37 / 2 * cos(ALPHA) / cos(angle), rel=1e-12)
    assert normal_backlash(a, b, centre_distance(a, b)) == pytest.approx(0, abs=1e-12)


def test_contact_ratio_by_the_length_of_action() -> None:
    """Shigley's formula (length of approach and recess over the base pitch), written out for 18 and 54 teeth."""
    a, b = Tooth(0.0015, 18, ALPHA), Tooth(0.0015, 54, ALPHA)
    ra, rb, c = 13.5, 40.5, 54.0
    action = (
        sqrt((ra + 1.5) ** 2 - (ra * cos(ALPHA)) ** 2) + sqrt((rb + 1.5) ** 2 - (rb * cos(ALPHA)) ** 2) - c * sin(ALPHA)
    )
    assert contact_ratio(a, b, 0.054) == pytest.approx(action / (pi * 1.5 * cos(ALPHA)), rel=1e-12)
    assert 1.6 < contact_ratio(a, b, 0.054) < 1.75


def test_spreading_the_centres_opens_backlash_by_twice_tan() -> None:
    """j_t = 2 da tan(alpha) for a small spread da (common practice); j_n = j_t cos(alpha)."""
    a, b = Tooth(0.0015, 18, ALPHA), Tooth(0.0015, 54, ALPHA)
    spread = 1e-5
    assert normal_backlash(a, b, 0.054 + spread) == pytest.approx(2 * spread * sin(ALPHA), rel=2e-3)


@pytest.mark.parametrize(
    ("teeth", "x", "thinning"), [(18, "0", "0 mm"), (54, "0", "0 mm"), (9, "0", "0 mm"), (24, "0.3", "0.05 mm")]
)
def test_tooth_thickness_measured_on_the_solid(evaluator: Evaluator, teeth: int, x: str, thinning: str) -> None:
    """At the pitch circle the B-rep flanks stand apart by the theoretical thickness, to one micrometre."""
    n = numbers(SpurGear(module="1.5 mm", teeth=teeth, profile_shift=x, thinning=thinning), Scope())
    t = spur_gear.tooth(n)
    steps = SpurGear.solid(n)["bodies"][0]["steps"]
    angles = np.array(evaluator.kernel_pool.call("circle_crossings", steps, t.pitch_radius, n.width / 2))
    assert len(angles) == 2 * teeth
    first = int(np.argmin(np.abs(angles + t.thickness / (2 * t.pitch_radius))))  # a tooth is centred on +x
    turned = np.unwrap(np.roll(angles, -first))
    thickness = (turned[1::2] - turned[::2]) * t.pitch_radius
    assert np.abs(thickness - t.thickness).max() < 1e-6
    assert t.thickness == pytest.approx(
        0.0015 * (pi / 2 + 2 * float(x) * tan(ALPHA)) - float(thinning.split()[0]) / 1e3
    )


def test_flanks_are_involutes() -> None:
    """At every point the involute's pressure angle is acos(r_b / r) and its tangent passes the base circle."""
    t = Tooth(0.0015, 30, ALPHA)
    for radius, angle in t.flank(25):
        assert angle == pytest.approx(
            t.thickness / (2 * t.pitch_radius) + inv(ALPHA) - inv(acos(t.base_radius / radius)), abs=1e-12
        )
    root = t.root_curve(30)
    assert root[0, 0] == pytest.approx(t.root_circle)
    assert root[-1, 0] == pytest.approx(t.flank()[0, 0])
    assert root[-1, 1] == pytest.approx(pi / 30 - t.flank()[0, 1], abs=1e-9)  # root and flank meet
    assert np.all(np.diff(root[:, 0]) > 0)


def mesh_finding(evaluator: Evaluator, **how: object) -> tuple[PairResult, object]:
    draft = Draft("x", gear_train(**how))  # type: ignore[arg-type]
    draft.require(NoInterference(name="Nothing overlaps"))
    flanks = {"a": {"placed": "pinion"}, "b": {"placed": "wheel"}, "at_least": "1 um"}
    draft.require(Clearance.model_validate({"name": "Flanks", **flanks}))  # only what is required is told closely
    result = evaluator.evaluate(draft.document)
    return next(f for f in result.findings if {f.a, f.b} == {"pinion/gear", "wheel/gear"}), result.verdicts[
        "nothing_overlaps"
    ]


@pytest.mark.parametrize("wider", [0.0, 1e-4])
def test_gears_at_their_centre_distance_do_not_interfere_and_have_their_backlash(
    evaluator: Evaluator, wider: float
) -> None:
    """Teeth are centred in their spaces, so the flanks stand half the normal backlash apart, over a full turn of the wheel."""
    found, verdict = mesh_finding(evaluator, closer=-wider)
    a, b = (Tooth(0.0015, z, ALPHA, thinning=5e-5) for z in (18, 54))
    backlash = normal_backlash(a, b, 0.054 + wider)
    if wider == 0:
        assert backlash == pytest.approx(2 * 5e-5 * cos(ALPHA), rel=1e-3)
    assert verdict.holds  # type: ignore[attr-defined]
    assert found.depth == 0
    assert 2 * found.distance == pytest.approx(backlash, abs=2 * found.error)
    assert found.error <= 2.1e-5


def test_gears_too_close_interfere(evaluator: Evaluator) -> None:
    found, verdict = mesh_finding(evaluator, closer=2e-4)
    assert verdict.holds is False  # type: ignore[attr-defined]
    assert found.depth > 5e-6
