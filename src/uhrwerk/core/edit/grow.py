"""What fits on a datum, and the one command that creates, places and joins it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import replace
from functools import cached_property
from typing import Any

import numpy as np
from pydantic import BaseModel, ValidationError

from uhrwerk.core.assembly import Mechanism, NotSolvable, compile, datum_frame, solve
from uhrwerk.core.assembly.start import start_fields
from uhrwerk.core.context import Context
from uhrwerk.core.document import Document, SeveralCommands, ValidationFailed, new_id, parse
from uhrwerk.core.edit.pull import STEP, RoundedPull, behind, pulled, rounded
from uhrwerk.core.elements import ELEMENTS, FramePlate, of
from uhrwerk.core.elements.bore import Bore, Post
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import formulas, numbers
from uhrwerk.core.joints import PAIRS, At
from uhrwerk.core.part import part_datums
from uhrwerk.core.part.design import element_of
from uhrwerk.core.quantity import FormulaError, Scope
from uhrwerk.core.quantity.formula import names_in
from uhrwerk.core.steps import STEPS, Under

#: ways in which a new bore is sought in the plate, rad from the first one tried
WAYS = tuple(np.pi / 4 * np.array([0, 2, -2, 4, 1, -1, 3, -3]))
#: groups of elements by how likely they are where several fit, after those of the host's own kind: what is of just this size first,
#: what drives or couples a whole train last; the others between
HARDWARE = "Hardware"
LIKELY = {HARDWARE: 0, "Shafts and pins": 0, "Cams": 2, "Couplings": 2, "Belts and chains": 2}
#: material left between a new bore and the edge of the plate, m
EDGE = 0.006


class GrowthRequest(BaseModel):
    """A number that a growth asks for."""

    path: str
    label: str
    text: str


class Sprout(BaseModel):
    """One thing that may grow on a datum; `command` makes it, with the numbers as they are."""

    id: str
    kind: str
    title: str
    element: str
    asks: list[GrowthRequest]
    command: dict[str, Any]
    pulls: bool = False
    rounded: list[RoundedPull] = []


def sprouts(
    document: Document, at: At, context: Context, only: str = "", values: Mapping[str, str] | None = None
) -> list[Sprout]:
    """All that may grow on a datum, the likeliest first. With `only`, that one alone, with the numbers asked for it."""
    soil = _Soil(document, at, context)
    host = element_of(document, at.placed).kind
    own = only.partition(":")[0]  # what is asked is asked of that one: others may ask another thing by the same name
    out = []
    for kind, growth in soil.growths(values or {}, own):
        id = f"{kind}: {growth.title}"
        if only in ("", id):
            try:
                command = soil.command(growth)
            except FormulaError as error:
                raise ValidationFailed(("values", str(error))) from error
            if command is not None:
                asks = [
                    GrowthRequest(path=k, label=k.replace("_", " ").capitalize(), text=v)
                    for k, v in growth.asks.items()
                ]
                data = command.model_dump(mode="json")
                out.append(
                    Sprout(id=id, kind=kind, title=growth.title, element=ELEMENTS[kind].title, asks=asks, command=data)
                )
    out.sort(key=lambda s: 0 if s.kind == host else 1 + LIKELY.get(ELEMENTS[s.kind].group, 1))
    out += _done_to_it(document, at, context, values or {}, only)
    if only and not out:
        raise ValidationFailed(("id", f"there is nothing to add here called {only!r}"))
    return out


def _done_to_it(document: Document, at: At, context: Context, values: Mapping[str, str], only: str) -> Iterator[Sprout]:
    """Build steps that may be done to the part at the face pointed at; with `only`, that one alone."""
    if at.placed not in document.placed or document.placed[at.placed].mirrored:
        return
    part = document.placed[at.placed].part
    face = part_datums.under(document, part, at.datum, context)
    if face is None:
        return
    if not only or only.startswith("pull:"):
        yield from (s for s in _pulled(document, at, part, face, values) if only in ("", s.id))
    for kind, step in STEPS.items():
        for offer in step.offers(face):
            if only not in ("", f"{kind}: {offer.title}"):
                continue
            data = offer.step.model_dump(mode="json")
            asks = []
            for path in offer.asks:
                *steps, last = path.split(".")
                holder = data
                for s in steps:
                    holder = holder[s]
                holder[last] = values.get(path, holder[last])
                asks.append(GrowthRequest(path=path, label=last.replace("_", " ").capitalize(), text=holder[last]))
            command = {"kind": "together", "words": f"{document.parts[part].name}: {offer.step.name} added",
                       "commands": [{"kind": "add_step", "part": part, "step": data}]}  # fmt: skip
            yield Sprout(
                id=f"{kind}: {offer.title}",
                kind=kind,
                title=offer.title,
                element=step.title,
                asks=asks,
                command=parse(command).model_dump(mode="json"),
                pulls=kind == "move_face",
            )


def _pulled(document: Document, at: At, part: str, face: Under, values: Mapping[str, str]) -> Iterator[Sprout]:
    """The numbers behind the face pointed at: each changed by how far the face is pulled."""
    scope = document.scope()
    try:
        by = scope.value(values.get("by") or "0 mm", "length")
        step = scope.value(values.get("step") or STEP, "length")
    except FormulaError as error:
        raise ValidationFailed(("values", str(error))) from error
    for number in behind(document, part, at.datum, face):
        asks = [
            GrowthRequest(path="by", label="Outward by", text=values.get("by") or "0 mm"),
            GrowthRequest(path="step", label="Round to steps of", text=values.get("step") or STEP),
        ]
        words = f"{document.parts[part].name}: {number.label} pulled"
        both = (
            ", both sides"
            if abs(number.factor) == 2 and face.kind == "plane"
            else ", this side"
            if number.shifts
            else ""
        )
        change = pulled(document, number, by)
        command = change if number.shifts else {"kind": "together", "words": words, "commands": [change]}
        yield Sprout(
            id=f"pull: {number.path}{', this side' if number.shifts else ''}", kind="pull", title=f"Pull it: {number.label}{both}", element="number", asks=asks,
            command=parse(command).model_dump(mode="json"), pulls=True,
            rounded=rounded(document, number.value, number.factor, by, step),
        )  # fmt: skip


def _beside(start: str, function: str, degrees: float, apart: str) -> str:
    """A coordinate so far along a direction from another."""
    factor = float(np.cos(np.radians(degrees)) if function == "cos" else np.sin(np.radians(degrees)))
    if abs(factor) < 1e-12:
        return start
    if abs(abs(factor) - 1) < 1e-12:
        return f"{start} {'+' if factor > 0 else '-'} {apart}"
    return f"{start} + {function}({degrees:g} deg) * {apart}"


class _Soil:
    """A datum of a document, and where everything stands at the start."""

    def __init__(self, document: Document, at: At, context: Context) -> None:
        self.document, self.at, self.context = document, at, context
        self.m: Mechanism = compile(document, context)
        if at.placed not in document.placed or at.datum not in self.m.datums.get(at.placed, {}):
            raise ValidationFailed(("at", f"there is no datum {at.datum!r} of a placed part {at.placed!r}"))
        try:
            self.pose = solve(self.m)
        except NotSolvable:
            self.pose = self.m.start
        self.scope = document.scope()
        self.datum = self.m.datum(at)
        self.here = poses.compose(self.m.part_pose(at.placed, self.pose), datum_frame(self.datum))
        self.frame = document.frame or ""
        plate = document.parts[document.placed[self.frame].part].element if self.frame else None
        self.plate = numbers(plate, self.scope) if isinstance(plate, FramePlate) else None
        self.frame_pose = self.m.part_pose(self.frame, self.pose)
        self.in_plate = poses.place(poses.inverse(self.frame_pose), self.here[:3])

    def growths(self, values: Mapping[str, str], only: str = "") -> Iterator[tuple[str, Growth]]:
        """What grows, by its kind; with `only`, of that kind alone."""
        stated = element_of(self.document, self.at.placed)
        ground = Ground(
            self.at.placed, self.at.datum, self.datum, stated, numbers(stated, self.scope), self.document.units.length,
            self._diameter, float(self.in_plate[2]), 0.0 if self.plate is None else self.plate.thickness, values, self._occupied,
            float(self.in_plate[0]), float(self.in_plate[1]), self._under, **self._face, scope=self._with(self._fresh),
        )  # fmt: skip
        for kind, element in ELEMENTS.items():
            if only and kind != only:
                continue
            try:
                offered = element.grows(ground)
            except (ValidationError, FormulaError, ValueError) as error:
                raise ValidationFailed(("values", str(error).splitlines()[0])) from error
            yield from ((kind, g) for g in offered)

    @cached_property
    def _face(self) -> dict[str, Any]:
        """The face pointed at, as build steps name it."""
        placed = self.document.placed[self.at.placed]
        face = (
            part_datums.under(self.document, placed.part, self.at.datum, self.context)
            if self.datum.kind == "plane"
            else None
        )
        if face is None or placed.mirrored:
            return {}
        return {"face_name": face.name, "face_x": face.x, "face_y": face.y, "face_across": face.across}

    @cached_property
    def _under(self) -> str:
        """The plate's bore on the axis of the datum."""
        upright = (
            abs(float(poses.rotate(poses.conjugate(self.frame_pose[3:]), poses.rotate(self.here[3:], np.eye(3)[2]))[2]))
            > 1 - 1e-9
        )
        bores = {} if self.plate is None or self.datum.kind != "axis" or not upright else self.plate.bores
        near = (i for i, b in bores.items() if np.hypot(b.x - self.in_plate[0], b.y - self.in_plate[1]) < 1e-6)
        return next(near, "")

    @property
    def _occupied(self) -> bool:
        """Whether a joint holds something at the datum already."""
        ends = [x for j in self.document.joints.values() for x in (j.a, j.b)]
        ends += [x for r in self.document.relations.values() for x in (r.a, r.b)]
        return self.at in ends

    @cached_property
    def _wide(self) -> tuple[str, str] | None:
        """The field that says how wide the bore or pin pointed at is: its path in the part, and its text; None where no one field does."""
        part = self.document.parts[self.document.placed[self.at.placed].part]
        step, dot, _ = self.at.datum.partition(".")
        bores = getattr(part.element, "bores", {})
        if self.at.datum in bores:
            return f"element.bores.{self.at.datum}.diameter", bores[self.at.datum].diameter
        if self.datum.kind != "axis" or not self.datum.radius or (dot and step not in part.steps):
            return None
        path, model = (f"steps.{step}", part.steps[step]) if dot else ("element", part.element)
        lengths = [(p, text) for p, text, mark in formulas(model, path) if mark.name == "length" and text]
        wide = [x for x in lengths if abs(self.scope.value(x[1], "length") - 2 * self.datum.radius) < 1e-9]
        named = [x for x in wide if x[0].rpartition(".")[2] in ("diameter", self.at.datum)]
        return named[0] if len(named) == 1 else wide[0] if len(wide) == 1 else None

    @property
    def _diameter(self) -> str:
        """The formula of the diameter of a bore or pin: the parameter that both parts share, made if there is none."""
        if self._wide is None:
            return ""
        text = self._wide[1]
        if names_in(text) & self.document.parameters.keys():
            return text if text in self.document.parameters else f"({text})"
        return self._shared

    @property
    def _shared(self) -> str:
        plate = self._wide is not None and ".bores." in self._wide[0]
        return new_id(f"{self.at.datum if plate else self.at.placed} d", self.document.parameters)

    @property
    def _fresh(self) -> dict[str, str]:
        """The parameter that would be made for the size pointed at, with its formula."""
        return {self._shared: self._wide[1]} if self._wide is not None and self._diameter == self._shared else {}

    def _with(self, more: Mapping[str, str]) -> Scope:
        """The document's scope with parameters that are not there yet."""
        if not more:
            return self.scope
        known = {k: p.formula for k, p in self.document.parameters.items()}
        units = self.document.units
        return Scope.of({**known, **more}, {"length": units.length, "mass": units.mass})

    def command(self, growth: Growth) -> SeveralCommands | None:
        """The command of a growth; None where it needs a bore in the plate and finds no room."""
        growth, named = self._named(growth)
        taken, ids = {**self.document.parts, **self.document.placed}, list[str]()
        commands: list[dict[str, Any]] = [{"kind": "set_parameter", "name": k, **v} for k, v in named.items()]
        commands += [
            {
                "kind": "add_step",
                "part": self.document.placed[self.at.placed].part,
                "step": step.model_dump(mode="json"),
            }
            for step in growth.done
        ]
        self.more = {k: v["formula"] for k, v in named.items()}
        for piece in growth.pieces:
            ids.append(new_id(piece.name, taken))
            taken[ids[-1]] = piece  # type: ignore[assignment]
        commands += self._parameter(growth)
        bore = ""
        if any(p.on == "frame" for p in growth.pieces):
            place = self._room(growth)
            if place is None:
                return None
            bore = new_id("bore", bores_and_posts(self.document, self.frame))
            x, y, way = place
            part = self.document.placed[self.frame].part
            path = f"parts.{part}.element"
            value = {**self._bore_at(growth, x, y, way), "diameter": growth.wide}
            commands += self._larger(path, x, y)
            commands.append({"kind": "set_value", "path": f"{path}.bores.{bore}", "value": value})
            turn = poses.turned(np.array([0.0, 0.0, way]))
            self.new_bore = poses.compose(self.frame_pose, np.concatenate([[x, y, 0.0], turn]))
        commands += self._pieces(growth, ids, bore)
        commands += self._ties(growth, ids, bore)
        words = f"grown: {growth.title[0].lower()}{growth.title[1:]}"
        combined = parse({"kind": "together", "commands": commands, "words": words})
        assert isinstance(combined, SeveralCommands)
        return combined

    def _bore_at(self, growth: Growth, x: float, y: float, way: float) -> dict[str, str]:
        """Where a new bore is, as fields: by the formula of its distance from the plate's bore under the ground, where both are known."""
        plate = self.document.parts[self.document.placed[self.frame].part].element
        if not growth.apart or not self._under or not isinstance(plate, FramePlate):
            return {"x": self._text(x), "y": self._text(y)}
        under, degrees = plate.bores[self._under], round(float(np.degrees(way)), 6)
        return {
            "x": _beside(under.x, "cos", degrees, growth.apart),
            "y": _beside(under.y, "sin", degrees, growth.apart),
        }

    def _named(self, growth: Growth) -> tuple[Growth, dict[str, dict[str, str]]]:
        """The growth with parameters in the place of the numbers that steps and pieces share, and those parameters; with the
        ids that its build steps get."""
        if not growth.done:
            return growth, {}
        steps = self.document.parts[self.document.placed[self.at.placed].part].steps
        ids = {new_id(s.name, {}): new_id(s.name, {**steps, "element": None}) for s in growth.done}
        names = {
            k: new_id(f"{growth.pieces[0].name} {k}", self.document.parameters) for k in growth.shared
        }  # of a piece
        swap = {f"${k}": v for k, v in (ids | names).items()}

        def put(value: Any) -> Any:
            if isinstance(value, dict):
                return {k: put(v) for k, v in value.items()}
            for mark, name in sorted(swap.items(), reverse=True):
                value = value.replace(mark, name) if isinstance(value, str) else value
            return value

        pieces = tuple(
            replace(
                p,
                element=type(p.element).model_validate(put(p.element.model_dump(mode="json"))),
                joint=put(dict(p.joint)),
                at=put(p.at),
            )
            for p in growth.pieces
        )
        done = tuple(type(s).model_validate(put(s.model_dump(mode="json"))) for s in growth.done)
        renamed = {
            names[k]: {"formula": v, "note": f"{growth.title[0].lower()}{growth.title[1:]}: {k}"}
            for k, v in growth.shared.items()
        }
        return replace(growth, pieces=pieces, done=done), renamed

    def _text(self, si: float) -> str:
        return f"{round(si * 1e3, 7):.12g} mm"

    def _parameter(self, growth: Growth) -> list[dict[str, Any]]:
        """The parameter for the size that bore and shaft share, where the growth uses one that is not there yet."""
        name = self._shared
        used = any(re.search(rf"\b{name}\b", str(p.element)) for p in growth.pieces)
        if self._wide is None or not used or self._diameter != name:
            return []
        path, text = self._wide
        at = f"parts.{self.document.placed[self.at.placed].part}.{path}"
        about = (
            f"{self.at.datum} and what runs in it"
            if ".bores." in path
            else f"{self.document.placed[self.at.placed].name} and what fits it"
        )
        return [
            {"kind": "set_parameter", "name": name, "formula": text, "note": about},
            {"kind": "set_value", "path": at, "value": name},
        ]

    def _room(self, growth: Growth) -> tuple[float, float, float] | None:
        """Where in the plate a new bore has room, so far from the ground, and in which direction, rad. The plate may be made
        larger for it towards x and y."""
        assert self.plate is not None
        r = self.scope.value(growth.wide, "length") / 2 + EDGE
        others = [(b.x, b.y, b.diameter / 2) for b in (*self.plate.bores.values(), *self.plate.posts.values())]
        x_axis = poses.rotate(poses.conjugate(self.frame_pose[3:]), poses.rotate(self.here[3:], np.array([1.0, 0, 0])))
        first = float(np.arctan2(x_axis[1], x_axis[0]))
        fits: list[tuple[float, int, tuple[float, float, float]]] = []
        ways = [first + turn for turn in (WAYS[:1] if growth.straight else WAYS)]
        for way in ways if growth.direction is None else [growth.direction]:
            x, y = self.in_plate[0] + np.cos(way) * growth.away, self.in_plate[1] + np.sin(way) * growth.away
            if x > r and y > r and all(np.hypot(x - u, y - v) > r + s for u, v, s in others):
                over = max(0.0, x + r - self.plate.length, y + r - self.plate.width)
                fits.append((over, len(fits), (float(x), float(y), way)))
        return min(fits)[2] if fits else None

    def _larger(self, path: str, x: float, y: float) -> Iterator[dict[str, Any]]:
        assert self.plate is not None
        for name, at, size in (("length", x, self.plate.length), ("width", y, self.plate.width)):
            if at + 2 * EDGE > size:
                yield {"kind": "set_value", "path": f"{path}.{name}", "value": self._text(at + 2 * EDGE)}

    def _pieces(self, growth: Growth, ids: list[str], bore: str) -> list[dict[str, Any]]:
        out: list[dict[str, Any]] = []
        frames: list[Array] = []
        host = self.document.parts[self.document.placed[self.at.placed].part].material
        usual = next(iter(self.document.materials))
        scope = self._with({p["name"]: p["formula"] for p in self._parameter(growth)[:1]} | self.more)
        for piece, id in zip(growth.pieces, ids, strict=True):
            n = numbers(piece.element, scope)
            own = of(n).datums(n)[piece.by]
            base = self._base(growth, piece, frames, scope)
            shift = scope.value(str(piece.joint.get("offset", "0 mm")), "length")
            turn = np.concatenate([[0.0, 0.0, shift], poses.turned(np.array([0.0, 0.0, piece.turn]))])
            if piece.joint.get("flip"):
                turn = poses.compose(turn, np.array([0.0, 0, 0, 0, 1, 0, 0]))
            at = poses.compose(poses.compose(base, turn), poses.inverse(datum_frame(own)))
            frames.append(at)
            element = piece.element.model_dump(mode="json")
            out.append({
                "kind": "add_part", "id": id, "part": {"name": self._name(piece.name, id), "material": usual if of(n).group == HARDWARE else host, "element": element},
                "start": start_fields(self.document, at),
            })  # fmt: skip
            if piece.place is not None:
                continue
            a = self._end(piece.on, piece.at, ids, bore)
            joint = {
                "name": f"{self._name(piece.name, id)} on {self._called(piece, growth, ids)}",
                "a": a,
                "b": {"placed": id, "datum": piece.by},
            }
            out.append({"kind": "add_joint", "joint": {**joint, **piece.joint}})
        return out

    def _end(self, on: str, datum: str, ids: list[str], bore: str) -> dict[str, str]:
        if on == "":
            return {"placed": self.at.placed, "datum": datum if "." in datum else self.at.datum}
        if on == "under":
            return {"placed": self.frame, "datum": self._under}
        return {"placed": self.frame, "datum": bore} if on == "frame" else {"placed": ids[int(on)], "datum": datum}

    def _base(self, growth: Growth, piece: GrownPart, frames: list[Array], scope: Any) -> Array:
        if piece.place is not None:
            return poses.compose(self.frame_pose, np.concatenate([piece.place, poses.IDENTITY[3:]]))
        if piece.on == "":
            return self.here
        if piece.on == "frame":
            return self.new_bore
        if piece.on == "under":
            return poses.compose(self.frame_pose, datum_frame(self.m.datums[self.frame][self._under]))
        n = numbers(growth.pieces[int(piece.on)].element, scope)
        return poses.compose(frames[int(piece.on)], datum_frame(of(n).datums(n)[piece.at]))

    def _name(self, name: str, id: str) -> str:
        """The name, with the number that its id has got."""
        number = id.rpartition("_")[2]
        return f"{name} {number}" if number.isdigit() else name

    def _called(self, piece: GrownPart, growth: Growth, ids: list[str]) -> str:
        if piece.on == "":
            return self.document.placed[self.at.placed].name
        if piece.on in ("frame", "under"):
            return self.document.placed[self.frame].name
        return self._name(growth.pieces[int(piece.on)].name, ids[int(piece.on)])

    def _ties(self, growth: Growth, ids: list[str], bore: str) -> Iterator[dict[str, Any]]:
        for tie in growth.ties:
            a, b = (
                self.at.model_dump()
                if on == ""
                else {"placed": self.frame if on == "frame" else ids[int(on)], "datum": datum or bore}
                for on, datum in (tie.a, tie.b)
            )
            names = [
                self.document.placed[x["placed"]].name
                if x["placed"] in self.document.placed
                else x["placed"].replace("_", " ").capitalize()
                for x in (a, b)
            ]
            if tie.joint is not None:
                yield {"kind": "add_joint", "joint": {"name": f"{names[1]} on {names[0]}", "a": a, "b": b, **tie.joint}}
            elif tie.relation is not None:
                name = f"{names[1]} {tie.relation['kind']} to {names[0]}, {tie.b[1]}"
                yield {"kind": "add_relation", "relation": {"name": name, "a": a, "b": b, **tie.relation}}
            elif PAIRS[tie.pair].made_of is not None:
                name = f"{names[0]} drives {names[1]}"
                yield {"kind": "add_pair", "pair": {"kind": tie.pair, "name": name, "a": a["placed"], "b": b["placed"]}}
            else:
                words = {"slot": "{} in slot of {}", "cam": "{} moves {}"}.get(tie.pair, "Spring between {} and {}")
                yield {
                    "kind": "add_pair",
                    "pair": {"kind": tie.pair, "name": words.format(*names), "a": a, "b": b, **tie.more},
                }


def bores_and_posts(document: Document, placed: str) -> dict[str, Bore | Post]:
    """The bores and posts that the plate has, by id."""
    element = document.parts[document.placed[placed].part].element
    return {**getattr(element, "bores", {}), **getattr(element, "posts", {})}


__all__ = ["Sprout", "sprouts"]
