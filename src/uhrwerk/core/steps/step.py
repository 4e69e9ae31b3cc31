"""What every build step states: how a part is made from what was there before it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from uhrwerk.core.field import Kinds, Length, Model, Name, Numbers
from uhrwerk.core.field.ref import Face, Plane
from uhrwerk.core.outlines import OUTLINES, OutlineHandle


@dataclass(frozen=True)
class Under:
    """A face that is pointed at: its name, plane or axis, the middle of it on its own plane and its size across, m; of an
    axis, the radius and whether it is a bore."""

    name: str
    kind: str
    x: float
    y: float
    across: float
    radius: float = 0.0
    bore: bool = False
    whole: bool = True  # round all the way
    faces: int = 6  # of the part

    def size(self, part: float, least: float = 0.5e-3) -> str:
        """A round size that is so large a part of the face."""
        si = max(self.across * part, least)
        unit = 10.0 ** np.floor(np.log10(si * 1e3))
        return f"{round(si * 1e3 / unit) * unit:g} mm"

    @property
    def at_x(self) -> str:
        """Its middle along x, as a field."""
        return f"{round(self.x * 1e3, 3) + 0.0:g} mm"

    @property
    def at_y(self) -> str:
        return f"{round(self.y * 1e3, 3) + 0.0:g} mm"


@dataclass(frozen=True)
class StepOption:
    """A step that may be done at a face, and the fields that are asked for."""

    title: str
    step: BuildStep
    asks: tuple[str, ...] = ()


class BuildStep(Model):
    """One kind of build step. `title` and `about` are its name and what it does; `adds` whether it can be a part's first."""

    title: ClassVar[str]
    about: ClassVar[str]
    begins: ClassVar[bool] = False

    kind: str
    name: Name
    off: bool = False
    note: str = ""

    def idle(self) -> set[str]:
        """Fields that have no effect as the others stand."""
        return set()

    @staticmethod
    def handles(n: Numbers) -> list[OutlineHandle]:
        """The points by which it is drawn on its plane; the fields are its own."""
        if not hasattr(n, "outline"):
            return []
        inner = OUTLINES[n.outline.kind].handles(n.outline)
        return [OutlineHandle(h.name, h.x, h.y, tuple((f"outline.{f}", a, k) for f, a, k in h.moves)) for h in inner]

    @staticmethod
    def moves(n: Numbers, role: str) -> tuple[tuple[str, float], ...]:
        """The numbers behind a face that it made: each with how much it grows where the face moves outward by one."""
        return ()

    @staticmethod
    def derived(n: Numbers) -> list[tuple[str, float, str]]:
        """Values that follow from the numbers: name, SI value, dimension."""
        return []

    @classmethod
    def offers(cls, face: Under) -> list[StepOption]:
        """What of this kind may be done at a face."""
        return []

    @staticmethod
    def recipe(n: Numbers) -> dict[str, Any]:
        """The step as a recipe has it (`do` and what belongs to it), m and rad. Unfit where its numbers do not fit."""
        raise NotImplementedError


class OnPlane(BuildStep):
    """A step on a plane."""

    plane: Plane = "xy"
    offset: Length = "0 mm"


STEPS: Kinds[BuildStep] = Kinds("build step")


def plane_of(n: Numbers) -> dict[str, Any]:
    """A plane as a recipe has it."""
    return {("base" if n.plane in ("xy", "xz", "yz") else "face"): n.plane, "offset": n.offset}


__all__ = ["STEPS", "BuildStep", "Face", "OnPlane", "Plane", "StepOption", "Under", "plane_of"]
