"""Solids that came from elsewhere, kept by the hash of their contents: a header, then what the kernel wrote, or triangles.

The header is one line of JSON: `form` is "faces" (exact, in the kernel's own binary form) or "triangles" (an npz archive
of arrays, without pickled objects), `names` those of the faces in their order. Nothing in it is executed.
"""

from __future__ import annotations

import contextlib
import hashlib
import io
import json
import os
import tempfile
import threading
import zipfile
from functools import cache
from pathlib import Path
from typing import Any, Protocol

import numpy as np

from uhrwerk.core.solids.solid import Array, Index

#: characters of a hash that name contents
LONG = 32
#: of contents that are not what they were
BROKEN = "its stored copy is damaged: import the file again"


class KeepBlob(Protocol):
    """What keeps contents for good, such as a database."""

    def contents(self, name: str) -> bytes | None: ...

    def keep_contents(self, name: str, data: bytes) -> None: ...


def name_of(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()[:LONG]


def packed(form: str, names: list[str], block: bytes) -> bytes:
    return json.dumps({"form": form, "names": names}).encode() + b"\n" + block


def unpacked(data: bytes) -> tuple[dict[str, Any], bytes]:
    """Header and block. ValueError where it is none of ours."""
    head, _, block = data.partition(b"\n")
    try:
        header = json.loads(head)
    except ValueError as error:
        raise ValueError(BROKEN) from error
    if not isinstance(header, dict) or header.get("form") not in ("faces", "triangles"):
        raise ValueError("the contents are of no form that is known")
    return header, block


def triangles_packed(vertices: Array, triangles: Index, names: list[str]) -> bytes:
    """Vertices (n, 3) m and triangles (m, 3) as contents."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, array in (("vertices", vertices.astype("<f8")), ("triangles", triangles.astype("<i4"))):
            block = io.BytesIO()
            np.save(block, array, allow_pickle=False)
            archive.writestr(zipfile.ZipInfo(f"{name}.npy"), block.getvalue())  # without the time: same data, same hash
    return packed("triangles", names, out.getvalue())


def triangles_unpacked(block: bytes) -> tuple[Array, Index]:
    try:
        with np.load(io.BytesIO(block), allow_pickle=False) as arrays:
            return arrays["vertices"].astype(np.float64), arrays["triangles"].astype(np.int64)
    except (ValueError, KeyError, OSError, EOFError, zipfile.BadZipFile) as error:
        raise ValueError(BROKEN) from error


@cache
def _process_folder() -> tempfile.TemporaryDirectory[str]:
    """A folder that goes with this process."""
    return tempfile.TemporaryDirectory(prefix="uhrwerk-")


class BlobStore:
    """Contents by name: in a folder from which workers read, and, if given, kept for good behind it. Without a folder they
    are in the one of this process, where all others look too: contents are what their name says."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder
        self.behind: KeepBlob | None = None

    @property
    def folder(self) -> Path:
        return Path(_process_folder().name) if self._folder is None else self._folder

    def put(self, data: bytes) -> str:
        """Keeps contents; their name."""
        name = name_of(data)
        if self.behind is not None:
            self.behind.keep_contents(name, data)
        self._write(name, data)
        return name

    def get(self, name: str) -> bytes | None:
        """Contents by name; None where they are not here, or are no longer what they were."""
        with contextlib.suppress(OSError):
            data = (self.folder / name).read_bytes()
            if name_of(data) == name:
                return data
        data_behind = self.behind.contents(name) if self.behind is not None else None
        if data_behind is None and self._folder is not None:
            with contextlib.suppress(OSError):
                data_behind = (Path(_process_folder().name) / name).read_bytes()
        if data_behind is not None and name_of(data_behind) == name:
            with contextlib.suppress(OSError):  # a worker that cannot read them says so
                self._write(name, data_behind)
            return data_behind
        return None

    def ready(self, name: str) -> bool:
        """Whether workers can read them."""
        return (self.folder / name).exists() or self.get(name) is not None

    def _write(self, name: str, data: bytes) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        rough = self.folder / f"{name}.{os.getpid()}.{threading.get_ident()}.part"
        rough.write_bytes(data)
        rough.replace(self.folder / name)


def read_in(folder: Path, name: str) -> bytes:
    """Contents as a worker reads them. ValueError where they are not there, or not what was kept."""
    try:
        data = (folder / name).read_bytes()
    except OSError as error:
        raise ValueError(MISSING) from error
    if name_of(data) != name:
        raise ValueError(MISSING)
    return data


MISSING = "its imported solid is not stored here: import the file again, on its card"
