"""Tables of hardware beside this file: one a kind, millimetres, the standard and where the numbers come from in its first lines."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from uhrwerk.core.steps import screw_sizes


@cache
def table(name: str) -> dict[str, dict[str, float]]:
    """The rows of a table by their size, m; those of threads with their pitch, the tap drill at which they are drawn (`core`)
    and the medium clearance hole (`clear`)."""
    rows = screw_sizes.rows(Path(__file__).parent / f"{name}.csv")
    for size, row in rows.items():
        if size in screw_sizes.table():
            thread = screw_sizes.table()[size]
            row |= {"pitch": thread["pitch"], "core": thread["tap"], "clear": thread["medium"]}
    return rows


def nearest(name: str, column: str, si: float, within: float) -> str:
    """The size whose value in a column is nearest, if it is within so much; else empty."""
    rows = table(name)
    best = min(rows, key=lambda size: abs(rows[size][column] - si))
    return best if abs(rows[best][column] - si) <= within else ""
