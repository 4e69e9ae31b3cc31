"""Gears, belts and couplings: ratio, direction and phase by the geometry of what is drawn, on axes anywhere; the requirements of meshes with them.

Gears: ISO 21771-1 (centre distance, backlash, contact ratio); Lewis's factors: the values of Y in Shigley, Mechanical Engineering Design, chapter 14; bevel and
crossed helical gears: no slip at the cones' common line and along the normal of the teeth (Litvin, Fuentes, Gear Geometry and Applied Theory). All from memory.
"""

from __future__ import annotations

from collections.abc import Callable
from math import pi
from typing import Any

import numpy as np
from scipy.optimize import brentq

from tests.reference.attack.rig import Case, Rig
from tests.reference.attack.witness import Witness, wrapped
from uhrwerk import (
    At,
    GearMesh,
    Misalignment,
    Rack,
    RingGear,
    SpurGear,
    ToothBending,
    belts,
    couplings,
)
from uhrwerk.core.document import command
from uhrwerk.core.elements import ELEMENTS
from uhrwerk.core.joints import BeltPair, CouplingPair
from uhrwerk.core.outlines import Circle
from uhrwerk.core.steps import BuildStep, Extrude

#: rad: angles that follow from angles are wrong if they are off by more
OFF = 1e-8


def add_pair(rig: Rig, pair: Any) -> None:
    rig.d.do(command.AddPair(id="pair", pair=pair))
    rig.kinds[f"pair {pair.kind}"] += 1


def turning_part(
    rig: Rig,
    name: str,
    element: Any,
    point: np.ndarray,
    way: np.ndarray,
    driven: bool = False,
    over: float = 0.0,
    times: int = 1,
    **how: Any,
) -> Any:
    """A part that turns about its axis at a point of the base: mirrored or not, its axis along `way` or against it; driven, if asked."""
    rig.kinds[f"element {element.kind}"] += 1
    part = rig.d.part(name, "steel", element, z="50 mm", turn_z=rig.angle(rig.r.uniform(-1, 1)))
    rig.mirror(part)
    joint = rig.d.revolute(f"{name} turns", rig.at(point, way), part["axis"], offset=rig.length(over), **how)
    if driven:
        rig.d.turn(
            "Motor",
            joint,
            f"{times * rig.r.choice([-1, 1]) * rig.r.integers(20, 120)} rpm",
            start=rig.angle(rig.r.uniform(-1, 1)),
        )
    return part


def _flips(rig: Rig) -> bool:
    return bool(rig.r.random() < 0.4)


def wrong_by(what: str, off: Any, most: float = OFF) -> list[str]:
    worst = float(np.max(np.abs(off)))
    return [] if worst <= most else [f"{what} is off by {worst:.3g}"]


def _phase(w: Witness, part: str, about: np.ndarray, way: np.ndarray, teeth: int) -> np.ndarray:
    """(F,) at which part of a pitch, counted to the left about an axis, the direction `way` (F, 3) lies past the middle of a tooth on x."""
    x = w.frame(At(placed=part, datum="axis"))[1][:, :, 0]
    angle = np.arctan2((np.cross(x, way) * about).sum(axis=1), (x * way).sum(axis=1))
    return angle * teeth / (2 * pi)


def _inv(angle: float) -> float:
    return float(np.tan(angle) - angle)


