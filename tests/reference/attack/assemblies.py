"""Random assemblies over all elements, joints and relations: origins, units, mirrors, places beside datums and repeats at random.

The witness takes what the page is given: where each datum is drawn in its part, and where the parts stand at each frame. From
these alone, by matrices of its own, it asks whether every joint and relation holds, whether drives stand where they should, how
long springs are, where points go and how far they are apart. A kind that has neither a witness here nor a line in `NOT_YET` fails
a test.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from functools import cache
from math import pi
from typing import Any

import numpy as np
from scipy.spatial.transform import Rotation

from uhrwerk import At, Draft, Evaluator, Refused, curves
from uhrwerk.core import elements
from uhrwerk.core.assembly import NotSolvable
from uhrwerk.core.checks import Evaluation, springs
from uhrwerk.core.curves import NotMeasured
from uhrwerk.core.elements import ELEMENTS
from uhrwerk.core.outlines import Circle, Rectangle
from uhrwerk.core.picture.scene import datum_data
from uhrwerk.core.steps import AtPoints, BuildStep, Extrude, Hole, Spot

#: elements that are nothing by themselves: tried as own parts instead
WITHOUT_BODY = {"blank", "like", "received"}
JOINTS = ("rigid", "revolute", "prismatic", "cylindrical", "screw", "planar", "spherical", "universal")
RELATIONS = ("flush", "concentric", "parallel", "perpendicular", "distance", "angle")
#: kinds that have no witness here: pairs and requirements are held by files of their own in tests/reference
NOT_YET = {
    "relation": {"tangent", "symmetric"},
    "pair": {"belt", "bevel", "cam", "coupling", "gear", "geneva", "helical", "leaf_spring", "push", "rack", "screw_nut", "slot", "spiral_spring", "torque_load", "torsion_spring", "worm"},
}  # fmt: skip
PAIRS = ("spring",)
#: m and rad: a pose that is off by more is wrong
OFF = 1e-9


@dataclass
class Tally:
    """How many mechanisms were tried, by what they held; what could not be assembled; and what was wrong, in words."""

    kinds: Counter[str] = field(default_factory=Counter)
    tried: int = 0
    skipped: int = 0
    wrong: list[str] = field(default_factory=list)


@cache
def _shapes() -> dict[str, dict[str, BuildStep]]:
    """Parts of one's own whose outlines lie beside their origins, one of them in inches."""

    def steps(*some: BuildStep) -> dict[str, BuildStep]:
        return {s.name.lower(): s for s in some}

    eye = AtPoints(spots={"a": Spot(x="5 mm", y="-4 mm")})
    return {
        "block": steps(
            Extrude(name="Block", outline=Rectangle(length="40 mm", width="20 mm", x="12 mm", y="-7 mm"), length="15 mm"),
            Hole(name="Bore", plane="block.end", diameter="8 mm", at=eye),
        ),
        "stem": steps(
            Extrude(name="Stem", plane="yz", offset="7 mm", outline=Circle(diameter="9 mm", x="4 mm", y="11 mm"), length="33 mm"),
            Extrude(name="Flag", plane="stem.end", outline=Rectangle(length="20 mm", width="14 mm", x="2 mm", y="9 mm"), length="4 mm"),
        ),
        "bar": steps(Extrude(name="Bar", plane="xz", offset="0.3 in", outline=Rectangle(length="2 in", width="0.75 in", x="0.4 in", y="1 in"), length="0.5 in")),
    }  # fmt: skip


