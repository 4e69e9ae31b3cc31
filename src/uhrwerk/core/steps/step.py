"""What every build step states: how a part is made from what was there before it."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar

from pydantic import StringConstraints

from uhrwerk.core.field import Kinds, Length, Model, Name, Numbers
from uhrwerk.core.field.ref import FaceOf

#: a face of the part, as the step that made it named it
Face = Annotated[
    str, StringConstraints(pattern=r"^([a-z][a-z0-9_]{0,39}\.[a-z0-9_]{1,160}(\.[0-9]{1,3})?)?$"), FaceOf()
]
#: where outlines lie: a base plane of the part, or a flat face of it
Plane = Annotated[
    str,
    StringConstraints(pattern=r"^(xy|xz|yz|[a-z][a-z0-9_]{0,39}\.[a-z0-9_]{1,160}(\.[0-9]{1,3})?)$"),
    FaceOf(planes=True),
]


class BuildStep(Model):
    """One kind of build step. `title` and `about` are its name and what it does; `adds` whether it can be a part's first."""

    title: ClassVar[str]
    about: ClassVar[str]
    begins: ClassVar[bool] = False

    kind: str
    name: Name
    off: bool = False
    note: str = ""

    @staticmethod
    def made(n: Numbers) -> dict[str, Any]:
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
