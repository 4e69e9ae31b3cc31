"""Moving and turning a placed part by numbers: in one command, with the numbers, sides and flips of all that holds it.

What hangs on the part alone goes with it. What holds it to the rest is measured where the part is wanted: which way faces look at each
other, whether a joint is turned over, how far along its axis it is taken; then everything is solved, and where the part does not come
to stand as wanted, what holds it is named.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from pydantic import BaseModel, JsonValue

from uhrwerk.core.assembly import Mechanism, NotSolvable, compile, nearest, solve
from uhrwerk.core.assembly.mechanism import datum_frame
from uhrwerk.core.assembly.start import start_fields, turns
from uhrwerk.core.context import Context
from uhrwerk.core.document import Command, Document, SeveralCommands, ValidationFailed, apply
from uhrwerk.core.document.command import SetValue
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.joints.at import At
from uhrwerk.core.joints.held import Held
from uhrwerk.core.joints.joint import Joint
from uhrwerk.core.joints.relation import Relation
from uhrwerk.core.quantity import length_text
from uhrwerk.core.quantity.formula import is_number

#: rad and m within which a part stands as wanted, and a number is the one that was
SAME = 1e-6


class Repositioned(BaseModel):
    """The command, where every part then is (7,), and what it changes, in words."""

    command: dict[str, JsonValue]
    poses: dict[str, list[float]]
    words: str


class _Change(NamedTuple):
    path: str
    value: JsonValue
    words: str


def repositioned(
    document: Document, placed: str, move: Array, turn: Array, about: Array, context: Context
) -> Repositioned:
    """A placed part turned by a rotation vector (3,), rad, about a point (3,), m, of the mechanism, then moved by (3,), m.

    ValidationFailed where what holds it does not let it come to stand so, naming that.
    """
    if placed not in document.placed:
        raise ValidationFailed(("placed", f"there is no placed part {placed!r}"))
    if placed == document.frame:
        raise ValidationFailed(("placed", f"{document.placed[placed].name} is the frame, which stands still"))
    m = compile(document, context)
    pose = _standing(m)
    now = {i: m.part_pose(i, pose) for i in m.document.placed}  # copies too: joints may end on them
    goes, holders = _hanging(document, placed)
    by = poses.turned(turn)
    there = dict(now)
    for i in goes:
        there[i] = np.concatenate([about + poses.rotate(by, now[i][:3] - about) + move, poses.multiply(by, now[i][3:])])
    changes = [
        c
        for path in holders
        for c in _changes(document, m, path, there, move if _is_b(document, path, goes) else -move)
    ]
    sets: list[Command] = [SetValue(path=c.path, value=c.value) for c in changes]
    starts: list[Command] = [
        SetValue(path=f"placed.{i}.start", value=start_fields(document, there[i], 9))
        for i in sorted(goes)
        if i in document.placed
    ]
    after = compile(apply(document, SeveralCommands(commands=[*sets, *starts], words="moved")), context)
    try:
        solved = solve(after)
    except NotSolvable:
        try:
            solved = nearest(after, solve(after, drives=False))
        except NotSolvable as error:
            raise ValidationFailed(("turn" if np.any(turn) else "move", str(error))) from error
    stands = {i: after.part_pose(i, solved) for i in document.placed}
    off = poses.between(there[placed], stands[placed])
    held = [_item(document, path).name for path in holders]
    held += [d.name for d in document.drivers.values() if f"joints.{d.joint}" in holders]
    names = ", ".join(dict.fromkeys(held))
    if float(np.linalg.norm(off[3:])) > SAME:
        degrees = np.degrees(np.linalg.norm(off[3:]))
        raise ValidationFailed(
            ("turn", f"{document.placed[placed].name} is held by {names}: it would stand {degrees:.4g} deg off")
        )
    if np.any(move) and float(np.linalg.norm(off[:3])) > SAME:
        away = document.display(float(np.linalg.norm(off[:3])), "length")
        raise ValidationFailed(
            ("move", f"{document.placed[placed].name} is held by {names}: it would stand {away} off")
        )
    moved = [i for i in document.placed if np.abs(poses.between(now[i], stands[i])).max() > 1e-9]
    starts = [SetValue(path=f"placed.{i}.start", value=start_fields(document, stands[i], 9)) for i in moved]
    summary = f"{document.placed[placed].name} {'turned' if np.any(turn) else 'moved'}"
    command = SeveralCommands(commands=[*sets, *starts], words=summary)
    words = "; ".join(c.words for c in changes) or (
        "nothing holds it" if not holders else "what holds it stays as it is"
    )
    fits = document.display(float(np.linalg.norm(off[:3])), "length")
    words += f"; it moves by {fits} to fit" if np.linalg.norm(off[:3]) > SAME else ""
    return Repositioned(
        command=command.model_dump(mode="json"), poses={i: p.tolist() for i, p in stands.items()}, words=words
    )


def _is_b(document: Document, path: str, goes: set[str]) -> bool:
    """Whether the second end of a joint or relation goes, and the first stays."""
    return _item(document, path).b.placed in goes


def _standing(m: Mechanism) -> Array:
    for drives in (True, False):
        try:
            return solve(m, drives=drives)
        except NotSolvable:
            continue
    return m.start


def _item(document: Document, path: str) -> Joint | Relation:
    kind, i = path.split(".")
    item: Joint | Relation = getattr(document, kind)[i]
    return item


def _hanging(document: Document, placed: str) -> tuple[set[str], list[str]]:
    """What goes with a part: itself and all that hangs on it alone; and the paths of the joints and relations that hold it to the rest."""
    ends = {
        f"{k}.{i}": (x.a.placed, x.b.placed) for k in ("joints", "relations") for i, x in getattr(document, k).items()
    }
    near: dict[str, set[str]] = {}
    for a, b in ends.values():
        near.setdefault(a, set()).add(b)
        near.setdefault(b, set()).add(a)
    goes = {placed}
    for first in near.get(placed, set()):
        group, waiting = {first}, [first]
        while waiting:
            for k in near.get(waiting.pop(), set()) - group - {placed}:
                group.add(k)
                waiting.append(k)
        if document.frame and document.frame not in group:
            goes |= group
    return goes, [path for path, (a, b) in ends.items() if placed in (a, b) and not {a, b} <= goes]


def _changes(document: Document, m: Mechanism, path: str, there: dict[str, Array], move: Array) -> Iterator[_Change]:
    """What a joint or relation must say where its parts are wanted; `move` is that of b against a."""
    item = _item(document, path)

    def frame(at: At) -> Array:
        return poses.compose(there[at.placed], datum_frame(m.datum(at)))

    one, other = frame(item.a), frame(item.b)
    same = float(poses.rotate(one[3:], np.eye(3)[2]) @ poses.rotate(other[3:], np.eye(3)[2])) >= 0
    unit = document.units.length
    if isinstance(item, Relation):
        side = "same" if same else "opposite"
        if item.sided and getattr(item, "side", side) != side and getattr(item, "side", "") in ("same", "opposite"):
            yield _Change(f"{path}.side", side, f"{item.name}: {side} directions")
        field = next((f for f in ("offset", "distance") if f in item.fields), None)
        along = float(move @ poses.rotate(one[3:], np.eye(3)[2]))
        if field and m.datum(item.a).kind == "plane" and abs(along) > SAME:
            yield _longer(document, path, field, along)
        return
    if isinstance(item, Held):
        fields = start_fields(document, poses.compose(poses.inverse(one), other), 9)
        yield from (
            _Change(f"{path}.{'offset' if k == 'z' else k}", v, f"{item.name} measured anew") for k, v in fields.items()
        )
        return
    if item.aligned and item.flip != (not same):
        yield _Change(f"{path}.flip", not same, f"{item.name}: {'turned over' if not same else 'not turned over'}")
    if "turn" in item.fields:
        over = poses.compose(other, np.array([0, 0, 0, 0, 1.0, 0, 0])) if not same else other
        angle = float(np.degrees(turns(poses.multiply(poses.conjugate(one[3:]), over[3:]))[2]))
        now = np.degrees(document.scope().value(item.turn, "angle"))  # type: ignore[attr-defined]
        if abs((angle - now + 180) % 360 - 180) > np.degrees(SAME):
            yield _Change(f"{path}.turn", f"{round(angle, 9) + 0.0:.9g} deg", f"{item.name}: turned to {angle:.4g} deg")
    x, y, along = (float(move @ poses.rotate(one[3:], axis)) for axis in np.eye(3))
    if item.meets and "slide" not in item.coordinates and abs(along) > SAME:
        yield _longer(document, path, "offset", along)
    if item.fixed:
        for name, way in (("x", x), ("y", y)):
            if abs(way) > SAME:
                now = document.scope().value(getattr(item.a, name), "length")
                text = length_text(now + way, unit)
                yield _Change(f"{path}.a.{name}", text, f"{item.name}: taken {text} along {name} of its datum")


def _longer(document: Document, path: str, field: str, by: float) -> _Change:
    """A length of a joint or relation, more by so many metres; a formula keeps what it says."""
    item, unit = _item(document, path), document.units.length
    text = getattr(item, field)
    more = length_text(abs(by), unit)
    if is_number(text):
        value = length_text(document.scope().value(text, "length") + by, unit)
    else:
        value = f"{text} {'+' if by > 0 else '-'} {more}"
    return _Change(f"{path}.{field}", value, f"{item.name}: {field} {value}")
