"""Rack: straight flanks on a bar along x (ISO 53 basic rack), a tooth centred on the origin."""

from __future__ import annotations

from math import pi, tan
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.drawn import DrawnDimension, along_y, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth, Tie
from uhrwerk.core.elements.spur_gear import SpurGear
from uhrwerk.core.field import Angle, GearModule, Numbers, Size, SizeOrNone, Whole, whole
from uhrwerk.core.solids import Datum, Recipe, axis, extrude, face, path, plane, recipe


class Rack(Element):
    """A straight rack along x, its teeth towards +y; a tooth is centred on the origin, on the pitch line."""

    title: ClassVar[str] = "Rack"
    about: ClassVar[str] = "A straight rack for a spur gear."
    group: ClassVar[str] = "Gears"

    kind: Literal["rack"] = "rack"
    module: GearModule = "1 mm"
    teeth: Annotated[Whole, whole(2, 400)] = "20"
    width: Size = "6 mm"
    height: Size = "8 mm"
    pressure_angle: Angle = "20 deg"
    thinning: SizeOrNone = Field(default="0 mm", title="Teeth thinned by")

    @staticmethod
    def faults(n: Numbers[Rack]) -> list[tuple[str, str]]:
        problems = []
        if not 0.17 < n.pressure_angle < 0.62:
            return [("pressure_angle", "must lie between 10 and 35 deg")]
        if n.height <= 1.5 * n.module:
            problems.append(("height", "leaves no back behind the teeth"))
        if n.thinning >= n.module * (pi / 2 - 2 * tan(n.pressure_angle)):
            problems.append(("thinning", "makes the teeth pointed"))
        return problems

    @staticmethod
    def solid(n: Numbers[Rack]) -> Recipe:
        pitch, m, slope = pi * n.module, n.module, tan(n.pressure_angle)
        half = pitch / 4 - n.thinning / 2
        tip, root = half - m * slope, half + 1.25 * m * slope
        low, high = _ends(n)
        steps: list[list[Any]] = [["line", [high, -n.height]], ["line", [high, -1.25 * m]]]
        for k in reversed(range(n.teeth)):
            x = k * pitch
            steps += [
                ["line", [x + root, -1.25 * m]],
                ["line", [x + tip, m]],
                ["line", [x - tip, m]],
                ["line", [x - root, -1.25 * m]],
            ]
        steps += [["line", [low, -1.25 * m]], ["line", [low, -n.height]]]
        return recipe({"rack": [extrude(path((low, -n.height), *steps), 0, n.width)]})

    @staticmethod
    def datums(n: Numbers[Rack]) -> dict[str, Datum]:
        low, high = _ends(n)
        mid, half = (low + high) / 2, n.width / 2
        line = axis(0, 0, 0)
        return {
            "pitch_line": Datum("frame", line.origin, line.z, line.x), "back": face((mid, -n.height, half), (0, -1, 0)),
            "left": face((low, -n.height / 2, half), (-1, 0, 0)), "right": face((high, -n.height / 2, half), (1, 0, 0)),
            "top": plane(mid, -n.height / 2, n.width), "bottom": plane(mid, -n.height / 2, 0, up=False),
        }  # fmt: skip

    @staticmethod
    def dimensions(n: Numbers[Rack]) -> list[DrawnDimension]:
        low, _ = _ends(n)
        return [along_z("width", 0, n.width, low), along_y("height", -n.height, 0, low)]

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not isinstance(g.stated, SpurGear) or g.name != "axis" or not g.thickness:
            return []
        host, n, (teeth, count) = g.stated, g.sizes, g.whole("teeth", "20")
        deep = max(0.008, 3 * n.module)
        rack = cls(
            module=host.module, teeth=teeth, width=host.width, pressure_angle=host.pressure_angle, height=g.text(deep)
        )
        line = g.y - n.module * (
            n.teeth / 2 + n.profile_shift
        )  # where the pitch line touches the gear's, on its front side
        place = (g.x - (count - 1) / 2 * pi * n.module, line, g.height)
        ties = (
            Tie(("frame", "top"), ("0", "bottom"), relation={"kind": "distance", "side": "opposite", "distance": g.text(g.height)}),
            Tie(("frame", "front"), ("0", "back"), relation={"kind": "distance", "side": "same", "distance": g.text(deep - line)}),
            Tie(("", "axis"), ("0", "pitch_line"), pair="rack"),
        )  # fmt: skip
        piece = GrownPart("Rack", rack, {}, by="pitch_line", place=place)
        return [Growth("A rack that it drives along the plate", (piece,), ties, {"teeth": teeth})]

    @staticmethod
    def derived(n: Numbers[Rack]) -> list[Derived]:
        low, high = _ends(n)
        return [("Pitch", pi * n.module, "length"), ("Overall length", high - low, "length")]


def _ends(n: Numbers[Rack]) -> tuple[float, float]:
    pitch = pi * n.module
    return -pitch / 2, (n.teeth - 0.5) * pitch
