"""From a document to an assembled mechanism: links, equations, and the pose nearest to where the parts are."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from typing import Any

import numpy as np

from uhrwerk.core import elements
from uhrwerk.core.assembly import joints, pairs, relations
from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.assembly.joints import Held, axes, coordinate_row
from uhrwerk.core.assembly.pose import IDENTITY, Array
from uhrwerk.core.assembly.relations import NotFitting, Place
from uhrwerk.core.assembly.repeat import mirrored, start_pose, written_out
from uhrwerk.core.assembly.rows import Row, Rows
from uhrwerk.core.assembly.solve import TOLERANCE, assemble
from uhrwerk.core.document import Document, numbers
from uhrwerk.core.elements import spur_gear
from uhrwerk.core.elements.involute import Tooth
from uhrwerk.core.field import Numbers
from uhrwerk.core.solids import Datum


@dataclass(frozen=True)
class Problem:
    """Something that stands in the way of an answer, in the designer's words; `path` leads to it in the document."""

    path: str
    words: str


@dataclass(frozen=True)
class Link:
    """Placed parts that move as one; `local` is the pose of each in the link's frame."""

    parts: tuple[str, ...]
    local: Mapping[str, Array]


@dataclass(frozen=True)
class Aim:
    """Where a joint or relation wants b's frame: z along a's z, or along its image behind the plane that `mirror` has on
    a link; and the origins together where `meet`."""

    owner: str
    a: int
    frame_a: Array
    b: int
    frame_b: Array
    aligned: bool
    meet: bool
    mirror: tuple[int, Array] | None = None

    def directions(self, pose: Array) -> tuple[Array, Array]:
        """z of a, as b should have it, and z of b, in the world."""
        za, zb = (poses.rotate(pose[k, 3:], axes(f)[2]) for k, f in ((self.a, self.frame_a), (self.b, self.frame_b)))
        if self.mirror is not None:
            link, frame = self.mirror
            n = poses.rotate(pose[link, 3:], axes(frame)[2])
            za = za - 2 * (za @ n) * n
        return za, zb


@dataclass
class Mechanism:
    """The document's kinematics with numbers: links (the frame first), datums, and the rows of each joint, pair, driver.

    `document` has every copy written out; `stated` is the one that the designer wrote.
    """

    document: Document
    links: list[Link]
    link_of: dict[str, int]
    rows: list[Row]
    drives: list[Row]
    names: dict[str, str]  # path of a joint, relation, pair or driver -> its name
    datums: dict[str, dict[str, Datum]]  # placed part -> its datums
    start: Array  # (L, 7)
    reach: float
    stated: Document
    starts: dict[str, Array]
    loose: list[str] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    remarks: list[Problem] = field(default_factory=list)
    held: dict[str, Held] = field(default_factory=dict)  # joints, and those that relations make, by id
    aims: list[Aim] = field(default_factory=list)

    def system(self, drives: bool = True, without: frozenset[str] = frozenset()) -> Rows:
        chosen = [r for r in self.rows + (self.drives if drives else []) if r.owner not in without]
        return Rows(chosen, len(self.links), self.reach)

    def scaled(self, pose: Array) -> Array:
        return pose * np.array([1 / self.reach] * 3 + [1.0] * 4)

    def metres(self, pose: Array) -> Array:
        return pose * np.array([self.reach] * 3 + [1.0] * 4)

    def part_pose(self, placed: str, link_pose: Array) -> Array:
        """Pose (..., 7) of a placed part, from link poses (..., L, 7)."""
        link = self.link_of[placed]
        return poses.compose(link_pose[..., link, :], np.asarray(self.links[link].local[placed]))

    def place(self, placed: str, datum: str) -> Place:
        """A datum with its frame on the link that carries its part."""
        link, d = self.link_of[placed], self.datums[placed][datum]
        return Place(link, poses.compose(np.asarray(self.links[link].local[placed]), datum_frame(d)), d, placed)

    def coordinates(self) -> list[tuple[str, str]]:
        """Every coordinate as (joint, name), the leading one of each joint first."""
        return [(i, name) for i, h in self.held.items() for name in h.coordinates]


def datum_frame(datum: Datum) -> Array:
    return poses.from_axes(datum.origin, datum.x, datum.z)


