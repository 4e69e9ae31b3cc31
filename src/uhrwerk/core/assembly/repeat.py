"""Repeats written out: every copy as a placed part of its own, with its joints, relations and pairs."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from uhrwerk.core.document import Document, numbers
from uhrwerk.core.document.repeat import count_of, of_copy, turns_of
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import IDENTITY, Array
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints import At
from uhrwerk.core.joints.at import HERE
from uhrwerk.core.quantity import Scope
from uhrwerk.core.solids import Datum

#: placed parts, joints, relations and pairs, by collection and id
Flat = dict[str, dict[str, Any]]


@dataclass
class WrittenOut:
    """The document with all copies, where every placed part starts (7,), and datums that copies need on other parts."""

    document: Document
    starts: dict[str, Array]
    datums: dict[str, dict[str, Datum]]
    remarks: list[tuple[str, str]] = field(default_factory=list)  # path, words


@dataclass(frozen=True)
class RepeatStep:
    """How the k-th copy lies to the original: first mirrored in x -> -x of `plane`, or moved by `motion`, in a frame."""

    motion: Array
    plane: tuple[Array, Array] | None = None  # a point and the normal

    def pose(self, p: Array) -> Array:
        if self.plane is None:
            return poses.compose(self.motion, p)
        m = _reflection(self.plane[1]) @ poses.matrix(p[3:]) @ np.diag([-1.0, 1, 1])
        return poses.from_axes(self.point(p[:3]), m[:, 0], m[:, 2])

    def point(self, p: Array) -> Array:
        if self.plane is None:
            return poses.place(self.motion, p)
        o, n = self.plane
        return np.asarray(p - 2 * ((p - o) @ n) * n)

    def datum(self, d: Datum) -> Datum:
        def turned(u: Array) -> Array:
            return poses.rotate(self.motion[3:], u) if self.plane is None else _reflection(self.plane[1]) @ u

        return replace(d, origin=self.point(d.origin), z=turned(d.z), x=turned(d.x))


def _reflection(n: Array) -> Array:
    return np.eye(3) - 2 * np.outer(n, n)


def mirrored(d: Datum) -> Datum:
    """A datum of the mirrored part: its image behind the part's own yz plane."""
    return RepeatStep(IDENTITY, (np.zeros(3), np.array([1.0, 0, 0]))).datum(d)


def start_pose(start: Numbers) -> Array:
    """The pose of a start with its numbers: turns about x, then y, then z."""
    q = IDENTITY[3:]
    for axis, angle in zip(np.eye(3), (start.turn_x, start.turn_y, start.turn_z), strict=True):
        q = poses.multiply(poses.turned(axis * angle), q)
    return np.concatenate([[start.x, start.y, start.z], q])


def written_out(document: Document, datums: Callable[[str, bool], dict[str, Datum]]) -> WrittenOut:
    """The document without repeats. `datums(part, mirrored)` gives those of a part."""
    scope = document.scope()
    starts = {i: start_pose(numbers(p.start, scope)) for i, p in document.placed.items()}
    out = WrittenOut(document, starts, {})
    if not document.repeats:
        return out
    flat: Flat = {c: dict(getattr(document, c)) for c in ("placed", "joints", "relations", "pairs")}
    for i, repeat in document.repeats.items():
        one = _Copies(
            i,
            repeat,
            numbers(repeat, scope),
            count_of(repeat, scope),
            flat,
            out,
            datums,
            scope,
            turns_of(document.repeats, i),
        )
        if one.ready():
            one.place()
            one.join()
    out.document = document.model_copy(update=flat | {"repeats": {}})
    return out


