"""Small mechanisms that several tests use, and the closed forms they are held against."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uhrwerk import (
    AngledLink,
    Bore,
    Carrier,
    Cycle,
    Draft,
    FramePlate,
    LinkBar,
    NoInterference,
    Rack,
    RingGear,
    SlottedLever,
    SpurGear,
)
from uhrwerk.core.document import Document

Array = NDArray[np.float64]


def mm(value: float) -> str:
    """A length in metres as an exact formula."""
    return f"{float(value) * 1e3!r} mm"


def four_bar(
    a: float,
    b: float,
    c: float,
    d: float,
    speed: str = "60 rpm",
    start: str = "0 deg",
    crossed: bool = False,
    frames: int = 360,
    duration: str = "1 s",
) -> Document:
    """Crank a, coupler b, rocker c on a ground link d (metres), all link bars; layers 6 mm apart."""
    draft = Draft("Four-bar")
    ground = draft.part("Ground", "steel", LinkBar(distance=mm(d)))
    crank = draft.part("Crank", "steel", LinkBar(distance=mm(a)), z="6 mm", turn_z=start)
    side = "-" if crossed else ""
    coupler = draft.part("Coupler", "steel", LinkBar(distance=mm(b)), x=mm(a), z="12 mm", turn_z=f"{side}30 deg")
    rocker = draft.part("Rocker", "steel", LinkBar(distance=mm(c)), x=mm(d), z="6 mm", turn_z=f"{side}95 deg")
    joint = draft.revolute("Crank in ground", ground["hole_1"], crank["hole_1"], offset="6 mm")
    draft.revolute("Coupler on crank", crank["hole_2"], coupler["hole_1"], offset="6 mm")
    draft.revolute("Rocker in ground", ground["hole_2"], rocker["hole_1"], offset="6 mm")
    draft.revolute("Coupler on rocker", rocker["hole_2"], coupler["hole_2"], offset="6 mm")
    draft.turn("Motor", joint, speed, start)
    draft.set("cycle", Cycle(duration=duration, frames=frames).model_dump(mode="json"))
    return draft.document


@dataclass(frozen=True)
class FourBar:
    """Angles of coupler and rocker with rates and accelerations, each (n,), rad, by vector loop closure."""

    coupler: Array
    rocker: Array
    coupler_rate: Array
    rocker_rate: Array
    coupler_acceleration: Array
    rocker_acceleration: Array


def four_bar_closed_form(
    a: float, b: float, c: float, d: float, crank: Array, speed: float, crossed: bool = False
) -> FourBar:
    """Position by intersecting two circles, velocity and acceleration by differentiating the loop a + b = c + d.

    Any textbook of kinematics, such as Norton, Design of Machinery, sections 4.5, 6.7 and 7.3 (from memory).
    """
    tip = a * np.exp(1j * crank)
    gap = d - tip
    reach = np.abs(gap)
    bend = np.arccos((b**2 + reach**2 - c**2) / (2 * b * reach)) * (-1 if crossed else 1)
    t3 = np.angle(gap) + bend
    t4 = np.angle(tip + b * np.exp(1j * t3) - d)
    w3 = a * speed * np.sin(t4 - crank) / (b * np.sin(t3 - t4))
    w4 = a * speed * np.sin(crank - t3) / (c * np.sin(t4 - t3))
    a3 = (-a * speed**2 * np.cos(crank - t4) - b * w3**2 * np.cos(t3 - t4) + c * w4**2) / (b * np.sin(t3 - t4))
    a4 = (a * speed**2 * np.cos(crank - t3) + b * w3**2 - c * w4**2 * np.cos(t4 - t3)) / (c * np.sin(t4 - t3))
    return FourBar(t3, t4, w3, w4, a3, a4)


def gear_train(
    closer: float = 0.0,
    thinning: str = "0.05 mm",
    teeth: tuple[int, int] = (18, 54),
    frames: int = 72,
    module: str = "1.5 mm",
) -> Document:
    """Pinion and wheel on a plate, at their centre distance less `closer` metres; one turn of the wheel is the cycle."""
    draft = Draft("Gear train")
    centres = float(module.split()[0]) * sum(teeth) / 2 / 1e3 - closer
    plate = draft.part(
        "Plate",
        "steel",
        FramePlate(
            length="220 mm",
            width="120 mm",
            bores={
                "one": Bore(x="50 mm", y="60 mm", diameter="8 mm"),
                "two": Bore(x=f"50 mm + {mm(centres)}", y="60 mm", diameter="8 mm"),
            },
        ),
    )
    pinion = draft.part(
        "Pinion",
        "steel",
        SpurGear(module=module, teeth=teeth[0], thinning=thinning, width="4 mm"),
        x="50 mm",
        y="60 mm",
        z="2 mm",
        turn_z="7 deg",
    )
    wheel = draft.part(
        "Wheel",
        "steel",
        SpurGear(module=module, teeth=teeth[1], thinning=thinning, width="4 mm"),
        x="104 mm",
        y="60 mm",
        z="2 mm",
        turn_z="3 deg",
    )
    motor = draft.revolute("Pinion in plate", plate["one"], pinion["axis"], offset="2 mm")
    draft.revolute("Wheel in plate", plate["two"], wheel["axis"], offset="2 mm")
    draft.gear_pair("Mesh", pinion, wheel)
    draft.turn("Motor", motor, "120 rpm")
    draft.set(
        "cycle", Cycle(duration=f"{teeth[1] / teeth[0]!r} rev / (120 rpm)", frames=frames).model_dump(mode="json")
    )
    return draft.document


def rack_and_pinion() -> tuple[Draft, str, str]:
    """A gear over a rack, with the joints in which they turn and slide; nothing drives it."""
    draft = Draft("Rack and pinion")
    plate = draft.part("Plate", "steel", FramePlate(bores={"bore": Bore(x="80 mm", y="60 mm", diameter="8 mm")}))
    gear = draft.part("Gear", "steel", SpurGear(module="2 mm", teeth=20), x="80 mm", y="60 mm", turn_z="4 deg")
    rack = draft.part("Rack", "steel", Rack(module="2 mm", teeth=12), x="50 mm", y="40 mm")
    turn = draft.revolute("Gear turns", plate["bore"], gear["axis"])
    slide = draft.prismatic("Rack slides", plate["right"], rack["right"])
    draft.set(f"joints.{slide}.turn", "0 deg")
    draft.rack_pair("Rolls", gear, rack)
    return draft, turn, slide


def crossed_ring(pairs: int, arm: float = 0.03, frames: int = 360) -> Document:
    """A closed ring of crossed angled links on a plate, made by repeating one pair; three slots keep it centred.

    The crossing of the first pair is driven over the whole travel: from 2 degrees beyond the widest ring, where inner and
    outer ends lie on one circle and the ring could branch, until the inner arms stand 15 degrees off the rays.
    """
    step = 2 * np.pi / pairs
    open_at = 92 - 180 / pairs  # between an outer arm and the ray inward
    sweep = 165 - 360 / pairs - open_at
    radius = crossed_ring_radius(pairs, arm, np.radians(open_at))
    reach = 2.4 * arm / np.sin(step / 2)
    draft = Draft("Crossed ring")
    half = mm(reach / 2)
    plate = draft.part(
        "Plate", "steel", FramePlate(length=mm(reach), width=mm(reach), bores={"centre": Bore(x=half, y=half, diameter="8 mm")}),
        x=f"-({half})", y=f"-({half})",
    )  # fmt: skip
    size = {
        "arm_1": mm(arm),
        "arm_2": mm(arm),
        "width": "6 mm",
        "thickness": "3 mm",
        "bore_1": "2 mm",
        "bore_2": "2 mm",
        "bore_3": "2 mm",
    }
    one = draft.part(
        "Link",
        "steel",
        AngledLink(angle=f"180 deg + 360 deg / {pairs}", **size),
        x=mm(radius),
        turn_z=f"{180 + open_at} deg",
    )
    other = draft.part(
        "Cross link", "steel", AngledLink(angle=f"180 deg - 360 deg / {pairs}", **size), x=mm(radius), z="3 mm", turn_z=f"{180 - open_at} deg"
    )  # fmt: skip
    crossing = draft.revolute("Crossing", one["hole_1"], other["hole_1"], offset="3 mm")
    draft.ring("Ring", [one, other], plate["centre"], str(pairs))
    draft.revolute("Outer end", other["hole_2"], one.copy(2)["hole_2"], offset="-3 mm")
    draft.revolute("Inner end", one["hole_3"], other.copy(2)["hole_3"], offset="3 mm")
    draft.planar("Lies on plate", plate["top"], one.copy(2)["bottom"], flip=True)
    for k in (2, 2 + pairs // 3, 2 + 2 * pairs // 3):
        angle = 360 * (k - 1) / pairs
        rail = draft.part(
            f"Rail {k}", "steel", SlottedLever(slot_start="10 mm", slot_length=mm(reach / 2), slot_width="2 mm"),
            z="-20 mm", turn_z=f"{angle!r} deg",
        )  # fmt: skip
        draft.rigid(f"Rail {k} fixed", plate["centre"], rail["pivot"], offset="-20 mm", turn=f"{angle!r} deg")
        draft.slot_pair(f"Slot {k}", one.copy(k)["hole_1"], rail["slot"])
    draft.turn("Drive", crossing, f"{-2 * sweep!r} deg/s", f"{-2 * open_at!r} deg")
    draft.set("cycle", Cycle(duration="1 s", frames=frames).model_dump(mode="json"))
    return draft.document


def crossed_ring_radius(pairs: int, arm: float, outer: Array | float) -> Array:
    """Distance of the crossings from the centre, for the angle between an outer arm and the ray inward (rad).

    Law of sines in the triangle of centre, crossing and arm end; Z. You, S. Pellegrino, Foldable bar structures,
    Int. J. Solids Structures 34 (1997), section 3. From memory.
    """
    return np.asarray(arm * np.sin(np.pi / pairs + np.asarray(outer)) / np.sin(np.pi / pairs))


def planetary(
    sun: int, planet: int, planets: int, held: str, module: str = "1 mm", thinning: str = "0 mm", frames: int = 72
) -> Document:
    """Sun, planets on a carrier, and ring; `held` (ring or carrier) stands still and the sun is driven at 60 rpm."""
    ring = sun + 2 * planet
    m = float(module.split()[0]) / 1e3
    draft = Draft("Planetary")
    plate = draft.part("Plate", "steel", FramePlate(length="140 mm", width="140 mm", bores={"centre": Bore(x="70 mm", y="70 mm", diameter="8 mm")}),
                       x="-70 mm", y="-70 mm", z="-20 mm")  # fmt: skip
    sun_gear = draft.part(
        "Sun", "steel", SpurGear(module=module, teeth=sun, bore="5 mm", thinning=thinning), turn_z="3 deg"
    )
    circle = mm((sun + planet) * m)
    carrier = draft.part(
        "Carrier",
        "steel",
        Carrier(diameter=mm((sun + planet) * m + 0.008), pins=planets, pin_circle=circle, pin_diameter="4 mm"),
        z="-10 mm",
    )
    wheel = draft.part(
        "Planet",
        "steel",
        SpurGear(module=module, teeth=planet, bore="4.2 mm", thinning=thinning),
        x=mm((sun + planet) * m / 2),
        turn_z="5 deg",
    )
    rim = draft.part(
        "Ring",
        "steel",
        RingGear(module=module, teeth=ring, outer_diameter=mm((ring + 12) * m), thinning=thinning),
        turn_z="2 deg",
    )
    drive = draft.revolute("Sun turns", plate["centre"], sun_gear["axis"], offset="20 mm")
    (draft.rigid if held == "carrier" else draft.revolute)(
        "Carrier turns", plate["centre"], carrier["axis"], offset="10 mm"
    )
    (draft.rigid if held == "ring" else draft.revolute)("Ring turns", plate["centre"], rim["axis"], offset="20 mm")
    draft.revolute("Planet on pin", carrier["pin_1"], wheel["axis"], offset="6 mm")
    draft.gear_pair("Sun and planet", sun_gear, wheel)
    draft.gear_pair("Planet and ring", wheel, rim)
    draft.ring("Planets", [wheel], carrier["axis"], str(planets))
    draft.turn("Motor", drive, "60 rpm")
    draft.set("cycle", Cycle(duration="0.5 s", frames=frames).model_dump(mode="json"))
    draft.require(NoInterference(name="Nothing overlaps", depth="0.005 mm"))
    return draft.document