def _joint_shift(joint: Numbers) -> Array:
    """Where a's datum frame is taken for the joint: moved along its axis, turned about it."""
    turn = poses.turned(np.array([0.0, 0.0, getattr(joint, "turn", 0.0)]))
    return np.concatenate([[0.0, 0.0, joint.offset], turn])


def _flipped(joint: Numbers, frame: Array) -> Array:
    """b's datum frame, turned over about its x if asked. It is b that is turned over: coordinates count along and about
    the axis of a, whether flipped or not."""
    over = np.concatenate([np.zeros(3), [0.0, 1, 0, 0]])
    return poses.compose(frame, over) if joint.flip else frame


def compile(stated: Document) -> Mechanism:
    """The mechanism of a document. What cannot be used (a vanished datum, an impossible gear pair) becomes a problem."""
    scope = stated.scope()
    sizes = {i: numbers(p.element, scope) for i, p in stated.parts.items()}
    problems: list[Problem] = []
    for i, n in sizes.items():
        problems += [
            Problem(f"parts.{i}.element.{where}", f"{stated.parts[i].name}: {where.replace('_', ' ')} {why}")
            for where, why in elements.of(n).faults(n)
        ]

    @cache
    def datums_of(part: str, image: bool) -> dict[str, Datum]:
        n = sizes[part]
        named = {} if elements.of(n).faults(n) else elements.of(n).datums(n)
        return {i: mirrored(d) for i, d in named.items()} if image else named

    written = written_out(stated, datums_of)
    document = written.document
    datums = {i: {**datums_of(p.part, p.mirrored), **written.datums.get(i, {})} for i, p in document.placed.items()}
    absent = {i for i, p in document.placed.items() if p.left_out and i != document.frame}

    def waits(path: str, name: str, *ends: Any) -> bool:
        """Whether a joint has all its datums; says so where not. One with a part that is left out is passed over."""
        if any(at.placed in absent for at in ends):
            return True
        missing = [at for at in ends if at.datum not in datums[at.placed]]
        for at in missing:
            problems.append(
                Problem(path, f"{name} waits: {document.placed[at.placed].name} has no datum {at.datum!r} now")
            )
        return bool(missing)

    stated_joints: dict[str, Any] = {}
    ends: dict[str, tuple[Array, Array]] = {}
    for i, joint in document.joints.items():
        if not waits(f"joints.{i}", joint.name, joint.a, joint.b):
            n = numbers(joint, scope)
            stated_joints[i] = n
            here, there = (datum_frame(datums[at.placed][at.datum]) for at in (joint.a, joint.b))
            ends[i] = poses.compose(here, _joint_shift(n)), _flipped(n, there)

    links, link_of, clash = _links(document, stated_joints, ends, absent, written.starts)
    problems += clash
    start = np.array([written.starts[link.parts[0]] for link in links]) if links else np.zeros((0, 7))
    spread = [np.linalg.norm(d.origin) + d.radius for named in datums.values() for d in named.values()]
    reach = max([1e-3, *(float(s) for s in spread)])
    remarks = [Problem(path, words) for path, words in written.remarks]
    m = Mechanism(
        document,
        links,
        link_of,
        [],
        [],
        {},
        datums,
        start,
        reach,
        stated,
        written.starts,
        problems=problems,
        remarks=remarks,
    )

    def no_effect(path: str, name: str, a: int, b: int) -> bool:
        if a == b:
            problems.append(Problem(path, f"{name} has no effect: rigid joints already hold both parts together"))
        return a == b

    for i, n in stated_joints.items():
        path = f"joints.{i}"
        if n.kind == "rigid":
            continue
        (a, frame_a), (b, frame_b) = (
            (link_of[at.placed], poses.compose(np.asarray(links[link_of[at.placed]].local[at.placed]), frame))
            for at, frame in ((n.a, ends[i][0]), (n.b, ends[i][1]))
        )
        m.names[path] = n.name
        if no_effect(path, n.name, a, b):
            continue
        lead = getattr(n, "lead", 0.0)
        if n.kind == "screw" and not lead:
            problems.append(Problem(path, f"{n.name}: the lead of a screw cannot be zero"))
            continue
        held = Held(
            i,
            path,
            n.name,
            n.kind,
            a,
            frame_a,
            b,
            frame_b,
            n.a.placed,
            n.b.placed,
            lead,
            _limits(n, n.kind, problems, path),
        )
        m.held[i] = held
        m.rows += joints.rows(held)
        m.aims.append(Aim(path, a, frame_a, b, frame_b, n.kind not in ("spherical", "universal"), n.kind != "planar"))
    _relate(m, scope, waits, no_effect)
    for i, pair in document.pairs.items():
        path = f"pairs.{i}"
        m.names[path] = pair.name
        found = _pair_rows(m, sizes, i, numbers(pair, scope), waits, absent)
        if found is not None:
            m.rows += found
    for i, driver in document.drivers.items():
        path = f"drivers.{i}"
        m.names[path] = driver.name
        turning = driver.kind == "turning"
        held_by = m.held.get(driver.joint)
        if held_by is None:
            what = (document.joints | document.relations).get(driver.joint)
            if not (what is not None and absent & {what.a.placed, what.b.placed}):
                problems.append(Problem(path, f"{driver.name} waits for its joint"))
            continue
        name = next((c for c in held_by.coordinates if (c in joints.ANGLES) == turning), None)
        if name is None:
            kinds = "turns" if turning else "slides"
            problems.append(
                Problem(path, f"{driver.name}: {held_by.name} is {held_by.kind}, and nothing {kinds} in it")
            )
            continue
        n = numbers(driver, scope)
        if held_by.kind == "screw" and turning:  # told by its travel, which counts every turn
            per = held_by.lead / (2 * np.pi)
            m.drives.append(coordinate_row(held_by, "slide", path, n.start * per, n.speed * per))
        else:
            m.drives.append(coordinate_row(held_by, name, path, n.start, n.speed))
    m.loose = _not_held(m, absent)
    return m


