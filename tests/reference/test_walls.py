"""Wall thickness: closed forms, and a witness that shoots rays into the material from many places; it shares no code with it."""

from __future__ import annotations

import numpy as np
import pytest

from uhrwerk import Bore, Draft, FramePlate, HingeLeaf, LinkBar, Pin, SpurGear, WallThickness
from uhrwerk.core.document import Document
from uhrwerk.core.elements import Element
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.outlines import Circle, Points, Rectangle
from uhrwerk.core.outlines.points import Corner
from uhrwerk.core.proximity.walls import Wall, thinnest
from uhrwerk.core.solids import Body
from uhrwerk.core.steps import BuildStep, Hollow, Opening
from uhrwerk.core.steps.cut import Cut
from uhrwerk.core.steps.extrude import Extrude

MM = 1e-3


def rays(body: Body, count: int, seed: int = 7) -> float:
    """The least way from random places of the surface square into the material to where it leaves, where that surface faces the other
    way by more than 120 degrees; m."""
    corners = body.vertices[body.triangles]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normal, axis=1)
    corners, normal, area = corners[area > 0], normal[area > 0], area[area > 0]
    normal /= area[:, None]
    random = np.random.default_rng(seed)
    at = random.choice(len(corners), count, p=area / area.sum())
    u, v = np.sort(random.random((2, count)), axis=0)
    places = u[:, None] * corners[at, 0] + (v - u)[:, None] * corners[at, 1] + (1 - v)[:, None] * corners[at, 2]
    best = np.inf
    for p, n in zip(places, normal[at], strict=True):
        slope = normal @ n
        leaves = slope < -1e-12
        t = np.where(leaves, np.sum((p - corners[:, 0]) * normal, axis=1) / np.where(leaves, slope, 1.0), np.inf)
        q = p - t[:, None] * n
        with np.errstate(invalid="ignore"):
            inside = np.ones(len(corners), dtype=bool)
            for k in range(3):
                edge = corners[:, (k + 1) % 3] - corners[:, k]
                inside &= np.sum(np.cross(edge, q - corners[:, k]) * normal, axis=1) >= 0
        hit = np.flatnonzero(inside & (t > 1e-9))
        if len(hit):
            first = hit[np.argmin(t[hit])]
            if slope[first] < -0.5:
                best = min(best, float(t[first]))
    return best


def made(evaluator: Evaluator, element: Element, *steps: BuildStep) -> Body:
    d = Draft("x")
    p = d.part("Part", "steel", element)
    for s in steps:
        d.step(p, s)
    (body,) = evaluator.solid_of(d.document, "part")[1].bodies.values()
    return body


def own(evaluator: Evaluator, **steps: BuildStep) -> Body:
    d = Draft("x")
    d.own_part("Part", "steel", steps)
    (body,) = evaluator.solid_of(d.document, "part")[1].bodies.values()
    return body


def test_walls_of_known_thickness(evaluator: Evaluator) -> None:
    """A bar beside its bore, a plate between a bore and its edge and between two bores, a pin, a thin blade: exact."""
    cases = [
        (made(evaluator, LinkBar(width="12 mm", bore_1="6 mm", bore_2="7 mm", thickness="8 mm")), 2.5),
        (made(evaluator, LinkBar(thickness="0.8 mm")), 0.8),
        (made(evaluator, Pin(diameter="5 mm", length="30 mm")), 5.0),
        (made(evaluator, FramePlate(length="80 mm", width="60 mm", thickness="9 mm", bores={"a": Bore(x="6 mm", y="30 mm", diameter="8 mm")})), 2.0),
        (made(evaluator, FramePlate(length="80 mm", width="60 mm", thickness="9 mm", bores={
            "a": Bore(x="30 mm", y="30 mm", diameter="8 mm"), "b": Bore(x="40 mm", y="30 mm", diameter="10 mm"),
        })), 1.0),
    ]  # fmt: skip
    for body, expected in cases:
        w = thinnest(body)
        assert w.thickness == pytest.approx(expected * MM, abs=w.error + 1e-9)
        assert float(np.linalg.norm(w.points[1] - w.points[0])) == pytest.approx(expected * MM, abs=0.05 * MM)


@pytest.mark.parametrize("open_above", [False, True])
def test_a_face_that_ends_before_its_nearest_place_is_not_told_by_it(evaluator: Evaluator, open_above: bool) -> None:
    """A bore of 6 mm, its axis 5 mm beneath a face: 2 mm, exact. Where a slot of 0.6 mm opens it above its axis, the face begins 0.3 mm
    beside that, and the wall is 5 - sqrt(9 - 0.09) there, told by triangles to within their error; the axis tells it no more."""
    steps: dict[str, BuildStep] = {
        "block": Extrude(name="Block", outline=Rectangle(length="40 mm", width="30 mm"), length="10 mm"),
        "bore": Cut(
            name="Bore", plane="xz", outline=Circle(diameter="6 mm", x="0 mm", y="5 mm"), through=True, both=True
        ),
    }
    if open_above:
        steps["slot"] = Cut(
            name="Slot", plane="xy", offset="10 mm", outline=Rectangle(length="0.6 mm", width="40 mm"), depth="3 mm"
        )
    w = thinnest(own(evaluator, **steps))
    true = (5 - (9 - (0.09 if open_above else 0.0)) ** 0.5) * MM
    assert abs(w.thickness - true) <= w.error + 1e-9
    assert (w.error <= 1e-8) is not open_above


