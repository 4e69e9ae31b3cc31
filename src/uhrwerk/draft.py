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

from collections.abc import Mapping
from typing import Any

from uhrwerk.core.document import Command, Document, command, new_id
from uhrwerk.core.document.curve import Curve
from uhrwerk.core.document.document import Group, Part, Placed
from uhrwerk.core.document.drawing import Drawing
from uhrwerk.core.document.driver import Driver
from uhrwerk.core.document.repeat import CopyRepeat, MirrorRepeat, RingRepeat, RowRepeat, Start, of_copy
from uhrwerk.core.document.requirement import Of, StatedRequirement
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.elements import Blank, Element
from uhrwerk.core.joints import (
    AngleBetween,
    At,
    BeltPair,
    BevelPair,
    CamPair,
    Concentric,
    Cylindrical,
    Distance,
    Flush,
    ForcePair,
    GearPair,
    Held,
    HelicalPair,
    Parallel,
    Perpendicular,
    Planar,
    Prismatic,
    RackPair,
    Revolute,
    Rigid,
    Screw,
    ScrewPair,
    SlotPair,
    Spherical,
    SpringPair,
    Symmetric,
    Tangent,
    TorquePair,
    Universal,
    WormPair,
)
from uhrwerk.core.motion.drivers import Sliding, Turning
from uhrwerk.core.steps import BuildStep


class Handle(str):
    """The id of a placed part; `handle["datum"]` is a datum of it."""

    def __getitem__(self, datum: Any) -> Any:
        return At(placed=str(self), datum=datum) if isinstance(datum, str) else str(self)[datum]

    def body(self, name: str | None = None) -> Of:
        """The placed part, or one body of it, for a clearance."""
        return Of(placed=str(self), body=name)

    def copy(self, k: int) -> Handle:
        """The k-th of a repeat; the first is the original."""
        return Handle(of_copy(str(self), k))


