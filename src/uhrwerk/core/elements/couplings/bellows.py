"""Half of a bellows coupling: a hub and half of the bellows, which bend and never twist.

How far it may be out of line is its maker's number.
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.couplings.half import Flex, Half, capacity
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z
from uhrwerk.core.elements.element import Derived
from uhrwerk.core.field import Angle, Numbers, Size, SizeOrNone, Whole, whole
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class BellowsHalf(Half):
    """A hub from z = 0 and half of the bellows above it, as plain discs."""

    title: ClassVar[str] = "Bellows half"
    about: ClassVar[str] = "Half of a bellows coupling: hub and folds; it transmits at constant speed."
    group: ClassVar[str] = "Couplings"
    hint: ClassVar[str] = "bore"

    kind: Literal["bellows_half"] = "bellows_half"
    bore: Size = "10 mm"
    diameter: Size = "26 mm"
    body: Size = Field(default="12 mm", title="Length of the body")
    folds: Annotated[Whole, whole(1, 20)] = Field(default="3", title="Folds of this half")
    fold: Size = Field(default="2 mm", title="Length of a fold")
    core: Size = Field(default="16 mm", title="Inner diameter of the folds")
    offset: SizeOrNone = Field(default="0.15 mm", title="Permissible offset")
    angle: Angle = Field(default="1.5 deg", title="Permissible angle")
    shift: SizeOrNone = Field(default="0.4 mm", title="Permissible axial shift")

    @staticmethod
    def faults(n: Numbers[BellowsHalf]) -> list[tuple[str, str]]:
        if n.core >= n.diameter:
            return [("core", "leaves no folds")]
        problems = [("bore", "is as wide as the folds are inside")] if n.bore >= n.core else []
        return problems + ([("angle", "must not be below zero")] if n.angle < 0 else [])

    @staticmethod
    def solid(n: Numbers[BellowsHalf]) -> Recipe:
        hole = [circle(0, 0, n.bore / 2)]
        steps = [extrude(circle(0, 0, n.diameter / 2), 0, n.body, hole)]
        inner = n.core / 2 - (n.core - n.bore) / 4  # the wall of the folds, from the core inwards
        steps.append(extrude(circle(0, 0, n.core / 2), n.body, long(n), [circle(0, 0, inner)]))
        for k in range(n.folds):
            low = n.body + (k + 0.25) * n.fold
            steps.append(extrude(circle(0, 0, n.diameter / 2), low, low + n.fold / 2, [circle(0, 0, inner)]))
        return recipe({"half": steps}, order={"half": 60})

    @staticmethod
    def datums(n: Numbers[BellowsHalf]) -> dict[str, Datum]:
        return {
            "axis": axis(0, 0, 0, n.bore / 2, "bore", n.body), "face": plane(0, 0, long(n)), "back": plane(0, 0, 0, up=False),
        }  # fmt: skip

    @staticmethod
    def takes(n: Numbers[BellowsHalf]) -> Flex:
        return Flex(n.offset, n.angle, n.shift)

    @staticmethod
    def apart(n: Numbers[BellowsHalf]) -> float:
        return 2 * long(n)

    @staticmethod
    def dimensions(n: Numbers[BellowsHalf]) -> list[DrawnDimension]:
        edge = n.diameter / 2
        return [
            across("diameter", n.diameter), across("bore", n.bore), across("core", n.core), along_z("body", 0, n.body, edge),
            along_z("fold", n.body, n.body + n.fold, edge),
        ]  # fmt: skip

    @staticmethod
    def derived(n: Numbers[BellowsHalf]) -> list[Derived]:
        return [("Length of the half", long(n), "length"), *capacity(BellowsHalf.takes(n))]


def long(n: Numbers[BellowsHalf]) -> float:
    return float(n.body + n.folds * n.fold)
