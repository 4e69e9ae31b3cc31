"""Couplings out of line: kinematics against closed forms, and the solids themselves at every angle, by another library.

Constant velocity: both shafts turn by the same angle about their own axes. Universal joint: tan b = tan a / cos(beta). Norton,
Design of Machinery (from memory). Whether solids meet is asked of fcl on their triangles, with poses placed by scipy.
"""

from __future__ import annotations

import fcl
import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.reference.test_couplings import grown, on_a_shaft
from tests.spatial import drive, frame, joint, measured, still, system
from uhrwerk import Bore, Draft, FramePlate, NoInterference, Pin
from uhrwerk.core.document import Document
from uhrwerk.core.elements import BellowsHalf, Cross, JawHub, JawStar, OldhamDisc, OldhamHub, Sleeve, Yoke
from uhrwerk.core.elements.element import Element
from uhrwerk.core.equations.rows import Row, Rows
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.evaluation.values import values
from uhrwerk.core.field import numbers
from uhrwerk.core.joints.coupling_pair import CouplingPair
from uhrwerk.core.motion import follow
from uhrwerk.core.quantity import Scope
from uhrwerk.core.requirements.misalignment import Misalignment

TURN = 2 * np.pi
TIMES = np.linspace(0, 1, 121)
OVER = Rotation.from_euler("x", 180, degrees=True)


def sizes(element: Element):  # type: ignore[no-untyped-def]
    return numbers(element, Scope.of({}, {"length": "mm"}))


class Placed:
    """A solid's triangles, to be placed and asked whether they meet another's."""

    def __init__(self, evaluator: Evaluator, element: Element) -> None:
        (body,) = evaluator.kernel_pool.build(type(element).solid(sizes(element))).bodies.values()
        mesh = fcl.BVHModel()
        mesh.beginModel(len(body.triangles), len(body.vertices))
        mesh.addSubModel(np.asarray(body.vertices, float), np.asarray(body.triangles))
        mesh.endModel()
        self.object = fcl.CollisionObject(mesh)

    def at(self, turn: Rotation, place: np.ndarray) -> Placed:
        self.object.setTransform(fcl.Transform(turn.as_matrix(), place))
        return self

    def meets(self, other: Placed) -> bool:
        return fcl.collide(self.object, other.object, fcl.CollisionRequest(), fcl.CollisionResult()) > 0


def jaws_meet(evaluator: Evaluator, bores: tuple[str, str], count: int, used: np.ndarray, side: float) -> bool:
    """Whether hubs and star meet anywhere in a turn, the shafts out of line by parts of what the coupling takes."""
    hub = JawHub(bore=bores[0], jaws=count, play="0.2 mm")
    other = hub.model_copy(update={"bore": bores[1]})
    n = sizes(hub)
    takes = JawHub.takes(n)
    offset, lean, shift = used * (takes.offset, takes.angle, takes.shift)
    a, star, b = (Placed(evaluator, x) for x in (hub, JawStar(jaws=count, play="0.2 mm"), other))
    tilt = Rotation.from_rotvec(lean * np.array([np.cos(side + 1), np.sin(side + 1), 0]))
    middle = np.array([offset * np.cos(side), offset * np.sin(side), JawHub.apart(n) / 2 + shift])
    for angle in np.linspace(0, TURN, 144, endpoint=False):
        spin = Rotation.from_euler("z", angle)
        a.at(spin, np.zeros(3))
        star.at(spin * Rotation.from_euler("z", np.pi / count / 2), np.array([0, 0, n.body + n.play]))
        turn = tilt * spin * Rotation.from_euler("z", np.pi / count) * OVER
        b.at(turn, middle - turn.apply([0, 0, JawHub.apart(n) / 2]))
        if a.meets(b) or star.meets(b) or star.meets(a):
            return True
    return False


@pytest.mark.parametrize(("bores", "count"), [(("10 mm", "12 mm"), 3), (("12 mm", "10 mm"), 3), (("8 mm", "8 mm"), 4)])
def test_a_jaw_coupling_runs_free_at_every_angle_within_what_it_takes(
    evaluator: Evaluator, bores: tuple[str, str], count: int
) -> None:
    random = np.random.default_rng(4)
    for part in np.vstack([np.eye(3), random.dirichlet(np.ones(3), size=3)]):
        assert not jaws_meet(evaluator, bores, count, 0.98 * part, random.uniform(0, TURN)), part
    for far in (np.array([2.2, 0, 0]), np.array([0, 3.0, 0]), np.array([0, 0, -1.2])):
        assert jaws_meet(evaluator, bores, count, far, 0.3), far


