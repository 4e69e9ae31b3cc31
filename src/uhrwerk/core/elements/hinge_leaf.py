"""Hinge leaf: a plate along x with solid knuckles round the z axis; two of them, one turned over, make a hinge."""

from __future__ import annotations

from math import sqrt
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_y, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Numbers, Size, Whole, whole
from uhrwerk.core.solids import Datum, Recipe, axis, circle, cut_out, extrude, face, plane, recipe, rectangle


class HingeLeaf(Element):
    """A hinge leaf along x, with knuckles round the z axis; the counterpart has the other knuckles."""

    title: ClassVar[str] = "Hinge leaf"
    about: ClassVar[str] = "A leaf with knuckles; its counterpart has the others."
    group: ClassVar[str] = "Hinges"
    hint: ClassVar[str] = "length"

    kind: Literal["hinge_leaf"] = "hinge_leaf"
    length: Size = "60 mm"
    width: Size = "30 mm"
    thickness: Size = "3 mm"
    knuckle_diameter: Size = "9 mm"
    bore: Size = "5.1 mm"
    knuckles: Annotated[Whole, whole(2, 15)] = "3"
    first: bool = Field(default=True, title="Has the first knuckle")
    gap: Size = "0.4 mm"

    @staticmethod
    def faults(n: Numbers[HingeLeaf]) -> list[tuple[str, str]]:
        problems = []
        if n.bore >= n.knuckle_diameter:
            problems.append(("bore", "is as wide as the knuckle"))
        if n.thickness >= n.knuckle_diameter / 2:
            problems.append(("thickness", "must be below half the knuckle"))
        if n.width <= n.knuckle_diameter / 2 + n.gap:
            problems.append(("width", "does not reach beyond the knuckle"))
        if n.gap >= n.length / n.knuckles / 2:
            problems.append(("gap", "leaves no knuckles"))
        return problems

    @staticmethod
    def solid(n: Numbers[HingeLeaf]) -> Recipe:
        r = n.knuckle_diameter / 2
        steps = [extrude(rectangle(0, -r, n.width, -r + n.thickness), 0, n.length)]
        free = r + n.gap
        for low, high, own in _knuckles(n):
            if not own:  # room for the other leaf's knuckle
                reach = sqrt(free**2 - (r - n.thickness) ** 2) if free > r - n.thickness else free
                steps.append(cut_out(rectangle(-n.width, -free, max(reach, free), free), low, high))
        steps += [extrude(circle(0, 0, r), low, high) for low, high, own in _knuckles(n) if own]
        steps.append(cut_out(circle(0, 0, n.bore / 2), 0, n.length))
        return recipe({"leaf": steps})

    @staticmethod
    def datums(n: Numbers[HingeLeaf]) -> dict[str, Datum]:
        r, mid, half = n.knuckle_diameter / 2, n.width / 2, n.length / 2
        return {
            "pin": axis(0, 0, 0, n.bore / 2, "bore", n.length), "bottom": plane(mid, -r + n.thickness / 2, 0, up=False),
            "top": plane(mid, -r + n.thickness / 2, n.length), "outside": face((mid, -r, half), (0, -1, 0)),
            "inside": face((mid, -r + n.thickness, half), (0, 1, 0)), "edge": face((n.width, -r + n.thickness / 2, half), (1, 0, 0)),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if g.face and not isinstance(g.stated, HingeLeaf):
            length = g.ask("length", "60 mm")
            leaf = GrownPart("Hinge leaf", cls(length=length), {"kind": "rigid", "flip": True}, by="outside")
            return [Growth("A hinge leaf on it", (leaf,), asks={"length": length})]
        if not isinstance(g.stated, HingeLeaf) or g.name != "pin":
            return []
        host, opens = g.stated, g.ask("opens_to", "110 deg")
        turned_over = host.first if g.sizes.knuckles % 2 == 0 else not host.first
        joint: dict[str, str | bool] = {
            "kind": "revolute",
            "offset": host.length,
            "flip": True,
            "turn_from": "0 deg",
            "turn_to": opens,
        }
        other = GrownPart("Other leaf", host.model_copy(update={"first": turned_over}), joint, by="pin")
        plain = Pin(diameter=g.running, length=host.length)
        long, wide = g.ask("pin_length", f"{host.length} + 6 mm"), f"1.5 * ({g.running})"
        headed = Pin(diameter=g.running, length=long, head_diameter=wide, head_height=f"0.3 * ({g.running})")
        return [
            Growth("Its counterpart, on a pin", (other, GrownPart("Hinge pin", plain, {"kind": "rigid"})), asks={"opens_to": opens}),
            Growth("Its counterpart, on a headed pin", (other, GrownPart("Hinge pin", headed, {"kind": "rigid"})),
                   asks={"opens_to": opens, "pin_length": long}),
        ]  # fmt: skip

    @staticmethod
    def dimensions(n: Numbers[HingeLeaf]) -> list[DrawnDimension]:
        r = n.knuckle_diameter / 2
        return [
            along_x("width", 0, n.width, -r), along_y("thickness", -r, n.thickness - r, n.width),
            across("knuckle_diameter", n.knuckle_diameter), across("bore", n.bore, way=0), along_z("length", 0, n.length, n.width),
        ]  # fmt: skip

    @staticmethod
    def derived(n: Numbers[HingeLeaf]) -> list[Derived]:
        own = sum(high - low for low, high, own in _knuckles(n) if own)
        return [
            ("Own knuckles together", own, "length"),
            ("Wall round the bore", (n.knuckle_diameter - n.bore) / 2, "length"),
        ]


def _knuckles(n: Numbers[HingeLeaf]) -> list[tuple[float, float, bool]]:
    """(from, to, own) along z; own ones are shortened by half a gap where a knuckle of the other leaf is next."""
    step, out = n.length / n.knuckles, []
    for k in range(n.knuckles):
        own = (k % 2 == 0) == n.first
        cut = (n.gap / 2) if own else (-n.gap / 2)
        low = k * step + (cut if k else 0.0)
        high = (k + 1) * step - (cut if k < n.knuckles - 1 else 0.0)
        out.append((low, high, own))
    return out
