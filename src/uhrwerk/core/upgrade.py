"""Documents of earlier formats, brought to the one of today so that nothing moves.

Format 1 joined at the part's own origin moved squarely onto a face or axis, and showed the face's centre. Since format 2
both are the centre. What a joint, relation or pair took hold of is kept where it was: by the offset where that lies along
the axis of both, by a place beside the datum where not. Springs, loads, curves and limits now act and measure at the place
that is shown; the note of the document names those that this changes.

Format 3 has other names for some kinds and fields, and means the same.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import nullcontext
from dataclasses import replace
from typing import Any

import numpy as np

from uhrwerk.core.assembly import NotSolvable, compile, solve
from uhrwerk.core.assembly.repeat import mirrored
from uhrwerk.core.assembly.start import turns
from uhrwerk.core.context import Context, temporary_context
from uhrwerk.core.document import Document, ValidationFailed, validate
from uhrwerk.core.document.document import FORMAT
from uhrwerk.core.document.extent import MOST_TEXT, bounded
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.field import Model, references
from uhrwerk.core.joints import At, LinearSpring, TorsionalSpring
from uhrwerk.core.joints.joint import Joint
from uhrwerk.core.joints.load import Load
from uhrwerk.core.joints.prismatic import Prismatic
from uhrwerk.core.part import part_datums
from uhrwerk.core.quantity import in_unit
from uhrwerk.core.solids import Datum
from uhrwerk.core.solids.solid import Array

#: kinds, by collection of the document, and what they are called since format 3
KINDS = {
    "elements": {
        "received": "imported",
        "sunk_screw": "countersunk_screw",
        "bore_ring": "internal_retaining_ring",
    },
    "steps": {"again": "repeat"},
    "pairs": {"push": "force", "torque_load": "torque"},
    "requirements": {"spring_sound": "spring_strength"},
}
_COILED = {"wire": "wire_diameter", "coil": "mean_diameter", "coils": "active_coils"}
#: fields by kind, and what they are called since format 3
FIELDS = {
    "spring": {**_COILED, "works": "loading"},
    "torsion_spring": {**_COILED, "wound": "preload"},
    "spiral_spring": {"wound": "preload"},
    "turn_programme": {"goes_on": "continues"},
    "slide_programme": {"goes_on": "continues"},
}
#: m: origins that differ by less are one
SAME = 1e-12
#: m and rad: a part that goes less far stands still
STILL = 1e-10
#: what may stand in a note, of the names that changed
NAMED = 1500


def read(text: str | bytes, context: Context | None = None) -> Document:
    """A document from JSON text of any format so far. Refused, with the field's path, where it is broken."""
    return from_data(opened(text), context)


def opened(text: str | bytes) -> Any:
    """Plain data from JSON text. ValidationFailed where it is none, or more than a document may hold."""
    if len(text) > MOST_TEXT:
        raise ValidationFailed(("document", f"is larger than {MOST_TEXT // 10**6} MB; this is not a mechanism"))
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise ValidationFailed(("document", f"not readable as JSON: {error}")) from error
    bounded(data)
    return data


def from_data(data: Any, context: Context | None = None) -> Document:
    """A document from plain data of any format so far. Where that is an old one, solids may be built: by the `context`, or by a
    kernel pool for this alone."""
    if not isinstance(data, dict):
        raise ValidationFailed(("document", "must be a JSON object"))
    version = data.get("format")
    if isinstance(version, int) and not isinstance(version, bool) and 1 <= version < FORMAT:
        data = _renamed(data) | {"format": FORMAT}
    if version == 1:
        document = validate(data)
        with temporary_context() if context is None else nullcontext(context) as own:
            return _moved_origins(document, own)
    if data.get("format") != FORMAT:
        raise ValidationFailed(
            ("format", f"version {version!r} is not known; this Uhrwerk reads versions 1 to {FORMAT}")
        )
    return validate(data)


