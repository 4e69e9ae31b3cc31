"""Commands: each is one change. `apply(document, command)` gives the next document or refuses, naming the field."""

from __future__ import annotations

import re
from collections.abc import Container, Mapping
from typing import Annotated, Any, Literal, get_args

from pydantic import Field, JsonValue, TypeAdapter, ValidationError

from uhrwerk.core.document.curve import CURVES, Curve
from uhrwerk.core.document.document import (
    COLLECTIONS,
    Document,
    Group,
    Measured,
    Parameter,
    Part,
    Placed,
    check,
    refusal,
    validate,
)
from uhrwerk.core.document.drawing import Drawing
from uhrwerk.core.document.driver import DRIVERS, Driver
from uhrwerk.core.document.extent import bounded
from uhrwerk.core.document.material import Material
from uhrwerk.core.document.repeat import REPEATS, Repeat, Start, original_of
from uhrwerk.core.document.requirement import REQUIREMENTS, StatedRequirement
from uhrwerk.core.document.unit_change import units_kept
from uhrwerk.core.elements.like import Like
from uhrwerk.core.field import Id, Model, PartId, ValidationFailed, references
from uhrwerk.core.field.kinds import LIKE
from uhrwerk.core.field.plain_data import put
from uhrwerk.core.joints import JOINTS, PAIRS, RELATIONS, Joint, JointPair, Relation
from uhrwerk.core.joints.at import EVERY_FIELD
from uhrwerk.core.steps import STEPS, BuildStep


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
    joint: Annotated[Joint, JOINTS]
    id: Id | None = None


class AddPair(Model):
    kind: Literal["add_pair"] = "add_pair"
    pair: Annotated[JointPair, PAIRS]
    id: Id | None = None


class AddRelation(Model):
    kind: Literal["add_relation"] = "add_relation"
    relation: Annotated[Relation, RELATIONS]
    id: Id | None = None


class AddRepeat(Model):
    """Uses placed parts again: round an axis, along a line, behind a plane, or anywhere."""

    kind: Literal["add_repeat"] = "add_repeat"
    repeat: Annotated[Repeat, REPEATS]
    id: Id | None = None


class AddDriver(Model):
    kind: Literal["add_driver"] = "add_driver"
    driver: Annotated[Driver, DRIVERS]
    id: Id | None = None


class AddCurve(Model):
    """Follows a quantity over the cycle."""

    kind: Literal["add_curve"] = "add_curve"
    curve: Annotated[Curve, CURVES]
    id: Id | None = None


class AddRequirement(Model):
    kind: Literal["add_requirement"] = "add_requirement"
    requirement: Annotated[StatedRequirement, REQUIREMENTS]
    id: Id | None = None


class AddDrawing(Model):
    kind: Literal["add_drawing"] = "add_drawing"
    drawing: Drawing
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
    measured: Measured | None = None


class SetValue(Model):
    """Sets one value of the document, by its path, such as `parts.rocker.element.width`."""

    kind: Literal["set_value"] = "set_value"
    path: str = Field(max_length=300)
    value: JsonValue


class AddStep(Model):
    """Adds a build step to a part, as its last or before another."""

    kind: Literal["add_step"] = "add_step"
    part: PartId
    step: Annotated[BuildStep, STEPS]
    id: Id | None = None
    before: Id | None = None


class MoveStep(Model):
    """Moves a build step: before another, or to the end."""

    kind: Literal["move_step"] = "move_step"
    part: PartId
    step: Id
    before: Id | None = None


class Remove(Model):
    """Removes an item by its path, such as `placed.rocker`, with everything that refers to it."""

    kind: Literal["remove"] = "remove"
    path: str = Field(max_length=300)


class SeveralCommands(Model):
    """Several commands as one change."""

    kind: Literal["together"] = "together"
    commands: list[Command] = Field(max_length=4000)
    words: str = ""


Command = Annotated[
    AddPart | PlacePart | AddJoint | AddRelation | AddPair | AddRepeat | AddDriver | AddCurve | AddRequirement | AddDrawing
    | AddMaterial | AddGroup | AddStep | MoveStep | SetParameter | SetValue | Remove | SeveralCommands,
    Field(discriminator="kind"),
]  # fmt: skip
SeveralCommands.model_rebuild()
_KINDS = {model.model_fields["kind"].default for model in get_args(get_args(Command)[0])}
_adapter: TypeAdapter[Command] = TypeAdapter(Command)

