"""Random assemblies over all elements, joints and relations: origins, units, mirrors, places beside datums and repeats at random.

The witness takes what the page is given: where each datum is drawn in its part, and where the parts stand at each frame. From
these alone, by matrices of its own, it asks whether every joint and relation holds, whether drives stand where they should, how
long springs are, where points go and how far they are apart. A kind that has neither a witness here nor a line in `NOT_YET` fails
a test.
"""

from __future__ import annotations

from collections import Counter
from functools import cache
from math import pi
from typing import Any

import numpy as np
from scipy.spatial.transform import Rotation

from tests.context import CONTEXT
from tests.reference.attack.rig import Case
from tests.reference.attack.witness import Witness, size
from uhrwerk import At, Draft, curves
from uhrwerk.core.assembly import compile
from uhrwerk.core.curves import NotMeasured
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.elements import ELEMENTS
from uhrwerk.core.forces import springs
from uhrwerk.core.outlines import Circle, Rectangle
from uhrwerk.core.steps import AtPoints, BuildStep, Extrude, Hole, Spot

#: elements that are nothing by themselves: tried as own parts instead
WITHOUT_BODY = {"blank", "like", "imported"}
JOINTS = ("rigid", "revolute", "prismatic", "cylindrical", "screw", "planar", "spherical", "universal", "held")
RELATIONS = ("flush", "concentric", "parallel", "perpendicular", "distance", "angle", "tangent", "symmetric")
PAIRS = ("spring",)
#: m and rad: a pose that is off by more is wrong
OFF = 1e-9


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


def assembly(seed: int) -> Case:
    """A random mechanism of elements and own parts, held by joints and relations of any kind."""
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
    m = compile(d.document, CONTEXT).datums
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
    if any(
        kinds[f"joint {kind}"] for kind in ("planar", "spherical", "universal")
    ):  # what nothing drives is followed in small steps
        d.set("cycle.duration", "0.05 s")
    return Case(d.document, kinds, looked, solids=False)


def _beside(r: np.random.Generator, part: Any, m: dict[str, dict[str, Any]], kind: str | None) -> At:
    names = [n for n, x in m[part].items() if kind in (None, x.kind)] or list(m[part])
    way = {a: f"{r.uniform(-9, 9):.3f} mm" for a in "xyz" if r.random() < 0.25}
    return At(placed=str(part), datum=str(r.choice(names)), **way)


def _join(
    d: Draft, r: np.random.Generator, m: dict[str, dict[str, Any]], a: Any, b: Any, k: int, kinds: Counter[str]
) -> None:
    if r.random() < 0.25 and _relate(d, r, m, a, b, k, kinds):
        return
    kind = str(r.choice(JOINTS))
    how: dict[str, Any] = {"offset": f"{r.uniform(-30, 30):.2f} mm"}
    if kind in ("rigid", "prismatic"):
        how["turn"] = f"{r.uniform(-180, 180):.1f} deg"
    if kind == "held":
        how |= {i: f"{r.uniform(-30, 30):.2f} mm" for i in "xy"}
        how |= {f"turn_{i}": f"{r.uniform(-180, 180):.1f} deg" for i in "xyz"}
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


def _relate(
    d: Draft, r: np.random.Generator, m: dict[str, dict[str, Any]], a: Any, b: Any, k: int, kinds: Counter[str]
) -> bool:
    """Whether a relation of a kind chosen at random could be added."""
    kind = str(r.choice(RELATIONS))
    wanted = {"concentric": ("axis", "axis"), "tangent": ("axis", str(r.choice(["axis", "plane"])))}.get(
        kind, ("plane", "plane")
    )
    how: dict[str, Any] = {}
    if kind in ("flush", "concentric", "parallel", "distance"):
        how["side"] = str(r.choice(["same", "opposite"]))
    if kind == "flush":
        how["offset"] = f"{r.uniform(-9, 9):.2f} mm"
    elif kind == "distance":
        how["distance"] = f"{r.uniform(1, 40):.2f} mm"
    elif kind == "angle":
        how["angle"] = f"{r.uniform(10, 170):.1f} deg"
    elif kind == "tangent":
        how["side"] = str(r.choice(["outside", "inside"]))
    elif kind == "symmetric":
        flat = [n for n, x in m[a].items() if x.kind == "plane"]
        how["about"] = a[str(r.choice(flat))]
    ends = [_beside(r, p, m, want) for p, want in zip((a, b), wanted, strict=True)]
    if any(m[x.placed][x.datum].kind != want for x, want in zip(ends, wanted, strict=True)):
        return False
    if kind == "tangent" and any(m[x.placed][x.datum].kind == "axis" and not m[x.placed][x.datum].radius for x in ends):
        return False
    getattr(d, kind)(f"Relation {k}", *ends, **how)
    kinds[f"relation {kind}"] += 1
    return True


