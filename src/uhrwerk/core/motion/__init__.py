"""Motion: the track through one master cycle, velocities and accelerations, joint coordinates, dead points."""

from uhrwerk.core.motion import drivers  # noqa: F401  registers them
from uhrwerk.core.motion.coordinate import Coordinate, CoordinateValues, coordinates, counted, interpolated, reversals
from uhrwerk.core.motion.cycle import DeadPoint, Fold, Motion, TooLong, cycle, dead_point_words, follow, near
from uhrwerk.core.motion.drag import Grip, play, pull
from uhrwerk.core.motion.limits import beyond_limits
from uhrwerk.core.motion.trajectory import Trajectory

__all__ = [
    "Coordinate",
    "CoordinateValues",
    "DeadPoint",
    "Fold",
    "Grip",
    "Motion",
    "TooLong",
    "Trajectory",
    "beyond_limits",
    "coordinates",
    "counted",
    "cycle",
    "dead_point_words",
    "follow",
    "interpolated",
    "near",
    "play",
    "pull",
    "reversals",
]  # fmt: skip
