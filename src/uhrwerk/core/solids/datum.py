"""A datum: a named place on a part to join by. Elements name theirs; on any solid they can be found from its faces."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from uhrwerk.core.solids.solid import Array, Body

#: of each base plane of a part: its x, and its normal
BASES = {"xy": ((1, 0, 0), (0, 0, 1)), "xz": ((1, 0, 0), (0, -1, 0)), "yz": ((0, 1, 0), (1, 0, 0))}


@dataclass(frozen=True)
class Datum:
    """origin (3,) m; z, x (3,) unit vectors: axis or outward normal, and the direction that turns are counted from.

    The origin is the one place of a datum: it is drawn there, and joins, measures, pulls and turns there. That of a face is
    the centroid of its outer boundary, that of a cylinder the middle of its length; an element states its own.
    An axis with a radius also says whether it is a bore's or a pin's, and that it reaches along z from `low` by `length`, m,
    both counted from the origin; one with a length and no radius is a straight edge. A slot runs along x through its middle, or as an arc of `radius` about z with its middle
    towards x; `length` is the way a pin has in it. `round`: a bore or pin goes all the way round; where it does not, the datum is
    the axis of a fillet or a rounding.
    """

    kind: Literal["axis", "plane", "frame", "point", "slot", "arc_slot"]
    origin: Array
    z: Array
    x: Array
    radius: float = 0.0
    side: Literal["bore", "pin", ""] = ""
    length: float = 0.0
    low: float = 0.0
    round: bool = True

    @property
    def ends(self) -> tuple[float, float]:
        """Where a pin or bore begins and ends along z from the origin, m, the lower first."""
        return min(self.low, self.low + self.length), max(self.low, self.low + self.length)

    def moved(self, by: Array) -> Datum:
        """The datum with its origin moved by (3,) m along its own x, y and z."""
        x, y, z = (float(v) for v in by)
        if not (x or y or z):
            return self
        origin = self.origin + x * self.x + y * np.cross(self.z, self.x) + z * self.z
        return replace(self, origin=origin, low=self.low - z if self.length and self.kind == "axis" else self.low)

    @property
    def words(self) -> str:
        if self.kind == "axis" and self.radius:
            return f"axis of {self.side} ⌀ {2e3 * self.radius:.3f} mm"
        if self.kind == "axis" and self.length:
            return "edge"
        return {"plane": "face", "arc_slot": "arc slot", "point": "corner"}.get(self.kind, self.kind)


def axis(
    x: float, y: float, z: float, radius: float = 0.0, side: Literal["bore", "pin", ""] = "", length: float = 0.0
) -> Datum:
    """An axis along +z through (x, y, z)."""
    return Datum("axis", np.array([x, y, z]), np.array([0.0, 0, 1]), np.array([1.0, 0, 0]), radius, side, length)


def plane(x: float, y: float, z: float, up: bool = True) -> Datum:
    """A plane across z, with its outward normal up or down."""
    return Datum("plane", np.array([x, y, z]), np.array([0.0, 0, 1 if up else -1]), np.array([1.0, 0, 0]))


def face(origin: tuple[float, float, float], normal: tuple[float, float, float]) -> Datum:
    """A plane with any outward normal; its x lies along z of the part, or along x where the normal does."""
    z = np.array(normal, dtype=float)
    x = np.array([0.0, 0, 1]) if abs(z[2]) < 0.5 else np.array([1.0, 0, 0])
    return Datum("plane", np.array(origin, dtype=float), z, x)


def slot(x: float, y: float, z: float, length: float, arc: float = 0.0) -> Datum:
    """A slot along x, or along an arc of radius `arc` about (x, y); `length` is what a pin can travel."""
    kind: Literal["slot", "arc_slot"] = "arc_slot" if arc else "slot"
    return Datum(kind, np.array([x, y, z]), np.array([0.0, 0, 1]), np.array([1.0, 0, 0]), arc, "", length)


def axis_direction(z: Array) -> Array:
    """One of the two directions (3,) of a line: along the part's z, or y, or x where it lies across those before."""
    first = next((c for c in z[::-1] if abs(c) > 1e-9), 1.0)
    return np.asarray(z * np.sign(first))


def any_across(z: Array) -> Array:
    """A unit vector square to `z`."""
    helper = np.eye(3)[int(np.argmin(np.abs(z)))]
    across = np.cross(z, helper)
    return np.asarray(across / np.linalg.norm(across))


def face_axes(normal: Array) -> tuple[Array, Array]:
    """x and y (3,) of the plane on a face: y is the part's z moved squarely onto it; across z, x is the part's x moved so."""
    n = np.asarray(normal, dtype=float)
    x = np.array([1.0, 0, 0]) - n[0] * n if abs(n[2]) > 0.999 else np.cross(np.array([0.0, 0, 1]), n)
    x = x / np.linalg.norm(x)
    return x, np.cross(n, x)


def datums_of(body: Body) -> list[Datum]:
    """Datums of the cylinders and planes of a body; coaxial faces of one radius count once."""
    out: list[Datum] = []
    for face in body.faces:
        if face.kind not in ("plane", "cylinder"):
            continue
        z = face.direction
        datum = Datum(
            "axis" if face.kind == "cylinder" else "plane", face.origin, z, any_across(z), face.radius,
            ("pin" if face.outward else "bore") if face.kind == "cylinder" else "", face.length,
        )  # fmt: skip
        if not any(same_place(datum, other) for other in out):
            out.append(datum)
    return out


def same_place(a: Datum, b: Datum, tolerance: float = 1e-7) -> bool:
    """Whether two datums lie on one cylinder or one plane of a part."""
    if a.kind != b.kind or a.side != b.side or abs(a.radius - b.radius) > tolerance:
        return False
    between = b.origin - a.origin
    if a.kind == "plane":
        return bool(a.z @ b.z > 1 - 1e-9 and abs(between @ a.z) < tolerance)
    off = between - (between @ a.z) * a.z
    return bool(abs(a.z @ b.z) > 1 - 1e-9 and np.linalg.norm(off) < tolerance)
