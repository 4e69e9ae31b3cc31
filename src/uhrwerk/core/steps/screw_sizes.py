"""Holes for screws, metric and unified, read from the tables beside this file; and how such tables are read."""

from __future__ import annotations

import csv
from functools import cache
from math import radians
from pathlib import Path

#: units in which tables are written, m
MM, INCH = 1e-3, 25.4e-3


def rows(path: Path, unit: float = MM) -> dict[str, dict[str, float]]:
    """The rows of a table by their size, in metres; lines that begin with # say where it comes from."""
    lines = [line for line in path.read_text(encoding="utf-8").splitlines() if not line.startswith("#")]
    return {row.pop("size"): {k: float(v) * unit for k, v in row.items()} for row in csv.DictReader(lines)}


def both(folder: Path, name: str) -> dict[str, dict[str, float]]:
    """The metric rows of a table, then those in inches, where its folder has any."""
    inch = folder / "inch" / f"{name}.csv"
    return rows(folder / f"{name}.csv") | (rows(inch, INCH) if inch.exists() else {})


@cache
def table() -> dict[str, dict[str, float]]:
    """By size: fine, medium, coarse, pitch, tap, recess and head, m. Read only."""
    return both(Path(__file__).parent, "screw_sizes")


def sink_angle(size: str) -> float:
    """The angle of a countersunk head, rad: 90 degrees (ISO 10642), 82 degrees in inches (ASME B18.3); from memory."""
    return radians(82.0 if size in inch_sizes() else 90.0)


@cache
def inch_sizes() -> frozenset[str]:
    """Sizes of unified screws."""
    return frozenset(rows(Path(__file__).parent / "inch" / "screw_sizes.csv"))
