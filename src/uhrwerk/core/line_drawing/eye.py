"""From where solids are seen: parallel rays, right and up on the paper, and towards the eye."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Eye:
    """The direction towards the eye, and what is up on the paper; neither need be a unit vector."""

    toward: tuple[float, float, float]
    up: tuple[float, float, float] = (0.0, 0.0, 1.0)

    @property
    def axes(self) -> Array:
        """(3, 3) rows: right, up, towards the eye; orthonormal."""
        toward = np.array(self.toward, dtype=float)
        toward /= np.linalg.norm(toward)
        right = np.cross(np.array(self.up, dtype=float), toward)
        right /= np.linalg.norm(right)
        return np.stack([right, np.cross(toward, right), toward])


#: by name; front looks along y, as top looks down z
VIEWS = {
    "corner": Eye((-0.55, -0.75, 0.55)),
    "front": Eye((0.0, -1.0, 0.0)),
    "back": Eye((0.0, 1.0, 0.0)),
    "left": Eye((-1.0, 0.0, 0.0)),
    "right": Eye((1.0, 0.0, 0.0)),
    "top": Eye((0.0, 0.0, 1.0), (0.0, 1.0, 0.0)),
    "bottom": Eye((0.0, 0.0, -1.0), (0.0, -1.0, 0.0)),
}
