"""Symmetric: a relation."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints.at import At, Side
from uhrwerk.core.joints.joint import Datums
from uhrwerk.core.joints.relation import Relation, kinds, need
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, axes


class Symmetric(Relation):
    """b is where a's image behind the plane `about` is: points, axes or faces."""

    title: ClassVar[str] = "Symmetric"
    free: ClassVar[str] = "as its image moves"
    fields: ClassVar[tuple[str, ...]] = ("about",)
    takes: ClassVar[Mapping[Datums, int]] = {(k, k): 9 for k in ("plane", "axis", "point")}
    aims: ClassVar[Literal["always", "alike", "never"]] = "alike"

    kind: Literal["symmetric"] = "symmetric"
    about: At
    side: Side = "same"

    @staticmethod
    def rows(n: Numbers[Symmetric], a: JointFrame, b: JointFrame, about: JointFrame | None, owner: str) -> list[Row]:
        assert about is not None
        both = kinds(a, b)
        if about.datum.kind != "plane":
            raise JointDoesNotFit("symmetric needs a face as its plane")
        need(both[0] == both[1], "symmetric needs two datums of one kind", a, b)
        za, (x, y, z) = axes(a.frame)[2], axes(b.frame)
        normal, foot = axes(about.frame)[2], about.frame[:3]

        def mirror(p: Array) -> Row:
            return Row("mirror", a.link, b.link, (za, p, normal), owner, c=about.link)

        def image(p: Array) -> Row:
            vectors = (a.frame[:3], b.frame[:3], p, foot, normal)
            return Row("mirror_point", a.link, b.link, vectors, owner, c=about.link)

        if both[0] == "axis":
            return [mirror(x), mirror(y), image(x), image(y)]
        if both[0] == "plane":
            return [mirror(x), mirror(y), image(z)]
        return [image(x), image(y), image(z)]
