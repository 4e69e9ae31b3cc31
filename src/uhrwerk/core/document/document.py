"""The document: everything a designer states about one mechanism, as plain data."""

from __future__ import annotations

import json
from collections.abc import Container, Iterable, Mapping
from functools import cached_property
from graphlib import CycleError, TopologicalSorter
from math import floor, log10
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from uhrwerk.core.document.curve import CURVES, Curve
from uhrwerk.core.document.drawing import Drawing
from uhrwerk.core.document.driver import DRIVERS, Driver
from uhrwerk.core.document.material import Colour, Material, library
from uhrwerk.core.document.repeat import MOST_PLACED, REPEATS, Repeat, Start, copies, count_of, original_of, too_many
from uhrwerk.core.document.requirement import REQUIREMENTS, StatedRequirement
from uhrwerk.core.elements import ELEMENTS, Element
from uhrwerk.core.field import (
    Id,
    MaterialId,
    MeasuredLength,
    MeasuredMass,
    Model,
    Name,
    PartId,
    PlacedId,
    Time,
    ValidationFailed,
    Whole,
    formulas,
    references,
    solve_field,
    whole,
)
from uhrwerk.core.joints import JOINTS, PAIRS, RELATIONS, Joint, JointPair, Relation
from uhrwerk.core.joints.at import DatumName
from uhrwerk.core.quantity import DIMENSIONS, FormulaError, Scope, display, in_unit
from uhrwerk.core.steps import STEPS, BuildStep

FORMAT = 3
#: parts that may be made from one another in a row, and build steps that one may so come to hold, its own and those of others
DEEPEST, MOST_STEPS = 40, 2_000
#: what the document holds by id
COLLECTIONS = (
    "parameters", "materials", "parts", "placed", "groups", "joints", "relations", "pairs", "repeats", "drivers", "curves", "requirements",
    "drawings",
)  # fmt: skip
#: ids that a group may not take, since a mass requirement uses them
WHOLE, MOVING = "whole", "moving"


class Units(Model):
    """The units in which values are shown and bare numbers are read."""

    length: Literal["mm", "cm", "m", "in"] = "mm"
    mass: Literal["g", "kg", "oz", "lb"] = "g"


class Place(Model):
    """A datum of a placed part that may be gone by now."""

    placed: Id
    datum: DatumName


class Measured(Model):
    """What a parameter was measured from: which measure, between which two datums."""

    what: Name
    a: Place
    b: Place


class Parameter(Model):
    """A named number. `measured` where its formula was taken from where parts stood: it is not followed from then on."""

    formula: str = Field(max_length=400)
    note: str = ""
    measured: Measured | None = None


class Part(Model):
    """A design: an element, and build steps that work on it in their order. It may be used any number of times. What was weighed
    counts instead of volume times density, spread as the material is; so does where its centre of gravity was found, in its own frame:
    then all of it is moved there."""

    name: Name
    material: MaterialId
    element: Annotated[Element, ELEMENTS]
    steps: dict[Id, Annotated[BuildStep, STEPS]] = Field(default_factory=dict, max_length=200)
    colour: Colour = ""
    measured_mass: MeasuredMass = Field(default="", title="Measured mass")
    centre_x: MeasuredLength = Field(default="", title="Centre x, if known")
    centre_y: MeasuredLength = Field(default="", title="Centre y, if known")
    centre_z: MeasuredLength = Field(default="", title="Centre z, if known")

    @property
    def is_measured(self) -> bool:
        """Whether its mass or the centre of it was found on the real thing."""
        return any(x.strip() for x in (self.measured_mass, self.centre_x, self.centre_y, self.centre_z))

    def conflicts(self) -> Iterable[tuple[str, str]]:
        """Ids that faces of the element are named by."""
        for i in self.steps:
            if i.partition("_")[0] == "element":
                yield f"steps.{i}", f"{i!r} names the faces of the element: choose another id"


class Placed(Model):
    """One use of a part in the mechanism. `mirrored`: its image behind its own yz plane. `left_out`: neither moved nor
    checked, as one leaves out a screw to see the motion."""

    name: Name
    part: PartId
    start: Start = Field(default_factory=Start)
    mirrored: bool = False
    left_out: bool = False


#: where weight may pull, in the world
DIRECTIONS = {
    "along_x": (1.0, 0.0, 0.0), "against_x": (-1.0, 0.0, 0.0), "along_y": (0.0, 1.0, 0.0), "against_y": (0.0, -1.0, 0.0),
    "along_z": (0.0, 0.0, 1.0), "against_z": (0.0, 0.0, -1.0),
}  # fmt: skip


