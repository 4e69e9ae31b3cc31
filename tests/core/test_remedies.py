"""Remedies: what is offered holds when it is taken, is the nearest size that does, and says what else it does."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from tests.reference.test_balance import weights
from uhrwerk import BalanceGrade, CentreOfGravity, Draft, MassLimit
from uhrwerk.core.balance.rotor import rotors
from uhrwerk.core.document import Document
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.remedies import Number, Range, Remedies, lately, numbers_of, turned
from uhrwerk.core.remedies.number import nearest_first
from uhrwerk.demo.foil_cutter import foil_cutter
from uhrwerk.demo.folder import folder
from uhrwerk.demo.gripper_ring import gripper_ring
from uhrwerk.demo.guard_lid import guard_lid
from uhrwerk.demo.main_drive import main_drive
from uhrwerk.demo.pusher import pusher

#: failing requirements of the demo that one number mends, and the path of what the designer would turn
DEMO: list[tuple[Callable[[], Document], str, str]] = [
    (pusher, "return_is_quick", "parameters.crank.formula"),
    (guard_lid, "lid_turns_on_its_pin", "parts.lid_leaf.element.bore"),
    (folder, "cam_pushes_straight", "parameters.base.formula"),
]


def searched(evaluator: Evaluator, document: Document, requirement: str, most: int = 99) -> Remedies:
    """The search, as far as so many offers."""
    before = evaluator.evaluate(document)
    found = Remedies(document, before, requirement, lambda d, two: evaluator.evaluate(d, between=two))
    for k, _ in enumerate(found.search(), 1):
        if k >= most:
            break
    return found


def holds(evaluator: Evaluator, document: Document, requirement: str, path: str, text: str) -> bool | None:
    draft = Draft("x", document)
    draft.set(path, text)
    return evaluator.evaluate(draft.document).verdicts[requirement].holds


@pytest.mark.parametrize(("make", "requirement", "path"), DEMO, ids=lambda x: x if isinstance(x, str) else x.__name__)
def test_what_is_offered_holds_and_one_step_less_does_not(
    evaluator: Evaluator, make: Callable[[], Document], requirement: str, path: str
) -> None:
    document = make()
    first = searched(evaluator, document, requirement, most=1).offers[0]
    (change,) = first.changes
    assert change.number.path == path
    after = accept(document, first.command)
    told = evaluator.evaluate(after).verdicts
    assert told[requirement].holds is True
    assert told[requirement].value == pytest.approx(first.verdict.value)
    assert {e.requirement: e.after for e in first.others} == {i: v.holds for i, v in told.items() if i != requirement}
    n, value = change.number, _value(change.least or change.after, change.number)
    nearer = value - n.step * np.sign(value - n.value)
    assert holds(evaluator, document, requirement, n.path, n.text(nearer)) is not True


def _value(text: str, n: Number) -> float:
    """What a text says, in the number's unit: `22 mm`, or `pin_d - 0.1 mm`."""
    words = text.removeprefix(n.follows).replace(n.unit, "").replace(" ", "").replace("+", "")
    return float(words or 0)


def test_the_smallest_is_that_of_an_exhaustive_search(evaluator: Evaluator) -> None:
    """Every size up to it, a tenth of a millimetre apart."""
    document = pusher()
    offers = {o.changes[0].number.path: o for o in searched(evaluator, document, "return_is_quick").offers}
    assert len(offers) >= 2
    (change,) = offers["parameters.crank.formula"].changes
    crank = float((change.least or change.after).split()[0])
    sizes = [round(20 + 0.1 * k, 1) for k in range(1, 30)]
    does = next(
        s for s in sizes if holds(evaluator, document, "return_is_quick", "parameters.crank.formula", f"{s} mm")
    )
    assert crank == does


def test_two_numbers_where_none_alone_will_do(evaluator: Evaluator) -> None:
    document = foil_cutter()
    found = searched(evaluator, document, "centre_on_the_axis")
    (offer,) = found.offers
    assert {c.number.path for c in offer.changes} == {
        "parameters.weight_radius.formula",
        "parameters.weight_angle.formula",
    }
    after = evaluator.evaluate(accept(document, offer.command))
    assert after.holds is True
    assert offer.heavier == pytest.approx(
        after.masses["whole"].mass - evaluator.evaluate(document).masses["whole"].mass
    )


