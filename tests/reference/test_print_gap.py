"""Print gap against gaps that are known by construction (common practice: 0.4 mm all round, and a layer left out)."""

from __future__ import annotations

import pytest

from uhrwerk import At, Bore, Draft, FramePlate, Pin, PrintGap
from uhrwerk.core.document import Document
from uhrwerk.core.document.document import Group
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.outlines import Circle
from uhrwerk.core.remedies import Remedies
from uhrwerk.core.stages.verdict import Verdict
from uhrwerk.core.steps import Extrude


def pinned(bore: str, at_least: str) -> Document:
    d = Draft("Pinned")
    plate = d.part("Plate", "steel", FramePlate(length="40 mm", width="40 mm", thickness="8 mm", bores={"b": Bore(x="20 mm", y="20 mm", diameter=bore)}))  # fmt: skip
    pin = d.part("Pin", "steel", Pin(diameter="8 mm", length="20 mm"), x="20 mm", y="20 mm", z="-14 mm")
    d.revolute("Turns", plate["b"], pin["axis"], offset="-14 mm")
    d.require(PrintGap(name="Apart", at_least=at_least))
    return d.document


def verdict(evaluator: Evaluator, document: Document) -> Verdict:
    e = evaluator.evaluate(document)
    assert not e.problems
    return next(iter(e.verdicts.values()))


@pytest.mark.parametrize(
    ("bore", "at_least", "holds", "gap"),
    [("8.8 mm", "0.4 mm", True, 0.4e-3), ("8.8 mm", "0.401 mm", False, 0.4e-3), ("8.1 mm", "0.05 mm", True, 0.05e-3), ("8 mm", "0.4 mm", False, 0.0), ("7.9 mm", "0.4 mm", False, -0.05e-3)],
)  # fmt: skip
def test_a_pin_in_its_bore(evaluator: Evaluator, bore: str, at_least: str, holds: bool, gap: float) -> None:
    """Half the difference of both diameters, all round; less than nothing where they overlap."""
    v = verdict(evaluator, pinned(bore, at_least))
    assert v.holds is holds
    assert v.value == pytest.approx(gap, abs=1e-8)
    assert set(v.parts) == {"plate/plate", "pin/pin"}


def above(
    evaluator: Evaluator, bottom: str, thickness: str = "8 mm", turn: str = "0 deg", down: str = "", **asked: str
) -> Verdict:
    """A washer on a pin in a plate, its underside so far above the plate's face."""
    d = Draft("Above")
    plate = d.part("Plate", "steel", FramePlate(length="40 mm", width="40 mm", thickness=thickness, bores={"b": Bore(x="20 mm", y="20 mm", diameter="9 mm")}), turn_x=turn)  # fmt: skip
    high = d.part("High", "steel", FramePlate(length="20 mm", width="20 mm", thickness="5 mm", bores={"b": Bore(x="10 mm", y="10 mm", diameter="4 mm")}), x="10 mm", y="10 mm", z=f"5 mm + {bottom}")  # fmt: skip
    d.revolute("Turns", plate["b"], high["b"], offset=f"5 mm + {bottom}")
    lying = {"down": At(placed="plate", datum=down)} if down else {}
    d.require(PrintGap(name="Apart", **{"at_least": "0.1 mm", **asked}, **lying))
    return verdict(evaluator, d.document)


@pytest.mark.parametrize(
    ("bottom", "thickness", "holds"),
    [
        ("0.2 mm", "8 mm", True),  # from 40 layers to 41: one left out
        ("0.19 mm", "8 mm", False),
        ("0.3 mm", "8.1 mm", True),  # from 40.5 to 42: layer 41 is left out
        ("0.29 mm", "8.1 mm", False),  # from 40.5 to 41.95: none is whole
        ("0.4 mm", "8.1 mm", True),  # twice a layer always holds one
    ],
)
def test_a_whole_layer_is_left_out(evaluator: Evaluator, bottom: str, thickness: str, holds: bool) -> None:
    v = above(evaluator, bottom, thickness)
    assert v.holds is holds, v.words
    if not holds:
        assert "no whole layer of 0.20 mm between" in v.words


