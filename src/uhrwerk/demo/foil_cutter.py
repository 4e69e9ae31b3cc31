"""Foil cutter of the praline wrapper: a skew blade carrier on a shaft at 900 rev/min, with a counterweight.

As drawn, the counterweight is too small and stands wrongly: the shaft shakes its bearings above grade G 6.3.
"""

from __future__ import annotations

from uhrwerk import (
    AngledLink,
    BalanceGrade,
    Bore,
    CentreOfGravity,
    Counterweight,
    Cycle,
    Determinate,
    Draft,
    FramePlate,
    LinkBar,
    NoInterference,
    Pin,
)
from uhrwerk.core.document import Document

MENDED = {
    "parameters.weight_radius.formula": "22.2 mm", "parameters.weight_angle.formula": "203.8 deg",
}  # fmt: skip


def foil_cutter() -> Document:
    d = Draft("Foil cutter", note="Quittenhof praline wrapper: cuts the foil behind the praline.")
    d.parameter("weight_radius", "19 mm", "counterweight: how far it reaches")
    d.parameter("weight_thickness", "8 mm", "counterweight: how thick it is")
    d.parameter("weight_angle", "190 deg", "counterweight: how it is turned on the shaft")
    bores = {"shaft": Bore(x="60 mm", y="60 mm", diameter="8.05 mm")}
    plate = d.part("Plate", "aluminium", FramePlate(length="140 mm", width="120 mm", thickness="10 mm", bores=bores))
    shaft = d.part("Shaft", "steel", Pin(diameter="8 mm", length="52 mm", chamfer="0.5 mm"), x="60 mm", y="60 mm")
    carrier = d.part(
        "Blade carrier", "aluminium", AngledLink(arm_1="34 mm", arm_2="26 mm", angle="75 deg", width="16 mm", thickness="6 mm", bore_1="8 mm", bore_2="3 mm", bore_3="3 mm"),
        x="60 mm", y="60 mm", z="20 mm",
    )  # fmt: skip
    blade = d.part("Blade", "steel", LinkBar(distance="30 mm", width="9 mm", thickness="1 mm", bore_1="3 mm", bore_2="3 mm"), x="90 mm", y="60 mm", z="30 mm")  # fmt: skip
    rivet = d.part("Rivet", "steel", Pin(diameter="3 mm", length="7 mm"), x="100 mm", y="40 mm", z="30 mm")
    weight = d.part(
        "Counterweight", "brass", Counterweight(bore="8 mm", ring="18 mm", radius="weight_radius", span="110 deg", thickness="weight_thickness"),
        x="60 mm", y="60 mm", z="10 mm",
    )  # fmt: skip
    turns = d.revolute("Shaft turns in plate", plate["shaft"], shaft["axis"], offset="-12 mm")
    d.rigid("Carrier on its shaft", shaft["axis"], carrier["hole_1"], offset="34 mm")
    d.rigid("Blade on its carrier", carrier["hole_2"], blade["hole_1"], offset="6 mm", turn="62 deg")
    d.rigid("Rivet in blade and carrier", carrier["hole_2"], rivet["axis"])
    d.rigid("Counterweight on its shaft", shaft["axis"], weight["axis"], offset="20 mm", turn="weight_angle")
    d.turn("Motor", turns, "900 rpm")
    d.set("cycle", Cycle(duration="1 rev / 900 rpm", frames="120").model_dump(mode="json"))
    d.require(BalanceGrade(name="Runs quietly", joint=turns, grade="6.3 mm/s"))
    d.require(CentreOfGravity(name="Centre on the axis", joint=turns, at_most="0.05 mm"))
    d.require(NoInterference(name="Nothing overlaps", depth="0.005 mm"))
    d.require(Determinate(name="Nothing is loose"))
    return d.document
