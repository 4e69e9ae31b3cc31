"""Prism: a regular polygon along z, known by its width across flats, with a bore if asked."""

from __future__ import annotations

from math import cos, pi, sin
from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.plain.faces import GROUP, middle_planes
from uhrwerk.core.field import Numbers, Size, SizeOrNone, Whole, whole
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, face, path, plane, recipe


class Prism(Element):
    """A regular prism about the z axis, from z = 0 up; its first flat lies square to x."""

    title: ClassVar[str] = "Prism"
    about: ClassVar[str] = "A bar with three sides or more, by its width across flats."
    group: ClassVar[str] = GROUP
    hint: ClassVar[str] = "across_flats"

    kind: Literal["prism"] = "prism"
    sides: Annotated[Whole, whole(3, 60)] = "6"
    across_flats: Size = "20 mm"
    length: Size = "40 mm"
    bore: SizeOrNone = "0 mm"

    @staticmethod
    def faults(n: Numbers[Prism]) -> list[tuple[str, str]]:
        return [("bore", "leaves no wall")] if n.bore >= n.across_flats else []

    @staticmethod
    def solid(n: Numbers[Prism]) -> Recipe:
        half = pi / n.sides
        r = n.across_flats / 2 / cos(half)
        corners = [[r * cos((2 * k - 1) * half), r * sin((2 * k - 1) * half)] for k in range(n.sides)]
        outline = path(corners[0], *(["line", c] for c in [*corners[1:], corners[0]]))
        return recipe({"prism": [extrude(outline, 0, n.length, [circle(0, 0, n.bore / 2)] if n.bore else [])]})

    @staticmethod
    def datums(n: Numbers[Prism]) -> dict[str, Datum]:
        r, z = n.across_flats / 2, n.length / 2
        turns = [2 * pi * k / n.sides for k in range(n.sides)]
        named = {f"flat_{k}": face((r * cos(t), r * sin(t), z), (cos(t), sin(t), 0)) for k, t in enumerate(turns, 1)}
        named |= {"axis": axis(0, 0, 0), "top": plane(0, 0, n.length), "bottom": plane(0, 0, 0, up=False)}
        named |= middle_planes(z)
        return named | ({"bore": axis(0, 0, 0, n.bore / 2, "bore", n.length)} if n.bore else {})

    @staticmethod
    def dimensions(n: Numbers[Prism]) -> list[DrawnDimension]:
        r = n.across_flats / 2
        far = -r if n.sides % 2 == 0 else 0.0  # of an odd number no flat lies opposite the first
        out = [along_x("across_flats", far, r)] if far else []
        out.append(along_z("length", 0, n.length))
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[Prism]) -> list[Derived]:
        return [("Across corners", n.across_flats / cos(pi / n.sides), "length")]
