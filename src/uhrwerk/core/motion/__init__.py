"""Motion: the master cycle, velocities and accelerations, joint coordinates."""

from uhrwerk.core.motion.cycle import Coordinate, DeadPoint, Motion, coordinates, cycle, follow

__all__ = ["Coordinate", "DeadPoint", "Motion", "coordinates", "cycle", "follow"]