def gear(rig: Rig) -> Case:
    """Two spur gears, shifted, thinned, farther apart than without backlash; a torque on the second one."""
    r, (top, (along, across, up)) = rig.r, rig.axes()
    m, za, zb = float(r.choice([1e-3, 1.5e-3, 2e-3, 25.4e-3 / 16])), int(r.integers(14, 40)), int(r.integers(14, 60))
    plain = r.random() < 0.4
    xa, xb = (0.0, 0.0) if plain else (float(v) for v in np.round(r.uniform(-0.1, 0.5, 2), 3))
    thin, extra, alpha = (
        0.0 if plain else float(np.round(r.uniform(0, 0.1) * 1e-3, 6)),
        float(r.uniform(0, 0.1)) * m,
        np.radians(20),
    )
    widths = [float(np.round(r.uniform(4, 12), 2)) * 1e-3 for _ in range(2)]
    lifts = [float(np.round(r.uniform(-1.5, 1.5), 2)) * 1e-3 for _ in range(2)]
    nominal = _inv(alpha) + 2 * (xa + xb) * np.tan(alpha) / (za + zb)
    working = brentq(lambda a: _inv(a) - nominal, 1e-3, 1.2)
    distance = m * (za + zb) / 2 * np.cos(alpha) / np.cos(working) + extra
    turn = r.uniform(-pi, pi)
    way = np.cos(turn) * along + np.sin(turn) * across
    gears = [
        SpurGear(module=rig.length(m), teeth=z, width=rig.length(b), profile_shift=str(x), thinning=rig.length(thin))
        for z, b, x in ((za, widths[0], xa), (zb, widths[1], xb))
    ]
    over = [0.002 + v for v in lifts]
    a = turning_part(rig, "A", gears[0], top, up, driven=True, over=over[0])
    b = turning_part(rig, "B", gears[1], top + distance * way, up, over=over[1])
    _pair_named(rig, a, b)
    torque = float(r.uniform(0.1, 2))
    rig.d.torque("Load", At(placed=rig.base, datum="block.end"), b["axis"], torque=f"{torque!r} N m", acts="always")
    rig.kinds["pair torque"] += 1
    rig.cycle()
    aw = np.arccos(m * (za + zb) / 2 * np.cos(alpha) / distance)
    rb, pb = [m * z / 2 * np.cos(alpha) for z in (za, zb)], pi * m * np.cos(alpha)
    # thinning is taken off along the pitch circle, of each gear
    thick = [
        2 * q * ((m * (pi / 2 + 2 * x * np.tan(alpha)) - thin) / (m * z) + _inv(alpha))
        for q, x, z in zip(rb, (xa, xb), (za, zb), strict=True)
    ]
    backlash = pb - sum(thick) + 2 * sum(rb) * _inv(aw)
    tips = [m * (z / 2 + 1 + x) for z, x in ((za, xa), (zb, xb))]
    roots = [m * (z / 2 - 1.25 + x) for z, x in ((za, xa), (zb, xb))]
    ratio = (sum(np.sqrt(t**2 - q**2) for t, q in zip(tips, rb, strict=True)) - distance * np.sin(aw)) / pb
    over_root = min(distance - tips[0] - roots[1], distance - tips[1] - roots[0])
    limits = [
        backlash * r.choice([0.5, 0.9, 1.1]),
        backlash * r.choice([0.9, 1.1, 2.0]),
        ratio * r.choice([0.8, 0.99, 1.01]),
        over_root * r.choice([0.5, 0.98, 1.02]),
    ]
    mesh = rig.require(
        GearMesh(
            name="Mesh",
            pair="pair",
            backlash_at_least=rig.length(limits[0]),
            backlash_at_most=rig.length(limits[1]),
            contact_ratio=repr(float(limits[2])),
            tip_clearance=rig.length(limits[3]),
        )
    )
    bent = rig.require(ToothBending(name="Bent", pair="pair", at_most="20 MPa"))

    def look(w: Witness) -> list[str]:
        z = w.axis(rig.base, "block.end")
        line = w.origin(b, "axis") - w.origin(a, "axis")
        turns = [w.turned(p, rig.base, z) for p in (a, b)]
        phases = _phase(w, a, z, line, za) + _phase(w, b, z, -line, zb)
        out = wrong_by("the ratio", za * turns[0] + zb * turns[1]) + wrong_by(
            "the phase", wrapped(phases - 0.5, 1.0), 1e-7
        )
        holds = backlash >= limits[0] and backlash <= limits[1] and ratio >= limits[2] and over_root >= limits[3]
        v = w.e.verdicts[mesh]
        if v.value is not None:
            out += [f"the mesh {v.holds}, not {holds}: {v.words}"] * (v.holds is not bool(holds))
            out += wrong_by(f"{v.words}: value", min(abs(v.value - x) for x in (backlash, ratio, over_root)), 1e-9)
        elif v.holds:
            out.append(f"the mesh holds without a value: {v.words}")
        v = w.e.verdicts[bent]
        if plain:
            ends = [
                sorted(float((w.origin(p, x)[0] - w.origin(a, "axis")[0]) @ z[0]) for x in ("bottom", "top"))
                for p in (a, b)
            ]
            shared = min(e[1] for e in ends) - max(e[0] for e in ends)
            force = [torque / (m * zb / 2)] * 2
            stress = max(f / (shared * m * _lewis(z)) for f, z in zip(force, (za, zb), strict=True))
            close = 0.03 if min(za, zb) >= 20 else 0.1  # the table's undercut teeth are of another fillet
            out += [f"bending {v.value} is not {stress}: {v.words}"] * (
                v.value is None or abs(v.value / stress - 1) > close
            )
            out += ["bending holds"] * bool(v.holds and stress * (1 - close) > 20e6)
        return out

    return rig.case(look)


