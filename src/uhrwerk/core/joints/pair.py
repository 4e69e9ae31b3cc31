"""What every pair defines. Pairs are contacts that transmit motion: ratio and sign from
the teeth.

Signs follow from rolling without slip at the pitch point: Litvin, Fuentes, Gear Geometry and Applied Theory, ch. 3;
mesh at a centre distance: ISO 21771-1. From memory.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Annotated, ClassVar

from pydantic import Field

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Model, Name, Numbers, PlacedId
from uhrwerk.core.joints.at import At, two_parts
from uhrwerk.core.joints.mounted import Mounted
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, ResolvedJoint

Teeth = Annotated[int, Field(ge=1, le=1000)]


class JointPair(Model):
    """Part or datum a transmits to b.

    Of each kind: `title` and `free` as of a joint; `on`, the datums of parts that are named without one; `made_of`, the
    kinds of element that it is for, on either side, if not any with the right datums.
    """

    title: ClassVar[str]
    free: ClassVar[str]
    made_of: ClassVar[tuple[frozenset[str], frozenset[str]] | None] = None

    on: ClassVar[tuple[str, str]] = ("axis", "axis")

    kind: str
    name: Name
    a: PlacedId | At
    b: PlacedId | At

    @property
    def at(self) -> tuple[At, At]:
        """Both ends as datums."""
        one, other = (
            x if isinstance(x, At) else At(placed=x, datum=d) for x, d in zip((self.a, self.b), self.on, strict=True)
        )
        return one, other

    def conflicts(self) -> Iterable[tuple[str, str]]:
        return two_parts(self.a, self.b, "a pair")

    @classmethod
    def offered(cls, elements: tuple[str, str], datums: tuple[str, str]) -> bool:
        """Whether it may join two datums of these kinds, on elements of these kinds, in this order."""
        if cls.made_of is None:
            return datums == ("axis", "axis")
        return elements[0] in cls.made_of[0] and elements[1] in cls.made_of[1]

    @staticmethod
    def rows(n: Numbers, a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str) -> list[Row]:
        """Its equation, from its numbers and those of both elements. NotFitting where these do not allow it."""
        raise NotImplementedError

    @staticmethod
    def ratio(n: Numbers, sizes: tuple[Numbers, Numbers], a_turn: Callable[[float], str]) -> str:
        """Turns of b for so many of a, with sign, or the travel of a turn, which `a_turn` words from m; empty where there is
        no such ratio. `sizes` are the numbers of both elements."""
        return ""

    @staticmethod
    def derived_between(
        n: Numbers, sizes: tuple[Numbers, Numbers], a: Array, b: Array
    ) -> list[tuple[str, float | str, str]]:
        """What follows from its numbers, those of both elements, and where their axes lie, frames (7,): name, value, dimension."""
        return []

    @classmethod
    def resolved(cls, a: JointFrame, b: JointFrame, blank: ResolvedJoint) -> ResolvedJoint | None:
        """The joint that it makes by itself, if it leaves a coordinate of its own. `blank` brings its names."""
        return None

    @staticmethod
    def mounted(t: Mounted, n: Numbers, sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        """What is wrong with how its axes lie, frames (K, 7) over the cycle; empty where nothing is."""
        return ""


def need_axes(a: JointFrame, b: JointFrame) -> None:
    if a.datum.kind != "axis" or b.datum.kind != "axis":
        raise JointDoesNotFit("this pair needs two axes")
