"""Universal joint: two yokes and the cross between, whose arms are square to one another.

One joint alone turns unevenly: tan b = tan a / cos(beta). Two turn evenly where the yokes of the shaft between lie in one plane and
both angles are the same. Norton, Design of Machinery (from memory).
"""

from __future__ import annotations

from math import asin, pi, sqrt
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.elements.couplings.half import Flex, Half, capacity
from uhrwerk.core.elements.couplings.half import across as step
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth, Tie
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, axis, circle, cut_out, extrude, plane, recipe, rectangle

#: a yoke is so many times as wide as its bore (common practice)
WIDE = 2.5


class Yoke(Half):
    """A hub from z = 0 with two ears above it, and a bore through both along x, at the height of the joint's centre."""

    title: ClassVar[str] = "Yoke"
    about: ClassVar[str] = "Half of a universal joint: a hub with two ears."
    group: ClassVar[str] = "Couplings"
    hint: ClassVar[str] = "bore"

    kind: Literal["yoke"] = "yoke"
    bore: Size = "10 mm"
    diameter: Size = "25 mm"
    body: Size = Field(default="12 mm", title="Length of the hub")
    reach: Size = Field(default="26 mm", title="Height of the joint's centre")
    opening: Size = Field(default="15 mm", title="Between the ears")
    arm: Size = Field(default="5 mm", title="Bore for the cross")

    @staticmethod
    def faults(n: Numbers[Yoke]) -> list[tuple[str, str]]:
        problems = [("bore", "is as wide as the hub")] if n.bore >= n.diameter else []
        if n.opening >= n.diameter:
            problems.append(("opening", "leaves no ears"))
        elif n.arm >= 0.7 * _ear(n):
            problems.append(("arm", "is too wide for the ears"))
        if n.reach < n.body + n.arm:
            problems.append(("reach", "does not lie above the hub"))
        return problems

    @staticmethod
    def solid(n: Numbers[Yoke]) -> Recipe:
        r, half, top = n.diameter / 2, n.opening / 2, n.reach + _ear(n) / 2
        hole = [circle(0, 0, n.bore / 2)]
        steps = [extrude(circle(0, 0, r), 0, n.body, hole), extrude(circle(0, 0, r), n.body, top)]
        steps += [cut_out(rectangle(-half, -2 * r, half, 2 * r), n.body, top)]
        for low, high in ((-2 * r, -_ear(n) / 2), (_ear(n) / 2, 2 * r)):
            steps.append(cut_out(rectangle(-2 * r, low, 2 * r, high), n.body, top))
        steps.append(step("take", "arms", "yz", circle(0, n.reach, n.arm / 2), -2 * r, 2 * r))
        return recipe({"yoke": steps}, order={"yoke": 2})

    @staticmethod
    def datums(n: Numbers[Yoke]) -> dict[str, Datum]:
        arms = Datum(
            "axis", np.array([0.0, 0, n.reach]), np.array([1.0, 0, 0]), np.array([0.0, 0, 1]), n.arm / 2, "bore", n.diameter,
            -n.diameter / 2,
        )  # fmt: skip
        return {"axis": axis(0, 0, 0, n.bore / 2, "bore", n.body), "arms": arms, "back": plane(0, 0, 0, up=False)}

    @staticmethod
    def takes(n: Numbers[Yoke]) -> Flex:
        """Until an ear meets the other hub: its end lies on a circle round the joint's centre."""
        far = sqrt((n.diameter / 2) ** 2 + (_ear(n) / 2) ** 2)
        room = n.reach - n.body
        lean = asin(min(1.0, room / far)) - asin(min(1.0, _ear(n) / 2 / far)) if far > room else pi / 3
        return Flex(0.0, max(0.0, min(lean, pi / 3)), 0.0)

    @staticmethod
    def apart(n: Numbers[Yoke]) -> float:
        return float(2 * n.reach)

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not g.pin:
            return []
        own = g.diameter or g.text(2 * g.datum.radius)
        next_ = g.ask("next_shaft", own)
        wide = max(2 * g.datum.radius, g.value(next_, "length"))
        yoke = cls(
            bore=own, diameter=g.text(WIDE * wide), body=g.text(1.2 * wide), reach=g.text(2.9 * wide), opening=g.text(1.5 * wide), arm=g.text(wide / 2),
        )  # fmt: skip
        cross = Cross(length=yoke.diameter, arm=f"{yoke.arm} - 0.05 mm", block=g.text(1.4 * wide))
        shaft = Pin(diameter=next_, length=g.text(4 * wide))
        other = yoke.model_copy(update={"bore": next_})
        pieces = (
            GrownPart("Yoke", yoke, {"kind": "rigid", "offset": g.below_upper(1.2 * wide)}),
            GrownPart("Cross", cross, {"kind": "revolute"}, by="first", on="0", at="arms"),
            GrownPart("Yoke", other, {"kind": "revolute"}, by="arms", on="1", at="second"),
            GrownPart("Next shaft", shaft, {"kind": "rigid", "offset": yoke.body, "flip": True}, on="2"),
        )
        ties = (Tie(("frame", g.under), ("3", "axis"), joint={"kind": "cylindrical"}),) if g.under else ()
        return [Growth("A universal joint to the next shaft", pieces, ties, {"next_shaft": next_})]

    @staticmethod
    def dimensions(n: Numbers[Yoke]) -> list[DrawnDimension]:
        edge = n.diameter / 2
        return [
            across("diameter", n.diameter), across("bore", n.bore), along_z("body", 0, n.body, edge), along_z("reach", 0, n.reach, -edge),
            along_x("opening", -n.opening / 2, n.opening / 2, edge), along_z("arm", n.reach - n.arm / 2, n.reach + n.arm / 2, edge),
        ]  # fmt: skip

    @staticmethod
    def derived(n: Numbers[Yoke]) -> list[Derived]:
        return capacity(Yoke.takes(n))


