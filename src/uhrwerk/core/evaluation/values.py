"""Every number that is known of an evaluated mechanism, by the path of what it belongs to: sizes, derived values of elements
and pairs, masses, coordinates over the cycle, verdicts; and where any part or datum is at every frame. SI units.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from uhrwerk.core import elements
from uhrwerk.core.assembly import teeth_of
from uhrwerk.core.assembly.mass_properties import MassProperties, lumps_of, mass_of
from uhrwerk.core.curves import SERIES, NotMeasured
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.document import Document, Model, ValidationFailed, formulas, numbers
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.elements import involute
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import evaluated
from uhrwerk.core.forces import springs
from uhrwerk.core.forces.cam_pressure_angle import pressure
from uhrwerk.core.joints import At, JointPair, LinearSpring, TorsionalSpring
from uhrwerk.core.joints.cam_pair import CamPair
from uhrwerk.core.joints.gear_pair import GearPair
from uhrwerk.core.part.design import element_of
from uhrwerk.core.quantity import DIMENSIONS, SI, FormulaError, in_unit, names_in
from uhrwerk.core.quantity.units import dimension_of as kind_of
from uhrwerk.core.stages.evaluation import Evaluation


@dataclass(frozen=True)
class Value:
    """A value under its name: a number, several, or words (dimension "text"). `digits` is how many decimals are shown."""

    name: str
    value: Any
    dimension: str
    digits: int | None = None

    def data(self) -> dict[str, Any]:
        plain = self.value.tolist() if isinstance(self.value, np.ndarray) else self.value
        return {"value": list(plain) if isinstance(plain, tuple) else plain, "unit": SI[self.dimension]}


def values(e: Evaluation) -> dict[str, list[Value]]:
    """All values by path, such as `placed.rocker`, `pairs.first_stage` or `requirements.gap`."""
    document = e.document
    out: dict[str, list[Value]] = {}
    for i in document.placed:
        out[f"placed.{i}"] = list(of_part(e, i))
    for collection in ("joints", "relations", "pairs"):
        for i in getattr(document, collection):
            out[f"{collection}.{i}"] = list(of_joint(e, collection, i))
    for i in document.groups:
        out[f"groups.{i}"] = list(of_group(e, i))
    for i, repeat in e.stated.repeats.items():
        out[f"repeats.{i}"] = [Value("Repeats", ", ".join(document.placed[p].name for p in repeat.placed), "text")]
    if e.motion is not None and e.motion.track.period is not None:
        out["cycle"] = [Value("Everything repeats after", e.motion.track.period, "time", 6)]
    for i in document.curves:
        out[f"curves.{i}"] = list(of_curve(e, i)) if e.proved else []  # not at a glance
    for i, v in e.verdicts.items():
        known = (
            [Value("Value", v.value, v.dimension or "number"), Value("Error", v.error, v.dimension or "number")]
            if v.value is not None
            else []
        )
        limit = [Value("Limit", v.limit, v.dimension or "number")] if v.limit is not None else []
        when = [Value("Moment", v.time, "time")] if v.time is not None else []
        out[f"requirements.{i}"] = [
            *known,
            *limit,
            *when,
            *([Value("Determined by", v.basis, "text")] if v.basis else []),
        ]
    scope, used = document.scope(), uses(document)
    for name in document.parameters:
        users = used[name]
        q = scope.values[name]
        kind = kind_of(q)
        if kind in DIMENSIONS:
            out[f"parameters.{name}"] = [
                Value("Value", float(q.to_base_units().magnitude), kind),
                Value("Used by", users, "number"),
            ]
    for path, text, mark in formulas(e.stated):
        try:
            si, dimension = evaluated(text, mark, scope)
        except FormulaError:
            continue
        out.setdefault(path, []).append(Value("Value", si, dimension))
    return out


def uses(document: Document) -> Counter[str]:
    """In how many formulas each name stands."""
    return Counter(name for _, text, _ in formulas(document) for name in names_in(text))


def of_part(e: Evaluation, i: str) -> Iterator[Value]:
    """Mass, centre and inertia of a placed part at the start of the cycle, and what its element derives."""
    document = e.document
    n = numbers(element_of(document, i), document.scope())
    about = elements.of(n)
    if not about.faults(n):
        yield from (Value(label.replace("_", " "), v, dimension) for label, v, dimension in about.derived(n))
    if i in e.part_mass:
        yield from _of_mass(part_mass(e, [i]))


def _of_mass(mass: MassProperties) -> Iterator[Value]:
    yield Value("Mass", mass.mass, "mass")
    yield Value("Centre of gravity", mass.centre, "length")
    yield Value("Inertia", mass.inertia, "inertia")
    yield Value("Principal inertia", mass.principal, "inertia")
    yield Value("Radii of gyration", mass.gyration, "length")


def part_mass(e: Evaluation, parts: list[str]) -> MassProperties:
    """Mass, centre and inertia of some placed parts together, where they are at the start of the cycle."""
    lumps = {p: lumps_of(e.document, p, e.solids[p]) for p in parts}
    return mass_of(parts, lumps, {p: e.mechanism.part_pose(p, e.moved.motion.pose[0]) for p in parts})


def of_group(e: Evaluation, i: str) -> Iterator[Value]:
    group = e.document.groups[i]
    yield Value("Parts", ", ".join(e.document.placed[p].name for p in group.placed), "text")
    if i in e.masses:
        yield from _of_mass(e.masses[i])


def of_joint(e: Evaluation, collection: str, i: str) -> Iterator[Value]:
    """Both ends of a joint, relation or pair; what a pair's teeth give; how far it goes over the cycle, and how fast."""
    item = getattr(e.document, collection)[i]
    for side, end in (("From", item.a), ("To", item.b)):
        yield Value(side, _end(e.document, end), "text")
    if isinstance(item, GearPair):
        yield from of_mesh(e, item)
    if isinstance(item, CamPair):
        yield from of_cam(e, i)
    if isinstance(item, LinearSpring):
        yield from of_spring(e, i, item)
    if isinstance(item, TorsionalSpring):
        yield from of_winding(e, i, item)
    if isinstance(item, JointPair):
        yield from of_pair(e, item)
    for key, c in e.coordinates.items():
        if c.joint != i or np.ptp(c.whole.value) < 1e-12:
            continue
        dimension, speed = ("angle", "turning speed") if c.turning else ("length", "sliding speed")
        more = "" if key == i else f", {c.name.replace('_', ' ')}"  # a joint's other coordinates, by their names
        yield Value(
            ("Turns" if c.turning else "Slides") + more, (float(c.value.min()), float(c.value.max())), dimension
        )
        yield Value("Fastest" + more, float(np.abs(c.whole.rate).max()), speed)


