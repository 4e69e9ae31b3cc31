"""A made-up outline: an arrowhead."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.outlines import OUTLINES, Outline
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import path


class Arrowhead(Outline):
    """A triangle that points along x, its base on the y axis."""

    title: ClassVar[str] = "Arrowhead"

    kind: Literal["arrowhead"] = "arrowhead"
    length: Size = "12 mm"
    width: Size = "8 mm"

    @staticmethod
    def outline_data(n: Numbers[Arrowhead]) -> Drawn:
        corners = [[0.0, -n.width / 2], [n.length, 0.0], [0.0, n.width / 2]]
        return path(corners[0], *(["line", c] for c in [*corners[1:], corners[0]]))


def register() -> None:
    OUTLINES.register(Arrowhead)
