"""Relations: what two datums are asked is found again in the solved poses, measured with scipy's rotations alone."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.context import CONTEXT
from uhrwerk import Draft, FramePlate, Pin
from uhrwerk.core.assembly import compile, mobility, solve
from uhrwerk.core.assembly.mechanism import Mechanism

PLATE = FramePlate(length="60 mm", width="40 mm", thickness="10 mm", corner="0 mm")
PIN = Pin(diameter="8 mm", length="30 mm")
STARTS = [
    {"x": "90 mm", "y": "20 mm", "z": "35 mm", "turn_x": "20 deg", "turn_y": "-35 deg", "turn_z": "60 deg"},
    {"x": "-40 mm", "y": "-30 mm", "z": "-70 mm", "turn_x": "140 deg", "turn_y": "50 deg", "turn_z": "-100 deg"},
]


def placed(element: Any, start: dict[str, str]) -> Draft:
    draft = Draft("Two parts")
    draft.part("Base", "steel", PLATE)
    draft.part("Other", "steel", element, **start)
    return draft


def world(m: Mechanism, pose: np.ndarray, part: str, datum: str) -> tuple[np.ndarray, np.ndarray]:
    """Origin and direction of a datum in the world."""
    at, d = m.part_pose(part, pose), m.datums[part][datum]
    turn = Rotation.from_quat(np.roll(at[3:], -1))
    return at[:3] + turn.apply(d.origin), turn.apply(d.z)


def solved(draft: Draft) -> tuple[Mechanism, np.ndarray]:
    m = compile(draft.document, CONTEXT)
    assert not m.problems, m.problems
    return m, solve(m)


def line_distance(o: np.ndarray, z: np.ndarray, p: np.ndarray) -> float:
    return float(np.linalg.norm(np.cross(p - o, z)))


def measured(m: Mechanism, pose: np.ndarray, a: str, b: str) -> dict[str, float]:
    (oa, za), (ob, zb) = world(m, pose, "base", a), world(m, pose, "other", b)
    return {
        "cosine": float(za @ zb), "along a": float((ob - oa) @ za), "along b": float((oa - ob) @ zb),
        "from line a": line_distance(oa, za, ob), "from line b": line_distance(ob, zb, oa), "apart": float(np.linalg.norm(ob - oa)),
    }  # fmt: skip


CASES: list[tuple[str, Any, str, str, dict[str, Any], dict[str, float], int]] = [
    # relation, element, datums, fields, what must be measured, freedoms left
    ("flush", PLATE, "top", "bottom", {}, {"cosine": -1, "along a": 0}, 3),
    ("flush", PLATE, "right", "back", {"side": "same", "offset": "-4 mm"}, {"cosine": 1, "along a": -0.004}, 3),
    ("concentric", PIN, "axis", "axis", {"side": "opposite"}, {"cosine": -1, "from line a": 0, "from line b": 0}, 2),
    ("concentric", PIN, "axis", "axis", {"side": "same"}, {"cosine": 1, "from line a": 0}, 2),
    ("parallel", PLATE, "top", "left", {"side": "same"}, {"cosine": 1}, 4),
    ("parallel", PLATE, "top", "left", {"side": "opposite"}, {"cosine": -1}, 4),
    ("perpendicular", PLATE, "top", "top", {}, {"cosine": 0}, 5),
    ("distance", PLATE, "top", "bottom", {"distance": "12 mm"}, {"cosine": -1, "along a": 0.012}, 3),
    ("distance", PLATE, "top", "top", {"distance": "-7 mm", "side": "same"}, {"cosine": 1, "along a": -0.007}, 3),
    ("distance", PIN, "top", "axis", {"distance": "9 mm"}, {"cosine": 0, "along a": 0.009}, 4),
    ("distance", PIN, "axis", "axis", {"distance": "25 mm", "side": "same"}, {"cosine": 1, "from line a": 0.025}, 3),
    ("angle", PLATE, "top", "top", {"angle": "37 deg"}, {"cosine": np.cos(np.radians(37))}, 5),
    ("angle", PLATE, "top", "left", {"angle": "179.5 deg"}, {"cosine": np.cos(np.radians(179.5))}, 5),
    ("tangent", PIN, "top", "axis", {}, {"cosine": 0, "along a": 0.004}, 4),
    ("tangent", PIN, "top", "axis", {"side": "inside"}, {"cosine": 0, "along a": -0.004}, 4),
    ("tangent", PIN, "axis", "axis", {}, {"from line a": 0.010}, 3),
    ("tangent", PIN, "axis", "axis", {"side": "inside"}, {"from line a": 0.002}, 3),
]  # fmt: skip


@pytest.mark.parametrize("start", STARTS)
@pytest.mark.parametrize("case", CASES, ids=lambda c: f"{c[0]}-{c[2]}-{c[3]}-{'-'.join(map(str, c[4].values()))}")
def test_a_relation_holds_in_the_solved_pose(case: Any, start: dict[str, str]) -> None:
    """Definitions of the relations themselves: common practice. Cylinders: base ⌀ 12 bore, pin ⌀ 8."""
    kind, element, a, b, fields, want, free = case
    draft = placed(element, start)
    if a == "axis":
        draft.set("parts.base.element.bores", {"axis": {"x": "30 mm", "y": "20 mm", "diameter": "12 mm"}})
    getattr(draft, kind)("It", {"placed": "base", "datum": a}, {"placed": "other", "datum": b}, **fields)
    m, pose = solved(draft)
    got = measured(m, pose, a, b)
    for name, value in want.items():
        assert got[name] == pytest.approx(value, abs=2e-9), name
    if kind == "tangent" and element is PIN and a == "axis":
        assert abs(got["cosine"]) == pytest.approx(1, abs=1e-12)
    assert mobility(m.document, m, pose).count == free


@pytest.mark.parametrize("angle", [-170.0, -20.0, 0.0, 95.0, 180.0])
def test_an_angle_about_an_axis_keeps_its_sign(angle: float) -> None:
    draft = placed(PLATE, {"z": "40 mm", "turn_z": "33 deg"})
    draft.parallel("Level", {"placed": "base", "datum": "top"}, {"placed": "other", "datum": "top"})
    ends = [{"placed": p, "datum": "right"} for p in ("base", "other")]
    draft.angle("Turned", *ends, angle=f"{angle} deg", about={"placed": "base", "datum": "top"})
    m, pose = solved(draft)
    (_, za), (_, zb) = world(m, pose, "base", "right"), world(m, pose, "other", "right")
    assert zb == pytest.approx(Rotation.from_euler("z", angle, degrees=True).apply(za), abs=1e-9)


@pytest.mark.parametrize("side", ["same", "opposite"])
@pytest.mark.parametrize(("element", "datum"), [(PLATE, "right"), (PIN, "axis")])
def test_symmetric_datums_are_mirror_images(element: Any, datum: str, side: str) -> None:
    """Householder reflection behind the plate's left face, x = 0."""
    draft = placed(element, {"x": "50 mm", "y": "-20 mm", "z": "15 mm", "turn_x": "30 deg", "turn_y": "20 deg"})
    draft.part(
        "Image",
        "steel",
        element,
        x="-35 mm",
        y="-10 mm",
        z="5 mm",
        turn_x="-10 deg",
        turn_y="15 deg",
        turn_z="170 deg" if datum == "right" else "0 deg",
    )
    ends = [{"placed": p, "datum": datum} for p in ("other", "image")]
    draft.symmetric("Mirrored", *ends, about={"placed": "base", "datum": "left"}, side=side)
    m, pose = solved(draft)
    (oa, za), (ob, zb) = world(m, pose, "other", datum), world(m, pose, "image", datum)
    mirror = np.diag([-1.0, 1, 1])
    assert (mirror @ za) @ zb == pytest.approx(1 if side == "same" else -1, abs=1e-12)
    if datum == "axis":
        assert line_distance(ob, zb, mirror @ oa) < 1e-9
    else:
        assert (mirror @ oa - ob) @ zb == pytest.approx(0, abs=1e-9)


