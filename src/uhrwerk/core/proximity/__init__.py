"""Proximity: two bodies and how one moves against the other in, a distance with its error out."""
