"""All mechanisms of a shelf in one archive: each as an archive of its own, with the solids that it took from files."""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Mapping

from uhrwerk.core.document import Document, ValidationFailed
from uhrwerk.core.exchange.bundle import packed, unfolded
from uhrwerk.core.solids.blob_store import BlobStore


def packed_shelf(documents: Mapping[str, Document], contents: BlobStore, folders: Mapping[str, str]) -> bytes:
    """An archive of mechanisms by their ids, each in its folder, if it lies in one. ValidationFailed where a solid that one took from a file is not stored."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, document in documents.items():
            folder = folders.get(name, "").replace("/", "-")
            path = f"{folder}/{name}.zip" if folder else f"{name}.zip"
            archive.writestr(zipfile.ZipInfo(path), packed(document, contents))
    return out.getvalue()


def unpacked_shelf(data: bytes) -> dict[str, bytes]:
    """The archives of single mechanisms in one of a shelf, by their paths in it. ValidationFailed where it is none."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            files = unfolded(archive)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, zlib.error) as error:
        raise ValidationFailed(("file", "this is not an archive, or it is damaged")) from error
    mechanisms = {path: block for path, block in files.items() if path.endswith(".zip")}
    if not mechanisms:
        raise ValidationFailed(("file", "there are no mechanisms in it; export a shelf to see how it is laid out"))
    return mechanisms