#: command -> (its field, the collection it adds to)
_ADDS: dict[type, tuple[str, str]] = {
    AddPart: ("part", "parts"), PlacePart: ("placed", "placed"), AddJoint: ("joint", "joints"), AddPair: ("pair", "pairs"),
    AddDriver: ("driver", "drivers"), AddCurve: ("curve", "curves"), AddRequirement: ("requirement", "requirements"),
    AddMaterial: ("material", "materials"), AddGroup: ("group", "groups"), AddRelation: ("relation", "relations"),
    AddRepeat: ("repeat", "repeats"), AddDrawing: ("drawing", "drawings"),
}  # fmt: skip


#: values that a command may hold: those of a large group that is put beside what is there
MOST_IN_COMMAND = 30_000


def parse(data: Any) -> Command:
    """A command from plain data."""
    bounded(data, MOST_IN_COMMAND, "command")
    try:
        return _adapter.validate_python(data)
    except ValidationError as error:
        raise ValidationFailed(*((f"command.{_plain(path)}", why) for path, why in refusal(error).faults)) from error


def _plain(path: str) -> str:
    """A path without the kinds by which commands are told apart, which stand where a command begins."""
    steps = path.split(".")
    kept = [s for at, s in enumerate(steps) if not (s in _KINDS and (at == 0 or steps[at - 1].isdigit()))]
    return ".".join(kept) or "kind"


def new_id(name: str, taken: Container[str]) -> str:
    """An id made from a name, not in `taken`."""
    stem = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")[:34] or "item"
    stem = stem if stem[0].isalpha() else f"n_{stem}"
    if stem not in taken:
        return stem
    return next(f"{stem}_{n}" for n in range(2, 10_000) if f"{stem}_{n}" not in taken)


def apply(document: Document, command: Command) -> Document:
    """The document after the change. ValidationFailed where the command does not fit or leaves a broken document."""
    return check(_changed(document, command))


def _changed(d: Document, command: Command) -> Document:
    if isinstance(command, SeveralCommands):
        for one in command.commands:
            d = _changed(d, one)
        return d
    if isinstance(command, SetParameter):
        changed = _validated(
            {"formula": command.formula, "note": command.note, "measured": command.measured},
            f"parameters.{command.name}",
        )
        return d.model_copy(update={"parameters": {**d.parameters, command.name: changed}})
    if isinstance(command, SetValue):
        after = _set(d, command.path, command.value)
        return _in_units(d, after) if command.path.partition(".")[0] == "units" else after
    if isinstance(command, Remove):
        return _removed(d, command.path)
    if isinstance(command, AddStep | MoveStep):
        return _stepped(d, command)
    return _added(d, command)


def _validated(data: Any, path: str) -> Parameter:
    try:
        return Parameter.model_validate(data)
    except ValidationError as error:
        raise ValidationFailed(*((f"{path}.{where}", why) for where, why in refusal(error).faults)) from error


def _added(d: Document, command: Any) -> Document:
    field, collection = _ADDS[type(command)]
    item, target = getattr(command, field), getattr(d, collection)
    beside: dict[str, Mapping[str, Any]] = {"part": d.placed, "relation": d.joints, "joint": d.relations}
    taken = beside.get(field, {})
    key = command.id or new_id(item.name, {**target, **taken})
    if key in target or (field == "part" and key in d.placed):
        raise ValidationFailed((f"{collection}.{key}", "this id is taken"))
    change: dict[str, Any] = {collection: _room(collection, {**target, key: item})}
    if field == "part":
        placed = Placed(name=item.name, part=key, start=command.start)
        change["placed"] = _room("placed", {**d.placed, key: placed})
    if field in ("part", "placed") and d.frame is None:
        change["frame"] = key
    return d.model_copy(update=change)


def _stepped(d: Document, command: AddStep | MoveStep) -> Document:
    """The document with a build step added, or moved."""
    if command.part not in d.parts:
        raise ValidationFailed(("command.part", f"there is no part {command.part!r}"))
    part = d.parts[command.part]
    steps = dict(part.steps)
    if isinstance(command, AddStep):
        key, step = command.id or new_id(command.step.name, _step_ids(d, command.part)), command.step
        if key in steps:
            raise ValidationFailed((f"parts.{command.part}.steps.{key}", "this id is taken"))
    else:
        key = command.step
        if key not in steps:
            raise ValidationFailed(("command.step", f"there is no build step {key!r}"))
        step = steps.pop(key)
    if command.before is not None and command.before not in steps:
        raise ValidationFailed(("command.before", f"there is no other build step {command.before!r}"))
    order = list(steps)
    at = len(order) if command.before is None else order.index(command.before)
    steps[key] = step
    order.insert(at, key)
    try:
        changed = Part.model_validate({**dict(part), "steps": {k: steps[k] for k in order}})
    except ValidationError as error:
        raise refusal(error, f"parts.{command.part}.") from error
    return d.model_copy(update={"parts": {**d.parts, command.part: changed}})


