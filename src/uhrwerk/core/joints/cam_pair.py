"""Runs on a cam: a pair."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.elements.cams import plate_cam
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import LengthOrOpen, Numbers
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.mounted import NEAR, SAME_ANGLE, Mounted, between, lean
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, axes

#: kinds of element that have a cam's outline
CAMS = frozenset({"plate_cam", "groove_cam", "conjugate_cam"})


class CamPair(JointPair):
    """A follower b touches the outline of cam a: the axis of its roller, of an edge (roller radius 0), or its flat face."""

    title: ClassVar[str] = "Runs on the cam"
    free: ClassVar[str] = "moved by the cam's outline"

    kind: Literal["cam"] = "cam"
    a: At
    b: At
    roller_radius: LengthOrOpen = Field(default="", title="Roller radius, if not the part's")

    @classmethod
    def offered(cls, elements: tuple[str, str], datums: tuple[str, str]) -> bool:
        return (
            elements[0] in CAMS and datums[0] == "axis" and datums[1] in ("axis", "plane") and elements[1] not in CAMS
        )

    @staticmethod
    def rows(
        n: Numbers[CamPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        if sizes[0].kind not in CAMS:
            raise JointDoesNotFit("the first part must be a cam")
        if a.datum.kind != "axis":
            raise JointDoesNotFit("a cam is taken by its axis")
        grain = plate_cam.grain(sizes[0])
        curve, (x, y, _) = plate_cam.curve(sizes[0]), axes(a.frame)
        if b.datum.kind == "plane":
            vectors = (a.frame[:3], x, y, b.frame[:3], axes(b.frame)[2])
            return [Row("rest", a.link, b.link, vectors, owner, sizes=(0.0,), curve=curve, grain=grain)]
        radius = roller_radius(n, b)
        return [
            Row(
                "touch",
                a.link,
                b.link,
                (a.frame[:3], x, y, b.frame[:3]),
                owner,
                sizes=(radius,),
                curve=curve,
                grain=grain,
            )
        ]

    @staticmethod
    def mounted(t: Mounted, n: Numbers[CamPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        angle, _, along = between(a, b)
        if t.datums[1].kind == "plane":
            off = float(np.abs(angle - np.pi / 2).max())
            leans = f"the face leans by {t.angle(off)} against the cam's axis, and must stand along it; {t.seat()}"
            return leans if off > SAME_ANGLE else ""
        if lean(angle) > SAME_ANGLE:
            return f"the axes stand at {t.angle(lean(angle))} to one another, and must be parallel; {t.seat()}"
        d, up = t.datums[1], np.sign(np.cos(angle[0]))
        ends = along[:, None] + up * np.array(d.ends)
        gap = float(np.maximum(ends.min(axis=1) - sizes[0].width, -ends.max(axis=1)).max())
        if d.length and gap > NEAR:
            return f"the roller lies {t.length(gap)} beside the cam along its axis: move {t.b} by more than that; {t.seat()}"
        return ""


def roller_radius(n: Numbers[CamPair], b: JointFrame) -> float:
    """The radius that touches the cam, m: the stated one, else that of the follower's pin."""
    if n.roller_radius is not None:
        if n.roller_radius < 0:
            raise JointDoesNotFit("a roller's radius must not be negative")
        return float(n.roller_radius)
    if b.datum.kind != "axis":
        raise JointDoesNotFit("a follower is taken by the axis of its roller, or by its flat face")
    if b.datum.side == "bore":
        raise JointDoesNotFit("that axis is a bore's: take a pin's, or state the roller radius")
    return float(b.datum.radius)
