"""What is shown is where it is: every datum joins, measures, pulls and turns at the one place where it is drawn.

Parts lie beside their own origins here, in inches beside millimetres, mirrored; the witness is arithmetic done by hand.
"""

from __future__ import annotations

import numpy as np
import pytest

from tests.context import CONTEXT
from uhrwerk import At, Bore, Draft, DriveEffort, Evaluator, FramePlate, Pin, curves, drivers
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.document import Document, parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.grow import sprouts
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.forces import springs
from uhrwerk.core.outlines import Circle, Rectangle
from uhrwerk.core.steps import AtPoints, BuildStep, Extrude, Hole, OnCircle, OnGrid, Spot
from uhrwerk.core.views.measuring import measured
from uhrwerk.core.views.scene import datum_data


def named(*steps: BuildStep) -> dict[str, BuildStep]:
    return {s.name.lower(): s for s in steps}


def box(x: float, y: float, size: float = 40.0, name: str = "Box") -> dict[str, BuildStep]:
    """A box of `size` mm whose middle lies at x, y mm, on z = 0."""
    outline = Rectangle(length=f"{size} mm", width=f"{size} mm", x=f"{x} mm", y=f"{y} mm")
    return named(Extrude(name=name, outline=outline, length=f"{size} mm"))


def placed(document: Document) -> dict[str, np.ndarray]:
    m = compile(document, CONTEXT)
    pose = solve(m)
    return {i: m.part_pose(i, pose) for i in m.document.placed}


def test_a_rigid_joint_at_the_centre_of_a_cubes_face_stands_on_its_centre(evaluator: Evaluator) -> None:
    """It stood 20 mm off, on the cube's edge: the cube's corner is its origin."""
    d = Draft("Cubes")
    low = d.own_part("Low", "steel", box(20, 20))
    high = d.own_part("High", "steel", box(-15, 40), x="30 mm", z="90 mm")
    d.rigid("Held", At(placed=low, datum="box.end"), At(placed=high, datum="box.start"), flip=True)
    at = placed(d.document)[high]
    middle = at[:3] + np.array([-0.015, 0.040, 0.0])  # of the upper cube's lower face, not turned
    np.testing.assert_allclose(np.abs(at[3:]), [1, 0, 0, 0], atol=1e-9)
    np.testing.assert_allclose(middle, [0.020, 0.020, 0.040], atol=1e-9)


def test_what_is_drawn_is_what_joins(evaluator: Evaluator) -> None:
    """The page is given the origin that the equations use, of every datum of a part; holes do not move that of their face."""
    d = Draft("Drawn")
    steps = box(12, -7) | named(
        Hole(name="Off", plane="box.end", diameter="6 mm", at=AtPoints(spots={"a": Spot(x="20 mm", y="0 mm")})),
        Hole(
            name="Ring", plane="box.end", diameter="3 mm", at=OnCircle(count=3, diameter="10 mm", x="6 mm", y="-12 mm")
        ),
    )
    part = d.own_part("Part", "steel", steps)
    m = compile(d.document, CONTEXT)
    for name, datum in m.datums[part].items():
        assert datum_data(d.document, name, datum)["origin"] == datum.origin.tolist()
        np.testing.assert_allclose(m.place(At(placed=part, datum=name)).frame[:3], datum.origin, atol=1e-12)
    there = {n: x.origin * 1e3 for n, x in m.datums[part].items()}
    np.testing.assert_allclose(there["box.end"], [12, -7, 40], atol=1e-6)
    np.testing.assert_allclose(there["off.hole_1"], [20, 0, 20], atol=1e-6)
    np.testing.assert_allclose(
        [there["off.hole_1_low"], there["off.hole_1_high"]], [[20, 0, 0], [20, 0, 40]], atol=1e-6
    )
    np.testing.assert_allclose(there["ring.middle"], [6, -12, 40], atol=1e-6)
    np.testing.assert_allclose(there["origin"], 0, atol=0)