class Cycle(Model):
    """One master cycle: how long it lasts and into how many frames it is cut; where weight pulls, if forces are asked for."""

    duration: Time = "1 s"
    frames: Annotated[Whole, whole(12, 3600)] = "360"
    weight: Literal["not_counted", "along_x", "against_x", "along_y", "against_y", "along_z", "against_z"] = Field(
        default="not_counted", title="Weight acts"
    )


class Group(Model):
    name: Name
    placed: list[PlacedId] = Field(max_length=500)


def _materials() -> dict[str, Material]:
    return {i: library()[i] for i in ("steel", "aluminium", "brass", "acetal")}


class Document(Model):
    """One mechanism. `format` is the version of this shape; see docs/file-format.md."""

    def __repr__(self) -> str:
        held = ((n, getattr(self, n)) for n in ("placed", "joints", "relations", "pairs", "drivers", "requirements"))
        counts = ", ".join(f"{len(items)} {'parts' if n == 'placed' else n}" for n, items in held if items)
        return f"<Document {self.name!r}: {counts or 'empty'}>"

    __str__ = __repr__

    format: Literal[3] = 3
    name: Name
    note: str = ""
    units: Units = Field(default_factory=Units)
    parameters: dict[str, Parameter] = Field(default_factory=dict, max_length=500)
    materials: dict[Id, Material] = Field(default_factory=_materials, max_length=100)
    parts: dict[Id, Part] = Field(default_factory=dict, max_length=500)
    placed: dict[Id, Placed] = Field(default_factory=dict, max_length=500)
    frame: PlacedId | None = None
    groups: dict[Id, Group] = Field(default_factory=dict, max_length=100)
    joints: dict[Id, Annotated[Joint, JOINTS]] = Field(default_factory=dict, max_length=1000)
    relations: dict[Id, Annotated[Relation, RELATIONS]] = Field(default_factory=dict, max_length=1000)
    pairs: dict[Id, Annotated[JointPair, PAIRS]] = Field(default_factory=dict, max_length=500)
    repeats: dict[Id, Annotated[Repeat, REPEATS]] = Field(default_factory=dict, max_length=100)
    drivers: dict[Id, Annotated[Driver, DRIVERS]] = Field(default_factory=dict, max_length=50)
    cycle: Cycle = Field(default_factory=Cycle)
    curves: dict[Id, Annotated[Curve, CURVES]] = Field(default_factory=dict, max_length=100)
    requirements: dict[Id, Annotated[StatedRequirement, REQUIREMENTS]] = Field(default_factory=dict, max_length=200)
    drawings: dict[Id, Drawing] = Field(default_factory=dict, max_length=100)

    def scope(self) -> Scope:
        """Parameters with their values; a bare number takes the document's unit of its dimension."""
        return self._scope

    def unit_of(self, dimension: str) -> str:
        """The unit in which values of a dimension are shown."""
        return {"length": self.units.length, "mass": self.units.mass}.get(dimension, DIMENSIONS[dimension][1])

    def display(self, si: float, dimension: str, digits: int | None = None) -> str:
        """A value with its unit, as text."""
        unit = self.unit_of(dimension)
        return display(si, dimension, unit) if digits is None else display(si, dimension, unit, digits)

    def limit(self, si: float, dimension: str, digits: int | None = None) -> str:
        """A limit with its unit, as exactly as it was written; of one below a thousandth, three digits."""
        text, unit = self.display(si, dimension, digits), self.unit_of(dimension)
        number = in_unit(si, dimension, unit)
        rounded = float(text.partition(" ")[0])
        if 0 < abs(number) < 1e-3:
            three = f"{number:.{2 - floor(log10(abs(number)))}f}".rstrip("0")
            return f"{three} {unit}".rstrip()
        return text if abs(rounded - number) <= 1e-9 * abs(number) else f"{number:.9g} {unit}".rstrip()

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
        raise ValidationFailed(("parameters", str(error))) from error
    for path, text, mark in formulas(document):
        try:
            solve_field(text, mark, scope)
        except FormulaError as error:
            faults.append((path, f"{text!r} {error}"))
    faults += _dangling(document, scope)
    if faults:
        raise ValidationFailed(*faults)
    return document


