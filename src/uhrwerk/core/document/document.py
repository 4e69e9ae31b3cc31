"""The document: everything a designer states about one mechanism, as plain data."""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from uhrwerk.core.document.element import Element
from uhrwerk.core.document.field import (
    Angle,
    Density,
    Id,
    Length,
    Mass,
    Model,
    Name,
    Refused,
    SizeOrNone,
    SlidingSpeed,
    Time,
    TurningSpeed,
    formulas,
    solve_field,
)
from uhrwerk.core.quantity import FormulaError, Scope

FORMAT = 1
#: ids that a group may not take, since a mass requirement uses them
WHOLE, MOVING = "whole", "moving"


class Units(Model):
    """The units in which values are shown and bare numbers are read."""

    length: Literal["mm", "cm", "m", "in"] = "mm"
    mass: Literal["g", "kg", "oz", "lb"] = "g"


class Parameter(Model):
    formula: str = Field(max_length=400)
    note: str = ""


class Material(Model):
    name: Name
    density: Density


class Part(Model):
    """A design. It may be used any number of times as a placed part."""

    name: Name
    material: Id
    element: Element


class Start(Model):
    """Where a placed part is before the joints act on it: a point, and turns about x, then y, then z."""

    x: Length = "0 mm"
    y: Length = "0 mm"
    z: Length = "0 mm"
    turn_x: Angle = "0 deg"
    turn_y: Angle = "0 deg"
    turn_z: Angle = "0 deg"


class Placed(Model):
    """One use of a part in the mechanism."""

    name: Name
    part: Id
    start: Start = Field(default_factory=Start)


class At(Model):
    """A datum of a placed part."""

    placed: Id
    datum: Id


class _Joint(Model):
    name: Name
    a: At
    b: At
    offset: Length = "0 mm"
    flip: bool = False


class Rigid(_Joint):
    """Both datum frames coincide, b turned about and moved along the axis."""

    kind: Literal["rigid"] = "rigid"
    turn: Angle = "0 deg"


class Revolute(_Joint):
    """b turns about the axis of a."""

    kind: Literal["revolute"] = "revolute"


class Prismatic(_Joint):
    """b slides along the axis of a."""

    kind: Literal["prismatic"] = "prismatic"
    turn: Angle = "0 deg"


Joint = Annotated[Rigid | Revolute | Prismatic, Field(discriminator="kind")]


class GearPair(Model):
    """Two gears in mesh; the ratio and its sign follow from the teeth."""

    kind: Literal["gear"] = "gear"
    name: Name
    a: Id
    b: Id


class Turning(Model):
    """A joint turned at constant speed from a start angle."""

    kind: Literal["turning"] = "turning"
    name: Name
    joint: Id
    speed: TurningSpeed = "60 rpm"
    start: Angle = "0 deg"


class Sliding(Model):
    """A joint pushed at constant speed from a start position."""

    kind: Literal["sliding"] = "sliding"
    name: Name
    joint: Id
    speed: SlidingSpeed = "10 mm/s"
    start: Length = "0 mm"


Driver = Annotated[Turning | Sliding, Field(discriminator="kind")]


class Cycle(Model):
    """One master cycle: how long it lasts and into how many frames it is cut."""

    duration: Time = "1 s"
    frames: int = Field(default=360, ge=12, le=3600)


class Group(Model):
    name: Name
    placed: list[Id] = Field(max_length=500)


class Of(Model):
    """A placed part, or one body of it, such as a post of the plate."""

    placed: Id
    body: Id | None = None


class NoInterference(Model):
    """No two parts share space at any moment of the cycle, beyond a stated depth."""

    kind: Literal["no_interference"] = "no_interference"
    name: Name
    depth: SizeOrNone = "0.002 mm"


class Clearance(Model):
    """The smallest distance between two parts over the cycle is at least what is asked."""

    kind: Literal["clearance"] = "clearance"
    name: Name
    a: Of
    b: Of
    at_least: SizeOrNone = "1 mm"


class MassLimit(Model):
    """The mass of the whole, of what moves, or of a group is at most what is asked."""

    kind: Literal["mass"] = "mass"
    name: Name
    of: Id = WHOLE
    at_most: Mass = "1 kg"


class Determinate(Model):
    """As many freedoms as drivers, and nothing that no joint holds."""

    kind: Literal["determinate"] = "determinate"
    name: Name


Requirement = Annotated[NoInterference | Clearance | MassLimit | Determinate, Field(discriminator="kind")]


def _materials() -> dict[str, Material]:
    # Densities: common practice (round handbook values)
    return {
        "steel": Material(name="Steel", density="7.85 g/cm^3"),
        "aluminium": Material(name="Aluminium", density="2.70 g/cm^3"),
        "brass": Material(name="Brass", density="8.50 g/cm^3"),
        "acetal": Material(name="Acetal", density="1.41 g/cm^3"),
    }


class Document(Model):
    """One mechanism. `format` is the version of this shape; see docs/file-format.md."""

    format: Literal[1] = 1
    name: Name
    note: str = ""
    units: Units = Field(default_factory=Units)
    parameters: dict[str, Parameter] = Field(default_factory=dict, max_length=500)
    materials: dict[Id, Material] = Field(default_factory=_materials, max_length=100)
    parts: dict[Id, Part] = Field(default_factory=dict, max_length=500)
    placed: dict[Id, Placed] = Field(default_factory=dict, max_length=500)
    frame: Id | None = None
    groups: dict[Id, Group] = Field(default_factory=dict, max_length=100)
    joints: dict[Id, Joint] = Field(default_factory=dict, max_length=1000)
    pairs: dict[Id, GearPair] = Field(default_factory=dict, max_length=500)
    drivers: dict[Id, Driver] = Field(default_factory=dict, max_length=50)
    cycle: Cycle = Field(default_factory=Cycle)
    requirements: dict[Id, Requirement] = Field(default_factory=dict, max_length=200)

    def scope(self) -> Scope:
        """Parameters with their values; a bare number takes the document's unit of its dimension."""
        return Scope.of(
            {name: p.formula for name, p in self.parameters.items()},
            {"length": self.units.length, "mass": self.units.mass},
        )


