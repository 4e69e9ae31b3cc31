"""What springs that turn one part about an axis of another have in common: a pair that holds nothing."""

from __future__ import annotations

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Angle, Numbers
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.linear_spring import Used
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.resolved_joint import JointFrame


class TorsionalSpring(JointPair):
    """A wound spring that turns b about the axis of a: to the left where it is wound by an angle above zero."""

    a: At
    b: At
    preload: Angle

    @staticmethod
    def rows(n: Numbers, a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str) -> list[Row]:
        return []

    @staticmethod
    def rate(n: Numbers) -> float:
        """N m/rad"""
        raise NotImplementedError

    @staticmethod
    def stress(n: Numbers, torque: Array) -> Array:
        """Bending stress under torques (T,) N m, Pa."""
        raise NotImplementedError

    @staticmethod
    def used(n: Numbers, wound: Array) -> dict[str, Used]:
        """What else it may not do where it is wound so far, (T,) rad, and how far it goes in it."""
        return {}

    @staticmethod
    def derived(n: Numbers) -> list[tuple[str, float | str, str]]:
        return []

    @classmethod
    def torque(cls, n: Numbers, turned: Array) -> Array:
        """On b about the axis of a, N m, when b has turned so far from its start, (T,) rad; nothing where it is loose."""
        remaining = n.preload - turned
        return np.where(remaining * n.preload > 0, cls.rate(n) * remaining, 0.0)
