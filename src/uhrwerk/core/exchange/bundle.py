"""A mechanism with the solids that it took from files, in one archive: `mechanism.json` and `contents/` by their hashes."""

from __future__ import annotations

import io
import zipfile
import zlib

from uhrwerk.core import parts
from uhrwerk.core.checks import Evaluation
from uhrwerk.core.document import Document, Refused, write
from uhrwerk.core.elements import Received
from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.solids.contents import name_of
from uhrwerk.core.upgrade import read

_DOCUMENT, _CONTENTS = "mechanism.json", "contents/"
#: bytes that an archive may unfold to, and files in it, at most
UNFOLDED, FILES = 300_000_000, 1000


def _written(e: Evaluation, _: Chosen) -> bytes:
    contents, out = parts.workshop().contents, io.BytesIO()
    names = sorted({p.element.contents for p in e.stated.parts.values() if isinstance(p.element, Received)} - {""})
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo(_DOCUMENT), write(e.stated))
        for name in names:
            data = contents.get(name)
            if data is None:
                raise Refused(("parts", f"the contents {name} are not kept here: give their file once more"))
            archive.writestr(zipfile.ZipInfo(f"{_CONTENTS}{name}"), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _read(data: bytes) -> Document:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            files = archive.infolist()
            if len(files) > FILES or sum(f.file_size for f in files) > UNFOLDED:
                raise Refused(
                    ("file", f"it unfolds to more than {UNFOLDED // 10**6} MB, or to more than {FILES} files")
                )
            found, left = {}, UNFOLDED
            for f in files:
                with archive.open(f) as one:
                    found[f.filename] = one.read(left + 1)  # what is stated of its size may be untrue
                left -= len(found[f.filename])
                if left < 0:
                    raise Refused(("file", f"it unfolds to more than {UNFOLDED // 10**6} MB"))
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, zlib.error) as error:
        raise Refused(("file", "it is no archive, or is broken")) from error
    if _DOCUMENT not in found:
        raise Refused(("file", f"there is no {_DOCUMENT} in it"))
    try:
        document = read(found[_DOCUMENT].decode())
    except UnicodeDecodeError as error:
        raise Refused(("file", f"its {_DOCUMENT} is not UTF-8 text")) from error
    for name, block in found.items():
        if name.startswith(_CONTENTS):
            if name_of(block) != name.removeprefix(_CONTENTS):
                raise Refused(("file", f"{name} is not what its name says"))
            parts.workshop().contents.put(block)
    return document


FORMAT = Format(".zip", "The mechanism with the files it uses", "application/zip", _read, _written, whole=True)
