"""Revise: which numbers a requirement hangs on, and the smallest change that makes it hold."""

from uhrwerk.core.revise.number import Number, numbers_of
from uhrwerk.core.revise.remedy import Effect, Remedies, Remedy

__all__ = ["Effect", "Number", "Remedies", "Remedy", "numbers_of"]
