"""A closed line of straight pieces and arcs through corners, as drawings hold it and as it is drawn by hand."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.field import Id, Length, Model, Number, Numbers
from uhrwerk.core.outlines.outline import Outline, OutlineHandle, Unfit, point
from uhrwerk.core.outlines.relations import DRAWN_RELATIONS, Contradiction, DrawnRelation, Solved, solved
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import path

#: corners that can be taken hold of: more come from a drawing
HANDLES = 60


class Turn(Model):
    """A corner; `bulge` makes the way to the next one an arc: the tangent of a quarter of its angle, to the left where it is
    above zero."""

    x: Length = "0 mm"
    y: Length = "0 mm"
    bulge: Number = "0"


def _half_round() -> dict[str, Turn]:
    return {"a": Turn(), "b": Turn(x="20 mm", bulge="1"), "c": Turn(x="20 mm", y="10 mm"), "d": Turn(y="10 mm")}


class Traced(Outline):
    """Corners in their order, with straight pieces or arcs between them; where relations are stated, the corners nearest to these
    that satisfy them."""

    title: ClassVar[str] = "Corners and arcs"

    kind: Literal["traced"] = "traced"
    corners: dict[Id, Turn] = Field(default_factory=_half_round, min_length=2, max_length=8000)
    relations: dict[Id, Annotated[DrawnRelation, DRAWN_RELATIONS]] = Field(default_factory=dict, max_length=400)

    @staticmethod
    def handles(n: Numbers[Traced]) -> list[OutlineHandle]:
        if len(n.corners) > HANDLES:
            return []
        try:
            now = _satisfied(n)
        except Unfit:
            now = Solved(_places(n), (True,) * len(n.corners))
        return [
            point(f"corner {k}", float(x), float(y), f"corners.{i}.")
            for k, (i, (x, y, _), free) in enumerate(zip(n.corners, now.corners, now.free, strict=True), 1)
            if free
        ]

    @staticmethod
    def outline_data(n: Numbers[Traced]) -> Drawn:
        corners = [(complex(x, y), float(bulge)) for x, y, bulge in _satisfied(n).corners]
        steps: list[list[Any]] = []
        for (a, bulge), (b, _) in zip(corners, [*corners[1:], corners[0]], strict=True):
            if abs(b - a) < 1e-9:
                raise Unfit("two of its corners lie on one another")
            if abs(bulge) > 50:
                raise Unfit("an arc turns by a whole turn or more")
            if abs(bulge) < 1e-9:
                steps.append(["line", [b.real, b.imag]])
            else:
                middle = (a + b) / 2 - 1j * (b - a) / 2 * bulge  # an arc to the left bulges to the right of its chord
                steps.append(["arc", [middle.real, middle.imag], [b.real, b.imag]])
        if len(corners) == 2 and all(abs(bulge) < 1e-9 for _, bulge in corners):
            raise Unfit("it encloses nothing")
        first = corners[0][0]
        return path((first.real, first.imag), *steps)


def _places(n: Numbers[Traced]) -> np.ndarray:
    return np.array([[c.x, c.y, c.bulge] for c in n.corners.values()])


def _satisfied(n: Numbers[Traced]) -> Solved:
    """Corners that satisfy the relations. Unfit, in words, where they name none, or contradict one another."""
    if not n.relations:
        return Solved(_places(n), (True,) * len(n.corners))
    relations: Mapping[str, Numbers] = n.relations
    for i, r in relations.items():
        ends = [getattr(r, end) for end in DRAWN_RELATIONS[r.kind].ends]
        if not all(ends):
            raise Unfit(f"{words(n, i)}: choose what it is between")
        if not set(ends) <= set(n.corners):
            raise Unfit(f"{words(n, i)}: a corner of it is gone")
    try:
        return solved(list(n.corners), _places(n), relations)
    except Contradiction as error:
        raise Unfit(f"these contradict one another: {'; '.join(words(n, i) for i in error.relations)}") from error


def words(n: Numbers[Traced], relation: str) -> str:
    """A relation in words: what it asks, of which corners or pieces."""
    r = n.relations[relation]
    model, order = DRAWN_RELATIONS[r.kind], list(n.corners)
    ends = [
        f"{'corner' if end == 'corner' or (end == 'other' and 'corner' in model.ends) else 'piece'} {order.index(at) + 1}"
        for end in model.ends
        if (at := getattr(r, end)) in n.corners
    ]
    return f"{model.title.lower()} ({', '.join(ends)})" if ends else model.title.lower()