def _end(document: Document, end: Any) -> str:
    """One end of a joint in words."""
    if isinstance(end, str):
        return document.placed[end].name
    if isinstance(end, Of):
        return document.placed[end.placed].name + (f", {end.body.replace('_', ' ')}" if end.body else "")
    return f"{document.placed[end.placed].name}, {end.datum.split('__')[0].replace('_', ' ')}"


def of_mesh(e: Evaluation, pair: GearPair) -> Iterator[Value]:
    """What the teeth of a gear pair give where they are mounted."""
    document, m = e.document, e.mechanism
    yield Value("Ratio", ratio(document, pair), "text")
    if any(element_of(document, p).kind != "spur_gear" for p in (pair.a, pair.b)):
        return
    a, b = (teeth_of(document, p) for p in (pair.a, pair.b))
    if a.faults or b.faults:
        return
    yield Value("Centre distance for mesh", involute.centre_distance(a, b), "length")
    if e.pose is None or pair.a not in m.link_of or pair.b not in m.link_of:
        return
    pa, pb = (m.part_pose(p, e.pose) for p in (pair.a, pair.b))
    z = poses.rotate(pa[3:], np.array([0.0, 0, 1]))
    gap = pb[:3] - pa[:3]
    real = float(np.linalg.norm(gap - (gap @ z) * z))
    yield Value("Centre distance now", real, "length")
    yield Value("Backlash, normal", involute.normal_backlash(a, b, real), "length", 4)
    yield Value("Contact ratio", involute.contact_ratio(a, b, real), "number", 3)
    names = [document.placed[p].name for p in (pair.a, pair.b)]
    for one, other, of_two in ((a, b, names), (b, a, names[::-1])):
        if involute.tip_reaches_below(one, other, real):
            yield Value("Tip interference", f"tips of {of_two[1]} reach below the form circle of {of_two[0]}", "text")


