"""STL: all parts as they stand, in one file of triangles; millimetres (the format itself knows no unit)."""

from __future__ import annotations

import struct

import numpy as np

from uhrwerk.core.checks import Evaluation
from uhrwerk.core.exchange.format import Format
from uhrwerk.core.exchange.placing import standing


def _written(e: Evaluation) -> bytes:
    corners = np.concatenate([v[t] for one in standing(e) for _, v, t in one.bodies()]) * 1e3
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    lines = np.zeros(len(corners), dtype=[("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
    lines["normal"], lines["corners"] = normal, corners
    return b"binary STL, mm".ljust(80) + struct.pack("<I", len(corners)) + lines.tobytes()


FORMAT = Format(".stl", "Triangles as they stand", "model/stl", write=_written)
