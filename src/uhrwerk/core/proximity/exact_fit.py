"""Fits: faces of two bodies that keep a constant gap over a course, compared exactly from the B-rep.

A pin in its bore, a pin between the walls of a slot or of an arc slot, two flat faces that slide over one another. Facets
must never decide such a gap, and a search would measure it again and again. Each fit also knows which triangles of either
body it speaks for: what lies within the pin and what lies outside the bore, or behind either face, are nowhere nearer to one
another than the gap. What the infinite surfaces give is taken only where the faces themselves come that near (`met`).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.proximity.body_geometry import BodyGeometry, BodyPair
from uhrwerk.core.proximity.bounding_tree import from_origin
from uhrwerk.core.proximity.branch_and_bound import profile
from uhrwerk.core.solids import Face
from uhrwerk.core.solids.datum import any_across

#: a gap counts as constant when it changes by no more, m; as zero when it is smaller
CONSTANT = 1e-9
#: gaps wider than this part of the pin, or than so many metres between flat faces, are left to the search
PART, WIDE = 0.1, 5e-4


@dataclass(frozen=True)
class Fit:
    """Face numbers and the gap between the faces, m (negative: overlap). `stray` is what the gap may be off, m, where round faces
    were found in triangles: those are all that is known of such a body."""

    face_a: int
    face_b: int
    play: float
    stray: float = 0.0


def fits(a: BodyGeometry, b: BodyGeometry, at: Array) -> list[Fit]:
    """Faces of two bodies that keep a constant gap at all poses (n, 7) of b in a, exact from the B-rep faces."""
    turn = poses.matrix(at[:, 3:])
    out = []
    for i, j in _candidates(a, b, at[0], turn[0]):
        f, g = a.body.faces[i], b.body.faces[j]
        gap = _gap(f, g, turn @ g.direction, at[:, :3] + turn @ g.origin)
        if gap is None or np.ptp(gap) > CONSTANT:
            continue
        play = float(gap.min())
        round_ = ((x, face) for x, face in ((a, f), (b, g)) if face.kind == "cylinder")
        stray = sum(x.body.deviation for x, _ in round_ if not x.body.exact)
        out.append(Fit(i, j, 0.0 if abs(play) < CONSTANT else play, stray))
    return out


def _candidates(a: BodyGeometry, b: BodyGeometry, pose: Array, turn: Array) -> list[tuple[int, int]]:
    """Faces that lie to one another as a fit does at one pose: parallel cylinders, facing planes, cylinders along planes;
    none that are plainly too far apart."""
    (na, oa, za, ra), (nb, ob, zb, rb) = a.round_and_flat, b.round_and_flat
    if not len(na) or not len(nb):
        return []
    ob, zb = pose[:3] + ob @ turn.T, zb @ turn.T
    along = za @ zb.T
    flat_a, flat_b = (ra == 0)[:, None], (rb == 0)[None]
    lies = np.where(
        flat_a & flat_b, along < -1 + 1e-9, np.where(flat_a | flat_b, np.abs(along) < 1e-9, np.abs(along) > 1 - 1e-9)
    )
    between = ob[None] - oa[:, None]
    over_a, over_b = np.einsum("ijk,ik->ij", between, za), -np.einsum("ijk,jk->ij", between, zb)
    across = np.sqrt(np.maximum(0.0, (between**2).sum(axis=2) - over_a**2))
    size = ra[:, None] + rb[None]
    far = np.where(
        flat_a & flat_b, over_a - WIDE, np.where(flat_a, over_a, np.where(flat_b, over_b, across)) - (1 + PART) * size
    )
    i, j = np.nonzero(lies & (far < CONSTANT))
    return list(zip(na[i].tolist(), nb[j].tolist(), strict=True))


def _gap(f: Face, g: Face, z: Array, o: Array) -> Array | None:
    """(n,) the gap between the surfaces of two faces, with g's direction (n, 3) and origin (n, 3) seen from f; None where
    they do not lie to one another as a fit does."""
    along = z @ f.direction
    between = o - f.origin
    if f.kind == g.kind == "plane":
        if along.max() > -1 + 1e-12:
            return None
        gap = between @ f.direction
        return gap if -CONSTANT < gap.min() < WIDE else None
    if f.kind == "plane":
        return _beside(between @ f.direction, along, g)
    if g.kind == "plane":
        return _beside(np.einsum("ni,ni->n", f.origin - o, z), along, f)
    if np.abs(along).min() < 1 - 1e-10:
        return None
    ahead = between @ f.direction
    off = np.linalg.norm(between - ahead[:, None] * f.direction, axis=1)
    ends = np.stack([ahead, ahead + g.length * along])
    if (ends.max(axis=0) <= 1e-9).any() or (ends.min(axis=0) >= f.length - 1e-9).any():
        return None
    if f.outward == g.outward:
        if not f.outward:
            return None
        gap, size = off - f.radius - g.radius, min(f.radius, g.radius)
        return gap if gap.min() >= -CONSTANT and gap.min() < PART * size else None
    pin, bore = (f.radius, g.radius) if f.outward else (g.radius, f.radius)
    gap = bore - pin - off
    centred = abs(pin - bore) <= PART * bore and off.max() <= PART * bore
    return gap if centred or -CONSTANT <= gap.min() < PART * pin else None


def _beside(height: Array, along: Array, pin: Face) -> Array | None:
    """The gap of a pin that lies along a plane, its axis so high above it."""
    if not pin.outward or np.abs(along).max() > 1e-10:
        return None
    gap = height - pin.radius
    return gap if -CONSTANT < gap.min() < PART * pin.radius else None


def met(a: BodyGeometry, b: BodyGeometry, fit: Fit, at: Array) -> bool:
    """Whether the two faces themselves come within their gap of one another at one of the poses (n, 7), as far as
    triangles tell."""
    slack = a.body.deviation + b.body.deviation + 1e-7
    some = at[np.unique(np.linspace(0, len(at) - 1, 25).astype(int))]
    far = profile(a.patch(fit.face_a).clusters, b.patch(fit.face_b).clusters, some, fine=slack / 2)
    return bool(far.min() <= abs(fit.play) + 2 * slack)


def spoken_for(a: BodyGeometry, b: BodyGeometry, fitted: list[Fit]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Which triangles of a (m,) and of b (n,) each fit speaks for, as bits: the k-th fit sets the k-th bit."""
    marks = np.zeros(len(a.body.triangles), dtype=np.int64), np.zeros(len(b.body.triangles), dtype=np.int64)
    for k, fit in enumerate(fitted[:60]):
        f, g = a.body.faces[fit.face_a], b.body.faces[fit.face_b]
        for mark, form, own in ((marks[0], a, f), (marks[1], b, g)):
            mark[_side(form, own)] |= 1 << k
    return marks


