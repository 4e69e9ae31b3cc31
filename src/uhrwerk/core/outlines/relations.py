"""Relations between the corners and pieces of a drawn outline, and the corners that satisfy them nearest to where they were drawn.

Every corner has a place and the bulge of the piece that begins there; what the relations leave free stays as it was drawn. They are
solved by Gauss-Newton steps of the least norm, with derivatives by complex steps (Squire and Trapp, Using complex variables to
estimate derivatives of real functions, SIAM Review 40, 1998; from memory).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, StringConstraints

from uhrwerk.core.field import Angle, Kinds, Length, Model, Numbers, Size
from uhrwerk.core.field.ref import CornerOf
from uhrwerk.core.solids.solid import Array

#: a corner of the same outline; of a piece, the corner at which it begins; empty: none is chosen yet
CornerId = Annotated[str, StringConstraints(pattern=r"^([a-z][a-z0-9_]{0,39})?$"), CornerOf()]

#: rounds of the solver; what is left of a relation, as a part of the outline's size, when it holds
ROUNDS, HOLDS = 60, 1e-12
#: singular values below this part of the largest count as zero
RANK = 1e-9
#: a complex step
STEP = 1e-40


@dataclass(frozen=True)
class Corners:
    """Corners in their order: x, y and bulge (n,) each, complex while derivatives are taken; `at` is the place of each by its id."""

    x: Any
    y: Any
    bulge: Any
    at: Mapping[str, int]

    def chord(self, piece: str) -> tuple[Any, Any]:
        i = self.at[piece]
        j = (i + 1) % len(self.x)
        return self.x[j] - self.x[i], self.y[j] - self.y[i]

    def length(self, piece: str) -> Any:
        dx, dy = self.chord(piece)
        return np.sqrt(dx * dx + dy * dy)

    def way(self, piece: str) -> tuple[Any, Any]:
        """The direction of a piece's chord."""
        (dx, dy), size = self.chord(piece), self.length(piece)
        return dx / size, dy / size

    def tangents(self, piece: str) -> tuple[tuple[Any, Any], tuple[Any, Any]]:
        """The directions in which a piece begins and ends."""
        (dx, dy), u = self.way(piece), self.bulge[self.at[piece]]
        c, s = (1 - u * u) / (1 + u * u), 2 * u / (1 + u * u)  # of half the angle of the arc
        return (c * dx + s * dy, c * dy - s * dx), (c * dx - s * dy, c * dy + s * dx)

    def before(self, corner: str) -> str:
        """The piece that ends at a corner."""
        ids = list(self.at)
        return ids[self.at[corner] - 1]


class DrawnRelation(Model):
    """One kind of relation. `title` is its name; `ends` are the fields that name corners or pieces."""

    title: ClassVar[str]
    ends: ClassVar[tuple[str, ...]] = ("piece",)

    kind: str

    @staticmethod
    def left(n: Numbers, c: Corners) -> list[Any]:
        """What is left of it, m or as a part of one: nothing where it holds."""
        raise NotImplementedError


def _cross(a: tuple[Any, Any], b: tuple[Any, Any]) -> Any:
    return a[0] * b[1] - a[1] * b[0]


def _dot(a: tuple[Any, Any], b: tuple[Any, Any]) -> Any:
    return a[0] * b[0] + a[1] * b[1]


def _sign(value: Any) -> float:
    return -1.0 if np.real(value) < 0 else 1.0


class Level(DrawnRelation):
    title: ClassVar[str] = "Along x"

    kind: Literal["level"] = "level"
    piece: CornerId = ""

    @staticmethod
    def left(n: Numbers[Level], c: Corners) -> list[Any]:
        return [c.chord(n.piece)[1]]


class Upright(DrawnRelation):
    title: ClassVar[str] = "Along y"

    kind: Literal["upright"] = "upright"
    piece: CornerId = ""

    @staticmethod
    def left(n: Numbers[Upright], c: Corners) -> list[Any]:
        return [c.chord(n.piece)[0]]


class PieceLength(DrawnRelation):
    title: ClassVar[str] = "Length"

    kind: Literal["length"] = "length"
    piece: CornerId = ""
    length: Size = "10 mm"

    @staticmethod
    def left(n: Numbers[PieceLength], c: Corners) -> list[Any]:
        return [c.length(n.piece) - n.length]


class ArcRadius(DrawnRelation):
    title: ClassVar[str] = "Radius"

    kind: Literal["radius"] = "radius"
    piece: CornerId = ""
    radius: Size = "10 mm"

    @staticmethod
    def left(n: Numbers[ArcRadius], c: Corners) -> list[Any]:
        u = c.bulge[c.at[n.piece]]
        return [c.length(n.piece) * (1 + u * u) - 4 * u * _sign(u) * n.radius]