def _step_ids(d: Document, part: str) -> set[str]:
    """The ids that a new build step of a part may not have: those of its own, of the part that it is like, of those that are like
    it, and so on."""
    originals = {i: p.element.part for i, p in d.parts.items() if isinstance(p.element, Like) and p.element.part}
    family, before = {part}, set[str]()
    while family != before:
        before = set(family)
        family |= {originals[i] for i in before if i in originals} | {i for i, of in originals.items() if of in before}
    return {"element"} | {step for i in family if i in d.parts for step in d.parts[i].steps}


def _room(collection: str, items: dict[str, Any]) -> dict[str, Any]:
    most = next(m.max_length for m in Document.model_fields[collection].metadata if hasattr(m, "max_length"))
    if len(items) > most:
        raise ValidationFailed((collection, f"there is room for {most} at most"))
    return items


def _set(d: Document, path: str, value: Any) -> Document:
    """The document with one value set: only the item that holds it is read anew."""
    top, _, rest = path.partition(".")
    if top not in Document.model_fields:
        raise ValidationFailed((path, "there is no such field"))
    whole = getattr(d, top)
    key = rest.partition(".")[0]
    if top in COLLECTIONS and key in whole:
        data = {top: {**whole, key: whole[key].model_dump(mode="json", context={EVERY_FIELD: True})}}
    else:
        data = {top: whole.model_dump(mode="json") if isinstance(whole, Model) else whole}
        data[top] = dict(data[top]) if isinstance(data[top], dict) else data[top]
    holder, last = _walk(data, path)
    if isinstance(holder, dict) and last not in holder and not path.startswith("parts."):
        raise ValidationFailed((path, "there is no such field"))
    old = holder[last] if isinstance(holder, list) or last in holder else None
    if isinstance(value, dict) and set(value) == {"kind"} and isinstance(old, dict) and "kind" in old:
        value = {**value, LIKE: old}  # another kind keeps what both have
    holder[last] = value
    try:
        return Document.model_validate({name: getattr(d, name) for name in Document.model_fields} | data)
    except ValidationError as error:
        raise refusal(error) from error
    except RecursionError as error:
        raise ValidationFailed((path, "nested too deeply")) from error


def _in_units(before: Document, after: Document) -> Document:
    """The document in other units, with the unit written that each plain number had."""
    texts = units_kept(before, after)
    if not texts:
        return after
    data = after.model_dump(mode="json")
    for path, text in texts.items():
        put(data, path, text)
    return validate(data)


def _walk(data: Any, path: str) -> tuple[Any, Any]:
    *steps, last = path.split(".")
    for step in steps:
        try:
            data = data[_number(step)] if isinstance(data, list) else data[step]
        except (KeyError, IndexError, ValueError, TypeError) as error:
            raise ValidationFailed((path, "there is no such field")) from error
    if isinstance(data, list):
        try:
            at = _number(last)
        except ValueError as error:
            raise ValidationFailed((path, "there is no such field")) from error
        if at >= len(data):
            raise ValidationFailed((path, "there is no such field"))
        return data, at
    if not isinstance(data, dict):
        raise ValidationFailed((path, "there is no such field"))
    return data, last


def _number(step: str) -> int:
    """The place in a list that a step of a path names; ValueError where it names none."""
    if not (step.isascii() and step.isdigit() and len(step) < 7):
        raise ValueError(step)
    return int(step)


def _removed(d: Document, path: str) -> Document:
    """The document without an item, a bore, post or pin of a part, and all that refers to it; undo brings all of it back."""
    steps = path.split(".")
    detail = len(steps) == 5 and steps[0] == "parts" and steps[2] == "element"
    if steps[0] == "parts" and len(steps) >= 4 and steps[2] == "steps":
        return _without_step(d, path, steps)
    if not (len(steps) == 2 and steps[0] in COLLECTIONS) and not detail:
        raise ValidationFailed(
            (path, "cannot be removed: name an item, such as joints.crank_in_ground, or a bore, post or pin of a part")
        )
    if detail:
        return _without_detail(d, path, steps)
    items = getattr(d, steps[0])
    if steps[1] not in items:
        raise ValidationFailed((path, "there is nothing to remove"))
    d = d.model_copy(update={steps[0]: {k: v for k, v in items.items() if k != steps[1]}})
    while (after := _consistent(d)) is not d:
        d = after
    return d


