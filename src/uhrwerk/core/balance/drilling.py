"""Corrections of a rotor written as build steps: holes drilled where it is heavy, or studs put on where it is light.

A hole with a flat bottom, or a stud, of diameter d and length l at a radius takes away or adds an unbalance of density times pi/4 d^2 l
times that radius, halfway along l. In two planes these halves are the planes, so that lengths and planes are found together. Lengths
are rounded up to a size that can be made, and the radius takes up the difference.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import permutations, product
from math import pi
from typing import Literal

import numpy as np

from uhrwerk.core.assembly.mass_properties import density_of
from uhrwerk.core.balance.rotor import Rotor
from uhrwerk.core.document import Command, Document, parse
from uhrwerk.core.elements.like import Like
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.outlines import Circle
from uhrwerk.core.part import part_datums
from uhrwerk.core.quantity import length_text
from uhrwerk.core.solids.datum import face_axes
from uhrwerk.core.solids.flat import inside
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.steps import AtPoints, BuildStep, Extrude, Hole, Spot

Form = Literal["drilled", "added"]

#: diameters of drills and studs, m: whole millimetres, or eighths of an inch
SIZES = {
    "mm": tuple(k * 1e-3 for k in (3, 4, 5, 6, 8, 10, 12, 16)),
    "in": tuple(k * 25.4e-3 / 16 for k in (2, 3, 4, 5, 6, 8, 10)),
}
#: to what lengths are rounded, m, by the unit in which they are written
ROUND = {"mm": 1e-4, "in": 0.005 * 25.4e-3}
#: how many side by side at most; wall left between them, to every edge and beneath, m; least length; studs: longest, by diameter
MOST, WALL, LEAST, STUD = 5, 1e-3, 3e-4, 1.5
#: radii tried from the outside inwards, and points round a hole beneath which it is looked how thick the body is
RADII, ROUND_ABOUT = 60, 24
#: a face is square to the axis where its normal is off by less, rad
SQUARE = 1e-9
#: a surface nearer beneath a face is the face itself, m
BENEATH = 1e-7
#: times that lengths and planes are fitted to one another
FITTED = 8
#: faces looked at for each plane, nearest first, and plans made
NEAREST, PLANS = 4, 3


@dataclass(frozen=True)
class DrillingSeat:
    """A flat face, square to the axis, of a part that turns: at `z` m along the axis, `up` 1 or -1 its outward side; its triangles
    (m, 3, 2), the edges round it (b, 2, 2), and the triangles of the body (k, 3, 3), all in the rotor's frame; `pose` (7,) of the part in that frame."""

    part: str
    face: str
    direction: Array
    z: float
    up: int
    triangles: Array
    edges: Array
    body: Array
    pose: Array
    density: float

    def room(self, points: Array) -> Array:
        """(n,) how far points (n, 2) of the face lie from its edges, m; less than nothing beside it."""
        start, along = self.edges[:, 0], self.edges[:, 1] - self.edges[:, 0]
        off = points[:, None] - start
        part = np.clip(np.sum(off * along, axis=2) / np.maximum(np.sum(along**2, axis=1), 1e-30), 0, 1)
        near = np.linalg.norm(off - part[..., None] * along, axis=2).min(axis=1)
        return np.asarray(np.where(inside(self.triangles, points).any(axis=1), near, -near))

    def thickness(self, points: Array) -> float:
        """How thick the body is beneath points (n, 2), at least, m."""
        flat = self.body[..., :2]
        over = ((flat.max(axis=1) >= points.min(axis=0)) & (flat.min(axis=1) <= points.max(axis=0))).all(axis=1)
        a, b, c = self.body[over].transpose(1, 0, 2)
        normal = np.cross(b - a, c - a)
        level = np.asarray(np.abs(normal[:, 2]) > 1e-18)
        slope = np.where(level[:, None], normal[:, :2] / np.where(level, normal[:, 2], 1.0)[:, None], 0.0)
        hit = inside(flat[over], points) & level
        depth = self.up * (self.z - a[:, 2] + np.sum(slope * (points[:, None] - a[:, :2]), axis=2))
        return float(np.where(hit & (depth > BENEATH), depth, np.inf).min(initial=np.inf))


