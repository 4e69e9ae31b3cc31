"""Main drive of the praline wrapper: motor shaft, coupling, two spur stages on a layout of three axes, camshaft.

As drawn, the large wheel passes too close to the motor's arbor: unfolding the layout by a few degrees mends it.
"""

from __future__ import annotations

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
from uhrwerk.core.outlines import Circle, Corner, Difference, Points, Slot
from uhrwerk.core.steps import Extrude, RepeatSteps, Round, Which
from uhrwerk.draft import Handle

MENDED = {"parameters.fold.formula": "119 deg"}


X_2, X_3, Y_3 = "x_1 + a_1", "x_1 + a_1 + a_2 * cos(fold)", "y_1 + a_2 * sin(fold)"


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
    bores = {
        "motor": Bore(x="x_1", y="y_1", diameter="8.05 mm"),
        "middle": Bore(x=X_2, y="y_1", diameter="8.05 mm"),
        "camshaft": Bore(x=X_3, y=Y_3, diameter="10.05 mm"),
    }
    plate = d.part(
        "Gear plate", "aluminium", FramePlate(length="150 mm", width="160 mm", thickness="8 mm", bores=bores)
    )
    coupling, gears = _coupling(d), _gears(d)
    _joined(d, plate, coupling, gears)
    d.set("cycle", Cycle(duration="9 rev / abs(motor_speed)", frames="360").model_dump(mode="json"))
    d.require(NoInterference(name="Nothing overlaps", depth="0.005 mm"))
    wheel, arbor = gears["wheel_2"].body(), coupling["arbor"].body()
    d.require(Clearance(name="Wheel clears motor arbor", a=wheel, b=arbor, at_least="1.5 mm"))
    d.require(MassLimit(name="Moving mass", of="moving", at_most="900 g"))
    d.require(Determinate(name="Nothing is loose"))
    d.group("Coupling", [coupling[k] for k in ("motor_hub", "spider", "arbor_hub")])
    return d.document


def _coupling(d: Draft) -> dict[str, Handle]:
    """From the motor's shaft to the arbor in the plate."""
    at = {"x": "x_1", "y": "y_1"}
    shaft = Pin(diameter="8 mm", length="30 mm", chamfer="0.5 mm")
    hub = SteppedShaft(
        diameter_1="24 mm", length_1="9 mm", diameter_2="18 mm", length_2="6 mm", length_3="0 mm", bore="8 mm"
    )
    star = {
        "disc": Extrude(
            name="Disc",
            outline=Difference(of={"a": Circle(diameter="12 mm"), "b": Circle(diameter="9 mm")}),
            length="5 mm",
        ),
        "arm": Extrude(name="Arm", outline=Slot(length="5 mm", width="4 mm", x="7.4 mm"), length="5 mm"),
        "arms": RepeatSteps(name="Arms", steps={"a": Which(step="arm")}, how=Round(count="6")),
    }
    arbor = Pin(diameter="8 mm", length="50 mm", chamfer="0.5 mm")
    coupling = {
        "shaft": d.part("Motor shaft", "steel", shaft, **at, z="-64 mm"),
        "motor_hub": d.part("Motor hub", "steel", hub, **at, z="-34 mm", turn_x="180 deg"),
        "spider": d.own_part("Spider", "acetal", star, **at, z="-34 mm"),
        "arbor_hub": d.part("Arbor hub", "steel", hub, **at, z="-29 mm"),
        "arbor": d.part("Motor arbor", "steel", arbor, **at, z="-28 mm"),
    }
    # three jaws each, between the arms; turned over, those of one hub come to lie between those of the other
    corners = {
        f"c{k}": Corner(x=f"{x} mm", y=f"{y} mm")
        for k, (x, y) in enumerate(((-1.4, 7.6), (-2.4, 11), (2.4, 11), (1.4, 7.6)))
    }
    for one in ("motor_hub", "arbor_hub"):
        d.step(
            coupling[one], Extrude(name="Jaw", plane="element.start", outline=Points(corners=corners), length="4.8 mm")
        )
        d.step(coupling[one], RepeatSteps(name="Jaws", steps={"a": Which(step="jaw")}, how=Round(count="3")))
    return coupling


