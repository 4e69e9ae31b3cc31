"""Commands: each is one change. `apply(document, command)` gives the next document or refuses, naming the field."""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal

from pydantic import Field, JsonValue, TypeAdapter, ValidationError

from uhrwerk.core.document.document import (
    Document,
    Driver,
    GearPair,
    Group,
    Joint,
    Material,
    Part,
    Placed,
    Requirement,
    Start,
    refusal,
    validate,
)
from uhrwerk.core.document.field import Id, Model, Refused


class AddPart(Model):
    """Adds a part and places it once; the first placed part becomes the frame."""

    kind: Literal["add_part"] = "add_part"
    part: Part
    id: Id | None = None
    start: Start = Field(default_factory=Start)


class PlacePart(Model):
    """Places a part once more."""

    kind: Literal["place_part"] = "place_part"
    placed: Placed
    id: Id | None = None


class AddJoint(Model):
    kind: Literal["add_joint"] = "add_joint"
    joint: Joint
    id: Id | None = None


class AddPair(Model):
    kind: Literal["add_pair"] = "add_pair"
    pair: GearPair
    id: Id | None = None


class AddDriver(Model):
    kind: Literal["add_driver"] = "add_driver"
    driver: Driver
    id: Id | None = None


class AddRequirement(Model):
    kind: Literal["add_requirement"] = "add_requirement"
    requirement: Requirement
    id: Id | None = None


class AddMaterial(Model):
    kind: Literal["add_material"] = "add_material"
    material: Material
    id: Id | None = None


class AddGroup(Model):
    kind: Literal["add_group"] = "add_group"
    group: Group
    id: Id | None = None


class SetParameter(Model):
    """Makes a named parameter or gives it another formula."""

    kind: Literal["set_parameter"] = "set_parameter"
    name: str
    formula: str
    note: str = ""


class SetValue(Model):
    """Sets one value of the document, by its path, such as `parts.rocker.element.width`."""

    kind: Literal["set_value"] = "set_value"
    path: str = Field(max_length=300)
    value: JsonValue


class Remove(Model):
    """Removes an item by its path, such as `placed.rocker`, with everything that refers to it."""

    kind: Literal["remove"] = "remove"
    path: str = Field(max_length=300)


class Together(Model):
    """Several commands as one change."""

    kind: Literal["together"] = "together"
    commands: list[Command] = Field(max_length=200)
    words: str = ""


Command = Annotated[
    AddPart | PlacePart | AddJoint | AddPair | AddDriver | AddRequirement | AddMaterial | AddGroup
    | SetParameter | SetValue | Remove | Together,
    Field(discriminator="kind"),
]  # fmt: skip
Together.model_rebuild()
_adapter: TypeAdapter[Any] = TypeAdapter(Command)

#: command -> (its field, the collection it adds to)
_ADDS: dict[type, tuple[str, str]] = {
    AddPart: ("part", "parts"), PlacePart: ("placed", "placed"), AddJoint: ("joint", "joints"), AddPair: ("pair", "pairs"),
    AddDriver: ("driver", "drivers"), AddRequirement: ("requirement", "requirements"),
    AddMaterial: ("material", "materials"), AddGroup: ("group", "groups"),
}  # fmt: skip


def parse(data: Any) -> Any:
    """A command from plain data."""
    try:
        return _adapter.validate_python(data)
    except ValidationError as error:
        raise refusal(error, "command.") from error


def new_id(name: str, taken: Any) -> str:
    """An id made from a name, not in `taken`."""
    stem = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")[:34] or "item"
    stem = stem if stem[0].isalpha() else f"n_{stem}"
    if stem not in taken:
        return stem
    return next(f"{stem}_{n}" for n in range(2, 10_000) if f"{stem}_{n}" not in taken)


def apply(document: Document, command: Any) -> Document:
    """The document after the change. Refused where the command does not fit or leaves a broken document."""
    data = document.model_dump(mode="json")
    _change(data, command)
    return validate(data)