def drawn(seed: int) -> tuple[Draft, Counter[str]] | None:
    """A random mechanism, and the kinds in it; None where a part of it cannot be."""
    r = np.random.default_rng(seed)
    d, kinds = Draft(f"Attack {seed}", units={"length": str(r.choice(["mm", "in", "cm"]))}), Counter[str]()
    bodies = [k for k in ELEMENTS if k not in WITHOUT_BODY]
    parts: list[Any] = []
    for k in range(int(r.integers(2, 5))):
        start = (
            {}
            if not k
            else {a: f"{r.uniform(-80, 80):.3f} mm" for a in "xyz"}
            | {f"turn_{a}": f"{r.uniform(-90, 90):.2f} deg" for a in "xyz"}
        )
        if r.random() < 0.3:
            name = str(r.choice(list(_shapes())))
            parts.append(d.own_part(f"Part {k}", "steel", _shapes()[name], **start))
            kinds[f"own part {name}"] += 1
        else:
            kind = str(r.choice(bodies))
            parts.append(d.part(f"Part {k}", "steel", ELEMENTS[kind](), **start))
            kinds[f"element {kind}"] += 1
        if k and r.random() < 0.2:
            d.set(f"placed.{parts[-1]}.mirrored", True)
            kinds["mirrored"] += 1
    m = elements_of(d)
    for k in range(1, len(parts)):
        a, b = parts[int(r.integers(0, k))], parts[k]
        _join(d, r, m, a, b, k, kinds)
    if r.random() < 0.2:
        flat = [n for n, x in m[parts[0]].items() if x.kind == "plane"]
        d.mirror("Image", [parts[-1]], parts[0][str(r.choice(flat))])
        kinds["repeat mirror"] += 1
    a, b = parts[0], parts[-1]
    one, other = (_beside(r, p, m, None) for p in (a, b))
    d.follow(curves.PointCurve(name="where", at=other, along=str(r.choice(["x", "y", "z"]))))
    d.follow(curves.DistanceCurve(name="far", a=one, b=other))
    flat = [[n for n, x in m[p].items() if x.kind in ("axis", "plane")] for p in (a, b)]
    if all(flat):
        d.spring(
            "Spring", a[str(r.choice(flat[0]))], b[str(r.choice(flat[1]))], free_length="120 mm", ends="both_pivoting"
        )
        kinds["pair spring"] += 1
    return d, kinds


def elements_of(d: Draft) -> dict[str, dict[str, Any]]:
    from uhrwerk.core.assembly import compile

    return compile(d.document).datums


def _beside(r: np.random.Generator, part: Any, m: dict[str, dict[str, Any]], kind: str | None) -> At:
    names = [n for n, x in m[part].items() if kind in (None, x.kind)] or list(m[part])
    way = {a: f"{r.uniform(-9, 9):.3f} mm" for a in "xyz" if r.random() < 0.25}
    return At(placed=str(part), datum=str(r.choice(names)), **way)


def _join(
    d: Draft, r: np.random.Generator, m: dict[str, dict[str, Any]], a: Any, b: Any, k: int, kinds: Counter[str]
) -> None:
    if r.random() < 0.25:
        kind = str(r.choice(RELATIONS))
        want = "axis" if kind == "concentric" else "plane"
        side = (
            {"side": str(r.choice(["same", "opposite"]))}
            if kind in ("flush", "concentric", "parallel", "distance")
            else {}
        )
        size = {"offset": f"{r.uniform(-9, 9):.2f} mm"} if kind == "flush" else {"distance": f"{r.uniform(1, 40):.2f} mm"} if kind == "distance" else {"angle": f"{r.uniform(10, 170):.1f} deg"} if kind == "angle" else {}  # fmt: skip
        ends = [_beside(r, p, m, want) for p in (a, b)]
        if all(m[x.placed][x.datum].kind == want for x in ends):
            getattr(d, kind)(f"Relation {k}", *ends, **side, **size)
            kinds[f"relation {kind}"] += 1
            return
    kind = str(r.choice(JOINTS))
    how: dict[str, Any] = {"offset": f"{r.uniform(-30, 30):.2f} mm"}
    if kind in ("rigid", "prismatic"):
        how["turn"] = f"{r.uniform(-180, 180):.1f} deg"
    if kind == "screw":
        how["lead"] = f"{r.uniform(1, 5):.2f} mm"
    if kind not in ("spherical", "universal") and r.random() < 0.5:
        how["flip"] = True
    j = getattr(d, kind)(f"Joint {k}", *(_beside(r, p, m, None) for p in (a, b)), **how)
    kinds[f"joint {kind}"] += 1
    if kind in ("revolute", "cylindrical", "screw"):
        d.turn(f"Turn {k}", j, f"{r.uniform(10, 90):.1f} rpm", start=f"{r.uniform(-20, 20):.1f} deg")
    if kind in ("prismatic", "cylindrical"):
        d.slide(f"Slide {k}", j, f"{r.uniform(5, 30):.1f} mm/s", start=f"{r.uniform(-5, 5):.1f} mm")


