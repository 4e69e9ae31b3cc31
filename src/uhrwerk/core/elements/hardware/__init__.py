"""Bought hardware by standard and size: one file a kind, its table beside it. A new one is a file like the others and its line
below."""

from uhrwerk.core.elements.hardware.ball_bearing import BallBearing
from uhrwerk.core.elements.hardware.cap_screw import CapScrew
from uhrwerk.core.elements.hardware.dowel import Dowel
from uhrwerk.core.elements.hardware.hex_nut import HexNut
from uhrwerk.core.elements.hardware.parallel_key import ParallelKey
from uhrwerk.core.elements.hardware.retaining_ring import RetainingRing
from uhrwerk.core.elements.hardware.washer import Washer

HARDWARE = (CapScrew, HexNut, Washer, Dowel, RetainingRing, ParallelKey, BallBearing)

__all__ = ["HARDWARE", "BallBearing", "CapScrew", "Dowel", "HexNut", "ParallelKey", "RetainingRing", "Washer"]