@dataclass(frozen=True)
class Holes:
    """Holes or studs side by side on one face: diameter, length and radius, m; angles (n,) rad from x of the rotor's frame."""

    seat: DrillingSeat
    form: Form
    diameter: float
    length: float
    radius: float
    angles: Array

    @property
    def middle(self) -> float:
        """Where their centre of mass lies along the axis, m."""
        return self.seat.z + self.seat.up * self.length / 2 * (1 if self.form == "added" else -1)

    @property
    def unbalance(self) -> Array:
        """(2,) kg m: what they add to the rotor."""
        each = self.seat.density * pi / 4 * self.diameter**2 * self.length * self.radius
        way = np.stack([np.cos(self.angles), np.sin(self.angles)], axis=1)
        return np.asarray((1 if self.form == "added" else -1) * each * way.sum(axis=0))

    @property
    def mass(self) -> float:
        """kg: what they take away or add."""
        return float(self.seat.density * pi / 4 * self.diameter**2 * self.length * len(self.angles))

    def spots(self) -> list[tuple[float, float]]:
        """Their places in the part's own plane of the face, m."""
        inward, (x, y) = poses.inverse(self.seat.pose), face_axes(self.seat.direction)
        at = [[*(self.radius * np.array([np.cos(a), np.sin(a)])), self.seat.z] for a in self.angles]
        own = [poses.place(inward, np.array(p)) for p in at]
        return [(float(p @ x), float(p @ y)) for p in own]

    def steps(self, document: Document) -> list[BuildStep]:
        """As build steps of the part."""

        def told(value: float) -> str:
            return length_text(value, document.unit_of("length"), 1e-7)

        size, length, face = told(self.diameter), told(self.length), self.seat.face
        spots = [Spot(x=told(x), y=told(y)) for x, y in self.spots()]
        if self.form == "drilled":
            at = AtPoints(spots={chr(97 + k): s for k, s in enumerate(spots)})
            return [Hole(name="Balancing holes", plane=face, at=at, diameter=size, through=False, depth=length)]
        circles = [Circle(diameter=size, x=s.x, y=s.y) for s in spots]
        return [Extrude(name="Balancing stud", plane=face, outline=c, length=length) for c in circles]


@dataclass(frozen=True)
class DrillingPlan:
    """Holes or studs that balance a rotor, in one plane or two."""

    holes: tuple[Holes, ...]

    def command(self, document: Document) -> Command:
        """All of them as one change."""
        steps = [
            {"kind": "add_step", "part": h.seat.part, "step": s.model_dump(mode="json")}
            for h in self.holes
            for s in h.steps(document)
        ]
        form = "drilled" if self.holes[0].form == "drilled" else "put on"
        return parse({"kind": "together", "commands": steps, "words": f"balancing {form}"})


def plans(e: Evaluation, r: Rotor, planes: int, form: Form) -> list[DrillingPlan]:
    """The first that fit, of faces nearest to its centre of gravity, or to its ends in two planes; none where there is no room."""
    if np.hypot(*r.first) <= r.error and (planes < 2 or np.hypot(*r.couple) <= r.error * r.reach):
        return []  # there is nothing to correct
    seats = list(_seats(e, r))
    unit = "in" if e.document.unit_of("length").startswith("in") else "mm"
    if planes < 2:
        near = sorted(seats, key=lambda s: (abs(s.z - r.centre[2]), -np.abs(s.triangles).max(initial=0.0)))
        one = (_fitted(s, r.first, form, unit) for s in near)
        return [DrillingPlan((h,)) for h in one if h is not None][:PLANS]
    ends = [sorted(seats, key=lambda s, at=at: abs(s.z - at))[:NEAREST] for at in r.span]  # type: ignore[misc]
    pairs = [(a, b) for a, b in product(*ends) if b.z - a.z > 2 * LEAST] or [
        (a, b) for a, b in permutations(seats, 2) if b.z > a.z
    ]
    both = (_both(r, a, b, form, unit) for a, b in sorted(pairs, key=lambda p: p[0].z - p[1].z))
    return [p for p in both if p is not None][:PLANS]


def _both(r: Rotor, low: DrillingSeat, high: DrillingSeat, form: Form, unit: str) -> DrillingPlan | None:
    """Holes in two faces; their middles are the planes, and move with their lengths."""
    at, holes = [low.z, high.z], list[Holes]()
    for _ in range(FITTED):
        if at[1] - at[0] < LEAST:
            return None
        both = [_fitted(s, u, form, unit) for s, u in zip((low, high), r.in_planes(*at), strict=True)]
        holes = [h for h in both if h is not None]
        if len(holes) < 2:
            return None
        if np.allclose([h.middle for h in holes], at, rtol=0, atol=1e-9):
            return DrillingPlan(tuple(holes))
        at = [h.middle for h in holes]
    # lengths go to and fro between two sizes: these, with radii that suit them
    us = r.in_planes(*at)
    scaled = [h.radius * float(np.hypot(*u) / np.hypot(*h.unbalance)) for h, u in zip(holes, us, strict=True)]
    return DrillingPlan(tuple(replace(h, radius=x) for h, x in zip(holes, scaled, strict=True)))


