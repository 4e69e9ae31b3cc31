"""Guard lid of the praline wrapper: two leaves and a pin, held by relations alone, opening to 250 degrees.

As drawn, pin and bore have no play, and the hinge stands so far in that the cover's edge stops the lid early.
"""

from __future__ import annotations

from typing import Any

from uhrwerk import Clearance, Cycle, Determinate, Draft, FramePlate, HingeLeaf, NoInterference, Pin, Travel
from uhrwerk.core.document import Document
from uhrwerk.core.outlines import Rectangle
from uhrwerk.core.steps import Cut, Hole, OnGrid

MENDED = {"parameters.overhang.formula": "6 mm", "parts.lid_leaf.element.bore": "pin_d + 0.1 mm"}


def guard_lid() -> Document:
    d = Draft("Guard lid", note="Quittenhof praline wrapper: the lid over the folding station.")
    d.parameter("overhang", "2 mm", "how far the hinge's axis stands out over the cover's edge")
    d.parameter("pin_d", "5 mm")
    leaf: dict[str, Any] = {
        "length": "60 mm",
        "width": "30 mm",
        "thickness": "3 mm",
        "knuckle_diameter": "9 mm",
        "knuckles": 3,
        "gap": "0.4 mm",
    }
    cover = d.part("Cover", "aluminium", FramePlate(length="90 mm", width="80 mm", thickness="6 mm", corner="0 mm"))
    window = Rectangle(length="40 mm", width="36 mm", corner="6 mm", x="55 mm", y="40 mm")
    d.step(cover, Cut(name="Window", plane="element.end", outline=window, through=True))
    screws = OnGrid(column_distance="42 mm", row_distance="66 mm", x="61 mm", y="40 mm")
    d.step(cover, Hole(name="Screws", plane="element.end", form="countersunk", screw="M4", at=screws))
    fixed = d.part(
        "Fixed leaf", "steel", HingeLeaf(bore="pin_d", **leaf), x="-2 mm", y="70 mm", z="5 mm", turn_x="90 deg"
    )
    lid = d.part(
        "Lid leaf",
        "steel",
        HingeLeaf(bore="pin_d", first=False, **leaf),
        x="-2 mm",
        y="10 mm",
        z="5 mm",
        turn_x="-90 deg",
    )
    pin = d.part(
        "Hinge pin",
        "steel",
        Pin(diameter="pin_d", length="62 mm", chamfer="0.4 mm"),
        x="-2 mm",
        y="71 mm",
        z="5 mm",
        turn_x="90 deg",
    )
    d.flush("Leaf on cover", cover["top"], fixed["outside"])
    d.flush("Leaf ten in from the front", cover["front"], fixed["top"], side="same", offset="-10 mm")
    d.flush("Axis over the edge", cover["left"], fixed["edge"], offset="-(30 mm - overhang)")
    turns = d.concentric(
        "Lid on the axis", fixed["pin"], lid["pin"], side="opposite", turn_from="0 deg", turn_to="250 deg"
    )
    d.flush("Lid level with leaf", fixed["bottom"], lid["top"], side="same")
    d.rigid("Pin pressed in leaf", fixed["pin"], pin["axis"], offset="-1 mm")
    d.turn("Opening", turns, "125 deg/s")
    d.set("cycle", Cycle(duration="2 s", frames="250").model_dump(mode="json"))
    d.require(NoInterference(name="Nothing overlaps", depth="0.005 mm"))
    d.require(Clearance(name="Lid clears the cover", a=lid.body(), b=cover.body(), at_least="0.3 mm"))
    d.require(Clearance(name="Lid turns on its pin", a=lid.body(), b=pin.body(), at_least="0.05 mm"))
    d.require(Travel(name="Opens far enough", joint=turns, turn="250 deg"))
    d.require(Determinate(name="Nothing is loose"))
    return d.document