class Smooth(DrawnRelation):
    """Both pieces at a corner run on into one another."""

    title: ClassVar[str] = "Runs on smoothly"
    ends: ClassVar[tuple[str, ...]] = ("corner",)

    kind: Literal["smooth"] = "smooth"
    corner: CornerId = ""

    @staticmethod
    def left(n: Numbers[Smooth], c: Corners) -> list[Any]:
        return [_cross(c.tangents(c.before(n.corner))[1], c.tangents(n.corner)[0])]


class SameLength(DrawnRelation):
    title: ClassVar[str] = "Same length"
    ends: ClassVar[tuple[str, ...]] = ("piece", "other")

    kind: Literal["same_length"] = "same_length"
    piece: CornerId = ""
    other: CornerId = ""

    @staticmethod
    def left(n: Numbers[SameLength], c: Corners) -> list[Any]:
        return [c.length(n.piece) - c.length(n.other)]


class ParallelPieces(DrawnRelation):
    title: ClassVar[str] = "Parallel"
    ends: ClassVar[tuple[str, ...]] = ("piece", "other")

    kind: Literal["parallel"] = "parallel"
    piece: CornerId = ""
    other: CornerId = ""

    @staticmethod
    def left(n: Numbers[ParallelPieces], c: Corners) -> list[Any]:
        return [_cross(c.way(n.piece), c.way(n.other))]


class SquarePieces(DrawnRelation):
    title: ClassVar[str] = "Square to one another"
    ends: ClassVar[tuple[str, ...]] = ("piece", "other")

    kind: Literal["square"] = "square"
    piece: CornerId = ""
    other: CornerId = ""

    @staticmethod
    def left(n: Numbers[SquarePieces], c: Corners) -> list[Any]:
        return [_dot(c.way(n.piece), c.way(n.other))]


class AngleOfPieces(DrawnRelation):
    """The angle from one piece to another, to the left."""

    title: ClassVar[str] = "Angle"
    ends: ClassVar[tuple[str, ...]] = ("piece", "other")

    kind: Literal["angle"] = "angle"
    piece: CornerId = ""
    other: CornerId = ""
    angle: Angle = "45 deg"

    @staticmethod
    def left(n: Numbers[AngleOfPieces], c: Corners) -> list[Any]:
        a, b = c.way(n.piece), c.way(n.other)
        return [_cross(a, b) * np.cos(n.angle) - _dot(a, b) * np.sin(n.angle)]


class Apart(DrawnRelation):
    title: ClassVar[str] = "Distance of two corners"
    ends: ClassVar[tuple[str, ...]] = ("corner", "other")

    kind: Literal["apart"] = "apart"
    corner: CornerId = ""
    other: CornerId = ""
    along: Literal["straight", "x", "y"] = "straight"
    distance: Length = "10 mm"

    @staticmethod
    def left(n: Numbers[Apart], c: Corners) -> list[Any]:
        i, j = c.at[n.corner], c.at[n.other]
        dx, dy = c.x[j] - c.x[i], c.y[j] - c.y[i]
        if n.along == "straight":
            return [np.sqrt(dx * dx + dy * dy) - n.distance]
        d = dx if n.along == "x" else dy
        return [d * _sign(d) - n.distance]


class Placed(DrawnRelation):
    """A corner at a place of its own, along x, y, or both."""

    title: ClassVar[str] = "Place of a corner"
    ends: ClassVar[tuple[str, ...]] = ("corner",)

    kind: Literal["placed"] = "placed"
    corner: CornerId = ""
    along: Literal["both", "x", "y"] = "both"
    x: Length = "0 mm"
    y: Length = "0 mm"

    @staticmethod
    def left(n: Numbers[Placed], c: Corners) -> list[Any]:
        i = c.at[n.corner]
        both = [c.x[i] - n.x, c.y[i] - n.y]
        return both if n.along == "both" else both[:1] if n.along == "x" else both[1:]


class MirrorCorners(DrawnRelation):
    title: ClassVar[str] = "Symmetric corners"
    ends: ClassVar[tuple[str, ...]] = ("corner", "other")

    kind: Literal["mirrored"] = "mirrored"
    corner: CornerId = ""
    other: CornerId = ""
    about: Literal["x", "y"] = Field(default="y", title="About the axis")

    @staticmethod
    def left(n: Numbers[MirrorCorners], c: Corners) -> list[Any]:
        i, j = c.at[n.corner], c.at[n.other]
        if n.about == "y":
            return [c.x[i] + c.x[j], c.y[i] - c.y[j]]
        return [c.x[i] - c.x[j], c.y[i] + c.y[j]]


