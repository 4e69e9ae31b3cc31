"""Hardware: the solids' own sizes against the standards' tables, and the groove, seat or hole that each makes.

Sources: ISO 4762, ISO 4032, ISO 7089, ISO 2338, DIN 471, DIN 6885-1, ISO 15, ISO 273, ISO 261, ISO 10642, ISO 4026, ISO 2341,
DIN 472, ISO 4379: five sizes of each, from memory.
"""

from __future__ import annotations

from math import cos, pi, radians

import numpy as np
import pytest

from tests.context import CONTEXT
from uhrwerk import At, Draft, Evaluator, FramePlate, NoInterference, Pin
from uhrwerk.core.document import parse
from uhrwerk.core.edit.grow import sprouts
from uhrwerk.core.elements import ELEMENTS, Bore
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.evaluation.evaluator import Evaluation
from uhrwerk.core.outlines import Circle, Rectangle
from uhrwerk.core.solids import Solid
from uhrwerk.core.steps import Extrude, Hole

#: kind -> size -> extent along x, y and z, mm
EXTENTS = {
    "cap_screw": {"M3": (5.5, 5.5, 19), "M4": (7, 7, 20), "M5": (8.5, 8.5, 21), "M8": (13, 13, 24), "M12": (18, 18, 28)},
    "hex_nut": {s: (f / cos(radians(30)), f, m) for s, f, m in (("M3", 5.5, 2.4), ("M4", 7, 3.2), ("M6", 10, 5.2), ("M10", 16, 8.4), ("M16", 24, 14.8))},
    "washer": {"M3": (7, 7, 0.5), "M4": (9, 9, 0.8), "M6": (12, 12, 1.6), "M8": (16, 16, 1.6), "M12": (24, 24, 2.5)},
    "dowel": {"2": (2, 2, 16), "3": (3, 3, 16), "5": (5, 5, 16), "8": (8, 8, 16), "12": (12, 12, 16)},
    "parallel_key": {"2x2": (20, 2, 2), "3x3": (20, 3, 3), "5x5": (20, 5, 5), "8x7": (20, 8, 7), "10x8": (20, 10, 8)},
    "countersunk_screw": {"M3": (5.54, 5.54, 16), "M4": (7.53, 7.53, 16), "M5": (9.43, 9.43, 16), "M6": (11.34, 11.34, 16), "M10": (19.22, 19.22, 16)},
    "set_screw": {"M3": (2.5, 2.5, 8), "M4": (3.3, 3.3, 8), "M5": (4.2, 4.2, 8), "M6": (5, 5, 8), "M8": (6.8, 6.8, 8)},
    "clevis_pin": {"4": (6, 6, 25), "6": (10, 10, 26), "8": (14, 14, 27), "10": (18, 18, 28), "16": (25, 25, 28.5)},
    "bush": {"6": (8, 8, 10), "8": (10, 10, 10), "12": (14, 14, 10), "20": (23, 23, 10), "30": (34, 34, 10)},
    "ball_bearing": {"608": (22, 22, 7), "6000": (26, 26, 8), "6002": (32, 32, 9), "6004": (42, 42, 12), "6201": (32, 32, 10)},
}  # fmt: skip
#: retaining ring: shaft -> groove diameter, groove width, thickness, mm
RINGS = {
    "8": (7.6, 0.9, 0.8),
    "10": (9.6, 1.1, 1.0),
    "15": (14.3, 1.1, 1.0),
    "20": (19.0, 1.3, 1.2),
    "30": (28.6, 1.6, 1.5),
}
#: retaining ring for bores -> groove diameter, groove width, thickness, mm
BORE_RINGS = {
    "10": (10.4, 1.1, 1.0),
    "16": (16.8, 1.1, 1.0),
    "22": (23.0, 1.1, 1.0),
    "28": (29.4, 1.3, 1.2),
    "42": (44.5, 1.85, 1.75),
}
#: key: width, depth in the hub, a bore it is for, mm
KEYWAYS = {"2x2": (2, 1.0, 8), "3x3": (3, 1.4, 10), "4x4": (4, 1.8, 12), "5x5": (5, 2.3, 15), "8x7": (8, 3.3, 30)}
#: countersunk screw: diameter of the recess' sharp edge, mm; cap screw: recess diameter and depth, mm
SUNK = {"M3": 6.72, "M4": 8.96, "M5": 11.2, "M6": 13.44, "M8": 17.92, "8-32": 0.359 * 25.4, "1/4-20": 0.531 * 25.4}
STEPPED = {"M3": (6.5, 3.0), "M4": (8.0, 4.0), "M5": (10.0, 5.0), "M6": (11.0, 6.0), "M8": (15.0, 8.0)}
#: key: shaft, width, depth in the shaft, mm
KEYS = {"2x2": (7, 2, 1.2), "3x3": (10, 3, 1.8), "4x4": (12, 4, 2.5), "6x6": (20, 6, 3.5), "10x8": (35, 10, 5.0)}
#: medium clearance hole and tap drill, mm
HOLES = {"M3": (3.4, 2.5), "M4": (4.5, 3.3), "M5": (5.5, 4.2), "M6": (6.6, 5.0), "M10": (11.0, 8.5)}


