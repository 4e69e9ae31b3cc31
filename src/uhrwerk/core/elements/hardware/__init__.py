"""Bought hardware by standard and size: one file a kind, its table beside it. A new one is a file like the others and its line
below."""

from uhrwerk.core.elements.hardware.ball_bearing import BallBearing
from uhrwerk.core.elements.hardware.bush import Bush
from uhrwerk.core.elements.hardware.cap_screw import CapScrew
from uhrwerk.core.elements.hardware.clevis_pin import ClevisPin
from uhrwerk.core.elements.hardware.countersunk_screw import CountersunkScrew
from uhrwerk.core.elements.hardware.dowel import Dowel
from uhrwerk.core.elements.hardware.hex_nut import HexNut
from uhrwerk.core.elements.hardware.internal_retaining_ring import InternalRetainingRing
from uhrwerk.core.elements.hardware.parallel_key import ParallelKey
from uhrwerk.core.elements.hardware.retaining_ring import RetainingRing
from uhrwerk.core.elements.hardware.set_screw import SetScrew
from uhrwerk.core.elements.hardware.washer import Washer

HARDWARE = (
    CapScrew, CountersunkScrew, SetScrew, HexNut, Washer, Dowel, ClevisPin, RetainingRing, InternalRetainingRing, ParallelKey, BallBearing, Bush,
)  # fmt: skip

__all__ = [
    "HARDWARE",
    "BallBearing",
    "Bush",
    "CapScrew",
    "ClevisPin",
    "CountersunkScrew",
    "Dowel",
    "HexNut",
    "InternalRetainingRing",
    "ParallelKey",
    "RetainingRing",
    "SetScrew",
    "Washer",
]  # fmt: skip
