"""Conjugate cam: two discs on one hub, for two rollers of one follower on opposite sides of the axis.

The second disc is the envelope of the second roller while the first keeps the follower to its programme. Norton, Cam Design and
Manufacturing Handbook, ch. 7 (conjugate cams): from memory.
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.cache import cached
from uhrwerk.core.elements.cams.groove_cam import line_of
from uhrwerk.core.elements.cams.plate_cam import PLACES, PlateCam, curve, looks
from uhrwerk.core.elements.cams.shape import (
    SHAPES,
    Array,
    CamOutline,
    CamShape,
    closed,
    in_cam_moving,
    inside,
    programme,
)
from uhrwerk.core.elements.cams.sliding import SlidingRoller
from uhrwerk.core.elements.cams.swinging import SwingingRoller
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.equations.curve import PlaneCurve
from uhrwerk.core.field import LengthOrOpen, Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe

FOLLOWERS = ("sliding_roller", "swinging_roller")


class ConjugateCam(Element):
    """Two discs from z = 0, the first for the first roller; the axis is the bore's."""

    title: ClassVar[str] = "Conjugate cam"
    about: ClassVar[str] = "Two discs on one hub that hold a follower by two rollers: no spring is needed."
    group: ClassVar[str] = "Cams"
    hint: ClassVar[str] = "base_diameter"

    kind: Literal["conjugate_cam"] = "conjugate_cam"
    base_diameter: Size = Field(default="50 mm", title="Base circle of the first disc")
    width: Size = Field(default="8 mm", title="Thickness of a disc")
    gap: Size = Field(default="2 mm", title="From disc to disc")
    hub: Size = Field(default="20 mm", title="Diameter of the hub between them")
    bore: SizeOrNone = "8 mm"
    roller_2: Size = Field(default="10 mm", title="Second roller's diameter")
    between: Size = Field(default="70 mm", title="From roller to roller, centres")
    arm_2: LengthOrOpen = Field(default="", title="Second arm of a swinging follower, if not as the first")
    play: SizeOrNone = Field(default="0.05 mm", title="Play of the second roller")
    outline: Annotated[CamShape, SHAPES] = Field(default_factory=SlidingRoller)

    @staticmethod
    def faults(n: Numbers[ConjugateCam]) -> list[tuple[str, str]]:
        if n.outline.kind not in FOLLOWERS:
            return [("outline.kind", "needs a follower with a roller that slides or swings")]
        problems = PlateCam.faults(n)
        if problems:
            return problems
        if n.outline.kind == "swinging_roller" and not abs(n.outline.arm - _arm(n)) < n.between < n.outline.arm + _arm(
            n
        ):
            return [("between", "no two arms of these lengths hold their rollers so far apart")]
        t = second(n, looks())
        assert t.pitch is not None
        assert t.pitch_radius is not None
        around = np.ptp(np.unwrap(np.arctan2(t.pitch[:, 1], t.pitch[:, 0])))
        if around < 6 or np.hypot(*t.pitch.T).min() <= t.roller + n.bore / 2:
            return [("between", "brings the second roller to the cam's axis")]
        lost = (t.pitch_radius > 0) & (t.radius <= 0)
        if lost.any():
            at = t.angle[int(np.argmin(np.where(lost, t.radius, np.inf)))]
            return [("between", f"undercuts the second disc at {np.degrees(at):.1f}° of the cam")]
        least = min(c.reach.min() for c in (curve(n), second_curve(n)))
        if not n.bore < n.hub < 2 * least:
            return [("hub", f"must lie between the bore and {2e3 * least:.2f} mm, where it reaches an outline")]
        return []

    @staticmethod
    def solid(n: Numbers[ConjugateCam]) -> Recipe:
        holes, high = [circle(0, 0, n.bore / 2)] if n.bore else [], n.width + n.gap
        discs = [extrude(line_of(curve(n)), 0, n.width, holes), extrude(circle(0, 0, n.hub / 2), n.width, high, holes)]
        return recipe({"cam": [*discs, extrude(line_of(second_curve(n)), high, high + n.width, holes)]})

    @staticmethod
    def datums(n: Numbers[ConjugateCam]) -> dict[str, Datum]:
        high = 2 * n.width + n.gap
        middle = axis(0, 0, 0, n.bore / 2, "bore", high) if n.bore else axis(0, 0, 0)
        return {"axis": middle, "top": plane(0, 0, high), "bottom": plane(0, 0, 0, up=False)}

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not g.pin:
            return []
        cam = cls(bore=g.diameter or g.text(2 * g.datum.radius), base_diameter=g.ask("base", "50 mm"))
        joint = {"kind": "rigid", "offset": g.below_upper(0.018)}
        return [
            Growth(
                "A conjugate cam held on it",
                (GrownPart("Conjugate cam", cam, joint),),
                asks={"base": cam.base_diameter},
            )
        ]

    @staticmethod
    def dimensions(n: Numbers[ConjugateCam]) -> list[DrawnDimension]:
        high, far = n.width + n.gap, n.base_diameter / 2
        out = [across("base_diameter", n.base_diameter), along_z("width", 0, n.width), along_z("gap", n.width, high)]
        out += [across("hub", n.hub, way=3 * np.pi / 4), along_x("between", far - n.between, far)]
        out += [along_x("roller_2", far - n.between - n.roller_2 / 2, far - n.between + n.roller_2 / 2)]
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[ConjugateCam]) -> list[Derived]:
        t = second(n, looks())
        values = [(f"{name} of the first disc", value, of) for name, value, of in PlateCam.derived(n)]
        out: list[Derived] = [*values, ("Largest diameter of the second", 2 * _far(n), "length")]
        bulging = t.radius[t.radius > 0]
        out.append(("Smallest radius of curvature there", float(bulging.min()), "length"))
        return out


