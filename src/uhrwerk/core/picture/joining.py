"""Joining two datums: what may join them, where the parts then go, and the command that keeps them there."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import Mechanism, NotSolvable, compile, mobility, other_modes, settled, solve
from uhrwerk.core.document import Document, Refused, Together, apply, words
from uhrwerk.core.document.command import SetValue
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.hand import start_fields

Array = NDArray[np.float64]

#: kind -> (words, the freedom that remains, the fields that matter)
JOINTS = {
    "revolute": ("Turns about the axis", "1 freedom: turning", ["offset", "flip"]),
    "cylindrical": ("Turns about the axis and slides along it", "2 freedoms: turning, sliding", ["offset", "flip"]),
    "rigid": ("Held fast", "no freedom", ["offset", "turn", "flip"]),
    "prismatic": ("Slides along the axis", "1 freedom: sliding", ["offset", "turn", "flip"]),
    "screw": ("Screws along the axis", "1 freedom: turning and advancing together", ["offset", "lead", "flip"]),
    "planar": ("Slides and turns on the face", "3 freedoms: two slides and a turn", ["offset", "flip"]),
    "spherical": ("Swivels about the centre", "3 freedoms: three turns", ["offset"]),
    "universal": ("Universal joint: two crossed arms", "2 freedoms: bending both ways", ["offset", "flip"]),
}  # fmt: skip
RELATIONS = {
    "flush": ("Faces flush", "slides and turns on the face", ["offset", "flip"]),
    "concentric": ("Axes on one line", "turns and slides", ["flip"]),
    "parallel": ("Parallel", "turns about one direction, shifts any way", ["flip"]),
    "perpendicular": ("Square to one another", "turns about two directions, shifts any way", []),
    "distance": ("At a distance", "as far apart as asked", ["distance", "flip"]),
    "angle": ("At an angle", "leans as asked, shifts any way", ["angle"]),
    "tangent": ("Tangent", "rolls and slides along", ["inside"]),
}  # fmt: skip
_FITS = {
    ("axis", "axis"): (["revolute", "cylindrical", "rigid", "prismatic", "screw", "universal", "spherical"], ["concentric", "distance", "parallel", "perpendicular", "angle"]),
    ("plane", "plane"): (["rigid", "planar", "prismatic", "revolute"], ["flush", "distance", "parallel", "perpendicular", "angle"]),
    ("axis", "plane"): (["rigid", "revolute"], ["distance", "perpendicular", "parallel", "angle"]),
}  # fmt: skip


def candidates(document: Document, a: dict[str, str], b: dict[str, str]) -> list[dict[str, Any]]:
    """What may join two datums, in plain words with the freedom that remains; each with the command that makes it and
    the fields of it that matter."""
    if a["placed"] == b["placed"]:
        raise Refused(("b.placed", "both datums are on one part: choose a datum of another part"))
    m = compile(document)
    flat = m.document
    found = []
    for side, at in (("a", a), ("b", b)):
        if at["placed"] not in flat.placed:
            raise Refused((f"{side}.placed", f"there is no placed part {at['placed']!r}"))
        if at["datum"] not in m.datums[at["placed"]]:
            raise Refused((f"{side}.datum", f"there is no datum {at['datum']!r}"))
        found.append(m.datums[at["placed"]][at["datum"]])
    names = [flat.placed[x["placed"]].name for x in (a, b)]
    kinds = [d.kind for d in found]
    elements = [flat.parts[flat.placed[x["placed"]].part].element.kind for x in (a, b)]
    out: list[dict[str, Any]] = []

    def pair(kind: str, told: str, free: str, one: Any, two: Any, **more: Any) -> None:
        body = {"kind": kind, "name": f"{names[0]} drives {names[1]}", "a": one, "b": two, **more}
        out.append(
            {
                "kind": kind,
                "what": "pair",
                "words": told,
                "free": free,
                "fields": [],
                "command": {"kind": "add_pair", "pair": body},
            }
        )

    if set(elements) <= {"spur_gear", "ring_gear"} and elements != ["ring_gear", "ring_gear"]:
        pair("gear", "Teeth in mesh", "ratio from the teeth", a["placed"], b["placed"])
    if sorted(elements) == ["rack", "spur_gear"]:
        gear, rack = (a, b) if elements[0] == "spur_gear" else (b, a)
        pair("rack", "Rolls on the rack", "travel from the teeth", gear["placed"], rack["placed"])
    for one, two, d, other in ((a, b, found[1], found[0]), (b, a, found[0], found[1])):
        if d.kind in ("slot", "arc_slot") and other.kind == "axis":
            pair("slot", "Runs in the slot", "slides along it and turns", one, two)
            out[-1]["command"]["pair"]["name"] = f"{names[0]} in slot of {names[1]}"
    joints, relations = (
        _FITS.get((kinds[0], kinds[1])) or _FITS.get((kinds[1], kinds[0])) or (["rigid", "spherical"], [])
    )
    if "axis" in kinds and all(d.kind == "plane" or d.radius for d in found) and kinds != ["plane", "plane"]:
        relations = ["tangent", *relations]
    faces = kinds == ["plane", "plane"]
    drives: list[tuple[str, str, str]] = []
    if kinds == ["axis", "axis"] and not out:
        drives = [
            ("bevel", "Bevel gears", "ratio from the teeth, on the card"), ("helical", "Helical gears", "ratio from the teeth, on the card"),
            ("worm", "Worm and wheel", "ratio from starts and teeth, on the card"), ("screw_nut", "Screw and nut", "travel from the lead, on the card"),
        ]  # fmt: skip
    for kind in joints:
        told, free, fields = JOINTS[kind]
        body: dict[str, Any] = {"kind": kind, "name": f"{names[1]} {_verb(kind)} {names[0]}", "a": a, "b": b}
        if faces:
            body["flip"] = True
        command = {"kind": "add_joint", "joint": body}
        out.append(
            {
                "kind": kind,
                "what": "joint",
                "words": _of_faces(kind, told) if faces else told,
                "free": free,
                "fields": fields,
                "command": command,
            }
        )
    for kind in relations:
        told, free, fields = RELATIONS[kind]
        body = {"kind": kind, "name": f"{names[1]} {kind} to {names[0]}", "a": a, "b": b}
        if kind == "distance":
            body["distance"] = "10 mm"
            fields = fields if kinds[0] == kinds[1] else ["distance"]
        if kind in ("flush", "concentric", "parallel", "distance"):
            body["side"] = _side(m, a, b)
        command = {"kind": "add_relation", "relation": body}
        out.append(
            {"kind": kind, "what": "relation", "words": told, "free": free, "fields": fields, "command": command}
        )
    for kind, told, free in drives:
        pair(kind, told, free, a, b)
    return out


def _verb(kind: str) -> str:
    verbs = {"revolute": "turns in", "cylindrical": "turns and slides in", "rigid": "fixed on", "prismatic": "slides on", "screw": "screws in",
             "planar": "moves on", "spherical": "swivels in", "universal": "bends against"}  # fmt: skip
    return verbs[kind]


def _of_faces(kind: str, told: str) -> str:
    return {
        "rigid": "Faces flush, held fast", "prismatic": "Slides square to the faces", "revolute": "Turns about the normal of the faces",
    }.get(kind, told)  # fmt: skip


def _side(m: Mechanism, a: dict[str, str], b: dict[str, str]) -> str:
    """Which way both directions point as the parts stand: the side that asks for the smaller turn, said and not hidden."""
    za, zb = (poses.rotate(m.starts[x["placed"]][3:], m.datums[x["placed"]][x["datum"]].z) for x in (a, b))
    return "same" if za @ zb >= 0 else "opposite"


def joined(document: Document, command: Any) -> Any:
    """The command of a joint, relation or pair together with where its parts then are, so that nothing jumps later.

    Refused, naming the joints, where they cannot hold together.
    """
    after, m, pose = _placed_by(document, command)
    sets: list[Any] = []
    for i in after.placed:
        at = m.part_pose(i, pose)
        if np.abs(poses.between(m.starts[i], at)).max() > 1e-7:
            sets.append(SetValue(path=f"placed.{i}.start", value=start_fields(after, at)))
    return Together(commands=[command, *sets], words=words(command, document))


def other_mode(document: Document) -> Any:
    """The command that assembles the mechanism the other way: with the same joints and drives, the nearest other pose.

    Refused where none is found.
    """
    m = compile(document)
    try:
        pose = solve(m)
    except NotSolvable as error:
        raise Refused(("command", str(error))) from error
    found = other_modes(m, pose)
    if not found:
        raise Refused(("command", "no other way to assemble these joints was found"))
    at = {i: m.part_pose(i, found[0]) for i in document.placed}
    sets: list[Any] = [SetValue(path=f"placed.{i}.start", value=start_fields(document, p)) for i, p in at.items()]
    return Together(commands=sets, words="assembled the other way")


def tried(document: Document, command: Any) -> dict[str, Any]:
    """Where every part would go, without doing it; how far each moves, and what stays free."""
    _, m, pose = _placed_by(document, command)
    parts = {i: m.part_pose(i, pose) for i in m.document.placed}
    moved = {}
    for i, at in parts.items():
        step = poses.between(m.starts[i], at)
        if np.abs(step).max() > 1e-7:
            moved[i] = {"way": float(np.linalg.norm(step[:3])), "turn": float(np.linalg.norm(step[3:]))}
    found = mobility(m.document, m, pose)
    return {
        "poses": {i: at.tolist() for i, at in parts.items()}, "moved": moved,
        "freedoms": [f.words for f in found.freedoms], "redundant": found.redundant,
        "remarks": [r.words for r in m.problems if r.path.split(".")[0] in ("joints", "relations", "pairs")],
    }  # fmt: skip


def _placed_by(document: Document, command: Any) -> tuple[Document, Mechanism, Array]:
    after = apply(document, command)
    m = compile(after)
    new = next(
        (
            f"{c}.{i}"
            for c in ("joints", "relations", "pairs")
            for i in getattr(after, c)
            if i not in getattr(document, c)
        ),
        "",
    )
    mine = [p for p in m.problems if p.path == new]
    if mine:
        raise Refused(("command", mine[0].words))
    pose = settled(m, new)
    if pose is None:
        try:
            pose = solve(m, drives=False)
        except NotSolvable as error:
            raise Refused(("command", str(error))) from error
    return after, m, pose
