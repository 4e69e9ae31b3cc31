"""Holes for metric screws, read from the table beside this file; and how such tables are read."""

from __future__ import annotations

import csv
from functools import cache
from pathlib import Path


def rows(path: Path) -> dict[str, dict[str, float]]:
    """The rows of a table in millimetres by their size, in metres; lines that begin with # say where it comes from."""
    lines = [line for line in path.read_text(encoding="utf-8").splitlines() if not line.startswith("#")]
    return {row.pop("size"): {k: float(v) * 1e-3 for k, v in row.items()} for row in csv.DictReader(lines)}


@cache
def table() -> dict[str, dict[str, float]]:
    """By size: fine, medium, coarse, pitch, tap, recess and head, m."""
    return rows(Path(__file__).parent / "screw_sizes.csv")
