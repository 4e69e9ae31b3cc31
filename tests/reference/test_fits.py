"""Fits and meshes that are asked for: limits of ISO 286 against the standard's own formulas and printed fits, the mesh against
handbook figures.

ISO 286-1: i = 0.45 D^(1/3) + 0.001 D um, D mm the geometric mean of a range; grades 6, 7, ... are 10, 16, 25, 40, 64, 100 of it, 5 is 7;
deviations d 16 D^0.44, e 11 D^0.41, f 5.5 D^0.41, g 2.5 D^0.34, k 0.6 D^(1/3), n 5 D^0.34 (from memory). Printed values are rounded, and those up
to 3 mm set apart: they are held by the printed fits alone.
"""

from __future__ import annotations

from math import cos, pi, radians, sin, sqrt, tan

import pytest

from tests.mechanisms import gear_train
from uhrwerk import Bore, Draft, FramePlate, Pin
from uhrwerk.core.document import Document, apply, parse
from uhrwerk.core.elements.involute import Tooth
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.joints.at import At
from uhrwerk.core.quantity.size_limits import ABOVE, BELOW, GRADES, UP_TO, deviations
from uhrwerk.core.requirements.fit_limits import FitLimits
from uhrwerk.core.requirements.gear_mesh import GearMesh

MEANS = [sqrt(a * b) for a, b in zip((1, 3, *UP_TO[1:-1]), UP_TO, strict=True)]


@pytest.mark.parametrize(("grade", "times"), [(5, 7), (6, 10), (7, 16), (8, 25), (9, 40), (10, 64), (11, 100)])
def test_grades_are_those_of_the_standards_formula(grade: int, times: float) -> None:
    for mean, printed in list(zip(MEANS, GRADES[grade], strict=True))[1:]:
        assert printed == pytest.approx(times * (0.45 * mean ** (1 / 3) + 0.001 * mean), rel=0.07, abs=0.8)


@pytest.mark.parametrize(
    ("letter", "formula"),
    [
        ("d", lambda d: 16 * d**0.44), ("e", lambda d: 11 * d**0.41), ("f", lambda d: 5.5 * d**0.41), ("g", lambda d: 2.5 * d**0.34),
        ("k", lambda d: 0.6 * d ** (1 / 3)), ("n", lambda d: 5 * d**0.34),
    ],
)  # fmt: skip
def test_deviations_are_those_of_the_standards_formulas(letter: str, formula) -> None:  # type: ignore[no-untyped-def]
    for mean, printed in list(zip(MEANS, (BELOW | ABOVE)[letter], strict=True))[1:]:
        assert printed == pytest.approx(formula(mean), rel=0.07, abs=1.3)


def test_m_and_p_follow_from_the_grades() -> None:
    for k in range(len(UP_TO)):
        assert ABOVE["m"][k] == pytest.approx(GRADES[7][k] - GRADES[6][k], abs=2.1)
        assert 0 <= ABOVE["p"][k] - GRADES[7][k] <= 6 or k == 0  # IT7 and up to 5 um (6 by rounding)


@pytest.mark.parametrize(
    ("size", "hole", "shaft", "least", "most"),
    [
        (25, "H7", "g6", 7, 41), (25, "H7", "p6", -35, -1), (50, "H7", "k6", -18, 23), (10, "H7", "h6", 0, 24), (8, "F8", "h6", 13, 44),
        (30, "H8", "f7", 20, 74), (30.001, "H8", "f7", 25, 89), (6, "JS7", "h6", -6, 14), (100, "H11", "d9", 120, 427), (3, "H7", "n6", -10, 6),
    ],
)  # fmt: skip
def test_printed_fits(size: float, hole: str, shaft: str, least: float, most: float) -> None:
    """Clearances of common fits as handbooks print them, um (from memory)."""
    (low, high), (small, large) = (deviations(t, size * 1e-3) for t in (hole, shaft))
    assert (low - large) * 1e6 == pytest.approx(least, abs=1e-9)
    assert (high - small) * 1e6 == pytest.approx(most, abs=1e-9)


@pytest.mark.parametrize(
    ("text", "why"), [("H12", "grades"), ("k9", "grade 7"), ("x6", "neither a tolerance class"), ("0.02 mm / 0 mm", "lies above"), ("1 kg / 2 kg", "kg")]
)  # fmt: skip
def test_limits_that_say_nothing_are_refused_in_words(text: str, why: str) -> None:
    with pytest.raises(ValueError, match=why):
        deviations(text, 0.01)