class Draft:
    """Collects commands into a document. Every method refuses what does not fit, as the page does."""

    def __init__(self, name: str, document: Document | None = None, **fields: Any) -> None:
        self.document = document or Document(name=name, **fields)

    def do(self, change: Command) -> None:
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

    def own_part(self, name: str, material: str, steps: Mapping[str, BuildStep], **start: str) -> Handle:
        """Adds a part that is made by build steps alone, and places it once."""
        key = new_id(name, {**self.document.parts, **self.document.placed})
        part = Part(name=name, material=material, element=Blank(), steps=dict(steps))
        self.do(command.AddPart(id=key, part=part, start=Start(**start)))
        return Handle(key)

    def step(self, part: str, step: BuildStep, id: str | None = None, before: str | None = None) -> str:
        """Adds a build step to a part, as its last or before another; returns its id."""
        design = self.document.placed[str(part)].part
        key = id or new_id(step.name, {**self.document.parts[design].steps, "element": None})
        self.do(command.AddStep(part=design, step=step, id=key, before=before))
        return key

    def place(self, part: str, name: str, **start: str) -> Handle:
        """Places a part once more."""
        key = new_id(name, self.document.placed)
        self.do(command.PlacePart(id=key, placed=Placed(name=name, part=part, start=Start(**start))))
        return Handle(key)

    def _joint(self, joint: Any) -> str:
        key = new_id(joint.name, {**self.document.joints, **self.document.relations})
        self.do(command.AddJoint(id=key, joint=joint))
        return key

    def _relation(self, relation: Any) -> str:
        key = new_id(relation.name, {**self.document.joints, **self.document.relations})
        self.do(command.AddRelation(id=key, relation=relation))
        return key

    def _pair(self, pair: Any) -> str:
        key = new_id(pair.name, self.document.pairs)
        self.do(command.AddPair(id=key, pair=pair))
        return key

    def _repeat(self, repeat: Any) -> str:
        key = new_id(repeat.name, self.document.repeats)
        self.do(command.AddRepeat(id=key, repeat=repeat))
        return key

    # joints

    def rigid(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Rigid(name=name, a=a, b=b, **how))

    def held(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Held(name=name, a=a, b=b, **how))

    def revolute(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Revolute(name=name, a=a, b=b, **how))

    def prismatic(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Prismatic(name=name, a=a, b=b, **how))

    def cylindrical(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Cylindrical(name=name, a=a, b=b, **how))

    def screw(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Screw(name=name, a=a, b=b, **how))

    def planar(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Planar(name=name, a=a, b=b, **how))

    def spherical(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Spherical(name=name, a=a, b=b, **how))

    def universal(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._joint(Universal(name=name, a=a, b=b, **how))

    # relations

    def flush(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._relation(Flush(name=name, a=a, b=b, **how))

    def concentric(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._relation(Concentric(name=name, a=a, b=b, **how))

    def parallel(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._relation(Parallel(name=name, a=a, b=b, **how))

    def perpendicular(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._relation(Perpendicular(name=name, a=a, b=b, **how))

    def distance(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._relation(Distance(name=name, a=a, b=b, **how))

    def angle(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._relation(AngleBetween(name=name, a=a, b=b, **how))

    def tangent(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._relation(Tangent(name=name, a=a, b=b, **how))

    def symmetric(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._relation(Symmetric(name=name, a=a, b=b, **how))

    # pairs

    def gear_pair(self, name: str, a: str, b: str) -> str:
        return self._pair(GearPair(name=name, a=a, b=b))

    def belt(self, name: str, a: str, b: str, **how: Any) -> str:
        return self._pair(BeltPair(name=name, a=a, b=b, **how))

    def rack_pair(self, name: str, gear: str, rack: str) -> str:
        return self._pair(RackPair(name=name, a=gear, b=rack))

    def helical_pair(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._pair(HelicalPair(name=name, a=a, b=b, **how))

    def bevel_pair(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._pair(BevelPair(name=name, a=a, b=b, **how))

    def worm_pair(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._pair(WormPair(name=name, a=a, b=b, **how))

    def screw_pair(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._pair(ScrewPair(name=name, a=a, b=b, **how))

    def slot_pair(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._pair(SlotPair(name=name, a=a, b=b, **how))

    def cam_pair(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._pair(CamPair(name=name, a=a, b=b, **how))

    def spring(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._pair(SpringPair(name=name, a=a, b=b, **how))

    def push(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._pair(ForcePair(name=name, a=a, b=b, **how))

    def torque(self, name: str, a: At, b: At, **how: Any) -> str:
        return self._pair(TorquePair(name=name, a=a, b=b, **how))

    # repeats

    def ring(self, name: str, placed: list[Handle], about: At, count: str, step: str = "") -> str:
        return self._repeat(RingRepeat(name=name, placed=[str(p) for p in placed], about=about, count=count, step=step))

    def row(self, name: str, placed: list[Handle], along: At, count: str, pitch: str) -> str:
        return self._repeat(
            RowRepeat(name=name, placed=[str(p) for p in placed], along=along, count=count, pitch=pitch)
        )

    def mirror(self, name: str, placed: list[Handle], about: At) -> str:
        return self._repeat(MirrorRepeat(name=name, placed=[str(p) for p in placed], about=about))

    def copy(self, name: str, placed: list[Handle], count: str = "2", **shift: str) -> str:
        """The same parts with the joints inside once more, which move on their own."""
        return self._repeat(CopyRepeat(name=name, placed=[str(p) for p in placed], count=count, shift=Start(**shift)))

    # the rest

    def turn(self, name: str, joint: str, speed: str, start: str = "0 deg") -> str:
        return self.drive(Turning(name=name, joint=joint, speed=speed, start=start))

    def slide(self, name: str, joint: str, speed: str, start: str = "0 mm") -> str:
        return self.drive(Sliding(name=name, joint=joint, speed=speed, start=start))

    def drive(self, driver: Driver) -> str:
        key = new_id(driver.name, self.document.drivers)
        self.do(command.AddDriver(id=key, driver=driver))
        return key

    def group(self, name: str, placed: list[Handle]) -> str:
        """Names a group of placed parts."""
        key = new_id(name, self.document.groups)
        self.do(command.AddGroup(id=key, group=Group(name=name, placed=[str(p) for p in placed])))
        return key

    def require(self, requirement: StatedRequirement) -> str:
        key = new_id(requirement.name, self.document.requirements)
        self.do(command.AddRequirement(id=key, requirement=requirement))
        return key

    def follow(self, curve: Curve) -> str:
        """Follows a quantity over the cycle."""
        key = new_id(curve.name, self.document.curves)
        self.do(command.AddCurve(id=key, curve=curve))
        return key

    def draw(self, drawing: Drawing) -> str:
        """Keeps a drawing of a part, a group or the whole."""
        key = new_id(drawing.name, self.document.drawings)
        self.do(command.AddDrawing(id=key, drawing=drawing))
        return key

    def set(self, path: str, value: Any) -> None:
        """Sets one value by its path, such as ``parts.rocker.element.width``."""
        self.do(command.SetValue(path=path, value=value))
