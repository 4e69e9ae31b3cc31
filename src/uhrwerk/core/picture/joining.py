"""Joining two datums: what may join them, and the command that keeps parts where they then are."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import NotSolvable, compile, solve, start_pose
from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.document import Document, Refused, Together, apply, numbers, words
from uhrwerk.core.document.command import SetValue
from uhrwerk.core.quantity import in_unit

Array = NDArray[np.float64]


def candidates(document: Document, a: dict[str, str], b: dict[str, str]) -> list[dict[str, Any]]:
    """What may join two datums, in plain words with the freedom that remains; each with the command that makes it."""
    if a["placed"] == b["placed"]:
        raise Refused(("b.placed", "both datums are on one part: choose a datum of another part"))
    m = compile(document)
    found = []
    for side, at in (("a", a), ("b", b)):
        if at["placed"] not in document.placed:
            raise Refused((f"{side}.placed", f"there is no placed part {at['placed']!r}"))
        if at["datum"] not in m.datums[at["placed"]]:
            raise Refused((f"{side}.datum", f"there is no datum {at['datum']!r}"))
        found.append(m.datums[at["placed"]][at["datum"]])
    name_a, name_b = (document.placed[x["placed"]].name for x in (a, b))
    da, db = found
    out = []

    def joint(kind: str, name: str, told: str, free: str, **more: Any) -> None:
        out.append({
            "kind": kind, "words": told, "free": free,
            "command": {"kind": "add_joint", "joint": {"kind": kind, "name": name, "a": a, "b": b, **more}},
        })  # fmt: skip

    if da.kind == "axis" and db.kind == "axis":
        joint("revolute", f"{name_b} turns in {name_a}", "Turns about the axis", "1 freedom: turning")
        joint("rigid", f"{name_b} held fast in {name_a}", "Held fast on the axis", "no freedom")
        joint("prismatic", f"{name_b} slides on {name_a}", "Slides along the axis", "1 freedom: sliding")
    elif da.kind == "plane" and db.kind == "plane":
        joint("rigid", f"{name_b} fixed on {name_a}", "Faces flush, held fast", "no freedom", flip=True)
        joint(
            "prismatic", f"{name_b} slides off {name_a}", "Slides square to the faces", "1 freedom: sliding", flip=True
        )
    else:
        joint("rigid", f"{name_b} fixed on {name_a}", "Axis square to the face, held fast", "no freedom")
    kinds = [document.parts[document.placed[x["placed"]].part].element.kind for x in (a, b)]
    if kinds == ["spur_gear", "spur_gear"]:
        pair = {"kind": "gear", "name": f"{name_a} drives {name_b}", "a": a["placed"], "b": b["placed"]}
        out.insert(
            0,
            {
                "kind": "gear",
                "words": "Teeth in mesh",
                "free": "ratio from the teeth",
                "command": {"kind": "add_pair", "pair": pair},
            },
        )
    return out


def joined(document: Document, command: Any) -> Any:
    """The command of a joint or pair together with where its parts then are, so that nothing jumps later.

    Refused, naming the joints, where they cannot hold together.
    """
    after = apply(document, command)
    m = compile(after)
    try:
        pose = solve(m, drives=False)
    except NotSolvable as error:
        raise Refused(("command", str(error))) from error
    sets: list[Any] = []
    for i in after.placed:
        at = m.part_pose(i, pose)
        if np.abs(poses.between(_start(after, i), at)).max() > 1e-7:
            turn = _turns(at[3:])
            values = [f"{in_unit(float(v), 'length', after.units.length):.6f} {after.units.length}" for v in at[:3]]
            angles = [f"{np.degrees(v):.6f} deg" for v in turn]
            start: Any = dict(zip(("x", "y", "z", "turn_x", "turn_y", "turn_z"), values + angles, strict=True))
            sets.append(SetValue(path=f"placed.{i}.start", value=start))
    return Together(commands=[command, *sets], words=words(command, document))


def _start(document: Document, placed: str) -> Array:
    return start_pose(numbers(document.placed[placed].start, document.scope()))


def _turns(q: Array) -> Array:
    """Turns about x, then y, then z (fixed axes) of a unit quaternion, rad."""
    m = poses.matrix(q)
    if abs(m[2, 0]) > 1 - 1e-12:
        return np.array([0.0, -np.arcsin(np.clip(m[2, 0], -1, 1)), np.arctan2(-m[0, 1], m[1, 1])])
    return np.array([np.arctan2(m[2, 1], m[2, 2]), -np.arcsin(m[2, 0]), np.arctan2(m[1, 0], m[0, 0])])
