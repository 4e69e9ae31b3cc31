"""Mass, centre of gravity and inertia of placed parts, from the B-rep solids."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.solids import Solid


@dataclass(frozen=True)
class MassProperties:
    """mass kg; centre (3,) m in the world; inertia (3, 3) kg m2 about the centre, world axes."""

    mass: float
    centre: Array
    inertia: Array

    def in_frame(self, frame: Array) -> MassProperties:
        """The same in a frame (7,)."""
        turn = poses.matrix(frame[3:])
        return MassProperties(self.mass, poses.place(poses.inverse(frame), self.centre), turn.T @ self.inertia @ turn)

    @property
    def axes(self) -> Array:
        """Principal axes as the columns of (3, 3), in the order of the principal moments; right-handed."""
        vectors = np.linalg.eigh(self.inertia)[1]
        return np.asarray(vectors * [1, 1, np.sign(np.linalg.det(vectors))])

    @property
    def principal(self) -> Array:
        """Principal moments of inertia (3,), kg m2, the least first (Goldstein, Classical Mechanics, 5.4: from memory)."""
        return np.asarray(np.maximum(np.linalg.eigvalsh(self.inertia), 0.0))

    @property
    def gyration(self) -> Array:
        """Radii of gyration (3,) about the principal axes, m."""
        return np.asarray(np.sqrt(self.principal / self.mass)) if self.mass else np.zeros(3)


@dataclass(frozen=True)
class Lump:
    """One body of a placed part as a mass: kg; centre (3,) m and inertia (3, 3) kg m2 about it, both in the part's frame."""

    mass: float
    centre: Array
    inertia: Array


def lumps_of(document: Document, placed: str, solid: Solid) -> list[Lump]:
    """Of a placed part: its bodies by the density of its material, or as it was weighed and where its centre was found."""
    density, bodies = density_of(document, placed, solid), solid.bodies.values()
    moved = _measured_centre(document, placed, solid)
    return [Lump(density * b.volume, b.centroid + moved, density * b.inertia) for b in bodies]


def density_of(document: Document, placed: str, solid: Solid) -> float:
    """Of a placed part, kg/m3: its material's, or what was weighed over the volume of its solid."""
    part, scope = document.parts[document.placed[placed].part], document.scope()
    if part.measured_mass.strip():
        return scope.value(part.measured_mass, "mass") / solid.volume
    return scope.value(document.materials[part.material].density, "density")


def _measured_centre(document: Document, placed: str, solid: Solid) -> Array:
    """(3,) m from the centre of a placed part's solid to where it was found, in its frame; nothing along axes where it was not."""
    part, scope = document.parts[document.placed[placed].part], document.scope()
    out = np.zeros(3)
    for k, text in enumerate((part.centre_x, part.centre_y, part.centre_z)):
        if text.strip():
            image = -1 if k == 0 and document.placed[placed].mirrored else 1
            own = sum(b.volume * b.centroid[k] for b in solid.bodies.values()) / solid.volume
            out[k] = image * scope.value(text, "length") - own
    return out


def mass_of(parts: Iterable[str], lumps: Mapping[str, Sequence[Lump]], pose: Mapping[str, Array]) -> MassProperties:
    """Sum over placed parts (parallel axes theorem), each with its lumps and pose (7,)."""
    bodies = [(x, poses.place(pose[p], x.centre), pose[p]) for p in parts for x in lumps[p]]
    total = sum(x.mass for x, *_ in bodies)
    if total == 0:
        return MassProperties(0.0, np.zeros(3), np.zeros((3, 3)))
    centre = np.sum([x.mass * c for x, c, _ in bodies], axis=0) / total
    inertia = np.zeros((3, 3))
    for x, c, at in bodies:
        turn, d = poses.matrix(at[3:]), c - centre
        inertia += turn @ x.inertia @ turn.T + x.mass * (d @ d * np.eye(3) - np.outer(d, d))
    return MassProperties(float(total), centre, inertia)