def test_yokes_run_free_up_to_the_angle_they_take(evaluator: Evaluator) -> None:
    """Poses by the closed form of a universal joint."""
    yoke = Yoke()
    n = sizes(yoke)
    most = Yoke.takes(n).angle
    a, b = Placed(evaluator, yoke), Placed(evaluator, yoke)
    for beta, meets in ((0.97 * most, False), (1.25 * most, True)):
        hits = False
        tilt = Rotation.from_euler("x", beta)
        for angle in np.linspace(0, TURN, 180, endpoint=False):
            one = Rotation.from_euler("z", angle)
            arm = one.apply([1.0, 0, 0])
            axis = tilt.apply([0, 0, 1.0])
            other = np.cross(axis, arm)  # the second arm is square to the first and to its own shaft
            other /= np.linalg.norm(other)
            turn = Rotation.from_matrix(np.stack([other, np.cross(-axis, other), -axis], axis=1))
            a.at(one, np.array([0, 0, -n.reach]))
            b.at(turn, -turn.apply([0, 0, n.reach]))
            hits = hits or a.meets(b)
        assert hits is meets, beta


def test_a_coupling_at_an_angle_turns_both_shafts_equally() -> None:
    """And both differ from a universal joint's, whose speed rises and falls."""
    beta, pose = 0.4, still(3)
    z, lean = np.array([0.0, 0, 1]), np.array([0.0, -np.sin(beta), np.cos(beta)])
    one = joint("revolute", 0, frame((0, 0, 0), z, (1, 0, 0)), 1, pose, "in")
    out = joint("revolute", 0, frame((0.003, 0.01, 0.1), lean, (1, 0, 0)), 2, pose, "out")
    across = np.cross(lean, [1.0, 0, 0])
    row = Row(
        "twist", 1, 2, (np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), np.array([1.0, 0, 0]), across), "x", sizes=(1.0,)
    )
    rows = Rows([*system([one, out], 3).rows, row, drive(one, "turn", 0.0, TURN)], 3, 1.0)
    got, v, a, *_ = follow(rows, pose, 1.0, TIMES)
    assert np.linalg.norm(v[:, 2, 3:], axis=1) == pytest.approx(np.full(len(TIMES), TURN), rel=1e-12)
    assert np.abs(a[:, 2, 3:]).max() < 1e-8
    turned = measured(out, "turn", got) - TURN * TIMES
    assert np.abs(turned - np.round(turned / TURN) * TURN).max() < 1e-9


def bridged(
    half: Element, offset: str, apart: float, deep: float, *between: tuple[str, Element], second: Element | None = None
) -> Document:
    """Two shafts in two plates of one frame, the upper `offset` beside; halves on their ends so far apart, each `deep` on its
    shaft, m."""
    d = Draft("Two shafts")
    low = {"bore": Bore(x="60 mm", y="50 mm", diameter="10.1 mm")}
    high = {"bore": Bore(x=f"60 mm + {offset}", y="50 mm", diameter="10.1 mm")}
    up = 64 + 1e3 * (apart - 2 * deep)
    plate = d.part("Plate", "steel", FramePlate(thickness="8 mm", bores=low))
    upper = d.part("Upper", "steel", FramePlate(thickness="8 mm", bores=high), z=f"{up!r} mm")
    d.rigid("Bridge", plate["top"], upper["bottom"], offset=f"{up - 8!r} mm", flip=True)
    shaft = d.part("Shaft", "steel", Pin(diameter="10 mm", length="40 mm"), x="60 mm", y="50 mm")
    other = d.part("Other", "steel", Pin(diameter="10 mm", length="40 mm"), x="60 mm", y="50 mm", z=f"{up - 32!r} mm")
    turns = d.revolute("In", plate["bore"], shaft["axis"], offset="-8 mm")
    d.revolute("Out", upper["bore"], other["axis"], offset="-32 mm")
    a = d.part("First half", "steel", half, x="60 mm", y="50 mm", z="30 mm")
    b = d.part("Second half", "steel", second or half, x="60 mm", y="50 mm", z="50 mm", turn_x="180 deg")
    d.rigid("Keyed", shaft["axis"], a["axis"], offset=f"{40 - 1e3 * deep!r} mm")
    d.rigid("Keyed too", other["axis"], b["axis"], offset=f"{1e3 * deep!r} mm", flip=True)
    for name, element in between:
        disc = d.part(name, "brass", element, x="60 mm", y="50 mm", z="44 mm")
        d.prismatic("Slides below", a["groove"], disc["lower"])
        d.prismatic("Slides above", disc["upper"], b["groove"])
    d.turn("Motor", turns, "60 rpm")
    d.require(Misalignment(name="In line", half=str(a), other=str(b)))
    return d.document


@pytest.mark.parametrize(("offset", "used"), [("0 mm", 0.0), ("1.5 mm", 0.6), ("2.6 mm", 1.04)])
def test_an_oldham_coupling_of_the_catalogue_turns_evenly(evaluator: Evaluator, offset: str, used: float) -> None:
    hub = OldhamHub()
    document = bridged(hub, offset, OldhamHub.apart(sizes(hub)), 0.010, ("Disc", OldhamDisc()))
    data = document.model_dump(mode="json")
    data["requirements"]["free"] = NoInterference(name="Nothing overlaps").model_dump(mode="json")
    e = evaluator.evaluate(Document.model_validate(data))
    assert e.problems == []
    assert e.coordinates["out"].rate == pytest.approx(np.full(361, TURN), rel=1e-9)
    assert e.verdicts["in_line"].value == pytest.approx(used, abs=1e-6)
    assert e.verdicts["in_line"].holds is (used <= 1)
    assert e.verdicts["free"].holds is True, e.verdicts["free"].words


