"""Sheet with bends, and a plain angle bracket: a profile of even thickness drawn out along z.

The flat length of a sheet follows from the neutral line of its bends, which lies at the factor k of the thickness inside the
bend (DIN 6935; k of 0.5 by default, the middle of the sheet: from memory).
"""

from __future__ import annotations

from math import cos, pi, sin
from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.drawn import DrawnDimension, along_x, along_y, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.plain.faces import GROUP
from uhrwerk.core.field import Number, Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, extrude, face, path, plane, recipe

#: which way each bend of a form turns: 1 to the left, -1 to the right
FORMS = {"angle": (1,), "channel": (1, 1), "offset": (1, -1)}
#: rad: the middle of a bend
_MID = pi / 4


class BentSheet(Element):
    """A sheet along x, bent square to it at its end once or twice, its width along z; legs are measured outside, or inside their bends."""

    title: ClassVar[str] = "Sheet with bends"
    about: ClassVar[str] = "Bent once to an angle, or twice to a channel or an offset; with its flat length."
    group: ClassVar[str] = GROUP
    hint: ClassVar[str] = "thickness"

    kind: Literal["bent_sheet"] = "bent_sheet"
    form: Literal["angle", "channel", "offset"] = "angle"
    measured: Literal["outside", "inside"] = Field(default="outside", title="Legs measured")
    first: Size = Field(default="40 mm", title="First leg")
    second: Size = Field(default="30 mm", title="Second leg")
    third: Size = Field(default="40 mm", title="Third leg, if bent twice")
    width: Size = "50 mm"
    thickness: Size = "2 mm"
    inside_radius: Size = "2 mm"
    neutral: Number = Field(default="0.5", title="Neutral line, part of thickness")

    @staticmethod
    def faults(n: Numbers[BentSheet]) -> list[tuple[str, str]]:
        bend = n.inside_radius + n.thickness
        first, second, third = _outside(n)
        out = [("first", "is shorter than its bend")] if first <= bend else []
        bends = len(FORMS[n.form])
        out += [("second", "is shorter than its bends")] if second <= bends * bend else []
        out += [("third", "is shorter than its bend")] if bends == 2 and third <= bend else []
        if not 0 < n.neutral < 1:
            out.append(("neutral", "must be between 0 and 1"))
        return out

    @staticmethod
    def solid(n: Numbers[BentSheet]) -> Recipe:
        return recipe({"sheet": [extrude(_profile(_straights(n), FORMS[n.form], n), 0, n.width)]})

    @staticmethod
    def datums(n: Numbers[BentSheet]) -> dict[str, Datum]:
        z, t = n.width / 2, n.thickness
        half = _outside(n)[0] / 2
        named = {"top": plane(half, t / 2, n.width), "bottom": plane(half, t / 2, 0, up=False)}
        named |= {"middle": plane(half, t / 2, z)}
        at, way = (0.0, 0.0), 0.0
        for leg, (length, (x, y), along) in enumerate(_legs(n), 1):
            c, s = cos(along), sin(along)
            mid = (x + c * length / 2, y + s * length / 2)
            named[f"leg_{leg}_outside"] = face((mid[0], mid[1], z), (s, -c, 0))
            named[f"leg_{leg}_inside"] = face((mid[0] - s * t, mid[1] + c * t, z), (-s, c, 0))
            at, way = (x + c * length, y + s * length), along
        named["end"] = face((at[0] - sin(way) * t / 2, at[1] + cos(way) * t / 2, z), (cos(way), sin(way), 0))
        named["start"] = face((0, t / 2, z), (-1, 0, 0))
        return named

    @staticmethod
    def dimensions(n: Numbers[BentSheet]) -> list[DrawnDimension]:
        t, (first, second, _) = n.thickness, _outside(n)
        inset = t if n.measured == "inside" else 0.0
        out = [
            along_x("first", 0, n.first),
            along_y("second", inset, inset + n.second, first),
            along_z("width", 0, n.width),
        ]
        out += [along_y("thickness", 0, t), along_x("inside_radius", first - t - n.inside_radius, first - t, t)]
        if n.form == "channel":
            out.append(along_x("third", first - inset - n.third, first - inset, second))
        elif n.form == "offset":
            x = first - t + inset
            out.append(along_x("third", x, x + n.third, second))
        return out

    @staticmethod
    def derived(n: Numbers[BentSheet]) -> list[Derived]:
        bends = len(FORMS[n.form])
        arc = pi / 2 * (n.inside_radius + n.neutral * n.thickness)
        return [("Flat length", sum(_straights(n)) + bends * arc, "length")]


def _outside(n: Numbers[BentSheet]) -> tuple[float, float, float]:
    """The legs measured outside, m: inside, each is less by the thickness at every bend."""
    more = n.thickness if n.measured == "inside" else 0.0
    return n.first + more, n.second + len(FORMS[n.form]) * more, n.third + more


def _straights(n: Numbers[BentSheet]) -> list[float]:
    """The straight part of each leg, m."""
    bend = n.inside_radius + n.thickness
    first, second, third = _outside(n)
    if len(FORMS[n.form]) == 1:
        return [first - bend, second - bend]
    return [first - bend, second - 2 * bend, third - bend]