def _fitted(seat: DrillingSeat, unbalance: Array, form: Form, unit: str) -> Holes | None:
    """The fewest, then the thinnest that take this unbalance (2,) kg m away, as far out as there is room for them."""
    size = float(np.hypot(*unbalance))
    toward = np.arctan2(unbalance[1], unbalance[0]) + (0 if form == "drilled" else pi)
    reach = float(np.hypot(seat.triangles[..., 0], seat.triangles[..., 1]).max(initial=0.0))
    deepest = float(np.ptp(seat.body[..., 2])) - WALL
    for count, d in product(range(1, MOST + 1), SIZES[unit]):
        if reach < d + WALL:
            break
        radius = np.linspace(reach - d / 2 - WALL, d / 2, RADII)
        needed = size / np.maximum(_gain(seat, count, d, radius)[0] * radius, 1e-30)
        right = (needed >= LEAST) & (needed <= (STUD * d if form == "added" else deepest))
        length = np.ceil(needed / ROUND[unit] - 1e-9) * ROUND[unit]
        for _ in range(FITTED):  # the radius takes up what was rounded; further in, they spread further
            gain, off = _gain(seat, count, d, radius)
            radius = size / (np.maximum(gain, 1e-30) * length)
        right &= np.ptp(off, axis=1) <= pi
        angles = toward + off
        middles = radius[:, None, None] * np.stack([np.cos(angles), np.sin(angles)], axis=2)
        right[right] = seat.room(middles[right].reshape(-1, 2)).reshape(-1, count).min(axis=1) >= d / 2 + WALL
        for k in np.flatnonzero(right):
            holes = Holes(seat, form, d, float(length[k]), float(radius[k]), angles[k])
            if form == "added" or _deep(holes, middles[k]):
                return holes
    return None


def _gain(seat: DrillingSeat, count: int, d: float, radius: Array) -> tuple[Array, Array]:
    """For radii (n,): unbalance for each length and radius, kg/m; and the angles (n, count) between which they stand, a wall apart."""
    apart = 2 * np.arcsin(np.minimum(1.0, (d + WALL) / (2 * radius)))
    off = (np.arange(count) - (count - 1) / 2) * apart[:, None]
    return np.asarray(seat.density * pi / 4 * d**2 * np.cos(off).sum(axis=1)), off


def _deep(h: Holes, middles: Array) -> bool:
    """Whether holes at these middles (n, 2) leave a wall beneath."""
    turn = np.arange(ROUND_ABOUT) * 2 * pi / ROUND_ABOUT
    about = (h.diameter / 2 + WALL) * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    points = (middles[:, None] + np.concatenate([np.zeros((1, 2)), about])).reshape(-1, 2)
    return h.seat.thickness(points) >= h.length + WALL


def _seats(e: Evaluation, r: Rotor) -> Iterator[DrillingSeat]:
    """Faces square to the axis, of parts that are used once."""
    m, document = e.mechanism, e.stated
    used = [p.part for p in e.document.placed.values()]  # copies too
    taken = part_datums.referenced_parts(document) | {
        x.element.part for x in document.parts.values() if isinstance(x.element, Like)
    }
    for p in r.parts:
        placed = document.placed.get(p)
        if placed is None or placed.mirrored or used.count(placed.part) > 1 or placed.part in taken:
            continue
        if document.parts[placed.part].is_measured:
            continue  # what was found stays so, whatever is drilled
        here = poses.compose(poses.inverse(r.frame), m.part_pose(p, e.moved.motion.pose[0]))
        for face, corners, body in part_datums.flat_faces(document, placed.part, e.context):
            z = poses.rotate(here[3:], face.direction)
            if np.abs(z[:2]).max() > SQUARE:
                continue
            solid = poses.place(here, body.vertices)[body.triangles]
            flat = poses.place(here, corners.reshape(-1, 3)).reshape(-1, 3, 3)[..., :2]
            height = float(poses.place(here, face.origin)[2])
            yield DrillingSeat(
                placed.part, face.name, face.direction, height, 1 if z[2] > 0 else -1, flat, _edges(flat), solid, here,
                density_of(e.document, p, e.solids[p]),
            )  # fmt: skip


def _edges(triangles: Array) -> Array:
    """(b, 2, 2): the edges that one triangle (m, 3, 2) alone has."""
    ends = np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=2).reshape(-1, 2, 2)
    rounded = np.round(ends * 1e9).astype(np.int64)
    swapped = (rounded[:, 0, 0] > rounded[:, 1, 0]) | (
        (rounded[:, 0, 0] == rounded[:, 1, 0]) & (rounded[:, 0, 1] > rounded[:, 1, 1])
    )
    rounded[swapped] = rounded[swapped][:, ::-1]
    _, first, times = np.unique(rounded.reshape(-1, 4), axis=0, return_index=True, return_counts=True)
    return np.asarray(ends[first[times == 1]])
