"""Solids against closed forms and trimesh; the pool's workers; datums found and named."""

from __future__ import annotations

import os
import signal
from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh

from tests.cams import sizes
from uhrwerk import Bore, FramePlate, LinkBar, Pin, Post, SpurGear
from uhrwerk.core import elements
from uhrwerk.core.document import numbers
from uhrwerk.core.elements.cams import PlateCam, SlidingRoller
from uhrwerk.core.elements.cams.plate_cam import curve
from uhrwerk.core.equations.curve import through
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.quantity import Scope
from uhrwerk.core.solids import (
    BuildFailed,
    KernelPool,
    Solid,
    chamfer,
    circle,
    cut_out,
    datums_of,
    extrude,
    fillet,
    recipe,
    rectangle,
    same_place,
    sharp_edges,
)
from uhrwerk.core.solids.recipe import path

ELEMENTS = [
    FramePlate(bores={"a": Bore(x="40 mm", y="40 mm")}, posts={"p": Post(x="90 mm", y="50 mm")}),
    SpurGear(module="1.5 mm", teeth=18, pins={"crank": Post(x="8 mm", diameter="3 mm")}),
    SpurGear(module="2 mm", teeth=9, bore="4 mm"),  # undercut
    SpurGear(profile_shift="0.4", bore="0 mm"),
    LinkBar(),
    LinkBar(second_distance="25 mm", finger="20 mm", chamfer="0.5 mm"),
    Pin(),
    Pin(head_diameter="8 mm", head_height="2 mm", chamfer="0.4 mm"),
]  # fmt: skip


def mesh_of(solid: Solid, name: str) -> trimesh.Trimesh:
    body = solid.bodies[name]
    return trimesh.Trimesh(body.vertices * 1e3, body.triangles, process=False)


def built(evaluator: Evaluator, element: object) -> Solid:
    n = numbers(element, Scope())
    return evaluator.kernel_pool.build(elements.of(n).solid(n))


@pytest.mark.parametrize("element", ELEMENTS, ids=lambda e: e.kind)
def test_every_element_is_a_closed_solid_and_trimesh_agrees(evaluator: Evaluator, element: object) -> None:
    solid = built(evaluator, element)
    for name, body in solid.bodies.items():
        mesh = mesh_of(solid, name)
        assert mesh.is_watertight
        assert mesh.is_winding_consistent
        # triangles may lie off the surface by the deviation, so volumes by area times deviation
        assert abs(mesh.volume - body.volume * 1e9) < mesh.area * body.deviation * 1e3
        np.testing.assert_allclose(mesh.center_mass, body.centroid * 1e3, atol=0.02)
        np.testing.assert_allclose(
            mesh.moment_inertia, body.inertia * 1e15, rtol=0.01, atol=np.abs(body.inertia * 1e15).max() * 0.003
        )


@pytest.mark.parametrize("element", ELEMENTS, ids=lambda e: e.kind)
def test_named_datums_lie_on_the_solids_faces(evaluator: Evaluator, element: object) -> None:
    solid = built(evaluator, element)
    n = numbers(element, Scope())
    on_faces = [d for body in solid.bodies.values() for d in datums_of(body)]
    for name, datum in elements.of(n).datums(n).items():
        if datum.kind == "axis" and not datum.radius:
            continue  # the axis of a gear without a bore
        assert any(same_place(datum, other) for other in on_faces), name


