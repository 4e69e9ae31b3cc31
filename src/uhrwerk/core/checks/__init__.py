"""Checks: a requirement in, a verdict out."""

from uhrwerk.core.checks.mass import MassOf, mass_of
from uhrwerk.core.checks.shape import Shape
from uhrwerk.core.checks.stroke import time_ratio, travel
from uhrwerk.core.checks.sweep import Finding, Sweep
from uhrwerk.core.checks.verdict import Verdict

__all__ = ["Finding", "MassOf", "Shape", "Sweep", "Verdict", "mass_of", "time_ratio", "travel"]
