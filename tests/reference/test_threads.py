"""Threads against their tables, and their solids against a closed form.

Diameters: ISO 724 (metric, coarse) and ISO 2904 (trapezoidal), five sizes of each, from memory. Volume: a screw of pitch P has
the same cross-section at every height, of area 2 pi / P times the integral of r over its section in a plane through the axis.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from math import pi, radians, tan

import numpy as np
import pytest
import trimesh
from scipy.integrate import quad

from uhrwerk import At, Clearance, Draft, Evaluator
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.outlines import Circle
from uhrwerk.core.steps import Edges, Extrude, Hole, Thread

#: pitch, pitch diameter, minor diameter of the basic profile, mm
METRIC = {"M3": (0.5, 2.675, 2.459), "M4": (0.7, 3.545, 3.242), "M6": (1, 5.350, 4.917), "M8": (1.25, 7.188, 6.647), "M12": (1.75, 10.863, 10.106)}  # fmt: skip
#: pitch, pitch diameter, root diameter of the screw, inner and outer diameter of the nut, mm
TRAPEZOIDAL = {
    "Tr8x1.5": (1.5, 7.25, 6.2, 6.5, 8.3), "Tr10x2": (2, 9, 7.5, 8, 10.5), "Tr12x3": (3, 10.5, 8.5, 9, 12.5),
    "Tr16x4": (4, 14, 11.5, 12, 16.5), "Tr20x4": (4, 18, 15.5, 16, 20.5),
}  # fmt: skip


def rod(size: str, diameter: float, long: float, **more: str) -> Draft:
    steps = {
        "head": Extrude(name="Head", outline=Circle(diameter=f"{2 * diameter} mm"), length="3 mm"),
        "rod": Extrude(name="Rod", plane="head.end", outline=Circle(diameter=f"{diameter} mm"), length=f"{long} mm"),
        "thread": Thread.model_validate({"name": "Thread", "face": "rod.side_1", "size": size, **more}),
    }
    draft = Draft("Rod")
    draft.own_part("Rod", "steel", steps)
    return draft


def nut(size: str, diameter: float, high: float, **more: str) -> dict:
    return {
        "body": Extrude(name="Body", outline=Circle(diameter=f"{3 * diameter} mm"), length=f"{high} mm"),
        "bore": Hole(name="Bore", plane="body.end", diameter=f"{diameter} mm"),
        "thread": Thread.model_validate({"name": "Thread", "face": "bore.hole_1", "size": size, **more}),
    }


def screwed(low: float, high: float, half: Callable[[float], float], pitch: float) -> float:
    """Cross-section of what lies within a screw's surface, mm2: a core, and a ridge of so much half width at each radius."""
    return pi * low**2 + 2 * pi / pitch * quad(lambda r: 2 * r * half(r), low, high)[0]


@pytest.mark.parametrize("size", METRIC)
def test_metric_diameters_and_the_solid(evaluator: Evaluator, size: str) -> None:
    pitch, middle, minor = METRIC[size]
    major, long = float(size[1:]), 6 * pitch
    e = evaluator.evaluate(rod(size, major, long).document)
    assert e.problems == []
    told = {name: si for name, si, _ in Thread.derived(_numbers(size))}
    np.testing.assert_allclose(
        [told["Pitch diameter"] * 1e3, told["Root of a pin's"] * 1e3], (middle, minor), atol=6e-4
    )
    root = (major - 1.25 * 3**0.5 / 2 * pitch) / 2
    d2 = major - 0.75 * 3**0.5 / 2 * pitch
    area = screwed(root, major / 2, lambda r: pitch / 4 - (r - d2 / 2) * tan(radians(30)), pitch)
    (body,) = e.solids["rod"].bodies.values()
    assert body.volume * 1e9 == pytest.approx(pi * major**2 * 3 + area * long, rel=2e-5)
    assert body.centroid[:2] * 1e3 == pytest.approx([0, 0], abs=0.02 * pitch)


@pytest.mark.parametrize("size", TRAPEZOIDAL)
def test_trapezoidal_diameters_and_both_solids(evaluator: Evaluator, size: str) -> None:
    pitch, middle, root, inner, outer = TRAPEZOIDAL[size]
    major, long = float(size[2:].split("x")[0]), 3 * pitch
    told = {name: si * 1e3 for name, si, _ in Thread.derived(_numbers(size))}
    np.testing.assert_allclose([told["Pitch diameter"], told["Root of a pin's"], told["Bore before threading"]], (middle, root, inner), atol=1e-9)  # fmt: skip

    def half(r: float) -> float:
        return pitch / 4 - (r - middle / 2) * tan(radians(15))

    pin = evaluator.evaluate(rod(size, major, long, hand="left").document)
    assert pin.problems == []
    wanted = pi * major**2 * 3 + screwed(root / 2, major / 2, half, pitch) * long
    assert pin.solids["rod"].volume * 1e9 == pytest.approx(wanted, rel=2e-5)
    draft = Draft("Nut")
    draft.own_part("Nut", "steel", nut(size, inner, long))
    made = evaluator.evaluate(draft.document)
    assert made.problems == []
    wanted = (pi * (1.5 * inner) ** 2 - screwed(inner / 2, outer / 2, half, pitch)) * long
    assert made.solids["nut"].volume * 1e9 == pytest.approx(wanted, rel=2e-5)


