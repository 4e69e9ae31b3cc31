"""A mechanism as a tree of links, with what closes its loops apart: the shape in which simulators of multibody systems take it.

The spanning tree of the graph of links and joints (Wittenburg, Dynamics of Multibody Systems, 2nd ed., 5.3; from memory).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from uhrwerk.core.assembly.mass_properties import lumps_of
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import IDENTITY, Array
from uhrwerk.core.equations.rows import Rows
from uhrwerk.core.exchange.format import Chosen
from uhrwerk.core.exchange.placing import Stands, standing
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.joints import ResolvedJoint
from uhrwerk.core.stages.evaluation import Evaluation, Moved

Turning = Literal["hinge", "slide", "ball"]

X, Y, Z = np.eye(3)
#: how each kind of joint moves b's frame in a's, one elementary motion after the other: coordinate, sort, axis
MOTIONS: dict[str, tuple[tuple[str, Turning, Array], ...]] = {
    "rigid": (),
    "revolute": (("turn", "hinge", Z),),
    "prismatic": (("slide", "slide", Z),),
    "cylindrical": (("turn", "hinge", Z), ("slide", "slide", Z)),
    "screw": (("turn", "hinge", Z), ("slide", "slide", Z)),
    "planar": (("slide_x", "slide", X), ("slide_y", "slide", Y), ("turn", "hinge", Z)),
    "universal": (("bend_x", "hinge", X), ("bend_y", "hinge", Y)),
    "spherical": (("", "ball", Z),),
}
#: of a slot, and of one along an arc: how its own frame moves with the pin's centre, wherever the pin points
SLOTS: dict[str, tuple[tuple[str, Turning, Array], ...]] = {
    "slot": (("slide", "slide", Z), ("across", "slide", Y)),
    "arc_slot": (("swing", "hinge", Z), ("across", "slide", Z)),
}
#: m or rad by which coordinates are varied, and how far ratios may differ over the cycle where they are said to be constant
STEP, CONSTANT = 1e-4, 1e-5


@dataclass(frozen=True, eq=False)
class Elementary:
    """One motion of a joint: its coordinate `joint.name` as the mechanism counts it, along or about `axis` (3,) through `point` (3,) m, in
    the child's frame at the start; `start` is the coordinate there, `range` its limits."""

    name: str
    sort: Turning
    axis: Array
    point: Array
    start: float
    range: tuple[float, float] | None


@dataclass(frozen=True, eq=False)
class Branch:
    """A link on the tree: its parent (-1 where nothing joins it to what stands), the joint between them, whether that has the link as
    its a, and how it moves."""

    link: int
    parent: int
    joint: ResolvedJoint | None
    turned: bool
    motions: tuple[Elementary, ...]


@dataclass(frozen=True, eq=False)
class Ratio:
    """A pair that holds a sum of coordinates constant: (coordinate, factor)."""

    path: str
    terms: tuple[tuple[str, float], ...]


@dataclass(frozen=True, eq=False)
class LinkTree:
    """`poses` (L, 7) at the start; `branches` parents first; `loops` the joints that close them; `left_out` what is in neither, in words.
    `values`: coordinates at the frames (F,), by name; of balls (F, 4) quaternions from the start, in the child's frame."""

    poses: Array
    names: tuple[str, ...]
    branches: tuple[Branch, ...]
    loops: tuple[ResolvedJoint, ...]
    ratios: tuple[Ratio, ...]
    left_out: tuple[str, ...]
    values: Mapping[str, Array]
    stands: Mapping[int, tuple[Stands, ...]]


