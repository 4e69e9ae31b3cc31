"""Geneva wheel and driver: a pair."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers, PlacedId
from uhrwerk.core.joints.mounted import Mounted, between, far, side_by_side
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, axes

#: the driver is looked at in steps of at most this turn, rad: the pin is in a slot for a quarter of a turn at least
GRAIN = 0.15
#: distances of the axes that differ by more are not those of the wheel, m
NEAR = 1e-6


class GenevaPair(JointPair):
    """Driver a turns Geneva wheel b on by one slot each turn, and holds it between."""

    title: ClassVar[str] = "Geneva drive"
    free: ClassVar[str] = "one step a turn, locked between"
    made_of: ClassVar[tuple[frozenset[str], frozenset[str]] | None] = (
        frozenset({"geneva_driver"}), frozenset({"geneva_wheel"})
    )  # fmt: skip

    kind: Literal["geneva"] = "geneva"
    a: PlacedId
    b: PlacedId

    @staticmethod
    def rows(
        n: Numbers[GenevaPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        one, other = sizes
        if one.slots != other.slots or abs(one.distance - other.distance) > NEAR:
            raise JointDoesNotFit("slots and distance of driver and wheel must be the same")
        (xa, _, za), (xb, _, _) = axes(a.frame), axes(b.frame)
        vectors = (a.frame[:3], za, xa, b.frame[:3], xb)
        return [Row("geneva", a.link, b.link, vectors, owner, sizes=(float(one.slots),), grain=GRAIN)]

    @staticmethod
    def ratio(n: Numbers[GenevaPair], sizes: tuple[Numbers, Numbers], a_turn: Callable[[float], str]) -> str:
        return f"−1 : {sizes[1].slots}"

    @staticmethod
    def mounted(t: Mounted, n: Numbers[GenevaPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        angle, apart, _ = between(a, b)
        wrong = side_by_side(t, angle, apart)
        if wrong:
            return wrong
        real, nominal = float(apart[0]), float(sizes[0].distance)
        return far(t, real, nominal, "the pin meets no slot") if abs(real - nominal) > NEAR else ""