def solid_of(evaluator: Evaluator, kind: str, size: str) -> Solid:
    element = ELEMENTS[kind].model_validate({"size": size})
    draft = Draft("One")
    part = draft.part("Part", "steel", element)
    return evaluator.solid_of(draft.document, part)[1]


@pytest.mark.parametrize(("kind", "size"), [(k, s) for k, sizes in EXTENTS.items() for s in sizes])
def test_the_solid_has_the_sizes_of_the_standard(evaluator: Evaluator, kind: str, size: str) -> None:
    solid = solid_of(evaluator, kind, size)
    corners = np.concatenate([b.vertices for b in solid.bodies.values()]) * 1e3
    np.testing.assert_allclose(np.ptp(corners, axis=0), EXTENTS[kind][size], atol=0.03)


def test_volumes_against_closed_forms(evaluator: Evaluator) -> None:
    washer = pi / 4 * (12**2 - 6.4**2) * 1.6
    nut = (3**0.5 / 2 * 10**2 - pi / 4 * 5**2) * 5.2
    key = ((20 - 5) * 5 + pi / 4 * 5**2) * 5
    for kind, size, wanted in (("washer", "M6", washer), ("hex_nut", "M6", nut), ("parallel_key", "5x5", key)):
        assert solid_of(evaluator, kind, size).volume * 1e9 == pytest.approx(wanted, rel=1e-9)


def grown(evaluator: Evaluator, draft: Draft, placed: str, datum: str, title: str) -> Evaluation:
    found = sprouts(draft.document, At(placed=placed, datum=datum), CONTEXT)
    draft.do(parse(next(s for s in found if title in s.title).command))
    draft.require(NoInterference(name="Apart"))
    e = evaluator.evaluate(draft.document)
    assert e.problems == []
    assert e.verdicts["apart"].holds, e.verdicts["apart"].words
    return e


@pytest.mark.parametrize("size", RINGS)
def test_a_ring_and_its_groove_in_one_action(evaluator: Evaluator, size: str) -> None:
    groove, slot, thick = RINGS[size]
    draft = Draft("Shaft")
    shaft = draft.part("Shaft", "steel", Pin(diameter=f"{size} mm", length="60 mm"))
    e = grown(evaluator, draft, shaft, "axis", "A retaining ring")
    faces = {f.name: f for f in e.solids[shaft].bodies["pin"].faces}
    floor = next(f for n, f in faces.items() if n.startswith("ring_groove") and f.kind == "cylinder")
    assert 2e3 * floor.radius == pytest.approx(groove, abs=1e-6)
    assert 1e3 * floor.length == pytest.approx(slot, abs=1e-6)
    ring = np.concatenate([b.vertices for b in e.solids["ring"].bodies.values()]) * 1e3
    assert np.ptp(ring[:, 2]) == pytest.approx(thick)
    at = e.part_poses(e.pose)["ring"][2] * 1e3  # type: ignore[arg-type]
    middle = floor.origin + floor.direction * floor.length / 2
    assert middle[2] * 1e3 == pytest.approx(at + thick / 2, abs=1e-6)
    draft.set("parameters.ring_at.formula", "20 mm")  # groove and ring go together from then on
    moved = evaluator.evaluate(draft.document)
    assert moved.verdicts["apart"].holds
    assert moved.part_poses(moved.pose)["ring"][2] == pytest.approx(20e-3)  # type: ignore[arg-type]


