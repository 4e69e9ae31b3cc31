"""Plate cam: a disc whose outline moves a follower."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.cache import cached
from uhrwerk.core.elements.cams.shape import SHAPES, CamOutline, CamShape, closed
from uhrwerk.core.elements.cams.sliding import SlidingRoller
from uhrwerk.core.elements.cams.swinging import SwingingRoller
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import GAP, PLAY, Ground, GrownPart, Growth, Tie
from uhrwerk.core.elements.link_bar import LinkBar
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.elements.slide_guide import SlideBar, SlideGuide
from uhrwerk.core.elements.stepped_shaft import SteppedShaft
from uhrwerk.core.equations.curve import PlaneCurve
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.laws.segment import SlideSegment, TurnSegment
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe
from uhrwerk.core.solids.recipe import path

#: places of the outline that are computed exactly; between them runs a spline of degree five
PLACES = 720
#: faces round the rim: the kernel's volume of one long spline is off by a thousandth, of so many pieces by 2e-9 (measured)
PIECES = 36
#: angles at which curvature is looked at
LOOKS = 3600
#: and while a base circle without undercut is looked for
ROUGH = 1440
#: base circles that would avoid undercut are looked for up to so many times the stated one
LARGER = 20.0


class PlateCam(Element):
    """A plate cam; its bottom face at z = 0, its axis the bore's."""

    title: ClassVar[str] = "Plate cam"
    about: ClassVar[str] = (
        "A disc whose outline follows from the motion of its follower, from circles and tangents, or from places of it."
    )
    group: ClassVar[str] = "Cams"
    hint: ClassVar[str] = "base_diameter"

    kind: Literal["plate_cam"] = "plate_cam"
    base_diameter: Size = Field(default="50 mm", title="Base circle")
    width: Size = "8 mm"
    bore: SizeOrNone = "8 mm"
    outline: Annotated[CamShape, SHAPES] = Field(default_factory=SlidingRoller)

    @staticmethod
    def faults(n: Numbers) -> list[tuple[str, str]]:
        base = n.base_diameter / 2
        problems = [(f"outline.{where}", why) for where, why in SHAPES[n.outline.kind].faults(n.outline, base)]
        if problems:
            return problems
        at = undercut(n)
        if at is not None:
            needed = without_undercut(n)
            more = (
                f"; a base circle of {needed * 1e3:.2f} mm avoids it"
                if needed
                else "; a shorter or longer way is needed"
            )
            return [("base_diameter", f"undercuts the outline at {np.degrees(at):.1f}° of the cam{more}")]
        if n.bore / 2 >= curve(n).reach.min():
            return [("bore", "reaches the outline")]
        return []

    @staticmethod
    def solid(n: Numbers[PlateCam]) -> Recipe:
        pieces = curve(n).pieces(PIECES)
        outline = path(pieces[0][2][0], *(["bspline", *piece] for piece in pieces))
        holes = [circle(0, 0, n.bore / 2)] if n.bore else []
        return recipe({"cam": [extrude(outline, 0, n.width, holes)]})

    @staticmethod
    def datums(n: Numbers[PlateCam]) -> dict[str, Datum]:
        middle = axis(0, 0, 0, n.bore / 2, "bore", n.width) if n.bore else axis(0, 0, 0)
        return {"axis": middle, "top": plane(0, 0, n.width), "bottom": plane(0, 0, 0, up=False)}

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if g.in_plate:
            return [_with_arm(cls, g), _with_slide(cls, g)]
        if g.pin:
            cam = cls(bore=g.diameter or g.text(2 * g.datum.radius), base_diameter=g.ask("base", "50 mm"))
            joint = {"kind": "rigid", "offset": g.below_upper(0.008)}
            return [Growth("A cam held on it", (GrownPart("Cam", cam, joint),), asks={"base": cam.base_diameter})]
        return []

    @staticmethod
    def dimensions(n: Numbers[PlateCam]) -> list[DrawnDimension]:
        out = [across("base_diameter", n.base_diameter), along_z("width", 0, n.width)]
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers) -> list[Derived]:
        t = traced(n, looks())
        far = curve(n).reach
        out: list[Derived] = [("Largest diameter to turn in", 2 * float(far.max()), "length")]
        bulging = t.radius[t.radius > 0]
        out.append(("Smallest radius of curvature", float(bulging.min()), "length"))
        if (t.radius < 0).any():
            out.append(("Smallest hollow radius", float(-t.radius[t.radius < 0].max()), "length"))
        if t.pressure is not None:
            out.append(("Largest pressure angle", float(np.abs(t.pressure).max()), "angle"))
        needed = without_undercut(n) if t.pressure is not None else None  # else no follower's motion is behind it
        return [*out, ("Base circle without undercut", needed, "length")] if needed else out