def _side(form: BodyGeometry, face: Face) -> NDArray[np.bool_]:
    """(m,) triangles of a body that lie wholly behind a flat face, within a pin's cylinder, or outside a bore's."""
    v = form.body.vertices - face.origin
    t = form.body.triangles
    if face.kind == "plane":
        return np.asarray((v @ face.direction)[t].max(axis=1) < 1e-9)
    x = any_across(face.direction)
    flat = np.stack([v @ x, v @ np.cross(face.direction, x)], axis=1)
    if face.outward:
        return np.asarray(np.linalg.norm(flat, axis=1)[t].max(axis=1) < face.radius + 1e-9)
    return from_origin(flat[t]) > face.radius - 2 * form.body.deviation


def drawn_back_triangles(
    a: BodyGeometry, b: BodyGeometry, fitted: list[Fit]
) -> tuple[tuple[tuple[int, float], ...], tuple[tuple[int, float], ...]]:
    """How far the triangles of each fitted face are drawn back when the rest of both bodies is required an overlap."""
    relief = 2 * max(a.body.deviation, b.body.deviation)
    sides: tuple[dict[int, float], dict[int, float]] = ({}, {})
    for fit in fitted:
        for side, face in ((0, fit.face_a), (1, fit.face_b)):
            depth = relief + max(0.0, -fit.play)
            sides[side][face] = max(depth, sides[side].get(face, 0.0))
    return tuple(sorted(sides[0].items())), tuple(sorted(sides[1].items()))


def fitted(a: BodyGeometry, b: BodyGeometry, at: Array) -> BodyPair:
    """A pair with the triangles of pins and bores that fit at a pose (7,) drawn back."""
    fitted = [
        f for f in fits(a, b, at[None]) if a.body.faces[f.face_a].kind == b.body.faces[f.face_b].kind == "cylinder"
    ]
    return BodyPair(a, b, drawn_back_triangles(a, b, fitted))


__all__ = ["Fit", "drawn_back_triangles", "fits", "fitted", "met", "spoken_for"]
