"""Stepped shaft: up to three cylinders along z, one after the other."""

from __future__ import annotations

import itertools
from typing import ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, along_z, through
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, chamfer, circle, cut_out, extrude, plane, recipe


class SteppedShaft(Element):
    """A round shaft along z in up to three steps, with broken ends."""

    title: ClassVar[str] = "Stepped shaft"
    about: ClassVar[str] = "A round shaft or hub in up to three steps, with a bore if asked."
    group: ClassVar[str] = "Shafts and pins"
    hint: ClassVar[str] = "diameter_1"

    kind: Literal["stepped_shaft"] = "stepped_shaft"
    diameter_1: Size = "8 mm"
    length_1: Size = "12 mm"
    diameter_2: Size = "12 mm"
    length_2: SizeOrNone = "20 mm"
    diameter_3: Size = "8 mm"
    length_3: SizeOrNone = "12 mm"
    bore: SizeOrNone = "0 mm"
    chamfer: SizeOrNone = "0.4 mm"

    @staticmethod
    def faults(n: Numbers[SteppedShaft]) -> list[tuple[str, str]]:
        problems = [
            (f"diameter_{k}", "is no wider than the bore") for k, (d, _, _) in enumerate(_steps(n), 1) if d <= n.bore
        ]
        first, last = _steps(n)[0], _steps(n)[-1]
        walls = [(d - n.bore) / 2 for d, _, _ in (first, last)]
        largest = min(*walls, *((high - low) / (2 if first == last else 1) for _, low, high in (first, last)))
        if n.chamfer and n.chamfer >= largest and not problems:
            problems.append(("chamfer", f"is too large for the ends: it must be below {1e3 * largest:.3f} mm"))
        return problems

    @staticmethod
    def solid(n: Numbers[SteppedShaft]) -> Recipe:
        steps = _steps(n)
        build = [extrude(circle(0, 0, d / 2), low, high) for d, low, high in steps]
        if n.chamfer:
            build += [chamfer(n.chamfer, at_z=0.0), chamfer(n.chamfer, at_z=steps[-1][2])]
        if n.bore:
            build.append(cut_out(circle(0, 0, n.bore / 2), 0.0, steps[-1][2]))
        return recipe({"shaft": build})

    @staticmethod
    def datums(n: Numbers[SteppedShaft]) -> dict[str, Datum]:
        steps = _steps(n)
        end = steps[-1][2]
        named = {"start": plane(0, 0, 0, up=False), "end": plane(0, 0, end)}
        for k, (d, low, high) in enumerate(steps, 1):
            named[f"step_{k}"] = axis(0, 0, low, d / 2, "pin", high - low)
        for k, (one, other) in enumerate(itertools.pairwise(steps), 1):
            if one[0] != other[0]:
                named[f"shoulder_{k}"] = plane(0, 0, one[2], up=one[0] > other[0])
        named["start_centre"], named["end_centre"] = axis(0, 0, 0), axis(0, 0, end)
        if n.bore:
            named["bore"] = axis(0, 0, 0, n.bore / 2, "bore", end)
        return named

    @staticmethod
    def dimensions(n: Numbers[SteppedShaft]) -> list[DrawnDimension]:
        out = [through("bore", n.bore, 0)] if n.bore else []
        given = [k for k in (1, 2, 3) if getattr(n, f"length_{k}")]
        for k, (d, low, high) in zip(given, _steps(n), strict=True):
            out += [through(f"diameter_{k}", d, (low + high) / 2), along_z(f"length_{k}", low, high, d / 2)]
        return out

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if g.in_plate:
            return [cls._bushing(g)]
        if g.pin and g.datum.radius:
            return [cls._on_shaft(g, "collar", 5.0, 0.0), cls._on_shaft(g, "hub", 4.0, 8.0)]
        return []

    @classmethod
    def _bushing(cls, g: Ground) -> Growth:
        """A sleeve as long as the bore, held in it; what turns runs in the sleeve."""
        outside = g.diameter or g.text(2 * g.datum.radius)
        inside = g.ask("bore", g.text(1.4 * g.datum.radius))
        sleeve = cls(
            diameter_1=outside, length_1=g.text(g.depth), length_2="0 mm", length_3="0 mm", bore=inside, chamfer="0 mm"
        )
        piece = GrownPart("Bushing", sleeve, {"kind": "rigid", "offset": g.down}, by="step_1")
        return Growth("A bushing held in it", (piece,), asks={"bore": inside})

    @classmethod
    def _on_shaft(cls, g: Ground, what: str, flange: float, sleeve: float) -> Growth:
        """A ring held near the shaft's end: a flange so many mm long, and a sleeve behind it if asked."""
        d = 2e3 * g.datum.radius  # proportions of common practice
        wide = g.ask("diameter_1", g.text((2.6 if sleeve else 1.8) * d / 1e3))
        ring = cls(
            diameter_1=wide, length_1=g.text(flange / 1e3), diameter_2=g.text(1.8 * d / 1e3), length_2=g.text(sleeve / 1e3),
            length_3="0 mm", bore=g.diameter or g.text(d / 1e3), chamfer=g.text(min(0.3, 0.1 * d) / 1e3),
        )  # fmt: skip
        offset = g.below_upper((flange + sleeve + 1.0) / 1e3)
        piece = GrownPart(what.capitalize(), ring, {"kind": "rigid", "offset": offset}, by="bore")
        return Growth(f"A {what} held on it", (piece,), asks={"diameter_1": wide})

    @staticmethod
    def derived(n: Numbers[SteppedShaft]) -> list[Derived]:
        return [("Overall length", _steps(n)[-1][2], "length")]


def _steps(n: Numbers[SteppedShaft]) -> list[tuple[float, float, float]]:
    """(diameter, from, to) of each step."""
    out, z = [], 0.0
    for diameter, length in ((n.diameter_1, n.length_1), (n.diameter_2, n.length_2), (n.diameter_3, n.length_3)):
        if length:
            out.append((diameter, z, z + length))
            z += length
    return out
