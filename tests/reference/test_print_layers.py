"""Layers for print: areas against trimesh's sections and closed forms, and what is found in them against bodies made to have it."""

from __future__ import annotations

import io
from math import acos, pi, sqrt, tan

import numpy as np
import pytest
import trimesh

from uhrwerk import Bore, Draft, FramePlate, HingeLeaf, LinkBar, Pin, PrintGap, SpurGear
from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.exchange import Chosen, written
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.part import part_datums
from uhrwerk.core.printing import Bed, Finding, Lying, PrintedBody, Stack, layered
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.views import PrintSetting, print_layer, print_layers
from uhrwerk.demo import mended, shipped


def mesh_of(e: Evaluation, placed: str, deviation: float) -> trimesh.Trimesh:
    """A part's solid as triangles that stray so little, mm, in its own frame."""
    recipe = part_datums.recipe(e.document, placed)[0] | {"deviation": deviation}
    bodies = e.context.kernel_pool.build(recipe).bodies.values()
    return trimesh.util.concatenate([trimesh.Trimesh(b.vertices * 1e3, b.triangles) for b in bodies])


def section_area(mesh: trimesh.Trimesh, z: float) -> float:
    """The area of a level section: half the sum of length times distance from the origin along the outward normal, over the lines in
    which trimesh cuts the triangles (the divergence theorem in the plane)."""
    lines, faces = trimesh.intersections.mesh_plane(mesh, [0, 0, 1], [0, 0, z], return_faces=True)
    outward = mesh.face_normals[faces][:, :2]
    outward /= np.linalg.norm(outward, axis=1, keepdims=True)
    length = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1)
    return float((length * (lines.mean(axis=1)[:, :2] * outward).sum(axis=1)).sum() / 2)


def alone(element: object, **start: str) -> Document:
    d = Draft("Alone")
    d.part("Thing", "steel", element, **start)
    return d.document


SOLIDS = {
    "plate": FramePlate(length="40 mm", width="30 mm", thickness="4 mm", bores={"b": Bore(x="20 mm", y="15 mm", diameter="9 mm")}),
    "pin": Pin(diameter="8 mm", length="20 mm"),
    "gear": SpurGear(module="1 mm", teeth=17, bore="5 mm", width="3 mm"),
    "link": LinkBar(),
    "leaf": HingeLeaf(),
}  # fmt: skip
#: which way each lies: leaning, so that no layer is like the next
LEANING = {"turn_x": "27 deg", "turn_y": "14 deg"}


@pytest.mark.parametrize("kind", SOLIDS)
def test_every_layer_is_as_large_as_trimesh_says(evaluator: Evaluator, kind: str) -> None:
    """Exact sections against those of triangles within a micrometre, by a library that shares no code with the kernel."""
    e = evaluator.evaluate(alone(SOLIDS[kind], **LEANING))
    setting = PrintSetting(layer="0.8 mm")
    layers = print_layers(e, setting)
    mesh = mesh_of(e, "thing", 1e-6)
    pose = e.part_poses(e.mechanism.start)["thing"]
    turn = trimesh.transformations.quaternion_matrix(pose[3:])
    mesh.apply_transform(turn)
    low = mesh.bounds[0, 2]
    for k in range(layers.count):
        layer = print_layer(e, setting, k)
        assert layer.exact, layer.reason
        areas = [
            section_area(mesh, low + layer.height + d) for d in (-2e-3, 0, 2e-3)
        ]  # the mesh's own lowest point is so far off
        assert min(areas) * 0.999 <= sum(p.area for p in layer.parts) <= max(areas) * 1.001, k


def test_a_pin_that_lies_down(evaluator: Evaluator) -> None:
    """A chord of a circle times a length: closed form at every layer."""
    e = evaluator.evaluate(alone(Pin(diameter="8 mm", length="20 mm"), turn_x="90 deg"))
    setting = PrintSetting(layer="0.5 mm")
    for k in range(print_layers(e, setting).count):
        layer = print_layer(e, setting, k)
        chord = 2 * sqrt(max(0.0, 4.0**2 - (layer.height - 4.0) ** 2))
        assert layer.parts[0].area == pytest.approx(20 * chord, rel=1e-9)


