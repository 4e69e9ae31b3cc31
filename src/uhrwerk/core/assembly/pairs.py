"""Pairs that transmit: gears, rack, bevel and worm gears, screw and nut, pin in a slot. Ratio and sign from the teeth.

Signs follow from rolling without slip at the pitch point: Litvin, Fuentes, Gear Geometry and Applied Theory, ch. 3;
assembly of planets: (sun + ring) / planets must be whole (Mueller, Epicyclic Drive Trains). From memory.
"""

from __future__ import annotations

import numpy as np

from uhrwerk.core.assembly.joints import Held, axes, rows
from uhrwerk.core.assembly.pose import Array, from_axes
from uhrwerk.core.assembly.relations import NotFitting, Place
from uhrwerk.core.assembly.rows import Row
from uhrwerk.core.field import Numbers

#: lead angle drawn for a worm: the ratio does not depend on it
WORM_LEAD = np.radians(5.0)


def gear_row(a: Place, size_a: Numbers, b: Place, size_b: Numbers, owner: str) -> Row:
    """An external or internal gear pair between two gears with their axes as places."""
    if size_a.kind == size_b.kind == "ring_gear":
        raise NotFitting("two ring gears cannot mesh")
    if abs(size_a.module - size_b.module) > 1e-9 or abs(size_a.pressure_angle - size_b.pressure_angle) > 1e-9:
        raise NotFitting("module and pressure angle of both gears must be the same to mesh")
    if size_a.kind == "ring_gear":
        a, size_a, b, size_b = b, size_b, a, size_a
    inner = size_b.kind == "ring_gear"
    if inner and size_a.teeth >= size_b.teeth:
        raise NotFitting("the ring gear needs more teeth than the gear inside it")
    (xa, _, za), (xb, _, _) = axes(a.frame), axes(b.frame)
    vectors = (a.frame[:3], za, xa, b.frame[:3], xb)
    # a ring gear has a space, not a tooth, on its x
    wanted = 0.0 if inner else np.pi / size_a.teeth
    return Row("inner" if inner else "mesh", a.link, b.link, vectors, owner, wanted, sizes=(size_a.teeth, size_b.teeth))


def rack_row(a: Place, gear: Numbers, b: Place, rack: Numbers, owner: str) -> Row:
    """A gear on a rack, whose frame has x along the rack and y out of its teeth."""
    if gear.kind != "spur_gear" or rack.kind != "rack":
        raise NotFitting("a rack pair needs a gear and a rack")
    if abs(gear.module - rack.module) > 1e-9 or abs(gear.pressure_angle - rack.pressure_angle) > 1e-9:
        raise NotFitting("module and pressure angle of gear and rack must be the same to mesh")
    vectors = (a.frame[:3], axes(a.frame)[0], b.frame[:3], *axes(b.frame))
    return Row("rack", a.link, b.link, vectors, owner, np.pi / gear.teeth, sizes=(gear.teeth, gear.module))


def bevel_row(n: Numbers, a: Place, b: Place, owner: str) -> Row:
    _need_axes(a, b)
    (xa, _, za), (xb, _, zb) = axes(a.frame), axes(b.frame)
    if n.side == "opposite":
        zb = -zb
    return Row("bevel", a.link, b.link, (za, xa, zb, xb), owner, np.pi / n.teeth_a, sizes=(n.teeth_a, n.teeth_b, 1.0))


def helical_row(a: Place, b: Place, teeth: tuple[int, int], helix: tuple[float, float], owner: str) -> Row:
    """Helical gears, worm and wheel; on parallel axes the hands are opposite and the pair is as an external one."""
    _need_axes(a, b)
    (xa, _, za), (xb, _, zb) = axes(a.frame), axes(b.frame)
    if abs(sum(helix)) < 1e-9:
        return Row("mesh", a.link, b.link, (a.frame[:3], za, xa, b.frame[:3], xb), owner, np.pi / teeth[0], sizes=teeth)
    vectors = (a.frame[:3], za, xa, b.frame[:3], zb, xb)
    return Row("helical", a.link, b.link, vectors, owner, sizes=(*teeth, *helix))


def worm_row(n: Numbers, a: Place, b: Place, owner: str) -> Row:
    hand = 1.0 if n.hand == "right" else -1.0
    return helical_row(a, b, (n.starts, n.teeth), (hand * (np.pi / 2 - WORM_LEAD), hand * WORM_LEAD), owner)


def screw_nut_row(n: Numbers, a: Place, b: Place, owner: str) -> Row:
    _need_axes(a, b)
    if not n.lead:
        raise NotFitting("the lead of a screw cannot be zero")
    vectors = (a.frame[:3], *axes(a.frame), b.frame[:3], axes(b.frame)[0])
    return Row("screw", a.link, b.link, vectors, owner, sizes=(n.lead,))


def slot(pin: Place, slot: Place, held: Held) -> tuple[list[Row], Held]:
    """A pin in a slot, with its travel as a coordinate limited by the slot's ends."""
    d = slot.datum
    if d.kind not in ("slot", "arc_slot"):
        raise NotFitting("a slot pair needs a pin and a slot")
    if pin.datum.kind != "axis":
        raise NotFitting("a slot pair needs the axis of a pin")
    x, y, _ = axes(slot.frame)
    half = d.length / 2
    if d.kind == "slot":
        frame: Array = from_axes(slot.frame[:3], y, x)
        made = _with(held, "slot", slot.link, frame, pin, 0.0, (("slide", -half, half),))
    else:
        made = _with(
            held, "arc_slot", slot.link, slot.frame, pin, d.radius, (("swing", -half / d.radius, half / d.radius),)
        )
    return rows(made), made


def _with(
    held: Held,
    kind: str,
    link: int,
    frame: Array,
    pin: Place,
    radius: float,
    limits: tuple[tuple[str, float, float], ...],
) -> Held:
    return Held(
        held.id,
        held.path,
        held.name,
        kind,
        link,
        frame,
        pin.link,
        pin.frame,
        held.on,
        held.part,
        radius,
        limits if limits[0][2] else (),
    )


def _need_axes(a: Place, b: Place) -> None:
    if a.datum.kind != "axis" or b.datum.kind != "axis":
        raise NotFitting("this pair needs two axes")
