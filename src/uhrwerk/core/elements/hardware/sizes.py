"""Tables of hardware beside this file: one a kind, millimetres, the standard and where the numbers come from in its first lines."""

from __future__ import annotations

import csv
from functools import cache
from pathlib import Path


@cache
def table(name: str) -> dict[str, dict[str, float]]:
    """The rows of a table by their size, SI."""
    lines = (Path(__file__).parent / f"{name}.csv").read_text().splitlines()
    rows = csv.DictReader(line for line in lines if not line.startswith("#"))
    return {row.pop("size"): {k: float(v) * 1e-3 for k, v in row.items()} for row in rows}


def nearest(name: str, column: str, si: float, within: float) -> str:
    """The size whose value in a column is nearest, if it is within so much; else empty."""
    rows = table(name)
    best = min(rows, key=lambda size: abs(rows[size][column] - si))
    return best if abs(rows[best][column] - si) <= within else ""