class Witness:
    """What an evaluation gives to the page, looked at with matrices of its own."""

    def __init__(self, e: Evaluation) -> None:
        assert e.mechanism is not None
        assert e.motion is not None
        self.e, self.times = e, e.motion.times
        self.poses = {i: e.mechanism.part_pose(i, e.motion.pose) for i in e.document.placed}
        self.shown = {
            i: {n: datum_data(e.document, n, x) for n, x in named.items()} for i, named in e.mechanism.datums.items()
        }

    def length(self, text: str) -> float:
        """The formulas of this file are plain numbers with a unit, or the negative of one."""
        sign, text = (-1.0, text[2:-1]) if text.startswith("-(") else (1.0, text)
        number, unit = text.split()
        return (
            sign * float(number) * {"mm": 1e-3, "in": 25.4e-3, "deg": pi / 180, "rpm": 2 * pi / 60, "mm/s": 1e-3}[unit]
        )

    def frame(self, at: At) -> tuple[np.ndarray, np.ndarray]:
        """Origin (F, 3) and axes (F, 3, 3), in columns, of an end in the world at every frame."""
        datum, pose = self.shown[at.placed][at.datum], self.poses[at.placed]
        turn = Rotation.from_quat(pose[:, 3:], scalar_first=True).as_matrix()
        x, z = np.array(datum["x"]), np.array(datum["z"])
        axes = np.stack([x, np.cross(z, x), z], axis=1)
        local = np.array(datum["origin"]) + axes @ [self.length(at.x), self.length(at.y), self.length(at.z)]
        return pose[:, :3] + turn @ local, turn @ axes

    def joint(self, item: Any) -> float:
        """By how much a joint is not held, m and rad, at worst."""
        (o, a), (p, b) = self.frame(item.a), self.frame(item.b)
        o = o + self.length(item.offset) * a[:, :, 2]
        if item.flip:
            b = b * np.array([1.0, -1.0, -1.0])
        off, (xa, ya, za), zb = p - o, (a[:, :, k] for k in range(3)), b[:, :, 2]
        along = (off * za).sum(axis=1)
        across = np.linalg.norm(off - along[:, None] * za, axis=1)
        tilt = np.linalg.norm(np.cross(za, zb), axis=1) + (1 - (za * zb).sum(axis=1) > 1)
        turn = np.arctan2((ya * b[:, :, 0]).sum(axis=1), (xa * b[:, :, 0]).sum(axis=1))
        meets, kind = np.abs(along) + across, item.kind
        if kind in ("rigid", "prismatic"):
            spin = np.abs(np.angle(np.exp(1j * (turn - self.length(item.turn)))))
            return float(np.max(tilt + spin + (meets if kind == "rigid" else across)))
        if kind == "screw":
            lead = self.length(item.lead)
            rest = np.abs(np.angle(np.exp(2j * pi * (along / lead - turn / (2 * pi))))) * abs(lead) / (2 * pi)
            return float(np.max(across + tilt + rest))
        square = np.abs((xa * b[:, :, 1]).sum(axis=1))
        found = {
            "revolute": meets + tilt,
            "cylindrical": across + tilt,
            "planar": np.abs(along) + tilt,
            "spherical": meets,
            "universal": meets + square,
        }
        return float(np.max(found[kind]))

    def relation(self, item: Any) -> float:
        (o, a), (p, b) = self.frame(item.a), self.frame(item.b)
        za, zb, off = a[:, :, 2], b[:, :, 2], p - o
        zb = -zb if getattr(item, "side", "same") == "opposite" else zb
        tilt = np.linalg.norm(np.cross(za, zb), axis=1) + ((za * zb).sum(axis=1) < 0)
        along = (off * za).sum(axis=1)
        lean = np.arctan2(np.linalg.norm(np.cross(za, b[:, :, 2]), axis=1), (za * b[:, :, 2]).sum(axis=1))
        if item.kind == "flush":
            return float(np.max(tilt + np.abs(along - self.length(item.offset))))
        if item.kind == "distance":
            return float(np.max(tilt + np.abs(along - self.length(item.distance))))
        if item.kind == "concentric":
            return float(np.max(tilt + np.linalg.norm(off - along[:, None] * za, axis=1)))
        if item.kind == "angle":
            return float(np.max(np.abs(lean - self.length(item.angle))))
        return float(np.max(tilt if item.kind == "parallel" else np.abs((za * b[:, :, 2]).sum(axis=1))))

    def drive(self, item: Any) -> float:
        """By how much a driven joint does not stand where its speed says."""
        held = self.e.document.joints[item.joint]
        (o, a), (p, b) = self.frame(held.a), self.frame(held.b)
        o = o + self.length(held.offset) * a[:, :, 2]
        wanted = self.length(item.start) + self.length(item.speed) * self.times
        if item.kind == "sliding":
            return float(np.abs(((p - o) * a[:, :, 2]).sum(axis=1) - wanted).max())
        x = b[:, :, 0]
        turn = np.arctan2((a[:, :, 1] * x).sum(axis=1), (a[:, :, 0] * x).sum(axis=1))
        return float(np.abs(np.angle(np.exp(1j * (turn - wanted)))).max())