#: Lewis's form factor Y, 20 degrees, full depth
_LEWIS = {14: 0.277, 15: 0.290, 16: 0.296, 17: 0.303, 18: 0.309, 19: 0.314, 20: 0.322, 21: 0.328, 22: 0.331, 24: 0.337, 26: 0.346, 28: 0.353, 30: 0.359, 34: 0.371, 38: 0.384, 43: 0.397, 50: 0.409, 60: 0.422}  # fmt: skip


def _lewis(teeth: int) -> float:
    return float(np.interp(teeth, list(_LEWIS), list(_LEWIS.values())))


def _pair_named(rig: Rig, a: str, b: str) -> None:
    rig.d.gear_pair("pair", a, b)
    rig.kinds["pair gear"] += 1


def ring(rig: Rig) -> Case:
    """A gear inside a ring gear."""
    r, (top, (along, across, up)) = rig.r, rig.axes()
    m, zr = float(r.choice([1e-3, 1.5e-3])), int(r.integers(50, 80))
    zg = int(r.integers(14, zr - 20))
    turn, distance = r.uniform(-pi, pi), m * (zr - zg) / 2
    way = np.cos(turn) * along + np.sin(turn) * across
    outer = RingGear(module=rig.length(m), teeth=zr, outer_diameter=rig.length(m * (zr + 12)))
    one = turning_part(rig, "A", outer, top, up, over=0.002)
    other = turning_part(
        rig, "B", SpurGear(module=rig.length(m), teeth=zg), top + distance * way, up, driven=True, over=0.002
    )
    ends = [one, other] if r.random() < 0.5 else [other, one]
    _pair_named(rig, *ends)
    rig.cycle()

    def look(w: Witness) -> list[str]:
        z, line = w.axis(rig.base, "block.end"), w.origin(other, "axis") - w.origin(one, "axis")
        turns = [w.turned(p, rig.base, z) for p in (one, other)]
        phases = _phase(w, one, z, line, zr) - _phase(w, other, z, line, zg)  # a space of the ring lies on its x
        return wrong_by("the ratio", zr * turns[0] - zg * turns[1]) + wrong_by("the phase", wrapped(phases, 1.0), 1e-7)

    return rig.case(look, solids=False)


def rack(rig: Rig) -> Case:
    r, (top, (along, across, up)) = rig.r, rig.axes()
    m, z = float(r.choice([1e-3, 2e-3, 25.4e-3 / 12])), int(r.integers(14, 30))
    slide, aside = (along, across) if r.random() < 0.5 else (-across, along)
    reach = m * z / 2
    gear = turning_part(rig, "A", SpurGear(module=rig.length(m), teeth=z), top, up, driven=True, over=0.002)
    part = rig.d.part("B", "steel", Rack(module=rig.length(m), teeth=40), z="50 mm")
    rig.kinds["element rack"] += 1
    rig.mirror(part)
    side = 1 if r.random() < 0.5 else -1
    ground = rig.at(top - side * reach * aside, side * slide)
    beside = rig.at(np.zeros(3), np.array([1.0, 0, 0]), part)
    # its teeth, along its y, towards the gear
    rig.d.prismatic(
        "Slides", ground, beside, turn=rig.angle(rig.turn(ground, beside, side * aside, np.array([0, 1.0, 0])))
    )
    rig.d.rack_pair("pair", gear, part)
    rig.kinds["pair rack"] += 1
    rig.cycle(duration="0.3 s")

    def look(w: Witness) -> list[str]:
        zs, at = w.axis(rig.base, "block.end"), w.origin(part, "pitch_line")
        ways = w.frame(At(placed=str(part), datum="pitch_line"))[1]
        line = at - w.origin(gear, "axis")
        foot = line - (line * zs).sum(axis=1)[:, None] * zs
        foot = (
            foot - (foot * ways[:, :, 0]).sum(axis=1)[:, None] * ways[:, :, 0]
        )  # from the axis square to the pitch line
        turn = w.turned(gear, rig.base, zs)
        moves = ((at - at[0]) * np.cross(zs, foot) / np.linalg.norm(foot, axis=1)[:, None]).sum(axis=1)
        out = wrong_by("the height", np.linalg.norm(foot, axis=1) - reach, 1e-9) + wrong_by(
            "the travel", moves - reach * turn, 1e-9
        )
        # a space of the gear, where a tooth of the rack is: its teeth stand at whole pitches from the origin
        place = (-(line - foot) * np.cross(zs, foot)).sum(axis=1) / np.linalg.norm(foot, axis=1)
        return out + wrong_by("the phase", wrapped(_phase(w, gear, zs, foot, z) - 0.5 - place / (pi * m), 1.0), 1e-7)

    return rig.case(look, solids=False)


