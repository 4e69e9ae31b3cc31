"""What datums are called: by what is seen there, no two of a part alike, whatever the step and however often."""

from __future__ import annotations

import pytest

from uhrwerk import Bore, Draft, FramePlate, SpurGear, outlines, steps
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.part.datum_labels import natural
from uhrwerk.core.views.scene import labels_of
from uhrwerk.demo import MODULES, mended


@pytest.fixture(scope="module")
def drawn(evaluator: Evaluator) -> dict[str, str]:
    draft = Draft("Drawn")
    own = {
        "bar": steps.Extrude(name="Bar", outline=outlines.Rectangle(length="40 mm", width="20 mm", corner="3 mm"), length="5 mm"),
        "boss": steps.Extrude(name="Boss", plane="bar.end", outline=outlines.Circle(diameter="8 mm"), length="5 mm"),
    }  # fmt: skip
    draft.own_part("Own", "steel", own)
    return labels_of(evaluator.moved(draft.document))["own"]


def test_faces_by_where_they_look_and_round_ones_by_what_they_are(drawn: dict[str, str]) -> None:
    assert drawn["bar.end"] == "Bar: top face"
    assert drawn["bar.side_1"] == "Bar: front face"
    assert drawn["boss.side_1"] == "Boss: pin"
    assert drawn["boss.side_1_high"] == "Boss: pin, top rim"
    assert drawn["bar.side_2"] == "Bar: rounding 1"
    assert drawn["bar.side_2_low"] == "Bar: rounding 1, bottom rim"
    assert drawn["bar.end+bar.side_1"] == "edge of top and front face"
    assert drawn["xy_plane"] == "xy plane"


def test_an_element_keeps_its_own_names_in_natural_order(evaluator: Evaluator) -> None:
    draft = Draft("Plate")
    draft.part(
        "Plate", "steel", FramePlate(bores={"b_10": Bore(x="10 mm", y="10 mm"), "b_2": Bore(x="30 mm", y="10 mm")})
    )
    names = list(labels_of(evaluator.moved(draft.document))["plate"].values())
    assert names.index("b 2") < names.index("b 10")
    assert sorted(["side_10", "side_2", "side_1"], key=natural) == ["side_1", "side_2", "side_10"]


def test_no_two_datums_of_a_part_are_called_alike(evaluator: Evaluator) -> None:
    draft = Draft("Gear with a boss")
    gear = draft.part("Gear", "steel", SpurGear(teeth=18))
    draft.step(gear, steps.Extrude(name="Boss", outline=outlines.Circle(diameter="14 mm"), length="12 mm"))
    documents = [draft.document, *(mended(module) for module in MODULES)]
    for document in documents:
        for placed, labels in labels_of(evaluator.moved(document)).items():
            assert len(set(labels.values())) == len(labels), f"{document.name}: {placed}"