def of_pair(e: Evaluation, pair: JointPair) -> Iterator[Value]:
    """What a kind of pair tells of itself where it is mounted."""
    document, m, scope = e.document, e.mechanism, e.document.scope()
    if (
        m is None
        or e.pose is None
        or any(at.placed not in m.link_of or at.datum not in m.datums[at.placed] for at in pair.at)
    ):
        return
    sizes = [numbers(element_of(document, at.placed), scope) for at in pair.at]
    if any(elements.of(s).faults(s) for s in sizes):
        return
    frames = [m.place(at) for at in pair.at]
    a, b = (poses.compose(e.pose[place.link], place.frame) for place in frames)
    yield from (Value(*row) for row in pair.derived_between(numbers(pair, scope), (sizes[0], sizes[1]), a, b))


def of_cam(e: Evaluation, i: str) -> Iterator[Value]:
    """How a follower runs on its cam."""
    angle = pressure(e, i)
    if angle is not None:
        yield Value("Largest pressure angle", angle.most.high, "angle")
        yield Value("At", angle.most.high_time, "time")


#: a spring that stands less askew stands straight, rad
ASKEW = 1e-4


def of_spring(e: Evaluation, i: str, pair: LinearSpring) -> Iterator[Value]:
    """What a spring's sizes give, and how long it is and how hard it pushes or pulls over the cycle."""
    n, run = numbers(pair, e.document.scope()), springs.run(e, i)
    yield from (Value(name, value, dimension) for name, value, dimension in pair.derived(n))
    if run is not None:
        yield Value("Length", (float(run.length.min()), float(run.length.max())), "length")
        if run.reach.any():
            yield Value("Bent over", (float(run.reach.min()), float(run.reach.max())), "length")
        yield Value("Force", (float(run.force.min()), float(run.force.max())), "force")
        yield Value("Largest stress", float(run.stress.max()), "stress")
        if run.askew.max() > ASKEW:
            yield Value("Stands askew by", (float(run.askew.min()), float(run.askew.max())), "angle")


def of_winding(e: Evaluation, i: str, pair: TorsionalSpring) -> Iterator[Value]:
    """How far a spring is wound over the cycle, its torque and the stress in it."""
    n, run = numbers(pair, e.document.scope()), springs.torsional(e, i)
    yield Value("Rate", pair.rate(n), "torque")  # for a radian
    yield from (Value(name, value, dimension) for name, value, dimension in pair.derived(n))
    if run is not None:
        remaining = n.preload - run.turned
        yield Value("Wound", (float(remaining.min()), float(remaining.max())), "angle")
        yield Value("Torque", (float(run.torque.min()), float(run.torque.max())), "torque")
        yield Value("Largest bending stress", float(pair.stress(n, run.torque).max()), "stress")


