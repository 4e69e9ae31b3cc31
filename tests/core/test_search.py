"""Search: numbers brought to a goal while requirements hold; every step kept, the best rounded and proved."""

from __future__ import annotations

import math
from collections.abc import Callable

import pytest

from uhrwerk import At, CentreOfGravity, Clearance, Draft, FramePlate, LinkBar, MassLimit
from uhrwerk.core.document import Document
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.evaluation.evaluator import Cancelled, Evaluator
from uhrwerk.core.outlines import Circle, Difference, Rectangle
from uhrwerk.core.remedies import Goal, Range, Search, SearchStep, numbers_of
from uhrwerk.core.remedies.search import ranges
from uhrwerk.core.steps import Extrude
from uhrwerk.demo.foil_cutter import foil_cutter
from uhrwerk.demo.foil_tucker import foil_tucker
from uhrwerk.demo.planetary_sample import planetary_sample
from uhrwerk.demo.pusher import pusher
from uhrwerk.draft import Handle


def chosen(document: Document, *paths: str) -> list[Range]:
    return ranges([next(n for n in numbers_of(document) if n.path == p) for p in paths])


CUTTER = [f"parameters.{name}.formula" for name in ("weight_radius", "weight_thickness", "weight_angle")]


def test_the_cutter_is_balanced_by_three_numbers(evaluator: Evaluator) -> None:
    """From over 1 mm to under 1 micrometre; rounded to 0.1 mm it meets G 6.3 (ISO 21940-11) at 900 rpm."""
    document = foil_cutter()
    before = evaluator.evaluate(document).verdicts
    assert before["centre_on_the_axis"].value > 1e-3
    heard: list[SearchStep] = []
    goal = Goal("requirements.centre_on_the_axis", "equal")
    search = Search(
        document,
        goal,
        chosen(document, *CUTTER),
        ["nothing_overlaps", "nothing_is_loose"],
        evaluator.evaluate,
        heard.append,
    )
    search.run()
    assert heard == search.steps
    best, rounded = search.best, search.rounded
    assert best is not None
    assert best.value is not None
    assert best.value < 1e-6
    assert rounded is not None
    for text, r in zip(rounded.texts, search.ranges, strict=True):
        size = float(text.split()[0]) / r.number.step
        assert size == pytest.approx(round(size), abs=1e-6)
    after = evaluator.evaluate(accept(document, search.command(rounded))).verdicts
    assert after["runs_quietly"].holds is True
    assert after["centre_on_the_axis"].value == pytest.approx(rounded.value, abs=1e-12)
    proof = evaluator.evaluate(accept(document, search.command(best))).verdicts
    assert proof["centre_on_the_axis"].value == pytest.approx(best.value, abs=1e-12)


def bar() -> Document:
    draft = Draft("Bar")
    draft.part("Plate", "steel", FramePlate(length="60 mm", width="40 mm", thickness="5 mm", corner="0 mm"))
    draft.part("Bar", "steel", LinkBar(distance="60 mm", width="12 mm", thickness="5 mm"), x="200 mm")
    draft.require(MassLimit(name="Light", at_most="50 g"))
    return draft.document


def test_a_value_is_made_equal_to_one_asked_for(evaluator: Evaluator) -> None:
    """The mass of a plate is its volume times its density: the thickness for a wanted mass follows by division."""
    document = bar()
    density = 7850.0
    found = evaluator.evaluate(document)
    rest = found.masses["whole"].mass - 0.06 * 0.04 * 0.005 * density
    wanted = rest + 0.06 * 0.04 * 0.0063 * density
    search = Search(
        document,
        Goal("masses.whole", "equal", wanted),
        chosen(document, "parts.plate.element.thickness"),
        [],
        evaluator.evaluate,
    )
    search.run()
    assert search.best is not None
    assert float(search.best.texts[0].split()[0]) == pytest.approx(6.3, abs=1e-3)
    assert search.rounded is not None
    assert search.rounded.texts == ("6.3 mm",)


def test_the_least_is_where_a_condition_begins_to_fail(evaluator: Evaluator) -> None:
    """As light as it goes, as long as the lid stays heavier than it must: nothing lighter holds."""
    document = bar()
    total = evaluator.evaluate(document).masses["whole"].mass
    asked = {"heavy": MassLimit(name="Stays", at_most=f"{total * 0.9!r} kg")}
    document = document.model_copy(update={"requirements": asked})
    search = Search(
        document,
        Goal("masses.whole", "most"),
        chosen(document, "parts.plate.element.thickness"),
        ["heavy"],
        evaluator.evaluate,
    )
    search.run()
    assert search.rounded is not None
    thick = float(search.rounded.texts[0].split()[0])
    exact = 5 - 0.1 * total / (0.06 * 0.04 * 7850.0) * 1e3
    assert thick == pytest.approx(math.floor(exact * 10 + 1e-9) / 10, abs=1e-9)
    assert search.rounded.holds