def link_tree(e: Evaluation) -> LinkTree:
    """ValidationFailed where nothing moves, or a part has no solid."""
    if not isinstance(e.movement, Moved):
        raise ValidationFailed(("mechanism", "it does not move yet: see what its joints say"))
    m, motion = e.mechanism, e.movement.motion
    stands = standing(e, Chosen())
    start = np.asarray(motion.pose[0])
    by_link: dict[int, tuple[Stands, ...]] = {}
    for one in stands:
        by_link[m.link_of[one.id]] = (*by_link.get(m.link_of[one.id], ()), one)
    tree, closing = _spanned(e)
    branches, values = [], dict[str, Array]()
    for link, parent, joint in tree:
        turned = joint is not None and joint.a == link
        branches.append(Branch(link, parent, joint, turned, _motions(e, joint, turned, values)))
        if joint is not None and joint.kind == "spherical":
            values[joint.id] = _ball(motion.pose, parent, link)
    loops = [j for j in closing if j.kind in MOTIONS or j.kind in SLOTS]
    ratios, left_out = _pairs(e, branches, values)
    joined = {frozenset((j.a, j.b)) for j in m.joints.values()}
    apart = dict.fromkeys(r.owner for r in m.rows if frozenset((r.a, r.b)) not in joined)
    left_out += [f"{m.names.get(p, p)}: it makes no joint" for p in apart if p.startswith("relations.")]
    return LinkTree(
        start, tuple(_name(e, k) for k in range(len(m.links))), tuple(branches), tuple(loops), ratios, tuple(left_out), values,
        by_link,
    )  # fmt: skip


def _name(e: Evaluation, link: int) -> str:
    """The placed part after which a link is called."""
    return next(iter(e.mechanism.links[link].parts))


def _spanned(e: Evaluation) -> tuple[list[tuple[int, int, ResolvedJoint | None]], list[ResolvedJoint]]:
    """Links with their parents, parents first, and the joints that are left: driven ones lie on the tree, then those that are hard to
    close a loop with."""
    m = e.mechanism
    driven = {d.joint for d in e.document.drivers.values()}
    hard = {"revolute": 2, "spherical": 3}
    joints = sorted(
        (j for j in m.joints.values() if j.kind in MOTIONS), key=lambda j: (j.id not in driven, hard.get(j.kind, 1))
    )
    root = list(range(len(m.links)))

    def top(k: int) -> int:
        while root[k] != k:
            k = root[k]
        return k

    on: list[ResolvedJoint] = []
    for j in joints:
        if top(j.a) != top(j.b):
            root[top(j.b)] = top(j.a)
            on.append(j)
    tree: list[tuple[int, int, ResolvedJoint | None]] = []
    reached, rest = {0}, list(on)
    while True:
        nearer = next((j for j in rest if (j.a in reached) != (j.b in reached)), None)
        if nearer is not None:
            parent, link = (nearer.a, nearer.b) if nearer.a in reached else (nearer.b, nearer.a)
            tree.append((link, parent, nearer))
            rest.remove(nearer)
        else:
            link = next((k for k in range(len(m.links)) if k not in reached), -1)
            if link < 0:
                break
            tree.append((link, -1, None))
        reached.add(link)
    ids = {j.id for j in on}
    return tree, [j for j in m.joints.values() if j.id not in ids]


def _elementary(angle: float, sort: Turning, axis: Array) -> Array:
    """The pose (7,) of one motion."""
    if sort == "slide":
        return np.concatenate([angle * axis, IDENTITY[3:]])
    return np.concatenate([np.zeros(3), [np.cos(angle / 2)], np.sin(angle / 2) * axis])


def _motions(
    e: Evaluation, joint: ResolvedJoint | None, turned: bool, values: dict[str, Array]
) -> tuple[Elementary, ...]:
    """How a joint moves the child, in the order in which a simulator applies it, with its coordinates over the frames put into `values`."""
    if joint is None:
        return ()
    if joint.kind == "spherical":
        end = joint.frame_a if turned else joint.frame_b
        return (Elementary(joint.id, "ball", Z, end[:3], 0.0, None),)
    limits = {name: (low, high) for name, low, high in joint.limits}
    starts = {}
    for name, _, _ in MOTIONS[joint.kind]:
        values[f"{joint.id}.{name}"] = coordinate(e, joint, name)
        starts[name] = float(values[f"{joint.id}.{name}"][0])
    moves = [(name, sort, axis, starts[name]) for name, sort, axis in MOTIONS[joint.kind]]
    frame = far_frame(np.asarray(e.moved.motion.pose[0]), joint, starts)
    if turned:
        moves, frame = [(name, sort, -axis, start) for name, sort, axis, start in moves[::-1]], joint.frame_a
    return tuple(
        Elementary(f"{joint.id}.{name}", sort, axis, point, starts[name], limits.get(name))
        for (name, sort, _, _), (point, axis) in zip(moves, lines_of(moves, frame), strict=True)
    )