class Cross(Element):
    """The cross of a universal joint: arms along x and y through the origin, and a block in the middle."""

    title: ClassVar[str] = "Cross"
    about: ClassVar[str] = "The cross between two yokes: two arms square to one another."
    group: ClassVar[str] = "Couplings"
    hint: ClassVar[str] = "length"

    kind: Literal["cross"] = "cross"
    length: Size = Field(default="25 mm", title="Length of an arm, end to end")
    arm: Size = Field(default="4.95 mm", title="Diameter of the arms")
    block: Size = Field(default="14 mm", title="Edge of the block")

    @staticmethod
    def faults(n: Numbers[Cross]) -> list[tuple[str, str]]:
        problems = [("block", "is as long as the arms")] if n.block >= n.length else []
        return problems + ([("arm", "is as thick as the block")] if n.arm >= n.block else [])

    @staticmethod
    def solid(n: Numbers[Cross]) -> Recipe:
        half, high = n.block / 2, _thick(n) / 2
        steps = [extrude(rectangle(-half, -half, half, half), -high, high)]
        for name, base in (("first", "yz"), ("second", "xz")):
            steps.append(step("add", name, base, circle(0, 0, n.arm / 2), -n.length / 2, n.length / 2))
        return recipe({"cross": steps}, order={"cross": 4})

    @staticmethod
    def datums(n: Numbers[Cross]) -> dict[str, Datum]:
        z, none = np.array([0.0, 0, 1]), np.zeros(3)
        first = Datum("axis", none, np.array([1.0, 0, 0]), z, n.arm / 2, "pin", n.length, -n.length / 2)
        second = Datum("axis", none, np.array([0.0, 1, 0]), -z, n.arm / 2, "pin", n.length, -n.length / 2)
        return {"first": first, "second": second}

    @staticmethod
    def dimensions(n: Numbers[Cross]) -> list[DrawnDimension]:
        return [
            along_x("length", -n.length / 2, n.length / 2, n.block / 2), along_x("block", -n.block / 2, n.block / 2, -n.block / 2),
            along_z("arm", -n.arm / 2, n.arm / 2, n.length / 2),
        ]  # fmt: skip


def _ear(n: Numbers) -> float:
    """How wide an ear is, and how far it reaches round the arm's bore: as its thickness and the bore ask."""
    return float(max(n.arm * 1.8, (n.diameter - n.opening) / 2 + n.arm))


def _thick(n: Numbers) -> float:
    """The block's height, a little more than the arms."""
    return float(min(n.block, 1.3 * n.arm))
