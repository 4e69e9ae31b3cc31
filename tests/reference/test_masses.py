"""Mass properties of any parts in any frame over the cycle: against trimesh on the same solids, and closed forms."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tests.reference.test_balance import STEEL, weights
from uhrwerk import Draft, LinkBar, Pin
from uhrwerk.core.balance import selection
from uhrwerk.core.balance.rotor import rotors
from uhrwerk.core.document import Document, ValidationFailed
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.evaluation.values import where
from uhrwerk.core.remedies import numbers_of
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.views import masses
from uhrwerk.demo.folder import folder


def as_meshes(e: Evaluation, parts: list[str], k: int) -> trimesh.Trimesh:
    """Triangles of parts where they are at a frame, as one; all of one density."""
    assert e.mechanism is not None
    assert e.motion is not None
    out = []
    for p in parts:
        pose = e.mechanism.part_pose(p, e.motion.pose[k])
        turn = trimesh.transformations.quaternion_matrix(pose[3:])
        turn[:3, 3] = pose[:3]
        for b in e.solids[p].bodies.values():
            out.append(trimesh.Trimesh(b.vertices, b.triangles).apply_transform(turn))
    return trimesh.util.concatenate(out)


def test_moving_parts_against_triangles_at_several_moments(evaluator: Evaluator) -> None:
    """Cam and bell crank of the folder, made of one material for it: trimesh's integrals over the triangles, which lie within a
    hundredth of a millimetre."""
    d = Draft("x", folder())
    parts = ["cam", "bell_crank"]
    for p in parts:
        d.set(f"parts.{d.document.placed[p].part}.material", "steel")
    e = evaluator.evaluate(d.document)
    found = selection(e, parts)
    assert np.ptp(found.centre, axis=0).max() > 1e-3  # it does move
    for k in (0, 57, 200):
        mesh = as_meshes(e, parts, k)
        mesh.density = STEEL
        x = found.at(k)
        assert x.mass == pytest.approx(mesh.mass, rel=3e-3)
        np.testing.assert_allclose(x.centre, mesh.center_mass, atol=5e-5)
        np.testing.assert_allclose(x.inertia, mesh.moment_inertia, atol=3e-3 * np.abs(x.inertia).max())
        np.testing.assert_allclose(x.axes.T @ x.inertia @ x.axes, np.diag(x.principal), atol=1e-12)
        assert np.linalg.det(x.axes) == pytest.approx(1)
    at_start = e.masses["whole"]
    every = selection(e, list(e.document.placed)).at(0)
    np.testing.assert_allclose(every.centre, at_start.centre, atol=1e-12)
    np.testing.assert_allclose(every.inertia, at_start.inertia, rtol=1e-9, atol=1e-15)


def test_in_a_frame_that_turns_with_them_nothing_moves(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(weights(("30 deg", "20 mm", "24 mm")))
    world = selection(e, ["weight_0"])
    own = world.in_frame(where(e, "shaft.axis").pose)
    assert np.ptp(world.centre, axis=0).max() > 5e-3
    assert np.ptp(own.centre, axis=0).max() < 1e-9
    assert np.ptp(own.inertia, axis=0).max() < 1e-12 * 1e3
    r = next(iter(rotors(e).values()))
    assert np.hypot(*own.centre[0, :2]) * world.mass == pytest.approx(float(np.hypot(*r.first)), rel=1e-9)
    moment = np.trace(own.inertia[7])
    assert moment == pytest.approx(np.trace(world.inertia[7]), rel=1e-12)  # a trace is the same in every frame


def test_two_pins_by_hand_seen_from_one_of_them(evaluator: Evaluator) -> None:
    """Steinmetz for cylinders: m (3 r^2 + h^2) / 12 across, m r^2 / 2 along; the second stands 60 mm away."""
    d = Draft("Two pins")
    d.part("One", "steel", Pin(diameter="10 mm", length="20 mm"), x="5 mm")
    d.part("Two", "steel", Pin(diameter="10 mm", length="20 mm"), x="65 mm")
    e = evaluator.evaluate(d.document)
    x = selection(e, ["one", "two"]).in_frame(where(e, "one").pose).at(0)
    m = STEEL * np.pi * 0.005**2 * 0.02
    np.testing.assert_allclose(x.centre, [0.03, 0, 0.01], atol=1e-12)
    across = 2 * m * (3 * 0.005**2 + 0.02**2) / 12
    np.testing.assert_allclose(
        x.principal, [across, m * 0.005**2 + 2 * m * 0.03**2, across + 2 * m * 0.03**2], rtol=1e-9
    )
    told = dict(masses(e, ["one", "two"], "one")["rows"])
    assert (told["Centre x"], told["Mass"]) == ("30.00 mm", "24.7 g")


def bought(centre: str = "4 mm", mirrored: bool = False) -> Document:
    d = Draft("x", weights(("0 deg", "20 mm", "24 mm")))
    d.set("parts.weight_0.centre_x", centre)
    d.set("placed.weight_0.mirrored", mirrored)
    return d.document


@pytest.mark.parametrize("mirrored", [False, True])
def test_a_centre_that_was_found_counts_everywhere(evaluator: Evaluator, mirrored: bool) -> None:
    """In masses, unbalance, and the force on the frame alike: mass times 4 mm; also of a mirrored one."""
    e = evaluator.evaluate(bought(mirrored=mirrored))
    mass = STEEL * e.solids["weight_0"].volume
    r = next(iter(rotors(e).values()))
    assert np.hypot(*r.first) == pytest.approx(mass * 4e-3, rel=1e-9)
    assert e.verdicts["calm"].value == pytest.approx(mass * 4e-3 * (900 * 2 * np.pi / 60) ** 2, rel=1e-7)
    own = selection(e, ["weight_0"]).in_frame(where(e, "weight_0").pose).at(0)
    assert own.centre[0] == pytest.approx(-4e-3 if mirrored else 4e-3, abs=1e-12)
    assert not [n for n in numbers_of(e.document) if "centre_" in n.path]  # no remedy turns what was found


def test_what_cannot_be_weighed_is_refused_by_name(evaluator: Evaluator) -> None:
    d = Draft("x")
    d.part("Bar", "steel", LinkBar())
    e = evaluator.evaluate(d.document)
    for parts, frame, words in [
        ([], "", "at least one"),
        (["x"], "", "no placed part 'x'"),
        (["bar"], "bar.top_of", "no datum"),
    ]:
        with pytest.raises(ValidationFailed, match=words):
            masses(e, parts, frame)