def _legs(n: Numbers[BentSheet]) -> list[tuple[float, tuple[float, float], float]]:
    """Each leg's straight length, where the right-hand side of it begins, and its direction, rad."""
    r, t = n.inside_radius, n.thickness
    out, at, way = [], (0.0, 0.0), 0.0
    turns = (*FORMS[n.form], 0)
    for length, turn in zip(_straights(n), turns, strict=True):
        out.append((length, at, way))
        at = (at[0] + length * cos(way), at[1] + length * sin(way))
        outer = r + t if turn > 0 else r  # of the bend, on the right-hand side
        centre = (at[0] - turn * outer * sin(way), at[1] + turn * outer * cos(way))
        way += turn * pi / 2
        at = (centre[0] + turn * outer * sin(way), centre[1] - turn * outer * cos(way)) if turn else at
    return out


def _profile(straights: list[float], turns: tuple[int, ...], n: Numbers[BentSheet]) -> dict[str, object]:
    """The outline: along the right-hand side of all legs, and back along their left."""
    r, t = n.inside_radius, n.thickness
    right, left = [[0.0, 0.0]], [[0.0, t]]
    steps: list[tuple[str, list[list[float]], list[list[float]]]] = []
    at, way = (0.0, 0.0), 0.0
    for k, length in enumerate(straights):
        at = (at[0] + length * cos(way), at[1] + length * sin(way))
        right.append([*at])
        left.append([at[0] - t * sin(way), at[1] + t * cos(way)])
        steps.append(("line", [right[-1]], [left[-2]]))
        if k == len(turns):
            break
        turn = turns[k]
        outer, inner = (r + t, r) if turn > 0 else (r, r + t)
        centre = (at[0] - turn * outer * sin(way), at[1] + turn * outer * cos(way))

        def on(radius: float, angle: float, c: tuple[float, float] = centre, s: int = turn) -> list[float]:
            return [c[0] + s * radius * sin(angle), c[1] - s * radius * cos(angle)]

        mid, end = way + turn * _MID, way + turn * pi / 2
        right.append(on(outer, end))
        left.append(on(inner, end))
        steps.append(("arc", [on(outer, mid), right[-1]], [on(inner, mid), left[-2]]))
        at, way = (right[-1][0], right[-1][1]), end
    forth: list[list[object]] = [[kind, *points] for kind, points, _ in steps]
    back: list[list[object]] = [[kind, *points] for kind, _, points in reversed(steps)]
    return path(right[0], *forth, ["line", left[-1]], *back, ["line", right[0]])


class AngleBracket(Element):
    """An angle along z: one leg along x, one along y, meeting outside at the origin."""

    title: ClassVar[str] = "Angle bracket"
    about: ClassVar[str] = "Two legs square to one another, solid, with a rounded inner corner."
    group: ClassVar[str] = GROUP
    hint: ClassVar[str] = "thickness"

    kind: Literal["angle_bracket"] = "angle_bracket"
    leg_x: Size = Field(default="40 mm", title="Leg along x")
    leg_y: Size = Field(default="40 mm", title="Leg along y")
    width: Size = "30 mm"
    thickness: Size = "5 mm"
    corner: SizeOrNone = Field(default="3 mm", title="Inner radius")

    @staticmethod
    def faults(n: Numbers[AngleBracket]) -> list[tuple[str, str]]:
        room = min(n.leg_x, n.leg_y) - n.thickness
        if room <= 0:
            return [("thickness", "is more than a leg is long")]
        return [("corner", "is too large for the legs")] if n.corner >= room else []

    @staticmethod
    def solid(n: Numbers[AngleBracket]) -> Recipe:
        t, r, k = n.thickness, n.corner, n.corner * (1 - 0.5**0.5)
        inner = [["line", [t + r, t]], ["arc", [t + k, t + k], [t, t + r]]] if r else [["line", [t, t]]]
        outline = path(
            (0, 0), ["line", [n.leg_x, 0]], ["line", [n.leg_x, t]], *inner, ["line", [t, n.leg_y]], ["line", [0, n.leg_y]], ["line", [0, 0]]
        )  # fmt: skip
        return recipe({"bracket": [extrude(outline, 0, n.width)]})

    @staticmethod
    def datums(n: Numbers[AngleBracket]) -> dict[str, Datum]:
        x, y, z, t = n.leg_x, n.leg_y, n.width / 2, n.thickness
        flat = t + n.corner
        return {
            "under": face((x / 2, 0, z), (0, -1, 0)), "upon": face(((flat + x) / 2, t, z), (0, 1, 0)),
            "behind": face((0, y / 2, z), (-1, 0, 0)), "before": face((t, (flat + y) / 2, z), (1, 0, 0)),
            "end_x": face((x, t / 2, z), (1, 0, 0)), "end_y": face((t / 2, y, z), (0, 1, 0)),
            "top": plane(x / 2, t / 2, n.width), "bottom": plane(x / 2, t / 2, 0, up=False), "middle": plane(x / 2, t / 2, z),
        }  # fmt: skip

    @staticmethod
    def dimensions(n: Numbers[AngleBracket]) -> list[DrawnDimension]:
        return [
            along_x("leg_x", 0, n.leg_x), along_y("leg_y", 0, n.leg_y), along_z("width", 0, n.width),
            along_y("thickness", 0, n.thickness, n.leg_x),
            *([along_x("corner", n.thickness, n.thickness + n.corner, n.thickness)] if n.corner else []),
        ]  # fmt: skip