MADE = [
    (["concentric", "flush"], "revolute"), (["concentric"], "cylindrical"), (["flush"], "planar"), (["concentric", "distance"], "revolute"),
    (["flush", "flush right"], "prismatic"), (["flush", "flush right", "flush back"], "rigid"),
]  # fmt: skip


@pytest.mark.parametrize(("relations", "kind"), MADE)
def test_relations_that_make_a_joint_are_recognised(relations: list[str], kind: str) -> None:
    """An axis on an axis and a face on a face turn; two square faces slide; three hold. Common practice."""
    draft = Draft("Made")
    bores = {"hole": {"x": "30 mm", "y": "20 mm", "diameter": "12 mm"}}
    base = draft.part("Base", "steel", PLATE.model_copy(update={"bores": {}}))
    draft.set("parts.base.element.bores", bores)
    other = draft.part("Other", "steel", PLATE, x="4 mm", y="3 mm", z="18 mm", turn_z="12 deg", turn_x="5 deg")
    draft.set("parts.other.element.bores", bores)
    for n, relation in enumerate(relations):
        name, _, where = relation.partition(" ")
        a, b = {"concentric": ("hole", "hole"), "distance": ("top", "bottom")}.get(
            name, ("top", "bottom") if not where else (where, where)
        )
        side = {"side": "same"} if where or name == "concentric" else {}
        getattr(draft, name)(f"R{n}", base[a], other[b], **side)
    m, pose = solved(draft)
    held = m.joints["r0"]
    assert held.kind == kind
    assert len(held.by) == len(relations)
    found = mobility(m.document, m, pose)
    assert found.count == {"revolute": 1, "cylindrical": 2, "planar": 3, "prismatic": 1, "rigid": 0}[kind]
    if kind == "revolute":
        assert "Other turns in Base" in found.freedoms[0].words


