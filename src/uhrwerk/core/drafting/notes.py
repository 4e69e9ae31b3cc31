"""A designer's own notes on a sheet, in lines that fit."""

from __future__ import annotations

from textwrap import wrap

from uhrwerk.core.drafting.sheet import LETTER

#: lines that a sheet takes; their height and that of their letters, mm
LINES, LINE, LETTERS = 12, 3.4, 2.5


def wrapped(note: str, width: float) -> list[str]:
    """A note in lines of a width, mm; how much of it is left out is said.

    >>> wrapped("Deburr. All edges 0.2 mm.", 28.0)
    ['Deburr. All edges', '0.2 mm.']
    """
    lines = [one for line in note.splitlines() for one in wrap(line, int(width / (LETTER * LETTERS)))]
    if len(lines) <= LINES:
        return lines
    return [*lines[: LINES - 1], f"{len(lines) - LINES + 1} more lines of notes are not on this sheet."]