DRAWN_RELATIONS: Kinds[DrawnRelation] = Kinds("relation of a drawn outline")
for _relation in (
    Level, Upright, PieceLength, ArcRadius, Smooth, SameLength, ParallelPieces, SquarePieces, AngleOfPieces, Apart, Placed, MirrorCorners,
):  # fmt: skip
    DRAWN_RELATIONS.register(_relation)


@dataclass(frozen=True)
class Solved:
    """Corners (n, 3) m that satisfy the relations, and of each whether it can still move."""

    corners: Array
    free: tuple[bool, ...]


class Contradiction(ValueError):
    """Relations that cannot hold together: a smallest set of them, by their ids."""

    def __init__(self, relations: Sequence[str]) -> None:
        super().__init__(", ".join(relations))
        self.relations = list(relations)


def solved(ids: Sequence[str], drawn: Array, relations: Mapping[str, Numbers]) -> Solved:
    """The corners (n, 3) m nearest to those that were drawn, by steps of the least norm. KeyError where a relation names none of
    the corners; Contradiction where they cannot hold."""
    at = {i: k for k, i in enumerate(ids)}
    start = np.asarray(drawn, dtype=float)
    size = float(np.ptp(start[:, :2], axis=0).max()) or 1.0
    moving = np.concatenate(
        [np.ones((len(start), 2), dtype=bool), (start[:, 2:] != 0.0)], axis=1
    )  # what is straight stays so
    solution = _corners(at, start, list(relations.values()), size, moving)
    if solution is None:
        raise Contradiction(_smallest(at, start, dict(relations), size, moving))
    corners, jacobian = solution
    return Solved(corners, _free(jacobian, moving))


def _corners(
    at: Mapping[str, int], start: Array, relations: list[Numbers], size: float, moving: Array
) -> tuple[Array, Array] | None:
    """Corners that satisfy relations, with the rows of their derivatives there; None where there are none nearby."""
    here = start / [size, size, 1.0]
    where = np.flatnonzero(moving.ravel())

    def left(values: Any) -> list[Any]:
        scaled = values * np.array([size, size, 1.0])
        c = Corners(scaled[:, 0], scaled[:, 1], scaled[:, 2], at)
        return [r / size if k in _LENGTHS else r for n in relations for k, r in _left(n, c)]

    for _ in range(ROUNDS):
        r = np.real(np.array(left(here), dtype=complex))
        if not np.isfinite(r).all():
            return None
        rows = np.zeros((len(r), len(where)))
        for column, k in enumerate(where):
            there = here.astype(complex)
            there.ravel()[k] += 1j * STEP
            rows[:, column] = np.imag(np.array(left(there), dtype=complex)) / STEP
        if np.abs(r).max(initial=0.0) < HOLDS:
            return here * [size, size, 1.0], rows
        step = np.linalg.lstsq(rows, -r, rcond=RANK)[0]
        longest = float(np.abs(step).max(initial=0.0))
        here = here.copy()
        here.ravel()[where] += step * min(1.0, 0.5 / max(longest, 1e-300))
    return None


#: relations whose rest is a length
_LENGTHS = {"level", "upright", "length", "radius", "same_length", "apart", "placed", "mirrored"}


def _left(n: Numbers, c: Corners) -> Iterator[tuple[str, Any]]:
    for r in DRAWN_RELATIONS[n.kind].left(n, c):
        yield n.kind, r


def _smallest(
    at: Mapping[str, int], start: Array, relations: dict[str, Numbers], size: float, moving: Array
) -> list[str]:
    """A smallest set that still contradicts itself, found by leaving out one after the other."""
    needed = dict(relations)
    for i in list(needed):
        fewer = {k: n for k, n in needed.items() if k != i}
        if fewer and _corners(at, start, list(fewer.values()), size, moving) is None:
            needed = fewer
    return list(needed)


def _free(rows: Array, moving: Array) -> tuple[bool, ...]:
    """Which corners can move though all relations hold."""
    able = np.zeros(moving.size)
    if not rows.size:
        able[np.flatnonzero(moving.ravel())] = 1.0
    else:
        _, s, v = np.linalg.svd(rows)
        rank = int((s > RANK * max(float(s.max(initial=0.0)), 1e-300)).sum())
        able[np.flatnonzero(moving.ravel())] = np.linalg.norm(v[rank:], axis=0)
    return tuple(bool(x) for x in np.abs(able.reshape(-1, 3)[:, :2]).max(axis=1) > 1e-7)
