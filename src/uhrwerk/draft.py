"""A document written in Python: a draft takes parts, joints and requirements, each by a command.

>>> import uhrwerk
>>> draft = uhrwerk.Draft("Arm on a plate")
>>> plate = draft.part("Plate", "steel", uhrwerk.FramePlate(bores={"pivot": uhrwerk.Bore(x="80 mm", y="50 mm")}))
>>> arm = draft.part("Arm", "steel", uhrwerk.LinkBar(bore_1="6.1 mm"))
>>> _ = draft.revolute("Arm turns in plate", plate["pivot"], arm["hole_1"], offset="1 mm")
>>> draft.document.frame
'plate'
"""

from __future__ import annotations

from typing import Any

from uhrwerk.core.document import Document, command, new_id
from uhrwerk.core.document.document import (
    At,
    Driver,
    GearPair,
    Group,
    Of,
    Part,
    Placed,
    Prismatic,
    Requirement,
    Revolute,
    Rigid,
    Start,
    Turning,
)
from uhrwerk.core.document.element import Element
from uhrwerk.core.evaluate import accept


class Handle(str):
    """The id of a placed part; `handle["datum"]` is a datum of it."""

    def __getitem__(self, datum: Any) -> Any:
        return At(placed=str(self), datum=datum) if isinstance(datum, str) else str(self)[datum]

    def body(self, name: str | None = None) -> Of:
        """The placed part, or one body of it, for a clearance."""
        return Of(placed=str(self), body=name)


class Draft:
    """Collects commands into a document. Every method refuses what does not fit, as the page does."""

    def __init__(self, name: str, document: Document | None = None, **fields: Any) -> None:
        self.document = document or Document(name=name, **fields)

    def do(self, change: Any) -> None:
        """Applies any command."""
        self.document = accept(self.document, change)

    def parameter(self, name: str, formula: str, note: str = "") -> str:
        self.do(command.SetParameter(name=name, formula=formula, note=note))
        return name

    def part(self, name: str, material: str, element: Element, **start: str) -> Handle:
        """Adds a part and places it once; `start` says where: x, y, z, turn_x, turn_y, turn_z."""
        key = new_id(name, {**self.document.parts, **self.document.placed})
        self.do(command.AddPart(id=key, part=Part(name=name, material=material, element=element), start=Start(**start)))
        return Handle(key)

    def place(self, part: str, name: str, **start: str) -> Handle:
        """Places a part once more."""
        key = new_id(name, self.document.placed)
        self.do(command.PlacePart(id=key, placed=Placed(name=name, part=part, start=Start(**start))))
        return Handle(key)

    def _joint(self, joint: Any) -> str:
        key = new_id(joint.name, self.document.joints)
        self.do(command.AddJoint(id=key, joint=joint))
        return key

    def rigid(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Rigid(name=name, a=a, b=b, **how))

    def revolute(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Revolute(name=name, a=a, b=b, **how))

    def prismatic(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Prismatic(name=name, a=a, b=b, **how))

    def gear_pair(self, name: str, a: str, b: str) -> str:
        key = new_id(name, self.document.pairs)
        self.do(command.AddPair(id=key, pair=GearPair(name=name, a=a, b=b)))
        return key

    def turn(self, name: str, joint: str, speed: str, start: str = "0 deg") -> str:
        return self.drive(Turning(name=name, joint=joint, speed=speed, start=start))

    def drive(self, driver: Driver) -> str:
        key = new_id(driver.name, self.document.drivers)
        self.do(command.AddDriver(id=key, driver=driver))
        return key

    def group(self, name: str, placed: list[Handle]) -> str:
        """Names a group of placed parts."""
        key = new_id(name, self.document.groups)
        self.do(command.AddGroup(id=key, group=Group(name=name, placed=[str(p) for p in placed])))
        return key

    def require(self, requirement: Requirement) -> str:
        key = new_id(requirement.name, self.document.requirements)
        self.do(command.AddRequirement(id=key, requirement=requirement))
        return key

    def set(self, path: str, value: Any) -> None:
        """Sets one value by its path, such as ``parts.rocker.element.width``."""
        self.do(command.SetValue(path=path, value=value))
