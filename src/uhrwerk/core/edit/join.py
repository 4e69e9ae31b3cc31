"""Joining two datums: what may join them, where the parts then go, and the command that keeps them there."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, JsonValue

from uhrwerk.core.assembly import Mechanism, NotSolvable, compile, mobility, nearest, other_modes, settled, solve
from uhrwerk.core.assembly.mechanism import datum_frame
from uhrwerk.core.assembly.start import start_fields
from uhrwerk.core.context import Context
from uhrwerk.core.document import Command, Document, SeveralCommands, ValidationFailed, apply, words
from uhrwerk.core.document.command import AddJoint, AddPair, AddRelation, SetValue
from uhrwerk.core.edit.matching import matches
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.joints import JOINTS, PAIRS, RELATIONS, At
from uhrwerk.core.part.design import element_of
from uhrwerk.core.quantity import length_text

Array = NDArray[np.float64]


class JoinOption(BaseModel):
    """One way to join two datums: what it does, the freedom that remains, the fields that matter, with what they start from
    where that is as the parts stand now, and the command that makes it."""

    kind: str
    what: Literal["joint", "relation", "pair"]
    words: str
    free: str
    fields: list[str]
    command: dict[str, JsonValue]
    starts: dict[str, str] = {}


class _Ends:
    """The two datums that are to be joined, named a and b."""

    def __init__(self, document: Document, a: At, b: At, context: Context) -> None:
        if a.placed == b.placed:
            raise ValidationFailed(("b.placed", "both datums are on one part: choose a datum of another part"))
        self.m = compile(document, context)
        flat = self.m.document
        for side, at in (("a", a), ("b", b)):
            if at.placed not in flat.placed:
                raise ValidationFailed((f"{side}.placed", f"there is no placed part {at.placed!r}"))
            if at.datum not in self.m.datums[at.placed]:
                raise ValidationFailed((f"{side}.datum", f"there is no datum {at.datum!r}"))
        self.at = a, b
        self.datums = self.m.datum(a), self.m.datum(b)
        self.names = flat.placed[a.placed].name, flat.placed[b.placed].name
        one, other = (element_of(flat, at.placed).kind for at in (a, b))
        self.elements = one, other
        self.kinds = self.datums[0].kind, self.datums[1].kind

    @cached_property
    def _now(self) -> list[tuple[Array, Array]]:
        """Origin and direction of both datums in the world, as the parts stand."""
        at = [self.m.starts[x.placed] for x in self.at]
        return [(poses.place(p, d.origin), poses.rotate(p[3:], d.z)) for p, d in zip(at, self.datums, strict=True)]

    def _text(self, si: float) -> str:
        return length_text(si, self.m.document.units.length, 1e-7)

    def offset(self) -> str:
        """How far along the first datum the second stands now."""
        (o, z), (p, _) = self._now
        return self._text(float((p - o) @ z))

    def stands(self) -> dict[str, str]:
        """Where the second datum's frame is in that of the first, as the parts are shown: moved along its axes, turned about them."""
        try:
            pose = solve(self.m)
            at = [self.m.part_pose(x.placed, pose) for x in self.at]
        except NotSolvable:
            at = [self.m.starts[x.placed] for x in self.at]
        one, other = (poses.compose(p, datum_frame(d)) for p, d in zip(at, self.datums, strict=True))
        values = start_fields(self.m.document, poses.compose(poses.inverse(one), other), digits=9)
        return {"offset" if k == "z" else k: str(text) for k, text in values.items()}

    def distance(self) -> str:
        """How far apart they stand now, as the relation counts it: along the normal of a face, else across axes; 10 mm where
        they do not stand apart."""
        (o, z), (p, w) = self._now
        if self.kinds[0] == "plane":
            return self._text(float((p - o) @ z))
        if self.kinds[1] == "plane":
            return self._text(float((o - p) @ w))
        off = p - o
        for kind, axis in zip(self.kinds, (z, w), strict=True):
            off = off - (off @ axis) * axis if kind == "axis" else off
        far = float(np.linalg.norm(off))
        return self._text(far if far > 1e-7 else 0.01)

    def plane_between(self) -> At | None:
        """The face or plane nearest to midway between both, square to the way from one to the other: of another part, if there is one."""
        (o, _), (p, _) = self._now
        apart = float(np.linalg.norm(p - o))
        way = (p - o) / apart if apart > 1e-9 else np.zeros(3)
        own = {at.placed for at in self.at}
        ranked: list[tuple[bool, float, str, str]] = []
        for placed, start in self.m.starts.items():
            for name, d in self.m.datums[placed].items():
                if d.kind == "plane":
                    z = poses.rotate(start[3:], d.z)
                    off = abs(float(((o + p) / 2 - poses.place(start, d.origin)) @ z))
                    ranked.append((placed in own, round(off + apart * (1 - abs(float(z @ way))), 9), placed, name))
        return At(placed=min(ranked)[2], datum=min(ranked)[3]) if ranked else None

    def offered(self, takes: Mapping[tuple[str, str], int]) -> int | None:
        """The place among the offers of what takes such datums, in either order."""
        known = {k for j in JOINTS.values() for k in j.takes} | {k for r in RELATIONS.values() for k in r.takes}
        mine = self.kinds if self.kinds in known else self.kinds[::-1] if self.kinds[::-1] in known else ("any", "any")
        return takes.get(mine)


