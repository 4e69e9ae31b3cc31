"""Couplings and dwell makers against closed forms.

Oldham: the disc's centre runs round the circle over both axes, twice a turn. Double universal joint in Z: constant ratio where the
forks between are in one plane and both angles the same. Geneva: tan g = r sin a / (c - r cos a). Norton, Design of Machinery, 3.10
and 8; Mabie, Reinholtz, Mechanisms and Dynamics of Machinery, ch. 11: from memory.
"""

from __future__ import annotations

import numpy as np
import pytest

from tests.context import CONTEXT
from tests.spatial import drive, frame, joint, measured, still, system
from uhrwerk import At, Bore, Draft, FramePlate, NoInterference, Pin
from uhrwerk.core.document import Document, parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.grow import sprouts
from uhrwerk.core.elements import GenevaDriver, GenevaWheel, JawHub, JawStar
from uhrwerk.core.elements.couplings import jaws
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.core.motion import follow
from uhrwerk.core.motion.coordinate import interpolated
from uhrwerk.core.quantity import Scope

TURN = 2 * np.pi
TIMES = np.linspace(0, 1, 121)


def grown(document: Document, placed: str, datum: str, kind: str, joint: str, **asked: str) -> Document:
    """What grows of a kind on a datum, driven at one turn a second, asked not to overlap."""
    (first,) = (s for s in sprouts(document, At(placed=placed, datum=datum), CONTEXT) if s.kind == kind)
    (one,) = sprouts(document, At(placed=placed, datum=datum), CONTEXT, first.id, asked)
    after = accept(document, parse(one.command))
    motor = {"kind": "turning", "name": "Motor", "joint": joint, "speed": "60 rpm"}
    asked_ = NoInterference(name="Nothing overlaps").model_dump(mode="json")
    commands = [{"kind": "add_driver", "driver": motor}, {"kind": "add_requirement", "requirement": asked_}]
    return accept(after, parse({"kind": "together", "commands": commands}))


def on_a_shaft(diameter: str) -> Document:
    d = Draft("Coupling")
    plate = d.part(
        "Plate", "steel", FramePlate(bores={"bore": Bore(x="60 mm", y="50 mm", diameter=f"{diameter} + 0.1 mm")})
    )
    shaft = d.part("Shaft", "steel", Pin(diameter=diameter, length="50 mm"))
    d.revolute("Turns", plate["bore"], shaft["axis"], offset="-8 mm")
    return d.document


@pytest.mark.parametrize(
    ("one", "other", "count"),
    [("10 mm", "12 mm", "3"), ("12 mm", "10 mm", "3"), ("8 mm", "8 mm", "4"), ("10 mm", "14 mm", "2")],
)
def test_a_jaw_coupling_grows_between_two_shafts_without_overlap(
    evaluator: Evaluator, one: str, other: str, count: str
) -> None:
    document = grown(on_a_shaft(one), "shaft", "axis", "jaw_hub", "turns", next_shaft=other, jaws=count)
    e = evaluator.evaluate(document)
    assert e.problems == []
    assert e.mobility is not None
    assert e.mobility.count == 1
    assert e.verdicts["nothing_overlaps"].holds is True
    star = [f for f in e.findings if "star" in f.a + f.b and "hub" in f.a + f.b]
    assert len(star) == 2
    assert all(0 < f.distance < 2e-4 for f in star)  # seated, by its play
    assert set(document.placed) == {"plate", "shaft", "jaw_hub", "star", "jaw_hub_2", "next_shaft"}