def of_curve(e: Evaluation, i: str) -> Iterator[Value]:
    """What a curve is measured from; its extremes and those of its derivatives, with their moments."""
    for path, ref in ends_of(e.document.curves[i]):
        yield Value(path, _end(e.document, ref), "text")
    curve = evaluated_curve(e, i)
    if isinstance(curve, NotMeasured):
        yield Value("Not measured", str(curve), "text")
        return
    if not curve.whole:
        yield Value("Followed for", float(curve.times[-1]), "time")
    for series in SERIES:
        dimension = curve.dimension_of(series)
        if not dimension or not np.isfinite(curve.series[series]).any():
            continue
        x = curve.extremes(series)
        name = "Range" if series == "value" else series.capitalize()
        yield Value(name, (x.low, x.high), dimension)
        yield Value(f"{name} at", (x.low_time, x.high_time), "time")


def ends_of(curve: Model) -> Iterator[tuple[str, At | Of | str]]:
    """What a curve is measured from, by the label of its field."""
    for name, field in type(curve).model_fields.items():
        item = getattr(curve, name)
        if isinstance(item, At | Of):
            yield field.title or name.replace("_", " ").capitalize(), item


def ratio(document: Document, pair: JointPair) -> str:
    """Turns of b for so many of a, with sign, or the travel of a turn; empty where a pair has no such ratio."""
    scope, unit = document.scope(), document.units.length
    sizes = [numbers(element_of(document, at.placed), scope) for at in pair.at]
    return pair.ratio(
        numbers(pair, scope), (sizes[0], sizes[1]), lambda si: f"{in_unit(si, 'length', unit):.4g} {unit} a turn"
    )


@dataclass(frozen=True)
class PartTrajectory:
    """Where a part or datum is at every frame: times (F,) s; pose (F, 7) in the world; velocity (F, 6) m/s and rad/s."""

    times: Array
    pose: Array
    velocity: Array

    @property
    def turns(self) -> Array:
        """(F, 3) turns about x, then y, then z (fixed axes), rad, each counted on from frame to frame."""
        q = self.pose[:, 3:]
        m = poses.matrix(q)
        x, y, z = (
            np.arctan2(m[:, 2, 1], m[:, 2, 2]),
            -np.arcsin(np.clip(m[:, 2, 0], -1, 1)),
            np.arctan2(m[:, 1, 0], m[:, 0, 0]),
        )
        return np.stack([np.unwrap(x), y, np.unwrap(z)], axis=1)

    def data(self) -> dict[str, Any]:
        return {
            "position": {"unit": "m", "values": self.pose[:, :3].tolist()},
            "quaternion": {"unit": "1", "order": "w, x, y, z", "values": self.pose[:, 3:].tolist()},
            "turns": {"unit": "rad", "order": "about x, then y, then z", "values": self.turns.tolist()},
            "velocity": {"unit": "m/s", "values": self.velocity[:, :3].tolist()},
            "turning": {"unit": "rad/s", "values": self.velocity[:, 3:].tolist()},
        }


def where(e: Evaluation, name: str) -> PartTrajectory:
    """A placed part, or a datum of one (`part.datum`), at every frame. ValidationFailed where there is none."""
    placed, _, datum = name.partition(".")
    m = e.mechanism
    if m is None or e.motion is None or placed not in m.link_of:
        raise ValidationFailed((name, f"there is no placed part {placed!r}"))
    link = m.link_of[placed]
    local = np.asarray(m.links[link].local[placed])
    if datum:
        if datum not in m.datums[placed]:
            raise ValidationFailed((name, f"{placed} has no datum {datum!r}; known are {', '.join(m.datums[placed])}"))
        local = m.place(At(placed=placed, datum=datum)).frame
    pose = poses.compose(e.motion.pose[:, link], local)
    twist = e.motion.velocity[:, link]
    v = twist[:, :3] + poses.cross(twist[:, 3:], pose[:, :3] - e.motion.pose[:, link, :3])
    return PartTrajectory(e.motion.times, pose, np.concatenate([v, twist[:, 3:]], axis=1))


__all__ = ["PartTrajectory", "Value", "ratio", "values", "where"]
