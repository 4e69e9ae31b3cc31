"""Screw and nut: a pair."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Length, Numbers
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.mounted import NEAR, SAME_ANGLE, Mounted, between, lean
from uhrwerk.core.joints.pair import JointPair, need_axes
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, axes


class ScrewPair(JointPair):
    """Nut b on screw a, each held by joints of its own; a left-hand thread has a negative lead."""

    title: ClassVar[str] = "Screw and nut"
    free: ClassVar[str] = "travel from the lead, on the card"

    kind: Literal["screw_nut"] = "screw_nut"
    a: At
    b: At
    lead: Length = "2 mm"

    @staticmethod
    def rows(
        n: Numbers[ScrewPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        need_axes(a, b)
        if not n.lead:
            raise JointDoesNotFit("the lead of a screw cannot be zero")
        vectors = (a.frame[:3], *axes(a.frame), b.frame[:3], axes(b.frame)[0])
        return [Row("screw", a.link, b.link, vectors, owner, sizes=(n.lead,))]

    @staticmethod
    def ratio(n: Numbers[ScrewPair], sizes: tuple[Numbers, Numbers], a_turn: Callable[[float], str]) -> str:
        return a_turn(n.lead)

    @staticmethod
    def mounted(t: Mounted, n: Numbers[ScrewPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        angle, apart, _ = between(a, b)
        if lean(angle) > SAME_ANGLE:
            return f"the axes of screw and nut stand at {t.angle(lean(angle))} to one another, and must lie on one line; {t.seat()}"
        if float(apart.max()) > NEAR:
            return f"the axes of screw and nut are {t.length(float(apart.max()))} apart, and must lie on one line: move {t.b} by as much; {t.seat()}"
        return ""
