"""Link bar: a straight bar with rounded ends and two or three holes along x, and a finger beyond the last."""

from __future__ import annotations

import itertools
from dataclasses import replace
from math import acos, asin, cos, pi, sin
from typing import Any, ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_y, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import GAP, PLAY, Ground, GrownPart, Growth, Tie
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, chamfer, circle, extrude, path, plane, recipe


class LinkBar(Element):
    """A straight bar with rounded ends and two or three holes along x; a finger may reach beyond the last hole."""

    title: ClassVar[str] = "Link bar"
    about: ClassVar[str] = "A straight bar with two or three holes, and a finger if asked."
    group: ClassVar[str] = "Links and levers"
    hint: ClassVar[str] = "distance"

    kind: Literal["link_bar"] = "link_bar"
    distance: Size = "60 mm"
    second_distance: SizeOrNone = "0 mm"
    width: Size = "12 mm"
    thickness: Size = "5 mm"
    bore_1: Size = "5 mm"
    bore_2: Size = "5 mm"
    bore_3: Size = "5 mm"
    finger: SizeOrNone = "0 mm"
    finger_width: SizeOrNone = "6 mm"
    chamfer: SizeOrNone = "0 mm"

    @staticmethod
    def faults(n: Numbers[LinkBar]) -> list[tuple[str, str]]:
        holes = _holes(n)
        problems = [(f"bore_{i}", "is as wide as the bar") for i, (_, d) in enumerate(holes, 1) if d >= n.width]
        for i, ((x, d), (y, e)) in enumerate(itertools.pairwise(holes)):
            if y - x <= (d + e) / 2:
                problems.append((("distance", "second_distance")[i], "is so short that the holes run into one another"))
        if n.finger:
            if not 0 < n.finger_width < n.width:
                problems.append(("finger_width", "must be above zero and below the width of the bar"))
            elif n.finger < n.width / 2 + n.finger_width / 2:
                problems.append(
                    ("finger", "does not reach beyond the end of the bar; it is measured from the last hole")
                )
        walls = [(n.width - d) / 4 for _, d in holes]
        walls += [(y - x - (d + e) / 2) / 2 for (x, d), (y, e) in itertools.pairwise(holes)]
        largest = min(n.thickness / 2, *walls, *([n.finger_width / 2] if n.finger else []))
        if n.chamfer and n.chamfer >= largest and not problems:
            problems.append(("chamfer", f"is too large for bar and holes: it must be below {1e3 * largest:.3f} mm"))
        return problems

    @staticmethod
    def solid(n: Numbers[LinkBar]) -> Recipe:
        end, h = _holes(n)[-1][0], n.width / 2
        if n.finger:
            f, tip = n.finger_width / 2, end + n.finger
            at = asin(f / h)
            mid = (at + pi / 2) / 2
            right: list[list[Any]] = [
                ["arc", [end + h * cos(mid), -h * sin(mid)], [end + h * cos(at), -f]],
                ["line", [tip - f, -f]],
                ["arc", [tip, 0.0], [tip - f, f]],
                ["line", [end + h * cos(at), f]],
                ["arc", [end + h * cos(mid), h * sin(mid)], [end, h]],
            ]
        else:
            right = [["arc", [end + h, 0.0], [end, h]]]
        outline = path((0.0, -h), ["line", [end, -h]], *right, ["line", [0.0, h]], ["arc", [-h, 0.0], [0.0, -h]])
        steps = [extrude(outline, 0, n.thickness, [circle(x, 0, d / 2) for x, d in _holes(n)])]
        if n.chamfer:
            steps += [chamfer(n.chamfer, at_z=0.0), chamfer(n.chamfer, at_z=n.thickness)]
        return recipe({"bar": steps})

    @staticmethod
    def datums(n: Numbers[LinkBar]) -> dict[str, Datum]:
        middle = n.distance / 2
        named = {"top": plane(middle, 0, n.thickness), "bottom": plane(middle, 0, 0, up=False)}
        named |= {f"hole_{i}": axis(x, 0, 0, d / 2, "bore", n.thickness) for i, (x, d) in enumerate(_holes(n), 1)}
        if n.finger:
            f = n.finger_width / 2
            named["tip"] = axis(_holes(n)[-1][0] + n.finger - f, 0, 0, f, "pin", n.thickness)
        return named

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        length = g.ask("distance", "")
        if g.in_plate:
            return [cls._crank(g, length or "20 mm"), cls._lever(g, length or "60 mm")]
        if g.pin:
            bar = cls(distance=length or "60 mm", bore_1=g.running)
            joint = {"kind": "revolute", "offset": g.below_upper(0.006)}
            return [
                Growth(
                    "A link that turns on it",
                    (GrownPart("Link", bar, joint, by="hole_1"),),
                    asks={"distance": bar.distance},
                )
            ]
        if g.bore and g.name.startswith("hole_"):
            return [
                cls._next(g, length or "60 mm"),
                *([cls._closed(g)] if g.thickness and hasattr(g.sizes, "distance") else []),
            ]
        return []

    @classmethod
    def _crank(cls, g: Ground, length: str) -> Growth:
        above = g.text(g.depth + GAP)
        shaft = Pin(diameter=g.running, length=f"{above} + 5 mm")
        crank = cls(distance=length, bore_1=shaft.diameter)
        return Growth("A crank that turns in it", (
            GrownPart("Crank shaft", shaft, {"kind": "revolute", "offset": g.down}),
            GrownPart("Crank", crank, {"kind": "rigid", "offset": above}, by="hole_1", on="0"),
        ), asks={"distance": length})  # fmt: skip

    @classmethod
    def _lever(cls, g: Ground, length: str) -> Growth:
        above = g.text(g.depth + GAP)
        pin = Pin(diameter=g.diameter or g.text(2 * g.datum.radius), length=f"{above} + 5 mm")
        lever = cls(distance=length, bore_1=f"{pin.diameter} + {g.text(PLAY)}")
        return Growth("A lever that turns on a pin in it", (
            GrownPart("Pin", pin, {"kind": "rigid", "offset": g.down}),
            GrownPart("Lever", lever, {"kind": "revolute", "offset": above}, by="hole_1", on="0"),
        ), asks={"distance": length})  # fmt: skip

    @classmethod
    def _on_pin(cls, g: Ground, length: str, turn: float = 0.0) -> tuple[GrownPart, GrownPart]:
        """The next link over the one that has the hole, on a pin held in that."""
        above = g.text(g.depth + GAP)
        pin = Pin(diameter=g.text(2 * g.datum.radius), length=f"{above} + 5 mm")
        link = cls(
            distance=length, bore_1=f"{pin.diameter} + {g.text(PLAY)}", bore_2=f"{pin.diameter} + {g.text(PLAY)}"
        )
        return (
            GrownPart("Pin", pin, {"kind": "rigid"}),
            GrownPart("Link", link, {"kind": "revolute", "offset": above}, by="hole_1", on="0", turn=turn),
        )

    @classmethod
    def _next(cls, g: Ground, length: str) -> Growth:
        return Growth("The next link, on a pin", cls._on_pin(g, length), asks={"distance": length})

    @classmethod
    def _closed(cls, g: Ground) -> Growth:
        """A coupler on this hole and a rocker that leads it back to the frame: with the crank, a four-bar (Grashof: the crank
        goes round where it and the longest are together shorter than the other two)."""
        crank = g.sizes.distance
        coupler, rocker = (g.ask(name, g.text(k * crank)) for name, k in (("coupler", 3.5), ("rocker", 2.5)))
        ground, c, r = 4 * crank, 3.5 * crank, 2.5 * crank
        reach = ground - crank  # of the crank's tip from the rocker's pivot, where the crank points there
        lean = acos((reach**2 + c**2 - r**2) / (2 * reach * c))
        swing = pi - acos((reach**2 + r**2 - c**2) / (2 * reach * r))
        pin, link = cls._on_pin(g, coupler, lean)
        low, above = g.text(g.thickness + g.height), g.text(g.depth + GAP)
        post = Pin(diameter="6 mm", length=f"{low} + 5 mm")
        lever = cls(distance=rocker, bore_1=f"6 mm + {g.text(PLAY)}", bore_2=pin.element.diameter)  # type: ignore[attr-defined]
        pieces = (
            pin, replace(link, name="Coupler"),
            GrownPart("Rocker pivot", post, {"kind": "rigid", "offset": g.text(-g.thickness)}, on="frame"),
            GrownPart("Rocker", lever, {"kind": "revolute", "offset": low}, by="hole_1", on="2", turn=swing),
            GrownPart("Pin", pin.element, {"kind": "rigid"}, on="3", at="hole_2"),
        )  # fmt: skip
        tie = Tie(("4", "axis"), ("1", "hole_2"), {"kind": "revolute", "offset": above})
        asks = {"coupler": coupler, "rocker": rocker}
        return Growth(
            "A coupler and a rocker to the plate", pieces, (tie,), asks, ground - crank, "6 mm", straight=True
        )

    @staticmethod
    def dimensions(n: Numbers[LinkBar]) -> list[DrawnDimension]:
        holes, h = _holes(n), n.width / 2
        out = [along_x("distance", 0, n.distance), along_y("width", -h, h, n.distance / 2)]
        out.append(along_z("thickness", 0, n.thickness))
        out += [across(f"bore_{k}", d, x) for k, (x, d) in enumerate(holes, 1)]
        if n.second_distance:
            out.append(along_x("second_distance", n.distance, n.distance + n.second_distance))
        if n.finger:
            end, f = holes[-1][0], n.finger_width / 2
            out += [along_x("finger", end, end + n.finger), along_y("finger_width", -f, f, end + n.finger - f)]
        return out

    @staticmethod
    def derived(n: Numbers[LinkBar]) -> list[Derived]:
        end = _holes(n)[-1][0]
        reach = end + (n.finger if n.finger else n.width / 2)
        return [
            ("Overall length", reach + n.width / 2, "length"),
            ("Wall at hole 1", (n.width - n.bore_1) / 2, "length"),
        ]


def _holes(n: Numbers[LinkBar]) -> list[tuple[float, float]]:
    """(x, diameter) of each hole."""
    holes = [(0.0, n.bore_1), (n.distance, n.bore_2)]
    return [*holes, (n.distance + n.second_distance, n.bore_3)] if n.second_distance else holes