def check(document: Document) -> Document:
    """Refuses a document whose formulas have no value or that refers to what is not there; returns it otherwise."""
    faults: list[tuple[str, str]] = []
    try:
        scope = document.scope()
    except FormulaError as error:
        raise Refused(("parameters", str(error))) from error
    for path, text, mark in formulas(document):
        try:
            solve_field(text, mark, scope)
        except FormulaError as error:
            faults.append((path, f"{text!r} {error}"))
    faults += _dangling(document)
    if faults:
        raise Refused(*faults)
    return document


def _dangling(d: Document) -> list[tuple[str, str]]:
    wanted: list[tuple[str, str, Any, str]] = []
    if d.frame is not None:
        wanted.append(("frame", d.frame, d.placed, "placed part"))
    for i, part in d.parts.items():
        wanted.append((f"parts.{i}.material", part.material, d.materials, "material"))
    for i, placed in d.placed.items():
        wanted.append((f"placed.{i}.part", placed.part, d.parts, "part"))
    for i, group in d.groups.items():
        wanted += [(f"groups.{i}.placed.{k}", p, d.placed, "placed part") for k, p in enumerate(group.placed)]
    for i, joint in d.joints.items():
        wanted += [(f"joints.{i}.{s}.placed", getattr(joint, s).placed, d.placed, "placed part") for s in "ab"]
    for i, pair in d.pairs.items():
        wanted += [(f"pairs.{i}.{s}", getattr(pair, s), d.placed, "placed part") for s in "ab"]
    for i, driver in d.drivers.items():
        wanted.append((f"drivers.{i}.joint", driver.joint, d.joints, "joint"))
    for i, asked in d.requirements.items():
        if isinstance(asked, Clearance):
            wanted += [
                (f"requirements.{i}.{s}.placed", getattr(asked, s).placed, d.placed, "placed part") for s in "ab"
            ]
        if isinstance(asked, MassLimit) and asked.of not in (WHOLE, MOVING):
            wanted.append((f"requirements.{i}.of", asked.of, d.groups, "group"))
    faults = [(path, f"there is no {what} {key!r}") for path, key, known, what in wanted if key not in known]
    for i, joint in d.joints.items():
        if joint.a.placed == joint.b.placed:
            faults.append((f"joints.{i}.b.placed", "a joint needs two different parts"))
    for i, pair in d.pairs.items():
        if pair.a == pair.b:
            faults.append((f"pairs.{i}.b", "a gear pair needs two different gears"))
    for i, driver in d.drivers.items():
        driven = d.joints.get(driver.joint)
        fits = {"turning": "revolute", "sliding": "prismatic"}[driver.kind]
        if driven is not None and driven.kind != fits:
            faults.append(
                (f"drivers.{i}.joint", f"a {driver.kind} driver needs a {fits} joint; {driven.name!r} is {driven.kind}")
            )
    faults += [(f"groups.{i}", f"{i!r} is taken: choose another id") for i in d.groups if i in (WHOLE, MOVING)]
    return faults


def refusal(error: ValidationError, prefix: str = "") -> Refused:
    """Pydantic's report as paths and plain reasons; the kinds that tell variants apart are left out of the path."""
    faults = []
    for fault in error.errors(include_url=False):
        steps = [str(s) for s in fault["loc"]]
        # a variant's kind stands after the field or key that holds it; a key of a dict may have the same letters
        path = ".".join(s for at, s in enumerate(steps) if s not in VARIANTS or (at == 1 and not prefix)) or "document"
        reason = fault["msg"].removeprefix("Value error, ")
        if fault["type"] == "extra_forbidden":
            reason = "this field is not known here"
        faults.append((f"{prefix}{path}", reason))
    return Refused(*faults)


#: kinds that pydantic puts into the path of a fault
VARIANTS = {"frame_plate", "spur_gear", "link_bar", "pin", "rigid", "revolute", "prismatic", "turning", "sliding"}
VARIANTS |= {"no_interference", "clearance", "mass", "determinate", "add_part", "place_part", "add_joint", "add_pair"}
VARIANTS |= {
    "add_driver",
    "add_requirement",
    "add_material",
    "add_group",
    "set_parameter",
    "set_value",
    "remove",
    "together",
}


def read(text: str | bytes) -> Document:
    """A document from JSON text. Refused, with the field's path, where it is broken."""
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise Refused(("document", f"not readable as JSON: {error}")) from error
    if not isinstance(data, dict):
        raise Refused(("document", "a JSON object is asked for"))
    version = data.get("format")
    if version != FORMAT:
        raise Refused(("format", f"version {version!r} is not known; this Uhrwerk reads version {FORMAT}"))
    return validate(data)


def validate(data: Any) -> Document:
    """A checked document from plain data."""
    try:
        document = Document.model_validate(data)
    except ValidationError as error:
        raise refusal(error) from error
    except RecursionError as error:
        raise Refused(("document", "nested too deeply")) from error
    return check(document)


def write(document: Document) -> str:
    """The document as text that keeps well under version control: one value a line, stable order."""
    return json.dumps(document.model_dump(mode="json"), indent=1, ensure_ascii=False) + "\n"


def schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of the document."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Document.model_json_schema()}