def _with_arm(kind: type[PlateCam], g: Ground) -> Growth:
    """A cam on its shaft in the plate's bore, an arm beside it with a roller that runs on the cam, and a spring that keeps it
    there. The arm is as long as gives the least pressure angle: it stands square to the line from cam to roller in the middle of its
    swing."""
    base, roller, swing = g.ask("base", "50 mm"), g.ask("roller", "10 mm"), g.ask("swing", "20 deg")
    away, most = g.value(base, "length") / 2 + g.value(roller, "length") / 2, g.value(swing, "angle")
    arm = 1.3 * away
    middle = float(np.hypot(away + arm * most / 2, arm))  # of the way, from cam to pivot
    pivot = max(middle, arm - away + 1e-4)
    rest = float(np.arccos(np.clip((arm**2 + pivot**2 - away**2) / (2 * arm * pivot), -1, 1)))
    long, apart = g.text(arm), g.text(pivot)
    turns = {
        "out": TurnSegment(to=swing, over="120 deg"),
        "stay": TurnSegment(to=swing, over="60 deg"),
        "back": TurnSegment(over="120 deg"),
    }
    shape = SwingingRoller(roller=roller, arm=long, pivot=apart, swing=turns)
    above, width, thick = g.text(g.depth + GAP), "8 mm", "5 mm"
    over = f"{g.text(g.thickness + 2 * GAP)} + {width}"
    shaft = Pin(diameter=g.running, length=f"{above} + {width}")
    wide = "8 mm"
    arm_shaft = Pin(diameter=f"{wide} - {g.text(PLAY)}", length=f"{over} + {thick}")
    bar = LinkBar(distance=long, width="14 mm", thickness=thick, bore_1=arm_shaft.diameter, bore_2="4 mm")
    follower = _roller(g, roller, width, thick)
    pieces = (
        GrownPart("Camshaft", shaft, {"kind": "revolute", "offset": g.down}),
        GrownPart("Cam", kind(base_diameter=base, width=width, bore=shaft.diameter, outline=shape), {"kind": "rigid", "offset": above}, on="0"),
        GrownPart("Arm shaft", arm_shaft, {"kind": "revolute", "offset": g.text(-g.thickness)}, on="frame", turn=np.pi - rest),
        GrownPart("Follower arm", bar, {"kind": "rigid", "offset": over}, by="hole_1", on="2"),
        GrownPart("Roller", follower, {"kind": "rigid", "offset": f"-({width}) - {g.text(GAP)}"}, by="step_1", on="3", at="hole_2"),
    )  # fmt: skip
    ties = (
        Tie(("1", "axis"), ("4", "step_1"), pair="cam"),
        Tie(("frame", ""), ("3", "hole_1"), pair="torsion_spring", more={"preload": "60 deg"}),
    )
    asks = {"base": base, "roller": roller, "swing": swing}
    return Growth("A cam that turns in it, with arm, roller and spring", pieces, ties, asks, pivot, wide, straight=True)


