"""Revise: which numbers a requirement hangs on, the smallest change that makes it hold, and what two revisions differ in."""

from uhrwerk.core.remedies.balancing import ProvedCorrection, planned, worked
from uhrwerk.core.remedies.comparison import DocumentDifference, compared
from uhrwerk.core.remedies.number import Number, lately, numbers_of, turned
from uhrwerk.core.remedies.remedy import Answer, Effect, Remedies, Remedy
from uhrwerk.core.remedies.search import Goal, Range, Search, SearchStep

__all__ = [
    "Answer",
    "DocumentDifference",
    "Effect",
    "Goal",
    "Number",
    "ProvedCorrection",
    "Range",
    "Remedies",
    "Remedy",
    "Search",
    "SearchStep",
    "compared",
    "lately",
    "numbers_of",
    "planned",
    "turned",
    "worked",
]
