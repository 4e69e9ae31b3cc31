"""Gripper ring of the praline wrapper: ten pairs of crossed links in a closed ring that opens and closes round a foil cup.

One pair is drawn and repeated round the plate's centre; joints to the first copy close the ring. As drawn, the ring
closes too far and meets the cup.
"""

from __future__ import annotations

from typing import Any

from uhrwerk import AngledLink, Bore, Clearance, Cycle, Determinate, Draft, FramePlate, Pin, SlottedLever, Travel
from uhrwerk.core.document import Document
from uhrwerk.core.steps import Hollow, Opening

MENDED = {"parameters.closing.formula": "38 deg", "requirements.crossing_closes.turn": "75 deg"}


def gripper_ring() -> Document:
    d = Draft("Gripper ring", note="Quittenhof praline wrapper: grips the foil cup from all sides.")
    d.parameter("pairs", "10")
    d.parameter("arm", "18 mm", "from the crossing to either end of a link")
    d.parameter("share", "360 deg / pairs")
    d.parameter("wide", "92 deg - share / 2", "outer arm to ray when wide open")
    d.parameter("closing", "60 deg", "by how much each outer arm turns to close")
    d.parameter("radius", "arm * sin(share / 2 + wide) / sin(share / 2)")
    plate = d.part(
        "Plate", "aluminium", FramePlate(length="160 mm", width="160 mm", thickness="5 mm", bores={"centre": Bore(x="80 mm", y="80 mm", diameter="10 mm")}),
        x="-80 mm", y="-80 mm",
    )  # fmt: skip
    size: dict[str, Any] = {
        "arm_1": "arm",
        "arm_2": "arm",
        "width": "6 mm",
        "thickness": "2.5 mm",
        "bore_1": "2.5 mm",
        "bore_2": "2.5 mm",
        "bore_3": "2.5 mm",
    }
    link = d.part("Link", "steel", AngledLink(angle="180 deg + share", **size), x="radius", turn_z="180 deg + wide")
    cross = d.part(
        "Cross link",
        "brass",
        AngledLink(angle="180 deg - share", **size),
        x="radius",
        z="2.5 mm",
        turn_z="180 deg - wide",
    )
    cup = d.part("Foil cup", "aluminium", Pin(diameter="54 mm", length="16 mm"))
    d.step(cup, Hollow(name="Inside", wall="0.5 mm", open={"a": Opening(face="element.end")}))
    crossing = d.revolute("Crossing", link["hole_1"], cross["hole_1"], offset="2.5 mm")
    d.ring("Ring of pairs", [link, cross], plate["centre"], "pairs")
    d.revolute("Outer end", cross["hole_2"], link.copy(2)["hole_2"], offset="-2.5 mm")
    d.revolute("Inner end", link["hole_3"], cross.copy(2)["hole_3"], offset="2.5 mm")
    d.planar("Ring lies on plate", plate["top"], link.copy(2)["bottom"], flip=True)
    d.rigid("Cup on plate", plate["centre"], cup["axis"])
    for k in (2, 5, 8):
        turn = f"{k - 1} * share"
        rail = d.part(
            f"Rail {k}", "aluminium", SlottedLever(slot_start="24 mm", slot_length="40 mm", slot_width="2.5 mm", tip="8 mm", width="8 mm", thickness="3 mm", bore="5 mm"),
            z="-8 mm", turn_z=turn,
        )  # fmt: skip
        d.rigid(f"Rail {k} under plate", plate["centre"], rail["pivot"], offset="-8 mm", turn=turn)
        d.slot_pair(f"Crossing {k} in rail", link.copy(k)["hole_1"], rail["slot"])
    d.turn("Closing", crossing, "-2 * closing / (1 s)", "-2 * wide")
    d.set("cycle", Cycle(duration="1 s", frames="180").model_dump(mode="json"))
    d.require(Clearance(name="Ring clears the cup", a=link.body(), b=cup.body(), at_least="0.5 mm"))
    d.require(Travel(name="Crossing closes", joint=crossing, turn="90 deg"))
    d.require(Determinate(name="Nothing is loose"))
    return d.document
