"""Balance: what a rotor lacks in its planes, the holes or studs that give it, and which counterweights make a linkage shake its frame
least."""

from uhrwerk.core.balance.corrections import Correction, corrections
from uhrwerk.core.balance.counterweights import Counterweights, counterweights
from uhrwerk.core.balance.drilling import DrillingPlan, Form, plans
from uhrwerk.core.balance.selection import Selection, selection

__all__ = [
    "Correction",
    "Counterweights",
    "DrillingPlan",
    "Form",
    "Selection",
    "corrections",
    "counterweights",
    "plans",
    "selection",
]
