"""A made-up pair: the origin of b glides on a face of a, or at a height over it."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Length, Numbers
from uhrwerk.core.joints import PAIRS
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.relation import height
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame


class Glide(JointPair):
    """A point that stays on a face."""

    title: ClassVar[str] = "Glides on the face"
    free: ClassVar[str] = "moves along the face, turns any way"

    kind: Literal["glide"] = "glide"
    a: At
    b: At
    height: Length = "0 mm"

    @classmethod
    def offered(cls, elements: tuple[str, str], datums: tuple[str, str]) -> bool:
        return datums[0] == "plane"

    @staticmethod
    def rows(n: Numbers[Glide], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str) -> list[Row]:
        if a.datum.kind != "plane":
            raise JointDoesNotFit("it glides on a face")
        return [height(a, b, n.height, owner)]


def register() -> None:
    PAIRS.register(Glide)
