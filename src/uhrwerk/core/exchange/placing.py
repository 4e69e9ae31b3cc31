"""What files of solids hold: every placed part that is not left out, where it stands at the start of the cycle."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.checks import Evaluation
from uhrwerk.core.equations.pose import Array, place
from uhrwerk.core.field import Refused
from uhrwerk.core.solids import Body, Solid

#: of parts in their order, red, green and blue: muted, and apart from their neighbours
COLOURS = tuple(
    (r / 255, g / 255, b / 255)
    for r, g, b in (
        (143, 157, 149),
        (201, 178, 122),
        (111, 154, 160),
        (154, 167, 184),
        (134, 160, 138),
        (181, 168, 140),
    )
)


@dataclass(frozen=True)
class Stands:
    """A placed part: its id and name, its solid, its pose (7,) m, its colour."""

    id: str
    name: str
    solid: Solid
    pose: Array
    colour: tuple[float, float, float]

    def bodies(self) -> Iterator[tuple[Body, Array, NDArray[np.int64]]]:
        """Its bodies with their vertices (n, 3) m in the world and their triangles (m, 3)."""
        for body in self.solid.bodies.values():
            yield body, place(self.pose, body.vertices), body.triangles


def standing(e: Evaluation) -> list[Stands]:
    """Refused where a part has no solid, or nothing is placed."""
    document, m = e.document, e.mechanism
    shown = [i for i, p in document.placed.items() if not p.left_out]
    if m is None or not shown:
        raise Refused(("placed", "there is no part to write"))
    missing = [document.placed[i].name for i in shown if i not in e.solids]
    if missing:
        raise Refused(("parts", f"{missing[0]} has no solid: see what its card says"))
    unlike = [document.placed[i].name for i in shown if e.solids[i].failed is not None]
    if unlike:
        raise Refused(("parts", f"{unlike[0]} is not as it is stated: one of its build steps cannot be done"))
    at = e.part_poses(e.motion.pose[0] if e.motion is not None else e.pose if e.pose is not None else m.start)
    return [
        Stands(i, document.placed[i].name, e.solids[i], at[i], COLOURS[k % len(COLOURS)]) for k, i in enumerate(shown)
    ]