def _arbor(rig: Rig, name: str, point: np.ndarray, way: np.ndarray, driven: bool = False) -> Any:
    """A pin of one's own on an axis of the base."""
    part, own = round_pin(rig, name)
    joint = rig.d.revolute(f"{name} turns", rig.at(point, way), own, flip=_flips(rig))
    if driven:
        rig.d.turn("Motor", joint, f"{rig.r.choice([-1, 1]) * rig.r.integers(20, 120)} rpm")
    return part, own


def round_pin(rig: Rig, name: str) -> Any:
    """A pin of one's own, its outline beside its origin, and its axis."""
    r = rig.r
    x, y, lift = (rig.length(v) for v in r.uniform(-0.02, 0.02, 3))
    steps: dict[str, BuildStep] = {
        "arbor": Extrude(
            name="Arbor",
            plane=str(r.choice(["xy", "yz", "xz"])),
            offset=lift,
            outline=Circle(diameter="6 mm", x=x, y=y),
            length="20 mm",
        )
    }
    part = rig.d.own_part(name, "steel", steps, z="60 mm")
    rig.mirror(part)
    kind = next(n for n, v in rig.drawn(part).items() if v["kind"] == "axis")
    return part, part[kind]


def bevel(rig: Rig) -> Case:
    """On axes at right angles: no slip along the line where both cones touch."""
    r, (top, (along, across, up)) = rig.r, rig.axes()
    za, zb = int(r.integers(12, 30)), int(r.integers(12, 40))
    meets = top + r.uniform(-0.03, 0.03, 3)
    signs = r.choice([-1, 1], 2)
    a, at_a = _arbor(rig, "A", meets, signs[0] * along, driven=True)
    b, at_b = _arbor(rig, "B", meets, signs[1] * (across if r.random() < 0.5 else up))
    side = str(r.choice(["same", "opposite"]))
    rig.d.bevel_pair("pair", at_a, at_b, teeth_a=za, teeth_b=zb, side=side)
    rig.kinds["pair bevel"] += 1
    rig.cycle()

    def look(w: Witness) -> list[str]:
        one, other = (w.frame(x)[1][:, :, 2] for x in (at_a, at_b))
        out = other if side == "same" else -other
        cone = np.arctan2(za, zb)  # of the first gear, at right angles
        line = np.cos(cone) * one + np.sin(cone) * out
        wa, wb = w.turned(a, rig.base, one), w.turned(b, rig.base, other)
        slip = np.cross(wa[:, None] * one, line) - np.cross(wb[:, None] * other, line)
        return wrong_by("the roll", slip)

    return rig.case(look, solids=False)


def helical(rig: Rig) -> Case:
    """Crossed at right angles: equal speed along the normal of the teeth, where both touch."""
    r, (top, (along, across, up)) = rig.r, rig.axes()
    za, zb = int(r.integers(8, 30)), int(r.integers(8, 40))
    beta = float(np.radians(r.integers(25, 65))) * int(r.choice([-1, 1]))
    betas = (beta, float(np.sign(beta) * pi / 2 - beta))
    radii = [z * 2e-3 / np.cos(q) / 2 for z, q in zip((za, zb), betas, strict=True)]
    # the axes' angle is the sum of the helix angles: the second one turned against the first about the line between
    a, at_a = _arbor(rig, "A", top, along, driven=True)
    b, at_b = _arbor(rig, "B", top + sum(radii) * up, across)
    rig.d.helical_pair(
        "pair", at_a, at_b, teeth_a=za, teeth_b=zb, helix_a=rig.angle(betas[0]), helix_b=rig.angle(betas[1])
    )
    rig.kinds["pair helical"] += 1
    rig.cycle()

    def look(w: Witness) -> list[str]:
        return _crossed(w, rig.base, (a, at_a), (b, at_b), (za, zb), betas, radii)

    return rig.case(look, solids=False)