@pytest.mark.parametrize("count", [2, 3, 4, 6])
def test_volumes_of_star_and_hub_are_those_of_ring_sectors(evaluator: Evaluator, count: int) -> None:
    star = numbers(JawStar(jaws=count), Scope())
    low, high, thick = 0.007 - 1e-4, 0.015, 0.008 - 1e-4
    area = np.pi * (low**2 - 0.003**2) + 2 * count * jaws.arm(star) / 2 * (high**2 - low**2)
    assert evaluator.kernel_pool.build(JawStar.solid(star)).volume == pytest.approx(area * thick, rel=1e-9)
    hub = numbers(JawHub(jaws=count), Scope())
    body = np.pi * (0.015**2 - 0.005**2) * 0.012
    teeth = count * (np.pi / count / 2 - 2 * 1e-4 / 0.007) / 2 * (0.015**2 - 0.007**2) * 0.008
    assert evaluator.kernel_pool.build(JawHub.solid(hub)).volume == pytest.approx(body + teeth, rel=1e-9)


@pytest.mark.parametrize(
    ("element", "field"),
    [
        (JawHub(bore="31 mm"), "bore"), (JawHub(ring="31 mm"), "ring"), (JawHub(play="2 mm"), "play"),
        (JawStar(hole="14 mm"), "hole"), (JawStar(thickness="0.1 mm"), "play"),
        (GenevaWheel(pin_diameter="50 mm"), "pin_diameter"), (GenevaWheel(lock="24 mm"), "lock"), (GenevaWheel(bore="45 mm"), "bore"),
        (GenevaDriver(bore="20 mm"), "bore"),
    ],
)  # fmt: skip
def test_sizes_that_do_not_go_together_are_told(
    element: JawHub | JawStar | GenevaWheel | GenevaDriver, field: str
) -> None:
    assert field in [where for where, _ in type(element).faults(numbers(element, Scope()))]


def test_an_oldham_coupling_turns_evenly_and_its_disc_runs_round_twice(evaluator: Evaluator) -> None:
    d = Draft("Oldham")
    plate = {"length": "40 mm", "width": "40 mm"}
    bores = {"one": Bore(x="40 mm", y="40 mm", diameter="6 mm"), "other": Bore(x="53 mm", y="40 mm", diameter="6 mm")}
    ground = d.part("Ground", "steel", FramePlate(length="100 mm", width="80 mm", bores=bores))
    own = {"axis": Bore(x="20 mm", y="20 mm", diameter="6 mm")}
    hub, disc, other = (
        d.part(n, "steel", FramePlate(**plate, bores=own), x=x, y="20 mm")
        for n, x in (("Hub", "20 mm"), ("Disc", "33 mm"), ("Other hub", "33 mm"))
    )
    turns = d.revolute("In", ground["one"], hub["axis"])
    d.revolute("Out", ground["other"], other["axis"])
    d.prismatic("Disc in hub", hub["right"], disc["right"])
    d.prismatic("Disc in other", other["back"], disc["back"])
    d.turn("Motor", turns, "60 rpm")
    e = evaluator.moved(d.document)
    assert e.problems == []
    assert e.motion is not None
    assert e.mechanism is not None
    angle = TURN * e.motion.times
    assert e.coordinates["out"].value - e.coordinates["out"].value[0] == pytest.approx(angle, abs=1e-9)
    centre = e.mechanism.part_pose("disc", e.motion.pose)
    x, y = 0.013 * np.cos(angle) ** 2, 0.013 * np.cos(angle) * np.sin(angle)
    turned = np.stack([np.cos(angle) - np.sin(angle), np.sin(angle) + np.cos(angle)], axis=1) * 0.02
    assert centre[:, 0] + turned[:, 0] == pytest.approx(0.040 + x, abs=1e-9)
    assert centre[:, 1] + turned[:, 1] == pytest.approx(0.040 + y, abs=1e-9)


