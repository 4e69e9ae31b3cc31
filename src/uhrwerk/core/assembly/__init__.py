"""Assembly: links and their equations, the solver, mobility, redundancy and contradiction."""

from uhrwerk.core.assembly.compile import compile
from uhrwerk.core.assembly.mechanism import Aim, Link, Mechanism, Problem, datum_frame, teeth_of
from uhrwerk.core.assembly.mobility import Freedom, Mobility, mobility
from uhrwerk.core.assembly.mounting import mounting
from uhrwerk.core.assembly.placement import nearest, settled
from uhrwerk.core.assembly.repeat import start_pose
from uhrwerk.core.assembly.solution import NotSolvable, contradiction_words, other_modes, solve, without_pairs

__all__ = [
    "Aim", "Freedom", "Link", "Mechanism", "Mobility", "NotSolvable", "Problem", "compile", "contradiction_words", "datum_frame",
    "mobility", "mounting", "nearest", "other_modes", "settled", "solve", "start_pose", "teeth_of", "without_pairs",
]  # fmt: skip
