"""Tables of hardware beside this file: one a kind, millimetres, those in inches in the folder `inch`; the standard and where the
numbers come from in their first lines."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from uhrwerk.core.field import OneOf
from uhrwerk.core.steps import screw_sizes

HERE = Path(__file__).parent
#: what a length in inches may be off by for being written in decimals, m
ROUND = 1e-9
#: tables that have sizes in inches
INCH_TABLES = tuple(sorted(path.stem for path in (HERE / "inch").glob("*.csv")))


@cache
def table(name: str) -> dict[str, dict[str, float]]:
    """The rows of a table by their size, m; those of threads with their pitch, the tap drill at which they are drawn (`core`),
    the medium clearance hole (`clear`) and how far a screw is threaded `beyond` twice its diameter. Read only."""
    rows = screw_sizes.both(HERE, name)
    for size, row in rows.items():
        if size in screw_sizes.table():
            thread = screw_sizes.table()[size]
            beyond = 12.7e-3 if size in screw_sizes.inch_sizes() else 12e-3
            row |= {"pitch": thread["pitch"], "core": thread["tap"], "clear": thread["medium"], "beyond": beyond}
    return rows


@cache
def inch(name: str) -> frozenset[str]:
    """The sizes of a table that are in inches."""
    path = HERE / "inch" / f"{name}.csv"
    return frozenset(screw_sizes.rows(path)) if path.exists() else frozenset()


def sizes(name: str) -> OneOf:
    """The mark of a field that takes a size of a table."""
    return OneOf(tuple(table(name)))


def nearest(name: str, column: str, si: float, within: float, unit: str = "mm") -> str:
    """The size whose value in a column is nearest, if it is within so much; else empty. One of the other system than the unit's is
    taken only where none of its own is near."""
    for rows in _own_first(name, unit):
        best = min(rows, key=lambda size: abs(rows[size][column] - si), default="")
        if best and abs(rows[best][column] - si) <= within:
            return best
    return ""


def for_range(name: str, above: str, upto: str, si: float, unit: str = "mm") -> str:
    """The size that is for so much, which lies above one column and up to another; else empty. Those of the unit's system first."""
    rows = (item for part in _own_first(name, unit) for item in part.items())
    return next((size for size, t in rows if t[above] < si <= t[upto] + ROUND), "")


def _own_first(name: str, unit: str) -> list[dict[str, dict[str, float]]]:
    """The rows of a table in two parts, those of the unit's system first."""
    own = {size: t for size, t in table(name).items() if (size in inch(name)) == (unit == "in")}
    return [own, {size: t for size, t in table(name).items() if size not in own}]