def far_frame(pose: Array, joint: ResolvedJoint, starts: Mapping[str, float]) -> Array:
    """The frame on b that would lie on a's with all coordinates at zero, from how both stand at the start (L, 7): that of a relation may
    look the other way."""
    moved = joint.frame_a
    for name, sort, axis in (MOTIONS | SLOTS)[joint.kind]:
        moved = poses.compose(moved, _elementary(starts.get(name, 0.0), sort, axis))
    return np.asarray(poses.compose(poses.compose(poses.inverse(pose[joint.b]), pose[joint.a]), moved))


def lines_of(moves: Sequence[tuple[str, Turning, Array, float]], frame: Array) -> list[tuple[Array, Array]]:
    """For each motion (name, sort, axis, where it starts) of a child with its end of the joint at `frame`: a point of its axis and its
    direction, in the child's frame at the start. What is applied after a motion carries it along."""
    out = []
    for k, (_, _, axis, _) in enumerate(moves):
        after = IDENTITY
        for _, sort, way, start in moves[k + 1 :]:
            after = poses.compose(after, _elementary(start, sort, way))
        at = poses.compose(frame, poses.inverse(after))
        out.append((at[:3], np.asarray(poses.rotate(at[3:], axis))))
    return out


def coordinate(e: Evaluation, joint: ResolvedJoint, name: str) -> Array:
    """A coordinate over the frames, (F,)."""
    key = joint.id if joint.coordinates and joint.coordinates[0] == name else f"{joint.id}.{name}"
    if joint.kind != "universal":
        return np.asarray(e.coordinates[key].value)
    pose = e.moved.motion.pose  # the second angle of a universal joint is that about the cross's own arm
    a = poses.compose(pose[:, joint.a], np.broadcast_to(joint.frame_a, (len(pose), 7)))
    b = poses.compose(pose[:, joint.b], np.broadcast_to(joint.frame_b, (len(pose), 7)))
    turn = poses.matrix(poses.compose(poses.inverse(a), b)[:, 3:])
    bend_x = np.arctan2(turn[:, 2, 1], turn[:, 1, 1])  # the arm along y of b turns about x of a alone
    bend_y = np.arctan2(turn[:, 0, 2], turn[:, 0, 0])
    return np.unwrap(bend_x if name == "bend_x" else bend_y)


def _ball(pose: Array, parent: int, link: int) -> Array:
    """(F, 4) how a link has turned against its parent since the start, in its own frame."""
    between = poses.compose(poses.inverse(pose[:, parent]), pose[:, link])
    first = np.broadcast_to(poses.inverse(between[0]), between.shape)
    return np.asarray(poses.compose(first, between)[:, 3:])


def placed_links(tree: LinkTree, values: Mapping[str, float]) -> Array:
    """Poses (L, 7) of all links at coordinates; those that are not named are as at the start."""
    at = tree.poses.copy()
    for b in tree.branches:
        if b.parent < 0:
            continue
        relative = poses.compose(poses.inverse(tree.poses[b.parent]), tree.poses[b.link])
        for one in b.motions:
            if one.sort == "ball":
                continue
            to = np.concatenate([one.point, IDENTITY[3:]])
            by = _elementary(values.get(one.name, one.start) - one.start, one.sort, one.axis)
            relative = poses.compose(relative, poses.compose(poses.compose(to, by), poses.inverse(to)))
        at[b.link] = poses.compose(at[b.parent], relative)
    return at


