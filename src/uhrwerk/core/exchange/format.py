"""What a format is: a suffix, and how a mechanism is read from it, written to it, or both."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from uhrwerk.core.solids.imported import ImportedSolids
from uhrwerk.core.stages.evaluation import Evaluation


@dataclass(frozen=True)
class Chosen:
    """What of a mechanism is written: one placed part in its own frame, or all (or those of a group) as they stand at a moment of the
    cycle, s. `down`: the face that lies on the bed of a printer, as placed part and datum with a slash between; z is up then, and the
    lowest point at zero."""

    part: str = ""
    time: float = 0.0
    group: str = ""
    down: str = ""


@dataclass(frozen=True)
class Opened:
    """A mechanism in a file: its document as plain data, not looked at yet, and the contents that came with it."""

    data: Any
    contents: tuple[bytes, ...] = ()


@dataclass(frozen=True)
class Format:
    """`suffix` with its dot; `title` says what is in the file. `write` gets an evaluation and what is chosen of it; Refused
    where there is nothing to write. `read` gives a mechanism, `take` gives solids: both run in a process of their own with
    limits; `take` gets the metres of one unit where the format states none, and raises ValueError in words. `whole`: there is no
    such file of one part alone, or of another moment. `alone`: there is one of a single part only. `still`: all as they stand at one
    moment."""

    suffix: str
    title: str
    media_type: str
    read: Callable[[bytes], Opened] | None = None
    write: Callable[[Evaluation, Chosen], bytes] | None = None
    take: Callable[[bytes, float], ImportedSolids] | None = None
    whole: bool = False
    alone: bool = False
    still: bool = False

    @property
    def reads(self) -> bool:
        return self.read is not None or self.take is not None
