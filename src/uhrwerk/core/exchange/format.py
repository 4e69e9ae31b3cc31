"""What a format is: a suffix, and how a mechanism is read from it, written to it, or both."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import PurePath

from uhrwerk.core.checks import Evaluation
from uhrwerk.core.document import Document
from uhrwerk.core.field import Refused


@dataclass(frozen=True)
class Format:
    """`suffix` with its dot; `title` says what is in the file. `write` gets an evaluation; Refused where there is nothing to
    write."""

    suffix: str
    title: str
    media_type: str
    read: Callable[[bytes], Document] | None = None
    write: Callable[[Evaluation], bytes] | None = None


#: by suffix
FORMATS: dict[str, Format] = {}


def register(format: Format) -> Format:
    """Takes up a format. ValueError where its suffix is taken."""
    if format.suffix in FORMATS:
        raise ValueError(f"the suffix {format.suffix} is taken")
    FORMATS[format.suffix] = format
    return format


def told(name: str, data: bytes) -> Document:
    """The mechanism in a file of that name. Refused where its format is not known, or it is broken."""
    format = FORMATS.get(PurePath(name).suffix.lower())
    if format is None or format.read is None:
        known = ", ".join(f.suffix for f in FORMATS.values() if f.read is not None)
        raise Refused(("file", f"{name!r} cannot be read; what can: {known}"))
    return format.read(data)


def written(name: str, e: Evaluation) -> tuple[bytes, Format]:
    """A file of that name with the mechanism in it. Refused where its format is not known."""
    format = FORMATS.get(PurePath(name).suffix.lower())
    if format is None or format.write is None:
        known = ", ".join(f.suffix for f in FORMATS.values() if f.write is not None)
        raise Refused(("suffix", f"{name!r} cannot be written; what can: {known}"))
    return format.write(e), format
