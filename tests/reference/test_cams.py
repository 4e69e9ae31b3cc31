"""Plate cams against closed forms and against envelopes by shapely; what a cam cut from a programme does to its follower.

Eccentric and tangent cams, radius of curvature and pressure angle in closed form: Norton, Cam Design and Manufacturing
Handbook, ch. 7; Shigley, Theory of Machines and Mechanisms, ch. 5. From memory.
"""

from __future__ import annotations

import io
from typing import Any

import ezdxf.recover
import numpy as np
import pytest
import shapely
import shapely.affinity
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve

from tests.cams import bore_from_axis, sizes, sliding, swinging
from uhrwerk.core.document import Document
from uhrwerk.core.elements.cams import (
    CamShape,
    Eccentric,
    MeasuredOutline,
    PlateCam,
    SlidingFlat,
    SlidingPoint,
    SlidingRoller,
    SwingingFlat,
    SwingingRoller,
    Tangents,
)
from uhrwerk.core.elements.cams.plate_cam import curve, traced, undercut, without_undercut
from uhrwerk.core.elements.cams.shape import programme
from uhrwerk.core.equations.curve import through
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.exchange.cutter import as_dxf, as_table, cutter_path
from uhrwerk.core.field import ValidationFailed, numbers
from uhrwerk.core.laws.segment import SlideSegment, TurnSegment
from uhrwerk.core.motion.coordinate import interpolated
from uhrwerk.core.solids import partial_solid, wires

TURN = 2 * np.pi
POSES = 3600


def lift(
    to: str = "20 mm", law: str = "poly345", out: str = "120 deg", stay: str = "60 deg", back: str = "120 deg"
) -> dict[str, Any]:
    return {
        "out": SlideSegment(to=to, over=out, law={"kind": law}), "stay": SlideSegment(to=to, over=stay),
        "back": SlideSegment(over=back, law={"kind": law}),
    }  # fmt: skip


def swing(to: str = "25 deg", law: str = "cycloidal") -> dict[str, Any]:
    return {
        "out": TurnSegment(to=to, over="140 deg", law={"kind": law}),
        "back": TurnSegment(over="140 deg", law={"kind": law}),
    }


def moved(evaluator: Evaluator, document: Document, angle: np.ndarray, order: int = 0) -> np.ndarray:
    """The follower's coordinate at cam angles (one turn takes one second)."""
    e = evaluator.moved(document)
    assert e.problems == []
    assert e.mobility is not None
    assert e.mobility.undriven == 0
    return interpolated(e.coordinates["moves"].whole, angle / TURN, order)


# the curve


def test_distance_and_support_of_a_curve_against_an_ellipse() -> None:
    """Distances by shapely from a fine polygon, support and curvature in closed form."""
    a, b = 0.04, 0.025
    u = np.linspace(0, TURN, 360, endpoint=False)
    ellipse = through(np.stack([a * np.cos(u), b * np.sin(u)], axis=1))
    fine = np.linspace(0, TURN, 40_000)
    ring = shapely.LinearRing(np.stack([a * np.cos(fine), b * np.sin(fine)], axis=1))
    random = np.random.default_rng(4)
    points = random.uniform(-0.06, 0.06, (300, 2))
    found = ellipse.distance(points)
    inside = shapely.contains(shapely.Polygon(ring), shapely.points(points))
    theirs = shapely.distance(ring, shapely.points(points)) * np.where(inside, -1, 1)
    near_axis = inside & (np.abs(points[:, 1]) < 0.012)  # two places of the curve may be nearest there
    assert np.abs(found.value - theirs)[~near_axis].max() < 2e-9
    assert np.abs(np.abs(found.value) - np.abs(theirs)).max() < 2e-9
    angle = np.linspace(0, TURN, 77)
    m = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    reach = np.sqrt((a * m[:, 0]) ** 2 + (b * m[:, 1]) ** 2)
    supported = ellipse.support(m)
    assert supported.value == pytest.approx(reach, abs=1e-12)
    rounded = np.einsum(
        "pi,pij,pj->p", np.stack([-m[:, 1], m[:, 0]], axis=1), supported.bend, np.stack([-m[:, 1], m[:, 0]], axis=1)
    )
    assert rounded == pytest.approx((a * b) ** 2 / reach**3, rel=1e-6)


