"""Held as it stands: a joint without freedom, wherever both parts are."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Length
from uhrwerk.core.joints.joint import Datums
from uhrwerk.core.joints.rigid import Rigid


class Held(Rigid):
    """b's datum frame stands beside a's: moved along its axes, and turned about its x, then y, then z (fixed axes)."""

    title: ClassVar[str] = "Held as it stands"
    of_faces: ClassVar[str] = ""
    verb: ClassVar[str] = "held on"
    does: ClassVar[str] = "is held"
    fields: ClassVar[tuple[str, ...]] = ("x", "y", "offset", "turn_x", "turn_y", "turn_z")
    takes: ClassVar[Mapping[Datums, int]] = dict.fromkeys([*Rigid.takes, ("any", "any")], 9)
    as_it_stands: ClassVar[bool] = True

    kind: Literal["held"] = "held"  # type: ignore[assignment]
    x: Length = Field(default="0 mm", title="Along x")
    y: Length = Field(default="0 mm", title="Along y")
    turn_x: Angle = Field(default="0 deg", title="Turn about x")
    turn_y: Angle = Field(default="0 deg", title="Turn about y")
    turn_z: Angle = Field(default="0 deg", title="Turn about z")
