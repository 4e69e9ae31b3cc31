"""Conjugate cams: the second disc against shapely's band round its roller's way, and a follower held by both rollers."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from tests.cams import sliding, swinging
from tests.reference.test_cams import lift, swing
from uhrwerk import Bore, ContactKept, Draft, FramePlate, NoInterference, Pin
from uhrwerk.core.document import Document, apply, parse
from uhrwerk.core.elements.cams import CamShape, ConjugateCam, SlidingFlat, SlidingRoller, SwingingRoller
from uhrwerk.core.elements.cams.conjugate_cam import second, second_curve
from uhrwerk.core.elements.cams.plate_cam import curve
from uhrwerk.core.elements.cams.shape import programme
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import Numbers, numbers
from uhrwerk.core.quantity import Scope

TURN = 2 * np.pi
SLIDES, SWINGS = SlidingRoller(lift=lift(), offset="3 mm"), SwingingRoller(swing=swing())


def conjugate(shape: CamShape, **more: str) -> Numbers:
    return numbers(ConjugateCam(outline=shape, **more), Scope.of({}, {"length": "mm"}))


def placed_by_hand(n: Numbers, angle: np.ndarray) -> np.ndarray:
    """The second roller's centre in the cam, from the follower's motion and geometry alone: complex arithmetic."""
    o, away = n.outline, n.base_diameter / 2 + n.outline.roller / 2
    if o.kind == "sliding_roller":
        first = np.sqrt(away**2 - o.offset**2) + programme(o.lift).derivative(angle, 0) + 1j * o.offset
        return (first - n.between) * np.exp(-1j * angle)
    rest = np.arccos((o.arm**2 + o.pivot**2 - away**2) / (2 * o.arm * o.pivot))
    psi = np.pi - rest - programme(o.swing).derivative(angle, 0)
    arm = o.arm if n.arm_2 is None else n.arm_2
    apart = np.arccos((o.arm**2 + arm**2 - n.between**2) / (2 * o.arm * arm))
    return (o.pivot + arm * np.exp(1j * (psi + apart))) * np.exp(-1j * angle)


@pytest.mark.parametrize(
    "n",
    [
        conjugate(SLIDES, play="0.2 mm"),
        conjugate(SWINGS, play="0.2 mm", between="64 mm", arm_2="45 mm", roller_2="12 mm"),
    ],
)
def test_the_second_disc_is_what_its_roller_leaves(evaluator: Evaluator, n: Numbers) -> None:
    assert ConjugateCam.faults(n) == []
    angle = np.linspace(0, TURN, 20_000, endpoint=False)
    by_hand = placed_by_hand(n, angle)
    way = second(n, angle).pitch
    assert way is not None
    assert np.abs(way[:, 0] + 1j * way[:, 1] - by_hand).max() < 1e-12
    ring = shapely.LinearRing(np.stack([by_hand.real, by_hand.imag], axis=1))
    places = second_curve(n).place(angle)
    off = shapely.distance(ring, shapely.points(places[::40]))
    assert np.abs(off - n.roller_2 / 2 - 2e-4).max() < 1e-7
    discs = [shapely.Polygon(c.place(angle)) for c in (curve(n), second_curve(n))]
    assert shapely.Polygon(ring).contains(discs[1])
    hub = np.pi * 0.01**2
    volume = (discs[0].area + discs[1].area) * 0.008 + hub * 0.002 - np.pi * 0.004**2 * 0.018
    assert evaluator.kernel_pool.build(ConjugateCam.solid(n)).volume == pytest.approx(volume, rel=2e-6)


def test_the_first_roller_follows_its_programme_as_on_a_plate_cam(evaluator: Evaluator) -> None:
    for document in (sliding(SlidingRoller(lift=lift())), swinging(SWINGS)[0]):
        stated = document.parts["cam"].element
        element = ConjugateCam(outline=stated.outline, base_diameter=stated.base_diameter).model_dump(mode="json")  # type: ignore[attr-defined]
        other = apply(document, parse({"kind": "set_value", "path": "parts.cam.element", "value": element}))
        one, two = (evaluator.moved(d).coordinates["moves"] for d in (document, other))
        assert np.abs(one.value - two.value).max() < 1e-12
        assert np.ptp(two.value) > 1e-3


def yoke(between: str = "70 mm", second_diameter: str = "10 mm", low: str = "0 mm") -> Document:
    """A conjugate cam on a plate; above it a slide with two pins, one on either disc."""
    d = Draft("Yoke")
    bores = {"cam": Bore(x="80 mm", y="60 mm", diameter="8 mm"), "post": Bore(x="160 mm", y="60 mm", diameter="4 mm")}
    plate = d.part("Plate", "steel", FramePlate(length="180 mm", width="120 mm", thickness="8 mm", bores=bores))
    shape = SlidingRoller(lift=lift("10 mm"))
    cam = d.part("Cam", "steel", ConjugateCam(outline=shape, between="70 mm"), x="80 mm", y="60 mm", z="10 mm")
    d.turn("Motor", d.revolute("Cam turns", plate["cam"], cam["axis"], offset="10 mm"), "60 rpm")
    pins = {
        "first": Bore(x=f"10 mm + {between}", y="10 mm", diameter="5 mm"),
        "second": Bore(x="10 mm", y="10 mm", diameter="5 mm"),
    }
    bar = FramePlate(length="90 mm", width="20 mm", thickness="5 mm", bores=pins)
    slider = d.part("Slide", "steel", bar, x=f"80 mm + 30 mm - 10 mm - {between}", y="50 mm", z="36 mm")
    post = {"post": Bore(x="10 mm", y="10 mm", diameter="4 mm")}
    rail = d.part("Rail", "steel", FramePlate(length="20 mm", width="20 mm", thickness="5 mm", bores=post), z="36 mm")
    d.rigid("Rail on plate", plate["post"], rail["post"], offset="36 mm")
    d.prismatic("Moves", rail["right"], slider["right"])
    one = d.part("Roller", "steel", Pin(diameter="10 mm", length="7 mm"), x="110 mm", y="60 mm", z="10.5 mm")
    d.rigid("Pressed in", slider["first"], one["axis"], offset="-25.5 mm")
    other = d.part(
        "Second roller", "steel", Pin(diameter=second_diameter, length="9 mm"), x="40 mm", y="60 mm", z="21 mm"
    )
    d.rigid("Pressed in too", slider["second"], other["axis"], offset=f"-15 mm + {low}")
    d.cam_pair("Runs", cam["axis"], one["axis"])
    d.require(NoInterference(name="Nothing overlaps"))
    d.require(ContactKept(name="Held", pair="runs"))
    return d.document


def test_a_yoke_is_held_by_both_rollers_without_a_spring(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(yoke())
    assert e.problems == []
    assert e.verdicts["held"].holds is True, e.verdicts["held"].words
    assert "Second roller runs on the second disc" in e.verdicts["held"].words
    assert e.verdicts["nothing_overlaps"].holds is True, e.verdicts["nothing_overlaps"].words


@pytest.mark.parametrize(
    ("how", "overlaps"),
    [({"between": "70.3 mm"}, None), ({"second_diameter": "9.8 mm"}, None), ({"low": "-11 mm"}, None), ({"between": "69.8 mm"}, 0.15)],
)  # fmt: skip
def test_a_yoke_whose_second_roller_does_not_run_is_not_held(
    evaluator: Evaluator, how: dict[str, str], overlaps: float | None
) -> None:
    """Too far out, too thin, beside its disc, or within it by 0.2 mm less the play."""
    e = evaluator.evaluate(yoke(**how))
    assert e.verdicts["held"].holds is False, e.verdicts["held"].words
    if overlaps is not None:
        v = e.verdicts["nothing_overlaps"]
        assert v.holds is False
        assert v.value == pytest.approx(overlaps * 1e-3, abs=max(v.error, 2e-5))


def test_what_no_conjugate_cam_can_hold_is_told() -> None:
    assert ConjugateCam.faults(conjugate(SlidingFlat(lift=lift("9 mm"))))[0][0] == "outline.kind"
    assert ConjugateCam.faults(conjugate(SlidingRoller(), between="38 mm"))[0][0] == "between"
    assert ConjugateCam.faults(conjugate(SlidingRoller(), hub="70 mm"))[0][0] == "hub"
    assert ConjugateCam.faults(conjugate(SWINGS, between="200 mm"))[0][0] == "between"