def _change(data: dict[str, Any], command: Any) -> None:
    if isinstance(command, Together):
        for one in command.commands:
            _change(data, one)
    elif type(command) in _ADDS:
        field, collection = _ADDS[type(command)]
        item = getattr(command, field)
        target = data[collection]
        key = command.id or new_id(item.name, {**target, **(data["placed"] if field == "part" else {})})
        if key in target or (field == "part" and key in data["placed"]):
            raise Refused((f"{collection}.{key}", "this id is taken"))
        target[key] = item.model_dump(mode="json")
        if field == "part":
            data["placed"][key] = {"name": item.name, "part": key, "start": command.start.model_dump(mode="json")}
        if field in ("part", "placed") and data["frame"] is None:
            data["frame"] = key
    elif isinstance(command, SetParameter):
        data["parameters"][command.name] = {"formula": command.formula, "note": command.note}
    elif isinstance(command, SetValue):
        holder, last = _walk(data, command.path)
        if isinstance(holder, dict) and last not in holder and not command.path.startswith("parts."):
            raise Refused((command.path, "there is no such field"))
        holder[last] = command.value
    elif isinstance(command, Remove):
        _remove(data, command.path)


def _walk(data: Any, path: str) -> tuple[Any, Any]:
    *steps, last = path.split(".")
    for step in steps:
        try:
            data = data[int(step)] if isinstance(data, list) else data[step]
        except (KeyError, IndexError, ValueError, TypeError) as error:
            raise Refused((path, "there is no such field")) from error
    if isinstance(data, list):
        if not last.isdigit() or int(last) >= len(data):
            raise Refused((path, "there is no such field"))
        return data, int(last)
    if not isinstance(data, dict):
        raise Refused((path, "there is no such field"))
    return data, last


def _remove(data: dict[str, Any], path: str) -> None:
    holder, last = _walk(data, path)
    if isinstance(holder, dict) and last not in holder:
        raise Refused((path, "there is nothing to remove"))
    del holder[last]
    # What refers to it goes too, in the order of dependency; undo brings all of it back.
    placed = data["placed"]
    for i in [i for i, p in placed.items() if p["part"] not in data["parts"]]:
        del placed[i]
    if data["frame"] not in placed:
        data["frame"] = next(iter(placed), None)
    _keep(data["joints"], lambda j: j["a"]["placed"] in placed and j["b"]["placed"] in placed)
    _keep(data["pairs"], lambda p: p["a"] in placed and p["b"] in placed)
    _keep(data["drivers"], lambda d: d["joint"] in data["joints"])
    for group in data["groups"].values():
        group["placed"] = [p for p in group["placed"] if p in placed]
    _keep(
        data["requirements"],
        lambda r: (
            all(r[s]["placed"] in placed for s in "ab")
            if r["kind"] == "clearance"
            else r["kind"] != "mass" or r["of"] in ("whole", "moving") or r["of"] in data["groups"]
        ),
    )


def _keep(items: dict[str, Any], keep: Any) -> None:
    for key in [k for k, item in items.items() if not keep(item)]:
        del items[key]


def words(command: Any, document: Document) -> str:
    """What the command does, in the words of the revisions list; `document` is the one before it."""
    if isinstance(command, Together):
        return command.words or "; ".join(words(c, document) for c in command.commands[:3])
    if type(command) in _ADDS:
        field, _ = _ADDS[type(command)]
        return f"{field} added: {getattr(command, field).name}"
    if isinstance(command, SetParameter):
        return f"parameter {command.name} = {command.formula}"
    if isinstance(command, Remove):
        return f"removed {_spoken(command.path, document)}"
    return f"{_spoken(command.path, document)} = {command.value}"


def _spoken(path: str, document: Document) -> str:
    steps = path.split(".")
    item = getattr(document, steps[0], None)
    named = item.get(steps[1]) if isinstance(item, dict) and len(steps) > 1 else None
    rest = [s.replace("_", " ") for s in steps[2:] if s not in ("element", "start")]
    return " ".join([getattr(named, "name", steps[1] if len(steps) > 1 else steps[0]), *rest])