@pytest.mark.parametrize(("half", "offset", "used"), [(JawHub(), "0.06 mm", 0.6), (BellowsHalf(), "0.3 mm", 2.0)])
def test_what_a_coupling_takes_is_held_against_how_the_shafts_lie(half: Element, offset: str, used: float) -> None:
    document = bridged(half, offset, type(half).apart(sizes(half)), 0.012)  # type: ignore[attr-defined]
    data = document.model_dump(mode="json")
    data["pairs"]["coupled"] = CouplingPair(name="Coupled", a="first_half", b="second_half").model_dump(mode="json")
    e = Evaluator().moved(Document.model_validate(data))
    assert e.problems == []
    assert e.coordinates["out"].rate == pytest.approx(np.full(361, TURN), rel=1e-9)
    told = {v.name: v.value for v in values(e)["pairs.coupled"]}
    assert told["Offset of the shafts now"] == pytest.approx(float(offset.split()[0]) / 1e3, abs=1e-9)
    assert told["Shift along the axis now"] == pytest.approx(0.0, abs=1e-9)
    v = e.document.requirements["in_line"].judge(e)  # type: ignore[attr-defined]
    assert v.value == pytest.approx(used, abs=1e-5)
    assert v.holds is (used < 1)


def test_halves_that_do_not_go_together_are_told() -> None:
    document = bridged(JawHub(), "0 mm", JawHub.apart(sizes(JawHub())), 0.012, second=JawHub(jaws=4))
    data = document.model_dump(mode="json")
    data["pairs"]["coupled"] = CouplingPair(name="Coupled", a="first_half", b="second_half").model_dump(mode="json")
    e = Evaluator().moved(Document.model_validate(data))
    assert "same number of jaws" in " ".join(p.words for p in e.problems)


@pytest.mark.parametrize(("kind", "piece"), [("sleeve", "sleeve"), ("oldham_hub", "disc"), ("yoke", "cross")])
def test_couplings_grow_on_a_shaft_without_overlap(evaluator: Evaluator, kind: str, piece: str) -> None:
    document = grown(on_a_shaft("10 mm"), "shaft", "axis", kind, "turns", next_shaft="10 mm")
    e = evaluator.evaluate(document)
    assert e.problems == []
    assert piece in document.placed
    assert e.verdicts["nothing_overlaps"].holds is True, e.verdicts["nothing_overlaps"].words


def test_volumes_against_closed_forms(evaluator: Evaluator) -> None:
    sleeve = evaluator.kernel_pool.build(Sleeve.solid(sizes(Sleeve(screw_hole="0 mm", other_bore="12 mm")))).volume
    assert sleeve == pytest.approx(np.pi / 4 * (15e-3 * (0.02**2 - 0.01**2) + 15e-3 * (0.02**2 - 0.012**2)), rel=1e-9)
    drilled = evaluator.kernel_pool.build(Sleeve.solid(sizes(Sleeve()))).volume
    whole = evaluator.kernel_pool.build(Sleeve.solid(sizes(Sleeve(screw_hole="0 mm")))).volume
    # a hole of radius a from a cylinder of radius R to the bore r: the mean of sqrt(R^2 - y^2) - sqrt(r^2 - y^2) over it
    y = np.linspace(-1.65e-3, 1.65e-3, 20001)
    deep = (np.sqrt(0.01**2 - y**2) - np.sqrt(0.005**2 - y**2)) * 2 * np.sqrt(np.maximum(1.65e-3**2 - y**2, 0))
    assert whole - drilled == pytest.approx(
        2 * np.trapezoid(deep, y), abs=5e-6 * whole
    )  # as fine as the kernel integrates
    cross = sizes(Cross())
    block = 0.014**2 * 1.3 * 0.00495
    ends = 2 * np.pi / 4 * 0.00495**2 * (0.025 - 0.014)
    assert evaluator.kernel_pool.build(Cross.solid(cross)).volume == pytest.approx(block + ends, rel=1e-9)
    r, h = 0.0125, 0.003
    band = 2 * (h * np.sqrt(r**2 - h**2) + r**2 * np.arcsin(h / r))  # of a circle
    held = (
        np.pi * (r**2 - 0.005**2) * 0.014
        - (band - 2 * (h * np.sqrt(0.005**2 - h**2) + 0.005**2 * np.arcsin(h / 0.005))) * 0.004
    )
    assert evaluator.kernel_pool.build(OldhamHub.solid(sizes(OldhamHub()))).volume == pytest.approx(held, rel=1e-9)