@pytest.mark.parametrize(
    ("hand", "pitches"),
    [
        ("left", 0.4),
        ("right", 1),
        ("left", 2.9),
        ("right", 3),
        ("left", 3.6),
        ("right", 4),
        ("left", 4.01),
        ("right", 7.3),
        ("left", 12),
    ],
)
def test_any_length_has_the_section_and_volume_of_its_pitch(evaluator: Evaluator, pitches: float, hand: str) -> None:
    """A pin and a nut of Tr20x4: volume by the closed form, and the area at any height by trimesh's section of the mesh."""
    pitch, middle, root, inner, outer = TRAPEZOIDAL["Tr20x4"]
    long = pitches * pitch

    def half(r: float) -> float:
        return pitch / 4 - (r - middle / 2) * tan(radians(15))

    draft = rod("Tr20x4", 20, long, hand=hand)
    draft.own_part("Nut", "steel", nut("Tr20x4", inner, long, hand=hand))
    e = evaluator.evaluate(draft.document)
    assert e.problems == []
    threads = {"rod": screwed(root / 2, 10, half, pitch), "nut": pi * (1.5 * inner) ** 2 - screwed(inner / 2, outer / 2, half, pitch)}  # fmt: skip
    for part, area in threads.items():
        foot = 3.0 if part == "rod" else 0.0
        (body,) = e.solids[part].bodies.values()
        assert body.volume * 1e9 == pytest.approx(area * long + foot * pi * 20**2, rel=2e-5)
        mesh = trimesh.Trimesh(body.vertices * 1e3, body.triangles, process=False)
        assert mesh.is_watertight
        for height in np.random.default_rng(7).uniform(0.02, 0.98, 5) * long + foot:
            section = mesh.section(plane_origin=(0, 0, height), plane_normal=(0, 0, 1))
            assert section.to_2D()[0].area == pytest.approx(area, rel=2e-3)  # of triangles within 0.01 mm


def test_a_hundred_turns_are_built_in_seconds(evaluator: Evaluator) -> None:
    """Volume by the closed form. 16 s alone on a slow machine (10 s are aimed at); the limit is for a machine with other work."""
    pitch, middle, root, *_ = TRAPEZOIDAL["Tr20x4"]
    began = time.monotonic()
    e = evaluator.evaluate(rod("Tr20x4", 20, 402).document)
    assert time.monotonic() - began < 90
    assert e.problems == []
    area = screwed(root / 2, 10, lambda r: pitch / 4 - (r - middle / 2) * tan(radians(15)), pitch)
    assert e.solids["rod"].volume * 1e9 == pytest.approx(pi * 20**2 * 3 + area * 402, rel=2e-5)


def test_a_printed_nut_keeps_its_gap_all_round(evaluator: Evaluator) -> None:
    """Both drawn back by 0.1 mm: 0.2 mm between flanks, square to them."""
    draft = rod("M12", 12, 12, gap="0.1 mm")
    draft.own_part("Nut", "steel", nut("M12", 10.106, 6, gap="0.1 mm"), z="5.5 mm")
    # the rod's thread begins at 3 mm: three pitches above it the nut's thread lies within
    draft.rigid(
        "Held",
        At(placed="rod", datum="origin"),
        At(placed="nut", datum="origin"),
        offset="3 mm + 3 * 1.75 mm",
    )
    draft.require(Clearance(name="Gap", a=Of(placed="rod"), b=Of(placed="nut"), at_least="0.19 mm"))
    (found,) = evaluator.evaluate(draft.document).findings
    assert found.distance * 1e3 == pytest.approx(0.2, abs=0.005)


def test_plain_keeps_the_solid_and_its_sizes(evaluator: Evaluator) -> None:
    plain = evaluator.evaluate(rod("M8", 8, 10, drawn="plain").document)
    assert plain.problems == []
    assert plain.solids["rod"].volume * 1e9 == pytest.approx(pi * 8**2 * 3 + pi * 16 * 10, rel=1e-9)


@pytest.mark.parametrize(
    ("diameter", "more", "words"),
    [
        (12, {}, "the face is 12 mm wide: the thread asks for 8 mm"),
        (8, {"gap": "0.3 mm"}, "its gap leaves no crest"),
        (8, {"length": "50 mm"}, "is only 10 mm long"),
        (8, {"face": "head.end"}, "is not round all the way"),
        (8, {"size": "", "pitch": "7 mm"}, "its pitch is too large for its diameter"),
    ],
)
def test_a_thread_that_does_not_fit_says_why(evaluator: Evaluator, diameter: float, more: dict, words: str) -> None:
    e = evaluator.evaluate(rod(more.pop("size", "M8"), diameter, 10, **more).document)
    assert any("Thread" in p.words and words in p.words for p in e.problems), e.problems


def _numbers(size: str) -> object:
    from uhrwerk.core.field import numbers
    from uhrwerk.core.quantity import Scope

    return numbers(Thread(name="Thread", size=size), Scope.of({}, {"length": "mm", "mass": "g"}))


def test_what_comes_after_a_thread(evaluator: Evaluator) -> None:
    draft = rod("M8", 8, 10, length="6 mm", start="at its end")
    draft.step("rod", Edges(name="Broken", which="of a face", a="head.start", size="0.5 mm"))
    e = evaluator.evaluate(draft.document)
    assert e.problems == []
    assert any(f.name == "rod.side_1" for b in e.solids["rod"].bodies.values() for f in b.faces)