def _dangling(d: Document, scope: Scope) -> list[tuple[str, str]]:
    """What is named but not there, what contradicts itself, and what is more than can be held."""
    many = too_many(len(d.placed), d.repeats, scope)
    if many is not None:
        words = f"makes {many[1]} placed parts with those before it; {MOST_PLACED} can be held"
        return [(f"repeats.{many[0]}", words)]
    known: dict[str, Container[str]] = {
        "placed": {**d.placed, **copies(d.repeats, scope)}, "parts": d.parts, "materials": d.materials, "groups": d.groups,
        "joints": {**d.joints, **d.relations}, "pairs": d.pairs, "curves": d.curves, "drivers": d.drivers,
    }  # fmt: skip
    faults: list[tuple[str, str]] = []
    for r in references(d):
        wanted = original_of(r.id) if r.ref.collection == "joints" else r.id
        if wanted not in known[r.ref.collection] and wanted not in r.ref.besides:
            faults.append((r.path, f"there is no {r.ref.what} {wanted!r}"))
    for collection in COLLECTIONS:
        for i, item in getattr(d, collection).items():
            faults += [(f"{collection}.{i}.{where}", why) for where, why in item.conflicts()]
    faults += [(f"drivers.{i}.{where}", why) for i, one in d.drivers.items() for where, why in one.misfits(d)]
    faults += [(f"curves.{i}.{where}", why) for i, curve in d.curves.items() for where, why in curve.faults(d)]
    faults += [(f"requirements.{i}.{where}", why) for i, r in d.requirements.items() for where, why in r.faults(d)]
    faults += [(f"drawings.{i}.{where}", why) for i, one in d.drawings.items() for where, why in one.faults(d)]
    faults += _circular_parts(d)
    for i, repeat in d.repeats.items():
        try:
            count_of(repeat, scope)
        except FormulaError as error:
            faults.append((f"repeats.{i}.count", str(error)))
    for i, driver in d.drivers.items():
        driven = d.joints.get(original_of(driver.joint))
        if driven is not None and driver.coordinate not in driven.driveable():
            kinds = " or ".join(k for k, joint in JOINTS.items() if driver.coordinate in joint.driveable())
            words = f"a {driver.kind} driver needs a {kinds} joint; {driven.name!r} is {driven.kind}"
            faults.append((f"drivers.{i}.joint", words))
    faults += [(f"groups.{i}", f"{i!r} is taken: choose another id") for i in d.groups if i in (WHOLE, MOVING)]
    faults += [(f"relations.{i}", f"{i!r} is a joint's id: choose another") for i in d.relations if i in d.joints]
    for collection in ("placed", "joints", "relations", "pairs"):
        for i in getattr(d, collection):
            if "__" in i:
                faults.append((f"{collection}.{i}", "two underscores in a row are kept for copies: choose another id"))
    return faults


def _circular_parts(d: Document) -> list[tuple[str, str]]:
    """Parts that are made from one another in a circle, or through too many others: in one pass, whatever hangs on what."""
    takes = {
        i: [r.id for r in references(p) if r.ref.collection == "parts" and r.id in d.parts] for i, p in d.parts.items()
    }
    try:
        order = list(TopologicalSorter(takes).static_order())
    except CycleError as error:
        circle = sorted(set(error.args[1]), key=list(d.parts).index)
        names = ", ".join(d.parts[i].name for i in circle)
        return [(f"parts.{circle[0]}", f"parts cannot be made from one another in a circle: {names}")]
    deep: dict[str, int] = {}
    steps: dict[str, int] = {}
    for i in order:
        deep[i] = 1 + max((deep[o] for o in takes[i]), default=0)
        steps[i] = 1 + len(d.parts[i].steps) + sum(steps[o] for o in takes[i])
        if deep[i] > DEEPEST or steps[i] > MOST_STEPS:
            what = (
                f"{DEEPEST} parts in a row" if deep[i] > DEEPEST else f"{MOST_STEPS} build steps of others and its own"
            )
            return [(f"parts.{i}", f"{d.parts[i].name!r} is made through more than {what}: make it from fewer")]
    return []


def refusal(error: ValidationError, prefix: str = "") -> ValidationFailed:
    """Pydantic's report as paths and plain reasons."""
    faults = []
    for fault in error.errors(include_url=False):
        reason = fault["msg"].removeprefix("Value error, ")
        if fault["type"] == "extra_forbidden":
            reason = "there is no such field here"
        faults.append((f"{prefix}{'.'.join(map(str, fault['loc'])) or 'document'}", reason))
    return ValidationFailed(*faults)


def validate(data: Any) -> Document:
    """A checked document from plain data."""
    try:
        document = Document.model_validate(data)
    except ValidationError as error:
        raise refusal(error) from error
    except RecursionError as error:
        raise ValidationFailed(("document", "nested too deeply")) from error
    return check(document)


def write(document: Document) -> str:
    """The document as text that keeps well under version control: one value a line, stable order."""
    return json.dumps(document.model_dump(mode="json"), indent=1, ensure_ascii=False) + "\n"


def schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of the document."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Document.model_json_schema()}
