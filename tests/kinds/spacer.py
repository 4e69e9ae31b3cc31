"""Made-up hardware: a spacer by its size, its table a CSV beside this file."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar, Literal

from uhrwerk.core.elements import ELEMENTS, Element
from uhrwerk.core.field import Length, Numbers
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe
from uhrwerk.core.steps import screw_sizes

SIZES = screw_sizes.rows(Path(__file__).parent / "spacers.csv")


class Spacer(Element):
    """A tube on z = 0 that keeps two plates apart."""

    title: ClassVar[str] = "Spacer"
    about: ClassVar[str] = "By the clearance hole of its screw."
    group: ClassVar[str] = "Hardware"

    kind: Literal["spacer"] = "spacer"
    size: Literal["M4", "M6"] = "M4"
    length: Length = "10 mm"

    @staticmethod
    def solid(n: Numbers[Spacer]) -> Recipe:
        t = SIZES[n.size]
        hole = circle(0, 0, t["inner"] / 2)
        return recipe({"spacer": [extrude(circle(0, 0, t["outer"] / 2), 0, n.length, [hole])]})

    @staticmethod
    def datums(n: Numbers[Spacer]) -> dict[str, Datum]:
        t = SIZES[n.size]
        return {"axis": axis(0, 0, 0, t["inner"] / 2, "bore", n.length), "top": plane(0, 0, n.length)}


def register() -> None:
    ELEMENTS.register(Spacer)
