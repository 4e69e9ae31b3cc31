"""One made-up kind of each that `docs/where.md` lists: a short file with one registering line, and what it then does."""

from __future__ import annotations

import re
from collections.abc import Iterator
from importlib.resources import files
from types import ModuleType
from typing import Any

import numpy as np
import pytest

from tests.conftest import ROOT
from tests.kinds import (
    arrowhead,
    collet,
    cubic,
    drag,
    elevation,
    glide,
    highest,
    lobes,
    names,
    notch,
    spacer,
    swaying,
    turnstile,
    upright,
)
from uhrwerk import At, Draft, PlateCam, SlideSegment, drivers, steps
from uhrwerk.core.curves import CURVES
from uhrwerk.core.curves.acting import EffortCurve
from uhrwerk.core.curves.curve_of import MeasuredCurve
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.document import command
from uhrwerk.core.document.driver import DRIVERS
from uhrwerk.core.document.requirement import REQUIREMENTS
from uhrwerk.core.elements import ELEMENTS, Pin
from uhrwerk.core.elements.cams.shape import SHAPES
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.exchange import FORMATS
from uhrwerk.core.joints import JOINTS, PAIRS, RELATIONS
from uhrwerk.core.laws import LAWS
from uhrwerk.core.outlines import OUTLINES
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.steps import STEPS

#: a file of each kind, the registry that it goes to, and its name there
KINDS: dict[ModuleType, tuple[Any, str]] = {
    collet: (ELEMENTS, "collet"),
    turnstile: (JOINTS, "turnstile"),
    upright: (RELATIONS, "upright"),
    glide: (PAIRS, "glide"),
    drag: (PAIRS, "drag"),
    cubic: (LAWS, "cubic"),
    swaying: (DRIVERS, "swaying"),
    lobes: (SHAPES, "lobes"),
    elevation: (CURVES, "elevation"),
    highest: (REQUIREMENTS, "highest"),
    notch: (STEPS, "notch"),
    arrowhead: (OUTLINES, "arrowhead"),
    spacer: (ELEMENTS, "spacer"),
    names: (FORMATS, ".names"),
}


@pytest.fixture
def every_kind() -> Iterator[None]:
    for kind in KINDS:
        kind.register()
    yield
    for registry, name in KINDS.values():
        registry.drop(name)


def test_where_lists_as_many_kinds_and_links_each_example() -> None:
    text = (ROOT / "docs/where.md").read_text(encoding="utf-8")
    rows = re.findall(r"^\| an? [^|]+\||^\| hardware \|", text, re.MULTILINE)
    assert len(rows) == len(KINDS) == 14
    assert set(re.findall(r"tests/kinds/(\w+)\.py\) \|$", text, re.MULTILINE)) == {
        kind.__name__.rpartition(".")[2] for kind in KINDS
    }


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.__name__.rpartition(".")[2])
def test_each_is_one_short_file_with_one_registering_line(kind: ModuleType) -> None:
    text = files("tests.kinds").joinpath(f"{kind.__name__.rpartition('.')[2]}.py").read_text(encoding="utf-8")
    assert len(text.splitlines()) < 60
    assert len(text.split("def register() -> None:\n")[1].strip().splitlines()) == 1


def two_pins() -> tuple[Draft, str, str]:
    draft = Draft("Two pins")
    one = draft.part("Post", "steel", Pin(diameter="8 mm", length="30 mm"))
    other = draft.part("Bar", "steel", Pin(diameter="6 mm", length="40 mm"), x="50 mm")
    return draft, one, other


@pytest.mark.usefixtures("every_kind")
def test_a_relation_holds_its_parts(evaluator: Evaluator) -> None:
    draft, one, other = two_pins()
    held = upright.Upright(name="U", a=At(placed=one, datum="axis"), b=At(placed=other, datum="axis"), height="7 mm")
    draft.do(command.AddRelation(relation=held))
    result = evaluator.moved(draft.document)
    assert result.pose is not None
    a, b = (result.mechanism.part_pose(p, result.pose) for p in (one, other))
    z = [_z(x) for x in (a, b)]
    assert abs(z[0] @ z[1]) < 1e-9
    assert (b[:3] - a[:3]) @ z[0] == pytest.approx(0.007, abs=1e-9)


def _z(pose: np.ndarray) -> np.ndarray:
    w, x, y, z = pose[3:]
    return np.array([2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y)])


