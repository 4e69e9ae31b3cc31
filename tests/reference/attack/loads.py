"""Springs, loads and inertia in an open chain of boxes, against Newton and Euler on the poses that are shown.

What a joint of an open chain bears is what all bodies behind it need: m (a - g) and d(I w)/dt, less what acts on them. Springs: EN 13906-1
and -3, Bergstraesser's factor, a cantilever and a clamped strip (Timoshenko, Strength of Materials; Wahl, Mechanical Springs). Pins: mean
shear, a bar held at one end, mean pressure (common practice). All from memory.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import pi
from typing import Any

import numpy as np

from tests.reference.attack.rig import Case, NotTried, Rig
from tests.reference.attack.witness import Witness, size
from uhrwerk import (
    At,
    BearingPressure,
    CurveLimit,
    DriveEffort,
    JointForce,
    PinBending,
    PinShear,
    ShakingForce,
    ShakingMoment,
    SpringStrength,
    TimeRatio,
    Travel,
    TurningSpeedLimit,
    WantedMotion,
    curves,
    drivers,
)
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.document import command
from uhrwerk.core.joints.force import ForcePair
from uhrwerk.core.joints.leaf_spring import LeafSpringPair
from uhrwerk.core.joints.spiral_spring import SpiralSpringPair
from uhrwerk.core.joints.spring import SpringPair
from uhrwerk.core.joints.torque import TorquePair
from uhrwerk.core.joints.torsion_spring import TorsionSpringPair

G = 9.80665
#: kg/m3: common practice
DENSITY = {"steel": 7850.0, "aluminium": 2700.0}
#: by how much the greatest of 720 moments may stay below the greatest of all, as a part of it
SAMPLED = 5e-4

Array = np.ndarray


@dataclass
class Body:
    """A box of the chain: how it is held, and what it weighs."""

    part: str
    size: tuple[float, float, float]
    density: float
    turns: bool
    joint: str
    at_a: At
    at_b: At

    @property
    def mass(self) -> float:
        return self.density * float(np.prod(self.size))

    def motion(self, w: Witness) -> tuple[Array, Array, Array]:
        """The centre (F, 3), its acceleration and the rate of its spin d(I w)/dt (F, 3)."""
        turn = w.matrices(self.part)
        low, high = (w.origin(self.part, f"block.{x}") for x in ("start", "end"))
        centre = (low + high) / 2
        ways = np.stack([w.axis(self.part, f"block.{x}") for x in ("side_2", "side_1", "end")], axis=2)
        a, b, c = self.size
        inertia = self.mass / 12 * np.diag([b * b + c * c, a * a + c * c, a * a + b * b])
        rate = w.rates(turn)
        spin = rate @ np.swapaxes(turn, 1, 2)
        omega = np.stack([spin[:, 2, 1], spin[:, 0, 2], spin[:, 1, 0]], axis=1)
        momentum = np.einsum("fij,jk,flk,fl->fi", ways, inertia, ways, omega)
        return centre, w.rates(centre, 2), w.rates(momentum)


def _chain(rig: Rig, count: int, swings: bool = False) -> list[Body]:
    """Boxes one on the other, each driven to turn evenly, to swing or to slide forth and back; the first one to swing, if asked."""
    r, out, before = rig.r, [], str(rig.base)
    for k in range(count):
        material = str(r.choice(list(DENSITY)))
        size = tuple(float(v) for v in np.round(r.uniform(0.01, 0.06, 3), 4))
        part = rig.box(f"Body {k}", size, material, x="30 mm", turn_x="25 deg")  # type: ignore[arg-type]
        faces = ["block.end", "block.start", *(f"block.side_{i}" for i in range(1, 5))]
        ends = [
            At(
                placed=p,
                datum=str(r.choice(faces)),
                **{x: f"{v:.3f} mm" for x, v in zip("xyz", r.uniform(-20, 20, 3), strict=True) if r.random() < 0.6},
            )
            for p in (before, str(part))
        ]
        turns = bool(r.random() < 0.6) or (swings and k == 0)
        how: dict[str, Any] = {"offset": f"{r.uniform(-30, 30):.2f} mm", "flip": bool(r.random() < 0.5)}
        if turns:
            joint = rig.d.revolute(f"Joint {k}", *ends, **how)
            if r.random() < 0.5 and not (swings and k == 0):
                rig.d.turn(
                    f"Drive {k}",
                    joint,
                    f"{r.choice([-1, 1]) * r.integers(1, 4) * 60} rpm",
                    start=rig.angle(r.uniform(-3, 3)),
                )
            else:
                way = f"{r.uniform(20, 90):.2f} deg * sin(360 deg * time / (1 s)) + {r.uniform(5, 20):.2f} deg * sin(720 deg * time / (1 s) + {r.uniform(0, 180):.1f} deg)"
                rig.d.drive(drivers.TurnFormula(name=f"Drive {k}", joint=joint, way=way))
        else:
            joint = rig.d.prismatic(f"Joint {k}", *ends, turn=rig.angle(r.uniform(-3, 3)), **how)
            way = f"{r.uniform(5, 40):.2f} mm * sin(360 deg * time / (1 s)) + {r.uniform(1, 5):.2f} mm * cos(1080 deg * time / (1 s))"
            rig.d.drive(drivers.SlideFormula(name=f"Drive {k}", joint=joint, way=way))
        out.append(Body(str(part), size, DENSITY[material], turns, joint, *ends))  # type: ignore[arg-type]
        before = str(part)
    return out


@dataclass
class Acts:
    """What acts on a body: a force at a place and a torque, each (F, 3)."""

    body: int
    force: Callable[[Witness], Array]
    place: Callable[[Witness], Array]
    torque: Callable[[Witness], Array]
    used: Callable[[Witness], Array] | None = None


def _none(w: Witness) -> Array:
    return np.zeros((len(w.times), 3))


def _straight(w: Witness, a: At, b: At) -> tuple[Array, Array]:
    off = w.frame(b)[0] - w.frame(a)[0]
    apart = np.linalg.norm(off, axis=1)
    return off / apart[:, None], apart


def _on(rig: Rig, part: str) -> At:
    r = rig.r
    face = str(r.choice(["block.end", "block.side_1", "block.side_3"]))
    return At(
        placed=part,
        datum=face,
        **{x: f"{v:.3f} mm" for x, v in zip("xyz", r.uniform(-9, 9, 3), strict=True) if r.random() < 0.5},
    )


def _acts(rig: Rig, kind: str, bodies: list[Body]) -> Acts:
    """A spring or a load of a kind on one of the bodies, as the witness has it."""
    r, k = rig.r, int(rig.r.integers(len(bodies)))
    a, b = _on(rig, str(rig.base)), _on(rig, bodies[k].part)
    stress = 600e6

    def add(pair: Any) -> None:
        rig.d.do(command.AddPair(id="acts", pair=pair))
        rig.kinds[f"pair {kind}"] += 1

    if kind == "force":
        force, line, acts = (
            float(r.uniform(1, 50)),
            bool(r.random() < 0.5),
            str(r.choice(["always", "always", "with_the_motion"])),
        )
        add(
            ForcePair(
                name="Acts",
                a=a,
                b=b,
                force=f"{force!r} N",
                along="line_between_both" if line else "axis_of_the_first",
                acts=acts,
            )
        )  # type: ignore[arg-type]

        def push(w: Witness) -> Array:
            way = _straight(w, a, b)[0] if line else w.frame(a)[1][:, :, 2]
            moves = w.rates(w.frame(b)[0] - w.frame(a)[0])
            speed = (moves * way).sum(axis=1)
            sign = (
                np.where(np.abs(speed) < 1e-6, 0.0, np.sign(speed)) if acts == "with_the_motion" else np.ones(len(way))
            )
            return force * sign[:, None] * way

        return Acts(k, push, lambda w: w.frame(b)[0], _none)
    if kind == "torque":
        torque = float(r.uniform(0.1, 3))
        add(TorquePair(name="Acts", a=a, b=b, torque=f"{torque!r} N m", acts="always"))
        return Acts(k, _none, lambda w: w.frame(b)[0], lambda w: torque * w.frame(a)[1][:, :, 2])
    if kind == "spring":
        wire, coil, coils, free = (
            1e-3 * float(r.uniform(0.5, 2)),
            1e-3 * float(r.uniform(8, 20)),
            float(r.uniform(4, 12)),
            float(r.uniform(0.05, 0.3)),
        )
        works = str(r.choice(["compression", "extension"]))
        add(
            SpringPair(
                name="Acts",
                a=a,
                b=b,
                loading=works,
                free_length=rig.length(free),
                wire_diameter=rig.length(wire),
                mean_diameter=rig.length(coil),
                active_coils=repr(coils),
                ends="both_pivoting",
            )
        )  # type: ignore[arg-type]
        rate, sign = 81.5e9 * wire**4 / (8 * coil**3 * coils), 1.0 if works == "compression" else -1.0

        def pull(w: Witness) -> Array:
            way, apart = _straight(w, a, b)
            return (sign * rate * np.maximum(0, sign * (free - apart)))[:, None] * way

        def used(w: Witness) -> Array:
            apart, index = _straight(w, a, b)[1], coil / wire
            tau = (
                (index + 0.5) / (index - 0.75) * 8 * coil * rate * np.maximum(0, sign * (free - apart)) / (pi * wire**3)
            )
            parts = [tau / stress]
            if works == "compression":
                parts.append((coils + 2) * wire / apart)
                ratio = 81.5 / 206.0
                root = 1 - (1 - ratio) / (0.5 + ratio) * (pi * coil / free) ** 2
                if root >= 0:
                    parts.append((free - free * 0.5 / (1 - ratio) * (1 - np.sqrt(root))) / apart)
            return np.max(parts, axis=0)

        return Acts(k, pull, lambda w: w.frame(b)[0], _none, used)
    if kind == "leaf_spring":
        along, rest, width, thick = (
            float(r.uniform(-3, 3)),
            float(r.uniform(0.02, 0.12)),
            0.008,
            float(r.uniform(0.3, 0.8)) * 1e-3,
        )
        add(
            LeafSpringPair(
                name="Acts",
                a=a,
                b=b,
                along=rig.angle(along),
                rest=rig.length(rest),
                width=rig.length(width),
                thickness=rig.length(thick),
            )
        )

        def bent(w: Witness) -> tuple[Array, Array, Array, Array]:
            o, axes = w.frame(a)
            off, x = w.frame(b)[0] - o, np.cos(along) * axes[:, :, 0] + np.sin(along) * axes[:, :, 1]
            by = np.maximum(0, rest - (off * axes[:, :, 2]).sum(axis=1))
            reach = np.abs((off * x).sum(axis=1))
            if reach.min() < 0.01:  # its formula ends where no strip is left
                raise NotTried
            return by, reach, 206e9 * width * thick**3 / 4 * by / reach**3, axes[:, :, 2]

        def leaf(w: Witness) -> Array:
            _, _, force, way = bent(w)
            return force[:, None] * way

        def leaf_used(w: Witness) -> Array:
            by, reach, force, _ = bent(w)
            return np.maximum(6 * force * reach / (width * thick**2) / stress, by / reach / 0.15)

        return Acts(k, leaf, lambda w: w.frame(b)[0], _none, leaf_used)
    a, b = bodies[0].at_a, bodies[0].at_b
    wound = float(r.uniform(1, 6)) * int(r.choice([-1, 1]))
    if kind == "torsion_spring":
        wire, coil, coils = 1e-3 * float(r.uniform(0.8, 2)), 1e-3 * float(r.uniform(8, 20)), float(r.uniform(3, 9))
        add(
            TorsionSpringPair(
                name="Acts",
                a=a,
                b=b,
                preload=rig.angle(wound),
                wire_diameter=rig.length(wire),
                mean_diameter=rig.length(coil),
                active_coils=repr(coils),
            )
        )
        rate = 206e9 * wire**4 / (64 * coil * coils)
        per = 32 / (pi * wire**3)
    else:
        width, thick, long = 0.004, 1e-3 * float(r.uniform(0.2, 0.4)), float(r.uniform(0.3, 0.6))
        add(
            SpiralSpringPair(
                name="Acts",
                a=a,
                b=b,
                preload=rig.angle(wound),
                width=rig.length(width),
                thickness=rig.length(thick),
                length=rig.length(long),
                inner="10 mm",
                outer="40 mm",
            )
        )
        rate, per = 206e9 * width * thick**3 / (12 * long), 6 / (width * thick**2)

    def left(w: Witness) -> Array:
        rest = wound - w.turned(bodies[0].part, str(rig.base), w.frame(a)[1][:, :, 2])
        return np.where(rest * wound > 0, rest, 0.0)

    def used_up(w: Witness) -> Array:
        parts = [np.abs(left(w)) * rate * per / stress]
        if kind == "spiral_spring":  # coils draw together: the strip keeps its length, the inner diameter stays
            rest = wound - w.turned(bodies[0].part, str(rig.base), w.frame(a)[1][:, :, 2])
            turns = 2 * long / (pi * 0.05) + np.abs(rest) / (2 * pi)
            parts.append(thick / np.maximum((2 * long / (pi * turns) - 0.02) / (2 * turns), 1e-9))
        return np.max(parts, axis=0)

    return Acts(
        0, _none, lambda w: w.frame(b)[0], lambda w: (rate * left(w))[:, None] * w.frame(a)[1][:, :, 2], used_up
    )


def _needs(w: Witness, bodies: list[Body], acts: list[Acts], down: Array, joint: int) -> tuple[Array, Array]:
    """The force and the moment about the joint's place on its outer body that it must bring, (F, 3) each."""
    place = w.frame(bodies[joint].at_b)[0]
    force, moment = _none(w), _none(w)
    for k in range(joint, len(bodies)):
        centre, gain, spin = bodies[k].motion(w)
        need = bodies[k].mass * (gain - down)
        force, moment = force + need, moment + np.cross(centre - place, need) + spin
        for x in acts:
            if x.body == k:
                pushed = x.force(w)
                force, moment = force - pushed, moment - x.torque(w) - np.cross(x.place(w) - place, pushed)
    return force, moment


