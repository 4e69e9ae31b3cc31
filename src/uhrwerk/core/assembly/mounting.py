"""Whether pairs that transmit are mounted so that they can: axes parallel, meeting or crossing as the kind asks, at a
distance at which teeth reach one another, and with faces that overlap. Said in words: what is, what is needed, by how
much to move, and where that number lies.

Mesh at a centre distance: ISO 21771-1 (working pressure angle, contact ratio); bevel axes meet, axes of a worm and its
wheel cross square at a distance (Litvin, Fuentes, Gear Geometry and Applied Theory). From memory.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.assembly.assembly import Mechanism, Problem
from uhrwerk.core.assembly.pose import Array
from uhrwerk.core.document import numbers
from uhrwerk.core.elements import involute, ring_gear, spur_gear
from uhrwerk.core.quantity import display

#: distances (m) and angles (rad) that differ by less are the same
NEAR, SAME_ANGLE = 1e-6, 1e-5


def mounting(m: Mechanism, at: Array) -> list[Problem]:
    """What is wrong with the mounting of each pair at any of the poses (K, L, 7) m, once for each pair."""
    scope = m.document.scope()
    used = {r.owner for r in m.rows}
    out = []
    for i, pair in m.document.pairs.items():
        path = f"pairs.{i}"
        if path not in used or pair.kind == "slot":
            continue
        n = numbers(pair, scope)
        ends = pair.at[0].placed, pair.at[1].placed
        sizes = [numbers(m.document.parts[m.document.placed[p].part].element, scope) for p in ends]
        frames = []
        for end in pair.at:
            place = m.place(end.placed, end.datum)
            frames.append(poses.compose(at[:, place.link], place.frame))
        words = _KINDS[pair.kind](_Told(m, ends, pair.name), n, sizes, frames[0], frames[1])
        if words:
            out.append(Problem(path, f"{pair.name}: {words}"))
    return out


class _Told:
    """Names and lengths as the designer reads them."""

    def __init__(self, m: Mechanism, ends: tuple[str, str], pair: str) -> None:
        self.m, self.pair = m, pair
        self.a, self.b = (m.document.placed[p].name for p in ends)
        self.ends = ends

    def length(self, si: float) -> str:
        return display(si, "length", self.m.document.units.length, 3)

    def angle(self, si: float) -> str:
        return display(si, "angle", "deg")

    def seat(self) -> str:
        """Where the numbers lie that place b, or a, against the other."""
        document = self.m.document
        for placed in reversed(self.ends):
            link = self.m.link_of[placed]
            for collection in ("joints", "relations"):
                for joint in getattr(document, collection).values():
                    for here, there in ((joint.a, joint.b), (joint.b, joint.a)):
                        if self.m.link_of.get(here.placed) == link and self.m.link_of.get(there.placed) not in (
                            link,
                            None,
                        ):
                            datum = there.datum.split("__")[0].replace("_", " ")
                            return f"{document.placed[placed].name} is placed by {document.placed[there.placed].name}, {datum}"
        return f"{self.b} stands where it was put"


def _between(a: Array, b: Array) -> tuple[Array, Array, Array]:
    """(K,) angle of the two axes, distance of their lines, and how far b's origin lies along a's axis."""
    za, zb = (poses.rotate(f[:, 3:], np.array([0.0, 0, 1])) for f in (a, b))
    off = b[:, :3] - a[:, :3]
    across = poses.cross(za, zb)
    size = np.linalg.norm(across, axis=1)
    along = (off * za).sum(axis=1)
    parallel = np.linalg.norm(off - along[:, None] * za, axis=1)
    apart = np.where(size < SAME_ANGLE, parallel, np.abs((off * across).sum(axis=1)) / np.maximum(size, 1e-300))
    return np.arctan2(size, (za * zb).sum(axis=1)), apart, along


def _lean(angle: Array) -> float:
    """By how much two axes are not parallel, at worst."""
    return float(np.minimum(angle, np.pi - angle).max())


def _steady(t: _Told, apart: Array, what: str) -> str:
    if np.ptp(apart) > NEAR:
        return f"{what} changes from {t.length(float(apart.min()))} to {t.length(float(apart.max()))} over the cycle, and must stay the same; {t.seat()}"
    return ""


def _faces(t: _Told, a: Array, b: Array, width_a: float, width_b: float) -> str:
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


def _gear(t: _Told, n: Any, sizes: list[Any], a: Array, b: Array) -> str:
    angle, apart, _ = _between(a, b)
    if _lean(angle) > SAME_ANGLE:
        return f"the axes stand at {t.angle(_lean(angle))} to one another, and must be parallel; {t.seat()}"
    steady = _steady(t, apart, "the distance of the axes")
    if steady:
        return steady
    real = float(apart[0])
    one, other = sizes
    if "ring_gear" in (one.kind, other.kind):
        ring, gear = (one, other) if one.kind == "ring_gear" else (other, one)
        tooth = spur_gear.tooth(gear)
        nominal = ring.module * (ring.teeth - gear.teeth) / 2 + gear.module * gear.profile_shift
        inside = ring_gear.space(ring)
        if real + tooth.tip_radius <= inside.root_circle:
            return _far(t, real, nominal, "the teeth do not reach one another")
        if real + tooth.tip_radius >= inside.tip_radius:
            return _far(t, real, nominal, "the teeth run into the ring")
    else:
        first, second = spur_gear.tooth(one), spur_gear.tooth(other)
        if first.faults or second.faults:
            return ""
        nominal = involute.centre_distance(first, second)
        if real >= first.tip_radius + second.tip_radius:
            return _far(t, real, nominal, "the teeth do not reach one another")
        if real <= max(first.tip_radius + second.root_circle, second.tip_radius + first.root_circle):
            return _far(t, real, nominal, "tips would stand in the roots")
        ratio = involute.contact_ratio(first, second, real)
        if not ratio:
            return _far(t, real, nominal, "no flank touches another")
        if ratio < 1:
            return _far(
                t, real, nominal, f"contact ratio {ratio:.3f}: one pair of teeth parts before the next one meets"
            )
    return _faces(t, a, b, one.width, other.width)


def _far(t: _Told, real: float, nominal: float, why: str) -> str:
    way = "nearer" if real > nominal else "farther apart"
    return f"the axes of {t.a} and {t.b} are {t.length(real)} apart, and mesh at {t.length(nominal)} ({why}): bring them {t.length(abs(real - nominal))} {way}; {t.seat()}"


def _rack(t: _Told, n: Any, sizes: list[Any], a: Array, b: Array) -> str:
    gear, rack = sizes
    z = poses.rotate(a[:, 3:], np.array([0.0, 0, 1]))
    y, up = (poses.rotate(b[:, 3:], e) for e in np.eye(3)[1:])
    lean = float(np.arccos(np.clip(np.abs((z * up).sum(axis=1)), 0, 1)).max())
    if lean > 10 * SAME_ANGLE:
        return f"the gear's axis leans {t.angle(lean)} against the rack's teeth, and must stand square to the rack; {t.seat()}"
    height = ((a[:, :3] - b[:, :3]) * y).sum(axis=1)
    steady = _steady(t, height, "the height of the gear's axis over the pitch line")
    if steady:
        return steady
    tooth = spur_gear.tooth(gear)
    nominal, real = tooth.pitch_radius + tooth.x * tooth.module, float(height[0])
    if real >= tooth.tip_radius + rack.module or real <= max(
        tooth.root_circle + rack.module, tooth.tip_radius - 1.25 * rack.module
    ):
        way = "nearer" if real > nominal else "farther out"
        return f"the axis of {t.a} stands {t.length(real)} over the pitch line of {t.b}, and meshes at {t.length(nominal)}: bring it {t.length(abs(real - nominal))} {way}; {t.seat()}"
    return _faces(t, a, b, gear.width, rack.width)


def _bevel(t: _Told, n: Any, sizes: list[Any], a: Array, b: Array) -> str:
    angle, apart, _ = _between(a, b)
    if float(np.minimum(angle, np.pi - angle).min()) < SAME_ANGLE:
        return f"the axes are parallel; bevel gears need axes that meet; {t.seat()}"
    if float(apart.max()) > NEAR:
        return f"the axes miss each other by {t.length(float(apart.max()))}, and must meet: move {t.b} by as much; {t.seat()}"
    if np.ptp(angle) > SAME_ANGLE:
        return f"the angle of the axes changes over the cycle, and must stay the same; {t.seat()}"
    return ""


def _crossed(t: _Told, a: Array, b: Array, needed: float) -> str:
    angle, apart, _ = _between(a, b)
    off = np.minimum(np.abs(angle - needed), np.abs(np.pi - angle - needed))
    if float(off.max()) > 10 * SAME_ANGLE:
        at = float(angle[int(np.argmax(off))])
        return f"the axes cross at {t.angle(min(at, np.pi - at))}, and must cross at {t.angle(min(needed, np.pi - needed))}: turn {t.b} by {t.angle(float(off.max()))}; {t.seat()}"
    if float(apart.min()) < NEAR:
        return f"the axes meet; they must pass one another at the centre distance of the two: move {t.b} out by its pitch radius and that of {t.a}; {t.seat()}"
    return _steady(t, apart, "the distance of the axes")


def _helical(t: _Told, n: Any, sizes: list[Any], a: Array, b: Array) -> str:
    return _crossed(t, a, b, abs(float(n.helix_a + n.helix_b)))


def _worm(t: _Told, n: Any, sizes: list[Any], a: Array, b: Array) -> str:
    return _crossed(t, a, b, np.pi / 2)


def _screw(t: _Told, n: Any, sizes: list[Any], a: Array, b: Array) -> str:
    angle, apart, _ = _between(a, b)
    if _lean(angle) > SAME_ANGLE:
        return f"the axes of screw and nut stand at {t.angle(_lean(angle))} to one another, and must lie on one line; {t.seat()}"
    if float(apart.max()) > NEAR:
        return f"the axes of screw and nut are {t.length(float(apart.max()))} apart, and must lie on one line: move {t.b} by as much; {t.seat()}"
    return ""


_KINDS = {
    "gear": _gear, "rack": _rack, "bevel": _bevel, "helical": _helical, "worm": _worm, "screw_nut": _screw,
}  # fmt: skip

__all__ = ["mounting"]