@dataclass
class _Copies:
    """The copies of one repeat, written into `flat` and `out`."""

    id: str
    repeat: Any
    numbers: Any
    count: int
    flat: Flat
    out: WrittenOut
    datums: Callable[[str, bool], dict[str, Datum]]
    scope: Scope
    turns: dict[str, int]

    @cached_property
    def at(self) -> At | None:
        """The axis or plane that the copies are laid by."""
        return getattr(self.repeat, "about", None) or getattr(self.repeat, "along", None)

    @cached_property
    def datum(self) -> Datum | None:
        here = None if self.at is None else self.transform_of(self.at.placed).get(self.at.datum)
        return here if self.at is None or here is None else self.at.beside(here, self.scope)

    @cached_property
    def angle(self) -> float:
        step = getattr(self.numbers, "step", None)
        return 2 * np.pi / self.count if step is None else step

    @property
    def closed(self) -> bool:
        """Whether the last copy is followed by the original."""
        return self.repeat.kind == "ring" and abs(self.angle * self.count - 2 * np.pi) < 1e-9

    def transform_of(self, placed: str) -> dict[str, Datum]:
        """The datums of a placed part, with those that copies have needed on it."""
        holder = self.flat["placed"][placed]
        return {**self.datums(holder.part, holder.mirrored), **self.out.datums.get(placed, {})}

    def ready(self) -> bool:
        if self.at is None or self.datum is not None:
            return True
        holder = self.flat["placed"][self.at.placed]
        words = f"{self.repeat.name} waits: {holder.name} has no datum {self.at.datum!r} now"
        self.out.remarks.append((f"repeats.{self.id}", words))
        return False

    def name(self, placed: str, k: int) -> str:
        """That of copy k of a placed part."""
        return of_copy(placed, k, self.turns[placed])

    def _free(self, collection: str, item: str, k: int) -> str:
        """An id for copy k of a joint, relation or pair; one that is repeated again has others."""
        turn = 1
        while of_copy(item, k, turn) in self.flat[collection]:
            turn += 1
        return of_copy(item, k, turn)

    def step(self, k: int) -> RepeatStep:
        """How copy k lies to the original, in the frame of the part that has the axis or plane."""
        return _step(self.repeat.kind, self.numbers, k - 1, self.angle, self.datum)

    def place(self) -> None:
        """The copies as placed parts."""
        placed, starts = self.flat["placed"], self.out.starts
        for k in range(2, self.count + 1):
            local = self.step(k)
            world = local if self.at is None else _in_world(local, starts[self.at.placed])
            for p in self.repeat.placed:
                name = self.name(p, k)
                one, other_hand = placed[p], placed[p].mirrored != (self.repeat.kind == "mirror")
                placed[name] = one.model_copy(update={"name": f"{one.name} {k}", "mirrored": other_hand})
                starts[name] = world.pose(starts[p])

    def join(self) -> None:
        """Their joints, relations and pairs."""
        for collection in ("joints", "relations", "pairs"):
            for name, item in list(self.flat[collection].items()):
                ends = {s: getattr(getattr(item, s), "placed", getattr(item, s)) for s in "ab"}
                if not set(ends.values()) & set(self.repeat.placed):
                    continue
                for k in range(2, self.count + 1):
                    joined = self._ends(collection, item, ends, k)
                    if joined is None:
                        break
                    if joined:
                        update = {"name": f"{item.name} {k}"} | joined | self._about(item, k)
                        if self.repeat.kind == "mirror":
                            update = {side: _mirrored_place(end) for side, end in update.items()}
                        self.flat[collection][self._free(collection, name, k)] = item.model_copy(update=update)

    def _ends(self, collection: str, item: Any, ends: dict[str, str], k: int) -> dict[str, Any] | None:
        """What copy k of an item joins; nothing where an open row ends; None where the item is not repeated."""
        second = {self.name(p, 2): p for p in self.repeat.placed}
        inside = {s: p for s, p in ends.items() if p in self.repeat.placed}
        onward = {s: second[p] for s, p in ends.items() if p in second}
        out = {s: _renamed(getattr(item, s), self.name(p, k)) for s, p in inside.items()}
        if onward:  # from one to the next
            following = k % self.count + 1 if self.closed else k + 1
            if following > self.count:
                return {}
            return out | {s: _renamed(getattr(item, s), self.name(p, following)) for s, p in onward.items()}
        for s in set("ab") - set(inside):
            if collection == "pairs" and isinstance(getattr(item, s), str):
                continue  # a whole gear: the same one
            if self.repeat.kind == "copy" or self.at is None or self.at.placed != ends[s]:
                if k == 2 and self.repeat.kind != "copy":
                    self._not_repeated(item, ends[s])
                return None
            out |= self._turned_datum(s, getattr(item, s), k)
        return out

    def _turned_datum(self, side: str, end: At, k: int) -> dict[str, At]:
        """The end of copy k on the part that has the axis or plane: at the datum moved with the copy."""
        known = self.transform_of(end.placed)
        if end.datum not in known:
            return {}
        new, moved = f"{end.datum}__{k}", self.step(k).datum(known[end.datum])
        mine = self.out.datums.setdefault(end.placed, {})
        turn = 1
        while new in mine:  # another repeat has moved the same datum elsewhere
            turn += 1
            new = f"{end.datum}__r{turn}_{k}"
        mine[new] = moved
        return {side: end.model_copy(update={"datum": new})}

    def _not_repeated(self, item: Any, holder: str) -> None:
        other = self.flat["placed"][holder].name
        words = f"{item.name} is not repeated by {self.repeat.name}: {other} does not have its axis or plane"
        self.out.remarks.append((f"repeats.{self.id}", words))

    def _about(self, item: Any, k: int) -> dict[str, Any]:
        """What else changes in a copy: the axis that an angle is about, and the hand."""
        about = getattr(item, "about", None)
        out: dict[str, Any] = {}
        if about is not None and about.placed in self.repeat.placed:
            out["about"] = _renamed(about, self.name(about.placed, k))
        return out | (_other_hand(item, "about" in out) if self.repeat.kind == "mirror" else {})


