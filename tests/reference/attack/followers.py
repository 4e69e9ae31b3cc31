"""What follows a shape: Geneva wheels, pins in slots, cams with their followers, by the geometry of what is drawn.

Geneva wheel: tan b = sin a / (1 / sin(pi / n) - cos a) (Norton, Design of Machinery); laws of motion: VDI 2143. From memory.
"""

from __future__ import annotations

from collections.abc import Callable
from math import pi

import numpy as np

from tests.reference.attack.rig import Case, Rig
from tests.reference.attack.transmissions import add_pair, round_pin, turning_part, wrong_by
from tests.reference.attack.witness import Witness, wrapped
from uhrwerk import ArcLink, At, ContactKept, EccentricDisc, PressureAngle, SlottedLever, cams
from uhrwerk.core.elements import ELEMENTS
from uhrwerk.core.joints.geneva_pair import GenevaPair
from uhrwerk.core.laws.segment import SlideSegment

#: kg of a steel pin of 6 mm and 20 mm
STEEL_PIN = 7850 * pi * 0.003**2 * 0.02


def geneva(rig: Rig) -> Case:
    r, (top, (along, across, up)) = rig.r, rig.axes()
    slots, distance = int(r.integers(4, 9)), 0.05
    driver, wheel = (ELEMENTS[k](slots=slots, lock="12 mm", bore="4 mm") for k in ("geneva_driver", "geneva_wheel"))
    turn = r.uniform(-pi, pi)
    way = np.cos(turn) * along + np.sin(turn) * across
    a = turning_part(rig, "A", driver, top, up, driven=True, over=-0.0045)
    b = turning_part(rig, "B", wheel, top + distance * way, up)
    add_pair(rig, GenevaPair(name="Pair", a=str(a), b=str(b)))
    rig.cycle()

    def look(w: Witness) -> list[str]:
        z, pin = w.axis(rig.base, "block.end"), w.origin(a, "pin") - w.origin(a, "axis")
        line = w.origin(b, "axis") - w.origin(a, "axis")
        line = line - (line * z).sum(axis=1)[:, None] * z
        pin = pin - (pin * z).sum(axis=1)[:, None] * z
        angle = np.arctan2((np.cross(line, pin) * z).sum(axis=1), (line * pin).sum(axis=1))
        x = w.frame(At(placed=str(b), datum="axis"))[1][:, :, 0]
        wheel = np.arctan2((np.cross(-line, x) * z).sum(axis=1), (-line * x).sum(axis=1))
        # in a slot, the slot points at the pin; between, a gap of two slots points at the driver
        there = np.arctan2(-np.sin(angle), 1 / np.sin(pi / slots) - np.cos(angle))
        inside = np.abs(angle) < pi / 2 - pi / slots
        wanted = np.where(inside, there, pi / slots)
        return wrong_by("the wheel", wrapped(wheel - wanted, 2 * pi / slots), 1e-7)

    return rig.case(look, solids=False)


def slot(rig: Rig) -> Case:
    """A crank's pin in a slotted lever, or a pin in an arc that is fixed to nothing else."""
    r, (top, (along, across, up)) = rig.r, rig.axes()
    reach, apart = float(r.uniform(0.01, 0.03)), 0.08
    disc = EccentricDisc(diameter="80 mm", eccentricity=rig.length(reach))
    way = along if r.random() < 0.5 else -across
    a = turning_part(rig, "A", disc, top + apart * way, up, driven=True, over=-0.008)
    rig.kinds["element slotted_lever"] += 1
    lever = rig.d.part("B", "steel", SlottedLever(slot_length="70 mm"), z="50 mm")
    rig.mirror(lever)
    rig.stand(lever, top, way, up)
    rig.d.revolute("B turns", rig.at(top, up), lever["pivot"], offset="8 mm")
    rig.d.slot_pair("pair", a["crank_pin"], lever["slot"])
    rig.kinds["pair slot"] += 1
    rig.cycle()

    def look(w: Witness) -> list[str]:
        at, axes = w.frame(At(placed=str(lever), datum="slot"))
        off = w.origin(a, "crank_pin") - at
        here = np.linalg.norm(
            (w.origin(a, "crank_pin") - w.origin(lever, "pivot"))
            - ((w.origin(a, "crank_pin") - w.origin(lever, "pivot")) * axes[:, :, 2]).sum(axis=1)[:, None]
            * axes[:, :, 2],
            axis=1,
        )
        angle = w.turned(a, rig.base, w.axis(rig.base, "block.end"))
        pin = w.origin(a, "crank_pin")[0] - w.origin(a, "axis")[0]
        line = w.origin(a, "axis")[0] - w.origin(lever, "pivot")[0]
        z = w.axis(rig.base, "block.end")[0]
        line = line - (line @ z) * z
        start = np.arctan2(np.cross(line, pin) @ z, line @ pin)
        far = np.hypot(apart + reach * np.cos(start + angle), reach * np.sin(start + angle))
        return wrong_by("the pin across the slot", (off * axes[:, :, 1]).sum(axis=1), 1e-9) + wrong_by(
            "the pin along it", here - far, 1e-8
        )

    return rig.case(look, solids=False)