def _judged(w: Witness, key: str, values: Array, sampled: float = SAMPLED, floor: float = 1e-6) -> list[str]:
    """Whether a verdict's value is the greatest of what the witness has at its moments, and whether it may hold; `floor` is what its
    differences may be off by."""
    v = w.e.verdicts[key]
    best = float(np.max(values))
    room, floor = sampled * float(np.ptp(values) + abs(best)) + floor, floor + 1e-6 * abs(best)
    if v.value is None:
        return [f"{v.kind} has no answer: {v.words}"] if v.holds is not None else []
    out = []
    if not -v.error - floor <= v.value - best <= v.error + room:
        out.append(f"{v.kind} is {v.value:.9g} ± {v.error:.2g}, the witness has {best:.9g}: {v.words}")
    if v.holds and v.limit is not None and best > v.limit + floor:
        out.append(f"{v.kind} holds: {v.words}; the witness has {best:.9g}")
    return out


def chain(rig: Rig, kind: str) -> Case:
    """One kind of spring or load on a chain, with limits on all that follows from it."""
    r = rig.r
    bodies = _chain(rig, int(r.integers(1, 4)), swings=kind in ("torsion_spring", "spiral_spring"))
    acts = [_acts(rig, kind, bodies)]
    weights = {"not_counted": np.zeros(3)} | {
        f"{s}_{x}": (1 if s == "along" else -1) * G * np.eye(3)[i]
        for s in ("along", "against")
        for i, x in enumerate("xyz")
    }
    weight = str(r.choice(list(weights)))
    k = int(r.integers(len(bodies)))
    b = bodies[k]
    diameter, length = float(r.uniform(0.004, 0.01)), float(r.uniform(0.005, 0.03))

    def limit(low: float, high: float, unit: str) -> str:
        return f"{np.exp(r.uniform(np.log(low), np.log(high))):.4g} {unit}"

    size = {"diameter": rig.length(diameter), "length": rig.length(length)}
    of = str(r.choice(["across", "along", "whole"])) if b.turns else "across"
    about = r.uniform(-0.05, 0.05, 3)
    every: dict[str, Any] = {
        "effort": DriveEffort(
            name="Effort", driver=f"drive_{k}", at_most=limit(0.01, 10, "N m") if b.turns else limit(1, 100, "N")
        ),
        "force": JointForce(name="Force", joint=b.joint, of=of, at_most=limit(1, 200, "N")),  # type: ignore[arg-type]
        "shear": PinShear(name="Shear", joint=b.joint, sections=2, at_most=limit(0.1, 50, "MPa"), **size),
        "bending": PinBending(name="Bending", joint=b.joint, at_most=limit(1, 500, "MPa"), **size),
        "pressure": BearingPressure(name="Pressure", joint=b.joint, at_most=limit(0.1, 50, "MPa"), **size),
        "shakes": ShakingForce(name="Shakes", at_most=limit(0.1, 50, "N")),
        "turns": ShakingMoment(
            name="Turns", at_most=limit(0.01, 5, "N m"), **{x: rig.length(v) for x, v in zip("xyz", about, strict=True)}
        ),
    }
    asked = [str(x) for x in r.choice(list(every), 3, replace=False)]
    for x in asked:
        rig.require(every[x])
    sound = rig.require(SpringStrength(name="Sound", pair="acts", stress="600 MPa")) if acts[0].used else None
    rig.cycle(frames=720, weight=weight)

    def look(w: Witness) -> list[str]:
        axis = w.frame(b.at_a)[1][:, :, 2]
        force, moment = _needs(w, bodies, acts, weights[weight], k)
        along = (force * axis).sum(axis=1)
        across = np.linalg.norm(force - along[:, None] * axis, axis=1)
        about_it = (moment * axis).sum(axis=1)
        tilting = np.linalg.norm(moment - about_it[:, None] * axis, axis=1)
        jumps = 1e-2 if getattr(w.document.pairs["acts"], "acts", "always") == "with_the_motion" else SAMPLED
        shaken, turned = _none(w), _none(w)
        for x in bodies:
            centre, gain, spin = x.motion(w)
            shaken, turned = shaken + x.mass * gain, turned + x.mass * np.cross(centre - about, gain) + spin
        wanted = {
            "effort": (np.abs(about_it if b.turns else along), jumps, 1e-6),
            "force": (
                {"across": across, "along": np.abs(along), "whole": np.linalg.norm(force, axis=1)}[of],
                jumps,
                1e-6,
            ),
            "shear": ((across / 2 + tilting / length) * 4 / (pi * diameter**2), jumps, 1.0),
            "bending": (32 * (tilting + across * length / 2) / (pi * diameter**3), jumps, 100.0),
            "pressure": (across / (diameter * length) + 6 * tilting / (diameter * length**2), jumps, 1.0),
            "shakes": (np.linalg.norm(shaken, axis=1), SAMPLED, 1e-6),
            "turns": (np.linalg.norm(turned, axis=1), SAMPLED, 1e-6),
        }
        out: list[str] = []
        for name in asked:
            out += _judged(w, name, *wanted[name])
        if sound is not None and acts[0].used is not None:
            out += _judged(w, sound, acts[0].used(w))
        return out

    return rig.case(look)


