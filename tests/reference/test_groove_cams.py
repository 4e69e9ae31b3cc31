"""Grooved cams: the groove against shapely's band round the roller's way, and the roller back on its programme."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from tests.cams import sizes, sliding, swinging
from tests.reference.test_cams import lift, swing
from uhrwerk import Bore, ContactKept, Draft, FramePlate, NoInterference, Pin
from uhrwerk.core.document import Document, apply, parse
from uhrwerk.core.elements.cams import CamShape, GrooveCam, SlidingFlat, SlidingRoller, SwingingRoller
from uhrwerk.core.elements.cams.groove_cam import far_wall, outer
from uhrwerk.core.elements.cams.plate_cam import curve, traced
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import Numbers, numbers
from uhrwerk.core.quantity import Scope

TURN = 2 * np.pi


def grooved(shape: CamShape, **more: str) -> Numbers:
    return numbers(GrooveCam(outline=shape, **more), Scope.of({}, {"length": "mm"}))


@pytest.mark.parametrize("shape", [SlidingRoller(lift=lift()), SwingingRoller(swing=swing())])
def test_the_groove_is_the_band_that_the_roller_sweeps(evaluator: Evaluator, shape: CamShape) -> None:
    """Area by shapely: the roller's way, widened by its radius; outside also by its play. And the solid's volume."""
    n = grooved(shape, play="0.2 mm")
    t = traced(n, np.linspace(0, TURN, 20_000, endpoint=False))
    assert t.pitch is not None
    way, u = shapely.LinearRing(t.pitch), np.linspace(0, TURN, 20_000, endpoint=False)
    far, near = (shapely.Polygon(c.place(u)) for c in (far_wall(n), curve(n)))
    for wall, apart in ((far, t.roller + 2e-4), (near, t.roller)):
        places = shapely.points(np.array(wall.exterior.coords)[::160])
        assert np.abs(shapely.distance(way, places) - apart).max() < 1e-7
    assert far.contains(way)
    assert near.within(shapely.Polygon(way))
    volume = evaluator.kernel_pool.build(GrooveCam.solid(n)).volume
    disc = np.pi * outer(n) ** 2 * 0.012 - np.pi * 0.004**2 * 0.012
    assert volume == pytest.approx(disc - (far.area - near.area) * 0.006, rel=2e-6)


def as_groove(document: Document) -> Document:
    """The same cam with a groove in the place of its outline."""
    stated = document.parts["cam"].element
    element = GrooveCam(outline=stated.outline, base_diameter=stated.base_diameter).model_dump(mode="json")  # type: ignore[attr-defined]
    return apply(document, parse({"kind": "set_value", "path": "parts.cam.element", "value": element}))


def test_the_roller_follows_its_programme_as_on_a_plate_cam(evaluator: Evaluator) -> None:
    for document in (sliding(SlidingRoller(lift=lift())), swinging(SwingingRoller(swing=swing()))[0]):
        one, other = (evaluator.moved(d).coordinates["moves"] for d in (document, as_groove(document)))
        assert np.abs(one.value - other.value).max() < 1e-12
        assert np.ptp(other.value) > 1e-3


def guided(play: str, diameter: str = "10 mm", low: str = "-12.2 mm") -> Document:
    """A grooved cam on a plate, and a slide above it with a pin that runs in the groove."""
    d = Draft("Groove")
    bores = {"cam": Bore(x="80 mm", y="60 mm", diameter="8 mm")}
    plate = d.part("Plate", "steel", FramePlate(length="180 mm", width="120 mm", thickness="8 mm", bores=bores))
    cam = d.part(
        "Cam", "steel", GrooveCam(outline=SlidingRoller(lift=lift()), play=play), x="80 mm", y="60 mm", z="10 mm"
    )
    d.turn("Motor", d.revolute("Cam turns", plate["cam"], cam["axis"], offset="10 mm"), "60 rpm")
    side = {"width": "20 mm", "thickness": "5 mm"}
    rail = d.part("Rail", "steel", FramePlate(length="20 mm", **side), x="80 mm", y="50 mm", z="24 mm")
    d.rigid("Rail on plate", plate["top"], rail["top"], offset="29 mm")
    pressed = {"pin": Bore(x="8 mm", y="10 mm", diameter="5 mm")}
    slider = d.part(
        "Slider", "steel", FramePlate(length="60 mm", bores=pressed, **side), x="102 mm", y="50 mm", z="24 mm"
    )
    d.prismatic("Moves", rail["right"], slider["right"])
    pin = d.part("Roller", "steel", Pin(diameter=diameter, length="7 mm"), x="110 mm", y="60 mm", z="16.8 mm")
    d.rigid("Pressed in", slider["pin"], pin["axis"], offset=low)
    d.cam_pair("Runs", cam["axis"], pin["axis"])
    d.require(NoInterference(name="Nothing overlaps"))
    d.require(ContactKept(name="Held", pair="runs"))
    return d.document


def test_a_roller_in_its_groove_overlaps_nothing_and_needs_no_spring(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(guided("0.1 mm"))
    assert e.problems == []
    assert e.verdicts["nothing_overlaps"].holds is True, e.verdicts["nothing_overlaps"].words
    held = e.verdicts["held"]
    assert held.holds is True
    assert "goes over to the other wall" in held.words


@pytest.mark.parametrize(
    ("diameter", "low", "deep"), [("10 mm", "-13.2 mm", 0.2), ("10.4 mm", "-12.2 mm", 5.2)]
)  # fmt: skip
def test_a_roller_too_long_or_too_wide_for_its_groove_overlaps_it(
    evaluator: Evaluator, diameter: str, low: str, deep: float
) -> None:
    """The floor lies 13 mm below the slide; a groove of 10.1 mm is too narrow for a roller of 10.4 mm, which comes
    free of both walls along its axis alone: it reaches from the disc's face at 7 mm to 12.2 mm."""
    v = evaluator.evaluate(guided("0.1 mm", diameter, low)).verdicts["nothing_overlaps"]
    assert v.holds is False, v.words
    assert "Cam" in v.words
    assert v.value == pytest.approx(deep * 1e-3, abs=max(v.error, 2e-5))


def test_what_no_groove_can_hold_is_told() -> None:
    assert GrooveCam.faults(grooved(SlidingFlat(lift=lift("9 mm"))))[0][0] == "outline.kind"
    assert GrooveCam.faults(grooved(SlidingRoller(), depth="12 mm"))[0] == ("depth", "goes through the disc")
    narrow = SlidingRoller(roller="24 mm", lift=lift("25 mm", out="60 deg", back="60 deg"))
    found = GrooveCam.faults(grooved(narrow, base_diameter="120 mm"))
    t = traced(sizes(narrow, "120 mm"), np.linspace(0, TURN, 3600, endpoint=False))
    assert t.pitch_radius is not None
    deepest = -t.pitch_radius[t.pitch_radius < 0].max()
    assert (deepest <= 0.01205) == bool(found), (deepest, found)