def _without_detail(d: Document, path: str, steps: list[str]) -> Document:
    part = d.parts.get(steps[1])
    details = getattr(part.element, steps[3], None) if part is not None else None
    if part is None or not isinstance(details, dict):
        raise ValidationFailed((path, "there is nothing to remove" if part is not None else "there is no such field"))
    if steps[4] not in details:
        raise ValidationFailed((path, "there is nothing to remove"))
    element = part.element.model_copy(update={steps[3]: {k: v for k, v in details.items() if k != steps[4]}})
    return d.model_copy(update={"parts": {**d.parts, steps[1]: part.model_copy(update={"element": element})}})


def _without_step(d: Document, path: str, steps: list[str]) -> Document:
    """The document without a build step, or without one of several things that a step holds, such as a hole's spot."""
    part = d.parts.get(steps[1])
    if part is None or steps[3] not in part.steps:
        raise ValidationFailed((path, "there is nothing to remove"))
    data = part.model_dump(mode="json")
    holder, last = _walk({"parts": {steps[1]: data}}, path)
    kept = len(steps) == 4 or (len(steps) >= 6 and all(isinstance(v, dict) for v in holder.values()))
    if not isinstance(holder, dict) or last not in holder or not kept:
        raise ValidationFailed((path, "there is nothing to remove"))
    del holder[last]
    try:
        changed = Part.model_validate(data)
    except ValidationError as error:
        raise refusal(error, f"parts.{steps[1]}.") from error
    return d.model_copy(update={"parts": {**d.parts, steps[1]: changed}})


def _consistent(d: Document) -> Document:
    """The document without what refers to something that is gone; the same one where nothing does."""
    repeated = {p for repeat in d.repeats.values() for p in repeat.placed}
    joined = {**d.joints, **d.relations}

    def there(name: str, collection: str, besides: tuple[str, ...]) -> bool:
        if collection == "placed":
            return name in d.placed or (original_of(name) in d.placed and name.rpartition("__")[0] in repeated)
        if collection == "joints":
            return original_of(name) in joined
        return name in besides or name in getattr(d, collection)

    for collection in COLLECTIONS:
        items = getattr(d, collection)
        for key, item in items.items():
            gone = [r for r in references(item) if not there(r.id, r.ref.collection, r.ref.besides)]
            if not gone:
                continue
            rest = {k: v for k, v in items.items() if k != key}
            if all(r.listed for r in gone):
                kept = {
                    r.path.split(".")[0]: [r.id for r in references(item) if r.listed and r not in gone] for r in gone
                }
                if all(kept.values()) or collection == "groups":
                    rest = {k: v if k != key else item.model_copy(update=kept) for k, v in items.items()}
            return d.model_copy(update={collection: rest})
    if d.frame is not None and d.frame not in d.placed:
        return d.model_copy(update={"frame": next(iter(d.placed), None)})
    return d


def words(command: Command, document: Document) -> str:
    """What the command does, in the words of the revisions list; `document` is the one before it."""
    if isinstance(command, SeveralCommands):
        return command.words or "; ".join(words(c, document) for c in command.commands[:3])
    if type(command) in _ADDS:
        field, _ = _ADDS[type(command)]
        return f"{field} added: {getattr(command, field).name}"
    if isinstance(command, SetParameter):
        return f"parameter {command.name} = {command.formula}"
    if isinstance(command, AddStep):
        return f"{document.parts[command.part].name}: {command.step.name} added"
    if isinstance(command, MoveStep):
        return f"{document.parts[command.part].name}: {document.parts[command.part].steps[command.step].name} moved"
    if isinstance(command, Remove):
        return f"removed {spoken(command.path, document)}"
    assert isinstance(command, SetValue)
    return f"{spoken(command.path, document)} = {command.value}"


def spoken(path: str, document: Document) -> str:
    steps = path.split(".")
    item = getattr(document, steps[0], None)
    named = item.get(steps[1]) if isinstance(item, dict) and len(steps) > 1 else None
    rest = [s.replace("_", " ") for s in steps[2:] if s not in ("element", "start", "steps")]
    return " ".join([getattr(named, "name", steps[1] if len(steps) > 1 else steps[0]), *rest])