def test_what_does_not_move_may_touch_and_what_is_not_printed_is_not_asked(evaluator: Evaluator) -> None:
    d = Draft("x", pinned("8 mm", "0.4 mm"))
    d.part("Third", "steel", FramePlate(length="10 mm", width="10 mm", thickness="2 mm", corner="1 mm"), x="200 mm")
    d.document.groups["both"] = Group(name="Both", placed=["plate", "third"])
    asked = PrintGap(name="Apart", of="both")
    document = d.document.model_copy(update={"requirements": {"apart": asked}})
    v = verdict(evaluator, document)
    assert v.holds is True  # the pin is not printed with them
    assert v.value == pytest.approx(0.16, abs=1e-6)


def test_it_is_mended_by_a_size_that_can_be_made(evaluator: Evaluator) -> None:
    document = pinned("8.3 mm", "0.4 mm")
    before = evaluator.evaluate(document)
    search = Remedies(
        document, before, next(iter(document.requirements)), lambda d, two: evaluator.evaluate(d, between=two)
    )
    list(search.search())
    # 8.8 and 7.2 mm would just do; a whole and a half millimetre are the sizes that a designer would choose
    assert {c.after for o in search.offers for c in o.changes} >= {"9 mm", "7.5 mm"}
    for bore in ("8.8 mm", "9 mm"):
        assert verdict(evaluator, pinned(bore, "0.4 mm")).holds is True


def flanged(evaluator: Evaluator, bottom: str) -> Verdict:
    """A flange above a plate 8.1 mm thick, on a spigot that is nearer to its bore, by 0.15 mm, than the flange to the plate."""
    d = Draft("Flanged")
    plate = d.part("Plate", "steel", FramePlate(length="40 mm", width="40 mm", thickness="8.1 mm", bores={"b": Bore(x="20 mm", y="20 mm", diameter="9 mm")}))  # fmt: skip
    steps = {
        "flange": Extrude(name="Flange", outline=Circle(diameter="20 mm"), length="4 mm"),
        "spigot": Extrude(name="Spigot", plane="flange.start", outline=Circle(diameter="8.7 mm"), length="6 mm"),
    }
    high = d.own_part("High", "steel", steps, x="20 mm", y="20 mm", z=bottom)
    d.revolute("Turns", plate["b"], high["spigot.side_1"], offset=f"{bottom} - 3 mm")  # the middle of the spigot
    d.require(PrintGap(name="Apart", at_least="0.1 mm"))
    return verdict(evaluator, d.document)


@pytest.mark.parametrize(("bottom", "holds"), [("0.3 mm", True), ("0.29 mm", False), ("0.16 mm", False)])
def test_a_layer_that_lacks_elsewhere_than_at_the_nearest_place(evaluator: Evaluator, bottom: str, holds: bool) -> None:
    """The nearest place is beside the spigot, where no layer is asked; above the plate none is left out."""
    v = flanged(evaluator, bottom)
    assert v.holds is holds, v.words
    if not holds:
        assert "no whole layer of 0.20 mm" in v.words
        assert v.points[0][2] == pytest.approx(0, abs=0.21e-3)  # in the layer of the plate's top, or the next


@pytest.mark.parametrize(("bottom", "holds"), [("0.2 mm", True), ("0.19 mm", False)])
@pytest.mark.parametrize("turn", ["90 deg", "180 deg", "37 deg"])
def test_the_face_on_the_bed_says_which_way_is_up(evaluator: Evaluator, bottom: str, holds: bool, turn: str) -> None:
    """The same mechanism, leaning in the world: the plate's underside lies on the bed."""
    straight = above(evaluator, bottom)
    leaning = above(evaluator, bottom, turn=turn, down="bottom")
    assert (straight.holds, leaning.holds) == (holds, holds)
    assert leaning.value == pytest.approx(straight.value, abs=1e-8)
