"""Main drive of the praline wrapper: motor shaft, coupling, two spur stages on a layout of three axes, camshaft.

As drawn, the large wheel passes too close to the motor's arbor: unfolding the layout by a few degrees mends it.
"""

from __future__ import annotations

from typing import Any

from uhrwerk import (
    Bore,
    Clearance,
    Cycle,
    Determinate,
    Draft,
    EccentricDisc,
    FramePlate,
    MassLimit,
    NoInterference,
    Pin,
    SpurGear,
    SteppedShaft,
)
from uhrwerk.core.document import Document

MENDED = {"parameters.fold.formula": "119 deg"}


def main_drive() -> Document:
    d = Draft("Main drive", note="Quittenhof praline wrapper: motor to camshaft, nine to one.")
    d.parameter("motor_speed", "600 rpm")
    d.parameter("m_1", "1.25 mm", "module of the first stage")
    d.parameter("m_2", "1.5 mm", "module of the second stage")
    d.parameter("a_1", "m_1 * (16 + 48) / 2", "centre distance of the first stage")
    d.parameter("a_2", "m_2 * (18 + 54) / 2", "centre distance of the second stage")
    d.parameter("fold", "123 deg", "direction of the camshaft from the middle arbor")
    d.parameter("x_1", "46 mm")
    d.parameter("y_1", "56 mm")
    x_2, x_3, y_3 = "x_1 + a_1", "x_1 + a_1 + a_2 * cos(fold)", "y_1 + a_2 * sin(fold)"
    bores = {
        "motor": Bore(x="x_1", y="y_1", diameter="8.05 mm"), "middle": Bore(x=x_2, y="y_1", diameter="8.05 mm"),
        "camshaft": Bore(x=x_3, y=y_3, diameter="10.05 mm"),
    }  # fmt: skip
    plate = d.part(
        "Gear plate", "aluminium", FramePlate(length="150 mm", width="160 mm", thickness="8 mm", bores=bores)
    )
    motor_shaft = d.part(
        "Motor shaft", "steel", Pin(diameter="8 mm", length="30 mm", chamfer="0.5 mm"), x="x_1", y="y_1", z="-64 mm"
    )
    hub = SteppedShaft(
        diameter_1="24 mm", length_1="9 mm", diameter_2="18 mm", length_2="6 mm", length_3="0 mm", bore="8 mm"
    )
    motor_hub = d.part("Motor hub", "steel", hub, x="x_1", y="y_1", z="-34 mm", turn_x="180 deg")
    spider = d.part(
        "Spider",
        "acetal",
        SteppedShaft(diameter_1="24 mm", length_1="5 mm", length_2="0 mm", length_3="0 mm", bore="9 mm"),
        x="x_1",
        y="y_1",
        z="-34 mm",
    )
    arbor_hub = d.part("Arbor hub", "steel", hub, x="x_1", y="y_1", z="-29 mm")
    arbor = d.part(
        "Motor arbor", "steel", Pin(diameter="8 mm", length="50 mm", chamfer="0.5 mm"), x="x_1", y="y_1", z="-28 mm"
    )
    gear: dict[str, Any] = {"width": "6 mm", "bore": "8 mm", "thinning": "0.06 mm"}
    pinion_1 = d.part(
        "First pinion", "steel", SpurGear(module="m_1", teeth=16, **gear), x="x_1", y="y_1", z="2 mm", turn_z="4 deg"
    )
    wheel_1 = d.part(
        "First wheel", "brass", SpurGear(module="m_1", teeth=48, **gear), x=x_2, y="y_1", z="2 mm", turn_z="2 deg"
    )
    middle = d.part(
        "Middle arbor", "steel", Pin(diameter="8 mm", length="30 mm", chamfer="0.5 mm"), x=x_2, y="y_1", z="-8 mm"
    )
    pinion_2 = d.part(
        "Second pinion", "steel", SpurGear(module="m_2", teeth=18, **gear), x=x_2, y="y_1", z="11 mm", turn_z="3 deg"
    )
    wheel_2 = d.part(
        "Second wheel",
        "brass",
        SpurGear(module="m_2", teeth=54, **gear | {"bore": "10 mm"}),
        x=x_3,
        y=y_3,
        z="11 mm",
        turn_z="2 deg",
    )
    camshaft = d.part(
        "Camshaft", "steel", Pin(diameter="10 mm", length="52 mm", chamfer="0.5 mm"), x=x_3, y=y_3, z="-8 mm"
    )
    cam = d.part(
        "Eccentric",
        "steel",
        EccentricDisc(
            diameter="34 mm",
            thickness="6 mm",
            bore="10 mm",
            eccentricity="11 mm",
            pin_diameter="4 mm",
            pin_height="6 mm",
        ),
        x=x_3,
        y=y_3,
        z="30 mm",
    )

    turns = d.revolute("Motor turns in plate", plate["motor"], arbor["axis"], offset="-28 mm")
    d.rigid("Pinion pressed on arbor", arbor["axis"], pinion_1["axis"], offset="30 mm")
    d.rigid("Arbor hub on arbor", arbor["axis"], arbor_hub["bore"], offset="-1 mm")
    d.rigid("Spider in arbor hub", arbor_hub["start"], spider["end"], flip=True)
    d.rigid("Motor hub on spider", spider["start"], motor_hub["start"], flip=True)
    d.rigid("Motor hub on shaft", motor_hub["bore"], motor_shaft["axis"], offset="30 mm", flip=True)
    d.revolute("Middle arbor turns", plate["middle"], middle["axis"], offset="-8 mm")
    d.rigid("Wheel on middle arbor", middle["axis"], wheel_1["axis"], offset="10 mm")
    d.rigid("Pinion on middle arbor", middle["axis"], pinion_2["axis"], offset="19 mm", turn="3 deg")
    d.revolute("Camshaft turns", plate["camshaft"], camshaft["axis"], offset="-8 mm")
    d.rigid("Wheel on camshaft", camshaft["axis"], wheel_2["axis"], offset="19 mm")
    d.rigid("Eccentric on camshaft", camshaft["axis"], cam["axis"], offset="38 mm")
    d.gear_pair("First stage", pinion_1, wheel_1)
    d.gear_pair("Second stage", pinion_2, wheel_2)
    d.turn("Motor", turns, "motor_speed")
    d.set("cycle", Cycle(duration="9 rev / abs(motor_speed)", frames=360).model_dump(mode="json"))
    d.require(NoInterference(name="Nothing overlaps", depth="0.005 mm"))
    d.require(Clearance(name="Wheel clears motor arbor", a=wheel_2.body(), b=arbor.body(), at_least="1.5 mm"))
    d.require(MassLimit(name="Moving mass", of="moving", at_most="900 g"))
    d.require(Determinate(name="Nothing is loose"))
    d.group("Coupling", [motor_hub, spider, arbor_hub])
    return d.document