@pytest.mark.parametrize("mirrored", [False, True])
def test_a_pins_offset_counts_from_its_middle(evaluator: Evaluator, mirrored: bool) -> None:
    """100 mm from the middle of a pin of 156.25 mm that begins beside its part's origin: 100 is what is typed."""
    d = Draft("Pin")
    stem = named(
        Extrude(
            name="Stem",
            plane="yz",
            offset="7 mm",
            outline=Circle(diameter="9 mm", x="4 mm", y="11 mm"),
            length="156.25 mm",
        )
    )
    pin = d.own_part("Pin", "steel", stem)
    if mirrored:
        d.set(f"placed.{pin}.mirrored", True)
    ring = d.own_part(
        "Ring",
        "steel",
        box(30, 5, 20)
        | named(
            Hole(name="Eye", plane="box.end", diameter="9 mm", at=AtPoints(spots={"a": Spot(x="30 mm", y="5 mm")}))
        ),
    )
    d.rigid("Held", At(placed=pin, datum="stem.side_1"), At(placed=ring, datum="eye.hole_1"), offset="100 mm")
    m = compile(d.document, CONTEXT)
    at = m.part_pose(ring, solve(m))
    eye = poses.place(at, np.array([0.030, 0.005, 0.010]))
    sense = -1 if mirrored else 1
    np.testing.assert_allclose(eye, [sense * (7 + 156.25 / 2 + 100) / 1e3, 0.004, 0.011], atol=1e-9)


def sliding(lift: str = "3.75 mm") -> tuple[Draft, str, str]:
    """A lug whose origin lies 12 mm aside, and a collar that goes to and fro above it, 29 mm away in the middle."""
    d = Draft("Spring")
    lug = d.own_part("Lug", "steel", box(12, 0, 20, "Lug"))
    collar = d.own_part("Collar", "steel", box(-31, 8, 20, "Collar"), x="43 mm", y="-8 mm", z="49 mm")
    j = d.prismatic("Slides", At(placed=lug, datum="lug.end"), At(placed=collar, datum="collar.start"))
    d.set(f"joints.{j}.flip", True)
    d.drive(drivers.SlideFormula(name="To and fro", joint=j, way=f"29 mm + {lift} * sin(360 deg * time / (1 s))"))
    return d, lug, collar


def test_a_spring_between_a_lug_and_a_collar_is_as_long_as_it_is_drawn(evaluator: Evaluator) -> None:
    """It was reported slanted, 27.96 to 34.88 mm and 30.19 to 71.00 N, since the lug's origin lies 12 mm aside. Rate of EN 13906-1
    (from memory): G d^4 / (8 D^3 n) = 5.8955 N/mm of 1.5 mm wire, 9 mm coils, 12 of them."""
    d, lug, collar = sliding()
    d.spring("Pusher", At(placed=lug, datum="lug.end"), At(placed=collar, datum="collar.start"), free_length="40 mm", wire_diameter="1.5 mm", mean_diameter="9 mm", active_coils="12")  # fmt: skip
    e = evaluator.evaluate(d.document)
    assert e.problems == []
    found = springs.run(e, "pusher")
    assert found is not None
    assert (found.length.min() * 1e3, found.length.max() * 1e3) == (
        pytest.approx(25.25, abs=1e-4),
        pytest.approx(32.75, abs=1e-4),
    )
    assert (found.force.min(), found.force.max()) == (pytest.approx(42.74, abs=0.01), pytest.approx(86.96, abs=0.01))
    assert found.askew.max() < 1e-9


def test_a_spring_that_stands_askew_is_said_to(evaluator: Evaluator) -> None:
    """Its seats lie 10 mm aside of one another, 29 mm apart: atan(10 / 29) = 19.03 deg."""
    from uhrwerk import SpringStrength

    d, lug, collar = sliding("0.001 mm")
    d.spring("Pusher", At(placed=lug, datum="lug.end", x="10 mm"), At(placed=collar, datum="collar.start"))
    d.require(SpringStrength(name="Sound", pair="pusher"))
    e = evaluator.evaluate(d.document)
    found = springs.run(e, "pusher")
    assert found is not None
    assert np.degrees(found.askew).max() == pytest.approx(np.degrees(np.arctan2(10, 29)), abs=2e-3)
    assert e.verdicts["sound"].holds is None
    assert "askew by up to 19.03 deg" in e.verdicts["sound"].words


