"""Progress of long work on standard error: nothing for the first second, then one line that is rewritten, or, where that is no
terminal, a line for each stage."""

from __future__ import annotations

import sys
import time
from typing import TextIO

#: s for which nothing is said, and between two lines that are rewritten
QUIET, PAUSE = 1.0, 0.1


class Progress:
    """Called with words and a fraction; use it as a context, so that its line is cleared at the end."""

    def __init__(self, to: TextIO | None = None) -> None:
        self.to = sys.stderr if to is None else to
        self.live = self.to.isatty()
        self._begun = self._last = time.monotonic()
        self._stage, self._shown = "", False

    def __enter__(self) -> Progress:
        return self

    def __exit__(self, *_: object) -> None:
        if self._shown and self.live:
            self.to.write("\r\x1b[K")
            self.to.flush()

    def __call__(self, words: str, fraction: float) -> None:
        now = time.monotonic()
        if now - self._begun < QUIET:
            return
        if self.live and now - self._last >= PAUSE:
            self._last, self._shown = now, True
            self.to.write(f"\r\x1b[K{fraction:4.0%} {words}"[:110])
            self.to.flush()
        elif not self.live and (stage := words.partition(":")[0]) != self._stage:
            self._stage = stage
            self.to.write(f"{fraction:4.0%} {stage}\n")
            self.to.flush()