def _gears(d: Draft) -> dict[str, Handle]:
    """Both stages with the arbors they sit on, and the eccentric at the end."""

    def gear(module: str, teeth: int, bore: str = "8 mm") -> SpurGear:
        return SpurGear(module=module, teeth=str(teeth), width="6 mm", bore=bore, thinning="0.06 mm")

    middle, camshaft = {"x": X_2, "y": "y_1"}, {"x": X_3, "y": Y_3}
    short = Pin(diameter="8 mm", length="30 mm", chamfer="0.5 mm")
    long = Pin(diameter="10 mm", length="52 mm", chamfer="0.5 mm")
    disc = EccentricDisc(
        diameter="34 mm", thickness="6 mm", bore="10 mm", eccentricity="11 mm", pin_diameter="4 mm", pin_height="6 mm"
    )
    return {
        "pinion_1": d.part("First pinion", "steel", gear("m_1", 16), x="x_1", y="y_1", z="2 mm", turn_z="4 deg"),
        "wheel_1": d.part("First wheel", "brass", gear("m_1", 48), **middle, z="2 mm", turn_z="2 deg"),
        "middle": d.part("Middle arbor", "steel", short, **middle, z="-8 mm"),
        "pinion_2": d.part("Second pinion", "steel", gear("m_2", 18), **middle, z="11 mm", turn_z="3 deg"),
        "wheel_2": d.part("Second wheel", "brass", gear("m_2", 54, "10 mm"), **camshaft, z="11 mm", turn_z="2 deg"),
        "camshaft": d.part("Camshaft", "steel", long, **camshaft, z="-8 mm"),
        "cam": d.part("Eccentric", "steel", disc, **camshaft, z="30 mm"),
    }


def _joined(d: Draft, plate: Handle, c: dict[str, Handle], g: dict[str, Handle]) -> None:
    arbor, middle, camshaft = c["arbor"], g["middle"], g["camshaft"]
    turns = d.revolute("Motor turns in plate", plate["motor"], arbor["axis"], offset="-28 mm")
    d.rigid("Pinion pressed on arbor", arbor["axis"], g["pinion_1"]["axis"], offset="30 mm")
    d.rigid("Arbor hub on arbor", arbor["axis"], c["arbor_hub"]["bore"], offset="-1 mm")
    d.rigid("Spider in arbor hub", c["arbor_hub"]["start_centre"], c["spider"]["disc.side_1_high"])
    d.rigid("Motor hub on spider", c["spider"]["disc.side_1_low"], c["motor_hub"]["start_centre"], flip=True)
    d.rigid("Motor hub on shaft", c["motor_hub"]["bore"], c["shaft"]["axis"], offset="30 mm", flip=True)
    d.revolute("Middle arbor turns", plate["middle"], middle["axis"], offset="-8 mm")
    d.rigid("Wheel on middle arbor", middle["axis"], g["wheel_1"]["axis"], offset="10 mm")
    d.rigid("Pinion on middle arbor", middle["axis"], g["pinion_2"]["axis"], offset="19 mm", turn="3 deg")
    d.revolute("Camshaft turns", plate["camshaft"], camshaft["axis"], offset="-8 mm")
    d.rigid("Wheel on camshaft", camshaft["axis"], g["wheel_2"]["axis"], offset="19 mm")
    d.rigid("Eccentric on camshaft", camshaft["axis"], g["cam"]["axis"], offset="38 mm")
    d.gear_pair("First stage", g["pinion_1"], g["wheel_1"])
    d.gear_pair("Second stage", g["pinion_2"], g["wheel_2"])
    d.turn("Motor", turns, "motor_speed")
