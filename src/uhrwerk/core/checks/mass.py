"""Mass, centre of gravity and inertia of placed parts, from the B-rep solids."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.solids import Solid


@dataclass(frozen=True)
class MassOf:
    """mass kg; centre (3,) m in the world; inertia (3, 3) kg m2 about the centre, world axes."""

    mass: float
    centre: Array
    inertia: Array

    @property
    def principal(self) -> Array:
        """Principal moments of inertia (3,), kg m2, the least first (Goldstein, Classical Mechanics, 5.4: from memory)."""
        return np.maximum(np.linalg.eigvalsh(self.inertia), 0.0)

    @property
    def gyration(self) -> Array:
        """Radii of gyration (3,) about the principal axes, m."""
        return np.asarray(np.sqrt(self.principal / self.mass)) if self.mass else np.zeros(3)


def density_of(document: Document, placed: str, solid: Solid) -> float:
    """Of a placed part, kg/m3: its material's, or what was weighed over the volume of its solid."""
    part, scope = document.parts[document.placed[placed].part], document.scope()
    if part.weighed.strip():
        return scope.value(part.weighed, "mass") / solid.volume
    return scope.value(document.materials[part.material].density, "density")


def mass_of(
    parts: Iterable[str], solids: Mapping[str, Solid], density: Mapping[str, float], pose: Mapping[str, Array]
) -> MassOf:
    """Sum over placed parts (parallel axes theorem), each with its solid, density (kg/m3) and pose (7,)."""
    bodies = [
        (density[p] * b.volume, poses.place(pose[p], b.centroid), density[p], pose[p], b)
        for p in parts
        for b in solids[p].bodies.values()
    ]
    total = sum(m for m, *_ in bodies)
    if total == 0:
        return MassOf(0.0, np.zeros(3), np.zeros((3, 3)))
    centre = np.sum([m * c for m, c, *_ in bodies], axis=0) / total
    inertia = np.zeros((3, 3))
    for m, c, rho, at, body in bodies:
        turn = poses.matrix(at[3:])
        d = c - centre
        inertia += turn @ (rho * body.inertia) @ turn.T + m * (d @ d * np.eye(3) - np.outer(d, d))
    return MassOf(float(total), centre, inertia)
