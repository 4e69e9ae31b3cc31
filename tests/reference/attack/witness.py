"""What an evaluation gives to the page, looked at with matrices of its own: the one witness of all cases."""

from __future__ import annotations

from math import pi

import numpy as np
from scipy.spatial.transform import Rotation

from uhrwerk import At
from uhrwerk.core.document import Document
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.views.scene import datum_data

UNITS = {"mm": 1e-3, "in": 25.4e-3, "deg": pi / 180, "rpm": 2 * pi / 60, "mm/s": 1e-3, "rad": 1.0, "": 1.0}


def size(text: str) -> float:
    """SI. The formulas of these files are plain numbers with a unit, or the negative of one."""
    if not text.strip():
        return 0.0
    sign, text = (-1.0, text[2:-1]) if text.startswith("-(") else (1.0, text)
    number, _, unit = text.partition(" ")
    return sign * float(number) * UNITS[unit]


def shown(document: Document, datums: dict[str, dict[str, object]]) -> dict[str, dict[str, dict[str, object]]]:
    """Of each placed part, its datums as the page draws them."""
    return {i: {n: datum_data(document, n, x) for n, x in named.items()} for i, named in datums.items()}  # type: ignore[arg-type, misc]


class Witness:
    """The poses of placed parts at frames (F,), and where each datum is drawn in its part."""

    def __init__(self, e: Evaluation) -> None:
        assert e.mechanism is not None
        assert e.motion is not None
        self.e, self.document, self.times = e, e.document, e.motion.times
        self.poses = {i: e.mechanism.part_pose(i, e.motion.pose) for i in e.document.placed}
        self.shown = shown(e.document, e.mechanism.datums)

    def matrices(self, placed: str) -> np.ndarray:
        """(F, 3, 3)"""
        return Rotation.from_quat(self.poses[placed][:, 3:], scalar_first=True).as_matrix()

    def frame(self, at: At) -> tuple[np.ndarray, np.ndarray]:
        """Origin (F, 3) and axes (F, 3, 3), in columns, of an end in the world at every frame."""
        datum, turn = self.shown[at.placed][at.datum], self.matrices(at.placed)
        x, z = np.array(datum["x"]), np.array(datum["z"])
        axes = np.stack([x, np.cross(z, x), z], axis=1)
        local = np.array(datum["origin"]) + axes @ [size(at.x), size(at.y), size(at.z)]
        return self.poses[at.placed][:, :3] + turn @ local, turn @ axes

    def origin(self, placed: str, datum: str) -> np.ndarray:
        return self.frame(At(placed=placed, datum=datum))[0]

    def axis(self, placed: str, datum: str) -> np.ndarray:
        return self.frame(At(placed=placed, datum=datum))[1][:, :, 2]

    def turned(self, placed: str, against: str, about: np.ndarray) -> np.ndarray:
        """(F,) rad: how far a part has turned against another about an axis (F, 3) of that one, counted from frame to frame."""
        relative = np.swapaxes(self.matrices(against), 1, 2) @ self.matrices(placed)
        own = np.einsum("fji,fj->fi", self.matrices(against), about)[:-1]
        steps = Rotation.from_matrix(relative[1:] @ np.swapaxes(relative[:-1], 1, 2)).as_rotvec()
        return np.concatenate([[0.0], np.cumsum((steps * own).sum(axis=1))])

    def rates(self, values: np.ndarray, order: int = 1) -> np.ndarray:
        """First or second derivative of values (F, ...) of a motion that repeats, whose last frame is its first: differences of the
        eighth order."""
        dt, y = self.times[1] - self.times[0], values[:-1]
        weights = {
            1: {1: 4 / 5, 2: -1 / 5, 3: 4 / 105, 4: -1 / 280},
            2: {1: 8 / 5, 2: -1 / 5, 3: 8 / 315, 4: -1 / 560},
        }[order]
        sign = -1 if order == 1 else 1
        out = (0.0 if order == 1 else -205 / 72) * y
        for k, w in weights.items():
            out = out + w * (np.roll(y, -k, axis=0) + sign * np.roll(y, k, axis=0))
        return np.concatenate([out, out[:1]]) / dt**order


def wrapped(angle: np.ndarray | float, period: float = 2 * pi) -> np.ndarray:
    """How far an angle is from a whole multiple of a period, with its sign."""
    return (np.asarray(angle) + period / 2) % period - period / 2