@pytest.mark.parametrize(
    ("element", "field"),
    [
        (FramePlate(corner="60 mm"), "corner"),
        (FramePlate(bores={"a": Bore(x="1 mm", y="40 mm")}), "bores.a.x"),
        (FramePlate(bores={"a": Bore(x="40 mm", y="40 mm"), "b": Bore(x="43 mm", y="40 mm")}), "bores.b.x"),
        (FramePlate(posts={"plate": Post(x="40 mm", y="40 mm")}), "posts.plate"),
        (SpurGear(bore="22 mm"), "bore"),
        (SpurGear(pressure_angle="40 deg"), "pressure_angle"),
        (SpurGear(thinning="3 mm"), "thinning"),
        (SpurGear(root_radius="0.9"), "root_radius"),
        (SpurGear(profile_shift="2"), "profile_shift"),
        (SpurGear(addendum="2.5"), "addendum"),
        (SpurGear(pins={"p": Post(x="20 mm")}), "pins.p.x"),
        (LinkBar(bore_1="12 mm"), "bore_1"),
        (LinkBar(distance="4 mm"), "distance"),
        (LinkBar(finger="3 mm"), "finger"),
        (LinkBar(finger="20 mm", finger_width="12 mm"), "finger_width"),
        (LinkBar(chamfer="3 mm"), "chamfer"),
        (Pin(head_diameter="8 mm"), "head_height"),
        (Pin(head_diameter="4 mm", head_height="2 mm"), "head_diameter"),
        (Pin(chamfer="3 mm"), "chamfer"),
    ],
)  # fmt: skip
def test_sizes_that_do_not_fit_are_named(element: object, field: str) -> None:
    n = numbers(element, Scope())
    assert [where for where, _ in elements.of(n).faults(n)] == [field]


def test_closed_forms(evaluator: Evaluator) -> None:
    """Volumes of a cylinder, a plate with a bore, a cone frustum's worth of chamfer, and a rounded edge."""
    build = evaluator.kernel_pool.build
    plain = build(recipe({"a": [extrude(circle(0, 0, 0.005), 0, 0.02)]})).bodies["a"]
    assert plain.volume == pytest.approx(np.pi * 0.005**2 * 0.02, rel=1e-12)
    np.testing.assert_allclose(
        np.diag(plain.inertia) / plain.volume, [(3 * 0.005**2 + 0.02**2) / 12] * 2 + [0.005**2 / 2], rtol=1e-9
    )
    holed = build(recipe({"a": [extrude(rectangle(0, 0, 0.04, 0.03), 0, 0.01, [circle(0.02, 0.015, 0.004)])]})).bodies[
        "a"
    ]
    drilled = build(
        recipe({"a": [extrude(rectangle(0, 0, 0.04, 0.03), 0, 0.01), cut_out(circle(0.02, 0.015, 0.004), -0.01, 0.02)]})
    ).bodies["a"]
    assert holed.volume == pytest.approx(0.04 * 0.03 * 0.01 - np.pi * 0.004**2 * 0.01, rel=1e-12)
    assert drilled.volume == pytest.approx(holed.volume, rel=1e-12)
    # Pappus: the chamfer of a rim takes away a triangle turned about the axis
    c, r = 0.001, 0.005
    edged = build(recipe({"a": [extrude(circle(0, 0, r), 0, 0.02), chamfer(c, at_z=0.02)]})).bodies["a"]
    assert plain.volume - edged.volume == pytest.approx(c * c / 2 * 2 * np.pi * (r - c / 3), rel=1e-9)
    round_edges = build(
        recipe({"a": [extrude(rectangle(0, 0, 0.04, 0.03), 0, 0.01), fillet(0.002, along="z")]})
    ).bodies["a"]
    assert round_edges.volume == pytest.approx((0.04 * 0.03 - (4 - np.pi) * 0.002**2) * 0.01, rel=1e-9)
    corner = build(recipe({"a": [extrude(rectangle(0, 0, 0.04, 0.03, 0.002), 0, 0.01)]})).bodies["a"]
    assert corner.volume == pytest.approx(round_edges.volume, rel=1e-9)


@pytest.mark.parametrize("deviation", [1e-5, 1e-4, 3e-4])
def test_triangles_keep_to_the_stated_deviation(evaluator: Evaluator, deviation: float) -> None:
    body = evaluator.kernel_pool.build(recipe({"a": [extrude(circle(0, 0, 0.01), 0, 0.02)]}, deviation)).bodies["a"]
    middles = body.vertices[body.triangles].mean(axis=1)
    side = np.array([body.faces[f].kind == "cylinder" for f in body.face_of])
    ends = body.vertices[body.triangles[side]]
    chords = np.concatenate([(ends[:, i] + ends[:, (i + 1) % 3]) / 2 for i in range(3)] + [middles[side]])
    assert (0.01 - np.linalg.norm(chords[:, :2], axis=1)).max() <= deviation * (1 + 1e-9)