@pytest.mark.usefixtures("every_kind")
def test_a_pair_carries_its_parts(evaluator: Evaluator) -> None:
    draft, one, other = two_pins()
    draft.do(command.AddPair(pair=glide.Glide(name="G", a=At(placed=one, datum="top"), b=At(placed=other, datum="axis"), height="3 mm")))  # fmt: skip
    result = evaluator.moved(draft.document)
    assert not result.problems
    assert result.pose is not None
    a, b = (result.mechanism.part_pose(p, result.pose) for p in (one, other))
    assert (b[:3] - a[:3]) @ _z(a) == pytest.approx(0.033, abs=1e-9)


def sliding_pin() -> tuple[Draft, str, str]:
    draft, one, other = two_pins()
    joint = draft.prismatic("Slide", At(placed=one, datum="axis"), At(placed=other, datum="axis"))
    segments = {"out": SlideSegment(to="60 mm", over="180 deg", law=cubic.Cubic()), "back": SlideSegment(to="0 mm", over="180 deg", law=cubic.Cubic())}  # fmt: skip
    draft.drive(drivers.SlideProgramme(name="Motor", joint=joint, segments=segments))
    return draft, one, other


@pytest.mark.usefixtures("every_kind")
def test_a_law_moves_a_load_brakes_and_a_curve_follows(evaluator: Evaluator) -> None:
    draft, one, other = sliding_pin()
    draft.do(command.AddCurve(curve=elevation.Elevation(name="E", at=At(placed=other, datum="top"))))
    draft.do(command.AddCurve(curve=EffortCurve(name="F", driver="motor")))
    free = evaluator.evaluate(draft.document)
    draft.do(command.AddPair(pair=drag.Drag(name="Air", a=At(placed=one, datum="axis"), b=At(placed=other, datum="axis"))))  # fmt: skip
    result = evaluator.evaluate(draft.document)
    assert not result.problems
    (slide,) = result.coordinates.values()
    t = result.moved.motion.times
    x = np.where(t < 0.5, t, 1 - t) / 0.5
    np.testing.assert_allclose(slide.value - slide.value[0], 0.06 * (3 * x**2 - 2 * x**3), atol=1e-9)
    braked, unbraked = (curve(e, "f") for e in (result, free))
    area = np.pi * 0.1**2 / 4
    speed = 0.06 / 0.5 * (6 * x - 6 * x**2)  # of the cubic
    np.testing.assert_allclose(np.abs(braked - unbraked), 0.6 * area * speed**2, atol=1e-9)
    top = result.part_poses(result.moved.motion.pose)[other]
    up = top[:, :3] + 0.04 * np.stack([_z(p) for p in top])
    np.testing.assert_allclose(curve(result, "e"), np.arctan2(up[:, 1], up[:, 0]), atol=1e-9)


def curve(e: Evaluation, name: str) -> np.ndarray:
    measured = evaluated_curve(e, name)
    assert isinstance(measured, MeasuredCurve)
    return np.asarray(measured.series["value"])


@pytest.mark.usefixtures("every_kind")
def test_a_cam_has_its_outline_and_a_part_its_step(evaluator: Evaluator) -> None:
    draft = Draft("Solids")
    draft.part("Cam", "steel", PlateCam(base_diameter="40 mm", bore="0 mm", width="10 mm", outline=lobes.Lobes()))
    made = {
        "head": steps.Extrude(name="Head", outline=arrowhead.Arrowhead(), length="5 mm"),
        "notch": notch.Notch(name="Notch", plane="head.end", x="4 mm", width="2 mm"),
    }
    draft.own_part("Arrow", "steel", made, x="90 mm")
    draft.part("Tube", "steel", spacer.Spacer(size="M6", length="12 mm"), x="150 mm")
    result = evaluator.evaluate(draft.document)
    assert not result.problems
    volumes = {p: s.volume for p, s in result.solids.items()}
    # area of r = b + h (1 - cos 2a) / 2 over a turn: pi ((b + h/2)^2 + h^2 / 8)
    assert volumes["cam"] == pytest.approx(np.pi * (0.0215**2 + 0.003**2 / 8) * 0.01, rel=1e-4)
    assert volumes["arrow"] == pytest.approx((0.012 * 0.008 / 2 - 0.002**2) * 0.005, rel=1e-9)
    assert volumes["tube"] == pytest.approx(np.pi * (0.006**2 - 0.0033**2) * 0.012, rel=1e-9)