def _mirrored_place(end: Any) -> Any:
    """A place beside a mirrored datum: its y points the other way, whose z and x are mirrored."""
    return end.model_copy(update={"y": f"-({end.y})"}) if isinstance(end, At) and end.y != HERE else end


def _renamed(end: Any, placed: str) -> Any:
    return placed if isinstance(end, str) else end.model_copy(update={"placed": placed})


def _step(kind: str, n: Any, k: int, angle: float, datum: Datum | None) -> RepeatStep:
    if kind == "copy":
        one, total = start_pose(n.shift), IDENTITY
        for _ in range(k):
            total = poses.compose(one, total)
        return RepeatStep(total)
    assert datum is not None
    if kind == "mirror":
        return RepeatStep(IDENTITY, (datum.origin, datum.z))
    if kind == "row":
        return RepeatStep(np.concatenate([datum.z * n.pitch * k, IDENTITY[3:]]))
    turn = poses.turned(datum.z * angle * k)
    return RepeatStep(np.concatenate([datum.origin - poses.rotate(turn, datum.origin), turn]))


def _in_world(step: RepeatStep, frame: Array) -> RepeatStep:
    """A step in a part's frame as one in the world, where that part is posed at `frame`."""
    if step.plane is None:
        return RepeatStep(poses.compose(poses.compose(frame, step.motion), poses.inverse(frame)))
    return RepeatStep(IDENTITY, (poses.place(frame, step.plane[0]), poses.rotate(frame[3:], step.plane[1])))


def _other_hand(item: Any, about_too: bool) -> dict[str, Any]:
    """What changes its sign in a mirrored joint, relation or pair: angles, leads, helix angles, the hand of a worm."""
    out: dict[str, Any] = {}
    for name in ("turn", "lead", "helix_a", "helix_b", *(("angle",) if about_too else ())):
        if hasattr(item, name):
            out[name] = f"-({getattr(item, name)})"
    if hasattr(item, "turn_from"):
        low, high = item.turn_from, item.turn_to
        out |= {"turn_from": f"-({high})" if high else "", "turn_to": f"-({low})" if low else ""}
    if hasattr(item, "hand"):
        out["hand"] = {"right": "left", "left": "right"}[item.hand]
    return out
