"""Motion laws, one file each. A new one is a file like the others and its place in the line below."""

from uhrwerk.core.laws.cycloidal import Cycloidal
from uhrwerk.core.laws.harmonic import Harmonic
from uhrwerk.core.laws.law import LAWS, MotionLaw, Peaks, at, jump, peaks
from uhrwerk.core.laws.linear import Linear
from uhrwerk.core.laws.modified_sine import ModifiedSine
from uhrwerk.core.laws.modified_trapezoid import ModifiedTrapezoid
from uhrwerk.core.laws.poly345 import Poly345
from uhrwerk.core.laws.poly4567 import Poly4567
from uhrwerk.core.laws.quadratic import Quadratic
from uhrwerk.core.laws.spline import Spline

for _law in (Poly345, Cycloidal, Harmonic, Quadratic, Linear, Poly4567, ModifiedSine, ModifiedTrapezoid, Spline):
    LAWS.register(_law)

__all__ = [
    "LAWS", "Cycloidal", "Harmonic", "Linear", "ModifiedSine", "ModifiedTrapezoid", "MotionLaw", "Peaks", "Poly345", "Poly4567",
    "Quadratic", "Spline", "at", "jump", "peaks",
]  # fmt: skip