def _limits(n: Numbers, kind: str, problems: list[Problem], path: str) -> tuple[tuple[str, float, float], ...]:
    out = []
    for name in joints.COORDINATES[kind]:
        low, high = getattr(n, f"{name}_from", None), getattr(n, f"{name}_to", None)
        if low is None and high is None:
            continue
        least, most = -np.inf if low is None else low, np.inf if high is None else high
        if least > most:
            problems.append(Problem(f"{path}.{name}_from", f"{n.name}: the lower limit lies above the upper one"))
            continue
        out.append((name, least, most))
    return tuple(out)


def _relate(m: Mechanism, scope: Any, waits: Callable[..., bool], no_effect: Callable[..., bool]) -> None:
    """Rows of the relations, and the joints that they make together."""
    between: dict[frozenset[int], list[tuple[str, Numbers, Place, Place, list[Row]]]] = {}
    for i, relation in m.document.relations.items():
        path = f"relations.{i}"
        m.names[path] = relation.name
        about_at = getattr(relation, "about", None)
        if waits(path, relation.name, relation.a, relation.b, *([about_at] if about_at is not None else [])):
            continue
        n = numbers(relation, scope)
        a, b = (m.place(at.placed, at.datum) for at in (relation.a, relation.b))
        about = None if about_at is None else m.place(about_at.placed, about_at.datum)
        if no_effect(path, n.name, a.link, b.link):
            continue
        alike = a.datum.kind == b.datum.kind and a.datum.kind in ("plane", "axis", "frame")
        if getattr(n, "side", "same") == "opposite" and (alike or n.kind == "parallel"):
            b = replace(b, frame=relations.turned_over(b.frame))
        try:
            rows = relations.rows(n, a, b, about, path)
        except NotFitting as error:
            m.problems.append(Problem(path, f"{n.name}: {error}"))
            continue
        m.rows += rows
        if n.kind in ("flush", "concentric", "parallel") or (n.kind in ("distance", "symmetric") and alike):
            mirror = (about.link, about.frame) if n.kind == "symmetric" and about is not None else None
            m.aims.append(Aim(path, a.link, a.frame, b.link, b.frame, True, False, mirror))
        if about is None or about.link in (a.link, b.link):
            between.setdefault(frozenset((a.link, b.link)), []).append((i, n, a, b, rows))
    for found in between.values():
        i, n, a, b, _ = found[0]
        path = f"relations.{i}"
        blank = Held(i, path, n.name, "rigid", a.link, a.frame, b.link, b.frame, a.placed, b.placed)
        held = relations.recognised([(n, a, b, rows) for _, n, a, b, rows in found], m.start, m.reach, blank)
        if held is not None:
            limits = _limits(n, held.kind, m.problems, path)
            m.held[i] = replace(held, by=tuple(n.kind for _, n, *_ in found), limits=limits)


