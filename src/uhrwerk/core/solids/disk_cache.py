"""Solids kept in a folder: plain arrays behind a checksum. What does not match is made again, and nothing in it is executed.

A file is the SHA-256 of its key and its contents, then an npz archive of arrays and one JSON text. The key is part of the
sum, so that a file that was put under another's name is not believed either. The folder is kept below a size: what was
used longest ago goes first.
"""

from __future__ import annotations

import contextlib
import hashlib
import io
import json
import os
import threading
import zipfile
from pathlib import Path
from typing import Any

import numpy as np

from uhrwerk.core.solids.solid import Body, Face, Mark, Solid

ENDING = ".solid"
#: bytes that the folder may hold; it is looked through once in so many files written
LARGEST, EVERY = 300_000_000, 50


def packed(solid: Solid, key: str) -> bytes:
    """A solid as the contents of a file."""
    arrays: dict[str, Any] = {}
    bodies = []
    for n, b in enumerate(solid.bodies.values()):
        for name in ("vertices", "triangles", "face_of", "centroid", "inertia"):
            arrays[f"{n}.{name}"] = getattr(b, name)
        arrays[f"{n}.places"] = np.array([[f.origin, f.direction, f.centre] for f in b.faces]).reshape(-1, 3, 3)
        arrays[f"{n}.sizes"] = np.array([[f.radius, f.length, f.outward] for f in b.faces], dtype=float).reshape(-1, 3)
        bodies.append({
            "name": b.name, "volume": b.volume, "deviation": b.deviation, "order": b.order, "exact": b.exact, "faces": [[f.kind, f.name] for f in b.faces],
        })  # fmt: skip
    for n, mark in enumerate(solid.marks.values()):
        arrays[f"mark.{n}"] = np.array([mark.origin, mark.z, mark.x])
    told_all = {"bodies": bodies, "failed": solid.failed, "marks": list(solid.marks)}
    arrays["told"] = np.frombuffer(json.dumps(told_all).encode(), dtype=np.uint8)
    out = io.BytesIO()
    np.savez(out, **arrays)
    contents = out.getvalue()
    return _sum(key, contents) + contents


def unpacked(data: bytes, key: str) -> Solid | None:
    """The solid of a file; None where it is not what was written under this key."""
    if data[:32] != _sum(key, data[32:]):
        return None
    try:
        with np.load(io.BytesIO(data[32:]), allow_pickle=False) as arrays:
            bodies = {}
            whole = json.loads(arrays["told"].tobytes())
            for n, header in enumerate(whole["bodies"]):
                own = {k: arrays[f"{n}.{k}"] for k in ("vertices", "triangles", "face_of", "centroid", "inertia")}
                faces = tuple(
                    Face(kind, place[0], place[1], float(size[0]), float(size[1]), bool(size[2]), name, place[2])
                    for (kind, name), place, size in zip(
                        header["faces"], arrays[f"{n}.places"], arrays[f"{n}.sizes"], strict=True
                    )
                )
                bodies[header["name"]] = Body(
                    name=header["name"], faces=faces, volume=header["volume"], deviation=header["deviation"], order=header["order"], exact=header["exact"], **own
                )  # fmt: skip
            marks = {name: Mark(*arrays[f"mark.{n}"]) for n, name in enumerate(whole["marks"])}
            return Solid(bodies, tuple(whole["failed"]) if whole["failed"] else None, marks)
    except (
        ValueError,
        KeyError,
        OSError,
        zipfile.BadZipFile,
        SystemError,
    ):  # the last by Python itself, rarely, among threads
        return None


def _sum(key: str, contents: bytes) -> bytes:
    return hashlib.sha256(key.encode() + b"\0" + contents).digest()


class DiskCache:
    """Kept solids of one folder, or of none."""

    def __init__(self, path: Path | None, largest: int = LARGEST) -> None:
        self.path, self.largest, self._written = path, largest, 0

    def load(self, key: str) -> Solid | None:
        if self.path is None:
            return None
        file = self.path / f"{key}{ENDING}"
        try:
            solid = unpacked(file.read_bytes(), key)
            if solid is not None:
                os.utime(file)  # it was used
            return solid
        except OSError:
            return None

    def save(self, key: str, solid: Solid) -> None:
        """Keeps a solid; a full disk costs the kept copy, not the result."""
        if self.path is None:
            return
        with contextlib.suppress(OSError):
            self.path.mkdir(parents=True, exist_ok=True)
            rough = self.path / f"{key}.{os.getpid()}.{threading.get_ident()}.part"
            rough.write_bytes(packed(solid, key))
            rough.replace(self.path / f"{key}{ENDING}")
            self._written += 1
            if self._written % EVERY == 1:
                self._trim()

    def _trim(self) -> None:
        assert self.path is not None
        files = []
        for file in self.path.iterdir():
            if file.suffix in (ENDING, ".part"):
                stat = file.stat()
                files.append((stat.st_mtime, stat.st_size, file))
        total = sum(size for _, size, _ in files)
        for _, size, file in sorted(files, key=lambda f: f[0]):
            if total <= self.largest:
                return
            file.unlink(missing_ok=True)
            total -= size
