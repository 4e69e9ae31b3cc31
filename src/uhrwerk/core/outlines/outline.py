"""What every outline defines: a closed line on a plane, from its numbers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from uhrwerk.core.field import Kinds, Model, Numbers
from uhrwerk.core.solids.recipe import Outline as Drawn


class Unfit(ValueError):
    """An outline whose numbers do not go together; says why."""


@dataclass(frozen=True)
class OutlineHandle:
    """A point by which an outline is drawn on its face, at (x, y) m: each of the numbers it moves, along which axis of the plane
    and by how much for one of the way."""

    name: str
    x: float
    y: float
    moves: tuple[tuple[str, Literal["x", "y"], float], ...]


def point(name: str, x: float, y: float, path: str = "") -> OutlineHandle:
    """A handle on a point that has an x and a y of its own."""
    return OutlineHandle(name, x, y, ((f"{path}x", "x", 1.0), (f"{path}y", "y", 1.0)))


class Outline(Model):
    """One kind of outline. Its edges count from one, in the order in which `outline_data` gives them."""

    title: ClassVar[str]

    kind: str

    @staticmethod
    def outline_data(n: Numbers) -> Drawn:
        """The outline as a recipe has it, m. Unfit where its numbers do not go together."""
        raise NotImplementedError

    @staticmethod
    def handles(n: Numbers) -> list[OutlineHandle]:
        """The points by which it is drawn."""
        return []

    @staticmethod
    def moves(n: Numbers, edge: int) -> tuple[tuple[str, float], ...]:
        """The numbers behind an edge: each with how much it grows where the edge moves outward by one."""
        return ()

    @staticmethod
    def shifts(n: Numbers, edge: int) -> tuple[tuple[str, float], ...]:
        """The numbers that shift the outline outward along an edge's normal by one."""
        return ()


OUTLINES: Kinds[Outline] = Kinds("outline")


def nested_handles(path: str, one: Numbers) -> list[OutlineHandle]:
    """The handles of an outline within another, by the path at which it stands there."""
    return [
        OutlineHandle(h.name, h.x, h.y, tuple((f"{path}.{f}", a, k) for f, a, k in h.moves))
        for h in OUTLINES[one.kind].handles(one)
    ]


def sides(n: Numbers, role: str, sign: float) -> tuple[tuple[str, float], ...]:
    """The numbers of a step's outline behind the face of one of its edges; `sign` is less than zero where material is taken."""
    kind, _, edge = role.rpartition("_")
    if kind != "side" or not edge.isdigit():
        return ()
    return tuple((f"outline.{field}", sign * factor) for field, factor in OUTLINES[n.kind].moves(n, int(edge)))


def one_side(n: Numbers, role: str, factor: float) -> tuple[tuple[str, float], ...]:
    """The numbers that shift a step's outline so that of two sides which move by `factor` together only that of the face moves by
    one, the other stays; none where the outline knows no such."""
    edge = role.rpartition("_")[2]
    if abs(factor) != 2 or not edge.isdigit() or not sides(n, role, 1.0):
        return ()
    return tuple((f"outline.{field}", way * factor / 4) for field, way in OUTLINES[n.kind].shifts(n, int(edge)))


def outline_data(n: Numbers) -> Drawn:
    """The outline of its numbers."""
    return OUTLINES[n.kind].outline_data(n)
