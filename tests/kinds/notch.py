"""A made-up build step: a square notch through the part."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from uhrwerk.core.field import Length, Numbers, Size
from uhrwerk.core.solids.recipe import path
from uhrwerk.core.steps import STEPS
from uhrwerk.core.steps.step import OnPlane, plane_of


class Notch(OnPlane):
    """A square cut through all, from a plane."""

    title: ClassVar[str] = "Notch"
    about: ClassVar[str] = "cuts a square through the part"

    kind: Literal["notch"] = "notch"
    width: Size = "4 mm"
    x: Length = "0 mm"

    @staticmethod
    def recipe(n: Numbers[Notch]) -> dict[str, Any]:
        h = n.width / 2
        corners = [[n.x - h, -h], [n.x + h, -h], [n.x + h, h], [n.x - h, h]]
        square = path(corners[0], *(["line", c] for c in [*corners[1:], corners[0]]))
        return {
            "do": "take", "plane": plane_of(n), "outline": square, "length": 0.0, "through": True,
            "both": True, "to": "", "taper": 0.0,
        }  # fmt: skip


def register() -> None:
    STEPS.register(Notch)
