"""Planetary sample: a sun, three planets, a ring and a carrier, printed in one piece as a giveaway.

As drawn, the planets stand so near above their carrier that no whole layer is left out between: they fuse.
"""

from __future__ import annotations

from typing import Any

from uhrwerk import Carrier, Cycle, Determinate, Draft, NoInterference, PrintGap, RingGear, SpurGear
from uhrwerk.core.document import Document
from uhrwerk.core.document.command import AddMaterial
from uhrwerk.core.document.material import library

MENDED = {"parameters.lift.formula": "0.4 mm"}


def planetary_sample() -> Document:
    d = Draft("Planetary sample", note="Quittenhof giveaway: printed in one piece, turned between two fingers.")
    d.do(AddMaterial(id="pla", material=library()["pla"]))
    d.parameter("lift", "0.15 mm", "gap of the planets above their carrier")
    d.parameter("thin", "0.3 mm", "how much thinner the teeth are made, so that their flanks do not fuse")
    d.parameter("play", "0.45 mm", "gap round the carrier's pins")
    wheel: Any = {"module": "1.5 mm", "width": "6 mm", "thinning": "thin"}
    ring = d.part("Ring", "pla", RingGear(teeth="54", outer_diameter="98 mm", **wheel))
    carrier = d.part(
        "Carrier", "pla", Carrier(diameter="68 mm", thickness="3 mm", bore="0 mm", pins="3", pin_circle="54 mm", pin_diameter="8 mm", pin_height="6 mm + lift"),
        z="-(3 mm + lift)",
    )  # fmt: skip
    sun = d.part("Sun", "pla", SpurGear(teeth="18", bore="5 mm", **wheel))
    planet = d.part("Planet", "pla", SpurGear(teeth="18", bore="8 mm + 2 * play", **wheel), x="27 mm", turn_z="10 deg")
    turns = d.revolute("Carrier turns in ring", ring["axis"], carrier["axis"], offset="-(3 mm + lift)")
    d.revolute("Sun turns in ring", ring["axis"], sun["axis"])
    d.revolute("Planet on its pin", carrier["pin_1"], planet["axis"], offset="lift")
    d.gear_pair("Sun and planet", sun, planet)
    d.gear_pair("Planet and ring", planet, ring)
    d.ring("Planets", [planet], carrier["axis"], "3")
    d.turn("Thumb", turns, "30 rpm")
    d.set("cycle", Cycle(duration="2 s", frames="240").model_dump(mode="json"))
    d.require(PrintGap(name="Nothing fuses", at_least="0.2 mm", layer="0.2 mm"))
    d.require(NoInterference(name="Nothing overlaps", depth="0.01 mm"))
    d.require(Determinate(name="Nothing is loose"))
    return d.document