def test_rounded_sizes_stay_within_the_limits(evaluator: Evaluator) -> None:
    """As heavy as it goes up to 5.25 mm: 5.3 mm would be heavier, and is not offered; between 5.01 and 5.09 mm there is no size."""
    document = bar()
    (one,) = chosen(document, "parts.plate.element.thickness")
    search = Search(document, Goal("masses.whole", "most"), [Range(one.number, 4.0, 5.25)], [], evaluator.evaluate)
    search.run()
    assert search.rounded is not None
    assert search.rounded.texts == ("5.2 mm",)
    assert one.beside(5.04) == ["5 mm", "5.1 mm"]
    assert Range(one.number, 5.01, 5.09).beside(5.04) == []


def test_a_search_ends_where_its_listener_ends_it_and_keeps_its_steps(evaluator: Evaluator) -> None:
    document = bar()

    def heard(step: SearchStep) -> None:
        if step.number == 3:
            raise Cancelled

    search = Search(
        document, Goal("masses.whole"), chosen(document, "parts.plate.element.thickness"), [], evaluator.evaluate, heard
    )
    with pytest.raises(Cancelled):
        search.run()
    assert [s.number for s in search.steps] == [1, 2, 3]
    assert search.best is not None


def test_numbers_that_the_document_refuses_are_steps_without_a_value(evaluator: Evaluator) -> None:
    document = bar()
    (one,) = chosen(document, "parts.bar.element.bore_1")
    wide = Range(one.number, 1.0, 30.0)  # as wide as the bar from 12 mm on
    search = Search(document, Goal("masses.whole", "least"), [wide], [], evaluator.evaluate)
    search.run()
    refused = [s for s in search.steps if s.value is None]
    assert refused
    assert not any(s.holds for s in refused)
    assert search.rounded is not None
    assert float(search.rounded.texts[0].split()[0]) < 12


def test_what_has_no_value_is_not_searched(evaluator: Evaluator) -> None:
    document = bar()
    search = Search(
        document, Goal("masses.nobody"), chosen(document, "parts.plate.element.thickness"), [], evaluator.evaluate
    )
    search.run()
    assert "no value to begin with" in search.words
    assert At(placed="bar", datum="top").placed in document.placed


def test_a_kink_does_not_stop_the_search(evaluator: Evaluator, monkeypatch: pytest.MonkeyPatch) -> None:
    """A weight opposite an arm, within a ring of 60 mm less 1 mm: it goes out until both of its outer corners come as near as they may.
    By hand: y = 0, and x = sqrt(59^2 - 10^2) - 5 mm; both corners make a kink there."""
    monkeypatch.setattr("uhrwerk.core.remedies.search.STEPS", 120)
    draft = Draft("Weight")

    def box(name: str, length: float, width: float, x: float, **start: str) -> Handle:
        outline = Rectangle(length=f"{length} mm", width=f"{width} mm", x=f"{x} mm")
        return draft.own_part(name, "steel", {"block": Extrude(name="Block", outline=outline, length="10 mm")}, **start)

    plate = box("Plate", 200, 200, 0, z="-30 mm")
    ring = Extrude(
        name="Ring",
        outline=Difference(of={"a": Circle(diameter="140 mm"), "b": Circle(diameter="120 mm")}),
        length="10 mm",
    )
    still = draft.own_part("Still", "steel", {"ring": ring})
    draft.rigid("Ring stands", plate["block.end"], still["ring.start"], offset="20 mm", flip=True)
    arm, weight = box("Arm", 70, 10, 20), box("Weight", 10, 20, 0, z="9 mm")
    draft.parameter("out", "30 mm")
    draft.parameter("aside", "12 mm")
    turns = draft.revolute("Turns", plate["block.end"], arm["origin"], offset="20 mm")
    draft.rigid("Weight on arm", At(placed=str(arm), datum="origin", x="-out", y="aside"), weight["origin"])
    draft.turn("Motor", turns, "60 rpm")
    draft.require(CentreOfGravity(name="Centre", joint=turns, at_most="0.1 mm"))
    draft.require(Clearance(name="Free", a=weight.body(), b=still.body(), at_least="1 mm"))
    numbers = {n.path: n for n in numbers_of(draft.document)}
    ways = [Range(numbers["parameters.out.formula"], 25, 58), Range(numbers["parameters.aside.formula"], -20, 20)]
    search = Search(draft.document, Goal("requirements.centre"), ways, ["free"], evaluator.evaluate)
    search.run()
    assert search.best is not None
    out, aside = (float(t.split()[0]) for t in search.best.texts)
    assert out == pytest.approx(math.sqrt(59**2 - 10**2) - 5, abs=0.1)
    assert aside == pytest.approx(0.0, abs=0.2)
    assert "Free holds it back" in search.words or "ran out" in search.words


@pytest.mark.parametrize("module", [foil_tucker, pusher, planetary_sample], ids=lambda m: m.__name__)
def test_sizes_are_searched_where_they_can_be_made(module: Callable[[], Document]) -> None:
    """No bore of nothing and no module below zero among the limits that are offered; what may lie on both sides still does."""
    offered = ranges(numbers_of(module()))
    assert any(r.number.positive for r in offered)
    for r in offered:
        assert r.low < r.number.value < r.high
        if r.number.positive:
            assert r.low >= 0.1 * r.number.value - 1e-9, r.number.path
            assert r.low > 0, r.number.path
