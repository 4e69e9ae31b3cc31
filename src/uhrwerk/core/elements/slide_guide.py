"""Slide guide: a block with a channel along x, in which a flat bar slides; and that bar."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_y, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import PLAY, Ground, GrownPart, Growth
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, cut_out, extrude, face, path, plane, recipe, rectangle


def along(x: float, z: float) -> Datum:
    """An axis along x, from which turns are counted from z."""
    return Datum("axis", np.array([x, 0.0, z]), np.array([1.0, 0, 0]), np.array([0.0, 0, 1]))


class SlideGuide(Element):
    """A block from z = 0 with a channel along x in its upper face; held by a bore through its floor, round the z axis."""

    title: ClassVar[str] = "Slide guide"
    about: ClassVar[str] = "A block with a channel in which a flat bar slides."
    group: ClassVar[str] = "Links and levers"
    hint: ClassVar[str] = "length"

    kind: Literal["slide_guide"] = "slide_guide"
    length: Size = "30 mm"
    width: Size = "20 mm"
    height: Size = "12 mm"
    channel_width: Size = "8.1 mm"
    channel_depth: Size = "5.1 mm"
    bore: SizeOrNone = Field(default="4 mm", title="Bore of the screw")

    @staticmethod
    def faults(n: Numbers[SlideGuide]) -> list[tuple[str, str]]:
        problems = []
        if n.channel_width >= n.width:
            problems.append(("channel_width", "leaves no walls"))
        if n.channel_depth >= n.height:
            problems.append(("channel_depth", "leaves no floor"))
        if n.bore and n.bore >= min(n.channel_width, n.length):
            problems.append(("bore", "is wider than the floor"))
        return problems

    @staticmethod
    def solid(n: Numbers[SlideGuide]) -> Recipe:
        x, y, w, floor = n.length / 2, n.width / 2, n.channel_width / 2, n.height - n.channel_depth
        holes = [circle(0, 0, n.bore / 2)] if n.bore else []
        block = extrude(rectangle(-x, -y, x, y), 0, n.height, holes)
        return recipe({"guide": [block, cut_out(rectangle(-2 * x, -w, 2 * x, w), floor, 2 * n.height)]})

    @staticmethod
    def datums(n: Numbers[SlideGuide]) -> dict[str, Datum]:
        x, floor = n.length / 2, n.height - n.channel_depth
        middle = (n.channel_width + n.width) / 4
        return {
            "channel": along(0, floor + n.channel_depth / 2),
            "foot": axis(0, 0, 0, n.bore / 2, "bore", floor) if n.bore else axis(0, 0, 0),
            "bottom": plane(0, middle, 0, up=False), "top": plane(0, middle, n.height),
            "left": face((-x, 0, floor + n.channel_depth / 2), (-1, 0, 0)), "right": face((x, 0, floor + n.channel_depth / 2), (1, 0, 0)),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not g.in_plate:
            return []
        length, stroke, turn = g.ask("length", "30 mm"), g.ask("stroke", "10 mm"), g.ask("direction", "0 deg")
        guide = cls(length=length, bore=g.diameter or g.text(2 * g.datum.radius))
        n_wide = f"{g.text(2 * g.datum.radius)} + 4 mm"
        guide = guide.model_copy(update={"channel_width": n_wide, "width": f"{n_wide} + 12 mm"})
        bar = SlideBar(width=f"{n_wide} - {g.text(PLAY)}", bore="4 mm", length=f"{length} + {stroke} + 20 mm")
        pieces = (
            GrownPart("Slide guide", guide, {"kind": "rigid", "turn": turn}, by="foot"),
            GrownPart(
                "Slide",
                bar,
                {"kind": "prismatic", "offset": f"-({length} + {stroke} + 20 mm) / 2"},
                by="slide",
                on="0",
                at="channel",
            ),
        )
        return [
            Growth(
                "A guide with a bar that slides in it",
                pieces,
                asks={"length": length, "stroke": stroke, "direction": turn},
            )
        ]

    @staticmethod
    def dimensions(n: Numbers[SlideGuide]) -> list[DrawnDimension]:
        x, y, w = n.length / 2, n.width / 2, n.channel_width / 2
        out = [
            along_x("length", -x, x, -y), along_y("width", -y, y, x), along_y("channel_width", -w, w, -x), along_z("height", 0, n.height, x),
            along_z("channel_depth", n.height - n.channel_depth, n.height, -x),
        ]  # fmt: skip
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[SlideGuide]) -> list[Derived]:
        return [
            ("Floor of the channel", n.height - n.channel_depth, "length"),
            ("Wall beside the channel", (n.width - n.channel_width) / 2, "length"),
        ]


class SlideBar(Element):
    """A flat bar along x from a round head at x = 0, in which there is a bore; the head may be wider than the bar."""

    title: ClassVar[str] = "Slide bar"
    about: ClassVar[str] = "A flat bar that slides in a guide, with a head for a roller or a pin."
    group: ClassVar[str] = "Links and levers"
    hint: ClassVar[str] = "length"

    kind: Literal["slide_bar"] = "slide_bar"
    length: Size = Field(default="60 mm", title="From the bore to its end")
    width: Size = "8 mm"
    thickness: Size = "5 mm"
    head: Size = Field(default="14 mm", title="Width of the head")
    neck: Size = Field(default="10 mm", title="From the bore to the shoulder")
    bore: Size = "4 mm"

    @staticmethod
    def faults(n: Numbers[SlideBar]) -> list[tuple[str, str]]:
        problems = []
        if n.head < n.width:
            problems.append(("head", "is narrower than the bar"))
        if n.bore >= n.head:
            problems.append(("bore", "is as wide as the head"))
        if n.neck <= n.bore / 2:
            problems.append(("neck", "ends within the bore"))
        if n.length <= n.neck:
            problems.append(("length", "does not reach beyond the shoulder"))
        return problems

    @staticmethod
    def solid(n: Numbers[SlideBar]) -> Recipe:
        h, w = n.head / 2, n.width / 2
        shoulder = [["line", [n.neck, h]]] if n.head > n.width else []
        outline = path(
            (0.0, -h), ["line", [n.neck, -h]], *([["line", [n.neck, -w]]] if shoulder else []), ["line", [n.length, -w]],
            ["line", [n.length, w]], ["line", [n.neck, w]], *shoulder, ["line", [0.0, h]], ["arc", [-h, 0.0], [0.0, -h]],
        )  # fmt: skip
        return recipe({"bar": [extrude(outline, 0, n.thickness, [circle(0, 0, n.bore / 2)])]})

    @staticmethod
    def datums(n: Numbers[SlideBar]) -> dict[str, Datum]:
        middle = n.thickness / 2
        return {
            "hole_1": axis(0, 0, 0, n.bore / 2, "bore", n.thickness), "slide": along(0, middle),
            "shoulder": face((n.neck, 0, middle), (1, 0, 0)), "end": face((n.length, 0, middle), (1, 0, 0)),
            "top": plane(n.length / 2, 0, n.thickness), "bottom": plane(n.length / 2, 0, 0, up=False),
        }  # fmt: skip

    @staticmethod
    def dimensions(n: Numbers[SlideBar]) -> list[DrawnDimension]:
        h, w = n.head / 2, n.width / 2
        return [
            along_x("length", 0, n.length, -h), along_x("neck", 0, n.neck, h), along_y("width", -w, w, n.length), along_y("head", -h, h, 0.0),
            along_z("thickness", 0, n.thickness, n.length), across("bore", n.bore),
        ]  # fmt: skip


__all__ = ["SlideBar", "SlideGuide"]