@pytest.mark.parametrize("size", KEYS)
def test_a_key_and_its_seat_in_one_action(evaluator: Evaluator, size: str) -> None:
    shaft, wide, deep = KEYS[size]
    draft = Draft("Shaft")
    placed = draft.part("Shaft", "steel", Pin(diameter=f"{shaft} mm", length="90 mm"))
    e = grown(evaluator, draft, placed, "axis", f"A key {size}")
    faces = {f.name: f for f in e.solids[placed].bodies["pin"].faces}
    assert faces["key_seat.end"].origin[0] * 1e3 == pytest.approx(shaft / 2 - deep, abs=1e-6)
    assert 2e3 * faces["key_seat.side_2"].radius == pytest.approx(wide, abs=1e-6)
    high = e.part_poses(e.pose)["key"][0] * 1e3  # type: ignore[arg-type]
    assert high == pytest.approx(shaft / 2 - deep, abs=1e-6)
    for length in ("30 mm", "2 * key_at - 40 mm"):
        draft.set("parameters.key_length.formula", length)
        assert evaluator.evaluate(draft.document).verdicts["apart"].holds


@pytest.mark.parametrize("size", HOLES)
def test_a_screw_goes_through_its_hole_and_fills_what_is_tapped_for_it(evaluator: Evaluator, size: str) -> None:
    clear, tap = HOLES[size]
    draft = Draft("Plates")
    plate = {
        "plate": Extrude(name="Plate", outline=Rectangle(length="60 mm", width="60 mm"), length="10 mm"),
        "hole": Hole(name="Hole", plane="plate.end", screw=size),
    }
    upper = draft.own_part("Upper", "steel", plate)
    tapped = {**plate, "hole": Hole(name="Hole", plane="plate.end", screw=size, form="tapped")}
    draft.own_part("Lower", "steel", tapped, z="-10 mm")
    draft.rigid("Stacked", At(placed=upper, datum="plate.start"), At(placed="lower", datum="plate.end"), flip=True)
    e = grown(evaluator, draft, upper, "hole.hole_1", f"A cap screw {size}")
    found = [
        next(f.radius for f in e.solids[p].bodies["part"].faces if f.name == "hole.hole_1") for p in (upper, "lower")
    ]
    np.testing.assert_allclose(np.array(found) * 2e3, (clear, tap), atol=1e-9)


def test_a_bearing_and_a_dowel_in_their_bores(evaluator: Evaluator) -> None:
    draft = Draft("Plate")
    plate = draft.part("Plate", "steel", FramePlate(thickness="10 mm", bores={
        "seat": Bore(x="40 mm", y="40 mm", diameter="28 mm"), "pin": Bore(x="80 mm", y="40 mm", diameter="5 mm")}))  # fmt: skip
    grown(evaluator, draft, plate, "seat", "A ball bearing 6001 held in it")
    grown(evaluator, draft, plate, "pin", "A dowel 5 held in it")


@pytest.mark.parametrize("size", BORE_RINGS)
def test_a_ring_in_a_bore_and_its_groove_in_one_action(evaluator: Evaluator, size: str) -> None:
    """In a bore that is not in the part's middle."""
    groove, slot, thick = BORE_RINGS[size]
    draft = Draft("Plate")
    bores = {"seat": Bore(x="61 mm", y="47 mm", diameter=f"{size} mm")}
    plate = draft.part("Plate", "steel", FramePlate(thickness="14 mm", bores=bores))
    e = grown(evaluator, draft, plate, "seat", "A retaining ring")
    faces = {f.name: f for f in e.solids[plate].bodies["plate"].faces}
    floor = next(f for n, f in faces.items() if n.startswith("ring_groove") and f.kind == "cylinder")
    assert 2e3 * floor.radius == pytest.approx(groove, abs=1e-6)
    assert 1e3 * floor.length == pytest.approx(slot, abs=1e-6)
    np.testing.assert_allclose(floor.origin[:2] * 1e3, (61, 47), atol=1e-6)
    ring = np.concatenate([b.vertices for b in e.solids["ring"].bodies.values()]) * 1e3
    assert np.ptp(ring[:, 2]) == pytest.approx(thick)
    at = e.part_poses(e.pose)["ring"][2] * 1e3  # type: ignore[arg-type]
    middle = floor.origin + floor.direction * floor.length / 2
    assert middle[2] * 1e3 == pytest.approx(at + thick / 2, abs=1e-6)


