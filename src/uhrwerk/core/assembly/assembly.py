"""From a document to an assembled mechanism: links, equations, and the pose nearest to where the parts are."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import SimpleNamespace
from typing import Any

import numpy as np

from uhrwerk.core import elements
from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.assembly.pose import IDENTITY, Array
from uhrwerk.core.assembly.rows import Row, Rows
from uhrwerk.core.assembly.solve import TOLERANCE, assemble
from uhrwerk.core.document import Document, numbers
from uhrwerk.core.elements import Tooth
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


@dataclass
class Mechanism:
    """The document's kinematics with numbers: links (the frame first), datums, and the rows of each joint, pair, driver."""

    links: list[Link]
    link_of: dict[str, int]
    rows: list[Row]
    drives: list[Row]
    names: dict[str, str]  # path of a joint, pair or driver -> its name
    datums: dict[str, dict[str, Datum]]  # placed part -> its datums
    start: Array  # (L, 7)
    reach: float
    loose: list[str] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    frames: dict[str, tuple[int, Array, int, Array]] = field(default_factory=dict)  # joint -> (link, frame) of a and b

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


def datum_frame(datum: Datum) -> Array:
    return poses.from_axes(datum.origin, datum.x, datum.z)


def start_pose(start: SimpleNamespace) -> Array:
    q = IDENTITY[3:]
    for axis, angle in zip(np.eye(3), (start.turn_x, start.turn_y, start.turn_z), strict=True):
        q = poses.multiply(poses.turned(axis * angle), q)
    return np.concatenate([[start.x, start.y, start.z], q])


def _joint_shift(joint: SimpleNamespace) -> Array:
    """Where b's datum frame wants to be in a's: moved along the axis, flipped over x, turned about the axis."""
    turn = poses.turned(np.array([0.0, 0.0, getattr(joint, "turn", 0.0)]))
    flip = np.array([0.0, 1, 0, 0]) if joint.flip else IDENTITY[3:]
    return np.concatenate([[0.0, 0.0, joint.offset], poses.multiply(turn, flip)])


def compile(document: Document) -> Mechanism:
    """The mechanism of a document. What cannot be used (a vanished datum, an impossible gear pair) becomes a problem."""
    scope = document.scope()
    sizes = {i: numbers(p.element, scope) for i, p in document.parts.items()}
    problems: list[Problem] = []
    datums: dict[str, dict[str, Datum]] = {}
    by_part: dict[str, dict[str, Datum]] = {}
    for i, n in sizes.items():
        wrong = elements.of(n).faults(n)
        problems += [
            Problem(f"parts.{i}.element.{where}", f"{document.parts[i].name}: {where.replace('_', ' ')} {why}")
            for where, why in wrong
        ]
        by_part[i] = {} if wrong else elements.of(n).datums(n)
    for i, placed in document.placed.items():
        datums[i] = by_part[placed.part]
    starts = {i: start_pose(numbers(p.start, scope)) for i, p in document.placed.items()}

    joints: dict[str, Any] = {}
    ends: dict[str, tuple[Array, Array]] = {}
    for i, joint in document.joints.items():
        missing = [at for at in (joint.a, joint.b) if at.datum not in datums[at.placed]]
        for at in missing:
            name = document.placed[at.placed].name
            problems.append(Problem(f"joints.{i}", f"{joint.name} waits: {name} has no datum {at.datum!r} now"))
        if not missing:
            n = numbers(joint, scope)
            joints[i] = n
            ends[i] = (
                poses.compose(datum_frame(datums[joint.a.placed][joint.a.datum]), _joint_shift(n)),
                datum_frame(datums[joint.b.placed][joint.b.datum]),
            )

    links, link_of, clash = _links(document, joints, ends)
    problems += clash
    start = np.array([starts[link.parts[0]] for link in links]) if links else np.zeros((0, 7))
    spread = [np.linalg.norm(d.origin) + d.radius for named in datums.values() for d in named.values()]
    reach = max([1e-3, *(float(s) for s in spread)])

    m = Mechanism(links, link_of, [], [], {}, datums, start, reach, problems=problems)
    for i, n in joints.items():
        if n.kind == "rigid":
            continue
        (a, frame_a), (b, frame_b) = (
            (link_of[at.placed], poses.compose(links[link_of[at.placed]].local[at.placed], frame))
            for at, frame in ((n.a, ends[i][0]), (n.b, ends[i][1]))
        )
        m.names[f"joints.{i}"] = n.name
        if a == b:
            problems.append(
                Problem(f"joints.{i}", f"{n.name} has no effect: rigid joints already hold both parts together")
            )
            continue
        m.frames[i] = (a, frame_a, b, frame_b)
        m.rows += _joint_rows(n.kind, a, frame_a, b, frame_b, f"joints.{i}")
    for i, pair in document.pairs.items():
        m.names[f"pairs.{i}"] = pair.name
        row = _mesh_row(document, m, sizes, i, pair)
        if isinstance(row, Problem):
            problems.append(row)
        else:
            m.rows.append(row)
    for i, driver in document.drivers.items():
        m.names[f"drivers.{i}"] = driver.name
        if driver.joint not in m.frames:
            problems.append(Problem(f"drivers.{i}", f"{driver.name} waits for its joint"))
            continue
        n = numbers(driver, scope)
        m.drives.append(coordinate_row(m, driver.joint, driver.kind == "turning", f"drivers.{i}", n.start, n.speed))
    m.loose = _not_held(m)
    return m


