"""The effort of a drive, the force in a joint and that of a spring over the cycle, at the frames."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.curves.curve_of import CurveOf
from uhrwerk.core.curves.followed import FollowedMotion
from uhrwerk.core.document import Document
from uhrwerk.core.equations.jet import Jet
from uhrwerk.core.field import DriverId, JointId, PairId
from uhrwerk.core.joints import TorsionalSpring


class EffortCurve(CurveOf):
    """The torque, or where it slides the force, that a drive brings; below zero where it is driven. Without friction."""

    title: ClassVar[str] = "Effort of a drive"
    sampled: ClassVar[bool] = True

    kind: Literal["effort"] = "effort"
    driver: DriverId

    def dimension(self, d: Document) -> str:
        return "torque" if d.drivers[self.driver].coordinate == "turn" else "force"

    def folds(self, d: Document) -> None:
        return None

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        return _at_frames(f, "effort", self.driver)


class JointForceCurve(CurveOf):
    """The force in a joint across its axis, along it, or as a whole. Without friction."""

    title: ClassVar[str] = "Force in a joint"
    sampled: ClassVar[bool] = True

    kind: Literal["joint_force"] = "joint_force"
    joint: JointId
    of: Literal["across", "along", "whole"] = Field(default="across", title="Component")

    def dimension(self, d: Document) -> str:
        return "force"

    def folds(self, d: Document) -> None:
        return None

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        return _at_frames(f, self.of, self.joint)


class SpringCurve(CurveOf):
    """What a spring does: its force, above zero where it presses, or its torque where it winds; the stress in it; its length, or how
    far it is turned from its start."""

    title: ClassVar[str] = "Spring"
    sampled: ClassVar[bool] = True

    kind: Literal["spring"] = "spring"
    pair: PairId = Field(title="Spring")
    of: Literal["force", "stress", "length"] = Field(default="force", title="Quantity")

    def dimension(self, d: Document) -> str:
        winds = isinstance(d.pairs[self.pair], TorsionalSpring)
        return {"force": "torque" if winds else "force", "stress": "stress", "length": "angle" if winds else "length"}[
            self.of
        ]

    def folds(self, d: Document) -> None:
        return None

    def repeats(self, d: Document) -> bool:
        return not isinstance(d.pairs[self.pair], TorsionalSpring)

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        return _at_frames(f, f"spring {self.of}", self.pair)


def _at_frames(f: FollowedMotion, what: str, of: str) -> Jet:
    value = np.full(len(f.times), np.nan)
    value[f.frames] = f.force(what, of, f.times[f.frames])
    return Jet(value, np.full_like(value, np.nan))
