"""Folder of the praline wrapper: a plate cam lifts a bell crank by its roller; a spring brings it back; a finger folds the foil.

As drawn, the cam pushes the roller too far aside on the rise, and at speed the spring is too weak to keep it on the cam.
"""

from __future__ import annotations

from uhrwerk import (
    AngledLink,
    Bore,
    ContactKept,
    Cycle,
    Determinate,
    Draft,
    DriveEffort,
    FramePlate,
    NoInterference,
    Pin,
    PlateCam,
    PressureAngle,
    TurnSegment,
    cams,
    hardware,
    laws,
)
from uhrwerk.core.document import Document

MENDED = {"parameters.base.formula": "56 mm", "pairs.spring.free_length": "46 mm"}


def folder() -> Document:
    d = Draft("Folder", note="Quittenhof praline wrapper: folds the foil under the praline.")
    d.parameter("base", "48 mm", "base circle of the cam")
    d.parameter("arm", "52 mm", "bell crank: pivot to roller")
    d.parameter("pivot", "72 mm", "cam axis to pivot")
    d.parameter("roller", "22 mm", "outside diameter of the bearing that runs on the cam")
    bores = {
        "camshaft": Bore(x="60 mm", y="60 mm", diameter="8.05 mm"), "pivot": Bore(x="60 mm + pivot", y="60 mm", diameter="8.05 mm"),
        "spring": Bore(x="104 mm", y="130 mm", diameter="6 mm"),
    }  # fmt: skip
    plate = d.part("Plate", "aluminium", FramePlate(length="200 mm", width="160 mm", bores=bores))
    swing = {
        "fold": TurnSegment(to="26 deg", over="90 deg"), "stay": TurnSegment(to="26 deg", over="70 deg"),
        "back": TurnSegment(over="100 deg", law=laws.ModifiedSine()),
    }  # fmt: skip
    shape = cams.SwingingRoller(roller="roller", arm="arm", pivot="pivot", swing=swing)
    shaft = d.part("Camshaft", "steel", Pin(diameter="8 mm", length="19 mm", chamfer="0.5 mm"), x="60 mm", y="60 mm")
    cam = d.part(
        "Cam", "steel", PlateCam(base_diameter="base", width="6 mm", bore="8 mm", outline=shape), x="60 mm", y="60 mm"
    )
    rest = "acos((arm^2 + pivot^2 - (base / 2 + roller / 2)^2) / (2 * arm * pivot))"
    crank = d.part(
        "Bell crank", "aluminium", AngledLink(arm_1="arm", arm_2="56 mm", angle="270 deg", bore_1="8 mm", bore_2="8 mm", thickness="5 mm", width="16 mm"),
        x="60 mm + pivot", y="60 mm", z="11 mm", turn_z=f"180 deg - {rest}",
    )  # fmt: skip
    pivot = d.part(
        "Pivot", "steel", Pin(diameter="8 mm", length="24 mm", chamfer="0.5 mm"), x="60 mm + pivot", y="60 mm"
    )
    axle = d.part("Roller axle", "steel", Pin(diameter="8 mm", length="13 mm"), x="30 mm", y="110 mm")
    bearing = d.part("Roller", "steel", hardware.BallBearing(size="608"), x="20 mm", y="120 mm")
    finger = d.part("Folding finger", "brass", Pin(diameter="4 mm", length="18 mm"), x="150 mm", y="120 mm")
    post = d.part("Spring post", "steel", Pin(diameter="6 mm", length="32 mm"), x="104 mm", y="130 mm")
    turns = d.revolute("Camshaft turns in plate", plate["camshaft"], shaft["axis"], offset="-8 mm")
    d.rigid("Cam on its shaft", shaft["axis"], cam["axis"], offset="11 mm")
    d.revolute("Bell crank swings in plate", plate["pivot"], crank["hole_1"], offset="11 mm")
    d.rigid("Pivot pressed in bell crank", crank["hole_1"], pivot["axis"], offset="-19 mm")
    d.rigid("Axle pressed in bell crank", crank["hole_2"], axle["axis"], offset="-8 mm")
    d.rigid("Bearing on its axle", axle["axis"], bearing["bore"], offset="0 mm")
    d.rigid("Finger pressed in bell crank", crank["hole_3"], finger["axis"])
    d.rigid("Post pressed in plate", plate["spring"], post["axis"], offset="-8 mm")
    runs = d.cam_pair("Roller runs on cam", cam["axis"], bearing["outside"])
    d.spring(
        "Spring",
        post["top"],
        finger["top"],
        loading="extension",
        free_length="52 mm",
        wire_diameter="1 mm",
        mean_diameter="8 mm",
        active_coils="16",
    )
    d.turn("Motor", turns, "300 rpm")
    d.set("cycle", Cycle(duration="0.2 s", frames="360").model_dump(mode="json"))
    d.require(PressureAngle(name="Cam pushes straight", pair=runs, at_most="32 deg"))
    d.require(ContactKept(name="Roller stays on the cam", pair=runs, at_least="10 N"))
    d.require(DriveEffort(name="Camshaft torque", driver="motor", at_most="1.2 N m"))
    d.require(NoInterference(name="Nothing overlaps", depth="0.005 mm"))
    d.require(Determinate(name="Nothing is loose"))
    return d.document
