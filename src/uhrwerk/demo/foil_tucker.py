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
from uhrwerk.core.curves import PointCurve, PointSpeed, TransmissionAngle
from uhrwerk.draft import Handle

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

    p = _parts(d)
    _joined(d, p)
    d.set("cycle", Cycle(duration="3 rev / abs(motor_speed)", frames="360").model_dump(mode="json"))
    d.require(NoInterference(name="Nothing overlaps", depth="0.005 mm"))
    rocker, post = p["rocker"].body(), p["plate"].body("guide_post")
    d.require(Clearance(name="Rocker clears post", a=rocker, b=post, at_least="1 mm"))
    d.require(MassLimit(name="Moving mass", of="moving", at_most="420 g"))
    d.require(Determinate(name="Nothing is loose"))
    coupler, plate, knuckle = p["coupler"], p["plate"], p["coupler"]["hole_2"]
    d.follow(
        TransmissionAngle(
            name="Transmission angle", coupler=coupler["hole_1"], joint=knuckle, pivot=plate["rocker_bore"]
        )
    )
    d.follow(PointCurve(name="Finger tip, sideways", at=p["rocker"]["tip"], along="x"))
    d.follow(PointSpeed(name="Speed of the finger tip", at=p["rocker"]["tip"]))
    d.group("Swinging arm", [p[k] for k in ("coupler", "rocker", "rocker_pivot", "knuckle")])
    return d.document


def _parts(d: Draft) -> dict[str, Handle]:
    bores = {
        "motor_bore": Bore(x="axle_x", y="axle_y", diameter="6 mm + play"),
        "wheel_bore": Bore(x="axle_x + centres", y="axle_y", diameter="8 mm + play"),
        "rocker_bore": Bore(x="axle_x + centres + 88 mm", y="axle_y - 18 mm", diameter="6 mm + play"),
    }
    posts = {"guide_post": Post(x="214 mm", y="114 mm", diameter="8 mm", height="22 mm")}
    plate = FramePlate(length="226 mm", width="150 mm", thickness="8 mm", corner="10 mm", bores=bores, posts=posts)
    pinion = SpurGear(module="gear_m", teeth="18", width="8 mm", bore="6 mm", thinning="0.05 mm")
    crank = {"crank_pin": Post(x="22 mm", diameter="5 mm", height="7 mm")}
    wheel = SpurGear(module="gear_m", teeth="54", width="6 mm", bore="8 mm", thinning="0.05 mm", pins=crank)
    coupler = LinkBar(distance="88 mm", width="arm_w", thickness="5 mm", bore_1="5 mm + play", bore_2="5 mm + play")
    rocker = LinkBar(
        distance="62 mm", width="arm_w + 2 mm", thickness="5 mm", bore_1="6 mm", bore_2="5 mm",
        finger="36 mm", finger_width="finger_w",
    )  # fmt: skip

    def pin(name: str, diameter: str, length: str, **at: str) -> Handle:
        return d.part(name, "steel", Pin(diameter=diameter, length=length, chamfer="0.4 mm"), **at)

    wheel_at = {"x": "98 mm", "y": "52 mm"}
    return {
        "plate": d.part("Plate", "aluminium", plate),
        "pinion": d.part("Motor pinion", "steel", pinion, x="44 mm", y="52 mm", z="1 mm"),
        "wheel": d.part("Wheel with crank pin", "brass", wheel, **wheel_at, z="2 mm", turn_z="-3 deg"),
        "coupler": d.part("Coupler", "aluminium", coupler, x="120 mm", y="52 mm", z="9 mm", turn_z="28 deg"),
        "rocker": d.part("Rocker and finger", "aluminium", rocker, x="186 mm", y="34 mm", z="15 mm", turn_z="90 deg"),
        "motor_shaft": pin("Motor shaft", "6 mm", "19 mm", x="44 mm", y="52 mm", z="-10 mm"),
        "wheel_arbor": pin("Wheel arbor", "8 mm", "18 mm", **wheel_at, z="-10 mm"),
        "rocker_pivot": pin("Rocker pivot", "6 mm", "30 mm", x="186 mm", y="34 mm", z="-10 mm"),
        "knuckle": pin("Knuckle pin", "5 mm", "12.5 mm", x="186 mm", y="96 mm", z="8 mm"),
    }


def _joined(d: Draft, p: dict[str, Handle]) -> None:
    plate, pinion, wheel, coupler, rocker = (p[k] for k in ("plate", "pinion", "wheel", "coupler", "rocker"))
    motor = d.revolute("Pinion turns in plate", plate["motor_bore"], pinion["axis"], offset="1 mm")
    d.revolute("Wheel turns in plate", plate["wheel_bore"], wheel["axis"], offset="2 mm")
    d.revolute("Coupler on crank pin", wheel["crank_pin"], coupler["hole_1"], offset="1 mm")
    d.revolute("Rocker turns in plate", plate["rocker_bore"], rocker["hole_1"], offset="15 mm")
    d.revolute("Rocker on coupler", coupler["hole_2"], rocker["hole_2"], offset="6 mm")
    d.rigid("Shaft pressed in pinion", pinion["axis"], p["motor_shaft"]["axis"], offset="-11 mm")
    d.rigid("Arbor pressed in wheel", wheel["axis"], p["wheel_arbor"]["axis"], offset="-12 mm")
    d.rigid("Pivot pressed in rocker", rocker["hole_1"], p["rocker_pivot"]["axis"], offset="-25 mm")
    d.rigid("Knuckle pressed in rocker", rocker["hole_2"], p["knuckle"]["axis"], offset="-7.5 mm")
    d.gear_pair("Pinion drives wheel", pinion, wheel)
    d.turn("Motor", motor, "motor_speed")


def mended() -> Document:
    """The foil tucker with the one size changed that mends it."""
    d = Draft("Foil tucker", foil_tucker())
    d.set(*MENDED)
    return d.document
