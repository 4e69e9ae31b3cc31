"""Drivers: what moves a joint, one file each. A new one is a file like the others and its place in the line below."""

from uhrwerk.core.document.driver import DRIVERS
from uhrwerk.core.motion.drivers.after import SlideAfter, TurnAfter
from uhrwerk.core.motion.drivers.over_time import SlideFormula, TurnFormula
from uhrwerk.core.motion.drivers.programme import SlideProgramme, TurnProgramme
from uhrwerk.core.motion.drivers.sliding import Sliding
from uhrwerk.core.motion.drivers.table import SlideTable, TurnTable
from uhrwerk.core.motion.drivers.turning import Turning

for _driver in (
    Turning,
    Sliding,
    TurnProgramme,
    SlideProgramme,
    TurnFormula,
    SlideFormula,
    TurnTable,
    SlideTable,
    TurnAfter,
    SlideAfter,
):
    DRIVERS.register(_driver)

__all__ = [
    "SlideAfter",
    "SlideFormula",
    "SlideProgramme",
    "SlideTable",
    "Sliding",
    "TurnAfter",
    "TurnFormula",
    "TurnProgramme",
    "TurnTable",
    "Turning",
]
