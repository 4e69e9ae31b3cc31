"""Comma-separated values that a spreadsheet only reads: no name in them is taken for a formula.

RFC 4180 (2005); the leading apostrophe is what OWASP advises against formula injection (CSV Injection; from memory).
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

#: a text that begins so would be worked out, not shown
BEGINS_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def comma_separated(rows: Iterable[Sequence[str | float | None]]) -> str:
    """Rows as text: numbers in full, nothing for None, texts so that none is taken for a formula."""
    out = io.StringIO()
    csv.writer(out).writerows([_cell(x) for x in row] for row in rows)
    return out.getvalue()


def _cell(x: str | float | None) -> str:
    if x is None:
        return ""
    if isinstance(x, str):
        return f"'{x}" if x.startswith(BEGINS_FORMULA) else x
    return str(x) if isinstance(x, int) else repr(float(x))
