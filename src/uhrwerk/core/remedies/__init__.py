"""Revise: which numbers a requirement hangs on, the smallest change that makes it hold, and what two revisions differ in."""

from uhrwerk.core.remedies.balancing import Worked, planned, worked
from uhrwerk.core.remedies.comparison import Difference, compared
from uhrwerk.core.remedies.number import Number, lately, numbers_of, turned
from uhrwerk.core.remedies.remedy import Answer, Effect, Remedies, Remedy
from uhrwerk.core.remedies.search import Goal, Range, Search, Step

__all__ = [
    "Answer",
    "Difference",
    "Effect",
    "Goal",
    "Number",
    "Range",
    "Remedies",
    "Remedy",
    "Search",
    "Step",
    "Worked",
    "compared",
    "lately",
    "numbers_of",
    "planned",
    "turned",
    "worked",
]