def _with_slide(kind: type[PlateCam], g: Ground) -> Growth:
    """A cam on its shaft in the plate's bore, and beside it a bar in its guide with a roller that runs on the cam, pressed there by
    a spring between the bar's shoulder and the guide."""
    base, roller, lift = g.ask("base", "50 mm"), g.ask("roller", "10 mm"), g.ask("lift", "10 mm")
    rises = {
        "out": SlideSegment(to=lift, over="120 deg"),
        "stay": SlideSegment(to=lift, over="60 deg"),
        "back": SlideSegment(over="120 deg"),
    }
    shape = SlidingRoller(roller=roller, lift=rises)
    lowest = g.value(base, "length") / 2 + g.value(roller, "length") / 2
    neck, long, wide, thick, bar_wide = 0.01, 0.03, "4 mm", "5 mm", "8 mm"
    gap = g.value(lift, "length") + 0.012  # at the lowest, for a spring whose coils touch at 8 mm
    away, above, width = lowest + neck + gap + long / 2, g.text(g.depth + GAP), "8 mm"
    shaft = Pin(diameter=g.running, length=f"{above} + {width}")
    guide = SlideGuide(
        length=g.text(long), width="20 mm", height=f"{g.text(2 * GAP)} + {width} + {thick}", channel_width=f"{bar_wide} + {g.text(PLAY)}",
        channel_depth=f"{thick} + {g.text(PLAY)}", bore=wide,
    )  # fmt: skip
    bar = SlideBar(
        length=g.text(neck + gap + long + 0.005), width=bar_wide, thickness=thick, neck=g.text(neck), bore="4 mm"
    )
    follower = _roller(g, roller, width, thick)
    pieces = (
        GrownPart("Camshaft", shaft, {"kind": "revolute", "offset": g.down}),
        GrownPart("Cam", kind(base_diameter=base, width=width, bore=shaft.diameter, outline=shape), {"kind": "rigid", "offset": above}, on="0"),
        GrownPart("Guide", guide, {"kind": "rigid"}, by="foot", on="frame"),
        GrownPart("Follower", bar, {"kind": "prismatic", "offset": g.text(lowest - away)}, by="slide", on="2", at="channel"),
        GrownPart("Roller", follower, {"kind": "rigid", "offset": f"-({width}) - {g.text(GAP)}"}, by="step_1", on="3", at="hole_1"),
    )  # fmt: skip
    spring = {
        "free_length": g.text(gap + 0.008),
        "wire_diameter": "1 mm",
        "mean_diameter": "12 mm",
        "active_coils": "6",
    }
    ties = (
        Tie(("1", "axis"), ("4", "step_1"), pair="cam"),
        Tie(("2", "left"), ("3", "shoulder"), pair="spring", more=spring),
    )
    asks = {"base": base, "roller": roller, "lift": lift}
    return Growth(
        "A cam that turns in it, with a bar that slides, roller and spring",
        pieces,
        ties,
        asks,
        away,
        wide,
        straight=True,
    )


def _roller(g: Ground, diameter: str, width: str, thick: str) -> SteppedShaft:
    """A roller as wide as the cam that hangs from a part `thick` in a bore of 4 mm, a gap over it."""
    return SteppedShaft(
        diameter_1=diameter, length_1=f"{width} + {g.text(GAP)}", diameter_2="4 mm", length_2=thick, length_3="0 mm", chamfer="0 mm"
    )  # fmt: skip


def looks(count: int = LOOKS) -> np.ndarray:
    return np.linspace(0, 2 * np.pi, count, endpoint=False)


def traced(n: Numbers, angle: np.ndarray) -> CamOutline:
    """The outline of a cam's numbers at cam angles (n,), rad."""
    return SHAPES[n.outline.kind].traced(n.outline, n.base_diameter / 2, angle)


@cached(200, key=lambda n: repr((n.base_diameter, n.outline)))
def curve(n: Numbers[PlateCam]) -> PlaneCurve:
    """The outline as a closed curve, the one from which the solid's face is made."""
    knots = SHAPES[n.outline.kind].knots(n.outline, n.base_diameter / 2)
    return closed(lambda angle: traced(n, angle).outline, knots, PLACES)


def grain(n: Numbers[PlateCam]) -> float:
    """The largest turn, rad, in which no rise or return can be overlooked: a sixth of the shortest."""
    return min([0.2, *(x / 6 for x in SHAPES[n.outline.kind].spans(n.outline))])


def undercut(n: Numbers[PlateCam], count: int = LOOKS) -> float | None:
    """The cam angle, rad, at which the follower cuts away what it needs at another angle; None where it does nowhere.

    A roller's way bends there as much as the roller does or more (its outline's radius passes through nothing), a flat face's
    outline has no radius left.
    """
    t = traced(n, looks(count))
    if t.pitch_radius is None:
        lost = t.radius <= 0 if t.pressure is not None else np.zeros(len(t.radius), dtype=bool)
    else:
        lost = (t.pitch_radius > 0) & (t.radius <= 0)
    return float(t.angle[int(np.argmin(np.where(lost, t.radius, np.inf)))]) if lost.any() else None


@cached(500, key=lambda n: repr((n.base_diameter, n.outline)))
def without_undercut(n: Numbers[PlateCam]) -> float | None:
    """The smallest base circle at which nothing is undercut, m, by halving; None where none is found."""

    def bad(size: float) -> bool:
        tried = replace(n, base_diameter=size)  # type: ignore[type-var]
        return bool(SHAPES[n.outline.kind].faults(n.outline, size / 2)) or undercut(tried, ROUGH) is not None

    size: float = n.base_diameter
    low, high = size, size
    while bad(high):
        low, high = high, high * 1.25
        if high > LARGER * size:
            return None
    if low == high:  # it is well already: how small could it be
        low = high / LARGER
        if not bad(low):
            return None
    for _ in range(26):
        middle = (low + high) / 2
        low, high = (middle, high) if bad(middle) else (low, middle)
    return high
