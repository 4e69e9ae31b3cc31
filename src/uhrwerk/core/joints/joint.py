"""What every joint defines: its rows, its coordinates, its words."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Length, Model, Name, Numbers
from uhrwerk.core.joints.at import At, two_parts
from uhrwerk.core.joints.resolved_joint import ResolvedJoint

Datums = tuple[str, str]


class Joint(Model):
    """Travel counts along the axis of a, angles about it (right hand), from where both datum frames coincide after a's was
    moved by `offset`. `flip` turns b over about the x of its datum; what is counted stays the same. b is said to move
    against a.

    Of each kind: `title`, what it does, and `of_faces`, the same of two faces; `free`, what freedom remains; `verb`, between
    the names of b and a; `does`, of parts that relations join so; `fields`, those that matter when joining; `takes`, the
    kinds of datums that it is offered for, with its place among the offers ("any" for those that nothing else is for);
    `coordinates`, the leading one first; `symbol` in the scheme (ISO 3952-1). `aligned`: both axes point the same way;
    `meets`: both origins lie together; `turned`: both x point the same way.
    """

    title: ClassVar[str]
    of_faces: ClassVar[str] = ""
    free: ClassVar[str]
    verb: ClassVar[str]
    does: ClassVar[str]
    fields: ClassVar[tuple[str, ...]] = ("offset", "flip")
    takes: ClassVar[Mapping[Datums, int]] = {}
    coordinates: ClassVar[tuple[str, ...]] = ()
    symbol: ClassVar[Literal["ring", "box"]] = "ring"
    along: ClassVar[bool] = False  # the scheme looks along its axis
    aligned: ClassVar[bool] = True
    meets: ClassVar[bool] = True
    turned: ClassVar[bool] = False
    fixed: ClassVar[bool] = False  # both parts move as one
    as_it_stands: ClassVar[bool] = False  # offered with the numbers that leave both parts where they are

    kind: str
    name: Name
    a: At
    b: At
    offset: Length = "0 mm"
    flip: bool = False

    def conflicts(self) -> Iterable[tuple[str, str]]:
        return two_parts(self.a, self.b, "a joint")

    @classmethod
    def driveable(cls) -> tuple[str, ...]:
        """Coordinates that a driver may move: those of a joint that only turns and slides on one axis."""
        return cls.coordinates if set(cls.coordinates) <= {"turn", "slide"} else ()

    @staticmethod
    def unusable(n: Numbers) -> str:
        """Why its numbers cannot be used, if so."""
        return ""

    @staticmethod
    def rows(h: ResolvedJoint) -> list[Row]:
        """The equations that hold both links."""
        raise NotImplementedError