def _renamed(data: dict[str, Any]) -> dict[str, Any]:
    """The data of a document with the names of format 3. What is no object is left for the validation to refuse."""
    parts = {}
    for i, part in _items(data, "parts"):
        if not isinstance(part, dict):
            parts[i] = part
            continue
        part = {("measured_mass" if k == "weighed" else k): v for k, v in part.items()}
        if isinstance(part.get("element"), dict):
            part["element"] = _item(part["element"], "elements")
        if isinstance(part.get("steps"), dict):
            part["steps"] = {k: _item(step, "steps") for k, step in part["steps"].items()}
        parts[i] = part
    renamed = {
        name: {i: _item(item, name) for i, item in _items(data, name)} for name in ("pairs", "requirements", "drivers")
    }
    collections = {k: v for k, v in ({"parts": parts} | renamed).items() if isinstance(data.get(k), dict)}
    return data | collections


def _items(data: dict[str, Any], collection: str) -> Iterator[tuple[str, Any]]:
    items = data.get(collection)
    yield from items.items() if isinstance(items, dict) else ()


def _item(item: Any, collection: str) -> Any:
    """One item with the names of its kind and its fields."""
    if not isinstance(item, dict):
        return item
    kind = item.get("kind")
    fields = FIELDS.get(kind, {}) if isinstance(kind, str) else {}
    item = {fields.get(name, name): value for name, value in item.items()}
    if isinstance(kind, str):
        item["kind"] = KINDS.get(collection, {}).get(kind, kind)
    return item


def _moved_origins(document: Document, context: Context) -> Document:
    """A document of format 1 with the origins of faces where they are now."""
    shifts = _Shifts(document, context)
    document = _turned(document, shifts)
    short = _joints(document, shifts, plain=True)
    update: dict[str, Any] = short | _starts(document, short, shifts)
    names = list(_elsewhere(document, shifts))
    if names:
        listed = ", ".join(names)[:NAMED]
        words = f"Brought up from format 1: these now act and measure in the middle of the face that they name, where it is shown, and no longer at the foot of the part's origin on it: {listed}."
        update["note"] = f"{document.note}\n{words}".strip()[:2000]
    return document.model_copy(update=update)


def _turned(document: Document, shifts: _Shifts) -> Document:
    """Format 1 let what slides stand half a turn from where its joint says: what does is said to."""
    sliding = [i for i, j in document.joints.items() if isinstance(j, Prismatic)]
    if not sliding:
        return document
    m = compile(document.model_copy(update=_joints(document, shifts, plain=False)), shifts.context)
    m.aims = [replace(a, turned=False) for a in m.aims]
    try:
        pose = m.scaled(solve(m))
    except NotSolvable:
        return document
    m = compile(document.model_copy(update=_joints(document, shifts, plain=False)), shifts.context)
    over = {a.owner.partition(".")[2] for a in m.aims if a.turned and not a.holds_side(pose)}
    joints = {
        i: j.model_copy(update={"turn": f"{j.turn} + 180 deg"}) if i in over and isinstance(j, Prismatic) else j
        for i, j in document.joints.items()
    }
    return document.model_copy(update={"joints": joints})


def _joints(document: Document, shifts: _Shifts, plain: bool) -> dict[str, Any]:
    """Joints, relations and pairs that take hold where they did. `plain`: in few words, and not where nothing hangs on it."""
    every = ("joints", "relations", "pairs") if not plain or _led(document) else ("joints", "pairs")
    return {
        collection: {
            i: item
            if isinstance(item, Load | LinearSpring | TorsionalSpring)
            else _joint(document, item, shifts, plain)
            for i, item in getattr(document, collection).items()
        }
        for collection in every
    }


def _starts(document: Document, short: dict[str, Any], shifts: _Shifts) -> dict[str, Any]:
    """Placed parts that start where format 1 put them, where something loose would go elsewhere from where they started."""
    if short == {c: getattr(document, c) for c in short} and not document.relations:
        return {}
    whole, brief = (
        compile(document.model_copy(update=u), shifts.context) for u in (_joints(document, shifts, plain=False), short)
    )
    try:
        wanted, solved = solve(whole), solve(brief)
    except NotSolvable:
        return {}
    at = {i: whole.part_pose(i, wanted) for i in document.placed}
    if all(np.abs(poses.between(at[i], brief.part_pose(i, solved))).max() < STILL for i in document.placed):
        return {}
    return {
        "placed": {
            i: p.model_copy(update={"start": p.start.model_copy(update=_start(document, at[i]))})
            for i, p in document.placed.items()
        }
    }


