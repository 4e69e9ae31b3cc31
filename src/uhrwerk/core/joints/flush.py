"""Flush: a relation."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Length, Numbers
from uhrwerk.core.joints.at import Side
from uhrwerk.core.joints.joint import Datums
from uhrwerk.core.joints.relation import Relation, height, kinds, need, parallel
from uhrwerk.core.joints.resolved_joint import JointFrame


class Flush(Relation):
    """Two faces in one plane, b's moved by `offset` along a's normal; opposite: the faces look at each other."""

    title: ClassVar[str] = "Faces flush"
    free: ClassVar[str] = "slides and turns on the face"
    fields: ClassVar[tuple[str, ...]] = ("offset", "flip")
    takes: ClassVar[Mapping[Datums, int]] = {("plane", "plane"): 0}
    aims: ClassVar[Literal["always", "alike", "never"]] = "always"
    sided: ClassVar[bool] = True

    kind: Literal["flush"] = "flush"
    side: Side = "opposite"
    offset: Length = "0 mm"

    @staticmethod
    def rows(n: Numbers[Flush], a: JointFrame, b: JointFrame, about: JointFrame | None, owner: str) -> list[Row]:
        need(kinds(a, b) == ("plane", "plane"), "flush needs two faces", a, b)
        return [*parallel(a, b, owner), height(a, b, n.offset, owner)]