def joint(w: Witness, item: Any) -> float:
    """By how much a joint is not held, m and rad, at worst."""
    (o, a), (p, b) = w.frame(item.a), w.frame(item.b)
    o = o + size(item.offset) * a[:, :, 2]
    if item.flip:
        b = b * np.array([1.0, -1.0, -1.0])
    off, (xa, ya, za), zb = p - o, (a[:, :, k] for k in range(3)), b[:, :, 2]
    along = (off * za).sum(axis=1)
    across = np.linalg.norm(off - along[:, None] * za, axis=1)
    tilt = np.linalg.norm(np.cross(za, zb), axis=1) + (1 - (za * zb).sum(axis=1) > 1)
    turn = np.arctan2((ya * b[:, :, 0]).sum(axis=1), (xa * b[:, :, 0]).sum(axis=1))
    meets, kind = np.abs(along) + across, item.kind
    if kind == "held":  # turned about the x, then the y, then the z of a
        turned = a @ Rotation.from_euler("xyz", [size(getattr(item, f"turn_{i}")) for i in "xyz"]).as_matrix()
        there = o + size(item.x) * xa + size(item.y) * ya
        return float(np.max(np.linalg.norm(p - there, axis=1) + np.abs(turned - b).max(axis=(1, 2))))
    if kind in ("rigid", "prismatic"):
        spin = np.abs(np.angle(np.exp(1j * (turn - size(item.turn)))))
        return float(np.max(tilt + spin + (meets if kind == "rigid" else across)))
    if kind == "screw":
        lead = size(item.lead)
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


def relation(w: Witness, item: Any) -> float:
    (o, a), (p, b) = w.frame(item.a), w.frame(item.b)
    za, zb, off = a[:, :, 2], b[:, :, 2], p - o
    zb = -zb if getattr(item, "side", "same") == "opposite" else zb
    tilt = np.linalg.norm(np.cross(za, zb), axis=1) + ((za * zb).sum(axis=1) < 0)
    along = (off * za).sum(axis=1)
    lean = np.arctan2(np.linalg.norm(np.cross(za, b[:, :, 2]), axis=1), (za * b[:, :, 2]).sum(axis=1))
    if item.kind == "flush":
        return float(np.max(tilt + np.abs(along - size(item.offset))))
    if item.kind == "distance":
        return float(np.max(tilt + np.abs(along - size(item.distance))))
    if item.kind == "concentric":
        return float(np.max(tilt + np.linalg.norm(off - along[:, None] * za, axis=1)))
    if item.kind == "tangent":
        return _tangent(w, item, tilt=np.linalg.norm(np.cross(za, zb), axis=1))
    if item.kind == "symmetric":  # the image of a's frame behind the plane
        (foot, ways), turn = w.frame(item.about), -1.0 if item.side == "opposite" else 1.0
        n = ways[:, :, 2]
        image = o - 2 * ((o - foot) * n).sum(axis=1)[:, None] * n
        way = za - 2 * (za * n).sum(axis=1)[:, None] * n
        lean_ = np.linalg.norm(np.cross(way, b[:, :, 2]), axis=1) + ((way * b[:, :, 2]).sum(axis=1) * turn < 0)
        return float(np.max(lean_ + np.abs(((image - p) * b[:, :, 2]).sum(axis=1))))
    if item.kind == "angle":
        return float(np.max(np.abs(lean - size(item.angle))))
    return float(np.max(tilt if item.kind == "parallel" else np.abs((za * b[:, :, 2]).sum(axis=1))))