@pytest.mark.parametrize(
    ("requirement", "most"), [("runs_quietly", 6.3e-3 / (900 * 2 * np.pi / 60)), ("centre_on_the_axis", 5e-5)]
)
def test_two_numbers_are_the_least_of_an_exhaustive_search(evaluator: Evaluator, requirement: str, most: float) -> None:
    """All pairs of a tenth of a millimetre and a tenth of a degree that are smaller changes: none holds. The witness adds the moment of
    the weight, turned, to that of all else; only its volume and centre at a radius are Uhrwerk's."""
    document = foil_cutter()
    e = evaluator.evaluate(document)
    (rotor,) = rotors(e).values()

    def weight(radius: float) -> tuple[float, float]:
        draft = Draft("x", document)
        draft.set("parameters.weight_radius.formula", f"{radius:.1f} mm")
        (body,) = evaluator.solid_of(draft.document, "counterweight")[1].bodies.values()
        return 8500 * body.volume, float(body.centroid[0])

    def turned(degrees: np.ndarray | float) -> np.ndarray:
        return np.stack([np.cos(np.radians(degrees)), np.sin(np.radians(degrees))], axis=-1)

    own, out = weight(19)
    others, rest = rotor.first - own * out * turned(190.0), rotor.mass - own

    def offset(radius: float, degrees: np.ndarray) -> np.ndarray:
        own, out = weight(radius)
        return np.hypot(*(others + own * out * turned(degrees)).T) / (rest + own)

    (best,) = searched(evaluator, document, requirement).offers
    values = {c.number.path.split(".")[1]: _value(c.after, c.number) for c in best.changes}
    size = sum(c.size for c in best.changes)
    here = offset(values["weight_radius"], np.array([values["weight_angle"]]))[0]
    told = best.verdict.value if requirement == "centre_on_the_axis" else best.verdict.value / rotor.speed
    assert here == pytest.approx(told, rel=1e-6, abs=1e-10)
    assert here <= most
    tried, smaller = 0, []
    for radius in np.arange(round(190 * (1 - size)), round(190 * (1 + size)) + 1) / 10:
        left = (size - abs(radius - 19) / 19) * 190
        degrees = 190 + np.arange(-np.floor(left * 10), np.floor(left * 10) + 1) / 10
        sizes = abs(radius - 19) / 19 + abs(degrees - 190) / 190
        found = degrees[(offset(radius, degrees) <= most) & (sizes < size - 1e-9)]
        smaller += [(radius, d) for d in found]
        tried += len(degrees)
    assert tried > 10_000
    assert smaller == []


def test_what_breaks_another_says_so_and_stands_last(evaluator: Evaluator) -> None:
    """A ring that closes less far clears the cup; it was to close by 90 deg."""
    found = searched(evaluator, gripper_ring(), "ring_clears_the_cup")
    offer = found.offers[-1]
    assert [e.name for e in offer.breaks] == ["Crossing closes"]
    assert offer.order[0] == 1
    assert "No value satisfies both: Ring clears the cup needs" in found.words, found.words
    assert "Crossing closes at " in found.words, found.words
    assert "at least 90.00 deg" in offer.breaks[0].words or "90" in offer.breaks[0].words


def test_where_nothing_mends_it_says_why(evaluator: Evaluator) -> None:
    document = weights(("0 deg", "20 mm", "24 mm"))
    joint = next(iter(document.joints))
    impossible = {"light": MassLimit(name="Light", at_most="0.0001 g")}
    found = searched(evaluator, document.model_copy(update={"requirements": impossible}), "light")
    assert found.offers == []
    assert "no single number makes it hold" in found.words
    holding = {"easy": BalanceGrade(name="Easy", joint=joint, grade="100000 mm/s")}
    found = searched(evaluator, document.model_copy(update={"requirements": holding}), "easy")
    assert found.words.startswith("there is nothing to remedy")


@pytest.mark.parametrize("seed", range(6))
def test_random_breaks_are_mended(evaluator: Evaluator, seed: int) -> None:
    """A balanced pair of weights put out of balance by one number: a first offer is found, holds, and is no larger than the break."""
    random = np.random.default_rng(seed)
    document = weights(("0 deg", "20 mm", "24 mm"), ("180 deg", "20 mm", "24 mm"))
    asked = {"centred": CentreOfGravity(name="Centred", joint=next(iter(document.joints)), at_most="0.02 mm")}
    draft = Draft("x", document.model_copy(update={"requirements": asked}))
    field, value, unit = [("radius", 24, "mm"), ("thickness", 6, "mm"), ("ring", 16, "mm")][seed % 3]
    broken = round(value * (1 + float(random.choice([-1, 1]) * random.uniform(0.06, 0.2))), 1)
    draft.set(f"parts.weight_1.element.{field}", f"{broken} {unit}")
    found = searched(evaluator, draft.document, "centred")
    best = found.offers[0]
    assert evaluator.evaluate(accept(draft.document, best.command)).verdicts["centred"].holds is True
    back = abs(broken - value) / broken
    assert sum(c.size for c in best.changes) <= back * 1.05 + 0.01


@pytest.mark.parametrize(
    ("make", "path", "text", "requirement", "whole"),
    [
        (pusher, "parameters.crank.formula", "15.9 mm", "return_is_quick", 17),
        (folder, "parameters.base.formula", "40 mm", "cam_pushes_straight", 26),
    ],
)
def test_what_was_changed_last_is_turned_back_as_far_as_is_needed(
    evaluator: Evaluator, make: Callable[[], Document], path: str, text: str, requirement: str, whole: int
) -> None:
    """Tried with every size between; `whole` is how many steps lead back to all that mends it."""
    before = make()
    mending = searched(evaluator, before, requirement, most=1).offers[0]
    good = accept(before, mending.command)
    draft = Draft("x", good)
    draft.set(path, text)
    changed = lately(good, draft.document)
    assert list(changed) == [path]
    e = evaluator.evaluate(draft.document)
    found = Remedies(draft.document, e, requirement, lambda d, two: evaluator.evaluate(d, between=two), changed)
    offer = next(iter(found.search()))
    (change,) = offer.changes
    assert change.number.path == path
    n, value = change.number, _value(change.least or change.after, change.number)
    assert holds(evaluator, draft.document, requirement, path, change.after) is True
    assert holds(evaluator, draft.document, requirement, path, n.text(value - n.step)) is not True
    assert found.tried <= whole  # fewer than all sizes between


