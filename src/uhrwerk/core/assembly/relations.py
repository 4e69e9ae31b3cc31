"""Relations between datums: their rows, and the joint that several of them make together.

What two links can still do against one another is the null space of the relations' rows between them; a null space of
one twist is a turn, a slide or a screw about an axis that the twist itself gives (Hunt, Kinematic Geometry of
Mechanisms, 1978, ch. 2-3), and those of two and three twists that the trade has names for are told by their turns and
slides. From memory.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.assembly.joints import Held, axes
from uhrwerk.core.assembly.pose import Array
from uhrwerk.core.assembly.rows import Row, Rows
from uhrwerk.core.assembly.solve import TOLERANCE, assemble, null_space
from uhrwerk.core.field import Numbers
from uhrwerk.core.solids import Datum
from uhrwerk.core.solids.datum import any_across


class NotFitting(ValueError):
    """A relation that the datums do not allow, in words."""


@dataclass(frozen=True)
class Place:
    """A datum on a link: its frame there, and the placed part that has it."""

    link: int
    frame: Array
    datum: Datum
    placed: str


FLIP = np.array([0.0, 0, 0, 0, 1, 0, 0])


def turned_over(frame: Array) -> Array:
    """The frame with z and y the other way."""
    return poses.compose(frame, FLIP)


def rows(n: Numbers, a: Place, b: Place, about: Place | None, owner: str) -> list[Row]:
    """The equations of a relation with its numbers. NotFitting where these datums do not allow it."""
    (xa, _, za), (xb, yb, zb) = axes(a.frame), axes(b.frame)
    oa, ob = a.frame[:3], b.frame[:3]
    kinds = a.datum.kind, b.datum.kind

    def square(u: Array, v: Array) -> Row:
        return Row("square", a.link, b.link, (u, v), owner)

    def along(u: Array, wanted: float = 0.0) -> Row:
        return Row("point", a.link, b.link, (oa, u, ob), owner, wanted)

    def back(u: Array, wanted: float) -> Row:  # measured on b
        return Row("point", b.link, a.link, (ob, u, oa), owner, wanted)

    def radial(distance: float) -> Row:
        return Row("radial", a.link, b.link, (oa, za, ob), owner, sizes=(distance,))

    def need(fits: bool, words: str) -> None:
        if not fits:
            raise NotFitting(f"{words}; these are {_spoken(a.datum)} and {_spoken(b.datum)}")

    parallel = [square(za, xb), square(za, yb)]
    directed = all(k in ("axis", "plane", "frame") for k in kinds)
    if n.kind == "flush":
        need(kinds == ("plane", "plane"), "flush needs two faces")
        return [*parallel, along(za, n.offset)]
    if n.kind == "concentric":
        need(kinds == ("axis", "axis"), "concentric needs two axes")
        return [*parallel, along(xa), along(np.cross(za, xa))]
    if n.kind == "parallel":
        need(directed, "parallel needs axes or faces")
        return parallel
    if n.kind == "perpendicular":
        need(directed, "perpendicular needs axes or faces")
        return [square(za, zb)]
    if n.kind == "angle":
        need(directed, "an angle needs axes or faces")
        if about is not None:
            (_, _, z) = axes(about.frame)
            return [Row("signed", a.link, b.link, (za, zb, z), owner, n.angle, c=about.link)]
        if not -1e-12 <= n.angle <= np.pi + 1e-12:
            raise NotFitting("an angle lies between 0 and 180 deg; for a signed one say about which axis it is counted")
        if min(n.angle, np.pi - n.angle) < 1e-9:
            return parallel
        return [Row("lean", a.link, b.link, (za, zb), owner, sizes=(n.angle,))]
    if n.kind == "distance":
        d = n.distance
        if kinds == ("plane", "plane"):
            return [*parallel, along(za, d)]
        if kinds == ("plane", "axis"):
            return [square(za, zb), along(za, d)]
        if kinds == ("axis", "plane"):
            return [square(za, zb), back(zb, d)]
        if kinds[0] == "plane":
            return [along(za, d)]
        if kinds[1] == "plane":
            return [back(zb, d)]
        if d < 0:
            raise NotFitting("a distance between axes or points cannot be negative")
        if d == 0:
            raise NotFitting("a distance of zero: use concentric, or a spherical joint for two points")
        if kinds == ("axis", "axis"):
            return [*parallel, radial(d)]
        if kinds[0] == "axis":
            return [radial(d)]
        if kinds[1] == "axis":
            return [Row("radial", b.link, a.link, (ob, zb, oa), owner, sizes=(d,))]
        return [Row("span", a.link, b.link, (oa, ob), owner, sizes=(d,))]
    if n.kind == "tangent":
        sign = 1.0 if n.side == "outside" else -1.0
        need(
            set(kinds) <= {"axis", "plane"} and kinds != ("plane", "plane"),
            "tangent needs a cylinder and a face, or two cylinders",
        )
        for place in (a, b):
            if place.datum.kind == "axis" and not place.datum.radius:
                raise NotFitting("tangent needs a cylinder; one of these axes has no radius")
        if kinds == ("plane", "axis"):
            return [square(za, zb), along(za, sign * b.datum.radius)]
        if kinds == ("axis", "plane"):
            return [square(za, zb), back(zb, sign * a.datum.radius)]
        between = abs(a.datum.radius + sign * b.datum.radius)
        if between < 1e-9:
            raise NotFitting("two cylinders of one radius touch inside everywhere: use concentric")
        return [*parallel, radial(between)]
    if n.kind == "symmetric":
        assert about is not None
        if about.datum.kind != "plane":
            raise NotFitting("symmetric needs a face as its plane")
        need(kinds[0] == kinds[1], "symmetric needs two datums of one kind")
        (_, _, nc), oc = axes(about.frame), about.frame[:3]

        def mirror(u: Array, p: Array) -> Row:
            return Row("mirror", a.link, b.link, (u, p, nc), owner, c=about.link)

        def image(p: Array) -> Row:
            return Row("mirror_point", a.link, b.link, (oa, ob, p, oc, nc), owner, c=about.link)

        if kinds[0] == "axis":
            return [mirror(za, xb), mirror(za, yb), image(xb), image(yb)]
        if kinds[0] == "plane":
            return [mirror(za, xb), mirror(za, yb), image(zb)]
        return [image(xb), image(yb), image(zb)]
    raise ValueError(n.kind)


def _spoken(d: Datum) -> str:
    return {"axis": "an axis", "plane": "a face", "point": "a point", "frame": "a frame"}.get(d.kind, f"a {d.kind}")


def recognised(
    related: list[tuple[Numbers, Place, Place, list[Row]]], start: Array, reach: float, held: Held
) -> Held | None:
    """The joint that relations between the same two links make together, or None. `held` brings its names; link a stands
    still and b is solved against it alone, from where both start."""
    _, a, b, _ = related[0]

    def local(row: Row) -> Row:
        index = {a.link: 0, b.link: 1}
        return replace(row, a=index[row.a], b=index[row.b], c=index.get(row.c, -1))

    system = Rows([local(r) for *_, own in related for r in own], 2, reach)
    scale = np.array([1 / reach] * 3 + [1.0] * 4)
    pose, left = assemble(system, start[[a.link, b.link]] * scale)
    if left > TOLERANCE:
        return None
    j = system.dense(system.value(pose[None], np.zeros(1))[1])[0][:, 6:]
    null, _ = null_space(j)
    v, w = null[:3], null[3:]
    turns, slides = (int((np.linalg.svd(part, compute_uv=False) > 1e-7).sum()) if part.size else 0 for part in (w, v))
    count = null.shape[1]
    origin = pose[1, :3]
    if count == 0:
        return replace(held, kind="rigid")
    if count == 3 and turns == 3:
        kind = "spherical"
        # the point that no turn moves: v + w x (c - origin) = 0
        c = (
            origin
            + np.linalg.lstsq(np.vstack([_across(w[:, k]) for k in range(3)]), -np.concatenate(list(v.T)), rcond=None)[
                0
            ]
        )
        z = poses.rotate(pose[0, 3:], axes(a.frame)[2])
    elif turns == 0 and count == 1:
        kind, z, c = "prismatic", v[:, 0] / np.linalg.norm(v[:, 0]), origin
    elif turns == 1:
        lead = np.linalg.svd(w)[2][0]  # the combination that turns
        spin, move = w @ lead, v @ lead
        z = spin / np.linalg.norm(spin)
        c = origin + np.cross(spin, move) / (spin @ spin)
        pure = np.linalg.svd(w)[2][1:] @ v.T  # combinations that only slide
        if count == 1 and abs(move @ z) < 1e-7 * np.linalg.norm(spin):
            kind = "revolute"
        elif count == 2 and np.linalg.norm(np.cross(pure[0], z)) < 1e-7:
            kind = "cylindrical"
        elif count == 3 and slides >= 2 and np.abs(pure @ z).max() < 1e-7:
            kind = "planar"
        else:
            return None
    else:
        return None
    za = poses.rotate(pose[0, 3:], axes(a.frame)[2])
    if z @ za < -1e-6 or (abs(z @ za) <= 1e-6 and z[int(np.argmax(np.abs(z)))] < 0):
        z = -z
    ends = []
    for link, place in ((0, a), (1, b)):
        at = poses.place(pose[link], place.frame[:3] / np.array(reach))
        if kind == "prismatic" and link == 0:
            c = at
        foot = c + ((at - c) @ z) * z if kind in ("cylindrical", "prismatic") else c
        if kind == "planar":
            foot = at - ((at - c) @ z) * z
        x = (
            z
            if kind == "prismatic"
            else _level(
                poses.rotate(pose[link, 3:], axes(place.frame)[0]),
                z,
                poses.rotate(pose[link, 3:], axes(place.frame)[1]),
            )
        )
        if kind == "prismatic":
            x = any_across(z)
        ends.append(
            poses.compose(poses.inverse(pose[link]), poses.from_axes(foot, x, z)) * np.array([reach] * 3 + [1.0] * 4)
        )
    return replace(held, kind=kind, frame_a=ends[0], frame_b=ends[1])


def _across(w: Array) -> Array:
    return np.array([[0, -w[2], w[1]], [w[2], 0, -w[0]], [-w[1], w[0], 0]])


def _level(x: Array, z: Array, other: Array) -> Array:
    """x made square to z; where it lies along z, `other` instead."""
    flat = x - (x @ z) * z
    if np.linalg.norm(flat) < 0.1:
        flat = other - (other @ z) * z
    return flat / np.linalg.norm(flat)


__all__ = ["NotFitting", "Place", "recognised", "rows", "turned_over"]
