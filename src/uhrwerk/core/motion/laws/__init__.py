"""Motion laws: what drives a joint, one file each. A new one is a file like the others and its place in the line below."""

from uhrwerk.core.document.driver import DRIVERS
from uhrwerk.core.motion.laws.sliding import Sliding
from uhrwerk.core.motion.laws.turning import Turning

for _law in (Turning, Sliding):
    DRIVERS.register(_law)

__all__ = ["Sliding", "Turning"]