def candidates(document: Document, a: At, b: At, context: Context) -> list[JoinOption]:
    """What may join two datums, in plain words with the freedom that remains; each with the command that makes it and
    the fields of it that matter."""
    ends = _Ends(document, a, b, context)
    pairs = _pairs(ends)
    teeth = [p for p in pairs if PAIRS[p.kind].made_of or p.kind == "slot"]
    others = [] if teeth else [p for p in pairs if p not in teeth]
    return [*teeth, *_matched(ends), *_joints(ends), *_relations(ends), *others]


def _matched(ends: _Ends) -> list[JoinOption]:
    """Several relations at once: of the faces at two corners or edges, of holes that lie alike."""
    out = []
    a, b = ends.at
    for match in matches(ends.m, a, b):
        commands: list[JsonValue] = []
        for k, (x, y) in enumerate(match.ends, 1):
            one, other = At(placed=a.placed, datum=x), At(placed=b.placed, datum=y)
            relation: dict[str, JsonValue] = {
                "kind": match.relation,
                "name": f"{ends.names[1]} {match.relation} to {ends.names[0]}, {k}",
                "a": one.model_dump(),
                "b": other.model_dump(),
                "side": _side(ends.m, one, other),
            }
            commands.append({"kind": "add_relation", "relation": relation})
        summary = f"{ends.names[1]} on {ends.names[0]}: {match.words[0].lower()}{match.words[1:]}"
        command: dict[str, JsonValue] = {"kind": "together", "commands": commands, "words": summary}
        kind = "corners" if match.relation == "flush" else "holes"
        out.append(
            JoinOption(kind=kind, what="relation", words=match.words, free=match.free, fields=[], command=command)
        )
    return out


def _pairs(ends: _Ends) -> list[JoinOption]:
    out: list[JoinOption] = []
    for kind, model in PAIRS.items():
        for i, j in ((0, 1), (1, 0)):
            elements, datums = (ends.elements[i], ends.elements[j]), (ends.kinds[i], ends.kinds[j])
            if not model.offered(elements, datums) or (out and out[-1].kind == kind):
                continue
            one, other, names = ends.at[i], ends.at[j], (ends.names[i], ends.names[j])
            name = f"{names[0]} in slot of {names[1]}" if kind == "slot" else f"{names[0]} drives {names[1]}"
            x, y = (at.placed if model.made_of else at.model_dump() for at in (one, other))
            pair: dict[str, JsonValue] = {"kind": kind, "name": name, "a": x, "b": y}
            command: dict[str, JsonValue] = {"kind": "add_pair", "pair": pair}
            out.append(
                JoinOption(kind=kind, what="pair", words=model.title, free=model.free, fields=[], command=command)
            )
    return out


