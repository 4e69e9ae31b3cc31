"""Joints: how one placed part moves against another, as a designer states it. b is said to move against a."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from uhrwerk.core.field import Angle, AngleOrOpen, Kinds, Length, LengthOrOpen, Model, Name
from uhrwerk.core.joints.at import At, two_parts


class Joint(Model):
    """Travel counts along the axis of a, angles about it (right hand), from where both datum frames coincide after a's was
    moved by `offset`. `flip` turns b over about the x of its datum; what is counted stays the same."""

    kind: str
    name: Name
    a: At
    b: At
    offset: Length = "0 mm"
    flip: bool = False

    def conflicts(self) -> Iterable[tuple[str, str]]:
        return two_parts(self.a, self.b, "a joint")


JOINTS: Kinds[Joint] = Kinds("joint")


@JOINTS.register
class Rigid(Joint):
    """Both datum frames coincide, b turned about and moved along the axis."""

    kind: Literal["rigid"] = "rigid"
    turn: Angle = "0 deg"


@JOINTS.register
class Revolute(Joint):
    """b turns about the axis of a. A limit that is left empty is open; limits may lie turns apart."""

    kind: Literal["revolute"] = "revolute"
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""


@JOINTS.register
class Prismatic(Joint):
    """b slides along the axis of a."""

    kind: Literal["prismatic"] = "prismatic"
    turn: Angle = "0 deg"
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""


@JOINTS.register
class Cylindrical(Joint):
    """b turns about the axis of a and slides along it."""

    kind: Literal["cylindrical"] = "cylindrical"
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""


@JOINTS.register
class Screw(Joint):
    """b turns about the axis of a and advances by the lead each turn; a left-hand thread has a negative lead."""

    kind: Literal["screw"] = "screw"
    lead: Length = "2 mm"
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""


@JOINTS.register
class Planar(Joint):
    """b slides on the plane of a and turns about its normal."""

    kind: Literal["planar"] = "planar"


@JOINTS.register
class Spherical(Joint):
    """b turns any way about a's centre."""

    kind: Literal["spherical"] = "spherical"


@JOINTS.register
class Universal(Joint):
    """Two shafts through one centre, joined by a cross: its arms lie along x of a and along y of b."""

    kind: Literal["universal"] = "universal"
