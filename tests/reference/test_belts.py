"""Belts and chains against shapely's hull of two circles, printed formulas, and the motion itself.

Shigley, Mechanical Engineering Design: eq. 17-1 (open belt), 17-3 (crossed), 17-34 (links of a chain), from memory; ISO 606 for
sprockets, from memory: its table's tip diameters lie between d + p (1 - 1.6 / z) - d1 and d + 1.25 p - d1.
"""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from tests.context import CONTEXT
from uhrwerk import At, Bore, Draft, FramePlate, NoInterference
from uhrwerk.core.document import Document, parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.grow import sprouts
from uhrwerk.core.elements import Pulley, Sprocket, ToothedPulley
from uhrwerk.core.elements.belts import sprocket, wrap
from uhrwerk.core.elements.element import Element
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.evaluation.values import values
from uhrwerk.core.field import numbers
from uhrwerk.core.quantity import Scope
from uhrwerk.core.solids import Solid


@pytest.mark.parametrize(("a", "b", "c"), [(20, 50, 90), (30, 30, 61), (12, 80, 93), (45, 20, 300)])
def test_an_open_belt_is_as_long_as_the_hull_of_both_circles(a: float, b: float, c: float) -> None:
    circles = shapely.union(
        shapely.Point(0, 0).buffer(a, quad_segs=4000), shapely.Point(c, 0).buffer(b, quad_segs=4000)
    )
    length, on_a, on_b = wrap.wrapped(a, b, c, crossed=False)
    assert length == pytest.approx(shapely.convex_hull(circles).length, rel=1e-7)
    assert on_a + on_b == pytest.approx(2 * np.pi)
    big, small = max(a, b), min(a, b)
    formula = np.sqrt(4 * c**2 - 4 * (big - small) ** 2) + big * (np.pi + 2 * np.arcsin((big - small) / c)) + small * (
        np.pi - 2 * np.arcsin((big - small) / c)
    )  # fmt: skip
    assert length == pytest.approx(formula, rel=1e-12)
    assert wrap.centres_for(a, b, length, crossed=False) == pytest.approx(c, rel=1e-10)


@pytest.mark.parametrize("crossed", [False, True])
def test_the_way_that_is_drawn_is_as_long_as_is_told(crossed: bool) -> None:
    way = wrap.way(20, 50, 90, crossed, steps=2000)
    assert np.linalg.norm(np.diff(way, axis=0), axis=1).sum() == pytest.approx(
        wrap.wrapped(20, 50, 90, crossed)[0], rel=1e-6
    )
    assert shapely.LineString(way).is_simple is not crossed


@pytest.mark.parametrize(("a", "b", "c"), [(20, 50, 90), (30, 30, 61)])
def test_a_crossed_belt_against_the_printed_formula(a: float, b: float, c: float) -> None:
    wrapped = np.pi + 2 * np.arcsin((a + b) / c)
    length, on_a, on_b = wrap.wrapped(a, b, c, crossed=True)
    assert length == pytest.approx(np.sqrt(4 * c**2 - 4 * (a + b) ** 2) + (a + b) * wrapped, rel=1e-12)
    assert on_a == on_b == pytest.approx(wrapped)
    with pytest.raises(ValueError, match="too near"):
        wrap.wrapped(a, b, a + b, crossed=True)


@pytest.mark.parametrize(("z1", "z2", "c"), [(17, 25, 300.0), (15, 45, 400.0), (19, 19, 200.0)])
def test_the_links_of_a_chain_against_the_printed_approximation(z1: int, z2: int, c: float) -> None:
    """X = 2 c / p + (z1 + z2) / 2 + (z2 - z1)^2 p / (4 pi^2 c); it counts arcs of the pitch circle for chords."""
    p = 8.0
    radii = [p / np.sin(np.pi / z) / 2 for z in (z1, z2)]
    links = wrap.wrapped(*radii, c, crossed=False)[0] / p
    assert links == pytest.approx(2 * c / p + (z1 + z2) / 2 + (z2 - z1) ** 2 * p / (4 * np.pi**2 * c), abs=0.25)


@pytest.mark.parametrize("teeth", [9, 17, 25, 60, 150])
def test_a_sprocket_takes_its_chain_s_rollers(teeth: int, evaluator: Evaluator) -> None:
    """Rollers on the pitch circle lie against the seats and overlap nothing; the tip lies within ISO 606's limits."""
    n = numbers(Sprocket(teeth=teeth), Scope.of({}, {"length": "mm"}))
    (solid,) = evaluator.kernel_pool.build_all([Sprocket.solid(n)])
    assert isinstance(solid, Solid)
    body = solid.bodies["sprocket"]
    r = sprocket.pitch_radius(n)
    assert n.pitch * (1 - 1.6 / teeth) - n.roller - 1e-12 <= 2 * (sprocket.tip(n) - r) <= 1.25 * n.pitch - n.roller
    at = (np.arange(teeth) + 0.5) * 2 * np.pi / teeth
    rollers = r * np.stack([np.cos(at), np.sin(at)], axis=1)
    chord = np.linalg.norm(rollers[1] - rollers[0])
    assert chord == pytest.approx(n.pitch, rel=1e-12)
    apart = np.linalg.norm(body.vertices[:, None, :2] - rollers[None], axis=2)
    assert apart.min() > n.roller / 2  # a roller fits between two teeth
    assert apart.min() == pytest.approx(0.505 * n.roller, abs=2e-5)
    assert np.linalg.norm(body.vertices[:, :2], axis=1).max() == pytest.approx(sprocket.tip(n), abs=1e-6)


