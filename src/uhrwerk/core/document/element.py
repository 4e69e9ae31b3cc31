"""Elements as a designer states them: a few dimensions each. Their geometry is made in `core.elements`."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from uhrwerk.core.document.field import Angle, Id, Length, Model, Number, Positive, Size, SizeOrNone


class Bore(Model):
    """A through bore with its centre in the part's own plane."""

    x: Length = "0 mm"
    y: Length = "0 mm"
    diameter: Size = "6 mm"


class Post(Bore):
    """A round post or pin standing on a face."""

    height: Size = "12 mm"


class FramePlate(Model):
    """A rectangular plate with its lower left corner at the origin and its top face at z = 0."""

    kind: Literal["frame_plate"] = "frame_plate"
    length: Size = "160 mm"
    width: Size = "100 mm"
    thickness: Size = "8 mm"
    corner: SizeOrNone = "8 mm"
    bores: dict[Id, Bore] = Field(default_factory=dict, max_length=200)
    posts: dict[Id, Post] = Field(default_factory=dict, max_length=200)


class SpurGear(Model):
    """An involute spur gear cut by a rack (ISO 53 profile A by default); its bottom face at z = 0."""

    kind: Literal["spur_gear"] = "spur_gear"
    module: Size = "1 mm"
    teeth: int = Field(default=24, ge=6, le=400)
    width: Size = "6 mm"
    bore: SizeOrNone = "5 mm"
    pressure_angle: Angle = "20 deg"
    profile_shift: Number = "0"
    addendum: Positive = "1"
    dedendum: Positive = "1.25"
    root_radius: Number = "0.38"
    thinning: SizeOrNone = "0 mm"
    pins: dict[Id, Post] = Field(default_factory=dict, max_length=50)


class LinkBar(Model):
    """A straight bar with rounded ends and two or three holes along x; a finger may reach beyond the last hole."""

    kind: Literal["link_bar"] = "link_bar"
    distance: Size = "60 mm"
    second_distance: SizeOrNone = "0 mm"
    width: Size = "12 mm"
    thickness: Size = "5 mm"
    bore_1: Size = "5 mm"
    bore_2: Size = "5 mm"
    bore_3: Size = "5 mm"
    finger: SizeOrNone = "0 mm"
    finger_width: SizeOrNone = "6 mm"
    chamfer: SizeOrNone = "0 mm"


class Pin(Model):
    """A straight pin or shaft along z, from z = 0, with an optional head below and broken edges."""

    kind: Literal["pin"] = "pin"
    diameter: Size = "5 mm"
    length: Size = "20 mm"
    head_diameter: SizeOrNone = "0 mm"
    head_height: SizeOrNone = "0 mm"
    chamfer: SizeOrNone = "0 mm"


class SteppedShaft(Model):
    """A round shaft along z in up to three steps, with broken ends."""

    kind: Literal["stepped_shaft"] = "stepped_shaft"
    diameter_1: Size = "8 mm"
    length_1: Size = "12 mm"
    diameter_2: Size = "12 mm"
    length_2: SizeOrNone = "20 mm"
    diameter_3: Size = "8 mm"
    length_3: SizeOrNone = "12 mm"
    bore: SizeOrNone = "0 mm"
    chamfer: SizeOrNone = "0.4 mm"


class EccentricDisc(Model):
    """A disc with a bore and a crank pin off its axis."""

    kind: Literal["eccentric_disc"] = "eccentric_disc"
    diameter: Size = "50 mm"
    thickness: Size = "6 mm"
    bore: SizeOrNone = "8 mm"
    eccentricity: Size = "18 mm"
    pin_diameter: Size = "6 mm"
    pin_height: Size = "10 mm"


class SlottedLever(Model):
    """A lever along x with a bore at the origin and a slot; a pin of the slot's width can travel its length."""

    kind: Literal["slotted_lever"] = "slotted_lever"
    slot_start: Size = "40 mm"
    slot_length: Size = "50 mm"
    slot_width: Size = "6.1 mm"
    tip: SizeOrNone = "20 mm"
    width: Size = "16 mm"
    thickness: Size = "5 mm"
    bore: Size = "8 mm"


class AngledLink(Model):
    """Two arms from one hole: the first along x, the second turned by the angle."""

    kind: Literal["angled_link"] = "angled_link"
    arm_1: Size = "40 mm"
    arm_2: Size = "40 mm"
    angle: Angle = "120 deg"
    width: Size = "12 mm"
    thickness: Size = "4 mm"
    bore_1: Size = "4 mm"
    bore_2: Size = "4 mm"
    bore_3: Size = "4 mm"


class ArcLink(Model):
    """A link along an arc round the origin, with a hole at each end, and a slot along the arc if asked."""

    kind: Literal["arc_link"] = "arc_link"
    radius: Size = "60 mm"
    span: Angle = "90 deg"
    width: Size = "16 mm"
    thickness: Size = "5 mm"
    bore: Size = "5 mm"
    slot: Angle = "0 deg"
    slot_width: Size = "6.1 mm"


class RingGear(Model):
    """A ring with involute teeth inside; a tooth space centred on +x."""

    kind: Literal["ring_gear"] = "ring_gear"
    module: Size = "1 mm"
    teeth: int = Field(default=60, ge=16, le=400)
    width: Size = "6 mm"
    outer_diameter: Size = "72 mm"
    pressure_angle: Angle = "20 deg"
    thinning: SizeOrNone = "0 mm"


class Carrier(Model):
    """A disc with equal pins round its axis, for planets."""

    kind: Literal["carrier"] = "carrier"
    diameter: Size = "56 mm"
    thickness: Size = "4 mm"
    bore: SizeOrNone = "8 mm"
    pins: int = Field(default=3, ge=1, le=24)
    pin_circle: Size = "36 mm"
    pin_diameter: Size = "4 mm"
    pin_height: Size = "8 mm"


class HingeLeaf(Model):
    """A hinge leaf along x, with knuckles round the z axis; the counterpart has the other knuckles."""

    kind: Literal["hinge_leaf"] = "hinge_leaf"
    length: Size = "60 mm"
    width: Size = "30 mm"
    thickness: Size = "3 mm"
    knuckle_diameter: Size = "9 mm"
    bore: Size = "5.1 mm"
    knuckles: int = Field(default=3, ge=2, le=15)
    first: bool = True
    gap: Size = "0.4 mm"


class Rack(Model):
    """A straight rack along x, its teeth towards +y; a tooth is centred on the origin, on the pitch line."""

    kind: Literal["rack"] = "rack"
    module: Size = "1 mm"
    teeth: int = Field(default=20, ge=2, le=400)
    width: Size = "6 mm"
    height: Size = "8 mm"
    pressure_angle: Angle = "20 deg"
    thinning: SizeOrNone = "0 mm"


Element = Annotated[
    FramePlate | SpurGear | LinkBar | Pin | SteppedShaft | EccentricDisc | SlottedLever | AngledLink | ArcLink | RingGear
    | Carrier | HingeLeaf | Rack,
    Field(discriminator="kind"),
]  # fmt: skip
KINDS: dict[str, type[Model]] = {
    "frame_plate": FramePlate, "spur_gear": SpurGear, "ring_gear": RingGear, "rack": Rack, "carrier": Carrier, "link_bar": LinkBar,
    "angled_link": AngledLink, "arc_link": ArcLink, "slotted_lever": SlottedLever, "eccentric_disc": EccentricDisc,
    "hinge_leaf": HingeLeaf, "stepped_shaft": SteppedShaft, "pin": Pin,
}  # fmt: skip
