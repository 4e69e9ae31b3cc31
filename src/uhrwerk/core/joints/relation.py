"""What every relation defines. Relations are plain geometric mates of two datums;
together they may make a joint.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import AngleOrOpen, LengthOrOpen, Model, Name, Numbers
from uhrwerk.core.joints.at import At, two_parts
from uhrwerk.core.joints.joint import Datums
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, axes

_SPOKEN = {"axis": "an axis", "plane": "a face", "point": "a point", "frame": "a frame"}


class Relation(Model):
    """The limits hold where relations together make a joint that turns or slides, and this is the first of them.

    Of each kind: `title`, `free`, `fields` and `takes` as of a joint; `aims`, whether both directions shall point one way,
    of any datums or of two alike; `sided`, whether `side` says which way.
    """

    title: ClassVar[str]
    free: ClassVar[str]
    fields: ClassVar[tuple[str, ...]] = ()
    takes: ClassVar[Mapping[Datums, int]] = {}
    aims: ClassVar[Literal["always", "alike", "never"]] = "never"
    sided: ClassVar[bool] = False

    kind: str
    name: Name
    a: At
    b: At
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""

    def conflicts(self) -> Iterable[tuple[str, str]]:
        return two_parts(self.a, self.b, "a relation")

    @staticmethod
    def rows(n: Numbers, a: JointFrame, b: JointFrame, about: JointFrame | None, owner: str) -> list[Row]:
        """Its equations with its numbers. NotFitting where these datums do not allow it."""
        raise NotImplementedError


def kinds(a: JointFrame, b: JointFrame) -> Datums:
    return a.datum.kind, b.datum.kind


def need(fits: bool, words: str, a: JointFrame, b: JointFrame) -> None:
    """NotFitting, with what these datums are, unless they fit."""
    if not fits:
        one, other = (_SPOKEN.get(x.datum.kind, f"a {x.datum.kind}") for x in (a, b))
        raise JointDoesNotFit(f"{words}; these are {one} and {other}")


def directed(a: JointFrame, b: JointFrame) -> bool:
    return all(k in ("axis", "plane", "frame") for k in kinds(a, b))


def parallel(a: JointFrame, b: JointFrame, owner: str) -> list[Row]:
    """Both directions parallel."""
    (_, _, z), (x, y, _) = axes(a.frame), axes(b.frame)
    return [Row("square", a.link, b.link, (z, v), owner) for v in (x, y)]


def square(a: JointFrame, b: JointFrame, owner: str) -> Row:
    """Both directions square to one another."""
    return Row("square", a.link, b.link, (axes(a.frame)[2], axes(b.frame)[2]), owner)


def height(a: JointFrame, b: JointFrame, wanted: float, owner: str) -> Row:
    """b's origin at a height along a's direction."""
    return Row("point", a.link, b.link, (a.frame[:3], axes(a.frame)[2], b.frame[:3]), owner, wanted)


def radial(a: JointFrame, b: JointFrame, distance: float, owner: str) -> Row:
    """b's origin at a distance from a's axis."""
    return Row("radial", a.link, b.link, (a.frame[:3], axes(a.frame)[2], b.frame[:3]), owner, sizes=(distance,))