def _crossed(
    w: Witness,
    base: str,
    one: tuple[str, At],
    other: tuple[str, At],
    teeth: tuple[int, int],
    betas: tuple[float, float],
    radii: list[float],
) -> list[str]:
    (oa, fa), (ob, fb) = w.frame(one[1]), w.frame(other[1])
    za, zb = fa[:, :, 2], fb[:, :, 2]
    e = np.cross(za, zb) * np.sign(((ob - oa) * np.cross(za, zb)).sum(axis=1))[:, None]
    e = e / np.linalg.norm(e, axis=1)[:, None]
    # right-hand teeth of the first gear lean so at its side towards the second
    tooth = np.cos(betas[0]) * za + np.sin(betas[0]) * np.cross(za, e)
    normal = np.cross(tooth, e)
    ta, tb = w.turned(one[0], base, za), w.turned(other[0], base, zb)
    va = (np.cross(ta[:, None] * za, radii[0] * e) * normal).sum(axis=1)
    vb = (np.cross(tb[:, None] * zb, -radii[1] * e) * normal).sum(axis=1)
    size = wrong_by("the ratio", np.abs(tb[-1] * teeth[1]) - np.abs(ta[-1] * teeth[0]), 1e-6)
    return size + wrong_by("the roll", va - vb, 1e-8)


def worm(rig: Rig) -> Case:
    r, (top, (along, across, up)) = rig.r, rig.axes()
    starts, teeth, hand = int(r.integers(1, 5)), int(r.integers(20, 60)), str(r.choice(["right", "left"]))
    apart = float(r.uniform(0.02, 0.06)) * int(r.choice([-1, 1]))
    a, at_a = _arbor(rig, "A", top, along, driven=True)
    b, at_b = _arbor(rig, "B", top + apart * up, int(r.choice([-1, 1])) * across)
    rig.d.worm_pair("pair", at_a, at_b, starts=starts, teeth=teeth, hand=hand)
    rig.kinds["pair worm"] += 1
    rig.cycle()

    def look(w: Witness) -> list[str]:
        (oa, fa), (ob, fb) = w.frame(at_a), w.frame(at_b)
        za, zb = fa[:, :, 2], fb[:, :, 2]
        e = (ob - oa) - ((ob - oa) * za).sum(axis=1)[:, None] * za - ((ob - oa) * zb).sum(axis=1)[:, None] * zb
        e = e / np.linalg.norm(e, axis=1)[:, None]
        ta, tb = w.turned(a, rig.base, za), w.turned(b, rig.base, zb)
        # threads of a right-hand worm that turns to the left about its axis move against that axis, and the wheel's rim with them
        rim = (np.cross(tb[:, None] * zb, -e) * za).sum(axis=1)
        return wrong_by("the roll", rim + (1 if hand == "right" else -1) * ta * starts / teeth)

    return rig.case(look, solids=False)


def screw_nut(rig: Rig) -> Case:
    r, (top, (along, _across, _up)) = rig.r, rig.axes()
    lead = float(np.round(r.uniform(1, 8), 2)) * 1e-3 * int(r.choice([-1, 1]))
    a, at_a = _arbor(rig, "A", top, along, driven=True)
    _nut, own = round_pin(rig, "Nut")
    rig.d.prismatic(
        "Slides", rig.at(top, int(r.choice([-1, 1])) * along), own, turn=rig.angle(r.uniform(-3, 3)), flip=_flips(rig)
    )
    rig.d.screw_pair("pair", at_a, own, lead=rig.length(lead))
    rig.kinds["pair screw_nut"] += 1
    rig.cycle()

    def look(w: Witness) -> list[str]:
        z, at = w.axis(rig.base, "block.side_2"), w.frame(own)[0]
        return wrong_by("the travel", ((at - at[0]) * z).sum(axis=1) + lead * w.turned(a, rig.base, z) / (2 * pi), 1e-9)

    return rig.case(look, solids=False)


