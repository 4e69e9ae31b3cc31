"""Pusher of the praline wrapper: a crank disc drives a slotted lever, slow forward and fast back.

As drawn, the return is not fast enough, and the lever meets a guide post late in the cycle.
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
    NoInterference,
    Pin,
    Post,
    SlottedLever,
    TimeRatio,
)
from uhrwerk.core.document import Document

MENDED = {"parameters.crank.formula": "22 mm", "parts.plate.element.posts.guide_post.y": "17.5 mm"}


def pusher() -> Document:
    d = Draft("Pusher", note="Quittenhof praline wrapper: pushes a praline onto the foil.")
    d.parameter("crank", "20 mm", "radius of the crank pin")
    d.parameter("centres", "70 mm", "crank to lever pivot")
    bores = {
        "pivot": Bore(x="36 mm", y="75 mm", diameter="8.05 mm"), "crank_bore": Bore(x="36 mm + centres", y="75 mm", diameter="8.05 mm"),
    }  # fmt: skip
    posts = {
        "guide_post": Post(x="167 mm", y="29 mm", diameter="8 mm", height="24 mm"),
        "end_post": Post(x="167 mm", y="132 mm", diameter="8 mm", height="24 mm"),
    }
    plate = d.part("Plate", "aluminium", FramePlate(length="210 mm", width="150 mm", bores=bores, posts=posts))
    disc = d.part(
        "Crank disc", "steel", EccentricDisc(diameter="64 mm", thickness="6 mm", bore="8 mm", eccentricity="crank", pin_diameter="6 mm", pin_height="7 mm"),
        x="36 mm + centres", y="75 mm", z="1 mm",
    )  # fmt: skip
    lever = d.part(
        "Slotted lever", "aluminium", SlottedLever(slot_start="40 mm", slot_length="60 mm", slot_width="6.1 mm", tip="40 mm", width="16 mm", thickness="5 mm", bore="8 mm"),
        x="36 mm", y="75 mm", z="8 mm",
    )  # fmt: skip
    disc_shaft = d.part(
        "Crank shaft",
        "steel",
        Pin(diameter="8 mm", length="24 mm", chamfer="0.5 mm"),
        x="36 mm + centres",
        y="75 mm",
        z="-17 mm",
    )
    pivot = d.part(
        "Lever pivot", "steel", Pin(diameter="8 mm", length="24 mm", chamfer="0.5 mm"), x="36 mm", y="75 mm", z="-10 mm"
    )
    turns = d.revolute("Disc turns in plate", plate["crank_bore"], disc["axis"], offset="1 mm")
    swings = d.revolute("Lever swings in plate", plate["pivot"], lever["pivot"], offset="8 mm")
    d.rigid("Shaft pressed in disc", disc["axis"], disc_shaft["axis"], offset="-18 mm")
    d.rigid("Pivot pressed in lever", lever["pivot"], pivot["axis"], offset="-18 mm")
    d.slot_pair("Pin in slot", disc["crank_pin"], lever["slot"])
    d.turn("Motor", turns, "60 rpm")
    d.set("cycle", Cycle(duration="1 s", frames="360").model_dump(mode="json"))
    d.require(NoInterference(name="Nothing overlaps", depth="0.005 mm"))
    d.require(Clearance(name="Lever clears post", a=lever.body(), b=plate.body("guide_post"), at_least="1 mm"))
    d.require(TimeRatio(name="Return is quick", joint=swings, at_least="1.5"))
    d.require(Determinate(name="Nothing is loose"))
    return d.document
