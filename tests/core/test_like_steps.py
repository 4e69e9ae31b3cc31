"""Build steps of parts that are like one another: whichever gets one, its id is free in all of them."""

from __future__ import annotations

import numpy as np

from tests.context import CONTEXT
from tests.mechanisms import gear_train
from uhrwerk import At, Draft, GearMesh, NoInterference, outlines, steps
from uhrwerk.core.document import Document, apply
from uhrwerk.core.document.command import AddStep
from uhrwerk.core.edit.join import candidates
from uhrwerk.core.elements.like import ChangedNumber, Like
from uhrwerk.core.evaluation.evaluator import Evaluator


def added(d: Document, part: str, plane: str, radius: float) -> Document:
    cut = steps.Cut(name="Cut", plane=plane, outline=outlines.Circle(diameter=f"{2 * radius} mm"), through=True)
    return apply(d, AddStep(part=part, step=cut))


def test_ids_never_collide(evaluator: Evaluator) -> None:
    d = Draft("Leaves")
    bar = steps.Extrude(name="Bar", outline=outlines.Rectangle(length="40 mm", width="20 mm"), length="5 mm")
    d.own_part("Leaf", "steel", {"bar": bar})
    d.part("Like", "steel", Like(part="leaf"), x="60 mm")
    d.part("Third", "steel", Like(part="like"), x="120 mm")
    document = added(d.document, "like", "bar.end", 3)
    document = added(document, "leaf", "bar.end", 2)  # the id that the other has by now
    document = added(document, "third", "bar.end", 4)
    ids = [list(document.parts[p].steps) for p in ("leaf", "like", "third")]
    assert ids == [["bar", "cut_2"], ["cut"], ["cut_3"]]
    result = evaluator.evaluate(document)
    assert not result.problems


def meshing(like: bool) -> Document:
    """A pinion and a wheel in mesh; the wheel is like the pinion with more teeth, or stated in full."""
    d = Draft("Mesh", gear_train())
    if like:
        changes = {"teeth": ChangedNumber(path="element.teeth", formula="54")}
        d.set("parts.wheel.element", Like(part="pinion", changes=changes).model_dump(mode="json"))
    d.require(GearMesh(name="Mesh", pair=next(iter(d.document.pairs))))
    d.require(NoInterference(name="Clear"))
    return d.document


def test_teeth_of_a_like_gear_mesh_as_those_of_a_stated_one(evaluator: Evaluator) -> None:
    result, witness = (evaluator.evaluate(meshing(like)) for like in (True, False))
    assert not result.problems
    assert [v.holds for v in witness.verdicts.values()] == [True, True]
    assert [v.words for v in result.verdicts.values()] == [v.words for v in witness.verdicts.values()]
    turned = [e.mechanism.part_pose("wheel", e.moved.motion.track.pose[20]) for e in (result, witness)]
    np.testing.assert_allclose(*turned, atol=1e-12)


def test_a_like_gear_is_offered_its_teeth() -> None:
    document = Document.model_validate({**meshing(like=True).model_dump(mode="json"), "pairs": {}, "requirements": {}})
    ends = (At(placed=p, datum="axis") for p in ("pinion", "wheel"))
    assert "gear" in {option.kind for option in candidates(document, *ends, CONTEXT)}