def test_what_did_not_hold_before_either_is_looked_for_as_ever(evaluator: Evaluator) -> None:
    before = pusher()
    draft = Draft("x", before)
    draft.set("parameters.crank.formula", "19 mm")
    changed = lately(before, draft.document)
    e = evaluator.evaluate(draft.document)
    found = Remedies(draft.document, e, "return_is_quick", lambda d, two: evaluator.evaluate(d, between=two), changed)
    offer = next(iter(found.search()))
    assert (offer.changes[0].least, offer.changes[0].after) == ("21.7 mm", "22 mm")


def test_numbers_are_those_that_are_written_out() -> None:
    document = guard_lid()
    found = {n.path: n for n in numbers_of(document)}
    assert found["parameters.pin_d.formula"].value == 5.0
    assert (found["parts.lid_leaf.element.bore"].follows, found["parts.lid_leaf.element.bore"].value) == ("pin_d", 0.0)
    assert not any(p.startswith(("requirements", "drivers", "cycle")) for p in found)
    first = nearest_first(document, list(found.values()), ("hinge_pin/pin", "lid_leaf/leaf"), "")[0]
    assert first.path == "parameters.pin_d.formula"


@pytest.mark.parametrize(
    ("text", "value", "up", "gives"),
    [("12.53 mm", 12.61, True, "12.7 mm"), ("0.69 in", 0.7012, True, "0.705 in"), ("-3 deg", -3.44, False, "-3.5 deg"), ("1.5", 1.61, True, "1.7")],
)  # fmt: skip
def test_sizes_that_can_be_made(text: str, value: float, up: bool, gives: str) -> None:
    draft = Draft("x")
    draft.parameter("w", text)
    (n,) = numbers_of(draft.document)
    assert n.text(n.on_grid(value, up=up)) == gives


def test_modules_stay_in_their_series() -> None:
    """ISO 54, series I (from memory): a parameter that gears take their module from is turned from one to the next, by remedies,
    searches and the dial alike."""
    document = main_drive()
    (n, _) = (x for x in numbers_of(document) if x.series)
    assert (n.path, n.value) == ("parameters.m_1.formula", 1.25)
    assert [n.text(n.moved(1.25, k)) for k in (-2, -1, 1, 2, 3)] == ["0.8 mm", "1 mm", "1.5 mm", "2 mm", "2.5 mm"]
    assert [n.text(n.on_grid(1.3, up=up)) for up in (False, True)] == ["1.25 mm", "1.5 mm"]
    assert n.sizes_to(1.25, 2.2) == 2  # 1.5 and 2
    assert turned(document, n.path, 2) == "2 mm"
    assert Range(n, 1.0, 2.0).beside(1.61) == ["1.5 mm", "2 mm"]


def test_what_is_offered_for_a_module_is_one_of_the_series(evaluator: Evaluator) -> None:
    """Teeth that are too light: the nearest module up that does, not a tenth of a millimetre more."""
    document = main_drive()
    mass = evaluator.evaluate(document).masses["moving"].mass
    asked = {"light": MassLimit(name="Light", of="moving", at_most=f"{0.93 * mass} kg")}
    found = searched(evaluator, document.model_copy(update={"requirements": asked}), "light")
    modules = [c.after for o in found.offers for c in o.changes if c.number.series]
    assert modules
    assert set(modules) <= {"0.8 mm", "1 mm", "1.25 mm"}


@pytest.mark.parametrize(
    ("text", "value", "rounder"),
    [
        ("20 mm", 21.7, [22.0]), ("20 mm", 20.1, []), ("20 mm", 24.2, [25.0, 24.5]), ("10 mm", 8.3, [8.0]), ("20 mm", 22.0, []),
        ("20 deg", 22.3, [23.0]), ("45 deg", 38.4, [38.0]), ("1 in", 1.215, [1.25, 1.22]), ("0.69 in", 0.7, []),
    ],
)  # fmt: skip
def test_what_a_designer_would_rather_write(text: str, value: float, rounder: list[float]) -> None:
    draft = Draft("x")
    draft.parameter("w", text)
    (n,) = numbers_of(draft.document)
    assert n.rounder(value) == pytest.approx(rounder)


def test_shared_sizes_and_modules_are_changed_last(evaluator: Evaluator) -> None:
    found = searched(
        evaluator,
        main_drive(),
        next(i for i, v in evaluator.evaluate(main_drive()).verdicts.items() if v.holds is False),
    )
    last = [max(c.number.last_resort for c in o.changes) for o in found.offers if not o.breaks]
    assert last == sorted(last)
    assert last[0] == 0
