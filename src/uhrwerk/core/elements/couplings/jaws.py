"""Jaw coupling: two hubs with jaws that reach into one another, and an elastic star between.

Jaws of both hubs and arms of the star take turns round the axis, each as wide as the next, less the play on either side.
"""

from __future__ import annotations

from math import cos, pi, sin
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.couplings.half import Flex, Half, capacity
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Numbers, Size, SizeOrNone, Whole, whole
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe
from uhrwerk.core.solids.recipe import Outline, path

#: a hub is so many times as wide as its bore, and its body so long (common practice)
WIDE, LONG = 2.5, 1.2


class JawHub(Half):
    """A hub from z = 0 with its jaws above; the middle of a jaw lies on x."""

    title: ClassVar[str] = "Jaw hub"
    about: ClassVar[str] = "Half of a jaw coupling: a hub with jaws for an elastic star."
    group: ClassVar[str] = "Couplings"
    hint: ClassVar[str] = "bore"

    kind: Literal["jaw_hub"] = "jaw_hub"
    bore: Size = "10 mm"
    diameter: Size = "30 mm"
    body: Size = Field(default="12 mm", title="Length of the body")
    jaws: Annotated[Whole, whole(2, 12)] = "3"
    jaw_length: Size = "8 mm"
    ring: Size = Field(default="14 mm", title="Jaws begin at a diameter of")
    play: SizeOrNone = Field(default="0.1 mm", title="Play of each jaw")

    @staticmethod
    def faults(n: Numbers[JawHub]) -> list[tuple[str, str]]:
        problems = _faults(n)
        if n.bore >= n.diameter:
            problems.append(("bore", "is as wide as the hub"))
        return problems

    @staticmethod
    def solid(n: Numbers[JawHub]) -> Recipe:
        hole = [circle(0, 0, n.bore / 2)]
        steps = [extrude(circle(0, 0, n.diameter / 2), 0, n.body, hole)]
        low = max(n.ring, n.bore) / 2
        steps += [
            extrude(sector(low, n.diameter / 2, 2 * pi * k / n.jaws, jaw(n)), n.body, n.body + n.jaw_length)
            for k in range(n.jaws)
        ]
        return recipe({"hub": steps}, order={"hub": n.jaws})

    @staticmethod
    def datums(n: Numbers[JawHub]) -> dict[str, Datum]:
        return {
            "axis": axis(0, 0, 0, n.bore / 2, "bore", n.body), "face": plane(0, 0, n.body), "back": plane(0, 0, 0, up=False),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not g.pin:
            return []
        own = g.diameter or g.text(2 * g.datum.radius)
        (jaws, count), next_ = g.whole("jaws", "3"), g.ask("next_shaft", own)
        wide = max(g.value(own, "length") if not g.diameter else 2 * g.datum.radius, g.value(next_, "length"))
        hub = cls(
            bore=own,
            diameter=g.text(WIDE * wide + 0.004),
            body=g.text(LONG * wide),
            jaws=jaws,
            ring=g.text(wide + 0.002),
        )
        star = JawStar(diameter=hub.diameter, jaws=jaws, thickness=hub.jaw_length, ring=hub.ring, play=hub.play)
        other = hub.model_copy(update={"bore": next_})
        deep = g.below_upper(LONG * wide)
        across_ = f"{hub.body} + {hub.jaw_length} + {hub.play} + {hub.body}"
        shaft = Pin(diameter=next_, length=g.text(4 * wide))
        pieces = (
            GrownPart("Jaw hub", hub, {"kind": "rigid", "offset": deep}),
            GrownPart("Star", star, {"kind": "rigid", "offset": f"{hub.body} + {hub.play}", "turn": f"{180 / count / 2!r} deg"}, on="0"),
            GrownPart("Jaw hub", other, {"kind": "rigid", "offset": across_, "turn": f"{180 / count!r} deg", "flip": True}, on="0"),
            GrownPart("Next shaft", shaft, {"kind": "rigid", "offset": hub.body, "flip": True}, on="2"),
        )  # fmt: skip
        return [Growth("A jaw coupling to the next shaft", pieces, asks={"next_shaft": next_, "jaws": jaws})]

    @staticmethod
    def dimensions(n: Numbers[JawHub]) -> list[DrawnDimension]:
        end, edge = n.body + n.jaw_length, n.diameter / 2
        out = [across("diameter", n.diameter), across("bore", n.bore), across("ring", n.ring)]
        return [*out, along_z("body", 0, n.body, edge), along_z("jaw_length", n.body, end, edge)]

    @staticmethod
    def takes(n: Numbers[JawHub]) -> Flex:
        """Until a jaw, a tip or the rim comes to the star or the other hub, these taken as rigid: its play, which is least at the
        ring and on both sides along the axis."""
        lean = n.play / (n.diameter / 2 + n.jaw_length)
        return Flex(n.play, lean, n.play)

    @staticmethod
    def apart(n: Numbers[JawHub]) -> float:
        return float(2 * n.body + n.jaw_length + n.play)

    @staticmethod
    def derived(n: Numbers[JawHub]) -> list[Derived]:
        return [("Width of a jaw", jaw(n), "angle"), *capacity(JawHub.takes(n))]


class JawStar(Element):
    """The elastic star of a jaw coupling from z = 0: a ring with two arms for each jaw; an arm's middle lies on x."""

    title: ClassVar[str] = "Coupling star"
    about: ClassVar[str] = "The elastic star between the hubs of a jaw coupling."
    group: ClassVar[str] = "Couplings"
    hint: ClassVar[str] = "diameter"

    kind: Literal["jaw_star"] = "jaw_star"
    diameter: Size = "30 mm"
    jaws: Annotated[Whole, whole(2, 12)] = Field(default="3", title="Jaws of a hub")
    thickness: Size = Field(default="8 mm", title="Length of the jaws")
    ring: Size = Field(default="14 mm", title="Jaws begin at a diameter of")
    hole: SizeOrNone = "6 mm"
    play: SizeOrNone = Field(default="0.1 mm", title="Play of each jaw")

    @staticmethod
    def faults(n: Numbers[JawStar]) -> list[tuple[str, str]]:
        problems = _faults(n)
        if n.thickness <= n.play:
            problems.append(("play", "leaves no star"))
        if n.hole / 2 >= n.ring / 2 - n.play - 1e-4:
            problems.append(("hole", "leaves no ring"))
        return problems

    @staticmethod
    def solid(n: Numbers[JawStar]) -> Recipe:
        holes = [circle(0, 0, n.hole / 2)] if n.hole else []
        return recipe({"star": [extrude(_star(n), 0, n.thickness - n.play, holes)]}, order={"star": 2 * n.jaws})

    @staticmethod
    def datums(n: Numbers[JawStar]) -> dict[str, Datum]:
        high = n.thickness - n.play
        middle = axis(0, 0, 0, n.hole / 2, "bore", high) if n.hole else axis(0, 0, 0)
        return {"axis": middle, "top": plane(0, 0, high), "bottom": plane(0, 0, 0, up=False)}

    @staticmethod
    def dimensions(n: Numbers[JawStar]) -> list[DrawnDimension]:
        out = [
            across("diameter", n.diameter),
            across("ring", n.ring),
            along_z("thickness", 0, n.thickness, n.diameter / 2),
        ]
        return out + ([across("hole", n.hole)] if n.hole else [])


def arm(n: Numbers) -> float:
    """Angle of an arm of the star, rad: half of what a jaw and an arm have together."""
    return float(pi / n.jaws / 2)


def jaw(n: Numbers) -> float:
    """Angle of a jaw, rad: as an arm, less the play on both sides, which is least at the ring."""
    return float(arm(n) - 2 * n.play / (n.ring / 2))


def sector(low: float, high: float, middle: float, wide: float) -> Outline:
    """A piece of a ring between two radii, m, about an angle, so wide, rad."""

    def at(r: float, a: float) -> list[float]:
        return [r * cos(a), r * sin(a)]

    first, last = middle - wide / 2, middle + wide / 2
    return path(
        at(low, first), ["line", at(high, first)], ["arc", at(high, middle), at(high, last)], ["line", at(low, last)],
        ["arc", at(low, middle), at(low, first)],
    )  # fmt: skip


def _star(n: Numbers) -> Outline:
    low, high, wide, count = n.ring / 2 - n.play, n.diameter / 2, arm(n), 2 * n.jaws

    def at(r: float, a: float) -> list[float]:
        return [r * cos(a), r * sin(a)]

    steps: list[list[object]] = []
    for k in range(count):
        middle = 2 * pi * k / count
        first, last, then = middle - wide / 2, middle + wide / 2, middle + 2 * pi / count - wide / 2
        steps += [
            ["line", at(high, first)], ["arc", at(high, middle), at(high, last)], ["line", at(low, last)],
            ["arc", at(low, (last + then) / 2), at(low, then)],
        ]  # fmt: skip
    start = at(low, -wide / 2)
    steps[-1][-1] = start
    return path(start, *steps)


def _faults(n: Numbers) -> list[tuple[str, str]]:
    faults = []
    if n.ring >= n.diameter:
        faults.append(("ring", "leaves no jaws"))
    elif jaw(n) <= 0.05:
        faults.append(("play", "leaves nothing of the jaws"))
    return faults
