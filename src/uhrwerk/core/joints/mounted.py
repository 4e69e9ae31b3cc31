"""How gears are mounted wrongly, in words: what is, what is needed, by how much to move, and where that number is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.quantity import display
from uhrwerk.core.solids import Datum

#: distances (m) and angles (rad) that differ by less are the same
NEAR, SAME_ANGLE = 1e-6, 1e-5


@dataclass(frozen=True)
class Mounted:
    """Names of both parts, their datums, and lengths as the designer reads them; `seat` tells where the numbers lie that place
    them."""

    a: str
    b: str
    unit: str
    seat: Callable[[], str]
    datums: tuple[Datum, Datum]

    def length(self, si: float) -> str:
        return display(si, "length", self.unit, 3)

    def angle(self, si: float) -> str:
        return display(si, "angle", "deg")


def between(a: Array, b: Array) -> tuple[Array, Array, Array]:
    """(K,) angle of the two axes, distance of their lines, and how far b's origin lies along a's axis."""
    za, zb = (poses.rotate(f[:, 3:], np.array([0.0, 0, 1])) for f in (a, b))
    off = b[:, :3] - a[:, :3]
    across = poses.cross(za, zb)
    size = np.linalg.norm(across, axis=1)
    along = (off * za).sum(axis=1)
    parallel = np.linalg.norm(off - along[:, None] * za, axis=1)
    apart = np.where(size < SAME_ANGLE, parallel, np.abs((off * across).sum(axis=1)) / np.maximum(size, 1e-300))
    return np.arctan2(size, (za * zb).sum(axis=1)), apart, along


def lean(angle: Array) -> float:
    """By how much two axes are not parallel, at worst."""
    return float(np.minimum(angle, np.pi - angle).max())


def steady(t: Mounted, apart: Array, what: str) -> str:
    if np.ptp(apart) > NEAR:
        return f"{what} changes from {t.length(float(apart.min()))} to {t.length(float(apart.max()))} over the cycle, and must stay the same; {t.seat()}"
    return ""


def side_by_side(t: Mounted, angle: Array, apart: Array) -> str:
    """What is wrong with two axes that must be parallel, at a distance that stays."""
    if lean(angle) > SAME_ANGLE:
        return f"the axes stand at {t.angle(lean(angle))} to one another, and must be parallel; {t.seat()}"
    return steady(t, apart, "the distance of the axes")


def faces(t: Mounted, a: Array, b: Array, width_a: float, width_b: float) -> str:
    """Whether the widths of two gears lie beside one another."""
    za, zb = (poses.rotate(f[0, 3:], np.array([0.0, 0, 1])) for f in (a, b))
    low = float((b[0, :3] - a[0, :3]) @ za)
    high = low + width_b * float(np.sign(za @ zb))
    low, high = min(low, high), max(low, high)
    gap = max(low - width_a, -high)
    if gap > -NEAR:
        way = width_a / 2 - (low + high) / 2
        return f"the teeth do not face one another: they are {t.length(max(gap, 0.0))} apart along the axis; move {t.b} by {t.length(abs(way))} along it to bring the middles together; {t.seat()}"
    return ""


def far(t: Mounted, real: float, nominal: float, why: str) -> str:
    if abs(real - nominal) < NEAR:
        return f"{t.a} and {t.b} stand {t.length(real)} apart, as their teeth ask, and yet do not mesh ({why}): choose other teeth, or another profile shift"
    way = "nearer" if real > nominal else "farther apart"
    return f"the axes of {t.a} and {t.b} are {t.length(real)} apart, and mesh at {t.length(nominal)} ({why}): bring them {t.length(abs(real - nominal))} {way}; {t.seat()}"


def crossed(t: Mounted, a: Array, b: Array, needed: float) -> str:
    angle, apart, _ = between(a, b)
    off = np.minimum(np.abs(angle - needed), np.abs(np.pi - angle - needed))
    if float(off.max()) > 10 * SAME_ANGLE:
        at = float(angle[int(np.argmax(off))])
        return f"the axes cross at {t.angle(min(at, np.pi - at))}, and must cross at {t.angle(min(needed, np.pi - needed))}: turn {t.b} by {t.angle(float(off.max()))}; {t.seat()}"
    if float(apart.min()) < NEAR:
        return f"the axes meet; they must pass one another at the centre distance of the two: move {t.b} out by its pitch radius and that of {t.a}; {t.seat()}"
    return steady(t, apart, "the distance of the axes")
