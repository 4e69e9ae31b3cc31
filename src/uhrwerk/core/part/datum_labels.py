"""What a person calls the datums of a part: by what is seen there, with the step that made it; no two of a part alike.

Faces are told by where they look in the part (top is +z, front is -y, right is +x), round ones as bore, pin, fillet or rounding.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping

import numpy as np

from uhrwerk.core.document.document import Document
from uhrwerk.core.part.design import whole
from uhrwerk.core.solids import Datum
from uhrwerk.core.steps import MARKS

#: where a face looks, by axis of the part and sign
SIDES = {(0, 1): "right", (0, -1): "left", (1, 1): "back", (1, -1): "front", (2, 1): "top", (2, -1): "bottom"}
#: the rims of a round face by the axis of the part that it lies along, the low one first
RIMS = (("left rim", "right rim"), ("front rim", "back rim"), ("bottom rim", "top rim"))
ALIGNED = 1e-6
_NUMBER = re.compile(r"(\d+)")
_END = re.compile(r"_(low|high)(?=$|\.)")


def labels(document: Document, part: str, datums: Mapping[str, Datum]) -> dict[str, str]:
    """The label of each datum of a part by its name, in natural order."""
    every = {**whole(document, part).steps, **document.parts[part].steps}
    steps = {i: s.name for i, s in every.items()}
    marks = {f"{i}.{s.kind}": s.name for i, s in every.items() if s.kind in MARKS}
    alone = len({name.partition(".")[0] for name in datums if "." in name and name not in marks}) <= 1
    names = sorted(datums, key=natural)
    rims = {name for name in names if "." in name and _END.search(name) and _END.sub("", name) in datums}
    first = {
        name: marks.get(name) or _label(name, datums[name], datums, {} if alone else steps)
        for name in names
        if name not in rims
    }
    whole_ones = _numbered(first)
    return {
        name: whole_ones[name] if name not in rims else f"{whole_ones[_END.sub('', name)]}, {_rim(name, datums[name])}"
        for name in names
    }


def natural(name: str) -> list[tuple[int, str]]:
    """A key by which `hole_2` stands before `hole_10`."""
    return [(int(p), "") if p.isdigit() else (-1, p) for p in _NUMBER.split(name)]


def group(name: str, d: Datum) -> str:
    """The heading under which a datum is listed."""
    if d.kind == "axis" and d.length and not d.radius:
        return "Edges"
    if d.kind == "point" and "+" in name:
        return "Corners"
    if name == "origin" or name.endswith("_plane"):
        return "Origin and base planes"
    if name.endswith((".plane", ".point")):
        return "Planes and points of its own"
    if d.kind == "axis" and d.radius and not d.round:
        return "Fillets and roundings"
    return {"plane": "Faces", "axis": "Bores, pins and axes"}.get(d.kind, "Slots and places")


def _numbered(plain: dict[str, str]) -> dict[str, str]:
    """Labels that stand for several datums are numbered."""
    often, used = Counter(plain.values()), Counter[str]()
    out = {}
    for name, label in plain.items():
        used[label] += 1
        out[name] = f"{label} {used[label]}" if often[label] > 1 else label
    return out


def _label(name: str, d: Datum, datums: Mapping[str, Datum], steps: Mapping[str, str]) -> str:
    if "+" in name:
        faces = [_appearance(n, datums[n]) if n in datums else n for n in re.sub(r":\d+$", "", name).split("+")]
        return f"edge of {_listed(faces)}" if len(faces) == 2 else f"corner of {_listed(faces)}"
    step, dot, _ = name.partition(".")
    if not dot:
        return name.replace("_", " ")
    words = _appearance(name, d)
    return f"{steps[step]}: {words}" if step in steps else words


def _listed(faces: list[str]) -> str:
    """Several faces in a row, the word said once."""
    if all(f.endswith(" face") for f in faces):
        faces = [f.removesuffix(" face") for f in faces]
        return f"{', '.join(faces[:-1])} and {faces[-1]} face"
    return f"{', '.join(faces[:-1])} and {faces[-1]}"


def _appearance(name: str, d: Datum) -> str:
    """What is seen at a datum that a step made."""
    role = name.partition(".")[2]
    if d.kind == "plane":
        return f"{_side(d.z)} face"
    if d.kind == "axis" and d.radius:
        kind = ("bore" if d.side == "bore" else "pin") if d.round else ("fillet" if d.side == "bore" else "rounding")
        number = re.search(r"^(?:hole|recess|sink|seat)_(\d+)", role)
        what = f"{kind} {number[1]}" if number else kind
        if number and not role.startswith("hole"):
            what = f"{role.partition('_')[0]} {number[1]}"
        return what
    if role == "middle":
        return "middle of the holes"
    return role.replace("_", " ").replace(".", " ")


def _side(z: np.ndarray) -> str:
    """Where a normal looks."""
    k = int(np.argmax(np.abs(z)))
    if abs(abs(z[k]) - 1) > ALIGNED:
        return "slanted"
    return SIDES[k, int(np.sign(z[k]))]


def _rim(name: str, d: Datum) -> str:
    """Which end of a round face a datum is."""
    k = int(np.argmax(np.abs(d.z)))
    end = _END.search(name)
    return RIMS[k][int((end is not None and end[1] == "high") == bool(d.z[k] > 0))]
