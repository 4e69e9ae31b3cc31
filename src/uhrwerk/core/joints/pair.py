"""Pairs: contacts that transmit motion, such as gears in mesh."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Kinds, Length, Model, Name, PlacedId
from uhrwerk.core.joints.at import At, Side, two_parts

Teeth = Annotated[int, Field(ge=1, le=1000)]


class JointPair(Model):
    """Part or datum a transmits to b. `on` are the datums of parts that are named without one."""

    on: ClassVar[tuple[str, str]] = ("axis", "axis")

    kind: str
    name: Name
    a: PlacedId | At
    b: PlacedId | At

    @property
    def at(self) -> tuple[At, At]:
        """Both ends as datums."""
        one, other = (
            x if isinstance(x, At) else At(placed=x, datum=d) for x, d in zip((self.a, self.b), self.on, strict=True)
        )
        return one, other

    def conflicts(self) -> Iterable[tuple[str, str]]:
        return two_parts(self.a, self.b, "a pair")


PAIRS: Kinds[JointPair] = Kinds("pair")


@PAIRS.register
class GearPair(JointPair):
    """Two gears in mesh, or a gear in a ring gear; the ratio and its sign follow from the teeth."""

    kind: Literal["gear"] = "gear"
    a: PlacedId
    b: PlacedId


@PAIRS.register
class RackPair(JointPair):
    """Gear a rolls on rack b."""

    on: ClassVar[tuple[str, str]] = ("axis", "pitch_line")

    kind: Literal["rack"] = "rack"
    a: PlacedId
    b: PlacedId


@PAIRS.register
class HelicalPair(JointPair):
    """Two helical gears on axes a and b. Helix angles are positive for right-hand teeth; their sum is the shaft angle."""

    kind: Literal["helical"] = "helical"
    a: At
    b: At
    teeth_a: Teeth = 20
    teeth_b: Teeth = 40
    helix_a: Angle = "45 deg"
    helix_b: Angle = "45 deg"


@PAIRS.register
class BevelPair(JointPair):
    """Two bevel gears on axes that meet; same: both axes point away from where they meet, or both towards it."""

    kind: Literal["bevel"] = "bevel"
    a: At
    b: At
    teeth_a: Teeth = 20
    teeth_b: Teeth = 20
    side: Side = "same"


@PAIRS.register
class WormPair(JointPair):
    """Worm a drives wheel b."""

    kind: Literal["worm"] = "worm"
    a: At
    b: At
    starts: Teeth = 1
    teeth: Teeth = 30
    hand: Literal["right", "left"] = "right"


@PAIRS.register
class ScrewPair(JointPair):
    """Nut b on screw a, each held by joints of its own; a left-hand thread has a negative lead."""

    kind: Literal["screw_nut"] = "screw_nut"
    a: At
    b: At
    lead: Length = "2 mm"


@PAIRS.register
class SlotPair(JointPair):
    """Pin a in slot b, straight or along an arc; the slot ends the travel."""

    kind: Literal["slot"] = "slot"
    a: At
    b: At