@pytest.mark.parametrize("order", [1, 2])
def test_derivatives_of_the_distance_are_its_differences(order: int) -> None:
    line = curve(sizes(SlidingRoller(lift=lift())))
    random = np.random.default_rng(5)
    p = line.place(random.uniform(0, TURN, 60)) * random.uniform(1.02, 1.4, (60, 1))
    eps = 1e-6
    found = line.distance(p)
    for k in range(2):
        step = np.eye(2)[k] * eps
        ahead, behind = line.distance(p + step), line.distance(p - step)
        if order == 1:
            assert found.gradient[:, k] == pytest.approx((ahead.value - behind.value) / (2 * eps), abs=1e-8)
        else:
            assert found.bend[:, k] == pytest.approx((ahead.gradient - behind.gradient) / (2 * eps), rel=1e-4, abs=1e-3)


# closed forms


def eccentric(angle: np.ndarray, base: float, e: float, roller: float) -> np.ndarray:
    return e * np.cos(angle) + np.sqrt((base + roller) ** 2 - (e * np.sin(angle)) ** 2)


def test_an_eccentric_moves_a_roller_and_a_flat_face_as_its_closed_form(evaluator: Evaluator) -> None:
    angle = np.linspace(0, TURN, POSES, endpoint=False)
    shape = Eccentric(eccentricity="7 mm")
    found = bore_from_axis(moved(evaluator, sliding(shape, reach=0.04), angle))
    assert np.abs(found - eccentric(angle, 0.025, 0.007, 0.005)).max() < 2e-9
    rate = moved(evaluator, sliding(shape, reach=0.04), angle, 1)
    theirs = np.gradient(eccentric(np.linspace(0, TURN, 400_001), 0.025, 0.007, 0.005), TURN / 400_000)
    assert np.abs(rate - TURN * np.interp(angle, np.linspace(0, TURN, 400_001), theirs)).max() < 2e-6
    flat = bore_from_axis(moved(evaluator, sliding(shape, radius="", reach=0.045), angle)) - 0.01
    assert np.abs(flat - (0.025 + 0.007 * np.cos(angle))).max() < 2e-9


def test_a_tangent_cam_moves_a_roller_as_its_closed_form(evaluator: Evaluator) -> None:
    """On base, flank and nose; where they meet, the curvature jumps and the spline rounds by less than 2 micrometres."""
    base, nose, far, roller = 0.020, 0.006, 0.024, 0.005
    beta = np.arccos((base - nose) / far)
    angle = np.linspace(0, TURN, POSES, endpoint=False)
    turn = np.abs(np.where(angle > np.pi, angle - TURN, angle))
    on_flank = (base + roller) / np.cos(np.minimum(np.abs(turn - beta), 1.2))
    to_nose = beta - np.arctan2(far * np.sin(beta), base + roller)
    on_nose = far * np.cos(turn) + np.sqrt(np.maximum((nose + roller) ** 2 - (far * np.sin(turn)) ** 2, 0))
    expected = np.where(turn <= to_nose, on_nose, np.where(turn <= beta, on_flank, base + roller))
    shape = Tangents(nose="6 mm", distance="24 mm")
    found = bore_from_axis(moved(evaluator, sliding(shape, base="40 mm", reach=0.04), angle))
    assert np.abs(found - expected).max() < 2e-6


def test_pressure_angle_and_curvature_are_those_of_the_handbook() -> None:
    n = sizes(SlidingRoller(lift=lift(law="cycloidal"), offset="4 mm"))
    angle = np.linspace(0, TURN, 720, endpoint=False)
    t = traced(n, angle)
    p = programme(n.outline.lift)
    s, v, a = (p.derivative(angle, k) for k in range(3))
    x = np.sqrt(0.03**2 - 0.004**2) + s
    assert t.pressure == pytest.approx(np.arctan((v + 0.004) / x), abs=1e-12)
    centred = sizes(SlidingRoller(lift=lift(law="cycloidal")))
    r = 0.03 + s
    theirs = (r**2 + v**2) ** 1.5 / (r**2 + 2 * v**2 - r * a)
    assert traced(centred, angle).pitch_radius == pytest.approx(theirs, rel=1e-9)
    flat = sizes(SlidingFlat(lift=lift(law="cycloidal")), "90 mm")
    assert traced(flat, angle).radius == pytest.approx(0.045 + s + a, rel=1e-12)


