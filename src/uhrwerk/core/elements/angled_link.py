"""Angled link: two arms from one hole, the first along x."""

from __future__ import annotations

from math import cos, pi, sin
from typing import ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_y, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.field import Angle, Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, axis, bar, circle, cut_out, extrude, plane, recipe


class AngledLink(Element):
    """Two arms from one hole: the first along x, the second turned by the angle."""

    title: ClassVar[str] = "Angled link"
    about: ClassVar[str] = "A bell crank or bent link with three holes."
    group: ClassVar[str] = "Links and levers"
    hint: ClassVar[str] = "arm_1"

    kind: Literal["angled_link"] = "angled_link"
    arm_1: Size = "40 mm"
    arm_2: Size = "40 mm"
    angle: Angle = "120 deg"
    width: Size = "12 mm"
    thickness: Size = "4 mm"
    bore_1: Size = "4 mm"
    bore_2: Size = "4 mm"
    bore_3: Size = "4 mm"

    @staticmethod
    def faults(n: Numbers[AngledLink]) -> list[tuple[str, str]]:
        problems = [(f"bore_{k}", "is as wide as the link") for k in (1, 2, 3) if getattr(n, f"bore_{k}") >= n.width]
        if not 0.17 < n.angle < 2 * pi - 0.17:
            problems.append(("angle", "must lie between 10 and 350 deg"))
        if n.arm_1 <= (n.bore_1 + n.bore_2) / 2:
            problems.append(("arm_1", "is so short that the holes run into one another"))
        if n.arm_2 <= (n.bore_1 + n.bore_3) / 2:
            problems.append(("arm_2", "is so short that the holes run into one another"))
        return problems

    @staticmethod
    def solid(n: Numbers[AngledLink]) -> Recipe:
        o, p, q = _ends(n)
        steps = [extrude(bar(*o, *end, n.width), 0, n.thickness) for end in (p, q)]
        steps += [
            cut_out(circle(x, y, d / 2), 0, n.thickness)
            for (x, y), d in zip((o, p, q), (n.bore_1, n.bore_2, n.bore_3), strict=True)
        ]
        return recipe({"link": steps})

    @staticmethod
    def datums(n: Numbers[AngledLink]) -> dict[str, Datum]:
        sizes = zip(_ends(n), (n.bore_1, n.bore_2, n.bore_3), strict=True)
        named = {f"hole_{k}": axis(x, y, 0, d / 2, "bore", n.thickness) for k, ((x, y), d) in enumerate(sizes, 1)}
        return named | {"top": plane(n.arm_1 / 2, 0, n.thickness), "bottom": plane(n.arm_1 / 2, 0, 0, up=False)}

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        """On the middle hole of such a link: the one that crosses it, bent the other way."""
        if not isinstance(g.stated, AngledLink) or g.name != "hole_1":
            return []
        host, crossed = g.stated, g.ask("crossed", "60 deg")
        partner = host.model_copy(update={"angle": f"360 deg - ({host.angle})"})
        joint = {"kind": "revolute", "offset": host.thickness}
        turn = g.value(crossed, "angle")
        piece = GrownPart("Cross link", partner, joint, by="hole_1", turn=turn)
        return [Growth("The link that crosses it", (piece,), asks={"crossed": crossed})]

    @staticmethod
    def dimensions(n: Numbers[AngledLink]) -> list[DrawnDimension]:
        o, p, q = _ends(n)
        arm = DrawnDimension("arm_2", (0.0, 0.0, 0.0), (*q, 0.0))
        bores = [
            across(f"bore_{k}", d, *at)
            for k, at, d in zip((1, 2, 3), (o, p, q), (n.bore_1, n.bore_2, n.bore_3), strict=True)
        ]
        width = along_y("width", -n.width / 2, n.width / 2, n.arm_1 / 2)
        return [along_x("arm_1", 0, n.arm_1), arm, width, along_z("thickness", 0, n.thickness), *bores]

    @staticmethod
    def derived(n: Numbers[AngledLink]) -> list[Derived]:
        (_, (x, _), (u, v)) = _ends(n)
        return [("Hole 2 to hole 3", ((x - u) ** 2 + v**2) ** 0.5, "length")]


def _ends(n: Numbers[AngledLink]) -> list[tuple[float, float]]:
    return [(0.0, 0.0), (n.arm_1, 0.0), (n.arm_2 * cos(n.angle), n.arm_2 * sin(n.angle))]
