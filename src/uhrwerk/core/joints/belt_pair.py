"""A belt or chain round two wheels: a pair.

The belt neither stretches nor slips, so both rims run equally fast; a chain is taken at its mean ratio, without the rise and fall
of its links over the teeth (Shigley, Mechanical Engineering Design, sections 17-2 and 17-5: from memory).
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from math import pi
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.elements.belts import sprocket, wrap
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers, PlacedId, Whole, whole
from uhrwerk.core.joints.mounted import Mounted, between, side_by_side
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, axes

WHEELS = frozenset({"pulley", "toothed_pulley", "sprocket"})
#: the ratio of smooth pulleys is one of whole numbers up to this; their turn repeats with so fine a step at least
LARGEST, STEPS = 2000, 180
#: wheels that lie beside one another by more than this part of the centre distance run the belt off (common practice)
BESIDE = 0.005
#: a belt of a stated number of teeth may be off its way by so much of a pitch
TAUT = 0.02


class BeltPair(JointPair):
    """A belt or chain from wheel a to wheel b; crossed, b turns the other way. With a number of teeth or links, it must be as long
    as its way."""

    title: ClassVar[str] = "Belt or chain"
    free: ClassVar[str] = "ratio from diameters or teeth"
    made_of: ClassVar[tuple[frozenset[str], frozenset[str]] | None] = (WHEELS, WHEELS)

    kind: Literal["belt"] = "belt"
    a: PlacedId
    b: PlacedId
    crossed: bool = False
    count: Annotated[Whole, whole(0, 5000)] = Field(default="0", title="Number of teeth or links, if known")

    @staticmethod
    def rows(
        n: Numbers[BeltPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        one, other = sizes
        if one.kind != other.kind:
            raise JointDoesNotFit(
                "both wheels must be for the same: two pulleys, two toothed pulleys, or two sprockets"
            )
        if one.kind != "pulley" and abs(one.pitch - other.pitch) > 1e-9:
            raise JointDoesNotFit("the pitch of both wheels must be the same")
        if n.crossed and one.kind != "pulley":
            raise JointDoesNotFit("only a smooth belt can be crossed")
        if n.count and one.kind == "pulley":
            raise JointDoesNotFit("a smooth belt has no teeth to be counted")
        first, last = _counts(one, other)
        (xa, _, za), (xb, _, _) = axes(a.frame), axes(b.frame)
        kind = "mesh" if n.crossed else "inner"
        return [Row(kind, a.link, b.link, (a.frame[:3], za, xa, b.frame[:3], xb), owner, sizes=(first, last))]

    @staticmethod
    def ratio(n: Numbers[BeltPair], sizes: tuple[Numbers, Numbers], a_turn: Callable[[float], str]) -> str:
        one, other = sizes
        if one.kind != other.kind:
            return ""
        if one.kind != "pulley":
            return f"{one.teeth} : {other.teeth}"
        r = radius(one) / radius(other)
        return f"{'−' if n.crossed else ''}{r:.4g} : 1"

    @staticmethod
    def mounted(t: Mounted, n: Numbers[BeltPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        angle, apart, along = between(a, b)
        wrong = side_by_side(t, angle, apart)
        if wrong:
            return wrong
        real = float(apart[0])
        one, other = (radius(s) for s in sizes)
        if real <= one + other:
            return f"the axes are {t.length(real)} apart, and the wheels need more than {t.length(one + other)}: bring them farther apart; {t.seat()}"
        side = _beside(a, b, float(along[0]), *(s.width / 2 for s in sizes))
        if abs(side) > BESIDE * real:
            return f"the wheels do not lie in one plane: {t.b} lies {t.length(abs(side))} beside; move it along its axis; {t.seat()}"
        if n.count and sizes[0].kind != "pulley":
            length, pitch = wrap.wrapped(one, other, real, False)[0], sizes[0].pitch
            off = length - n.count * pitch
            wanted = wrap.centres_for(one, other, n.count * pitch, False)
            if abs(off) > TAUT * pitch and wanted is None:
                return f"{n.count} pitches are {t.length(n.count * pitch)} long, too short for both wheels"
            if abs(off) > TAUT * pitch and wanted is not None:
                way = "nearer" if wanted < real else "farther apart"
                return f"{n.count} pitches are {t.length(abs(off))} {'shorter' if off > 0 else 'longer'} than their way of {t.length(length)}: bring the axes {t.length(abs(wanted - real))} {way}; {t.seat()}"
        return ""

    @staticmethod
    def derived_between(
        n: Numbers[BeltPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array
    ) -> list[tuple[str, float | str, str]]:
        one, other = (radius(s) for s in sizes)
        centres = float(between(a[None], b[None])[1][0])
        out: list[tuple[str, float | str, str]] = [("Centre distance now", centres, "length")]
        try:
            length, on_a, on_b = wrap.wrapped(one, other, centres, n.crossed)
        except ValueError:
            return out
        out += [
            ("Length on its pitch line", length, "length"),
            ("Wraps the first by", on_a, "angle"),
            ("Wraps the second by", on_b, "angle"),
        ]
        if sizes[0].kind == "pulley":
            return out
        pitch, chain = sizes[0].pitch, sizes[0].kind == "sprocket"
        whole = (
            2 * round(length / pitch / 2) if chain else round(length / pitch)
        )  # a chain of an odd number needs a cranked link
        wanted = wrap.centres_for(one, other, whole * pitch, False)
        out.append(("Length in pitches", length / pitch, "number"))
        if wanted is not None:
            out.append((f"Centre distance for {whole}", wanted, "length"))
        return out


def radius(n: Numbers) -> float:
    """Radius at which belt or chain runs on a wheel, m."""
    if n.kind == "sprocket":
        return sprocket.pitch_radius(n)
    return float(n.diameter / 2 if n.kind == "pulley" else n.teeth * n.pitch / pi / 2)


def _counts(one: Numbers, other: Numbers) -> tuple[float, float]:
    """Numbers of teeth, or whole numbers in the ratio of two diameters."""
    if one.kind != "pulley":
        return float(one.teeth), float(other.teeth)
    exact = one.diameter / other.diameter
    ratio = Fraction(exact).limit_denominator(LARGEST)
    if ratio.numerator > LARGEST or abs(float(ratio) / exact - 1) > 1e-12:
        raise JointDoesNotFit(f"the diameters are in no ratio of whole numbers up to {LARGEST}: round one of them")
    times = max(1, round(STEPS / max(ratio.numerator, ratio.denominator)))
    return float(times * ratio.numerator), float(times * ratio.denominator)


def _beside(a: Array, b: Array, along: float, half_a: float, half_b: float) -> float:
    """How far the middle of b lies beside that of a, along a's axis, m."""
    za, zb = (poses.rotate(f[0, 3:], np.array([0.0, 0, 1])) for f in (a, b))
    return along + half_b * float(np.sign(za @ zb)) - half_a