def belt(rig: Rig) -> Case:
    r, (top, (along, across, up)) = rig.r, rig.axes()
    kind = str(r.choice(["pulley", "toothed_pulley", "sprocket"]))
    crossed = kind == "pulley" and r.random() < 0.5
    if kind == "pulley":
        sizes = [float(np.round(r.uniform(20, 60), 1)) * 1e-3 for _ in range(2)]
        wheels = [belts.Pulley(diameter=rig.length(s), width="10 mm") for s in sizes]
    else:
        sizes = [float(r.integers(14, 40)) for _ in range(2)]
        made = ELEMENTS[kind]
        wheels = [made(teeth=int(s)) for s in sizes]
    a = turning_part(rig, "A", wheels[0], top, up, driven=True)
    b = turning_part(rig, "B", wheels[1], top + 0.25 * (along if r.random() < 0.5 else across), up)
    add_pair(rig, BeltPair(name="Pair", a=str(a), b=str(b), crossed=crossed))
    rig.cycle()

    def look(w: Witness) -> list[str]:
        z = w.axis(rig.base, "block.end")
        ta, tb = (w.turned(p, rig.base, z) for p in (a, b))
        return wrong_by("the ratio", tb + (1 if crossed else -1) * ta * sizes[0] / sizes[1])

    return rig.case(look, solids=False)


def coupling(rig: Rig) -> Case:
    """Two halves that face one another, beside one another by a little; and how far they are out of line."""
    r, (top, (along, across, up)) = rig.r, rig.axes()
    jaws = int(r.integers(2, 5))
    half = couplings.JawHub(jaws=jaws) if r.random() < 0.5 else couplings.BellowsHalf()
    beside, gap = float(r.uniform(0, 0.3e-3)), float(r.uniform(-0.2e-3, 0.2e-3))
    turn = r.uniform(-pi, pi)
    way = np.cos(turn) * along + np.sin(turn) * across
    depth = 2 * 0.018 if half.kind == "bellows_half" else 2 * 0.012 + 0.008 + 0.0001
    a = turning_part(rig, "A", half, top, up, driven=True)
    b = turning_part(rig, "B", half, top + beside * way, up, over=depth + gap, flip=True)
    add_pair(rig, CouplingPair(name="Pair", a=str(a), b=str(b)))
    asked = rig.require(Misalignment(name="Line", half=str(a), other=str(b)))
    rig.cycle()

    def look(w: Witness) -> list[str]:
        z = w.axis(rig.base, "block.end")
        ta, tb = (w.turned(p, rig.base, z) for p in (a, b))
        xa, xb = (w.frame(At(placed=p, datum="axis"))[1][:, :, 0] for p in (a, b))
        twist = np.arctan2((np.cross(xa, xb) * z).sum(axis=1), (xa * xb).sum(axis=1))
        out = wrong_by("the ratio", ta - tb)
        if half.kind == "jaw_hub":
            out += wrong_by("the phase", wrapped(twist - pi / jaws, 2 * pi / jaws))
        else:
            out += wrong_by("the phase", wrapped(twist))
        v = w.e.verdicts[asked]
        takes = {k: x for k, x, _ in _takes(half)}
        used = beside / takes["offset"] + abs(gap) / takes["shift"]
        return (
            out
            + wrong_by(f"{v.words}: the part used", (v.value or 0.0) - used, 2e-6 + v.error)
            + [f"{v.words}: holds"] * bool(v.holds and used > 1 + 1e-5)
        )

    return rig.case(look)


def _takes(half: Any) -> list[tuple[str, float, str]]:
    """What a half takes alone is a table of its own (test_couplings.py), not what is attacked here."""
    from uhrwerk.core.field import numbers
    from uhrwerk.core.quantity import Scope

    n = type(half).takes(numbers(half, Scope()))
    return [("offset", n.offset, ""), ("shift", n.shift, "")]


CASES: dict[str, Callable[[Rig], Case]] = {
    "gear": gear, "ring": ring, "rack": rack, "bevel": bevel, "helical": helical, "worm": worm, "screw_nut": screw_nut, "belt": belt,
    "coupling": coupling,
}  # fmt: skip
#: what these cases try
PAIRS = ("gear", "rack", "bevel", "helical", "worm", "screw_nut", "belt", "coupling")
REQUIREMENTS = ("gear_mesh", "tooth_bending", "misalignment")