def _far(n: Numbers[ConjugateCam]) -> float:
    return float(second_curve(n).reach.max())


def _arm(n: Numbers[ConjugateCam]) -> float:
    """The second arm, m."""
    return float(n.outline.arm if n.arm_2 is None else n.arm_2)


def second(n: Numbers[ConjugateCam], angle: Array, play: float = 0.0) -> CamOutline:
    """The second disc at cam angles (n,), rad, with so much play, m."""
    o, base, none = n.outline, n.base_diameter / 2, np.zeros(len(angle))
    if o.kind == "sliding_roller":
        s, v, a = (programme(o.lift).derivative(angle, k) for k in range(3))
        reach = np.sqrt((base + o.roller / 2) ** 2 - o.offset**2) - n.between
        moving = ((reach + s, np.full(len(angle), o.offset)), (v, none), (a, none))
    else:
        s, v, a = (programme(o.swing).derivative(angle, k) for k in range(3))
        arm = _arm(n)
        apart = np.arccos(np.clip((o.arm**2 + arm**2 - n.between**2) / (2 * o.arm * arm), -1, 1))
        psi = SwingingRoller.rest(o, base) + s - apart
        c, q = arm * np.cos(psi), arm * np.sin(psi)
        moving = ((o.pivot - c, q), (q * v, c * v), (q * a + c * v**2, c * a - q * v**2))
    pitch, first, bend = in_cam_moving(*moving, angle)
    outline, radius, wide = inside(pitch, first, bend, n.roller_2 / 2 + play)
    return CamOutline(angle, outline, radius, pitch, wide, n.roller_2 / 2)


@cached(200, key=lambda n: repr((n.base_diameter, n.outline, n.roller_2, n.between, n.arm_2, n.play)))
def second_curve(n: Numbers[ConjugateCam]) -> PlaneCurve:
    """The second disc's outline as a closed curve, the one from which the solid's face is made."""
    knots = SHAPES[n.outline.kind].knots(n.outline, n.base_diameter / 2)
    return closed(lambda angle: second(n, angle, n.play).outline, knots, PLACES)
