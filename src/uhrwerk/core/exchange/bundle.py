"""A mechanism with the solids that it took from files, in one archive: `mechanism.json` and `contents/` by their hashes."""

from __future__ import annotations

import io
import zipfile
import zlib

from uhrwerk.core.document import Document, ValidationFailed, write
from uhrwerk.core.document.extent import MOST_TEXT
from uhrwerk.core.elements import Imported
from uhrwerk.core.exchange.format import Chosen, Format, Opened
from uhrwerk.core.solids.blob_store import BlobStore, name_of
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.upgrade import opened

_DOCUMENT, _CONTENTS = "mechanism.json", "contents/"
#: bytes that an archive may unfold to, and files in it, at most
UNFOLDED, FILES = 300_000_000, 1000


def _written(e: Evaluation, _: Chosen) -> bytes:
    return packed(e.stated, e.context.kernel_pool.contents)


def packed(document: Document, contents: BlobStore) -> bytes:
    """A document and the solids that it took from files. ValidationFailed where one of these is not stored."""
    out = io.BytesIO()
    names = sorted({p.element.contents for p in document.parts.values() if isinstance(p.element, Imported)} - {""})
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo(_DOCUMENT), write(document))
        for name in names:
            data = contents.get(name)
            if data is None:
                raise ValidationFailed(
                    ("parts", f"the imported solid {name} is not stored here: import its file again")
                )
            archive.writestr(zipfile.ZipInfo(f"{_CONTENTS}{name}"), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _read(data: bytes) -> Opened:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            files = unfolded(archive)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, zlib.error) as error:
        raise ValidationFailed(("file", "this is not an archive, or it is damaged")) from error
    if _DOCUMENT not in files:
        raise ValidationFailed(("file", f"there is no {_DOCUMENT} in it"))
    try:
        text = files.pop(_DOCUMENT).decode()
    except UnicodeDecodeError as error:
        raise ValidationFailed(("file", f"its {_DOCUMENT} is not UTF-8 text")) from error
    document = opened(text)
    contents = {n.removeprefix(_CONTENTS): block for n, block in files.items() if n.startswith(_CONTENTS)}
    for name, block in contents.items():
        if name_of(block) != name:
            raise ValidationFailed(("file", f"{_CONTENTS}{name} is not what its name says"))
    return Opened(document, tuple(contents.values()))


def unfolded(archive: zipfile.ZipFile) -> dict[str, bytes]:
    """What an archive holds, by name, as far as it may unfold; what it states of the sizes may be untrue."""
    files = archive.infolist()
    if len(files) > FILES:
        raise ValidationFailed(("file", f"it holds more than {FILES} files"))
    contents, room = {}, UNFOLDED
    for f in files:
        most = min(room, MOST_TEXT) if f.filename == _DOCUMENT else room
        with archive.open(f) as one:
            contents[f.filename] = one.read(most + 1)
        if len(contents[f.filename]) > most:
            raise ValidationFailed(("file", f"{f.filename} unfolds to more than {most / 10**6:.0f} MB"))
        room -= len(contents[f.filename])
    return contents


FORMAT = Format(".zip", "The mechanism with the files it uses", "application/zip", _read, _written, whole=True)
