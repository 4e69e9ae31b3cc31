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


Element = Annotated[FramePlate | SpurGear | LinkBar | Pin, Field(discriminator="kind")]
KINDS: dict[str, type[Model]] = {"frame_plate": FramePlate, "spur_gear": SpurGear, "link_bar": LinkBar, "pin": Pin}
