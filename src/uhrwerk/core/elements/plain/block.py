"""Block: a box with its edges along z rounded if asked, and a bore through it if asked."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_y, along_z
from uhrwerk.core.elements.element import Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.plain.faces import GROUP, box_faces
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, recipe, rectangle


class Block(Element):
    """A box centred on the z axis, from z = 0 up."""

    title: ClassVar[str] = "Block"
    about: ClassVar[str] = "A box; its upright edges can be rounded, a bore can go through it."
    group: ClassVar[str] = GROUP
    hint: ClassVar[str] = "length"

    kind: Literal["block"] = "block"
    length: Size = "60 mm"
    width: Size = "40 mm"
    height: Size = "20 mm"
    corner: SizeOrNone = "0 mm"
    bore: SizeOrNone = "0 mm"

    @staticmethod
    def faults(n: Numbers[Block]) -> list[tuple[str, str]]:
        problems = []
        if 2 * n.corner >= min(n.length, n.width):
            problems.append(("corner", "is too large for the block"))
        if n.bore >= min(n.length, n.width):
            problems.append(("bore", "leaves no wall"))
        return problems

    @staticmethod
    def solid(n: Numbers[Block]) -> Recipe:
        outline = rectangle(-n.length / 2, -n.width / 2, n.length / 2, n.width / 2, n.corner)
        return recipe({"block": [extrude(outline, 0, n.height, [circle(0, 0, n.bore / 2)] if n.bore else [])]})

    @staticmethod
    def datums(n: Numbers[Block]) -> dict[str, Datum]:
        named = box_faces(n.length, n.width, n.height)
        return named | ({"bore": axis(0, 0, 0, n.bore / 2, "bore", n.height)} if n.bore else {})

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        """A block on a face, its bottom in the middle of that."""
        if not g.face:
            return []
        asks = {k: g.ask(k, text) for k, text in (("length", "30 mm"), ("width", "20 mm"), ("height", "10 mm"))}
        block = GrownPart(
            "Block",
            cls(length=asks["length"], width=asks["width"], height=asks["height"]),
            {"kind": "rigid", "flip": True},
            by="bottom",
        )
        return [Growth("A block on it", (block,), asks=asks)]

    @staticmethod
    def dimensions(n: Numbers[Block]) -> list[DrawnDimension]:
        x, y = n.length / 2, n.width / 2
        out = [along_x("length", -x, x), along_y("width", -y, y), along_z("height", 0, n.height)]
        out += [along_x("corner", -x, -x + n.corner)] if n.corner else []
        return out + ([across("bore", n.bore)] if n.bore else [])
