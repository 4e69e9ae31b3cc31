"""Another file in the place of the one that a part came from: faces that can be matched keep their names, and so their joints.

Matched are, in this order: faces that lie where they lay; cylinders on the same axis, of the same side; planes with the
same normal, the nearest first. Nothing is guessed beyond that: what joints hold on to and has no like is listed.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from pydantic import BaseModel

from uhrwerk.core.context import Context
from uhrwerk.core.document import Document, ValidationFailed
from uhrwerk.core.elements import Imported
from uhrwerk.core.field.ref import FaceOf
from uhrwerk.core.joints import At
from uhrwerk.core.part import part_datums
from uhrwerk.core.solids import BuildFailed, Face
from uhrwerk.core.solids.blob_store import packed, unpacked

#: m and rad: what differs by less lies where it lay
SAME = 1e-6


class Replaced(BaseModel):
    """The command that puts the new file in the place of the old one, and what is lost by it, in words."""

    command: dict[str, Any]
    said: list[str]


def replaced(document: Document, part: str, other: Document, context: Context) -> Replaced:
    """The solid of `other` that goes by the part's name, or its only one, in the part's place."""
    design = document.parts.get(part)
    if design is None or not isinstance(design.element, Imported):
        raise ValidationFailed(("part", f"{part!r} is not an imported part"))
    new = _chosen(design.name, other)
    contents = context.kernel_pool.contents
    old_faces = _faces(document, part, context)
    key = next(i for i, p in other.parts.items() if p.element is new)
    names = matched(old_faces, _faces(other, key, context))
    data = contents.get(new.contents)
    if data is None:
        raise ValidationFailed(("file", "what was imported is no longer available: import the file again"))
    header, block = unpacked(data)
    name = contents.put(packed(header["form"], names, block))
    element = {"kind": "imported", "contents": name, "file": new.file}
    words = f"{design.name}: now from {new.file}"
    command = {"kind": "together", "commands": [{"kind": "set_value", "path": f"parts.{part}.element", "value": element}], "words": words}  # fmt: skip
    lost = sorted(set(_used(document, part)) - {f"element.{n}" for n in names})
    said = [f"{design.name}: {who} waits: {face.replace('element.', '')} has no counterpart in {new.file}" for face, who in _who(document, part, lost)]  # fmt: skip
    return Replaced(command=command, said=[*([other.note] if other.note else []), *said])


def _chosen(name: str, other: Document) -> Imported:
    candidates = {i: p for i, p in other.parts.items() if isinstance(p.element, Imported)}
    named = [p.element for p in candidates.values() if p.name == name]
    if len(candidates) != 1 and len(named) != 1:
        raise ValidationFailed(("file", f"there are {len(candidates)} solids in it, and none is named {name!r}: "
                               f"{', '.join(p.name for p in list(candidates.values())[:6])}"))  # fmt: skip
    one = named[0] if len(named) == 1 else next(iter(candidates.values())).element
    assert isinstance(one, Imported)
    return one


def _faces(document: Document, part: str, context: Context) -> list[Face]:
    """The faces of a part's file alone, without build steps."""
    bare = document.model_copy(
        update={"parts": {**document.parts, part: document.parts[part].model_copy(update={"steps": {}})}}
    )
    try:
        solid = context.kernel_pool.build(part_datums.recipe(bare, part)[0])
    except (BuildFailed, ValidationFailed):
        return []  # what is not here any more has no faces to hold on to
    return [f for body in solid.bodies.values() for f in body.faces]


def matched(old: list[Face], new: list[Face]) -> list[str]:
    """Names of the new faces: of those matched the old one's; the others get numbers that were not used."""
    names: dict[int, str] = {}
    free = set(range(len(old)))
    for rank in (_same, _coaxial, _facing):
        pairs = sorted(
            (d, o, n)
            for o in free
            for n in range(len(new))
            if n not in names and (d := rank(old[o], new[n])) is not None
        )
        for _, o, n in pairs:
            if o in free and n not in names:
                names[n] = old[o].name.removeprefix("element.")
                free.discard(o)
    used = {f.name.removeprefix("element.") for f in old} | set(names.values())
    numbers = (f"face_{k}" for k in range(1, len(old) + len(new) + 2))
    fresh: Iterator[str] = (x for x in numbers if x not in used)
    return [names.get(n) or next(fresh) for n in range(len(new))]


def _same(a: Face, b: Face) -> float | None:
    if a.kind != b.kind or a.outward != b.outward or abs(a.radius - b.radius) > SAME:
        return None
    if a.kind == "cylinder":
        apart = _off_axis(a, b)
        return None if apart is None or apart > SAME else float(np.linalg.norm(a.origin - b.origin))
    apart = float(np.linalg.norm(a.origin - b.origin))
    if a.kind == "plane" and a.direction @ b.direction > 1 - SAME and abs((b.origin - a.origin) @ a.direction) < SAME:
        return apart
    return apart if a.kind == "other" and apart < SAME else None


def _coaxial(a: Face, b: Face) -> float | None:
    if a.kind != "cylinder" or b.kind != "cylinder" or a.outward != b.outward:
        return None
    apart = _off_axis(a, b)
    return None if apart is None or apart > SAME else abs(a.radius - b.radius)


def _facing(a: Face, b: Face) -> float | None:
    if a.kind != "plane" or b.kind != "plane" or a.direction @ b.direction < 1 - SAME:
        return None
    return float(np.linalg.norm(a.origin - b.origin))


def _off_axis(a: Face, b: Face) -> float | None:
    """How far two parallel axes lie apart; None where they are not parallel."""
    if abs(a.direction @ b.direction) < 1 - SAME:
        return None
    between = b.origin - a.origin
    return float(np.linalg.norm(between - (between @ a.direction) * a.direction))


def _used(document: Document, part: str) -> dict[str, str]:
    """Faces of a part's file that something holds on to, with the name of what does."""
    placed = {i for i, p in document.placed.items() if p.part == part}
    out: dict[str, str] = {}
    for collection in ("joints", "relations", "pairs", "repeats", "requirements"):
        for item in getattr(document, collection).values():
            for at in _ats(item):
                if at.placed in placed and at.datum.startswith("element."):
                    out.setdefault(at.datum, item.name)
    for step in document.parts[part].steps.values():
        for name, field in type(step).model_fields.items():
            face = getattr(step, name)
            if any(isinstance(m, FaceOf) for m in field.metadata) and str(face).startswith("element."):
                out.setdefault(face, step.name)
    return out


def _ats(item: Any) -> Iterator[At]:
    for name in type(item).model_fields:
        value = getattr(item, name)
        if isinstance(value, At):
            yield value


def _who(document: Document, part: str, faces: list[str]) -> list[tuple[str, str]]:
    used = _used(document, part)
    return [(face, used[face]) for face in faces]
