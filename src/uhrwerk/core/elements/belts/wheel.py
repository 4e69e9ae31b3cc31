"""What pulleys and sprockets have in common: a rim with a bore and flanges, and how a drive grows from a bore or a shaft."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from uhrwerk.core.elements.drawn import DrawnDimension, along_x, along_z
from uhrwerk.core.elements.growth import GAP, PLAY, Ground, GrownPart, Growth, Tie
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Model, Numbers
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe
from uhrwerk.core.solids.recipe import Outline


def rim(name: str, outline: Outline, outer: float, n: Numbers, order: int) -> Recipe:
    """A wheel with its bore, and flanges above and below where it has some."""
    holes = [circle(0, 0, n.bore / 2)] if n.bore else []
    steps = [extrude(outline, 0, n.width, holes)]
    high = getattr(n, "flange", 0.0)
    if high:
        edge = circle(0, 0, outer + high)
        steps += [extrude(edge, n.width, n.width + n.flange_width, holes), extrude(edge, -n.flange_width, 0, holes)]
    return recipe({name: steps}, order={name: order})


def edges(n: Numbers, outer: float) -> list[DrawnDimension]:
    """Dimensions of the flanges, where there are some."""
    if not n.flange:
        return []
    return [
        along_x("flange", outer, outer + n.flange, z=n.width, view="side"),
        along_z("flange_width", n.width, n.width + n.flange_width, outer + n.flange),
    ]


def on_shaft(n: Numbers) -> dict[str, Datum]:
    wide = getattr(n, "flange_width", 0.0) if getattr(n, "flange", 0.0) else 0.0
    middle = axis(0, 0, 0, n.bore / 2, "bore", n.width) if n.bore else axis(0, 0, 0)
    return {"axis": middle, "top": plane(0, 0, n.width + wide), "bottom": plane(0, 0, -wide, up=False)}


def drive(
    g: Ground, title: str, name: str, pair: str, element_of: Callable[[str, bool], Model], asks: Mapping[str, str]
) -> list[Growth]:
    """A wheel on the shaft or in the bore pointed at, its mate on a shaft of its own in the plate, and the belt or chain."""
    centres = g.ask("centres", "120 mm")
    away = g.value(centres, "length")
    questions = {**asks, "centres": centres}
    first: tuple[GrownPart, ...]
    if g.in_plate:
        above = g.text(g.depth + 3 * GAP)
        shaft = Pin(diameter=g.running, length=f"{above} + 14 mm")
        first = (
            GrownPart("Shaft", shaft, {"kind": "revolute", "offset": g.down}),
            GrownPart(name, element_of(shaft.diameter, False), {"kind": "rigid", "offset": above}, on="0"),
        )
        wide = g.text(2 * g.datum.radius)
        over = 3 * GAP
    elif g.pin and g.thickness and g.upright:
        own = g.diameter or g.text(2 * g.datum.radius)
        low = max(g.low + 3 * GAP, g.upper - 0.014)
        first = (GrownPart(name, element_of(own, False), {"kind": "rigid", "offset": g.text(low)}),)
        wide, over = g.text(2 * g.datum.radius + PLAY), g.height + low
    else:
        return []
    wheel = str(len(first) - 1)
    other = Pin(diameter=f"{wide} - {g.text(PLAY)}", length=g.text(g.thickness + over + 0.014))
    shaft_ = GrownPart("Shaft", other, {"kind": "revolute", "offset": g.text(-g.thickness)}, on="frame")
    mate = GrownPart(
        name,
        element_of(other.diameter, True),
        {"kind": "rigid", "offset": g.text(g.thickness + over)},
        on=str(len(first)),
    )
    tie = Tie((wheel, "axis"), (str(len(first) + 1), "axis"), pair=pair)
    return [Growth(title, (*first, shaft_, mate), (tie,), questions, away, wide, apart=f"({centres})")]