def coordinate_row(m: Mechanism, joint: str, turning: bool, owner: str, c: float = 0.0, rate: float = 0.0) -> Row:
    """The row that measures (or drives) a joint's angle or travel."""
    a, fa, b, fb = m.frames[joint]
    x, y, z = _axes(fa)
    if turning:
        return Row("turn", a, b, (x, y, _axes(fb)[0]), owner, c, rate)
    return Row("point", a, b, (fa[:3], z, fb[:3]), owner, c, rate)


def _axes(frame: Array) -> tuple[Array, Array, Array]:
    x, y, z = (poses.rotate(frame[3:], e) for e in np.eye(3))
    return x, y, z


def _joint_rows(kind: str, a: int, fa: Array, b: int, fb: Array, owner: str) -> list[Row]:
    (xa, ya, za), (xb, yb, _) = _axes(fa), _axes(fb)

    def point(u: Array) -> Row:
        return Row("point", a, b, (fa[:3], u, fb[:3]), owner)

    def square(u: Array, v: Array) -> Row:
        return Row("square", a, b, (u, v), owner)

    along = [point(xa), point(ya), square(za, xb), square(za, yb)]
    return along + {"revolute": [point(za)], "prismatic": [square(xa, yb)]}[kind]


def _mesh_row(document: Document, m: Mechanism, sizes: dict[str, SimpleNamespace], i: str, pair: Any) -> Row | Problem:
    path = f"pairs.{i}"
    gears = [sizes[document.placed[p].part] for p in (pair.a, pair.b)]
    for which, gear in zip((pair.a, pair.b), gears, strict=True):
        if gear.kind != "spur_gear":
            return Problem(path, f"{pair.name}: {document.placed[which].name} is not a gear")
        if "axis" not in m.datums[which]:
            return Problem(path, f"{pair.name} waits: {document.placed[which].name} cannot be made with its sizes")
    if abs(gears[0].module - gears[1].module) > 1e-9 or abs(gears[0].pressure_angle - gears[1].pressure_angle) > 1e-9:
        return Problem(path, f"{pair.name}: module and pressure angle of both gears must be the same to mesh")
    a, b = m.link_of[pair.a], m.link_of[pair.b]
    if a == b:
        return Problem(path, f"{pair.name}: both gears sit on one link and cannot turn against each other")
    fa, fb = (
        poses.compose(m.links[k].local[p], datum_frame(m.datums[p]["axis"])) for k, p in ((a, pair.a), (b, pair.b))
    )
    (xa, _, za), (xb, _, _) = _axes(fa), _axes(fb)
    return Row("mesh", a, b, (fa[:3], za, xa, fb[:3], xb), path, teeth=(gears[0].teeth, gears[1].teeth))


def teeth_of(document: Document, placed: str) -> Tooth:
    """The tooth form of a placed gear."""
    return elements.spur_gear.tooth(numbers(document.parts[document.placed[placed].part].element, document.scope()))