def _pair_rows(
    m: Mechanism,
    sizes: dict[str, Numbers],
    i: str,
    n: Numbers,
    waits: Callable[..., bool],
    absent: set[str],
) -> list[Row] | None:
    path, document = f"pairs.{i}", m.document
    whole = isinstance(n.a, str)
    placed = (n.a, n.b) if whole else (n.a.placed, n.b.placed)
    if absent & set(placed):
        return None
    if whole:
        names = ["axis", "pitch_line" if n.kind == "rack" else "axis"]
        for p, datum in zip(placed, names, strict=True):
            if datum not in m.datums[p]:
                part = document.parts[document.placed[p].part]
                made = not elements.of(sizes[document.placed[p].part]).faults(sizes[document.placed[p].part])
                why = f"{document.placed[p].name} is not a {'rack' if datum == 'pitch_line' else 'gear'}"
                if not made or part is None:
                    why = f"waits: {document.placed[p].name} cannot be made with its sizes"
                m.problems.append(Problem(path, f"{n.name}: {why}"))
                return None
        a, b = (m.place(p, datum) for p, datum in zip(placed, names, strict=True))
    else:
        if waits(path, n.name, n.a, n.b):
            return None
        a, b = (m.place(at.placed, at.datum) for at in (n.a, n.b))
    if a.link == b.link:
        m.problems.append(Problem(path, f"{n.name}: both parts sit on one link and cannot move against each other"))
        return None
    size_a, size_b = (sizes[document.placed[p].part] for p in placed)
    for p, size in zip(placed, (size_a, size_b), strict=True):
        if n.kind == "gear" and size.kind not in ("spur_gear", "ring_gear"):
            m.problems.append(Problem(path, f"{n.name}: {document.placed[p].name} is not a gear"))
            return None
    try:
        if n.kind == "gear":
            return [pairs.gear_row(a, size_a, b, size_b, path)]
        if n.kind == "rack":
            return [pairs.rack_row(a, size_a, b, size_b, path)]
        if n.kind == "bevel":
            return [pairs.bevel_row(n, a, b, path)]
        if n.kind == "helical":
            return [pairs.helical_row(a, b, (n.teeth_a, n.teeth_b), (n.helix_a, n.helix_b), path)]
        if n.kind == "worm":
            return [pairs.worm_row(n, a, b, path)]
        if n.kind == "screw_nut":
            return [pairs.screw_nut_row(n, a, b, path)]
        blank = Held(i, path, n.name, "slot", b.link, b.frame, a.link, a.frame, b.placed, a.placed)
        rows, m.held[i] = pairs.slot(a, b, blank)
        return rows
    except NotFitting as error:
        m.problems.append(Problem(path, f"{n.name}: {error}"))
        return None


def teeth_of(document: Document, placed: str) -> Tooth:
    """The tooth form of a placed gear."""
    return spur_gear.tooth(numbers(document.parts[document.placed[placed].part].element, document.scope()))


def _links(
    document: Document,
    stated: dict[str, Any],
    ends: dict[str, tuple[Array, Array]],
    absent: set[str],
    starts: dict[str, Array],
) -> tuple[list[Link], dict[str, int], list[Problem]]:
    """Merges rigidly joined parts; the frame's link comes first, and carries what is left out where it starts."""
    order = sorted(document.placed, key=lambda p: p != document.frame)
    rigid = [(i, n) for i, n in stated.items() if n.kind == "rigid"]
    near: dict[str, list[tuple[str, Array]]] = {}
    for i, n in rigid:
        fa, fb = ends[i]
        step = poses.compose(fa, poses.inverse(fb))  # b's part in a's part
        near.setdefault(n.a.placed, []).append((n.b.placed, step))
        near.setdefault(n.b.placed, []).append((n.a.placed, poses.inverse(step)))
    link_of: dict[str, int] = {}
    links: list[Link] = []
    problems: list[Problem] = []
    for first in order:
        if first in link_of or first in absent:
            continue
        local, waiting = {first: IDENTITY}, [first]
        while waiting:
            known = waiting.pop()
            for other, move in near.get(known, []):
                if other not in local:
                    local[other] = poses.compose(local[known], move)
                    waiting.append(other)
        for i, n in rigid:
            if n.a.placed in local:
                fa, fb = ends[i]
                gap = poses.between(poses.compose(local[n.a.placed], fa), poses.compose(local[n.b.placed], fb))
                if np.abs(gap).max() > TOLERANCE:
                    names = ", ".join(o.name for _, o in rigid if o.a.placed in local)
                    words = f"{n.name} contradicts the other rigid joints of the same parts ({names})"
                    problems.append(Problem(f"joints.{i}", words))
        if not links:
            still = poses.inverse(starts[first])
            local |= {p: poses.compose(still, starts[p]) for p in absent}
        for part in local:
            link_of[part] = len(links)
        links.append(Link(tuple(local), local))
    return links, link_of, problems