@pytest.mark.parametrize(
    "shape", [SwingingRoller(swing=swing()), SwingingFlat(swing=swing("8 deg"), pivot="80 mm", offset="6 mm")]
)
def test_pressure_angles_of_swinging_followers_follow_from_their_velocities(shape: CamShape) -> None:
    """Along the normal, cam and follower move as fast: with the cam's speed 1, v_cam . n = v_follower . n."""
    n = sizes(shape)
    angle = np.linspace(0.01, TURN, 700)
    t = traced(n, angle)
    p, line = programme(n.outline.swing), curve(n)
    touched = t.outline
    normal = line.distance(touched).gradient
    cam = np.stack([-touched[:, 1], touched[:, 0]], axis=1)
    arm = n.outline.arm if isinstance(shape, SwingingRoller) else None
    pivot = n.outline.pivot * np.stack([np.cos(-angle), np.sin(-angle)], axis=1)
    lever = np.full(len(angle), arm) if arm else np.hypot(*(touched - pivot).T)
    assert (cam * normal).sum(axis=1) == pytest.approx(p.rate(angle) * lever * np.cos(t.pressure), abs=2e-7)


# envelopes


def follower_at(shape: Any, n: Any, k: float) -> shapely.Geometry:
    """What a follower covers at a cam angle, in the cam, as shapely has it."""
    o, base = n.outline, n.base_diameter / 2
    swings = hasattr(o, "swing")
    s = float(programme(o.swing if swings else o.lift).value(np.array([k]))[0])
    far = 0.5
    if isinstance(shape, SlidingFlat):
        body = shapely.box(base + s, -far, far, far)
    elif isinstance(shape, SwingingRoller):
        psi = SwingingRoller.rest(o, base) + s
        body = shapely.Point(o.pivot - o.arm * np.cos(psi), o.arm * np.sin(psi)).buffer(o.roller / 2, quad_segs=256)
    elif isinstance(shape, SwingingFlat):
        psi = SwingingFlat.rest(o, base) + s
        body = shapely.affinity.rotate(shapely.box(-far, -far, far, o.offset), 0)  # towards the cam lies y > offset
        body = shapely.affinity.translate(
            shapely.affinity.rotate(
                shapely.affinity.scale(body, 1, -1, origin=(0, 0)), -np.degrees(psi), origin=(0, 0)
            ),
            o.pivot,
            0,
        )
    else:
        roller = getattr(o, "roller", 2e-6) / 2
        x = np.sqrt((base + (roller if hasattr(o, "roller") else 0)) ** 2 - o.offset**2) + s
        body = shapely.Point(x, o.offset).buffer(roller, quad_segs=256)
    return shapely.affinity.rotate(body, -np.degrees(k), origin=(0, 0))


@pytest.mark.parametrize(
    "shape",
    [
        SlidingRoller(lift=lift()), SlidingRoller(lift=lift("12 mm", "modified_sine"), offset="-6 mm"), SlidingFlat(lift=lift("8 mm")),
        SwingingRoller(swing=swing()), SwingingFlat(swing=swing("8 deg"), pivot="80 mm", offset="-4 mm"), SlidingPoint(lift=lift()),
    ],
    ids=lambda s: s.kind,
)  # fmt: skip
def test_the_outline_is_the_envelope_of_its_follower(shape: CamShape) -> None:
    """No follower cuts into the cam, and each comes to within what 720 of them can leave standing."""
    n = sizes(shape)
    assert PlateCam.faults(n) == []
    u = np.linspace(0, TURN, 20_000, endpoint=False)
    cam = shapely.Polygon(curve(n).place(u))
    grown, shrunk = cam.buffer(2e-6), cam.buffer(-2e-6)
    shapely.prepare(grown)
    shapely.prepare(shrunk)
    for k in np.linspace(0.003, TURN, 240):
        body = follower_at(shape, n, float(k))
        assert grown.intersects(body)
        assert not shrunk.intersects(body)