def _joints(ends: _Ends) -> list[JoinOption]:
    faces = ends.kinds == ("plane", "plane")
    ranked: list[tuple[int, int, JoinOption]] = []
    for kind, model in JOINTS.items():
        rank = ends.offered(model.takes)
        if rank is None:
            continue
        joint: dict[str, JsonValue] = {
            "kind": kind, "name": f"{ends.names[1]} {model.verb} {ends.names[0]}", "a": ends.at[0].model_dump(), "b": ends.at[1].model_dump(),
        }  # fmt: skip
        if faces:
            joint["flip"] = True
        words = model.of_faces if faces and model.of_faces else model.title
        command: dict[str, JsonValue] = {"kind": "add_joint", "joint": joint}
        starts = {"offset": ends.offset()} if "offset" in model.fields and not faces else {}
        if model.as_it_stands:
            joint["flip"] = False
            starts = ends.stands()
            joint |= starts
        offer = JoinOption(
            kind=kind,
            what="joint",
            words=words,
            free=model.free,
            fields=list(model.fields),
            command=command,
            starts=starts,
        )
        ranked.append((rank, len(ranked), offer))
    return [offer for *_, offer in sorted(ranked, key=lambda x: x[:2])]


def _relations(ends: _Ends) -> list[JoinOption]:
    ranked: list[tuple[int, int, JoinOption]] = []
    round_ones = all(d.kind == "plane" or (d.kind == "axis" and d.radius) for d in ends.datums)
    for kind, model in RELATIONS.items():
        rank = ends.offered(model.takes)
        if kind == "tangent" and round_ones and "axis" in ends.kinds:
            rank = -1
        if rank is None:
            continue
        relation: dict[str, JsonValue] = {
            "kind": kind, "name": f"{ends.names[1]} {kind} to {ends.names[0]}", "a": ends.at[0].model_dump(), "b": ends.at[1].model_dump(),
        }  # fmt: skip
        fields = list(model.fields)
        starts = {"distance": ends.distance()} if kind == "distance" else {}
        if kind == "distance":
            fields = fields if ends.kinds[0] == ends.kinds[1] != "point" else ["distance"]
        if kind == "symmetric":
            about = ends.plane_between()
            if about is None:
                continue
            relation["about"] = about.model_dump()
            starts = {"about": f"{about.placed}/{about.datum}"}
        if model.sided:
            relation["side"] = _side(ends.m, *ends.at)
        command: dict[str, JsonValue] = {"kind": "add_relation", "relation": relation}
        relation |= starts
        offer = JoinOption(
            kind=kind,
            what="relation",
            words=model.title,
            free=model.free,
            fields=fields,
            command=command,
            starts=starts,
        )
        ranked.append((rank, len(ranked), offer))
    return [offer for *_, offer in sorted(ranked, key=lambda x: x[:2])]


def _side(m: Mechanism, a: At, b: At) -> str:
    """Which way both directions point as the parts stand: the side that asks for the smaller turn, said and not hidden."""
    za, zb = (poses.rotate(m.starts[x.placed][3:], m.datum(x).z) for x in (a, b))
    return "same" if za @ zb >= 0 else "opposite"


def standing(document: Document, context: Context) -> dict[str, list[float]]:
    """Where every part stands at the start of the cycle (7,), as it is shown; where the drives cannot hold, as the joints alone hold it.
    ValidationFailed where nothing can."""
    m = compile(document, context)
    try:
        pose = solve(m)
    except NotSolvable:
        try:
            pose = solve(m, drives=False)
        except NotSolvable as error:
            raise ValidationFailed(("command", str(error))) from error
    return {i: m.part_pose(i, pose).tolist() for i in m.document.placed}