def _not_held(m: Mechanism, absent: set[str]) -> list[str]:
    """Placed parts that no chain of joints ties to the frame."""
    held, waiting = {0}, [0]
    near: dict[int, set[int]] = {}
    for row in m.rows:
        if row.owner.startswith(("joints.", "relations.")):
            for k in (row.a, row.b, row.c):
                near.setdefault(k, set()).update({row.a, row.b, row.c} - {-1})
    while waiting:
        for k in near.get(waiting.pop(), set()) - held:
            held.add(k)
            waiting.append(k)
    return [p for at, link in enumerate(m.links) if at not in held for p in link.parts if p not in absent]


def attempt(m: Mechanism, rows: Rows, trials: int = 14) -> tuple[Array, float]:
    """From the start as it is; if that fails, with parts first brought near along the joints; then from shaken starts,
    as they are and brought near in turns, shaken more and more."""
    start = m.scaled(m.start)
    best = (start, np.inf)
    shake = np.random.default_rng(7)
    used = {r.owner for r in rows.rows}
    aims = [aim for aim in m.aims if aim.owner in used]
    for trial in range(trials):
        guess = start
        if trial > 1:
            kick = shake.normal(scale=0.05 * trial, size=(len(start), 6))
            kick[0] = 0
            guess = poses.moved(start, kick)
        if trial % 2:
            guess = brought_near(m, guess, aims)
        pose, left = assemble(rows, guess)
        if left <= TOLERANCE and right_side(pose, aims):
            return pose, left
        if TOLERANCE < left < best[1]:
            best = (pose, left)
    return best


def right_side(pose: Array, aims: list[Aim]) -> bool:
    """Whether every joint's axes point the same way: the equations alone would accept the opposite too."""
    for aim in aims:
        za, zb = aim.directions(pose)
        if aim.aligned and za @ zb < 0:
            return False
    return True


def brought_near(m: Mechanism, start: Array, aims: list[Aim]) -> Array:
    """Goes out from the frame along the joints; each link not yet visited makes the smallest move onto its joint's axis."""
    pose, visited, grown = start.copy(), {0}, True
    while grown:
        grown = False
        for aim in aims:
            if (aim.a in visited) == (aim.b in visited):
                continue
            (fixed, f_fixed), (free, f_free) = ((aim.a, aim.frame_a), (aim.b, aim.frame_b))
            if aim.b in visited:
                (fixed, f_fixed), (free, f_free) = (free, f_free), (fixed, f_fixed)
            target = poses.compose(pose[fixed], m.scaled(f_fixed))
            here = poses.compose(pose[free], m.scaled(f_free))
            z_to, z_from = aim.directions(pose)
            if aim.b == fixed:
                z_to, z_from = z_from, z_to
            if aim.aligned:
                across = np.cross(z_from, z_to)
                size = float(np.linalg.norm(across))
                if size < 1e-9:
                    across, size = (axes(here)[0], 1.0) if z_from @ z_to < 0 else (np.zeros(3), 1.0)
                angle = np.arctan2(size if np.any(across) else 0.0, z_from @ z_to)
                pose[free, 3:] = poses.multiply(poses.turned(across / size * angle), pose[free, 3:])
            if aim.meet:
                now = poses.compose(pose[free], m.scaled(f_free))
                pose[free, :3] += target[:3] - now[:3]
            visited.add(free)
            grown = True
        apart = next((aim.a for aim in aims if aim.a not in visited), None)
        if not grown and apart is not None:  # parts tied to one another but not to the frame
            visited.add(apart)
            grown = True
    return pose


__all__ = [
    "Aim",
    "Link",
    "Mechanism",
    "Problem",
    "attempt",
    "brought_near",
    "compile",
    "datum_frame",
    "right_side",
    "start_pose",
    "teeth_of",
]