# the loop closed

ROUND = "\n".join(["deg, mm", *(f"{k}, 0" for k in range(0, 360, 10))])


CUT = [
    (SlidingRoller(lift=lift(law=law)), {}) for law in ("poly345", "cycloidal", "modified_sine", "modified_trapezoid", "poly4567", "harmonic")
] + [
    (SlidingRoller(lift=lift("15 mm"), offset="6 mm"), {"aside": "6 mm"}), (SlidingPoint(lift=lift()), {"radius": "0 mm"}),
    (SlidingFlat(lift=lift("10 mm")), {"radius": ""}),
]  # fmt: skip


@pytest.mark.parametrize(("shape", "how"), CUT, ids=[f"{s.kind} {k}" for k, (s, _) in enumerate(CUT)])
def test_a_cam_drives_its_sliding_follower_back_to_its_programme(
    evaluator: Evaluator, shape: CamShape, how: dict[str, str]
) -> None:
    angle = np.linspace(TURN / POSES, TURN, POSES)
    found = bore_from_axis(moved(evaluator, sliding(shape, **how), angle))
    rest = {"sliding_flat": 0.025 + 0.01, "sliding_point": 0.025}.get(
        shape.kind, np.sqrt(0.03**2 - (0.006 if "aside" in how else 0) ** 2)
    )
    wanted = rest + programme(sizes(shape).outline.lift).value(angle)
    assert np.abs(found - wanted).max() < 2e-6


@pytest.mark.parametrize(
    "shape",
    [SwingingRoller(swing=swing()), SwingingRoller(swing=swing("30 deg", "harmonic"), pivot="60 mm", arm="55 mm"),
     SwingingFlat(swing=swing("8 deg"), pivot="80 mm", offset="6 mm"), SwingingFlat(swing=swing("6 deg", "poly345"), pivot="80 mm", offset="4 mm")],
    ids=["roller", "longer arm", "flat", "flat, other law"],
)  # fmt: skip
def test_a_cam_drives_its_swinging_follower_back_to_its_programme(evaluator: Evaluator, shape: Any) -> None:
    document, rest = swinging(shape)
    angle = np.linspace(TURN / POSES, TURN, POSES)
    found = rest - moved(evaluator, document, angle)
    off = found - programme(sizes(shape).outline.swing).value(angle)
    off -= np.round(off / TURN) * TURN
    assert np.abs(off).max() * 0.055 < 2e-6  # at the end of the longest arm


def test_an_outline_given_by_places_drives_its_follower_as_the_one_they_were_taken_from(evaluator: Evaluator) -> None:
    """Places (x, y) of a computed cam, 720 as a drawing program would write them, give its programme back."""
    n = sizes(SlidingRoller(lift=lift()))
    at = curve(n).place(np.linspace(0, TURN, 720, endpoint=False)) * 1e3
    given = MeasuredOutline(rows="\n".join(["mm, mm", *(f"{x:.7f}, {y:.7f}" for x, y in at)]))
    angle = np.linspace(TURN / 300, TURN, 300)
    found = bore_from_axis(moved(evaluator, sliding(given), angle))
    wanted = np.sqrt(0.03**2) + programme(n.outline.lift).value(angle)
    assert np.abs(found - wanted).max() < 2e-6


def test_angles_and_rises_of_an_eccentric_move_as_its_closed_form(evaluator: Evaluator) -> None:
    """A circle off its centre, told by angle and rise over its least radius; its follower's way is that of a slider-crank."""
    base, off, around = 20.0, 5.0, np.radians(np.arange(0, 360, 3.0))
    reach = off * np.cos(around) + np.sqrt((base + off) ** 2 - (off * np.sin(around)) ** 2)
    rows = "\n".join(["deg, mm", *(f"{np.degrees(a):.6f}, {r - base:.9f}" for a, r in zip(around, reach, strict=True))])
    assert PlateCam.faults(sizes(MeasuredOutline(rows=rows), "40 mm")) == []
    angle = np.linspace(TURN / 300, TURN, 300)
    found = bore_from_axis(moved(evaluator, sliding(MeasuredOutline(rows=rows), "40 mm"), angle)) * 1e3
    wanted = off * np.cos(angle) + np.sqrt((base + off + 5) ** 2 - (off * np.sin(angle)) ** 2)
    assert np.abs(found - wanted).max() < 2e-3


