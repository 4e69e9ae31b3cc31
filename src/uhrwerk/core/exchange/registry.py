"""All formats by suffix. A new one is a file like the others and its place in the list below."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import PurePath

from uhrwerk.core.exchange import bundle, document, dxf, gltf, mjcf, parts_list, step, stl, svg, three_mf, urdf
from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.stages.evaluation import Evaluation

#: other ways to write a suffix
ALSO = {".stp": ".step"}


class Formats(Mapping[str, Format]):
    """Formats by suffix, in the order of registering."""

    def __init__(self, *formats: Format) -> None:
        self._formats: dict[str, Format] = {}
        for format in formats:
            self.register(format)

    def register(self, format: Format) -> None:
        """ValueError where the suffix is taken."""
        if format.suffix in self._formats:
            raise ValueError(f"the suffix {format.suffix} is taken")
        self._formats[format.suffix] = format

    def drop(self, suffix: str) -> None:
        """Forgets a format again, as a test does with what it made up."""
        del self._formats[suffix]

    def __getitem__(self, suffix: str) -> Format:
        return self._formats[suffix]

    def __iter__(self) -> Iterator[str]:
        return iter(self._formats)

    def __len__(self) -> int:
        return len(self._formats)


FORMATS = Formats(
    document.FORMAT,
    bundle.FORMAT,
    parts_list.FORMAT,
    step.FORMAT,
    three_mf.FORMAT,
    stl.FORMAT,
    gltf.FORMAT,
    mjcf.FORMAT,
    urdf.FORMAT,
    dxf.FORMAT,
    svg.FORMAT,
)


def format_of(name: str) -> Format | None:
    """By the longest suffix that is known: `a.urdf.zip` is not any archive."""
    suffixes = PurePath(name.lower()).suffixes
    ends = ["".join(suffixes[k:]) for k in range(len(suffixes))]
    return next((FORMATS[ALSO.get(end, end)] for end in ends if ALSO.get(end, end) in FORMATS), None)


def written(name: str, e: Evaluation, chosen: Chosen = Chosen()) -> tuple[bytes, Format]:
    """A file of that name with the mechanism in it. ValidationFailed where its format is not known."""
    format = format_of(name)
    if format is None or format.write is None:
        known = ", ".join(f.suffix for f in FORMATS.values() if f.write is not None)
        raise ValidationFailed(("suffix", f"{name!r} cannot be exported; formats: {known}"))
    if format.whole and chosen != Chosen():
        raise ValidationFailed(("suffix", f"{format.suffix} holds the whole mechanism, not one part or moment of it"))
    return format.write(e, chosen), format