def attacked(seeds: range, evaluator: Evaluator) -> Tally:
    """Mechanisms of these seeds, all that was found wrong in words."""
    out = Tally()
    for seed in seeds:
        try:
            made = drawn(seed)
            if made is None:
                continue
            d, kinds = made
            e = evaluator.moved(d.document)
        except (Refused, NotSolvable):
            out.skipped += 1
            continue
        if e.motion is None or e.motion.stop is not None or e.problems:
            out.skipped += 1
            continue
        out.tried += 1
        out.kinds += kinds
        _looked(Witness(e), e, f"seed {seed}", out)
    return out


def _looked(w: Witness, e: Evaluation, where: str, out: Tally) -> None:
    document = e.document
    for i, item in document.joints.items():
        if (off := w.joint(item)) > OFF * 4:
            out.wrong.append(f"{where}: {item.kind} joint {i} is off by {off:.3g}")
    for i, item in document.relations.items():
        if (off := w.relation(item)) > OFF * 4:
            out.wrong.append(f"{where}: {item.kind} {i} is off by {off:.3g}")
    for i, item in document.drivers.items():
        if document.joints[item.joint].kind != "screw" and (off := w.drive(item)) > OFF * 4:  # type: ignore[attr-defined]
            out.wrong.append(f"{where}: drive {i} is off by {off:.3g}")
    loose = e.mobility is not None and bool(e.mobility.loose)
    for i in ("where", "far"):
        found, curve = e.curve(i), document.curves[i]
        if isinstance(found, NotMeasured) or loose:
            continue
        there = w.frame(curve.at)[0] if i == "where" else w.frame(curve.b)[0] - w.frame(curve.a)[0]  # type: ignore[attr-defined]
        y = there[:, "xyz".index(curve.along)] if i == "where" else np.linalg.norm(there, axis=1)  # type: ignore[attr-defined]
        if np.abs(found.series["value"] - y).max() > OFF:
            out.wrong.append(f"{where}: curve {i} is off by {np.abs(found.series['value'] - y).max():.3g}")
        x = found.extremes("value")
        if x.high + x.high_missed < y.max() - OFF or x.low - x.low_missed > y.min() + OFF:
            out.wrong.append(f"{where}: the extremes of {i} are passed by {max(y.max() - x.high, x.low - y.min()):.3g}")
    if "spring" in document.pairs:
        pair = document.pairs["spring"]
        run = springs.run(e, "spring", e.motion.times)  # type: ignore[union-attr]
        one, other = (w.frame(x)[0] for x in pair.at)
        if run is not None and np.abs(run.length - np.linalg.norm(other - one, axis=1)).max() > 1e-8:
            out.wrong.append(
                f"{where}: the spring's length is off by {np.abs(run.length - np.linalg.norm(other - one, axis=1)).max():.3g}"
            )


__all__ = ["JOINTS", "NOT_YET", "PAIRS", "RELATIONS", "WITHOUT_BODY", "attacked", "elements"]
