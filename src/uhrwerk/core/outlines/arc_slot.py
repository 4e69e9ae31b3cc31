"""A slot along an arc."""

from __future__ import annotations

from math import pi
from typing import ClassVar, Literal

from uhrwerk.core.field import Angle, Numbers, Size
from uhrwerk.core.outlines.outline import Outline, Unfit
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import arc_band


class ArcSlot(Outline):
    """A slot along an arc round the origin; its middle lies at the angle `middle` from x."""

    title: ClassVar[str] = "Arc slot"

    kind: Literal["arc_slot"] = "arc_slot"
    radius: Size = "20 mm"
    width: Size = "6 mm"
    span: Angle = "60 deg"
    middle: Angle = "0 deg"

    @staticmethod
    def outline_data(n: Numbers[ArcSlot]) -> Drawn:
        if not 0 < n.span < 2 * pi - n.width / n.radius:
            raise Unfit("its span must be above zero and leave its ends apart")
        if n.width >= 2 * n.radius:
            raise Unfit("it is wider than its arc allows")
        return arc_band(n.radius, n.width, n.middle - n.span / 2, n.middle + n.span / 2)
