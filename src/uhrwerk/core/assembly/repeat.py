"""Repeats written out: every copy as a placed part of its own, with its joints, relations and pairs."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from uhrwerk.core.document import Document, numbers
from uhrwerk.core.document.repeat import count_of, of_copy
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import IDENTITY, Array
from uhrwerk.core.joints import At
from uhrwerk.core.solids import Datum


@dataclass
class Written:
    """The document with all copies, where every placed part starts (7,), and datums that copies need on other parts."""

    document: Document
    starts: dict[str, Array]
    datums: dict[str, dict[str, Datum]]
    remarks: list[tuple[str, str]] = field(default_factory=list)  # path, words


@dataclass(frozen=True)
class Step:
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

        return Datum(d.kind, self.point(d.origin), turned(d.z), turned(d.x), d.radius, d.side, d.length)


def _reflection(n: Array) -> Array:
    return np.eye(3) - 2 * np.outer(n, n)


def mirrored(d: Datum) -> Datum:
    """A datum of the mirrored part: its image behind the part's own yz plane."""
    return Step(IDENTITY, (np.zeros(3), np.array([1.0, 0, 0]))).datum(d)


def start_pose(start: Any) -> Array:
    """The pose of a start with its numbers: turns about x, then y, then z."""
    q = IDENTITY[3:]
    for axis, angle in zip(np.eye(3), (start.turn_x, start.turn_y, start.turn_z), strict=True):
        q = poses.multiply(poses.turned(axis * angle), q)
    return np.concatenate([[start.x, start.y, start.z], q])


def written_out(document: Document, datums: Callable[[str, bool], dict[str, Datum]]) -> Written:
    """The document without repeats. `datums(part, mirrored)` gives those of a part."""
    scope = document.scope()
    starts = {i: start_pose(numbers(p.start, scope)) for i, p in document.placed.items()}
    out = Written(document, starts, {})
    if not document.repeats:
        return out
    flat: dict[str, dict[str, Any]] = {
        c: dict(getattr(document, c)) for c in ("placed", "joints", "relations", "pairs")
    }
    for i, repeat in document.repeats.items():
        count = count_of(repeat, scope)
        n = numbers(repeat, scope)
        at = getattr(repeat, "about", None) or getattr(repeat, "along", None)
        datum = None
        if at is not None:
            holder = flat["placed"][at.placed]
            datum = {**datums(holder.part, holder.mirrored), **out.datums.get(at.placed, {})}.get(at.datum)
            if datum is None:
                out.remarks.append(
                    (f"repeats.{i}", f"{repeat.name} waits: {holder.name} has no datum {at.datum!r} now")
                )
                continue
        step = getattr(n, "step", None)
        angle = 2 * np.pi / count if step is None else step
        closed = repeat.kind == "ring" and abs(angle * count - 2 * np.pi) < 1e-9
        members = set(repeat.placed)
        second = {of_copy(p, 2): p for p in repeat.placed}
        for k in range(2, count + 1):
            local = _step(repeat.kind, n, k - 1, angle, datum)  # in the frame of the part that has the axis or plane
            world = local if at is None else _seen(local, starts[at.placed])
            for p in repeat.placed:
                one = flat["placed"][p]
                flat["placed"][of_copy(p, k)] = one.model_copy(
                    update={"name": f"{one.name} {k}", "mirrored": one.mirrored != (repeat.kind == "mirror")}
                )
                starts[of_copy(p, k)] = world.pose(starts[p])
        for collection in ("joints", "relations", "pairs"):
            for name, item in list(flat[collection].items()):
                ends = {s: getattr(getattr(item, s), "placed", getattr(item, s)) for s in "ab"}
                inside = {s for s, p in ends.items() if p in members}
                if not inside:
                    continue
                onward = {s for s, p in ends.items() if p in second}
                for k in range(2, count + 1):
                    update: dict[str, Any] = {"name": f"{item.name} {k}"}
                    if onward:  # from one to the next
                        following = k % count + 1 if closed else k + 1
                        if following > count:
                            continue
                        update |= {s: _renamed(getattr(item, s), of_copy(p, k)) for s, p in ends.items() if s in inside}
                        update |= {s: _renamed(getattr(item, s), of_copy(second[ends[s]], following)) for s in onward}
                    else:
                        update |= {s: _renamed(getattr(item, s), of_copy(ends[s], k)) for s in inside}
                        for s in set("ab") - inside:
                            if collection == "pairs" and isinstance(getattr(item, s), str):
                                continue  # a whole gear: the same one
                            if repeat.kind == "copy" or at is None or at.placed != ends[s]:
                                if k == 2 and repeat.kind != "copy":
                                    other = flat["placed"][ends[s]].name
                                    words = f"{item.name} is not repeated by {repeat.name}: {other} does not have its axis or plane"
                                    out.remarks.append((f"repeats.{i}", words))
                                update = {}
                                break
                            end: At = getattr(item, s)
                            holder = flat["placed"][ends[s]]
                            known = {**datums(holder.part, holder.mirrored), **out.datums.get(ends[s], {})}
                            if end.datum in known:
                                local = _step(repeat.kind, n, k - 1, angle, datum)
                                new = f"{end.datum}__{k}"
                                out.datums.setdefault(ends[s], {})[new] = local.datum(known[end.datum])
                                update[s] = end.model_copy(update={"datum": new})
                        if not update:
                            break
                    about = getattr(item, "about", None)
                    if about is not None and about.placed in members:
                        update["about"] = _renamed(about, of_copy(about.placed, k))
                    if repeat.kind == "mirror":
                        update |= _other_hand(item, about is not None and about.placed in members)
                    flat[collection][of_copy(name, k)] = item.model_copy(update=update)
    out.document = document.model_copy(update=flat | {"repeats": {}})
    return out


def _renamed(end: Any, placed: str) -> Any:
    return placed if isinstance(end, str) else end.model_copy(update={"placed": placed})


def _step(kind: str, n: Any, k: int, angle: float, datum: Datum | None) -> Step:
    if kind == "copy":
        one, total = start_pose(n.shift), IDENTITY
        for _ in range(k):
            total = poses.compose(one, total)
        return Step(total)
    assert datum is not None
    if kind == "mirror":
        return Step(IDENTITY, (datum.origin, datum.z))
    if kind == "row":
        return Step(np.concatenate([datum.z * n.pitch * k, IDENTITY[3:]]))
    turn = poses.turned(datum.z * angle * k)
    return Step(np.concatenate([datum.origin - poses.rotate(turn, datum.origin), turn]))


def _seen(step: Step, frame: Array) -> Step:
    """A step in a part's frame as one in the world, where that part is posed at `frame`."""
    if step.plane is None:
        return Step(poses.compose(poses.compose(frame, step.motion), poses.inverse(frame)))
    return Step(IDENTITY, (poses.place(frame, step.plane[0]), poses.rotate(frame[3:], step.plane[1])))


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