def test_edges_to_draw_are_the_sharp_ones(evaluator: Evaluator) -> None:
    body = evaluator.kernel_pool.build(recipe({"a": [extrude(rectangle(0, 0, 0.04, 0.03), 0, 0.01)]})).bodies["a"]
    edges = sharp_edges(body.vertices, body.triangles)
    assert len(edges) == 12
    assert np.linalg.norm(edges[:, 0] - edges[:, 1], axis=1).sum() == pytest.approx(4 * (0.04 + 0.03 + 0.01))


def test_a_step_that_cannot_be_made_is_named(evaluator: Evaluator) -> None:
    with pytest.raises(BuildFailed, match=r"build step 2 \(chamfer\)"):
        evaluator.kernel_pool.build(recipe({"a": [extrude(circle(0, 0, 0.005), 0, 0.02), chamfer(0.006, at_z=0.02)]}))
    assert evaluator.kernel_pool.build(recipe({"a": [extrude(circle(0, 0, 0.005), 0, 0.02)]})).volume > 0


def test_a_worker_that_hangs_is_stopped_and_the_rest_goes_on() -> None:
    kernel_pool = KernelPool(workers=1, limit=60)
    try:
        many = [circle(0.001 * i, 0.001 * j, 0.0003) for i in range(60) for j in range(60)]
        with pytest.raises(BuildFailed, match="not finished after"):
            kernel_pool.call(
                "build",
                recipe({"a": [extrude(rectangle(-1, -1, 1, 1), 0, 0.01), *(cut_out(m, -1, 1) for m in many)]}),
                limit=3.0,
            )
        assert kernel_pool.build(recipe({"a": [extrude(circle(0, 0, 0.005), 0, 0.02)]})).volume > 0
    finally:
        kernel_pool.close()


def test_a_worker_that_crashes_is_replaced() -> None:
    kernel_pool = KernelPool(workers=1, limit=60)
    try:
        job = recipe({"a": [extrude(circle(0, 0, 0.005), 0, 0.02)]})
        kernel_pool.build(job)
        worker = kernel_pool._idle.get()
        assert worker is not None
        os.kill(worker.pid, signal.SIGSEGV)
        kernel_pool._idle.put(worker)
        with pytest.raises(BuildFailed, match="crashed"):
            kernel_pool.call("build", job)
        assert kernel_pool.call("build", job).volume > 0
    finally:
        kernel_pool.close()


def test_solids_are_kept_by_content(tmp_path: Path) -> None:
    job = recipe({"a": [extrude(circle(0, 0, 0.0051), 0, 0.02)]})
    first, second = KernelPool(tmp_path, limit=60), KernelPool(tmp_path, limit=60)
    try:
        solid = first.build(job)
        assert first.build(job) is solid
        again = second.build(job)
        assert (first.built, second.built) == (1, 0)
        np.testing.assert_array_equal(again.bodies["a"].vertices, solid.bodies["a"].vertices)
        next(tmp_path.glob("*.solid")).write_bytes(b"damaged")
        third = KernelPool(tmp_path, limit=60)
        assert third.build(job).volume == solid.volume
        third.close()
    finally:
        first.close()
        second.close()


def test_the_volume_of_a_body_on_one_long_spline_is_not_the_kernels_alone(evaluator: Evaluator) -> None:
    """The kernel integrates along a spline of 720 pieces with too few points: its volume is off by more than a thousandth."""
    n = sizes(SlidingRoller(), bore="0 mm")
    line = through(curve(n).place(np.linspace(0, 2 * np.pi, 720, endpoint=False)))
    knots, often, poles = line.pieces(1)[0]
    outline = path(poles[0], ["bspline", knots, often, poles])
    solid = evaluator.kernel_pool.build(recipe({"cam": [extrude(outline, 0, 0.008)]}))
    area = shapely.Polygon(line.place(np.linspace(0, 2 * np.pi, 100_000, endpoint=False))).area
    assert solid.volume == pytest.approx(area * 0.008, rel=3e-4)
    whole = evaluator.kernel_pool.build(PlateCam.solid(n))
    assert solid.volume == pytest.approx(whole.volume, rel=3e-4)
    (one,), (other,) = solid.bodies.values(), whole.bodies.values()
    assert one.centroid == pytest.approx(other.centroid, abs=2e-6)
    assert one.inertia == pytest.approx(other.inertia, rel=2e-3, abs=1e-13)