def test_the_kernels_faces_are_the_outline_that_is_followed(evaluator: Evaluator) -> None:
    """Places on the solid's own edges, between its points too, lie on the curve that moves the follower."""
    n = sizes(SlidingRoller(lift=lift(law="modified_trapezoid")), bore="0 mm")
    line = curve(n)
    outline = PlateCam.solid(n)["bodies"][0]["steps"][0]["outline"]
    ((face, _),) = wires.flat_faces(outline, wires.level(0.0))
    places = []
    for edge in partial_solid.each(face, partial_solid.TopAbs_EDGE, partial_solid.TopoDS.Edge):
        adaptor = BRepAdaptor_Curve(edge)
        for u in np.linspace(adaptor.FirstParameter(), adaptor.LastParameter(), 57):
            p = adaptor.Value(float(u))
            places.append((p.X() / 1e3, p.Y() / 1e3))
    assert len(places) > 2000
    assert BRep_Tool.Tolerance_s(face) < 1e-3
    assert np.abs(line.distance(np.array(places)).value).max() < 1e-10


@pytest.mark.parametrize(
    "shape", [SlidingRoller(lift=lift()), SlidingFlat(lift=lift("9 mm")), Tangents(), SwingingRoller()]
)
def test_the_solid_has_the_volume_of_its_outline(evaluator: Evaluator, shape: CamShape) -> None:
    n = sizes(shape)
    solid = evaluator.kernel_pool.build(PlateCam.solid(n))
    area = shapely.Polygon(curve(n).place(np.linspace(0, TURN, 200_000, endpoint=False))).area - np.pi * 0.004**2
    assert solid.volume == pytest.approx(area * 0.008, rel=1e-6)  # as well as the kernel integrates along splines


# the cutter


@pytest.mark.parametrize("shape", [SlidingRoller(lift=lift()), Tangents(), Eccentric()])
@pytest.mark.parametrize("diameter", ["6 mm", "12 mm"])
def test_the_way_of_a_cutter_lies_its_radius_outside_the_outline(shape: CamShape, diameter: str) -> None:
    """By shapely: the outline, grown by the radius. And an end mill as wide as the roller runs where the roller's centre does."""
    document = sliding(shape)
    way = cutter_path(document, "cam", diameter)
    radius = float(diameter.split()[0]) / 2e3
    n = numbers(document.parts["cam"].element, document.scope())
    grown = shapely.Polygon(curve(n).place(np.linspace(0, TURN, 40_000, endpoint=False))).buffer(radius, quad_segs=512)
    ring = shapely.Polygon(way)
    assert ring.exterior.is_ccw
    assert shapely.hausdorff_distance(ring.exterior, grown.exterior) < 5e-6
    if isinstance(shape, SlidingRoller):
        own = cutter_path(document, "cam", shape.roller)
        pitch = traced(n, np.linspace(0, TURN, 4001)).pitch
        assert pitch is not None
        assert max(shapely.Polygon(own).exterior.distance(shapely.Point(*p)) for p in pitch[::40]) < 1e-7


@pytest.mark.parametrize("image", [False, True])
@pytest.mark.parametrize("like", [False, True])
def test_the_cutter_runs_round_a_mirrored_cam_as_it_is_built(evaluator: Evaluator, image: bool, like: bool) -> None:
    """Against the solid: its corners, in the plane, stand the radius off the path on average, and none nearer than the triangles' error."""
    data = sliding(SlidingRoller(lift=lift())).model_dump(mode="json")
    data["parts"]["other"] = {"name": "Other", "material": data["parts"]["cam"]["material"]}
    data["parts"]["other"]["element"] = {"kind": "like", "part": "cam", "mirrored": like}
    data["placed"]["other"] = {**data["placed"]["cam"], "name": "Other", "part": "other", "mirrored": image}
    document = Document.model_validate(data)
    ring = shapely.Polygon(cutter_path(document, "other", "6 mm"))
    _, solid = evaluator.solid_of(document, "other")
    at = np.concatenate([b.vertices for b in solid.bodies.values()])[:, :2]
    apart = [ring.exterior.distance(shapely.Point(*p)) for p in at]
    assert ring.exterior.is_ccw
    assert min(apart) == pytest.approx(3e-3, abs=2e-5)


