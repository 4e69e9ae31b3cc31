"""Limits of a size: a tolerance class of ISO 286, or both deviations as they are written.

Grades and fundamental deviations of ISO 286-1 (2010), tables 1 to 5, up to 500 mm, for what is fitted most: holes D to H and JS,
shafts d to h, js and k to p. From memory; the test holds them against the standard's own formulas.
"""

from __future__ import annotations

import re
from bisect import bisect_left

from uhrwerk.core.quantity import FormulaError, value

#: sizes up to which a line of the tables holds, mm
UP_TO = (3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500)
#: standard tolerance grades, um
GRADES = {
    5: (4, 5, 6, 8, 9, 11, 13, 15, 18, 20, 23, 25, 27),
    6: (6, 8, 9, 11, 13, 16, 19, 22, 25, 29, 32, 36, 40),
    7: (10, 12, 15, 18, 21, 25, 30, 35, 40, 46, 52, 57, 63),
    8: (14, 18, 22, 27, 33, 39, 46, 54, 63, 72, 81, 89, 97),
    9: (25, 30, 36, 43, 52, 62, 74, 87, 100, 115, 130, 140, 155),
    10: (40, 48, 58, 70, 84, 100, 120, 140, 160, 185, 210, 230, 250),
    11: (60, 75, 90, 110, 130, 160, 190, 220, 250, 290, 320, 360, 400),
}
#: upper deviation of shafts, um below zero; of holes, the same above it
BELOW = {
    "d": (20, 30, 40, 50, 65, 80, 100, 120, 145, 170, 190, 210, 230),
    "e": (14, 20, 25, 32, 40, 50, 60, 72, 85, 100, 110, 125, 135),
    "f": (6, 10, 13, 16, 20, 25, 30, 36, 43, 50, 56, 62, 68),
    "g": (2, 4, 5, 6, 7, 9, 10, 12, 14, 15, 17, 18, 20),
    "h": (0,) * 13,
}
#: lower deviation of shafts, um; k of the grades up to 7
ABOVE = {
    "k": (0, 1, 1, 1, 2, 2, 2, 3, 3, 4, 4, 4, 5),
    "m": (2, 4, 6, 7, 8, 9, 11, 13, 15, 17, 20, 21, 23),
    "n": (4, 8, 10, 12, 15, 17, 20, 23, 27, 31, 34, 37, 40),
    "p": (6, 12, 15, 18, 22, 26, 32, 37, 43, 50, 56, 62, 68),
}
CLASS = re.compile(r"(JS|[DEFGH]|js|[defghkmnp])(\d{1,2})")


def deviations(text: str, size: float) -> tuple[float, float]:
    """Lower and upper deviation, m, of a nominal size, m: of a class such as `H7`, or as written, `0 mm / 0.015 mm`. ValueError in
    words."""
    match = CLASS.fullmatch(text.strip())
    if match is None:
        return _written(text)
    letter, grade = match[1], int(match[2])
    if grade not in GRADES:
        raise ValueError(f"{text!r}: grades 5 to 11 are known")
    if not 0 < size * 1e3 <= UP_TO[-1]:
        raise ValueError(f"{text!r}: sizes up to {UP_TO[-1]} mm are known")
    at = bisect_left(UP_TO, round(size * 1e3, 9))
    wide = GRADES[grade][at] * 1e-6
    if letter.lower() == "js":
        return -wide / 2, wide / 2
    if letter.lower() in BELOW:
        off = BELOW[letter.lower()][at] * 1e-6
        return (off, off + wide) if letter.isupper() else (-off - wide, -off)
    if letter == "k" and grade > 7:
        raise ValueError(f"{text!r}: k is known up to grade 7")
    low = ABOVE[letter][at] * 1e-6
    return low, low + wide


def _plain(text: str) -> bool:
    """Whether a deviation other than zero has no unit: it would be another size in a mechanism of other units."""
    try:
        return value(text, "number") != 0
    except FormulaError:
        return False


def _written(text: str) -> tuple[float, float]:
    parts = text.split("/")
    if len(parts) != 2:
        raise ValueError(
            f"{text!r} is neither a tolerance class such as H7 or g6 nor two deviations such as 0 mm / 0.02 mm"
        )
    try:
        low, high = (value(p, "length") for p in parts)
    except FormulaError as error:
        raise ValueError(f"{text!r} {error}") from error
    if any(_plain(p) for p in parts):
        raise ValueError(f"{text!r}: give each deviation its unit, such as 0.02 mm")
    if low > high:
        raise ValueError(f"{text!r}: the lower deviation lies above the upper")
    return low, high