def _links(
    document: Document, joints: dict[str, Any], ends: dict[str, tuple[Array, Array]]
) -> tuple[list[Link], dict[str, int], list[Problem]]:
    """Merges rigidly joined parts; the frame's link comes first."""
    order = sorted(document.placed, key=lambda p: p != document.frame)
    rigid = [(i, n) for i, n in joints.items() if n.kind == "rigid"]
    link_of: dict[str, int] = {}
    links: list[Link] = []
    problems: list[Problem] = []
    for first in order:
        if first in link_of:
            continue
        local = {first: IDENTITY}
        grown = True
        while grown:
            grown = False
            for i, n in rigid:
                fa, fb = ends[i]
                step = poses.compose(fa, poses.inverse(fb))  # b's part in a's part
                for known, other, move in (
                    (n.a.placed, n.b.placed, step),
                    (n.b.placed, n.a.placed, poses.inverse(step)),
                ):
                    if known in local and other not in local:
                        local[other] = poses.compose(local[known], move)
                        grown = True
        for i, n in rigid:
            if n.a.placed in local:
                fa, fb = ends[i]
                gap = poses.between(poses.compose(local[n.a.placed], fa), poses.compose(local[n.b.placed], fb))
                if np.abs(gap).max() > TOLERANCE:
                    names = ", ".join(o.name for _, o in rigid if o.a.placed in local)
                    problems.append(
                        Problem(
                            f"joints.{i}", f"{n.name} contradicts the other rigid joints of the same parts ({names})"
                        )
                    )
        for part in local:
            link_of[part] = len(links)
        links.append(Link(tuple(local), local))
    return links, link_of, problems


def _not_held(m: Mechanism) -> list[str]:
    """Placed parts that no chain of joints ties to the frame."""
    held, grown = {0}, True
    while grown:
        more = {k for row in m.rows if row.kind != "mesh" for k in (row.a, row.b) if {row.a, row.b} & held}
        grown = not more <= held
        held |= more
    return [p for at, link in enumerate(m.links) if at not in held for p in link.parts]


def attempt(m: Mechanism, rows: Rows) -> tuple[Array, float]:
    """From the start as it is; if that fails, with parts first brought near along the joints; then from shaken starts."""
    start = m.scaled(m.start)
    best = (start, np.inf)
    shake = np.random.default_rng(7)
    near = _brought_near(m, start, rows)
    for trial in range(7):
        guess = start if trial == 0 else near
        if trial > 1:
            kick = shake.normal(scale=0.15 * trial, size=(len(start), 6))
            kick[0] = 0
            guess = _brought_near(m, poses.moved(start, kick), rows)
        pose, left = assemble(rows, guess)
        if left <= TOLERANCE and _right_side(m, pose, rows):
            return pose, left
        if TOLERANCE < left < best[1]:
            best = (pose, left)
    return best


def _right_side(m: Mechanism, pose: Array, rows: Rows) -> bool:
    """Whether every joint's axes point the same way: the equations alone would accept the opposite too."""
    used = {r.owner for r in rows.rows}
    for i, (a, fa, b, fb) in m.frames.items():
        if f"joints.{i}" not in used:
            continue
        za, zb = (poses.rotate(pose[k, 3:], _axes(f)[2]) for k, f in ((a, fa), (b, fb)))
        if za @ zb < 0:
            return False
    return True


def _brought_near(m: Mechanism, start: Array, rows: Rows) -> Array:
    """Goes out from the frame along the joints; each link not yet visited makes the smallest move onto its joint's axis."""
    pose, visited, grown = start.copy(), {0}, True
    used = {r.owner for r in rows.rows}
    while grown:
        grown = False
        for i, (a, fa, b, fb) in m.frames.items():
            if f"joints.{i}" not in used or (a in visited) == (b in visited):
                continue
            (fixed, f_fixed), (free, f_free) = ((a, fa), (b, fb)) if a in visited else ((b, fb), (a, fa))
            target = poses.compose(pose[fixed], m.scaled(f_fixed))
            here = poses.compose(pose[free], m.scaled(f_free))
            z_to, z_from = (poses.rotate(f[3:], np.array([0.0, 0, 1])) for f in (target, here))
            across = np.cross(z_from, z_to)
            size = float(np.linalg.norm(across))
            if size < 1e-9:
                across, size = (_axes(here)[0], 1.0) if z_from @ z_to < 0 else (np.zeros(3), 1.0)
            angle = np.arctan2(size if np.any(across) else 0.0, z_from @ z_to)
            spin = poses.turned(across / size * angle)
            pose[free, 3:] = poses.multiply(spin, pose[free, 3:])
            now = poses.compose(pose[free], m.scaled(f_free))
            pose[free, :3] += target[:3] - now[:3]
            visited.add(free)
            grown = True
    return pose