def joined(document: Document, command: Command, context: Context) -> SeveralCommands:
    """The command of a joint, relation or pair together with where its parts then are, so that nothing jumps later.

    ValidationFailed, naming the joints, where they cannot hold together.
    """
    after, m, pose = placed_by(document, command, context)
    sets: list[Command] = []
    for i in after.placed:
        at = m.part_pose(i, pose)
        if np.abs(poses.between(m.starts[i], at)).max() > 1e-7:
            sets.append(SetValue(path=f"placed.{i}.start", value=start_fields(after, at)))
    return SeveralCommands(commands=[command, *sets], words=words(command, document))


def placed_command(document: Document, command: Command, context: Context) -> Command:
    """A command with what it takes to keep the parts where it brings them: that of a joint, relation or pair; any other as it is.

    ValidationFailed, naming the joints, where they cannot hold together.
    """
    alone = isinstance(command, AddJoint | AddRelation | AddPair)
    relations = isinstance(command, SeveralCommands) and all(isinstance(c, AddRelation) for c in command.commands)
    return joined(document, command, context) if alone or relations else command


def other_mode(document: Document, context: Context) -> SeveralCommands:
    """The command that assembles the mechanism the other way: with the same joints and drives, the nearest other pose.

    ValidationFailed where none is found.
    """
    m = compile(document, context)
    try:
        pose = solve(m)
    except NotSolvable as error:
        raise ValidationFailed(("command", str(error))) from error
    modes = other_modes(m, pose)
    if not modes:
        raise ValidationFailed(("command", "no other way to assemble these joints was found"))
    at = {i: m.part_pose(i, modes[0]) for i in document.placed}
    sets: list[Command] = [SetValue(path=f"placed.{i}.start", value=start_fields(document, p)) for i, p in at.items()]
    return SeveralCommands(commands=sets, words="assembled the other way")


class MovedPart(BaseModel):
    """How far a part goes, m, and turns, rad."""

    way: float
    turn: float


class JoinPreview(BaseModel):
    """Where every part would go (7,), how far each moves, what stays free, what is said twice, what waits; `fresh` are parts
    that are not there yet."""

    poses: dict[str, list[float]]
    moved: dict[str, MovedPart]
    freedoms: list[str]
    redundant: int
    remarks: list[str]
    fresh: list[str] = []


def tried(document: Document, command: Command, context: Context) -> JoinPreview:
    """Where every part would go, without doing it; how far each moves, and what stays free."""
    after, m, pose = placed_by(document, command, context)
    parts = {i: m.part_pose(i, pose) for i in m.document.placed}
    moved = {}
    for i, at in parts.items():
        step = poses.between(m.starts[i], at)
        if np.abs(step).max() > 1e-7:
            moved[i] = MovedPart(way=float(np.linalg.norm(step[:3])), turn=float(np.linalg.norm(step[3:])))
    freedoms = mobility(m.document, m, pose)
    remarks = [r.words for r in m.problems if r.path.split(".")[0] in ("joints", "relations", "pairs")]
    return JoinPreview(
        poses={i: at.tolist() for i, at in parts.items()}, moved=moved, freedoms=[f.words for f in freedoms.freedoms],
        redundant=freedoms.redundant, remarks=remarks, fresh=[i for i in after.placed if i not in document.placed],
    )  # fmt: skip


def placed_by(document: Document, command: Command, context: Context) -> tuple[Document, Mechanism, Array]:
    after = apply(document, command)
    m = compile(after, context)
    new = [
        f"{c}.{i}" for c in ("joints", "relations", "pairs") for i in getattr(after, c) if i not in getattr(document, c)
    ]
    mine = [p for p in m.problems if p.path in new]
    if mine:
        raise ValidationFailed(("command", mine[0].words))
    several = len(new) > 1 and all(path.startswith("relations.") for path in new)
    pose = None if several else settled(m, next(iter(new), ""))
    if pose is None:
        try:
            pose = nearest(m, solve(m, drives=False))
        except NotSolvable as error:
            raise ValidationFailed(("command", str(error))) from error
    return after, m, pose