@pytest.mark.parametrize("size", KEYWAYS)
def test_a_keyway_through_a_hub(evaluator: Evaluator, size: str) -> None:
    wide, deep, bore = KEYWAYS[size]
    draft = Draft("Hub")
    hub = {
        "hub": Extrude(name="Hub", outline=Circle(diameter="60 mm"), length="20 mm"),
        "bore": Hole(name="Bore", plane="hub.end", diameter=f"{bore} mm"),
    }
    placed = draft.own_part("Hub", "steel", hub)
    e = grown(evaluator, draft, placed, "bore.hole_1", f"A keyway for {size}")
    (body,) = e.solids[placed].bodies.values()
    faces = {f.name: f for f in body.faces if f.name.startswith("keyway") and f.kind == "plane"}
    reach = max(f.origin[0] for f in faces.values()) * 1e3
    assert reach == pytest.approx(bore / 2 + deep, abs=1e-6)  # DIN 6885: hub depth from the bore's wall
    sides = sorted(f.origin[1] * 1e3 for f in faces.values() if abs(f.direction[1]) > 0.9)
    np.testing.assert_allclose(sides, (-wide / 2, wide / 2), atol=1e-6)


@pytest.mark.parametrize("face", ["plate.end", "plate.start", "plate.side_2"])
@pytest.mark.parametrize(("kind", "sizes"), [("A countersunk screw", SUNK), ("A cap screw", STEPPED)])
def test_a_screw_with_its_hole_in_a_face(evaluator: Evaluator, kind: str, sizes: dict, face: str) -> None:
    """Into any face: its head lies in the recess that is made for it."""
    for size, wanted in sizes.items():
        draft = Draft("Block")
        block = draft.own_part(
            "Block",
            "steel",
            {
                "plate": Extrude(
                    name="Plate", outline=Rectangle(length="50 mm", width="40 mm", x="13 mm"), length="30 mm"
                )
            },
        )
        asked = {"size": size, "length": "12 mm"}
        found = next(
            s for s in sprouts(draft.document, At(placed=block, datum=face), CONTEXT, values=asked) if kind in s.title
        )
        draft.do(parse(found.command))
        draft.require(NoInterference(name="Apart"))
        e = evaluator.evaluate(draft.document)
        assert e.problems == []
        assert e.verdicts["apart"].holds, (size, e.verdicts["apart"].words)
        faces = {f.name: f for f in e.solids[block].bodies["part"].faces}
        at = e.part_poses(e.pose)["screw"]  # type: ignore[arg-type]
        out = faces[face].direction
        np.testing.assert_allclose(poses.rotate(at[3:], np.array([0.0, 0, 1])), out, atol=1e-12)
        height = (at[:3] - faces[face].origin) @ out * 1e3
        if kind == "A cap screw":
            wide, deep = wanted
            assert 2e3 * faces["screw_hole.recess_1"].radius == pytest.approx(wide, abs=1e-6)
            assert height == pytest.approx(-deep, abs=1e-6)
        else:
            sink = e.solids[block].bodies["part"]
            corners = sink.vertices[sink.triangles[sink.face_of == list(faces).index("screw_hole.sink_1")]].reshape(
                -1, 3
            )
            off = corners - at[:3]
            radius = np.linalg.norm(off - np.outer(off @ out, out), axis=1).max()
            assert 2e3 * radius == pytest.approx(wanted, abs=1e-3)
            assert height == pytest.approx(0, abs=1e-6)


def test_a_bush_a_clevis_pin_and_a_set_screw_in_their_bores(evaluator: Evaluator) -> None:
    draft = Draft("Plate")
    plate = draft.part("Plate", "steel", FramePlate(thickness="10 mm", bores={
        "bush": Bore(x="30 mm", y="40 mm", diameter="12 mm"), "pin": Bore(x="60 mm", y="40 mm", diameter="8.1 mm"),
        "tapped": Bore(x="90 mm", y="40 mm", diameter="4.2 mm")}))  # fmt: skip
    grown(evaluator, draft, plate, "bush", "A plain bush 10 held in it")
    grown(evaluator, draft, plate, "pin", "A clevis pin 8 that turns in it")
    grown(evaluator, draft, plate, "tapped", "A set screw M5 in it")