def test_a_hollow_is_as_thick_as_its_wall(evaluator: Evaluator) -> None:
    box = Extrude(name="Box", outline=Rectangle(length="40 mm", width="30 mm"), length="20 mm")
    body = own(evaluator, box=box, hollow=Hollow(name="Hollow", wall="1.7 mm", open={"a": Opening(face="box.end")}))
    assert thinnest(body).thickness == pytest.approx(1.7 * MM, abs=1e-8)


def test_a_pocket_from_the_side_beneath_a_face(evaluator: Evaluator) -> None:
    """Seen neither from above nor from below: 10 mm thick, a bore of 6 mm along it at a height of 4 mm leaves 1 mm beneath."""
    block = Extrude(name="Block", outline=Rectangle(length="40 mm", width="30 mm"), length="10 mm")
    bore = Cut(
        name="Bore",
        plane="xz",
        offset="-20 mm",
        outline=Circle(diameter="6 mm", x="0 mm", y="4 mm"),
        through=True,
        both=True,
    )
    w = thinnest(own(evaluator, block=block, bore=bore))
    assert w.thickness == pytest.approx(1.0 * MM, abs=w.error + 1e-9)


@pytest.mark.parametrize(("half", "thin"), [(8.0, True), (25.0, True), (32.0, False)])
def test_knife_edges_are_thin_and_corners_are_none(evaluator: Evaluator, half: float, thin: bool) -> None:
    """The end of a pencil: two faces that meet at less than 60 degrees are a wall that ends in nothing; at more they are an edge."""
    x = 20 * np.tan(np.radians(half))
    corners = {
        "a": Corner(x=f"{-x:.6f} mm", y="-30 mm"), "b": Corner(x=f"{x:.6f} mm", y="-30 mm"), "c": Corner(x=f"{x:.6f} mm"),
        "d": Corner(y="20 mm"), "e": Corner(x=f"{-x:.6f} mm"),
    }  # fmt: skip
    wedge = Points(corners=corners)
    w = thinnest(own(evaluator, wedge=Extrude(name="Wedge", outline=wedge, length="30 mm")))
    assert (w.thickness < 0.01 * MM) is thin


@pytest.mark.parametrize(
    "element",
    [
        SpurGear(teeth=23, module="1.5 mm", bore="8 mm"), HingeLeaf(), LinkBar(), Pin(diameter="6 mm", length="12 mm", chamfer="1 mm"),
        FramePlate(length="70 mm", width="50 mm", thickness="12 mm", bores={"a": Bore(x="30 mm", y="9 mm", diameter="12 mm")}),
    ],
    ids=lambda x: x.kind,
)  # fmt: skip
def test_no_ray_finds_a_thinner_place(evaluator: Evaluator, element: Element) -> None:
    """4,000 rays: none is shorter; and the shortest comes near, so that what is told is there."""
    body = made(evaluator, element)
    w: Wall = thinnest(body)
    shortest = rays(body, 4000)
    assert (
        shortest >= w.thickness - w.error - 2 * body.deviation - 1e-9
    )  # the witness's triangles are off on both sides
    assert shortest <= 1.6 * w.thickness + 0.2 * MM


def hinge(bore: str) -> Document:
    d = Draft("Leaf")
    d.part("Leaf", "steel", HingeLeaf(bore=bore))
    d.require(WallThickness(name="Thick enough", of={"placed": "leaf"}, at_least="1 mm"))  # type: ignore[arg-type]
    return d.document


def test_the_requirement_holds_fails_and_says_where(evaluator: Evaluator) -> None:
    good = evaluator.evaluate(hinge("5.1 mm")).verdicts["thick_enough"]
    assert (good.holds, good.value) == (True, pytest.approx(1.95 * MM, abs=good.error + 1e-9))  # (9 - 5.1) / 2
    bad = evaluator.evaluate(hinge("7.4 mm")).verdicts["thick_enough"]
    assert (bad.holds, bad.value) == (False, pytest.approx(0.8 * MM, abs=bad.error + 1e-9))
    assert len(bad.points) == 2
    assert bad.words == "Leaf: 0.80 mm, at least 1.00 mm"


def test_too_near_to_the_limit_is_no_answer(evaluator: Evaluator) -> None:
    """Where curved faces stand as triangles, within their error of the limit nothing is told; a plane wall of just the limit holds."""
    d = Draft("x")
    d.part("Gear", "steel", SpurGear(teeth=23, module="1.5 mm", bore="8 mm"))
    d.part("Bar", "steel", LinkBar(thickness="0.8 mm"), z="40 mm")
    w = thinnest(next(iter(evaluator.solid_of(d.document, "gear")[1].bodies.values())))
    d.require(WallThickness(name="Gear", of={"placed": "gear"}, at_least=f"{w.thickness + w.error / 2!r} m"))  # type: ignore[arg-type]
    d.require(WallThickness(name="Bar", of={"placed": "bar"}, at_least="0.8 mm"))  # type: ignore[arg-type]
    told = evaluator.evaluate(d.document).verdicts
    assert told["gear"].holds is None
    assert "too close" in told["gear"].words
    assert told["bar"].holds is True