def test_a_cutter_that_does_not_fit_is_refused_and_files_say_the_same() -> None:
    shape = SlidingRoller(lift=lift("25 mm", out="60 deg"))
    document = sliding(shape, base="60 mm")
    with pytest.raises(ValidationFailed, match="the cutter must be smaller than"):
        cutter_path(document, "cam", "300 mm")
    with pytest.raises(ValidationFailed, match="is not a cam"):
        cutter_path(document, "slider", "6 mm")
    with pytest.raises(ValidationFailed, match="diameter"):
        cutter_path(document, "cam", "6 deg")
    way = cutter_path(document, "cam", "6 mm")
    table = np.array([[float(x) for x in line.split(",")] for line in as_table(way).splitlines()[1:]])
    assert np.abs(table[:, 2:] / 1e3 - way).max() < 1e-9
    assert np.abs(table[:, 1] * np.cos(np.radians(table[:, 0])) - table[:, 2]).max() < 1e-5
    drawing, _ = ezdxf.recover.read(io.BytesIO(as_dxf(way)))
    (line,) = drawing.modelspace()
    assert line.closed
    assert np.abs(np.array([p[:2] for p in line.get_points()]) / 1e3 - way).max() < 1e-9


# undercut


def test_undercut_of_a_flat_face_is_where_the_closed_form_has_it() -> None:
    """base + s + s'' is nothing first at the end of a harmonic rise: base = h / 2 (pi / beta)^2 - h."""
    beta, h = np.radians(70), 0.020
    least = float(h / 2 * (np.pi / beta) ** 2 - h)
    shape = SlidingFlat(lift=lift("20 mm", "harmonic", out="70 deg", stay="60 deg", back="150 deg"))
    assert without_undercut(sizes(shape, "50 mm")) == pytest.approx(2 * least, rel=1e-5)
    assert undercut(sizes(shape, f"{2e3 * least + 0.02!r} mm")) is None
    at = undercut(sizes(shape, f"{2e3 * least - 0.02!r} mm"))
    assert at == pytest.approx(beta, abs=2e-3)


def test_undercut_of_a_roller_is_where_the_closed_form_has_it() -> None:
    """Where the rate is nothing the way bends by X^2 / (X - s''): as much as the roller at X = (r + sqrt(r^2 + 4 r |s''|)) / 2."""
    beta, h, r = np.radians(60), 0.015, 0.012
    bend = h / 2 * (np.pi / beta) ** 2
    least = float((r + np.sqrt(r**2 + 4 * r * bend)) / 2 - r - h)
    shape = SlidingRoller(roller="24 mm", lift=lift("15 mm", "harmonic", out="60 deg", stay="100 deg", back="150 deg"))
    assert without_undercut(sizes(shape, "20 mm")) == pytest.approx(2 * least, rel=1e-4)
    faults = PlateCam.faults(sizes(shape, f"{2e3 * least - 0.05!r} mm", "0 mm"))
    assert faults[0][0] == "base_diameter"
    assert "undercuts the outline at 60" in faults[0][1]
    assert f"a base circle of {2e3 * least:.2f} mm avoids it" in faults[0][1]
    assert undercut(sizes(shape, f"{2e3 * least + 0.05!r} mm", "0 mm")) is None