def test_a_recognised_joint_is_driven_and_limited_like_any_other() -> None:
    draft = Draft("Driven by relations")
    base = draft.part("Base", "steel", PLATE)
    draft.set("parts.base.element.bores", {"hole": {"x": "30 mm", "y": "20 mm", "diameter": "12 mm"}})
    pin = draft.part("Pin", "steel", PIN, x="25 mm", y="22 mm", z="9 mm", turn_x="3 deg")
    made = draft.concentric("Pin in base", base["hole"], pin["axis"], turn_from="0 deg", turn_to="500 deg")
    draft.flush("Pin on base", base["top"], pin["bottom"])
    draft.turn("Motor", made, "90 rpm")
    m, pose = solved(draft)
    assert m.joints[made].limits == (("turn", 0.0, pytest.approx(np.radians(500))),)
    from uhrwerk.core.motion import coordinates, cycle

    motion = cycle(m, pose, 1.0, 90)
    turned = coordinates(m, motion)[made]
    np.testing.assert_allclose(turned.value, 3 * np.pi * motion.times, atol=1e-8)
    angle = Rotation.from_quat(np.roll(m.part_pose("pin", motion.pose[30])[3:], -1)).as_rotvec()
    assert angle[2] == pytest.approx(np.pi, abs=1e-6) or angle[2] == pytest.approx(-np.pi, abs=1e-6)


@pytest.mark.parametrize(
    ("kind", "a", "b", "fields", "words"),
    [
        ("flush", "hole", "axis", {}, "flush needs two faces; these are an axis and an axis"),
        ("concentric", "top", "axis", {}, "concentric needs two axes"),
        ("angle", "top", "top", {"angle": "200 deg"}, "between 0 and 180 deg"),
        ("distance", "hole", "axis", {"distance": "0 mm"}, "use concentric"),
        ("distance", "hole", "axis", {"distance": "-3 mm"}, "cannot be negative"),
        ("tangent", "top", "bottom", {}, "tangent needs a cylinder"),
    ],
)
def test_a_relation_that_the_datums_do_not_allow_says_why(
    kind: str, a: str, b: str, fields: dict[str, str], words: str
) -> None:
    draft = placed(PIN, STARTS[0])
    draft.set("parts.base.element.bores", {"hole": {"x": "30 mm", "y": "20 mm", "diameter": "12 mm"}})
    getattr(draft, kind)("It", {"placed": "base", "datum": a}, {"placed": "other", "datum": b}, **fields)
    problems = compile(draft.document, CONTEXT).problems
    assert any(words in p.words and p.path == "relations.it" for p in problems), problems
