"""Joints, relations and pairs: how placed parts are held to one another, as a designer states it.

Every one joins a datum of part a to a datum of part b; b is said to move against a. A relation says with `side` whether
the two directions point the same way or opposite ways; nothing is guessed from where the parts happen to be.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from uhrwerk.core.document.field import Angle, AngleOrOpen, Id, Length, LengthOrOpen, Model, Name


class At(Model):
    """A datum of a placed part."""

    placed: Id
    datum: Id


class _Joint(Model):
    """Travel counts along the axis of a, angles about it (right hand), from where both datum frames coincide after a's was
    moved by `offset`. `flip` turns b over about the x of its datum; what is counted stays the same."""

    name: Name
    a: At
    b: At
    offset: Length = "0 mm"
    flip: bool = False


class Rigid(_Joint):
    """Both datum frames coincide, b turned about and moved along the axis."""

    kind: Literal["rigid"] = "rigid"
    turn: Angle = "0 deg"


class Revolute(_Joint):
    """b turns about the axis of a. A limit that is left empty is open; limits may lie turns apart."""

    kind: Literal["revolute"] = "revolute"
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""


class Prismatic(_Joint):
    """b slides along the axis of a."""

    kind: Literal["prismatic"] = "prismatic"
    turn: Angle = "0 deg"
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""


class Cylindrical(_Joint):
    """b turns about the axis of a and slides along it."""

    kind: Literal["cylindrical"] = "cylindrical"
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""


class Screw(_Joint):
    """b turns about the axis of a and advances by the lead each turn; a left-hand thread has a negative lead."""

    kind: Literal["screw"] = "screw"
    lead: Length = "2 mm"
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""


class Planar(_Joint):
    """b slides on the plane of a and turns about its normal."""

    kind: Literal["planar"] = "planar"


class Spherical(_Joint):
    """b turns any way about a's centre."""

    kind: Literal["spherical"] = "spherical"


class Universal(_Joint):
    """Two shafts through one centre, joined by a cross: its arms lie along x of a and along y of b."""

    kind: Literal["universal"] = "universal"


Joint = Annotated[
    Rigid | Revolute | Prismatic | Cylindrical | Screw | Planar | Spherical | Universal, Field(discriminator="kind")
]
Side = Literal["same", "opposite"]


class _Relation(Model):
    """The limits hold where relations together make a joint that turns or slides, and this is the first of them."""

    name: Name
    a: At
    b: At
    turn_from: AngleOrOpen = ""
    turn_to: AngleOrOpen = ""
    slide_from: LengthOrOpen = ""
    slide_to: LengthOrOpen = ""


class Flush(_Relation):
    """Two faces in one plane, b's moved by `offset` along a's normal; opposite: the faces look at each other."""

    kind: Literal["flush"] = "flush"
    side: Side = "opposite"
    offset: Length = "0 mm"


class Concentric(_Relation):
    """Two axes on one line."""

    kind: Literal["concentric"] = "concentric"
    side: Side = "same"


class Parallel(_Relation):
    """Axes or normals parallel."""

    kind: Literal["parallel"] = "parallel"
    side: Side = "same"


class Perpendicular(_Relation):
    """Axes or normals square to one another."""

    kind: Literal["perpendicular"] = "perpendicular"


class Distance(_Relation):
    """A distance: between parallel faces or from a face to an axis or point (signed, along a's normal), between
    parallel axes, from an axis to a point, or between two points."""

    kind: Literal["distance"] = "distance"
    side: Side = "opposite"
    distance: Length = "10 mm"


class AngleBetween(_Relation):
    """An angle from a's direction to b's: between 0 and 180 degrees; with `about`, any, counted about that axis."""

    kind: Literal["angle"] = "angle"
    angle: Angle = "90 deg"
    about: At | None = None


class Tangent(_Relation):
    """A cylinder on a face, or on a parallel cylinder; inside: one rolls within the other, or behind the face."""

    kind: Literal["tangent"] = "tangent"
    side: Literal["outside", "inside"] = "outside"


class Symmetric(_Relation):
    """b is where a's image behind the plane `about` is: points, axes or faces."""

    kind: Literal["symmetric"] = "symmetric"
    about: At
    side: Side = "same"


Relation = Annotated[
    Flush | Concentric | Parallel | Perpendicular | Distance | AngleBetween | Tangent | Symmetric,
    Field(discriminator="kind"),
]
Teeth = Annotated[int, Field(ge=1, le=1000)]


class GearPair(Model):
    """Two gears in mesh, or a gear in a ring gear; the ratio and its sign follow from the teeth."""

    kind: Literal["gear"] = "gear"
    name: Name
    a: Id
    b: Id


class RackPair(Model):
    """Gear a rolls on rack b."""

    kind: Literal["rack"] = "rack"
    name: Name
    a: Id
    b: Id


class HelicalPair(Model):
    """Two helical gears on axes a and b. Helix angles are positive for right-hand teeth; their sum is the shaft angle."""

    kind: Literal["helical"] = "helical"
    name: Name
    a: At
    b: At
    teeth_a: Teeth = 20
    teeth_b: Teeth = 40
    helix_a: Angle = "45 deg"
    helix_b: Angle = "45 deg"


class BevelPair(Model):
    """Two bevel gears on axes that meet; same: both axes point away from where they meet, or both towards it."""

    kind: Literal["bevel"] = "bevel"
    name: Name
    a: At
    b: At
    teeth_a: Teeth = 20
    teeth_b: Teeth = 20
    side: Side = "same"


class WormPair(Model):
    """Worm a drives wheel b."""

    kind: Literal["worm"] = "worm"
    name: Name
    a: At
    b: At
    starts: Teeth = 1
    teeth: Teeth = 30
    hand: Literal["right", "left"] = "right"


class ScrewPair(Model):
    """Nut b on screw a, each held by joints of its own; a left-hand thread has a negative lead."""

    kind: Literal["screw_nut"] = "screw_nut"
    name: Name
    a: At
    b: At
    lead: Length = "2 mm"


class SlotPair(Model):
    """Pin a in slot b, straight or along an arc; the slot ends the travel."""

    kind: Literal["slot"] = "slot"
    name: Name
    a: At
    b: At


JointPair = Annotated[
    GearPair | RackPair | HelicalPair | BevelPair | WormPair | ScrewPair | SlotPair, Field(discriminator="kind")
]
