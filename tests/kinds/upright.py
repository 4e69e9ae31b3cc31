"""A made-up relation: b's axis stands square on a's, and its origin lies in the plane across a's."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Length, Numbers
from uhrwerk.core.joints import RELATIONS
from uhrwerk.core.joints.joint import Datums
from uhrwerk.core.joints.relation import Relation, directed, height, need, square
from uhrwerk.core.joints.resolved_joint import JointFrame


class Upright(Relation):
    """Square to the other's axis, at a height along it."""

    title: ClassVar[str] = "Stands upright"
    free: ClassVar[str] = "turns about either axis, shifts across"
    fields: ClassVar[tuple[str, ...]] = ("height",)
    takes: ClassVar[Mapping[Datums, int]] = {("axis", "axis"): 9}

    kind: Literal["upright"] = "upright"
    height: Length = "0 mm"

    @staticmethod
    def rows(n: Numbers[Upright], a: JointFrame, b: JointFrame, about: JointFrame | None, owner: str) -> list[Row]:
        need(directed(a, b), "this needs two axes", a, b)
        return [square(a, b, owner), height(a, b, n.height, owner)]


def register() -> None:
    RELATIONS.register(Upright)
