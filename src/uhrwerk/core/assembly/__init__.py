"""Assembly: links and their equations, the solver, mobility, redundancy and contradiction."""

from uhrwerk.core.assembly.assembly import Mechanism, Problem, compile, coordinate_row, teeth_of
from uhrwerk.core.assembly.mobility import Freedom, Mobility, mobility
from uhrwerk.core.assembly.solution import NotSolvable, solve

__all__ = [
    "Freedom", "Mechanism", "Mobility", "NotSolvable", "Problem", "compile", "coordinate_row", "mobility", "solve",
    "teeth_of",
]  # fmt: skip
