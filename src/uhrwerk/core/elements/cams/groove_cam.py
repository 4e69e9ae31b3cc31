"""Grooved cam: a disc with a groove in which a roller runs, held on both sides.

The middle of the groove is the way of the roller's centre; its inner wall is the outline of a plate cam for the same follower, its
outer wall lies the roller's diameter and its play outside that. Norton, Cam Design and Manufacturing Handbook, ch. 7 (form-closed
cams): from memory.
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.cache import cached
from uhrwerk.core.elements.cams.plate_cam import PIECES, PLACES, PlateCam, curve, looks, traced
from uhrwerk.core.elements.cams.shape import SHAPES, CamShape, closed
from uhrwerk.core.elements.cams.sliding import SlidingRoller
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.equations.curve import PlaneCurve
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe, stood
from uhrwerk.core.solids.recipe import Outline, path


class GrooveCam(Element):
    """A disc from z = 0 with a groove in its upper face, its axis the bore's."""

    title: ClassVar[str] = "Grooved cam"
    about: ClassVar[str] = "A disc with a groove that holds a roller on both sides: no spring is needed."
    group: ClassVar[str] = "Cams"
    hint: ClassVar[str] = "base_diameter"

    kind: Literal["groove_cam"] = "groove_cam"
    base_diameter: Size = Field(default="50 mm", title="Base circle of the inner wall")
    width: Size = Field(default="12 mm", title="Thickness of the disc")
    depth: Size = Field(default="6 mm", title="Depth of the groove")
    wall: Size = Field(default="6 mm", title="Wall outside the groove, at least")
    play: SizeOrNone = Field(default="0.05 mm", title="Play of the roller")
    bore: SizeOrNone = "8 mm"
    outline: Annotated[CamShape, SHAPES] = Field(default_factory=SlidingRoller)

    @staticmethod
    def faults(n: Numbers[GrooveCam]) -> list[tuple[str, str]]:
        if n.depth >= n.width:
            return [("depth", "goes through the disc")]
        if not getattr(n.outline, "roller", 0.0):
            return [("outline.kind", "needs a follower with a roller, which the groove holds")]
        problems = PlateCam.faults(n)
        if problems:
            return problems
        t = traced(n, looks())
        assert t.pitch_radius is not None
        hollow = np.where(t.pitch_radius < 0, -t.pitch_radius, np.inf)
        at = int(np.argmin(hollow))
        if hollow[at] <= t.roller + n.play:
            return [("base_diameter", f"leaves the outer wall undercut at {np.degrees(t.angle[at]):.1f}° of the cam")]
        return []

    @staticmethod
    def solid(n: Numbers[GrooveCam]) -> Recipe:
        holes, floor = [circle(0, 0, n.bore / 2)] if n.bore else [], n.width - n.depth
        disc = circle(0, 0, outer(n))
        steps = [extrude(disc, 0, floor, holes), stood(disc, floor, n.width, [line_of(far_wall(n))])]
        return recipe({"cam": [*steps, stood(line_of(curve(n)), floor, n.width, holes)]})

    @staticmethod
    def datums(n: Numbers[GrooveCam]) -> dict[str, Datum]:
        middle = axis(0, 0, 0, n.bore / 2, "bore", n.width) if n.bore else axis(0, 0, 0)
        return {"axis": middle, "top": plane(0, 0, n.width), "bottom": plane(0, 0, 0, up=False)}

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not g.pin:
            return []
        cam = cls(bore=g.diameter or g.text(2 * g.datum.radius), base_diameter=g.ask("base", "50 mm"))
        joint = {"kind": "rigid", "offset": g.below_upper(0.012)}
        return [
            Growth(
                "A grooved cam held on it", (GrownPart("Grooved cam", cam, joint),), asks={"base": cam.base_diameter}
            )
        ]

    @staticmethod
    def dimensions(n: Numbers[GrooveCam]) -> list[DrawnDimension]:
        far, edge = outer(n), float(far_wall(n).reach.max())
        out = [
            across("base_diameter", n.base_diameter),
            along_z("width", 0, n.width, far),
            along_z("depth", n.width - n.depth, n.width, -far),
        ]
        out.append(DrawnDimension("wall", (edge, 0.0, n.width), (far, 0.0, n.width), "side"))
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[GrooveCam]) -> list[Derived]:
        return [
            ("Diameter of the disc", 2 * outer(n), "length"),
            ("Width of the groove", groove_width(n), "length"),
            *PlateCam.derived(n)[1:],
        ]


@cached(200, key=lambda n: repr((n.base_diameter, n.outline, n.play)))
def far_wall(n: Numbers[GrooveCam]) -> PlaneCurve:
    """The groove's outer wall as a closed curve."""
    knots = SHAPES[n.outline.kind].knots(n.outline, n.base_diameter / 2)
    return closed(lambda angle: _far_side(n, angle), knots, PLACES)


def _far_side(n: Numbers[GrooveCam], angle: np.ndarray) -> np.ndarray:
    t = traced(n, angle)
    assert t.pitch is not None
    return np.asarray(t.pitch + (1 + n.play / t.roller) * (t.pitch - t.outline))


def groove_width(n: Numbers) -> float:
    """m"""
    return float(2 * traced(n, np.zeros(1)).roller + n.play)


def outer(n: Numbers[GrooveCam]) -> float:
    """Radius of the disc, m."""
    return float(far_wall(n).reach.max() + n.wall)


def line_of(wall: PlaneCurve) -> Outline:
    pieces = wall.pieces(PIECES)
    return path(pieces[0][2][0], *(["bspline", *piece] for piece in pieces))
