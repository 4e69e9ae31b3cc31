"""Holes for metric screws, read from the table beside this file."""

from __future__ import annotations

import csv
from functools import cache
from pathlib import Path

#: of the sizes in the table
SIZES = ("M1.6", "M2", "M2.5", "M3", "M4", "M5", "M6", "M8", "M10", "M12", "M16", "M20")


@cache
def table() -> dict[str, dict[str, float]]:
    """By size: fine, medium, coarse, pitch, tap, recess and head, m."""
    lines = (Path(__file__).parent / "screw_sizes.csv").read_text().splitlines()
    rows = csv.DictReader(line for line in lines if not line.startswith("#"))
    return {row.pop("size"): {k: float(v) * 1e-3 for k, v in row.items()} for row in rows}