def moves(rig: Rig) -> Case:
    """How far, how fast and when joints of a chain go, and curves of a point on it."""
    r = rig.r
    bodies = _chain(rig, int(r.integers(1, 4)))
    k = int(r.integers(len(bodies)))
    b, turns = bodies[k], bodies[k].turns
    rig.cycle(frames=720)
    far = rig.require(Travel(name="Travel", joint=b.joint, **({"turn": "90 deg"} if turns else {"slide": "30 mm"})))
    fast = rig.require(TurningSpeedLimit(name="Fast", joint=b.joint, at_most="100 rpm")) if turns else ""
    back = rig.require(TimeRatio(name="Back", joint=b.joint, at_least="1.2"))
    wanted = float(np.round(r.uniform(-1, 1), 3))
    span = sorted(int(v) for v in r.integers(0, 720, 2))
    place = (
        {"turn": f"{wanted!r} rad", "turn_within": "30 deg"}
        if turns
        else {"slide": f"{wanted * 20!r} mm", "slide_within": "5 mm"}
    )
    there = rig.require(
        WantedMotion(name="There", joint=b.joint, by=f"{span[0] / 2!r} deg", until=f"{span[1] / 2!r} deg", **place)
    )
    at, along = _on(rig, b.part), str(r.choice(["x", "y", "z"]))
    rig.d.follow(curves.PointCurve(name="Where", at=at, along=along))  # type: ignore[arg-type]
    limits = {}
    for of, unit, low, high in (
        ("value", "mm", 1, 300),
        ("rate", "mm/s", 10, 2000),
        ("acceleration", "m/s^2", 0.1, 50),
    ):
        text = {
            x: f"{s * np.exp(r.uniform(np.log(low), np.log(high))):.4g} {unit}"
            for x, s in (("at_least", -1), ("at_most", 1))
            if r.random() < 0.8
        }
        if text:
            limits[of] = rig.require(CurveLimit(name=of, curve="where", of=of, **text))  # type: ignore[arg-type]

    def look(w: Witness) -> list[str]:
        (o, fa), (p, fb) = w.frame(b.at_a), w.frame(b.at_b)
        axis = fa[:, :, 2]
        if turns:
            # counted through turns, from the angle between both x at the start
            x = fb[0, :, 0]
            start = np.arctan2(x @ fa[0, :, 1], x @ fa[0, :, 0])
            before = str(rig.base) if k == 0 else bodies[k - 1].part
            value = start + w.turned(b.part, before, axis)
        else:
            held = w.document.joints[b.joint]
            value = ((p - o) * axis).sum(axis=1) - size(held.offset)
        whole = value[-1] - value[0]
        rate = np.gradient(value, w.times) if abs(whole) > 1e-6 else w.rates(value)
        out: list[str] = []
        v, range_ = w.e.verdicts[far], float(np.ptp(value))
        if v.value is None or not -1e-7 <= v.value - range_ <= 1e-4 * range_:
            out.append(f"travel is {v.value}, the witness has {range_}: {v.words}")
        out += [f"travel holds: {v.words}"] * bool(v.holds and v.limit is not None and range_ * (1 + 1e-4) < v.limit)
        v = w.e.verdicts[there]
        off = np.abs((value - (wanted if turns else wanted * 0.02))[span[0] : span[1] + 1])
        if v.value is None or abs(v.value - off.max()) > 1e-3 * (1 + off.max()):
            out.append(f"wanted_motion is {v.value}, the witness has {off.max()}: {v.words}")
        if fast:
            out += _judged(w, fast, np.abs(rate), sampled=1e-3)
        v = w.e.verdicts[back]
        ratio = _ratio(rate[:-1]) if abs(whole) < 1e-6 else None
        if (ratio is None) != (v.value is None) or (
            ratio is not None and v.value is not None and abs(v.value / ratio - 1) > 0.02
        ):
            out.append(f"time_ratio is {v.value}, the witness has {ratio}: {v.words}")
        y = w.frame(at)[0][:, "xyz".index(along)]
        for of, key in limits.items():
            v = w.e.verdicts[key]
            values = {"value": y, "rate": w.rates(y), "acceleration": w.rates(y, 2)}[of]
            curve = evaluated_curve(w.e, "where")
            x_ = curve.extremes(of)  # type: ignore[union-attr]
            room = SAMPLED * float(np.ptp(values)) + 1e-7 * {"value": 1, "rate": 10, "acceleration": 100}[of]
            for name, mine, theirs, missed in (
                ("greatest", values.max(), x_.high, x_.high_missed),
                ("least", -values.min(), -x_.low, x_.low_missed),
            ):
                if not -missed - room * 2e-2 <= theirs - mine <= missed + room:
                    out.append(f"{name} {of} is {theirs:.9g} ± {missed:.2g}, the witness has {mine:.9g}")
            if v.holds is not None:
                held_ = w.document.requirements[key]
                low, high = (
                    (-_plain(t) if t.startswith("-") else _plain(t)) if t else None
                    for t in (held_.at_least, held_.at_most)
                )  # type: ignore[attr-defined]
                truly = (low is None or values.min() >= low - room * 2e-2) and (
                    high is None or values.max() <= high + room * 2e-2
                )
                out += [f"{of} holds: {v.words}"] * bool(v.holds and not truly)
        return out

    return rig.case(look)


def _plain(text: str) -> float:
    number, unit = text.lstrip("-").split()
    return float(number) * {"mm": 1e-3, "mm/s": 1e-3, "m/s^2": 1.0}[unit]


def _ratio(rate: Array) -> float | None:
    """Time of all slow strokes over that of the fast ones, from a rate at even moments; None where it never turns back."""
    forth = float((rate > 0).mean())
    changes = int((np.diff(np.sign(np.append(rate, rate[0]))) != 0).sum())
    if not 0 < forth < 1 or changes % 2:
        return None
    return max(forth, 1 - forth) / min(forth, 1 - forth)


KINDS = ("force", "torque", "spring", "leaf_spring", "torsion_spring", "spiral_spring")
CASES: dict[str, Callable[[Rig], Case]] = {k: (lambda rig, k=k: chain(rig, k)) for k in KINDS} | {"moves": moves}  # type: ignore[misc]
PAIRS = KINDS
REQUIREMENTS = (
    "drive_effort", "joint_force", "pin_shear", "pin_bending", "bearing_pressure", "shaking_force", "shaking_moment", "spring_strength",
    "travel", "turning_speed", "time_ratio", "wanted_motion", "curve_limit",
)  # fmt: skip
