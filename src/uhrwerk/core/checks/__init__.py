"""Checks: a requirement in, a verdict out."""

from uhrwerk.core.checks.broad import may_meet
from uhrwerk.core.checks.mass import MassOf, mass_of
from uhrwerk.core.checks.shape import Form, Pair, Shape
from uhrwerk.core.checks.stroke import time_ratio, travel
from uhrwerk.core.checks.sweep import Finding, Meshing, Sweep, Task
from uhrwerk.core.checks.verdict import Verdict

__all__ = [
    "Finding", "Form", "MassOf", "Meshing", "Pair", "Shape", "Sweep", "Task", "Verdict", "mass_of", "may_meet", "time_ratio", "travel",
]  # fmt: skip