Law = tuple[Callable[[np.ndarray], np.ndarray], Callable[[np.ndarray], np.ndarray], Callable[[np.ndarray], np.ndarray]]
#: laws of motion over a unit step, with their first and second derivatives: VDI 2143
LAWS: dict[str, Law] = {
    "poly345": (lambda u: 10 * u**3 - 15 * u**4 + 6 * u**5, lambda u: 30 * u**2 - 60 * u**3 + 30 * u**4, lambda u: 60 * u - 180 * u**2 + 120 * u**3),
    "cycloidal": (lambda u: u - np.sin(2 * pi * u) / (2 * pi), lambda u: 1 - np.cos(2 * pi * u), lambda u: 2 * pi * np.sin(2 * pi * u)),
    "harmonic": (lambda u: (1 - np.cos(pi * u)) / 2, lambda u: pi / 2 * np.sin(pi * u), lambda u: pi**2 / 2 * np.cos(pi * u)),
}  # fmt: skip


def lift_of(angle: np.ndarray, h: float, spans: tuple[float, float, float], law: str, order: int = 0) -> np.ndarray:
    """Rise over the first span, rest over the second, back over the third; rest until the turn is full. rad, m; its derivatives by the angle."""
    a = np.mod(angle, 2 * pi)
    out, stay, back = spans
    parts = [(a / out, out, 1.0), ((a - out - stay) / back, back, -1.0)]
    one = LAWS[law][order]
    if not order:
        return h * sum(s * one(np.clip(u, 0, 1)) for u, _, s in parts)
    return h * sum(s * np.where((u > 0) & (u < 1), one(np.clip(u, 0, 1)), 0.0) / span**order for u, span, s in parts)