def two(one: Element, other: Element, centres: str = "120 mm", **more: object) -> Document:
    bores = {
        "a": Bore(x="60 mm", y="60 mm", diameter="8 mm"),
        "b": Bore(x=f"60 mm + {centres}", y="60 mm", diameter="8 mm"),
    }
    d = Draft("Belt")
    plate = d.part("Plate", "steel", FramePlate(length="400 mm", width="120 mm", bores=bores))
    a = d.part("First", "steel", one, x="60 mm", y="60 mm", z="12 mm")
    b = d.part("Second", "steel", other, x=f"60 mm + {centres}", y="60 mm", z="12 mm", turn_z="10 deg")
    motor = d.revolute("A", plate["a"], a["axis"], offset="12 mm")
    d.revolute("B", plate["b"], b["axis"], offset="12 mm")
    d.belt("Belt", str(a), str(b), **more)
    d.turn("Motor", motor, "120 rpm")
    return d.document


@pytest.mark.parametrize(
    ("one", "other", "more", "ratio"),
    [
        (Pulley(diameter="40 mm"), Pulley(diameter="64 mm"), {}, 0.625),
        (Pulley(diameter="37.3 mm"), Pulley(diameter="81.7 mm"), {}, 373 / 817),
        (Pulley(diameter="40 mm"), Pulley(diameter="50 mm"), {"crossed": True}, -0.8),
        (ToothedPulley(teeth=20), ToothedPulley(teeth=33), {}, 20 / 33), (Sprocket(teeth=17), Sprocket(teeth=25), {}, 17 / 25),
    ],
)  # fmt: skip
def test_both_rims_run_equally_fast(one: Element, other: Element, more: dict[str, object], ratio: float) -> None:
    e = Evaluator().moved(two(one, other, **more))
    assert e.problems == []
    a, b = (e.coordinates[k] for k in ("a", "b"))
    assert np.abs(b.rate / a.rate - ratio).max() < 1e-12
    assert b.value[-1] - b.value[0] == pytest.approx(ratio * (a.value[-1] - a.value[0]), rel=1e-9)


def test_what_a_belt_tells_where_it_is_mounted() -> None:
    e = Evaluator().moved(two(ToothedPulley(teeth=20), ToothedPulley(teeth=40), centres="123 mm"))
    told = {v.name: v.value for v in values(e)["pairs.belt"]}
    length = wrap.wrapped(0.05 / np.pi, 0.1 / np.pi, 0.123, crossed=False)[0]
    assert told["Length on its pitch line"] == pytest.approx(length)
    assert told["Length in pitches"] == pytest.approx(length / 0.005)
    whole = round(length / 0.005)
    right = told[f"Centre distance for {whole}"]
    assert wrap.wrapped(0.05 / np.pi, 0.1 / np.pi, right, crossed=False)[0] == pytest.approx(whole * 0.005)


@pytest.mark.parametrize(
    ("one", "other", "centres", "more", "words"),
    [
        (Pulley(), Sprocket(), "120 mm", {}, "must be for the same"),
        (ToothedPulley(), ToothedPulley(pitch="3 mm"), "120 mm", {}, "pitch of both wheels"),
        (Sprocket(), Sprocket(), "120 mm", {"crossed": True}, "only a smooth belt"),
        (Pulley(), Pulley(), "39 mm", {}, "bring them farther apart"),
        (ToothedPulley(), ToothedPulley(), "120 mm", {"count": 67}, "bring the axes 2.500 mm nearer"),
        (ToothedPulley(), ToothedPulley(), "120 mm", {"count": 10}, "too short"),
        (Pulley(diameter="40 mm"), Pulley(diameter="sqrt(2) * 40 mm"), "120 mm", {}, "no ratio of whole numbers"),
    ],
)  # fmt: skip
def test_what_cannot_run_says_why(
    one: Element, other: Element, centres: str, more: dict[str, object], words: str
) -> None:
    e = Evaluator().moved(two(one, other, centres, **more))
    assert words in " ".join(p.words for p in e.problems), e.problems


def test_wheels_beside_one_another_are_told() -> None:
    document = two(Pulley(), Pulley())
    beside = accept(document, parse({"kind": "set_value", "path": "joints.b.offset", "value": "14 mm"}))
    e = Evaluator().moved(beside)
    assert "lies 2.000 mm beside" in e.problems[0].words


@pytest.mark.parametrize("kind", ["pulley", "toothed_pulley", "sprocket"])
def test_a_drive_grows_from_a_bore_in_one_action(evaluator: Evaluator, kind: str) -> None:
    d = Draft("Drive")
    bores = {"bore": Bore(x="60 mm", y="60 mm", diameter="8 mm")}
    d.part("Plate", "steel", FramePlate(length="300 mm", width="120 mm", bores=bores))
    (first,) = (s for s in sprouts(d.document, At(placed="plate", datum="bore"), CONTEXT) if s.kind == kind)
    (one,) = sprouts(d.document, At(placed="plate", datum="bore"), CONTEXT, first.id, {"centres": "150 mm"})
    document = accept(d.document, parse(one.command))
    joint = next(iter(document.joints))
    motor = {"kind": "turning", "name": "Motor", "joint": joint, "speed": "60 rpm"}
    document = accept(document, parse({"kind": "add_driver", "driver": motor}))
    asked = NoInterference(name="Nothing overlaps").model_dump(mode="json")
    e = evaluator.evaluate(accept(document, parse({"kind": "add_requirement", "requirement": asked})))
    assert e.problems == []
    assert e.verdicts["nothing_overlaps"].holds is True, e.verdicts
    assert e.mobility is not None
    assert e.mobility.undriven == 0
    told = {v.name: v.value for v in values(e)[f"pairs.{next(iter(document.pairs))}"]}
    assert told["Centre distance now"] == pytest.approx(0.15)
