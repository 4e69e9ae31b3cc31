"""Drivers: what moves a joint, one file each. A new one is a file like the others and its place in the line below."""

from uhrwerk.core.document.driver import DRIVERS
from uhrwerk.core.motion.drivers.programme import SlideProgramme, TurnProgramme
from uhrwerk.core.motion.drivers.sliding import Sliding
from uhrwerk.core.motion.drivers.turning import Turning

for _driver in (Turning, Sliding, TurnProgramme, SlideProgramme):
    DRIVERS.register(_driver)

__all__ = ["SlideProgramme", "Sliding", "TurnProgramme", "Turning"]
