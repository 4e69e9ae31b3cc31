"""Assembly: links and their equations, the solver, mobility, redundancy and contradiction."""

from uhrwerk.core.assembly.assembly import Mechanism, Problem, compile, start_pose, teeth_of
from uhrwerk.core.assembly.joints import ANGLES, Held, coordinate_row
from uhrwerk.core.assembly.mobility import Freedom, Mobility, mobility
from uhrwerk.core.assembly.mounting import mounting
from uhrwerk.core.assembly.settle import settled
from uhrwerk.core.assembly.solution import NotSolvable, contradiction_words, other_modes, solve, without_pairs

__all__ = [
    "ANGLES", "Freedom", "Held", "Mechanism", "Mobility", "NotSolvable", "Problem", "compile", "contradiction_words", "coordinate_row", "mobility", "mounting", "other_modes",
    "settled", "solve", "start_pose", "teeth_of", "without_pairs",
]  # fmt: skip
