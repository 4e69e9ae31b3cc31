"""Commands: each is one change. `apply(document, command)` gives the next document or refuses, naming the field."""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal

from pydantic import Field, JsonValue, TypeAdapter, ValidationError

from uhrwerk.core.document.document import (
    VARIANTS,
    Document,
    Driver,
    Group,
    Material,
    Part,
    Placed,
    Requirement,
    kinds_of,
    refusal,
    validate,
)
from uhrwerk.core.document.field import Id, Model, Refused
from uhrwerk.core.document.joint import Joint, JointPair, Relation
from uhrwerk.core.document.repeat import Repeat, Start, original_of


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
    pair: JointPair
    id: Id | None = None


class AddRelation(Model):
    kind: Literal["add_relation"] = "add_relation"
    relation: Relation
    id: Id | None = None


class AddRepeat(Model):
    """Uses placed parts again: round an axis, along a line, behind a plane, or anywhere."""

    kind: Literal["add_repeat"] = "add_repeat"
    repeat: Repeat
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
    AddPart | PlacePart | AddJoint | AddRelation | AddPair | AddRepeat | AddDriver | AddRequirement | AddMaterial
    | AddGroup | SetParameter | SetValue | Remove | Together,
    Field(discriminator="kind"),
]  # fmt: skip
Together.model_rebuild()
VARIANTS.update(kinds_of(Command))
_adapter: TypeAdapter[Any] = TypeAdapter(Command)

#: command -> (its field, the collection it adds to)
_ADDS: dict[type, tuple[str, str]] = {
    AddPart: ("part", "parts"), PlacePart: ("placed", "placed"), AddJoint: ("joint", "joints"), AddPair: ("pair", "pairs"),
    AddDriver: ("driver", "drivers"), AddRequirement: ("requirement", "requirements"),
    AddMaterial: ("material", "materials"), AddGroup: ("group", "groups"), AddRelation: ("relation", "relations"),
    AddRepeat: ("repeat", "repeats"),
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
        taken = {"part": data["placed"], "relation": data["joints"], "joint": data["relations"]}.get(field, {})
        key = command.id or new_id(item.name, {**target, **taken})
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
            data = data[_number(step)] if isinstance(data, list) else data[step]
        except (KeyError, IndexError, ValueError, TypeError) as error:
            raise Refused((path, "there is no such field")) from error
    if isinstance(data, list):
        try:
            at = _number(last)
        except ValueError as error:
            raise Refused((path, "there is no such field")) from error
        if at >= len(data):
            raise Refused((path, "there is no such field"))
        return data, at
    if not isinstance(data, dict):
        raise Refused((path, "there is no such field"))
    return data, last


def _number(step: str) -> int:
    """The place in a list that a step of a path names; ValueError where it names none."""
    if not (step.isascii() and step.isdigit() and len(step) < 7):
        raise ValueError(step)
    return int(step)


#: collections whose items can be removed
_ITEMS = frozenset(
    ("parameters", "materials", "parts", "placed", "groups", "joints", "relations", "pairs", "repeats", "drivers", "requirements")
)  # fmt: skip


def _remove(data: dict[str, Any], path: str) -> None:
    holder, last = _walk(data, path)
    steps = path.split(".")
    item = len(steps) == 2 and steps[0] in _ITEMS
    detail = len(steps) == 5 and steps[0] == "parts" and steps[2] == "element" and isinstance(holder, dict)
    if not item and not (detail and "kind" not in holder):
        raise Refused(
            (path, "cannot be removed: name an item, such as joints.crank_in_ground, or a bore, post or pin of a part")
        )
    if last not in holder:
        raise Refused((path, "there is nothing to remove"))
    del holder[last]
    # What refers to it goes too, in the order of dependency; undo brings all of it back.
    placed = data["placed"]
    for i in [i for i, p in placed.items() if p["part"] not in data["parts"]]:
        del placed[i]
    if data["frame"] not in placed:
        data["frame"] = next(iter(placed), None)

    def there(at: Any) -> bool:
        name = at["placed"] if isinstance(at, dict) else at
        if name is None or name in placed:
            return True
        repeated = {p for repeat in data["repeats"].values() for p in repeat["placed"]}
        return original_of(name) in placed and name.rpartition("__")[0] in repeated

    for repeat in data["repeats"].values():
        repeat["placed"] = [p for p in repeat["placed"] if there(p)]
    _keep(data["repeats"], lambda r: r["placed"] and there(r.get("about")) and there(r.get("along")))
    for collection in ("joints", "relations", "pairs"):
        _keep(data[collection], lambda j: there(j["a"]) and there(j["b"]) and there(j.get("about")))
    held = {**data["joints"], **data["relations"]}
    _keep(data["drivers"], lambda d: original_of(d["joint"]) in held)
    for group in data["groups"].values():
        group["placed"] = [p for p in group["placed"] if there(p)]

    def asked(r: dict[str, Any]) -> bool:
        if r["kind"] == "mass":
            return r["of"] in ("whole", "moving") or r["of"] in data["groups"]
        if "joint" in r:
            return original_of(r["joint"]) in held
        return there(r.get("a")) and there(r.get("b"))

    _keep(data["requirements"], asked)


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
