"""The foil tucker of Quittenhof's praline-wrapping machine (invented): a gear-driven four-bar swings a tucking finger.

As shipped the finger meets the guide post. Making it narrower mends it: `finger_w` 12.8 mm -> 9.6 mm.
"""

from __future__ import annotations

from uhrwerk import (
    Bore,
    Clearance,
    Cycle,
    Determinate,
    Document,
    Draft,
    FramePlate,
    LinkBar,
    MassLimit,
    NoInterference,
    Pin,
    Post,
    SpurGear,
)

MENDED = ("parameters.finger_w.formula", "9.6 mm")


def foil_tucker() -> Document:
    d = Draft("Foil tucker", note="Quittenhof praline wrapper: tucks the foil under, past the guide post.")
    d.parameter("gear_m", "1.5 mm", "module of pinion and wheel")
    d.parameter("axle_x", "44 mm", "motor axis from the left edge")
    d.parameter("axle_y", "52 mm")
    d.parameter("centres", "gear_m * (18 + 54) / 2", "centre distance of the gear pair")
    d.parameter("motor_speed", "120 rpm")
    d.parameter("arm_w", "13 mm", "width of coupler and rocker")
    d.parameter("finger_w", "arm_w - 0.2 mm", "width of the tucking finger")
    d.parameter("play", "0.05 mm", "bores over their pins")

    plate = d.part(
        "Plate", "aluminium",
        FramePlate(
            length="226 mm", width="150 mm", thickness="8 mm", corner="10 mm",
            bores={
                "motor_bore": Bore(x="axle_x", y="axle_y", diameter="6 mm + play"),
                "wheel_bore": Bore(x="axle_x + centres", y="axle_y", diameter="8 mm + play"),
                "rocker_bore": Bore(x="axle_x + centres + 88 mm", y="axle_y - 18 mm", diameter="6 mm + play"),
            },
            posts={"guide_post": Post(x="214 mm", y="114 mm", diameter="8 mm", height="22 mm")},
        ),
    )  # fmt: skip
    pinion = d.part(
        "Motor pinion",
        "steel",
        SpurGear(module="gear_m", teeth=18, width="8 mm", bore="6 mm", thinning="0.05 mm"),
        x="44 mm",
        y="52 mm",
        z="1 mm",
    )
    wheel = d.part(
        "Wheel with crank pin", "brass",
        SpurGear(module="gear_m", teeth=54, width="6 mm", bore="8 mm", thinning="0.05 mm",
                 pins={"crank_pin": Post(x="22 mm", diameter="5 mm", height="7 mm")}),
        x="98 mm", y="52 mm", z="2 mm", turn_z="-3 deg",
    )  # fmt: skip
    coupler = d.part("Coupler", "aluminium", LinkBar(distance="88 mm", width="arm_w", thickness="5 mm", bore_1="5 mm + play", bore_2="5 mm + play"),
                     x="120 mm", y="52 mm", z="9 mm", turn_z="28 deg")  # fmt: skip
    rocker = d.part("Rocker and finger", "aluminium", LinkBar(distance="62 mm", width="arm_w + 2 mm", thickness="5 mm", bore_1="6 mm", bore_2="5 mm",
                                                             finger="36 mm", finger_width="finger_w"),
                    x="186 mm", y="34 mm", z="15 mm", turn_z="90 deg")  # fmt: skip
    motor_shaft = d.part(
        "Motor shaft", "steel", Pin(diameter="6 mm", length="19 mm", chamfer="0.4 mm"), x="44 mm", y="52 mm", z="-10 mm"
    )
    wheel_arbor = d.part(
        "Wheel arbor", "steel", Pin(diameter="8 mm", length="18 mm", chamfer="0.4 mm"), x="98 mm", y="52 mm", z="-10 mm"
    )
    rocker_pivot = d.part(
        "Rocker pivot",
        "steel",
        Pin(diameter="6 mm", length="30 mm", chamfer="0.4 mm"),
        x="186 mm",
        y="34 mm",
        z="-10 mm",
    )
    knuckle = d.part(
        "Knuckle pin",
        "steel",
        Pin(diameter="5 mm", length="12.5 mm", chamfer="0.4 mm"),
        x="186 mm",
        y="96 mm",
        z="8 mm",
    )

    motor = d.revolute("Pinion turns in plate", plate["motor_bore"], pinion["axis"], offset="1 mm")
    d.revolute("Wheel turns in plate", plate["wheel_bore"], wheel["axis"], offset="2 mm")
    d.revolute("Coupler on crank pin", wheel["crank_pin"], coupler["hole_1"], offset="1 mm")
    d.revolute("Rocker turns in plate", plate["rocker_bore"], rocker["hole_1"], offset="15 mm")
    d.revolute("Rocker on coupler", coupler["hole_2"], rocker["hole_2"], offset="6 mm")
    d.rigid("Shaft pressed in pinion", pinion["axis"], motor_shaft["axis"], offset="-11 mm")
    d.rigid("Arbor pressed in wheel", wheel["axis"], wheel_arbor["axis"], offset="-12 mm")
    d.rigid("Pivot pressed in rocker", rocker["hole_1"], rocker_pivot["axis"], offset="-25 mm")
    d.rigid("Knuckle pressed in rocker", rocker["hole_2"], knuckle["axis"], offset="-7.5 mm")
    d.gear_pair("Pinion drives wheel", pinion, wheel)
    d.turn("Motor", motor, "motor_speed")
    d.set("cycle", Cycle(duration="3 rev / abs(motor_speed)", frames=360).model_dump(mode="json"))
    d.require(NoInterference(name="Nothing overlaps", depth="0.005 mm"))
    d.require(Clearance(name="Rocker clears post", a=rocker.body(), b=plate.body("guide_post"), at_least="1 mm"))
    d.require(MassLimit(name="Moving mass", of="moving", at_most="420 g"))
    d.require(Determinate(name="Nothing is loose"))
    d.group("Swinging arm", [coupler, rocker, rocker_pivot, knuckle])
    return d.document


def mended() -> Document:
    """The foil tucker with the one size changed that mends it."""
    d = Draft("Foil tucker", foil_tucker())
    d.set(*MENDED)
    return d.document