def _start(document: Document, at: Array) -> dict[str, str]:
    """A pose (7,) as a start, to the last digit."""
    places = [_text(document, float(v)) for v in at[:3]]
    angles = [f"{np.degrees(v):.15g} deg" for v in turns(at[3:])]
    return dict(zip(("x", "y", "z", "turn_x", "turn_y", "turn_z"), places + angles, strict=True))


def _led(document: Document) -> bool:
    """Whether a coordinate of a joint that relations make is used: what they hold does not hang on where faces begin, but that
    is counted from there."""
    limited = any(
        getattr(r, f"{c}_{s}") for r in document.relations.values() for c in ("turn", "slide") for s in ("from", "to")
    )
    return limited or any(r.id in document.relations for r in references(document) if r.ref.collection == "joints")


class _Shifts:
    """From where a datum's origin is to where format 1 had it (3,) m, along the datum's own axes."""

    def __init__(self, document: Document, context: Context) -> None:
        self.document, self.context = document, context
        self._of: dict[str, dict[str, Datum]] = {}

    def __call__(self, at: At) -> Array:
        placed = self.document.placed.get(at.placed)
        if placed is None or "." not in at.datum:
            return np.zeros(3)
        if placed.part not in self._of:
            self._of[placed.part] = part_datums.datums(self.document, placed.part, self.context)
        d = self._of[placed.part].get(at.datum)
        if d is None:
            return np.zeros(3)
        along = (d.origin @ d.z) * d.z
        here, there = d, Datum(d.kind, along if d.kind == "plane" else d.origin - along, d.z, d.x)
        if placed.mirrored:
            here, there = mirrored(here), mirrored(there)
        off = there.origin - here.origin
        return np.array([off @ here.x, off @ np.cross(here.z, here.x), off @ here.z])


def _joint(document: Document, item: Any, shifts: _Shifts, plain: bool) -> Any:
    """A joint, relation or pair that takes hold where it did."""
    ends = {side: end for side in ("a", "b", "about") if isinstance(end := getattr(item, side, None), At)}
    by = {side: shifts(end) for side, end in ends.items()}
    update: dict[str, Any] = {}
    if plain and isinstance(item, Joint) and item.aligned:
        along = by["a"][2] - by["b"][2] * (-1 if item.flip else 1)
        if abs(along) > SAME:
            sign, size = "-" if along < 0 else "+", _text(document, abs(along))
            none = item.offset.partition(" ")[0] == "0"
            update["offset"] = _text(document, along) if none else f"{item.offset} {sign} {size}"
        by["a"][2] = by["b"][2] = 0.0
    for side, end in ends.items():
        moved = {axis: _text(document, v) for axis, v in zip("xyz", by[side], strict=True) if abs(v) > SAME}
        if moved:
            update[side] = end.model_copy(update=moved)
    return item.model_copy(update=update) if update else item


def _text(document: Document, si: float) -> str:
    unit = document.units.length
    return f"{in_unit(si, 'length', unit):.15g} {unit}"


def _elsewhere(document: Document, shifts: _Shifts) -> Iterator[str]:
    """The names of what acts or measures elsewhere than in format 1."""
    acting = [p for p in document.pairs.values() if isinstance(p, Load | LinearSpring)]
    for item in (*acting, *document.curves.values(), *document.requirements.values()):
        if any(np.abs(shifts(at)).max() > 1e-9 for at in _places(item)):
            yield item.name


def _places(item: Any) -> Iterator[At]:
    if isinstance(item, At):
        yield item
    elif isinstance(item, Model):
        yield from (at for name in type(item).model_fields for at in _places(getattr(item, name)))
    elif isinstance(item, dict | list | tuple):
        yield from (at for one in (item.values() if isinstance(item, dict) else item) for at in _places(one))


__all__ = ["from_data", "read"]
