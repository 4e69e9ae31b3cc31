"""What springs that press or pull along a line have in common: a pair that holds nothing."""

from __future__ import annotations

import numpy as np

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.resolved_joint import JointFrame

#: which part of what is allowed is used, at moments (T,), and of what it is the part, in words
Used = tuple[Array, str]


class LinearSpring(JointPair):
    """A spring between two datums that pushes b along a line, and a the other way."""

    a: At
    b: At

    @staticmethod
    def rows(n: Numbers, a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str) -> list[Row]:
        return []

    @staticmethod
    def way(n: Numbers, a: Array, b: Array) -> tuple[Array, Array, Array]:
        """Of the frames (T, 7) of both datums: the direction (T, 3) of the force on b, how far b is along it, and how far from
        the root the spring is bent there, (T,) m."""
        raise NotImplementedError

    @staticmethod
    def seated(n: Numbers) -> bool:
        """Whether its ends lie flat on what it bears on, so that it must stand square to that."""
        return False

    @staticmethod
    def push(n: Numbers, apart: Array, reach: Array) -> Array:
        """Force on b along the line, N: below zero where it pulls, nothing where it is loose."""
        raise NotImplementedError

    @staticmethod
    def stress(n: Numbers, push: Array, reach: Array) -> Array:
        """Stress in the spring, Pa."""
        raise NotImplementedError

    @staticmethod
    def used(n: Numbers, apart: Array, reach: Array) -> dict[str, Used]:
        """What else it may not do, and how far it goes in it."""
        return {}

    @staticmethod
    def derived(n: Numbers) -> list[tuple[str, float | str, str]]:
        return []


def straight(a: Array, b: Array) -> tuple[Array, Array, Array]:
    """The line from one origin to the other."""
    apart = np.linalg.norm(b[:, :3] - a[:, :3], axis=1)
    return (b[:, :3] - a[:, :3]) / np.maximum(apart, 1e-12)[:, None], apart, np.zeros(len(a))
