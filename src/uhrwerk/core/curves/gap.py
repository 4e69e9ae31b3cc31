"""The clearance of two parts over the cycle, at the frames."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.curves.curve_of import CurveOf
from uhrwerk.core.curves.followed import FollowedMotion
from uhrwerk.core.document import Document
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.equations.jet import Jet


class GapCurve(CurveOf):
    """How far two parts are from one another, nothing where they touch or overlap; known at the frames, by their triangles."""

    title: ClassVar[str] = "Clearance of two parts"
    sampled: ClassVar[bool] = True

    kind: Literal["gap"] = "gap"
    a: Of = Field(title="Between")
    b: Of = Field(title="And")

    def dimension(self, d: Document) -> str:
        return "length"

    def folds(self, d: Document) -> None:
        return None

    def measured(self, f: FollowedMotion, other: Callable[[str], Jet]) -> Jet:
        value = np.full(len(f.times), np.nan)
        value[f.frames] = f.gap(self.a, self.b, f.times[f.frames])
        return Jet(value, np.full_like(value, np.nan))
