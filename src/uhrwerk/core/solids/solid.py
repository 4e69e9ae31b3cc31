"""A solid as plain arrays: its bodies with triangles, faces and mass properties. SI units."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Index = NDArray[np.int64]

#: rad: faces that meet at more than this make an edge that is drawn
SHARP = float(np.radians(28))
#: a face whose normal leans towards the eye by less counts as turned away
EDGE_ON = 1e-6


@dataclass(frozen=True)
class Face:
    """A face of the B-rep: a plane (point, outward normal), a cylinder (start of its axis, direction), a cone
    (point on its axis, direction) or another. `centre` (3,) m: of a plane the centroid of its outer boundary, of a cylinder
    the middle of its length, wherever triangles lie."""

    kind: Literal["plane", "cylinder", "cone", "other"]
    origin: Array
    direction: Array
    radius: float = 0.0
    length: float = 0.0
    outward: bool = True  # of a cylinder: a pin's side is outward, a bore's is not
    name: str = ""  # by the step that made it and its role there, where the part has build steps
    at: Array | None = None

    @property
    def centre(self) -> Array:
        if self.at is not None:
            return self.at
        return self.origin + self.direction * self.length / 2 if self.kind == "cylinder" else self.origin


@dataclass(frozen=True)
class Body:
    """One closed body. vertices (n, 3) m; triangles (m, 3); face_of (m,) the face of each triangle.

    `volume` m3, `centroid` (3,) m and `inertia` (3, 3) m5 about the centroid for density one come from the B-rep;
    `deviation` is the largest distance between a curved face and its triangles, m.
    """

    name: str
    vertices: Array
    triangles: NDArray[np.int64]
    face_of: NDArray[np.int64]
    faces: tuple[Face, ...]
    volume: float
    centroid: Array
    inertia: Array
    deviation: float
    exact: bool = True  # its faces are those of the B-rep, not found in triangles that came as such
    order: int = 1  # turned by a full turn over this about its z axis it is the same again


@dataclass(frozen=True)
class Mark:
    """A plane, an axis or a point that a build step stated: a place (3,) m, and the unit vectors z and x there."""

    origin: Array
    z: Array
    x: Array


@dataclass(frozen=True)
class Solid:
    """Bodies by name; `failed` is the build step that could not be carried out, and why: those after it wait. `marks` by name."""

    bodies: dict[str, Body]
    failed: tuple[str, str] | None = None
    marks: dict[str, Mark] = field(default_factory=dict)

    @property
    def volume(self) -> float:
        """m3"""
        return sum(b.volume for b in self.bodies.values())

    @property
    def centroid(self) -> Array:
        """(3,) m"""
        return np.asarray(np.sum([b.volume * b.centroid for b in self.bodies.values()], axis=0) / self.volume)


def sharp_edges(vertices: Array, triangles: Index, angle: float = SHARP) -> Array:
    """Edges to be drawn: those between triangles (m, 3) whose normals differ by more than `angle`. Returns (n, 2, 3) m."""
    ends, one, other = _folds(vertices, triangles)
    return np.asarray(vertices[ends[np.einsum("ij,ij->i", one, other) < np.cos(angle)]])


def outlines(vertices: Array, triangles: Index, toward: Array, angle: float = SHARP) -> Array:
    """The sharp edges, and those where the surface turns away from an eye in the direction `toward` (3,). (n, 2, 3) m."""
    ends, one, other = _folds(vertices, triangles)
    sharp = np.einsum("ij,ij->i", one, other) < np.cos(angle)
    turned = ((one @ toward) > EDGE_ON) != ((other @ toward) > EDGE_ON)
    return np.asarray(vertices[ends[sharp | turned]])


def _folds(vertices: Array, triangles: Index) -> tuple[Index, Array, Array]:
    """Every edge between two triangles (n, 2), with the normals (n, 3) of both."""
    t = triangles
    corner = vertices[t]
    normal = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    ends = np.sort(np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]]), axis=1)
    owner = np.tile(np.arange(len(t)), 3)
    order = np.lexsort((ends[:, 1], ends[:, 0]))
    ends, owner = ends[order], owner[order]
    paired = np.flatnonzero((ends[:-1] == ends[1:]).all(axis=1))
    return ends[paired], normal[owner[paired]], normal[owner[paired + 1]]