def _pairs(e: Evaluation, branches: list[Branch], values: Mapping[str, Array]) -> tuple[tuple[Ratio, ...], list[str]]:
    """Pairs with a constant ratio, as sums of coordinates; and the others, in words."""
    m = e.mechanism
    rows = [r for r in m.rows if r.owner.startswith("pairs.") and r.kind != "point" and r.kind != "radial"]
    slots = {j.path for j in m.joints.values() if j.kind in SLOTS}
    rows = [r for r in rows if r.owner not in slots]
    tree = LinkTree(np.asarray(e.moved.motion.pose[0]), (), tuple(branches), (), (), (), values, {})
    names = [one.name for b in branches for one in b.motions if one.sort != "ball"]
    frames = [0, len(e.moved.motion.pose) // 3, 2 * len(e.moved.motion.pose) // 3]
    ratios, left_out = [], []
    for owner in dict.fromkeys(r.owner for r in rows):
        own = Rows([r for r in rows if r.owner == owner], len(m.links), m.reach)
        factors = np.array([_factors(e, own, tree, names, f) for f in frames])  # (3, rows, coordinates)
        size = np.abs(factors).max(initial=0.0)
        if len(own) != 1 or not size or np.ptp(factors, axis=0).max() > CONSTANT * size:
            left_out.append(f"{m.names.get(owner, owner)}: its ratio is not constant")
            continue
        mean = factors.mean(axis=0)[0]
        terms = tuple((n, float(f)) for n, f in zip(names, mean, strict=True) if abs(f) > CONSTANT * size)
        ratios.append(Ratio(owner, terms))
    silent = {f"pairs.{i}" for i in e.document.pairs} - {r.owner for r in m.rows} - slots
    left_out += [
        f"{m.names.get(p, e.document.pairs[p[6:]].name)}: its force is not in the file" for p in sorted(silent)
    ]
    return tuple(ratios), left_out


def _factors(e: Evaluation, rows: Rows, tree: LinkTree, names: list[str], frame: int) -> Array:
    """(m, n) by how much each row changes with each coordinate, at a frame."""
    here = {n: float(tree.values[n][frame]) for n in names}
    out = np.zeros((len(rows), len(names)))
    time = np.zeros(1)
    for k, n in enumerate(names):
        varied = [placed_links(tree, here | {n: here[n] + d}) for d in (STEP, -STEP)]
        ends = [rows.value(e.mechanism.scaled(at)[None], time)[0][0] for at in varied]
        out[:, k] = (ends[0] - ends[1]) / (2 * STEP)
    return out


def link_mass(e: Evaluation, tree: LinkTree, link: int) -> tuple[float, Array, Array]:
    """Mass kg, centre (3,) m and inertia (3, 3) kg m2 about it of a link, in its own frame."""
    mass, moment, lumps = 0.0, np.zeros(3), []
    for one in tree.stands.get(link, ()):
        local = np.asarray(e.mechanism.links[link].local[one.id])
        for lump in lumps_of(e.document, one.id, one.solid):
            centre, turn = poses.place(local, lump.centre), poses.matrix(local[3:])
            lumps.append((lump.mass, centre, turn @ lump.inertia @ turn.T))
            mass, moment = mass + lump.mass, moment + lump.mass * centre
    centre = moment / mass if mass else moment
    inertia = np.zeros((3, 3))
    for own, c, i in lumps:
        off = c - centre
        inertia += i + own * (off @ off * np.eye(3) - np.outer(off, off))
    return mass, centre, inertia


def bodies_of(e: Evaluation, tree: LinkTree, link: int) -> Iterator[tuple[Stands, Array]]:
    """What stands on a link, with its pose (7,) there."""
    for one in tree.stands.get(link, ()):
        yield one, np.asarray(e.mechanism.links[link].local[one.id])
