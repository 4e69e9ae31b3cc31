"""STL: all parts as they stand, in one file of triangles, in millimetres; read by the unit that is stated, as the format knows none."""

from __future__ import annotations

import io
import struct
from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.exchange.meshes import of_meshes
from uhrwerk.core.exchange.placing import standing
from uhrwerk.core.solids.imported import ImportedSolids
from uhrwerk.core.stages.evaluation import Evaluation


def _written(e: Evaluation, chosen: Chosen) -> bytes:
    return triangles_file([(v, t) for one in standing(e, chosen) for _, v, t in one.bodies()], 1e3)


def triangles_file(meshes: Iterable[tuple[Array, NDArray[np.int64]]], scale: float) -> bytes:
    """Vertices (n, 3) and triangles (m, 3) of meshes as one binary file; `scale` is the unit that it is written in to a metre."""
    corners = np.concatenate([vertices[triangles] for vertices, triangles in meshes]) * scale
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    lines = np.zeros(len(corners), dtype=[("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
    lines["normal"], lines["corners"] = normal, corners
    unit = {1e3: b"mm", 1.0: b"m"}[scale]
    return (b"binary STL, " + unit).ljust(80) + struct.pack("<I", len(corners)) + lines.tobytes()


def _read(data: bytes, metre: float) -> ImportedSolids:
    _check_form(data)
    import trimesh  # slow to import, and seldom needed

    mesh = trimesh.load_mesh(io.BytesIO(data), file_type="stl", process=False)
    if not isinstance(mesh, trimesh.Trimesh) or not len(mesh.faces):
        raise ValueError("this is not an STL file, or has no triangles")
    imported = of_meshes([("Part", np.asarray(mesh.vertices), np.asarray(mesh.faces), np.eye(4))], metre)
    return replace(imported, unitless=True)


def _check_form(data: bytes) -> None:
    """ValueError where a file is neither form of STL, or cut off."""
    if data.lstrip()[:5].lower() == b"solid" and b"facet" in data[:4096]:
        if b"endsolid" not in data[-4096:]:
            raise ValueError("this is not an STL file, or it is cut off: its text does not end")
        return
    if len(data) < 84:
        raise ValueError("this is not an STL file: it is shorter than its header")
    count = struct.unpack_from("<I", data, 80)[0]
    if len(data) < 84 + 50 * count:
        raise ValueError(
            f"this is not an STL file, or it is cut off: {count} triangles are stated, {(len(data) - 84) // 50} are there"
        )


FORMAT = Format(".stl", "Triangles as they stand", "model/stl", write=_written, take=_read, still=True)