@pytest.mark.parametrize(
    ("shape", "base", "field", "words"),
    [
        (SlidingRoller(lift={"out": SlideSegment(to="5 mm", over="400 deg")}), "50 mm", "outline.lift.out.over", "more than one cycle"),
        (SlidingRoller(lift={"out": SlideSegment(to="5 mm", over="90 deg")}), "50 mm", "outline.lift.out.to", "would jump by 5.00 mm"),
        (SlidingRoller(lift={"out": SlideSegment(to="0 mm", over="1 s")}), "50 mm", "outline.lift.out.over", "must be degrees of the cam"),
        (SlidingRoller(offset="40 mm"), "50 mm", "outline.offset", "passes beside the base circle"),
        (SwingingRoller(arm="5 mm", pivot="80 mm"), "50 mm", "outline.arm", "cannot reach the base circle"),
        (Eccentric(eccentricity="30 mm"), "50 mm", "outline.eccentricity", "outside the circle"),
        (Tangents(nose="6 mm", distance="10 mm"), "50 mm", "outline.distance", "inside the base circle"),
        (Eccentric(eccentricity="22 mm"), "50 mm", "bore", "reaches the outline"),
        (MeasuredOutline(rows="deg, mm\n0, 0"), "50 mm", "outline.rows", "needs a line with the units"),
        (MeasuredOutline(rows="kg, mm" + "\n0, 0" * 9), "50 mm", "outline.rows", "line 1 must name both units"),
        (MeasuredOutline(rows=ROUND.replace("80, 0", "80, x")), "50 mm", "outline.rows", "line 10 must hold two numbers"),
        (MeasuredOutline(rows=ROUND.replace("80, 0", "80, nan")), "50 mm", "outline.rows", "two finite numbers"),
        (MeasuredOutline(rows=ROUND.replace("80, 0", "30, 0")), "50 mm", "outline.rows", "turn back"),
        (MeasuredOutline(rows="mm, mm\n" + "\n".join(f"{30 * np.cos(a)}, {30 * np.sin(a)}" for a in np.arange(0, 6.2, 0.1))), "50 mm",
         "outline.rows", "state a base circle of"),
        (MeasuredOutline(rows="mm, mm\n" + "\n".join(f"{60 + 25 * np.cos(a)}, {25 * np.sin(a)}" for a in np.arange(0, 6.2, 0.1))), "50 mm",
         "outline.rows", "once round the axis"),
    ],
)  # fmt: skip
def test_what_makes_no_cam_is_told_by_its_field(shape: CamShape, base: str, field: str, words: str) -> None:
    found = PlateCam.faults(sizes(shape, base))
    assert found[0][0] == field
    assert words in found[0][1]


def test_a_cam_turned_backward_runs_its_programme_backward(evaluator: Evaluator) -> None:
    document = sliding(SlidingRoller(lift=lift()))
    driver = document.drivers["motor"].model_copy(update={"speed": "-60 rpm"})
    back = document.model_copy(update={"drivers": {"motor": driver}})
    angle = np.linspace(0.01, TURN - 0.01, 500)
    forward = moved(evaluator, document, angle)
    assert np.abs(moved(evaluator, back, TURN - angle) - forward).max() < 1e-8


def test_a_roller_beside_the_cam_is_told(evaluator: Evaluator) -> None:
    document = sliding(SlidingRoller(lift=lift()))
    joint = document.joints["cam_turns"].model_copy(update={"offset": "20 mm"})
    e = evaluator.moved(document.model_copy(update={"joints": document.joints | {"cam_turns": joint}}))
    assert any("the roller lies 20.000 mm beside the cam along its axis" in p.words for p in e.problems)


@pytest.mark.parametrize("turns", [1, 7])
def test_a_short_rise_after_a_long_rest_is_not_overlooked(evaluator: Evaluator, turns: int) -> None:
    """Up and down by 0.05 mm within 12 degrees of each turn, in a cycle of twelve frames."""
    bump = {
        "rest": SlideSegment(to="0 mm", over="217 deg"), "up": SlideSegment(to="0.05 mm", over="6 deg"),
        "down": SlideSegment(to="0 mm", over="6 deg"),
    }  # fmt: skip
    document = sliding(SlidingRoller(lift=bump))
    document = document.model_copy(
        update={"cycle": document.cycle.model_copy(update={"frames": "12", "duration": f"{turns} s"})}
    )
    e = evaluator.moved(document)
    assert e.problems == []
    found = bore_from_axis(e.coordinates["moves"].whole.value)
    assert found.max() - found.min() == pytest.approx(5e-5, abs=1e-6)
    at = bore_from_axis(interpolated(e.coordinates["moves"].whole, np.array([turns - 1 + 223 / 360])))
    assert at[0] - 0.030 == pytest.approx(5e-5, abs=1e-6)
