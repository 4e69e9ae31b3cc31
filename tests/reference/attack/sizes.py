"""Distances, overlaps, walls, masses, balance, fits and freedoms of boxes, against formulas of boxes.

Two boxes are as far apart as the nearest of their corners, edges and faces; the least move that parts two convex bodies lies along a
face's normal or the common normal of two edges (Ericson, Real-Time Collision Detection, chs. 4.4 and 5.1). Grade: ISO 21940-11, e times
the speed. Fits as handbooks print them (ISO 286-2). All from memory.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import combinations
from math import pi
from typing import Any

import numpy as np

from tests.reference.attack.loads import DENSITY
from tests.reference.attack.rig import Case, Rig
from tests.reference.attack.witness import Witness
from uhrwerk import (
    At,
    BalanceGrade,
    CentreOfGravity,
    Clearance,
    Determinate,
    FitLimits,
    MassLimit,
    NoInterference,
    PrintGap,
    WallThickness,
)
from uhrwerk.core.outlines import Circle
from uhrwerk.core.steps import Extrude

Array = np.ndarray
#: diameter mm, hole, shaft, least and greatest clearance um
FITS = [
    (25, "H7", "g6", 7, 41), (25, "H7", "p6", -35, -1), (50, "H7", "k6", -18, 23), (10, "H7", "h6", 0, 24), (8, "F8", "h6", 13, 44),
    (30, "H8", "f7", 20, 74), (6, "JS7", "h6", -6, 14), (12, "H8", "h7", 0, 45),
]  # fmt: skip


def box_of(w: Witness, part: str) -> tuple[Array, Array, Array]:
    """Centre (F, 3), axes (F, 3, 3) in columns and half its size (3,) of a box, from the middles of its faces."""
    ends = [
        [w.origin(part, f"block.{x}") for x in pair]
        for pair in (("side_2", "side_4"), ("side_1", "side_3"), ("start", "end"))
    ]
    centre = (ends[2][0] + ends[2][1]) / 2
    half = np.array([np.linalg.norm(b[0] - a[0]) / 2 for a, b in ends])
    ways = np.stack([(b - a) / np.linalg.norm(b - a, axis=1)[:, None] for a, b in ends], axis=2)
    return centre, ways, half


def apart(a: tuple[Array, Array, Array], b: tuple[Array, Array, Array]) -> Array:
    """(F,) how far two boxes are apart, or, less than nothing, how far one must be moved to part them."""
    (ca, ra, ha), (cb, rb, hb) = a, b
    off = cb - ca
    edges = np.cross(np.repeat(np.swapaxes(ra, 1, 2), 3, axis=1), np.tile(np.swapaxes(rb, 1, 2), (1, 3, 1)))
    axes = np.concatenate([np.swapaxes(ra, 1, 2), np.swapaxes(rb, 1, 2), edges], axis=1)
    long = np.linalg.norm(axes, axis=2)
    axes = axes / np.maximum(long, 1e-12)[..., None]
    reach = (np.abs(axes @ ra) * ha).sum(axis=2) + (np.abs(axes @ rb) * hb).sum(axis=2)
    gap = np.abs((axes @ off[..., None])[..., 0]) - reach
    gap = np.where(long > 1e-9, gap, -np.inf).max(axis=1)  # the greatest gap; where none is, the least move
    out = gap.copy()
    clear = gap > 0
    if clear.any():
        one, other = ((c[clear], r[clear], h) for c, r, h in (a, b))
        out[clear] = np.minimum.reduce([_corners(one, other), _corners(other, one), _edges(one, other)])
    return out


_SIGNS = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)], dtype=float)


def _corners(a: Any, b: Any) -> Array:
    """From the corners of a to the solid of b."""
    (ca, ra, ha), (cb, rb, hb) = a, b
    corners = ca[:, None] + (_SIGNS * ha) @ np.swapaxes(ra, 1, 2)
    local = (corners - cb[:, None]) @ rb
    beyond = np.maximum(np.abs(local) - hb, 0)
    return np.asarray(np.linalg.norm(beyond, axis=2).min(axis=1))


def _edges(a: Any, b: Any) -> Array:
    def ends(x: Any) -> tuple[Array, Array]:
        c, r, h = x
        starts, ways = [], []
        for k in range(3):
            others = [i for i in range(3) if i != k]
            for s in (-1, 1):
                for t in (-1, 1):
                    v = np.zeros(3)
                    v[others[0]], v[others[1]], v[k] = s, t, -1
                    starts.append(c + (r @ (v * h)))
                    ways.append(2 * h[k] * r[:, :, k])
        return np.stack(starts, axis=1), np.stack(ways, axis=1)

    (p, u), (q, v) = ends(a), ends(b)
    p, u = (np.repeat(x, 12, axis=1) for x in (p, u))
    q, v = (np.tile(x, (1, 12, 1)) for x in (q, v))
    w = p - q
    aa, bb, cc, dd, ee = (u * u).sum(2), (u * v).sum(2), (v * v).sum(2), (u * w).sum(2), (v * w).sum(2)
    det = aa * cc - bb * bb
    s = np.clip(np.where(det > 1e-14 * aa * cc, (bb * ee - cc * dd) / np.where(det > 0, det, 1), 0.0), 0, 1)
    t = np.clip((bb * s + ee) / cc, 0, 1)
    s = np.clip((bb * t - dd) / aa, 0, 1)
    return np.asarray(np.linalg.norm(w + s[..., None] * u - t[..., None] * v, axis=2).min(axis=1))


def _between(w: Witness, parts: list[str]) -> dict[tuple[str, str], Array]:
    boxes = {p: box_of(w, p) for p in parts}
    return {(a, b): apart(boxes[a], boxes[b]) for a, b in combinations(parts, 2)}


def distances(rig: Rig) -> Case:
    """One box is driven past another; all three may overlap."""
    r, (top, (along, across, up)) = rig.r, rig.axes()
    one = rig.box("One", tuple(np.round(r.uniform(0.01, 0.05, 3), 4)), z="50 mm")
    other = rig.box("Other", tuple(np.round(r.uniform(0.01, 0.05, 3), 4)), z="90 mm", turn_x="30 deg")
    faces = ["block.end", "block.start", "block.side_1", "block.side_2"]
    place = top + r.uniform(-0.03, 0.03) * along + r.uniform(-0.03, 0.03) * across
    lifted = rig.at(place + r.uniform(0.005, 0.05) * up, up)
    held = At(placed=str(one), datum=str(r.choice(faces)), x="4 mm", y="-7 mm")
    if r.random() < 0.6:
        joint = rig.d.revolute("Turns", lifted, held, flip=bool(r.random() < 0.5))
        rig.d.turn("Motor", joint, f"{r.choice([-1, 1]) * 60} rpm")
    else:
        joint = rig.d.prismatic("Slides", lifted, held, turn=rig.angle(r.uniform(-3, 3)))
        rig.d.drive(_slides(joint, float(r.uniform(5, 40))))
    there = top + r.uniform(-0.08, 0.08) * along + r.uniform(-0.06, 0.06) * across + r.uniform(0.005, 0.05) * up
    rig.d.rigid(
        "Stands", rig.at(there, up), At(placed=str(other), datum=str(r.choice(faces))), turn=rig.angle(r.uniform(-3, 3))
    )
    limit = float(r.choice([0.0005, 0.002, 0.01]))
    gap = rig.require(Clearance(name="Gap", a=one.body(), b=other.body(), at_least=rig.length(limit)))
    clear = rig.require(NoInterference(name="Clear"))
    printed = rig.require(PrintGap(name="Printed", at_least=rig.length(limit), layer="0.001 mm"))
    rig.cycle(frames=1800)

    def look(w: Witness) -> list[str]:
        parts = [str(p) for p in w.document.placed]
        every = _between(w, parts)
        out: list[str] = []
        y = every[str(one), str(other)] if (str(one), str(other)) in every else every[str(other), str(one)]
        # between two frames it may lie lower by what the steepest neighbours fall
        below = float(np.abs(np.diff(y)).max())
        v = w.e.verdicts[gap]
        if v.value is None:
            out += [f"no value: {v.words}"] * (v.holds is not None)
        elif not y.min() - below - v.error - 1e-9 <= v.value <= y.min() + v.error + 1e-9:
            out.append(
                f"the clearance is {v.value * 1e3:.6f} ± {v.error * 1e3:.6f} mm, the witness has {y.min() * 1e3:.6f}: {v.words}"
            )
        if v.holds and y.min() < limit - 6e-7:
            out.append(f"the clearance holds: {v.words}; the witness has {y.min() * 1e3:.6f}")
        # all that are not held rigidly to one another are looked at, and what is held rigidly too
        depth = {k: max(0.0, -float(x.min())) for k, x in every.items()}
        worst, v = max(depth.values()), w.e.verdicts[clear]
        falls = max(float(np.abs(np.diff(x)).max()) for x in every.values())
        if v.holds and worst > 2e-6 + 6e-7:
            out.append(f"nothing overlaps: {v.words}; the witness has {worst * 1e3:.6f} deep")
        if v.holds is False and worst == 0.0 and min(float(x.min()) for x in every.values()) > falls:
            out.append(f"something overlaps: {v.words}")
        if v.value and worst > 0 and not worst - v.error - 1e-8 <= v.value <= worst + falls + v.error + 1e-8:
            out.append(
                f"the depth is {v.value * 1e3:.6f} ± {v.error * 1e3:.6f}, the witness has {worst * 1e3:.6f}: {v.words}"
            )
        # printed where they stand at the start
        first = min(float(x[0]) for k, x in every.items() if str(one) in k)
        v = w.e.verdicts[printed]
        if v.value is not None and "layer" not in v.words and abs(v.value - first) > v.error + 1e-8:
            out.append(
                f"the print gap is {v.value * 1e3:.6f} ± {v.error * 1e3:.6f}, the witness has {first * 1e3:.6f}: {v.words}"
            )
        out += [f"the print gap holds: {v.words}; the witness has {first * 1e3:.6f}"] * bool(
            v.holds and first < limit - 6e-7
        )
        return out

    return rig.case(look)


def _slides(joint: str, far: float) -> Any:
    from uhrwerk import drivers

    return drivers.SlideFormula(name="Motor", joint=joint, way=f"{far:.3f} mm * sin(360 deg * time / (1 s))")


def walls(rig: Rig) -> Case:
    """A box with a hole through it beside its edge."""
    r = rig.r
    sizes = [float(v) for v in np.round(r.uniform(0.01, 0.05, 3), 4)]
    bore = float(np.round(r.uniform(0.2, 0.5) * min(sizes[:2]), 5))
    room = [(s - bore) / 2 for s in sizes[:2]]
    spot = [float(np.round(r.uniform(-0.9, 0.9) * x, 6)) for x in room]
    part = rig.box("Part", tuple(sizes), z="40 mm")  # type: ignore[arg-type]
    rig.drill(part, (spot[0], spot[1]), bore)
    limit = float(r.uniform(0.0005, 0.004))
    thick = rig.require(WallThickness(name="Walls", of=part.body(), at_least=rig.length(limit)))

    def look(w: Witness) -> list[str]:
        centre, ways, half = (x[0] if k < 2 else x for k, x in enumerate(box_of(w, str(part))))
        axes = [n for n, d in w.shown[str(part)].items() if d["kind"] == "axis"]
        at = (w.origin(str(part), axes[0])[0] - centre) @ ways
        wall = min(2 * half.min(), *(half[k] - abs(at[k]) - bore / 2 for k in (0, 1)))
        v = w.e.verdicts[thick]
        out = [f"the wall is {v.value} ± {v.error}, the witness has {wall}: {v.words}"] * bool(
            v.value is not None and abs(v.value - wall) > v.error + 1e-8
        )
        return out + [f"the wall holds: {v.words}; the witness has {wall}"] * bool(v.holds and wall < limit - 1e-8)

    return rig.case(look)


def rotors(rig: Rig) -> Case:
    """Boxes that turn together: their mass, where their centre lies, and the grade that they reach."""
    r, (top, (_along, _across, up)) = rig.r, rig.axes()
    faces = ["block.end", "block.start", "block.side_1", "block.side_2"]
    parts: list[tuple[str, float]] = []
    for k in range(int(r.integers(1, 4))):
        material = str(r.choice(list(DENSITY)))
        parts.append(
            (
                str(rig.box(f"Part {k}", tuple(np.round(r.uniform(0.01, 0.05, 3), 4)), material, z="50 mm")),
                DENSITY[material],
            )
        )
    ends = [
        At(placed=p, datum=str(r.choice(faces)), x=f"{r.uniform(-9, 9):.3f} mm", y=f"{r.uniform(-9, 9):.3f} mm")
        for p, _ in parts
    ]
    ground = rig.at(top, up)
    joint = rig.d.revolute("Turns", ground, ends[0], flip=bool(r.random() < 0.5), offset="5 mm")
    speed = int(r.integers(60, 3000))
    rig.d.turn("Motor", joint, f"{speed} rpm")
    for k in range(1, len(parts)):
        rig.d.rigid(
            f"Fixed {k}",
            At(placed=parts[k - 1][0], datum=str(r.choice(faces))),
            ends[k],
            turn=rig.angle(r.uniform(-3, 3)),
        )
    groups = [str(rig.d.group("Some", [p for p, _ in parts]))]  # type: ignore[list-item]
    of = str(r.choice(["whole", "moving", *groups]))
    limit = float(r.uniform(0.05, 1.5))
    heavy = rig.require(MassLimit(name="Mass", of=of, at_most=f"{limit!r} kg"))
    near = rig.require(CentreOfGravity(name="Centre", joint=joint, at_most=f"{r.uniform(0.1, 30):.3f} mm"))
    grade = rig.require(BalanceGrade(name="Grade", joint=joint, grade=f"{np.exp(r.uniform(0, 8)):.2f} mm/s"))
    rig.cycle(duration=f"{60 / speed!r} s")

    def look(w: Witness) -> list[str]:
        mass, first = 0.0, np.zeros(3)
        for p, density in parts:
            centre, _, half = box_of(w, p)
            m = density * float(np.prod(2 * half))
            mass, first = mass + m, first + m * centre[0]
        o, axes = w.frame(ground)
        z = axes[0, :, 2]
        off = first / mass - o[0]
        off = float(np.linalg.norm(off - (off @ z) * z))
        still = [p for p in w.document.placed if p not in dict(parts)]
        whole = mass + sum(7850 * float(np.prod(2 * box_of(w, p)[2])) for p in still)
        out = []
        for key, value in ((heavy, whole if of == "whole" else mass), (near, off), (grade, off * speed * 2 * pi / 60)):
            v = w.e.verdicts[key]
            if v.value is None:
                out += [f"{v.kind} has no value: {v.words}"] * (v.holds is not None)
                continue
            out += [f"{v.kind} is {v.value} ± {v.error}, the witness has {value}: {v.words}"] * bool(
                abs(v.value - value) > v.error + 1e-9 * (1 + abs(value))
            )
            out += [f"{v.kind} holds: {v.words}; the witness has {value}"] * bool(
                v.holds and v.limit is not None and value > v.limit * (1 + 1e-9)
            )
        return out

    return rig.case(look)


def fits(rig: Rig) -> Case:
    """A pin on the axis of a hole, both drawn a little off what they are called."""
    r = rig.r
    called, hole, shaft, least, most = FITS[int(r.integers(len(FITS)))]
    play = float(np.round(r.uniform(-0.02, 0.02), 4)) * 1e-3
    drawn = (called - 0.05) * 1e-3  # below the end of its range, which counts by what is drawn
    part = rig.box("Part", (0.09, 0.08, 0.02), z="40 mm")
    rig.drill(part, (0.003, -0.002), drawn)
    pin = rig.d.own_part(
        "Pin",
        "steel",
        {
            "pin": Extrude(
                name="Pin",
                offset="4 mm",
                outline=Circle(diameter=rig.length(drawn - play), x="7 mm", y="2 mm"),
                length="30 mm",
            )
        },
        z="80 mm",
    )
    rig.mirror(pin)
    ends = [
        At(placed=str(p), datum=next(n for n, d in rig.drawn(p).items() if d["kind"] == "axis")) for p in (part, pin)
    ]
    rig.d.revolute("Turns", *ends, offset="2 mm")
    bounds = sorted(float(v) * 1e-6 for v in r.integers(-60, 120, 2))
    asked = rig.require(
        FitLimits(
            name="Fit",
            bore=ends[0],
            bore_limits=hole,
            pin=ends[1],
            pin_limits=shaft,
            at_least=rig.length(bounds[0]),
            at_most=rig.length(bounds[1]),
        )
    )

    def look(w: Witness) -> list[str]:
        v = w.e.verdicts[asked]
        tight, loose = play + least * 1e-6, play + most * 1e-6
        if v.value is None:
            return [f"no value: {v.words}"]
        out = [f"the fit is {v.value}, the witness has {tight} to {loose}: {v.words}"] * (
            min(abs(v.value - tight), abs(v.value - loose)) > 2e-9
        )
        return out + [f"the fit {v.holds}: {v.words}"] * (
            v.holds is not bool(tight >= bounds[0] - 1e-9 and loose <= bounds[1] + 1e-9)
        )

    return rig.case(look)


#: freedoms of each joint: common practice
FREE = {
    "rigid": 0,
    "held": 0,
    "revolute": 1,
    "prismatic": 1,
    "cylindrical": 2,
    "planar": 3,
    "spherical": 3,
    "universal": 2,
    "screw": 1,
}


def freedoms(rig: Rig) -> Case:
    """An open chain: as many freedoms as its joints have, less its drives; a part that nothing holds has six."""
    r, before, free, loose = rig.r, str(rig.base), 0, 0
    for k in range(int(r.integers(1, 5))):
        part = rig.box(f"Part {k}", (0.03, 0.02, 0.01), z="40 mm", turn_x="20 deg")
        if r.random() < 0.15:
            loose += 1
            continue
        kind = str(r.choice(list(FREE)))
        ends = [At(placed=p, datum=str(r.choice(["block.end", "block.side_1"])), x="2 mm") for p in (before, str(part))]
        joint = getattr(rig.d, kind)(f"Joint {k}", *ends, **({"lead": "2 mm"} if kind == "screw" else {}))
        free += FREE[kind]
        if kind in ("revolute", "cylindrical") and r.random() < 0.5:
            rig.d.turn(f"Motor {k}", joint, "60 rpm")
            free -= 1
        if kind in ("prismatic", "cylindrical") and r.random() < 0.5:
            rig.d.slide(f"Slides {k}", joint, "5 mm/s")
            free -= 1
        before = str(part)
    held = rig.require(Determinate(name="Held"))
    rig.cycle(duration="0.05 s")

    def look(w: Witness) -> list[str]:
        v = w.e.verdicts[held]
        return [f"{v.value} free, not {free} and {loose} loose parts: {v.words}"] * (
            v.value is None or v.value != free + loose or v.holds is not (free + loose == 0)
        )

    return rig.case(look)


CASES: dict[str, Callable[[Rig], Case]] = {
    "distances": distances,
    "walls": walls,
    "rotors": rotors,
    "fits": fits,
    "freedoms": freedoms,
}
REQUIREMENTS = (
    "clearance", "no_interference", "print_gap", "wall_thickness", "mass", "centre_of_gravity", "balance_grade", "fit", "determinate",
)  # fmt: skip