def _tangent(w: Witness, item: Any, tilt: np.ndarray) -> float:
    """A cylinder on a face or on a parallel cylinder, by the radii that are shown."""
    ends = [(at, w.shown[at.placed][at.datum]) for at in (item.a, item.b)]
    sign = 1.0 if item.side == "outside" else -1.0
    (o, a), (p, b) = (w.frame(at) for at, _ in ends)
    if ends[1][1]["kind"] == "plane":
        z = b[:, :, 2]
        square = np.abs((a[:, :, 2] * z).sum(axis=1))
        return float(np.max(square + np.abs(((o - p) * z).sum(axis=1) - sign * float(ends[0][1]["radius"]))))  # type: ignore[arg-type]
    one, other = (float(d["radius"]) for _, d in ends)  # type: ignore[arg-type]
    off = p - o
    across = np.linalg.norm(off - (off * a[:, :, 2]).sum(axis=1)[:, None] * a[:, :, 2], axis=1)
    return float(np.max(tilt + np.abs(across - abs(one + sign * other))))


def drive(w: Witness, item: Any) -> float:
    """By how much a driven joint does not stand where its speed says."""
    held = w.document.joints[item.joint]
    (o, a), (p, b) = w.frame(held.a), w.frame(held.b)
    o = o + size(held.offset) * a[:, :, 2]
    wanted = size(item.start) + size(item.speed) * w.times
    if item.kind == "sliding":
        return float(np.abs(((p - o) * a[:, :, 2]).sum(axis=1) - wanted).max())
    x = b[:, :, 0]
    turn = np.arctan2((a[:, :, 1] * x).sum(axis=1), (a[:, :, 0] * x).sum(axis=1))
    return float(np.abs(np.angle(np.exp(1j * (turn - wanted)))).max())


def looked(w: Witness) -> list[str]:
    """All that is wrong with it, in words."""
    document, e, out = w.document, w.e, list[str]()
    for i, item in document.joints.items():
        if (off := joint(w, item)) > OFF * 4:
            out.append(f"{item.kind} joint {i} is off by {off:.3g}")
    for i, item in document.relations.items():
        if (off := relation(w, item)) > OFF * 4:
            out.append(f"{item.kind} {i} is off by {off:.3g}")
    for i, item in document.drivers.items():
        if document.joints[item.joint].kind != "screw" and (off := drive(w, item)) > OFF * 4:  # type: ignore[attr-defined]
            out.append(f"drive {i} is off by {off:.3g}")
    loose = e.mobility is not None and bool(e.mobility.loose)
    for i in ("where", "far"):
        found, curve = evaluated_curve(e, i), document.curves[i]
        if isinstance(found, NotMeasured) or loose:
            continue
        there = w.frame(curve.at)[0] if i == "where" else w.frame(curve.b)[0] - w.frame(curve.a)[0]  # type: ignore[attr-defined]
        y = there[:, "xyz".index(curve.along)] if i == "where" else np.linalg.norm(there, axis=1)  # type: ignore[attr-defined]
        if np.abs(found.series["value"] - y).max() > OFF:
            out.append(f"curve {i} is off by {np.abs(found.series['value'] - y).max():.3g}")
        x = found.extremes("value")
        if x.high + x.high_missed < y.max() - OFF or x.low - x.low_missed > y.min() + OFF:
            out.append(f"the extremes of {i} are passed by {max(y.max() - x.high, x.low - y.min()):.3g}")
    if "spring" in document.pairs:
        run = springs.run(e, "spring", w.times)
        one, other = (w.frame(x)[0] for x in document.pairs["spring"].at)
        long = np.linalg.norm(other - one, axis=1)
        if run is not None and np.abs(run.length - long).max() > 1e-8:
            out.append(f"the spring's length is off by {np.abs(run.length - long).max():.3g}")
    return out