def cam(rig: Rig) -> Case:
    """A plate cam with a roller that slides, beside its axis or not: programme, and pressure angle by the follower's own speed."""
    r, (top, (along, across, up)) = rig.r, rig.axes()
    h, law = float(r.uniform(0.004, 0.012)), str(r.choice(["poly345", "cycloidal", "harmonic"]))
    spans = (
        float(np.radians(r.integers(80, 140))),
        float(np.radians(r.integers(10, 60))),
        float(np.radians(r.integers(80, 140))),
    )
    aside, base, roller = float(r.uniform(-0.006, 0.006)), 0.025, 0.005
    names = ("out", "stay", "back")
    lift = {
        n: SlideSegment(to="0 mm" if n == "back" else rig.length(h), over=rig.angle(s), law={"kind": law})
        for n, s in zip(names, spans, strict=True)
    }  # type: ignore[arg-type]
    shape = cams.SlidingRoller(roller=rig.length(2 * roller), offset=rig.length(aside), lift=lift)
    disc = cams.PlateCam(base_diameter=rig.length(2 * base), outline=shape)
    a = turning_part(rig, "A", disc, top, up, driven=True, over=0.002, times=8)
    rig.stand(a, top + 0.002 * up, along, up)
    slider, at = round_pin(rig, "B")
    roll = rig.drawn(slider)[at.datum]
    ways = [np.array(v["z"]) for v in rig.drawn(slider).values() if abs(np.array(v["z"]) @ np.array(roll["z"])) < 1e-9]
    way, z = ways[int(r.integers(len(ways)))], np.array(roll["z"])
    guide = rig.at(np.array(roll["origin"]), way, slider)
    ground = rig.at(top + 0.004 * up + 0.035 * along + aside * across, along)
    turn = rig.turn(ground, guide, up, z)
    # both stand near their places: a roller on the cam's other side holds all that is asked as well
    stands = np.stack([along, np.cross(up, along), up], axis=1) @ np.stack([way, np.cross(z, way), z])
    rig.stand(slider, top + 0.05 * along - stands @ np.array(roll["origin"]), stands[:, 0], stands[:, 2])
    rig.d.prismatic("Slides", ground, guide, turn=rig.angle(turn))
    rig.d.cam_pair("pair", a["axis"], at, roller_radius=rig.length(roller))
    rig.kinds["pair cam"] += 1
    pushed = float(r.uniform(0.05, 5))
    rig.d.push("Push", rig.at(top, -along), at, force=f"{pushed!r} N")
    kept = rig.require(ContactKept(name="Kept", pair="pair", at_least="0.2 N"))
    most = rig.require(PressureAngle(name="Aside", pair="pair", at_most="25 deg"))
    speed = abs(float(rig.d.document.drivers["motor"].speed.split()[0]))  # type: ignore[attr-defined]
    rig.cycle(duration=f"{60 / speed!r} s", frames=720)

    def look(w: Witness) -> list[str]:
        axis, centre = w.origin(a, "axis"), w.frame(at)[0]
        slide, zs = w.axis(rig.base, "block.side_2"), w.axis(a, "axis")
        x = w.frame(At(placed=str(a), datum="axis"))[1][:, :, 0]
        theta = -np.arctan2((np.cross(slide, x) * zs).sum(axis=1), (slide * x).sum(axis=1))
        off, foot = ((centre - axis) * slide).sum(axis=1), np.sqrt((base + roller) ** 2 - aside**2)
        # by its definition: the cam's outline is such that, turned to the left by an angle, it has lifted its follower so
        out = []
        best = min(float(np.abs(off - foot - lift_of(s * theta, h, spans, law)).max()) for s in (-1, 1))
        out += wrong_by("the lift", best, 2e-6)
        rate = w.rates(off)
        turning = np.diff(w.turned(a, rig.base, zs))
        speed = float(turning.mean()) / (w.times[1] - w.times[0])
        # the contact's normal stands square to the roller centre's path over the cam
        relative = rate[:, None] * slide - np.cross(speed * zs, centre - axis)
        flat = relative - (relative * zs).sum(axis=1)[:, None] * zs
        normal = np.cross(zs, flat) / np.linalg.norm(flat, axis=1)[:, None]
        angle = np.arccos(np.clip(np.abs((normal * slide).sum(axis=1)), 0, 1))
        v = w.e.verdicts[most]
        if v.value is None or abs(v.value - angle.max()) > 3e-4:
            out.append(f"the pressure angle {v.value} is not {angle.max()}: {v.words}")
        out += ["the pressure angle holds"] * bool(v.holds and angle.max() > np.radians(25) + 1e-5)
        # along the slide: what its inertia needs beyond what pushes it comes from the cam, askew by the pressure angle
        dense = np.linspace(0, 2 * pi, 40_001)
        rise, steep, bent = (lift_of(dense, h, spans, law, k) for k in range(3))
        lean = [np.abs(np.arctan2(steep - e * aside, rise + foot)) for e in (-1, 1)]
        lean_ = min(lean, key=lambda x: abs(float(x.max()) - float(angle.max())))
        best = float(((STEEL_PIN * bent * speed**2 + pushed) / np.cos(lean_)).min())
        v = w.e.verdicts[kept]
        if v.value is None or abs(v.value - best) > v.error + 1e-4 * (abs(best) + pushed):
            out.append(f"the contact is {v.value} ± {v.error}, the witness has {best}: {v.words}")
        return out + [f"the contact is kept: {v.words}; the witness has {best}"] * bool(v.holds and best < 0.2 - 1e-4)

    return rig.case(look)


def arc_slot(rig: Rig) -> Case:
    """A pin on an arm in an arc slot: at its radius, wherever it is driven to."""
    top, (along, across, up) = rig.axes()
    rig.kinds["element arc_link"] += 1
    link = rig.d.part("A", "steel", ArcLink(radius="60 mm", span="120 deg", slot="80 deg"), z="50 mm")
    rig.mirror(link)
    rig.stand(link, top, along, up)
    rig.d.rigid("A stands", rig.at(top, up), link["origin"])
    rig.d.set(
        "joints.a_stands.turn",
        rig.angle(
            rig.turn(rig.d.document.joints["a_stands"].a, link["origin"], np.array(along), np.array([1.0, 0, 0]))
        ),
    )
    pin, at_pin = round_pin(rig, "B")
    rig.stand(pin, top + 0.06 * (np.cos(0.4) * along + np.sin(0.4) * across), along, up)
    rig.d.slot_pair("pair", at_pin, link["slot"])
    rig.d.planar("Flat", rig.at(top, up), at_pin)
    rig.kinds["pair slot"] += 1
    rig.cycle()

    def look(w: Witness) -> list[str]:
        axes = w.frame(At(placed=str(link), datum="slot"))[1]
        off = w.frame(at_pin)[0] - w.origin(link, "origin")
        off = off - (off * axes[:, :, 2]).sum(axis=1)[:, None] * axes[:, :, 2]
        return wrong_by("the pin's radius", np.linalg.norm(off, axis=1) - 0.06, 1e-9)

    return rig.case(look, solids=False)


CASES: dict[str, Callable[[Rig], Case]] = {"geneva": geneva, "slot": slot, "arc_slot": arc_slot, "cam": cam}
#: what these cases try
PAIRS = ("geneva", "slot", "cam")
REQUIREMENTS = ("pressure_angle", "contact_kept")
