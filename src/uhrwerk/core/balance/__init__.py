"""Balance: what a rotor lacks in its planes, and which counterweights make a linkage shake its frame least."""

from uhrwerk.core.balance.corrections import Correction, corrections
from uhrwerk.core.balance.counterweights import Counterweights, counterweights

__all__ = ["Correction", "Counterweights", "corrections", "counterweights"]