def pinned(**asked: str) -> Document:
    d = Draft("Fit")
    plate = d.part("Plate", "steel", FramePlate(bores={"bore": Bore(x="20 mm", y="20 mm", diameter="25 mm")}))
    pin = d.part("Pin", "steel", Pin(diameter="25 mm", length="20 mm"))
    d.turn("Motor", d.revolute("Turns", plate["bore"], pin["axis"]), "60 rpm")
    d.require(FitLimits(name="Fit", bore=At(placed="plate", datum="bore"), pin=At(placed="pin", datum="axis"), **asked))  # type: ignore[arg-type]
    return d.document


@pytest.mark.parametrize(
    ("asked", "holds", "value"),
    [
        ({"pin_limits": "g6", "at_most": "0.041 mm"}, True, 41e-6),
        ({"pin_limits": "g6", "at_most": "0.040 mm"}, False, 41e-6),
        ({"pin_limits": "p6", "at_least": "-0.04 mm", "at_most": "0 mm"}, True, None),
        ({"pin_limits": "k6"}, False, -15e-6),
        ({"pin_limits": "-0.05 mm / -0.03 mm", "bore_limits": "0 in / 0.001 in", "at_most": "0.0754 mm"}, True, None),
    ],
)
def test_a_fit_holds_where_its_limits_do(
    evaluator: Evaluator, asked: dict[str, str], holds: bool, value: float | None
) -> None:
    v = evaluator.evaluate(pinned(**asked)).verdicts["fit"]
    assert v.holds is holds, v.words
    if value is not None:
        assert v.value == pytest.approx(value, abs=1e-12)


def test_a_fit_of_what_is_no_bore_or_not_on_one_axis_is_no_answer(evaluator: Evaluator) -> None:
    document = pinned()
    turned = document.model_dump(mode="json")["requirements"]["fit"] | {"bore": {"placed": "pin", "datum": "axis"}}
    other = apply(document, parse({"kind": "set_value", "path": "requirements.fit", "value": turned}))
    v = evaluator.evaluate(other).verdicts["fit"]
    assert v.holds is None
    assert "no bore" in v.words
    aside = apply(document, parse({"kind": "remove", "path": "joints.turns"}))
    v = evaluator.evaluate(aside).verdicts["fit"]
    assert v.holds is None, v.words


def meshed(spread: str, **asked: object) -> Document:
    document = gear_train()
    pair = next(iter(document.pairs))
    d = Draft("Mesh", document)
    d.require(GearMesh(name="Mesh", pair=pair, **asked))  # type: ignore[arg-type]
    return d.document


def test_the_mesh_of_a_gear_train(evaluator: Evaluator) -> None:
    """Backlash, contact ratio and tip clearance by the textbook's sums for standard teeth (Norton, Design of Machinery, 9.4: from
    memory): contact ratio from the length of action, tip clearance of a quarter of the module."""
    document = meshed("0 mm", backlash_at_least="0 mm", contact_ratio="1.5", tip_clearance="0.24 mm")
    v = evaluator.evaluate(document).verdicts["mesh"]
    pair = document.pairs[next(iter(document.pairs))]
    sizes = [document.parts[document.placed[p].part].element for p in (pair.a, pair.b)]  # type: ignore[index]
    module, (z1, z2) = document.scope().value(sizes[0].module, "length"), (int(s.teeth) for s in sizes)  # type: ignore[attr-defined]
    alpha = radians(20)
    r = [module * z / 2 for z in (z1, z2)]
    action = sum(sqrt((x + module) ** 2 - (x * cos(alpha)) ** 2) for x in r) - sum(r) * sin(alpha)
    ratio = action / (pi * module * cos(alpha))
    assert f"contact ratio {ratio:.3f}" in v.words, (v.words, ratio)
    assert v.holds is True, v.words


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        ({"backlash_at_least": "5 mm"}, "backlash"), ({"backlash_at_least": "-1 mm", "backlash_at_most": "-0.5 mm"}, "backlash"), ({"contact_ratio": "2.5"}, "contact ratio"),
        ({"tip_clearance": "3 mm"}, "tips over roots"),
    ],
)  # fmt: skip
def test_each_part_of_a_mesh_can_fail(evaluator: Evaluator, asked: dict[str, str], words: str) -> None:
    v = evaluator.evaluate(meshed("0 mm", **({"backlash_at_least": "-1 mm"} | asked))).verdicts["mesh"]
    assert v.holds is False, v.words
    assert words in v.words.rpartition(":")[2]


def test_backlash_follows_the_centre_distance() -> None:
    """Twice the spread times the tangent, along the line of action times the sine: the known rule for small spreads."""
    a, b = Tooth(2e-3, 20, radians(20)), Tooth(2e-3, 40, radians(20))
    from uhrwerk.core.elements.involute import normal_backlash

    spread = 1e-5
    assert normal_backlash(a, b, 0.06 + spread) == pytest.approx(
        2 * spread * tan(radians(20)) * cos(radians(20)), rel=1e-2
    )
