"""Build steps of parts that are like one another: whichever gets one, its id is free in all of them."""

from __future__ import annotations

from uhrwerk import Draft, outlines, steps
from uhrwerk.core.document import Document, apply
from uhrwerk.core.document.command import AddStep
from uhrwerk.core.elements.like import Like
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