def test_by_triangles_at_once_and_then_exact(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(alone(Pin(diameter="8 mm", length="20 mm")))
    soon, exact = (print_layer(e, PrintSetting(), 3, exact) for exact in (False, True))
    assert (soon.exact, exact.exact) == (False, True)
    assert exact.parts[0].area == pytest.approx(pi * 16, rel=1e-9)
    assert 0 < pi * 16 - soon.parts[0].area < 2 * pi * 4 * soon.within


def body(mesh: trimesh.Trimesh, link: int = 1, name: str = "it") -> PrintedBody:
    """A trimesh in millimetres as a body over the bed."""
    return PrintedBody(name, name, link, np.array(mesh.vertices) / 1e3, np.array(mesh.faces))


def box(low: tuple[float, ...], high: tuple[float, ...]) -> trimesh.Trimesh:
    return trimesh.creation.box(bounds=[low, high])


def findings(*bodies: PrintedBody, layer: float = 0.2) -> list[Finding]:
    return list(layered(list(bodies), Stack(layer), 0.4, 0.4).findings)


def test_a_void_that_is_shut_in_and_one_with_a_vent() -> None:
    shell = box((0, 0, 0), (20, 20, 10))
    cavity = box((5, 5, 2), (15, 15, 7))
    hollow = trimesh.boolean.difference([shell, cavity])
    (void,) = [f for f in findings(body(hollow)) if f.kind == "void"]
    assert void.value == pytest.approx(10 * 10 * 5, rel=1e-6)
    assert (void.first, void.last) == (10, 34)
    for vent in (box((8, 8, -1), (9, 9, 3)), box((8, 8, 6), (9, 9, 11)), box((-1, 8, 3), (6, 9, 4))):
        vented = trimesh.boolean.difference([hollow, vent])
        assert not [f for f in findings(body(vented)) if f.kind == "void"]


def test_a_void_that_two_parts_shut_in_together() -> None:
    cup = trimesh.boolean.difference([box((0, 0, 0), (20, 20, 8)), box((5, 5, 2), (15, 15, 9))])
    lid = box((0, 0, 8), (20, 20, 10))
    assert not [f for f in findings(body(cup)) if f.kind == "void"]
    (void,) = [f for f in findings(body(cup), body(lid, name="lid")) if f.kind == "void"]
    assert void.value == pytest.approx(10 * 10 * 6, rel=1e-6)


@pytest.mark.parametrize(("angle", "hangs"), [(40, False), (44, False), (47, True), (60, True)])
def test_what_leans_farther_than_45_degrees_hangs(angle: float, hangs: bool) -> None:
    """A cone that stands on its tip's small end, so steep from the vertical; at 45 degrees each layer reaches one height out."""
    rise = 10.0
    cone = trimesh.creation.revolve(
        [(0, 0), (3, 0), (3 + rise * tan(np.radians(angle)), rise), (0, rise)], sections=720
    )
    hanging = [f for f in layered([body(cone)], Stack(0.2), 0.05, 0.4).findings if f.kind == "overhang"]
    assert bool(hanging) is hangs


def test_what_starts_in_the_air_says_what_lies_below_it() -> None:
    foot, flag = box((0, 0, 0), (10, 10, 2)), box((0, 0, 2.6), (4, 4, 4))
    (island,) = [f for f in findings(body(foot), body(flag, 2, "flag")) if f.kind == "island"]
    assert (island.bodies, island.first, island.empty) == ((0, 1), 13, 3)
    assert island.value == pytest.approx(16)


@pytest.mark.parametrize(("gap", "narrow"), [(0.39, True), (0.41, False), (0.0, True)])
def test_a_gap_narrower_than_a_line(gap: float, narrow: bool) -> None:
    one, other = box((0, 0, 0), (10, 10, 4)), box((10 + gap, 0, 0), (20, 10, 4))
    narrow_gaps = [f for f in findings(body(one, 1), body(other, 2, "other")) if f.kind == "narrow"]
    assert bool(narrow_gaps) is narrow
    if narrow:
        assert narrow_gaps[0].value == pytest.approx(gap, abs=1e-8)
        assert (narrow_gaps[0].first, narrow_gaps[0].last) == (0, 19)
    assert not [f for f in findings(body(one, 1), body(other, 1, "other")) if f.kind == "narrow"]  # they do not move


def test_the_bed_lies_under_the_lowest_point_whichever_way_is_down() -> None:
    points = np.random.default_rng(3).normal(size=(50, 3))
    for down in np.vstack([np.eye(3), -np.eye(3), np.random.default_rng(4).normal(size=(20, 3))]):
        bed = Bed.under([Lying(points, 0.0, lambda n: 1e9)], down)
        lowest = points[np.argmax(points @ down)]
        over = bed.place(np.concatenate([lowest, [1, 0, 0, 0]]))[:3]
        assert over[2] == pytest.approx(0, abs=1e-12)
        assert bed.height == pytest.approx(np.ptp(points @ (down / np.linalg.norm(down))))
        assert bed.world(over[None])[0] == pytest.approx(lowest)


def test_the_gap_of_the_planetary_sample_is_found_by_both_at_the_same_height(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(shipped("planetary_sample"))
    name, verdict = next((i, v) for i, v in e.verdicts.items() if v.kind == "print_gap")
    layers = print_layers(e, PrintSetting(requirement=name))
    assert (verdict.holds, layers.holds) == (False, False)
    fails = [f for f in layers.findings if f.fails]
    low = min(float(b.vertices[:, 2].min()) for b in _standing(e))
    height = (verdict.points[0][2] - low) * 1e3
    assert any(f.first * layers.height <= height <= (f.last + 1) * layers.height + 1e-9 for f in fails)
    assert {tuple(n.split("/")[0] for n in verdict.parts)} <= {tuple(f.parts) for f in fails}
    e = evaluator.evaluate(mended("planetary_sample"))
    layers = print_layers(e, PrintSetting(requirement=name))
    assert layers.holds is True
    assert not [f for f in layers.findings if f.fails]


def _standing(e: Evaluation) -> list[PrintedBody]:
    poses = e.part_poses(e.moved.motion.pose[0])
    return [
        PrintedBody(i, b.name, 0, trimesh.transform_points(b.vertices, _matrix(poses[i])), b.triangles)
        for i, s in e.solids.items()
        for b in s.bodies.values()
    ]


def _matrix(pose: np.ndarray) -> np.ndarray:
    out = trimesh.transformations.quaternion_matrix(pose[3:])
    out[:3, 3] = pose[:3]
    return np.asarray(out)


def stacked(gap: float, thickness: float, bore: float) -> Document:
    """A plate with a bore, and over it a disc with a pin in the bore, all in one piece."""
    d = Draft("Stacked")
    plate = d.part("Plate", "steel", FramePlate(length="40 mm", width="40 mm", thickness=f"{thickness} mm", bores={"b": Bore(x="20 mm", y="20 mm", diameter=f"{bore} mm")}))  # fmt: skip
    high = d.part("High", "steel", FramePlate(length="20 mm", width="20 mm", thickness="3 mm", bores={"b": Bore(x="10 mm", y="10 mm", diameter="4 mm")}), x="10 mm", y="10 mm", z=f"{3 + gap} mm")  # fmt: skip
    pin = d.part("Pin", "steel", Pin(diameter="8 mm", length="12 mm"), x="20 mm", y="20 mm", z="-10 mm")
    d.revolute("Turns", plate["b"], high["b"], offset=f"{3 + gap} mm")
    d.revolute("Pin turns", plate["b"], pin["axis"], offset="-10 mm")
    d.require(PrintGap(name="Apart", at_least="0.2 mm"))
    return d.document


@pytest.mark.parametrize("seed", range(12))
def test_the_requirement_and_the_layers_agree(evaluator: Evaluator, seed: int) -> None:
    """Random gaps beside and above: what the requirement fails for is among what is found, and nothing fails where it holds."""
    rng = np.random.default_rng(seed)
    gap, thickness, bore = rng.uniform(0.05, 0.7), rng.choice([8.0, 8.1, 8.05]), 8 + 2 * rng.uniform(0.05, 0.5)
    e = evaluator.evaluate(stacked(round(gap, 3), float(thickness), round(bore, 3)))
    verdict = e.verdicts["apart"]
    layers = print_layers(e, PrintSetting(requirement="apart"))
    assert layers.holds is verdict.holds
    assert bool([f for f in layers.findings if f.fails]) is (verdict.holds is False), verdict.words


def test_a_mechanism_leaves_as_it_lies_on_the_bed(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(shipped("planetary_sample"))
    before = trimesh.load(io.BytesIO(written("a.stl", e)[0]), file_type="stl")
    down = next(face for face, words in print_layers(e, PrintSetting()).faces if "ring" in words.lower())
    lying = trimesh.load(io.BytesIO(written("a.stl", e, Chosen(down=down))[0]), file_type="stl")
    assert lying.bounds[0, 2] == pytest.approx(0, abs=1e-4)
    assert lying.volume == pytest.approx(before.volume, rel=1e-5)
    assert lying.bounds[1, 2] == pytest.approx(print_layers(e, PrintSetting(down=down)).count * 0.2, abs=0.2)


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        ("layer", "0 mm", "greater than nothing"),
        ("layer", "0.0001 mm", "make them higher"),
        ("layer", "3 deg", "layer"),
        ("line", "none", "line"),
        ("down", "thing/nowhere", "can lie on the bed"),
        ("down", "Thing!!", "state placed part/datum"),
        ("of", "others", "no group"),
        ("requirement", "x", "no print gap"),
    ],
)
def test_a_setting_that_cannot_be_printed_names_its_field(
    evaluator: Evaluator, field: str, value: str, said: str
) -> None:
    e = evaluator.evaluate(alone(Pin(diameter="8 mm", length="20 mm")))
    with pytest.raises(ValidationFailed) as refused:
        print_layers(e, PrintSetting(**{field: value}))
    assert refused.value.faults[0][0] == field
    assert said in str(refused.value)


def test_a_drawn_circle_segment_for_the_witness_itself() -> None:
    """What trimesh says of a lying cylinder, against the area of a rectangle as wide as the chord: the witness is right."""
    mesh = trimesh.creation.cylinder(4, 20, sections=4000)
    mesh.apply_transform(trimesh.transformations.rotation_matrix(pi / 2, [1, 0, 0]))
    assert section_area(mesh, 1.7) == pytest.approx(20 * 2 * 4 * np.sin(acos(1.7 / 4)), rel=1e-5)
