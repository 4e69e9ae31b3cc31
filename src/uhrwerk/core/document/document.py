"""The document: everything a designer states about one mechanism, as plain data."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import cached_property
from typing import Annotated, Any, Literal, get_args

from pydantic import Field, ValidationError

from uhrwerk.core.document.element import Element
from uhrwerk.core.document.field import (
    Angle,
    AngleOrOpen,
    Density,
    Id,
    Length,
    LengthOrOpen,
    Mass,
    Model,
    Name,
    Positive,
    Refused,
    SizeOrNone,
    SlidingSpeed,
    Time,
    TurningSpeed,
    formulas,
    solve_field,
)
from uhrwerk.core.document.joint import Joint, JointPair, Relation
from uhrwerk.core.document.repeat import Repeat, Start, copies, count_of, original_of
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


class Placed(Model):
    """One use of a part in the mechanism. `mirrored`: its image behind its own yz plane. `left_out`: neither moved nor
    checked, as one leaves out a screw to see the motion."""

    name: Name
    part: Id
    start: Start = Field(default_factory=Start)
    mirrored: bool = False
    left_out: bool = False


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


class Travel(Model):
    """A joint turns or slides through at least so much over the cycle."""

    kind: Literal["travel"] = "travel"
    name: Name
    joint: Id
    turn: AngleOrOpen = ""
    slide: LengthOrOpen = ""


class TimeRatio(Model):
    """The slower stroke of a joint takes at least so many times as long as the faster one."""

    kind: Literal["time_ratio"] = "time_ratio"
    name: Name
    joint: Id
    at_least: Positive = "1.5"


Requirement = Annotated[
    NoInterference | Clearance | MassLimit | Determinate | Travel | TimeRatio, Field(discriminator="kind")
]


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
    relations: dict[Id, Relation] = Field(default_factory=dict, max_length=1000)
    pairs: dict[Id, JointPair] = Field(default_factory=dict, max_length=500)
    repeats: dict[Id, Repeat] = Field(default_factory=dict, max_length=100)
    drivers: dict[Id, Driver] = Field(default_factory=dict, max_length=50)
    cycle: Cycle = Field(default_factory=Cycle)
    requirements: dict[Id, Requirement] = Field(default_factory=dict, max_length=200)

    def scope(self) -> Scope:
        """Parameters with their values; a bare number takes the document's unit of its dimension."""
        return self._scope

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Document:
        copy = super().model_copy(update=update, deep=deep)
        copy.__dict__.pop("_scope", None)  # a copy may have other parameters
        return copy

    @cached_property
    def _scope(self) -> Scope:
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
    faults += _dangling(document, scope)
    if faults:
        raise Refused(*faults)
    return document


def _dangling(d: Document, scope: Scope) -> list[tuple[str, str]]:
    wanted: list[tuple[str, str, Any, str]] = []
    faults: list[tuple[str, str]] = []
    placed = {**d.placed, **copies(d.repeats, scope)}
    held = {**d.joints, **d.relations}
    if d.frame is not None:
        wanted.append(("frame", d.frame, d.placed, "placed part"))
    for i, part in d.parts.items():
        wanted.append((f"parts.{i}.material", part.material, d.materials, "material"))
    for i, one in d.placed.items():
        wanted.append((f"placed.{i}.part", one.part, d.parts, "part"))
    for i, group in d.groups.items():
        wanted += [(f"groups.{i}.placed.{k}", p, placed, "placed part") for k, p in enumerate(group.placed)]
    for collection, what in (("joints", "a joint"), ("relations", "a relation"), ("pairs", "a pair")):
        for i, item in getattr(d, collection).items():
            ends = {s: getattr(item, s) for s in ("a", "b", "about") if getattr(item, s, None) is not None}
            named = {s: getattr(at, "placed", at) for s, at in ends.items()}
            tails = {s: ".placed" if hasattr(at, "placed") else "" for s, at in ends.items()}
            wanted += [(f"{collection}.{i}.{s}{tails[s]}", p, placed, "placed part") for s, p in named.items()]
            if named["a"] == named["b"]:
                faults.append((f"{collection}.{i}.b{tails['b']}", f"{what} needs two different parts"))
    for i, repeat in d.repeats.items():
        wanted += [(f"repeats.{i}.placed.{k}", p, placed, "placed part") for k, p in enumerate(repeat.placed)]
        for field in ("about", "along"):
            if hasattr(repeat, field):
                wanted.append((f"repeats.{i}.{field}.placed", getattr(repeat, field).placed, placed, "placed part"))
        try:
            count_of(repeat, scope)
        except FormulaError as error:
            faults.append((f"repeats.{i}.count", str(error)))
    for i, driver in d.drivers.items():
        wanted.append((f"drivers.{i}.joint", original_of(driver.joint), held, "joint"))
    for i, asked in d.requirements.items():
        if isinstance(asked, Clearance):
            wanted += [(f"requirements.{i}.{s}.placed", getattr(asked, s).placed, placed, "placed part") for s in "ab"]
        if isinstance(asked, MassLimit) and asked.of not in (WHOLE, MOVING):
            wanted.append((f"requirements.{i}.of", asked.of, d.groups, "group"))
        if isinstance(asked, Travel | TimeRatio):
            wanted.append((f"requirements.{i}.joint", original_of(asked.joint), held, "joint"))
        if isinstance(asked, Travel) and bool(asked.turn) == bool(asked.slide):
            faults.append((f"requirements.{i}.turn", "give either an angle to turn through or a length to slide"))
    faults += [(path, f"there is no {what} {key!r}") for path, key, known, what in wanted if key not in known]
    for i, driver in d.drivers.items():
        driven = d.joints.get(original_of(driver.joint))
        fits = {"turning": ("revolute", "cylindrical", "screw"), "sliding": ("prismatic", "cylindrical", "screw")}
        if driven is not None and driven.kind not in fits[driver.kind]:
            kinds = " or ".join(fits[driver.kind])
            words = f"a {driver.kind} driver needs a {kinds} joint; {driven.name!r} is {driven.kind}"
            faults.append((f"drivers.{i}.joint", words))
    faults += [(f"groups.{i}", f"{i!r} is taken: choose another id") for i in d.groups if i in (WHOLE, MOVING)]
    faults += [(f"relations.{i}", f"{i!r} is a joint's id: choose another") for i in d.relations if i in d.joints]
    for collection in ("placed", "joints", "relations", "pairs"):
        for i in getattr(d, collection):
            if "__" in i:
                faults.append((f"{collection}.{i}", "two underscores in a row are kept for copies: choose another id"))
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


def kinds_of(*unions: Any) -> set[str]:
    """The kinds by which the models of discriminated unions are told apart."""
    return {model.model_fields["kind"].default for union in unions for model in get_args(get_args(union)[0])}


#: kinds that pydantic puts into the path of a fault
VARIANTS = kinds_of(Element, Joint, Relation, JointPair, Repeat, Driver, Requirement)


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
