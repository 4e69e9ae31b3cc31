"""Copy and paste: a piece of a mechanism, and the command that includes a mechanism in another.

A piece is a document itself: the parts, what joins them to one another, and the parameters and materials that they use.
Whatever meets its own like in the new document (the same part, parameter or material) is used from there; whatever meets
another of its name gets a new one. Nothing changes its size: where a formula would have another value by the other
document's units, its value is put in its place.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from pydantic import BaseModel

from uhrwerk.core.assembly.repeat import start_pose
from uhrwerk.core.document import Document, SeveralCommands, ValidationFailed, formulas, new_id, parse
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import Model, numbers, references
from uhrwerk.core.field.plain_data import put
from uhrwerk.core.quantity import DIMENSIONS, FormulaError, Scope, in_unit, names_in

#: m between what was there and what is included
BESIDE = 0.02
#: collections whose items join placed parts
JOINING = ("joints", "relations", "pairs", "repeats")
#: the box (2, 3) of a placed part of a document, m, in its own frame
Box = Callable[[Document, str], Array]


class Included(BaseModel):
    """The command that includes, and the path of what is then to be selected: the group, or the one part."""

    command: dict[str, Any]
    selected: str


def piece(document: Document, placed: Iterable[str]) -> Document:
    """The placed parts with all that joins them to one another and all that they use. ValidationFailed where one is not there."""
    chosen = list(dict.fromkeys(placed))
    for i in chosen:
        if i not in document.placed:
            raise ValidationFailed(("parts", f"there is no placed part {i!r}"))
    if not chosen:
        raise ValidationFailed(("parts", "no part is chosen"))
    kept: dict[str, Any] = {c: _within(getattr(document, c), set(chosen)) for c in (*JOINING, "groups")}
    kept["placed"] = {i: document.placed[i] for i in chosen}
    used = {p.part for p in kept["placed"].values()}
    kept["parts"] = {i: p for i, p in document.parts.items() if i in used}
    made_of = {p.material for p in kept["parts"].values()}
    kept["materials"] = {i: m for i, m in document.materials.items() if i in made_of}
    names = [document.placed[i].name for i in chosen]
    whole = [g.name for g in document.groups.values() if set(g.placed) == set(chosen)]
    kept["frame"] = document.frame if document.frame in chosen else None
    blank = Document(name=(whole or names)[0], units=document.units, materials={})
    return blank.model_copy(update=kept | {"parameters": _used(document, kept)})


def _within(items: Mapping[str, Model], placed: set[str]) -> dict[str, Model]:
    """Items that refer to those placed parts alone."""

    def own(item: Model) -> bool:
        return all(r.id in placed for r in references(item) if r.ref.collection == "placed")

    return {i: item for i, item in items.items() if own(item)}


def _used(document: Document, kept: Mapping[str, Any]) -> dict[str, Any]:
    """The parameters that formulas below use, and those that these use."""
    texts = [
        text for items in kept.values() if isinstance(items, dict) for x in items.values() for _, text, _ in formulas(x)
    ]
    used, waiting = set[str](), set().union(*(names_in(t) for t in texts if t)) & set(document.parameters)
    while waiting:
        name = waiting.pop()
        used.add(name)
        waiting |= (names_in(document.parameters[name].formula) & set(document.parameters)) - used
    return {name: p for name, p in document.parameters.items() if name in used}


def included(document: Document, other: Document, box: Box) -> Included:
    """Another mechanism within this one: its parts with what joins them, beside what is there; as a group where there are
    several. Its drivers and requirements stay behind."""
    if not other.placed:
        raise ValidationFailed(("document", f"{other.name!r} has no parts"))
    work = _Including(document, other)
    work.place(_shift(document, other, box))
    work.join()
    words = f"placed: {other.name}"
    command = parse({"kind": "together", "commands": work.commands, "words": words})
    assert isinstance(command, SeveralCommands)
    return Included(command=command.model_dump(mode="json"), selected=work.selected)


def _shift(document: Document, other: Document, box: Box) -> float:
    """How far along x it must go to stand beside what is there, m, rounded up to a millimetre."""
    here, there = (_bounds(d, box) for d in (document, other))
    if here is None or there is None:
        return 0.0
    return float(np.ceil((here[1, 0] + BESIDE - there[0, 0]) * 1e3) / 1e3)


def _bounds(document: Document, box: Box) -> Array | None:
    """The box (2, 3) round all parts where they start, m."""
    scope, corners = document.scope(), []
    pick = np.array(np.meshgrid([0, 1], [0, 1], [0, 1])).reshape(3, -1).T
    for i, p in document.placed.items():
        own = np.take_along_axis(box(document, i), pick, axis=0)
        corners.append(poses.place(np.tile(start_pose(numbers(p.start, scope)), (8, 1)), own))
    every = np.concatenate(corners) if corners else np.zeros((0, 3))
    return np.stack([every.min(axis=0), every.max(axis=0)]) if len(every) else None


@dataclass
class _Including:
    document: Document
    other: Document
    commands: list[dict[str, Any]] = field(default_factory=list)
    ids: dict[tuple[str, str], str] = field(default_factory=dict)  # (collection, id there) -> id here
    named: dict[str, str] = field(default_factory=dict)  # parameters there -> here

    def __post_init__(self) -> None:
        self.taken = {
            c: set(getattr(self.document, c))
            for c in (*JOINING, "parts", "placed", "materials", "groups", "parameters")
        }
        self.taken["placed"] |= self.taken["parts"]
        self.taken["joints"] |= self.taken["relations"]
        self._parameters()
        self._materials()

    def _new(self, collection: str, name: str) -> str:
        new = new_id(name, self.taken[collection])
        for c in {
            "placed": ("placed", "parts"),
            "parts": ("placed", "parts"),
            "relations": ("relations", "joints"),
        }.get(collection, (collection,)):
            self.taken[c].add(new)
        return new

    def _parameters(self) -> None:
        mine = self.document.parameters
        clash = {n: p for n, p in self.other.parameters.items() if n in mine and not self._same(n)}
        self.named = {n: new_id(n, {**mine, **self.other.parameters}) for n in clash}
        for name, p in self.other.parameters.items():
            if name not in mine or name in clash:
                command = {
                    "kind": "set_parameter",
                    "name": self.named.get(name, name),
                    "formula": self._text(p.formula),
                }
                self.commands.append(command | {"note": p.note})
        everything = {n: p.formula for n, p in mine.items()}
        everything |= {c["name"]: c["formula"] for c in self.commands}
        units = self.document.units
        self.scope = Scope.of(everything, {"length": units.length, "mass": units.mass})

    def _same(self, name: str) -> bool:
        """Whether both documents have this parameter with the same formula, and so have all that it uses."""
        one, two = self.document.parameters.get(name), self.other.parameters.get(name)
        return one is not None and two is not None and one.formula == two.formula and all(
            self._same(n) for n in names_in(one.formula) if n != name
        )  # fmt: skip

    def _text(self, formula: str) -> str:
        """A formula with the parameters' new names."""
        for old, new in self.named.items():
            formula = re.sub(rf"(?<![\w.]){re.escape(old)}(?!\w)", new, formula)
        return formula

    def _materials(self) -> None:
        for i, m in self.other.materials.items():
            same = self.document.materials.get(i)
            if same is not None and same == m:
                self.ids["materials", i] = i
                continue
            self.ids["materials", i] = new = self._new("materials", m.name)
            self.commands.append({"kind": "add_material", "material": self.written(m), "id": new})

    def written(self, item: Model) -> dict[str, Any]:
        """An item as data of this document: new ids and names, and every size as it was."""
        data = item.model_dump(mode="json")
        theirs = self.other.scope()
        for path, text, mark in formulas(item):
            if text:
                converted = self._text(text)
                was, now = theirs.value(text, mark.name), _valued(self.scope, converted, mark.name)
                if now is None or abs(now - was) > 1e-12 * max(1.0, abs(was)):
                    unit = DIMENSIONS[mark.name][1]
                    converted = f"{in_unit(was, mark.name, unit)!r} {unit}".strip()
                put(data, path, converted)
        for r in references(item):
            new = self.ids.get((r.ref.collection, r.id)) or self.ids.get(("relations", r.id))
            if new is not None:
                put(data, r.path, new)
        return data

    def place(self, shift: float) -> None:
        """Materials, parts and placed parts; the frame of the other one first, so that an empty one gets it as its frame."""
        first = [self.other.frame] if self.other.frame in self.other.placed else []
        names = {p.name for p in self.document.placed.values()}
        for i in dict.fromkeys([*first, *self.other.placed]):
            assert i is not None
            p = self.other.placed[i]
            start, name = self.written(p.start), _fresh(p.name, names)
            names.add(name)
            start["x"] = f"{start['x']} + {shift * 1e3:g} mm" if shift else start["x"]
            self.ids["placed", i] = new = self._part(p.part, name, start)
            for what in ("mirrored", "left_out"):
                if getattr(p, what):
                    self.commands.append({"kind": "set_value", "path": f"placed.{new}.{what}", "value": True})

    def _part(self, part: str, name: str, start: dict[str, Any]) -> str:
        """Places a part: of the same design where there is one."""
        theirs = self.other.parts[part]
        here = self.ids.get(("parts", part))
        if here is None:
            data = {**self.written(theirs), "material": self.ids["materials", theirs.material]}
            same = self.document.parts.get(part)
            if same is not None and same.model_dump(mode="json") == data:
                here = self.ids["parts", part] = part
            else:
                new = self._new("placed", theirs.name)
                self.ids["parts", part] = new
                self.commands.append({"kind": "add_part", "part": data, "id": new, "start": start})
                self.commands.append({"kind": "set_value", "path": f"placed.{new}.name", "value": name})
                return new
        new = self._new("placed", name)
        placed = {"name": name, "part": here, "start": start}
        self.commands.append({"kind": "place_part", "placed": placed, "id": new})
        return new

    def join(self) -> None:
        """What joins the parts, and the group of all of them."""
        for collection in JOINING:
            kind = collection[:-1]
            for i, item in getattr(self.other, collection).items():
                self.ids[collection, i] = new = self._new(collection, i)
                self.commands.append({"kind": f"add_{kind}", kind: self.written(item), "id": new})
        placed = [self.ids["placed", i] for i in self.other.placed]
        if len(placed) == 1:
            self.selected = f"placed.{placed[0]}"
            return
        name = _fresh(self.other.name, {g.name for g in self.document.groups.values()})
        new = self._new("groups", name)
        self.commands.append({"kind": "add_group", "group": {"name": name, "placed": placed}, "id": new})
        self.selected = f"groups.{new}"


def _valued(scope: Scope, text: str, dimension: str) -> float | None:
    try:
        return scope.value(text, dimension)
    except FormulaError:
        return None


def _fresh(name: str, taken: set[str]) -> str:
    return name if name not in taken else next(n for k in range(2, 1000) if (n := f"{name[:76]} {k}") not in taken)


__all__ = ["Included", "included", "piece"]