@pytest.mark.parametrize("beta", [0.2, 0.5])
@pytest.mark.parametrize("phase", [0.0, np.pi / 2])
def test_a_double_universal_joint_turns_evenly_with_its_forks_in_one_plane(beta: float, phase: float) -> None:
    """Forks square to one another square the unevenness: the ratio swings between cos^2 and its inverse."""
    pose = still(4)
    z, arm = np.array([0.0, 0, 1]), np.array([1.0, 0, 0])
    middle = np.array([0.0, -np.sin(beta), np.cos(beta)])
    far = middle * 0.2
    one = joint("revolute", 0, frame((0, 0, -0.1), z, arm), 1, pose, "in")
    out = joint("revolute", 0, frame(tuple(far + 0.1 * z), z, arm), 3, pose, "out")
    first = joint("universal", 1, frame((0, 0, 0), z, arm), 2, pose, "first", own=frame((0, 0, 0), middle, arm))
    across = np.cross(middle, arm)
    fork = arm * np.cos(phase) + across * np.sin(phase)
    square = np.cross(z, arm)
    last = arm * np.cos(phase) + square * np.sin(phase)
    second = joint("universal", 2, frame(tuple(far), middle, fork), 3, pose, "second", own=frame(tuple(far), z, last))
    rows = system([one, out, first, second], 4, [drive(one, "turn", 0.0, TURN)])
    got, v, *_ = follow(rows, pose, 1.0, TIMES)
    ratio = np.linalg.norm(v[:, 3, 3:], axis=1) / TURN
    turned = measured(out, "turn", got) - TURN * TIMES
    if phase:  # a universal joint's fork on b is its frame's y: the middle shaft's forks then lie in one plane
        assert ratio == pytest.approx(np.ones(len(TIMES)), abs=1e-9)
        assert turned - np.round(turned / TURN) * TURN == pytest.approx(np.zeros(len(TIMES)), abs=1e-9)
    else:
        assert ratio.max() == pytest.approx(np.cos(beta) ** -2, rel=1e-3)
        assert ratio.min() == pytest.approx(np.cos(beta) ** 2, rel=1e-3)


@pytest.mark.parametrize("slots", [4, 5, 6, 8])
def test_a_geneva_wheel_steps_as_its_closed_form(evaluator: Evaluator, slots: int) -> None:
    d = Draft("Geneva")
    bore = Bore(x="70 mm", y="90 mm", diameter="6 mm")
    d.part("Plate", "steel", FramePlate(length="240 mm", width="180 mm", bores={"bore": bore}))
    document = grown(
        d.document, "plate", "bore", "geneva_driver", "driver_shaft_on_plate", slots=str(slots), distance="70 mm"
    )
    document = accept(document, parse({"kind": "set_value", "path": "cycle.duration", "value": f"{slots} s"}))
    e = evaluator.moved(document)
    assert e.problems == []
    t = np.linspace(0, slots, 4001)
    a = np.mod(TURN * t, TURN) - np.pi
    r = np.sin(np.pi / slots)
    inside = np.abs(a) < np.pi / 2 - np.pi / slots
    step = np.where(inside, np.arctan2(r * np.sin(a), 1 - r * np.cos(a)), np.sign(a) * np.pi / slots)
    expected = -(step + np.pi / slots + np.floor(t + 1e-12) * TURN / slots)
    found = interpolated(e.coordinates["wheel_shaft_on_plate"].whole, t)
    assert np.abs((found - found[0]) - (expected - expected[0])).max() < 5e-9
    fastest = np.abs(interpolated(e.coordinates["wheel_shaft_on_plate"].whole, t, 1)).max()
    assert fastest == pytest.approx(TURN * r / (1 - r), rel=1e-4)  # of the pin on the line of centres


def test_a_geneva_drive_at_another_distance_is_told(evaluator: Evaluator) -> None:
    d = Draft("Geneva")
    d.part(
        "Plate",
        "steel",
        FramePlate(length="240 mm", width="180 mm", bores={"bore": Bore(x="70 mm", y="90 mm", diameter="6 mm")}),
    )
    document = grown(d.document, "plate", "bore", "geneva_driver", "driver_shaft_on_plate", distance="70 mm")
    away = {"kind": "set_value", "path": "parts.plate.element.bores.bore_2.x", "value": "142 mm"}
    e = evaluator.moved(accept(document, parse(away)))
    assert any(
        "the axes of Driver and Geneva wheel are 72.000 mm apart, and mesh at 70.000 mm (the pin meets no slot)"
        in p.words
        for p in e.problems
    )
