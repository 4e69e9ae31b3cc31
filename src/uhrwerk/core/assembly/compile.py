"""From a document to a mechanism: links, datums, equations. What cannot be used becomes a problem, in words."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from uhrwerk.core import elements
from uhrwerk.core.assembly.links import merged, unconnected
from uhrwerk.core.assembly.mechanism import Aim, Mechanism, Problem, datum_frame
from uhrwerk.core.assembly.recognised import recognised
from uhrwerk.core.assembly.repeat import WrittenOut, mirrored, written_out
from uhrwerk.core.context import Context
from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.law import Law, Scaled
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers, numbers
from uhrwerk.core.joints import (
    ANGLES,
    JOINTS,
    RELATIONS,
    At,
    JointDoesNotFit,
    JointFrame,
    JointPair,
    ResolvedJoint,
    coordinate_row,
)
from uhrwerk.core.joints.resolved_joint import turned_over
from uhrwerk.core.part import part_datums
from uhrwerk.core.part.design import element_of_part
from uhrwerk.core.solids import Datum

Limits = tuple[tuple[str, float, float], ...]


def compile(stated: Document, context: Context) -> Mechanism:
    """The mechanism of a document. What cannot be used (a vanished datum, an impossible gear pair) becomes a problem."""
    work = _Compiling(stated, context)
    for i, n in work.joints.items():
        work.join(i, n)
    work.relate()
    for i, pair in work.document.pairs.items():
        work.pair(i, pair)
    for i in work.document.drivers:
        work.drive(i)
    work.m.loose = unconnected(work.m, work.absent)
    return work.m


class _Compiling:
    """One document on its way: its numbers, its datums, and the mechanism `m` as far as it is made."""

    def __init__(self, stated: Document, context: Context) -> None:
        self.stated, self.scope, self.context = stated, stated.scope(), context
        self.sizes = {i: numbers(element_of_part(stated, i), self.scope) for i in stated.parts}
        self.problems = [
            Problem(f"parts.{i}.element.{where}", f"{stated.parts[i].name}: {elements.spoken(where)} {why}")
            for i, n in self.sizes.items()
            if n.kind == stated.parts[i].element.kind  # of a part like another it is said at that one
            for where, why in elements.of(n).faults(n)
        ]
        self._datums: dict[tuple[str, bool], dict[str, Datum]] = {}
        written = written_out(stated, self._datums_of)
        self.document = document = written.document
        self.datums = {
            i: {**self._datums_of(p.part, p.mirrored), **written.datums.get(i, {})} for i, p in document.placed.items()
        }
        self.absent = {i for i, p in document.placed.items() if p.left_out and i != document.frame}
        self.ends: dict[str, tuple[Array, Array]] = {}
        self.driven: dict[tuple[str, str], str] = {}  # by joint and coordinate, the drive's name
        self.joints = self._usable_joints()
        self.m = self._mechanism(written)

    def _datums_of(self, part: str, image: bool) -> dict[str, Datum]:
        if (part, image) not in self._datums:
            named = part_datums.datums(self.stated, part, self.context)
            self._datums[part, image] = {i: mirrored(d) for i, d in named.items()} if image else named
        return self._datums[part, image]

    def _usable_joints(self) -> dict[str, Numbers]:
        usable = {}
        for i, joint in self.document.joints.items():
            if not self.waits(f"joints.{i}", joint.name, joint.a, joint.b):
                usable[i] = n = numbers(joint, self.scope)
                here, there = (
                    datum_frame(at.beside(self.datums[at.placed][at.datum], self.scope)) for at in (joint.a, joint.b)
                )
                self.ends[i] = poses.compose(here, _shift(n)), _flipped(n, there)
        return usable

    def _mechanism(self, written: WrittenOut) -> Mechanism:
        document, starts = self.document, written.starts
        links, link_of, clash = merged(document, self.joints, self.ends, self.absent, starts)
        start = np.array([starts[link.parts[0]] for link in links]) if links else np.zeros((0, 7))
        spread = [_away(name, d) for named in self.datums.values() for name, d in named.items()]
        self.problems += clash
        return Mechanism(
            document, links, link_of, [], [], {}, self.datums, start, max([1e-3, *(float(s) for s in spread)]), self.stated,
            starts, problems=self.problems, remarks=[Problem(path, words) for path, words in written.remarks],
        )  # fmt: skip

    def waits(self, path: str, name: str, *ends: At) -> bool:
        """Whether a joint has not all its datums; says so. One with a part that is left out is passed over."""
        if any(at.placed in self.absent for at in ends):
            return True
        missing = [at for at in ends if at.datum not in self.datums[at.placed]]
        for at in missing:
            part = self.document.placed[at.placed].name
            self.problems.append(Problem(path, f"{name} waits: {part} has no datum {at.datum!r} now"))
        return bool(missing)

    def no_effect(self, path: str, name: str, a: int, b: int) -> bool:
        if a == b:
            words = f"{name} has no effect: rigid joints already hold both parts together"
            self.problems.append(Problem(path, words))
        return a == b

    def join(self, i: str, n: Numbers) -> None:
        path, m, kind = f"joints.{i}", self.m, JOINTS[n.kind]
        if kind.fixed:
            return
        (a, frame_a), (b, frame_b) = (
            (m.link_of[at.placed], poses.compose(np.asarray(m.links[m.link_of[at.placed]].local[at.placed]), frame))
            for at, frame in zip((n.a, n.b), self.ends[i], strict=True)
        )
        m.names[path] = n.name
        if self.no_effect(path, n.name, a, b):
            return
        why = kind.unusable(n)
        if why:
            self.problems.append(Problem(path, f"{n.name}: {why}"))
            return
        resolved = ResolvedJoint(
            i, path, n.name, n.kind, a, frame_a, b, frame_b, n.a.placed, n.b.placed, lead=getattr(n, "lead", 0.0),
            limits=self.limits(n, kind.coordinates, path), coordinates=kind.coordinates,
        )  # fmt: skip
        m.joints[i] = resolved
        m.rows += kind.rows(resolved)
        m.aims.append(Aim(path, a, frame_a, b, frame_b, kind.aligned, kind.meets, turned=kind.turned))

    def limits(self, n: Numbers, coordinates: tuple[str, ...], path: str) -> Limits:
        out = []
        for name in coordinates:
            low, high = getattr(n, f"{name}_from", None), getattr(n, f"{name}_to", None)
            if low is None and high is None:
                continue
            least, most = -np.inf if low is None else low, np.inf if high is None else high
            if least > most:
                words = f"{n.name}: the lower limit lies above the upper one"
                self.problems.append(Problem(f"{path}.{name}_from", words))
                continue
            out.append((name, least, most))
        return tuple(out)

    def relate(self) -> None:
        """Rows of the relations, and the joints that they make together."""
        between: dict[frozenset[int] | None, list[tuple[str, Numbers, JointFrame, JointFrame, list[Row]]]] = {}
        for i in self.document.relations:
            relation = self._relation(i)
            if relation is not None and relation[0] is not None:
                links, n, a, b, rows = relation
                between.setdefault(links, []).append((i, n, a, b, rows))
        for many in between.values():
            i, n, a, b, _ = many[0]
            path = f"relations.{i}"
            blank = ResolvedJoint(i, path, n.name, "rigid", a.link, a.frame, b.link, b.frame, a.placed, b.placed)
            resolved = recognised([(n, a, b, rows) for _, n, a, b, rows in many], self.m.start, self.m.reach, blank)
            if resolved is not None:
                limits = self.limits(n, resolved.coordinates, path)
                self.m.joints[i] = replace(resolved, by=tuple(n.kind for _, n, *_ in many), limits=limits)

    def _relation(self, i: str) -> tuple[frozenset[int] | None, Numbers, JointFrame, JointFrame, list[Row]] | None:
        """A relation with its numbers and rows, and the two links that it alone is between; None where it cannot be used."""
        relation, path, m = self.document.relations[i], f"relations.{i}", self.m
        m.names[path] = relation.name
        about_at: At | None = getattr(relation, "about", None)
        ends = [at for at in (relation.a, relation.b, about_at) if at is not None]
        if self.waits(path, relation.name, *ends):
            return None
        n, kind = numbers(relation, self.scope), RELATIONS[relation.kind]
        a, b, *third = (m.place(at) for at in ends)
        about = third[0] if third else None
        if self.no_effect(path, n.name, a.link, b.link):
            return None
        alike = a.datum.kind == b.datum.kind and a.datum.kind in ("plane", "axis", "frame")
        if getattr(n, "side", "same") == "opposite" and (alike or n.kind == "parallel"):
            b = replace(b, frame=turned_over(b.frame))
        try:
            rows = kind.rows(n, a, b, about, path)
        except JointDoesNotFit as error:
            self.problems.append(Problem(path, f"{n.name}: {error}"))
            return None
        m.rows += rows
        if kind.aims == "always" or (kind.aims == "alike" and alike):
            mirror = (about.link, about.frame) if n.kind == "symmetric" and about is not None else None
            m.aims.append(Aim(path, a.link, a.frame, b.link, b.frame, True, False, mirror))
        alone = about is None or about.link in (a.link, b.link)
        return frozenset((a.link, b.link)) if alone else None, n, a, b, rows

    def pair(self, i: str, pair: JointPair) -> None:
        path, m = f"pairs.{i}", self.m
        m.names[path] = pair.name
        why = self._pair_waits(path, pair)
        if why is not None:
            self.problems += [Problem(path, f"{pair.name}: {why}")] if why else []
            return
        a, b = (m.place(at) for at in pair.at)
        if a.link == b.link:
            words = f"{pair.name}: both parts sit on one link and cannot move against each other"
            self.problems.append(Problem(path, words))
            return
        n = numbers(pair, self.scope)
        one, other = (self.sizes[self.document.placed[at.placed].part] for at in pair.at)
        try:
            resolved = pair.resolved(
                a, b, ResolvedJoint(i, path, n.name, pair.kind, b.link, b.frame, a.link, a.frame, b.placed, a.placed)
            )
            m.rows += pair.rows(n, a, b, (one, other), path)
        except JointDoesNotFit as error:
            self.problems.append(Problem(path, f"{n.name}: {error}"))
            return
        if resolved is not None:
            m.joints[i] = resolved

    def _pair_waits(self, path: str, pair: JointPair) -> str | None:
        """Why a pair cannot be used yet; empty where that is said already, or need not be; None where it can."""
        if self.absent & {at.placed for at in pair.at}:
            return ""
        if isinstance(pair.a, At):
            return "" if self.waits(path, pair.name, *pair.at) else None
        for k, at in enumerate(pair.at):
            placed = self.document.placed[at.placed]
            n = self.sizes[placed.part]
            if elements.of(n).faults(n):
                return f"waits: {placed.name} cannot be made with its sizes"
            if at.datum not in self.datums[at.placed] or (pair.made_of and n.kind not in pair.made_of[k]):
                return f"{placed.name} is not a {'rack' if at.datum == 'pitch_line' else 'gear'}"
        return None

    def drive(self, i: str) -> None:
        driver, path, m = self.document.drivers[i], f"drivers.{i}", self.m
        m.names[path] = driver.name
        resolved = m.joints.get(driver.joint)
        if resolved is None:
            what = (self.document.joints | self.document.relations).get(driver.joint)
            if not (what is not None and self.absent & {what.a.placed, what.b.placed}):
                self.problems.append(Problem(path, f"{driver.name} waits for its joint"))
            return
        turning = driver.coordinate == "turn"
        name = next((c for c in resolved.coordinates if (c in ANGLES) == turning), None)
        if name is None:
            words = f"{driver.name}: {resolved.name} is {resolved.kind}, and nothing {'turns' if turning else 'slides'} in it"
            self.problems.append(Problem(path, words))
            return
        way = driver.joint, "slide" if resolved.kind == "screw" else name
        if way in self.driven:
            words = (
                f"{driver.name}: {self.driven[way]} drives {resolved.name} already: remove one, or choose another joint"
            )
            self.problems.append(Problem(path, words))
            return
        self.driven[way] = driver.name
        n, cycle = numbers(driver, self.scope), self.scope.value(self.document.cycle.duration, "time")
        wrong = driver.lost(self.document, cycle)
        m.problems += [Problem(f"{path}.{where}", f"{driver.name}: {why}") for where, why in wrong]
        if wrong:
            return
        m.remarks += [
            Problem(f"{path}.{where}", f"{driver.name}: {words}") for where, words in driver.remarks(n, cycle)
        ]
        law: Law = driver.led(self.document, cycle)
        if resolved.kind == "screw" and turning:  # told by its travel, which counts every turn
            name, law = "slide", Scaled(law, resolved.lead / (2 * np.pi))
        m.drives.append(coordinate_row(resolved, name, path, law=law))


def _away(name: str, d: Datum) -> float:
    """How far a datum lies from its part's origin, m: an element's own where it is, a face or its axis squarely. It gauges turns
    against ways, and must not hang on how far a face happens to reach; an edge or a corner lies on faces that count already."""
    if "+" in name:
        return 0.0
    if "." not in name:
        return float(np.linalg.norm(d.origin)) + d.radius
    along = (d.origin @ d.z) * d.z
    return float(np.linalg.norm(along if d.kind == "plane" else d.origin - along)) + d.radius


def _shift(joint: Numbers) -> Array:
    """Where a's datum frame is taken for the joint: moved along its axis, turned about it."""
    turn = poses.turned(np.array([0.0, 0.0, getattr(joint, "turn", 0.0)]))
    for axis, field in zip(np.eye(3), ("turn_x", "turn_y", "turn_z"), strict=True):
        turn = poses.multiply(poses.turned(axis * getattr(joint, field, 0.0)), turn)
    return np.concatenate([[getattr(joint, "x", 0.0), getattr(joint, "y", 0.0), joint.offset], turn])


def _flipped(joint: Numbers, frame: Array) -> Array:
    """b's datum frame, turned over about its x if asked. It is b that is turned over: coordinates count along and about
    the axis of a, whether flipped or not."""
    over = np.concatenate([np.zeros(3), [0.0, 1, 0, 0]])
    return poses.compose(frame, over) if joint.flip else frame


__all__ = ["compile"]
