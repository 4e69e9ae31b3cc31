"""Motion: the master cycle, velocities and accelerations, joint coordinates."""

from uhrwerk.core.motion.cycle import Coordinate, DeadPoint, Motion, coordinates, cycle, follow
from uhrwerk.core.motion.drag import Grip, play, pull

__all__ = ["Coordinate", "DeadPoint", "Grip", "Motion", "coordinates", "cycle", "follow", "play", "pull"]