def test_a_push_turns_with_the_arm_at_which_it_is_drawn(evaluator: Evaluator) -> None:
    """20 N on a pad 100 mm from its pivot: 2 N m, where 0.004 N mm was told. Places and distances of faces likewise."""
    d = Draft("Push")
    base = d.part("Base", "steel", FramePlate(bores={"pivot": Bore(x="20 mm", y="50 mm", diameter="8 mm")}))
    arm = named(
        Extrude(name="Arm", outline=Rectangle(length="120 mm", width="10 mm", x="50 mm"), length="10 mm"),
        Hole(name="Eye", plane="arm.end", diameter="8 mm", at=AtPoints(spots={"a": Spot()})),
        Extrude(
            name="Pad",
            plane="arm.side_3",
            outline=Rectangle(length="6 mm", width="10 mm", x="-100 mm", y="5 mm"),
            length="4 mm",
        ),
    )
    lever = d.own_part("Lever", "steel", arm)
    j = d.revolute("Turns", base["pivot"], At(placed=lever, datum="eye.hole_1"), offset="6 mm")
    d.turn("Motor", j, "0.01 rpm")
    m = compile(d.document, CONTEXT)
    pad = m.datums[lever]["pad.end"].origin * 1e3
    np.testing.assert_allclose(pad[[0, 2]], [100, 5], atol=1e-6)
    d.follow(curves.PointCurve(name="x", at=At(placed=lever, datum="pad.end"), along="x"))
    d.follow(
        curves.DistanceCurve(name="far", a=At(placed=lever, datum="eye.hole_1"), b=At(placed=lever, datum="pad.end"))
    )
    d.push("Load", At(placed=base, datum="front"), At(placed=lever, datum="pad.end"), force="20 N")
    d.require(DriveEffort(name="Effort", driver="motor", at_most="1 N*m"))
    e = evaluator.evaluate(d.document)
    v = e.verdicts["effort"]
    assert v.holds is False
    assert v.value == pytest.approx(2.0, rel=1e-3)
    x = evaluated_curve(e, "x").extremes("value")  # type: ignore[union-attr]
    assert (x.low, x.high) == (pytest.approx(0.12, abs=1e-5), pytest.approx(0.12, abs=1e-5))
    far = evaluated_curve(e, "far").extremes("value")  # type: ignore[union-attr]
    assert far.high == pytest.approx(float(np.hypot(100, pad[1])) / 1e3, abs=1e-8)


def test_centre_to_centre_of_two_faces(evaluator: Evaluator) -> None:
    """The centres of two faces that lie 2.92 mm apart, on parts whose origins are 13.09 mm apart as moved onto them."""
    d = Draft("Faces")
    one = d.own_part("One", "steel", box(12, 0, 20))
    other = d.own_part("Other", "steel", box(-0.5, 5, 20), x="12.5 mm", y="-5 mm", z="22.92 mm")
    found = {
        x["name"]: x["si"]
        for x in measured(d.document, At(placed=one, datum="box.end"), At(placed=other, datum="box.start"), CONTEXT)
    }
    assert found["Centre to centre"] == pytest.approx(2.92e-3, abs=1e-9)


def test_play_of_a_pin_and_a_bore_has_a_sign() -> None:
    """A pin of 14.2 in a bore of 14.0: -0.2 mm on the diameter, -0.1 radially, where -14.10 mm was told between the rims."""
    d = Draft("Play")
    plate = d.part("Plate", "steel", FramePlate(bores={"b": Bore(x="30 mm", y="30 mm", diameter="14 mm")}))
    pin = d.part("Pin", "steel", Pin(diameter="14.2 mm"), x="30 mm", y="30 mm")
    found = {x["name"]: x["si"] for x in measured(d.document, plate["b"], pin["axis"], CONTEXT)}
    assert found["Least play between pin and bore"] == pytest.approx(-1e-4, abs=1e-12)
    assert found["Play on the diameter"] == pytest.approx(-2e-4, abs=1e-12)
    assert "Between the rims" not in found


def test_a_shaft_stands_through_the_hole_of_a_grid(evaluator: Evaluator) -> None:
    """The plate lies from -6.35 mm to 0; the shaft that grew in a hole of a grid stood above it, and nothing overlapped."""
    d = Draft("Grid", units={"length": "in"})
    plate = d.part("Plate", "steel", FramePlate(length="4 in", width="3 in", thickness="0.25 in"))
    grid = OnGrid(column_distance="1 in", row_distance="1 in", x="2 in", y="1.5 in")
    d.step(plate, Hole(name="Grid", plane="element.end", diameter="0.5 in", at=grid))
    at = At(placed=plate, datum="grid.hole_1")
    grown = next(s for s in sprouts(d.document, at, CONTEXT) if s.kind == "pin" and "turns" in s.title)
    after = accept(d.document, parse(grown.command))
    (shaft,) = set(after.placed) - {plate}
    at_z = placed(after)[shaft][2] * 1e3
    length = after.scope().value(after.parts[shaft].element.length, "length") * 1e3  # type: ignore[attr-defined]
    assert at_z == pytest.approx(-6.35, abs=1e-6)
    assert at_z + length > 0
