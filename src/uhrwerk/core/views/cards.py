"""Cards: the numbers of every item that can be selected, each with its path, formula and value."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import suppress
from typing import NotRequired, get_args

import numpy as np
from pydantic import JsonValue
from pydantic.fields import FieldInfo
from typing_extensions import TypedDict

from uhrwerk.core.document import Document, ValidationFailed, dimension_of, formulas
from uhrwerk.core.document.document import Group, Measured
from uhrwerk.core.document.repeat import original_of
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.elements import Element
from uhrwerk.core.evaluation.values import Value, uses, values
from uhrwerk.core.field import (
    AnyDimension,
    Dimension,
    Kinds,
    Model,
    Numbers,
    SeveralLines,
    ShownAsWritten,
    choices,
    evaluated,
    numbers,
    reference_of,
)
from uhrwerk.core.field.ref import CornerOf, EarlierStep, FaceOf, NumberOf
from uhrwerk.core.joints import JOINTS, At
from uhrwerk.core.outlines import Unfit, outline_data
from uhrwerk.core.outlines.polyline import polylines
from uhrwerk.core.part import part_datums
from uhrwerk.core.quantity import DIMENSIONS, FormulaError, Scope, display, is_plain, names_in
from uhrwerk.core.quantity.units import dimension_of as kind_of
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.steps import BuildStep
from uhrwerk.core.views.measuring import measures
from uhrwerk.core.views.scene import DatumShown, datum_data, labels_of

#: fields of a part that say what was found on the real thing
FOUND = ("measured_mass", "centre_x", "centre_y", "centre_z")


class FieldShown(TypedDict):
    """A field of an item: its path in the document, its text, its value in words. `kind` is formula, switch, choice,
    text, lines, reference, datum, step, corner, number, face, members (those of `options` are), or a heading over those of one detail."""

    path: str
    label: str
    text: str | bool
    value: str
    kind: str
    unit: NotRequired[str]
    about: NotRequired[str]
    options: NotRequired[list[str]]
    names: NotRequired[dict[str, str]]
    of: NotRequired[str]
    collection: NotRequired[str]


class MoveShown(TypedDict):
    """A number that a handle moves: its path, along which axis, by how much for one of the way; its value, m. `fixed`: its formula
    is no plain number, so the handle leaves it."""

    path: str
    axis: str
    factor: float
    si: float
    fixed: bool


class HandleShown(TypedDict):
    """A point by which an outline is drawn, on the step's plane, m."""

    name: str
    at: list[float]
    moves: list[MoveShown]


class StepShown(TypedDict):
    """A build step of a part: `state` is off, failed, waits, or nothing where it was done; `more` are fields to which details
    can be added, each with what a new one starts from. `plane` is its plane's origin, x and y in the part, m; `loops`
    are the lines of its outline there, m."""

    id: str
    path: str
    kind: str
    name: str
    title: str
    about: str
    state: str
    why: str
    fields: list[FieldShown]
    results: list[list[str]]
    more: dict[str, JsonValue]
    plane: list[list[float]]
    handles: list[HandleShown]
    loops: list[list[list[float]]]


class Card(TypedDict):
    """What is known of an item: its fields, and results as pairs of name and value. `maps` are fields to which details can
    be added, each with what a new one starts from; `found` those for what was found on the real thing; `offer` is a value that a field may be set to, with words;
    `ends` where it takes hold, and `places` the fields that move it beside those datums."""

    title: str
    about: str
    fields: list[FieldShown]
    results: list[list[str]]
    name: NotRequired[str]
    start: NotRequired[list[FieldShown]]
    found: NotRequired[list[FieldShown]]
    placed: NotRequired[str]
    maps: NotRequired[dict[str, dict[str, str]]]
    steps: NotRequired[list[StepShown]]
    part: NotRequired[str]
    material: NotRequired[str]
    colour: NotRequired[str]
    stale: NotRequired[str]
    freedom: NotRequired[str]
    reverse: NotRequired[dict[str, str]]
    more: NotRequired[dict[str, JsonValue]]
    offer: NotRequired[dict[str, str]]
    places: NotRequired[list[FieldShown]]
    ends: NotRequired[list[JointEndShown]]


def fields_of(document: Document, model: Model, path: str, scope: Scope) -> list[FieldShown]:
    """The fields of one item, each with its path, text and value: formulas, numbers, choices, names, and what it refers to."""
    return list(_fields(document, type(model), model, path, scope))


class JointEndShown(TypedDict):
    """Where an item takes hold: a placed part, and the datum there, moved if it lies beside one."""

    placed: str
    datum: DatumShown


def _places(e: Evaluation, item: Model, path: str) -> list[FieldShown]:
    """The fields that move the ends of an item beside their datums."""
    out: list[FieldShown] = []
    for name, at in _ends_of(item):
        where = e.document.placed[at.placed].name if at.placed in e.document.placed else at.placed
        fields = (f for f in fields_of(e.document, at, f"{path}.{name}", e.document.scope()) if f["kind"] == "formula")
        out += [f | {"label": f"{where}: {f['label']}"} for f in fields]  # type: ignore[misc]
    return out


def _joint_ends(e: Evaluation, item: Model) -> list[JointEndShown]:
    m = e.mechanism
    if m is None:
        return []
    return [
        {"placed": at.placed, "datum": datum_data(e.document, at.datum, m.datum(at), labels_of(e)[at.placed][at.datum])}
        for _, at in _ends_of(item)
        if at.datum in m.datums.get(at.placed, {})
    ]


def _ends_of(item: Model) -> list[tuple[str, At]]:
    return [(name, at) for name in type(item).model_fields if isinstance(at := getattr(item, name), At)]


def blank_fields(document: Document, kind: type[Model]) -> list[FieldShown]:
    """The fields of a kind of item that is not there yet, with their defaults."""
    return list(_fields(document, kind, None, "", document.scope()))


def _fields(
    document: Document, kind: type[Model], model: Model | None, path: str, scope: Scope
) -> Iterator[FieldShown]:
    for name, field in kind.model_fields.items():
        if name in _UNSHOWN:
            continue
        default = "" if field.is_required() else field.get_default(call_default_factory=True)
        item, at = default if model is None else getattr(model, name), f"{path}.{name}" if path else name
        mark, refers = dimension_of(field), reference_of(kind, name)
        face = next((m for m in field.metadata if isinstance(m, FaceOf)), None)
        shown: FieldShown = {"path": at, "label": field.title or _label(name), "text": "", "value": "", "kind": "text"}
        if mark is not None:
            shown |= {
                "kind": "formula",
                "text": str(item),
                "value": _value(document, item, mark, scope),
                "unit": document.unit_of(mark.name),
            }
        elif refers is not None:
            if isinstance(item, list):
                shown |= {"kind": "members", "options": [str(i) for i in item], "collection": refers.collection}
            else:
                shown |= {"kind": "reference", "text": item or "", "collection": refers.collection}
        elif face is not None:
            shown |= {"kind": "face", "text": item, "options": ["xy", "xz", "yz"] if face.planes else [""]}
            shown |= {"of": getattr(model, "part", "") if face.beside else ""}
        elif any(isinstance(m, NumberOf) for m in field.metadata):
            shown |= {"kind": "number", "text": item}
        elif any(isinstance(m, EarlierStep | CornerOf) for m in field.metadata):
            of_step = any(isinstance(m, EarlierStep) for m in field.metadata)
            shown |= {"kind": "step" if of_step else "corner", "text": item}
        elif any(isinstance(m, AnyDimension | ShownAsWritten) for m in field.metadata):
            shown |= {"text": item}
        elif any(isinstance(m, SeveralLines) for m in field.metadata):
            shown |= {"kind": "lines", "text": item}
        elif isinstance(item, bool):
            shown |= {"kind": "switch", "text": item}
        elif options := choices(field):
            shown |= {"kind": "choice", "text": str(item), "options": list(options)}
        elif (
            isinstance(item, At)
            or (model is None and field.annotation is At)
            or (model is not None and field.annotation == (At | None))
        ):
            shown |= {"kind": "datum", "text": f"{item.placed}/{item.datum}" if isinstance(item, At) else ""}
            if model is not None and name in _ENDS:
                shown["label"] = _ENDS[name]
        elif isinstance(item, Of):
            body = f"/{item.body}" if item.body else ""
            shown |= {"path": f"{at}.placed", "kind": "reference", "collection": "placed", "text": item.placed + body}
        elif isinstance(item, Model) and model is not None:
            kinds = next((m for m in field.metadata if isinstance(m, Kinds)), None)
            if kinds is not None:
                yield {**shown, "kind": "kinds", "text": item.kind, "names": {k: m.title for k, m in kinds.items()}}  # type: ignore[attr-defined]
                yield from _fields(document, type(item), item, at, scope)
            continue
        elif isinstance(item, dict):
            yield from _several(document, item, name, _kinds_of_items(field), at, scope)
            continue
        elif model is None and isinstance(field.annotation, type) and issubclass(field.annotation, Model):
            inner_fields = blank_fields(document, field.annotation)
            for inner in inner_fields:
                label = field.title or _label(name)
                label = label if len(inner_fields) == 1 else f"{label} {inner['label'].lower()}"
                yield inner | {"path": f"{at}.{inner['path']}", "label": label}  # type: ignore[misc]
            continue
        else:
            continue
        yield shown


#: what one of several things is called, where it is not its field without the last letter
ITEMS = {"of": "outline", "spots": "point", "runs": "piece", "open": "opening"}
#: ids that say nothing
_NUMBERED = re.compile(r"[a-z](_?[0-9]+)?|[a-z]+_?[0-9]+")


def item_word(field: str) -> str:
    """What one of the things in a field is called."""
    return ITEMS.get(field) or field.removesuffix("s").replace("_", " ")


def _several(
    document: Document, items: dict[str, object], field: str, kinds: Kinds[Model] | None, path: str, scope: Scope
) -> Iterator[FieldShown]:
    """The fields of several things under one name, each below a heading; with its kind where there are several."""
    for number, (k, inner) in enumerate(items.items(), 1):
        if not isinstance(inner, Model):
            continue
        at = f"{path}.{k}"
        label = f"{item_word(field)} {number}" if _NUMBERED.fullmatch(k) else k.replace("_", " ")
        yield {"path": at, "label": label, "text": "", "value": "", "kind": "heading"}
        if kinds is not None:
            yield {
                "path": at, "label": "Kind", "text": inner.kind, "value": "", "kind": "kinds",  # type: ignore[attr-defined]
                "names": {i: m.title for i, m in kinds.items()},  # type: ignore[attr-defined]
            }  # fmt: skip
        yield from _fields(document, type(inner), inner, at, scope)


#: what the two ends of a joint are called, as where it is made
_ENDS = {"a": "From", "b": "To"}
#: told elsewhere than among the fields
_UNSHOWN = {"kind", "name", "contents"}


def _label(name: str) -> str:
    return name.replace("_", " ").capitalize()


def _value(document: Document, text: str, mark: Dimension, scope: Scope) -> str:
    try:
        return "open" if mark.open and not text else document.display(*evaluated(text, mark, scope)) if text else ""
    except FormulaError as error:
        return str(error)


def cards(e: Evaluation) -> dict[str, Card]:
    """A card for every item that can be selected, by its path."""
    document, scope = e.document, e.document.scope()
    known = values(e)
    out: dict[str, Card] = {}
    for i in document.placed:
        out[f"placed.{i}"] = _of_part(e, i, known[f"placed.{i}"])
    for collection, what in (("joints", "joint"), ("relations", "relation"), ("pairs", "pair")):
        for i, item in getattr(document, collection).items():
            stated = getattr(e.stated, collection)[original_of(i)]
            path = f"{collection}.{original_of(i)}"
            out[f"{collection}.{i}"] = {
                "title": item.name, "name": "" if "__" in i else f"{path}.name", "about": f"{item.kind.replace('_', ' ')} {what}",
                "fields": fields_of(document, stated, path, scope), "results": rows(document, known[f"{collection}.{i}"]), "freedom": _combined_joint(e, i),
                "places": _places(e, stated, path), "ends": _joint_ends(e, item),
            }  # fmt: skip
    for i, group in document.groups.items():
        out[f"groups.{i}"] = {
            "title": group.name, "name": f"groups.{i}.name", "about": f"group of {len(group.placed)} parts",
            "fields": [
                *fields_of(document, group, f"groups.{i}", scope),
                *(_parameter_field(document, n, n) for n in _parameters_of(document, group)),
            ],
            "results": rows(document, known[f"groups.{i}"], _NOT_ROWS - {"Mass"}),
        }  # fmt: skip
    for i, repeat in e.stated.repeats.items():
        out[f"repeats.{i}"] = {
            "title": repeat.name, "name": f"repeats.{i}.name", "about": REPEATS[repeat.kind],
            "fields": fields_of(document, repeat, f"repeats.{i}", scope), "results": rows(document, known[f"repeats.{i}"]),
            "places": _places(e, repeat, f"repeats.{i}"), "ends": _joint_ends(e, repeat),
        }  # fmt: skip
    for i, material in document.materials.items():
        users = [p.name for p in document.parts.values() if p.material == i]
        out[f"materials.{i}"] = {
            "title": material.name, "name": f"materials.{i}.name", "about": f"material of {', '.join(users) or 'no part'}",
            "fields": fields_of(document, material, f"materials.{i}", scope), "results": [],
        }  # fmt: skip
    return out | _of_motion(e, known) | _of_parameters(e)


def _of_part(e: Evaluation, i: str, known: list[Value]) -> Card:
    document, scope, placed = e.document, e.document.scope(), e.document.placed[i]
    part, copied = document.parts[placed.part], "__" in i
    mass = f" · {document.display(e.part_mass[i], 'mass')}" if i in e.part_mass else ""
    about = f"{part.element.title.lower()} · {document.materials[part.material].name.lower()}{mass}"
    about += f" · copy of {document.placed[original_of(i)].name}" if copied else ""
    own = f"parts.{placed.part}"
    element = f"{own}.element"
    fields = [f for f in fields_of(document, part, own, scope) if f["path"].removeprefix(f"{own}.") in FOUND]
    return {
        "steps": _steps(e, placed.part, placed.mirrored), "part": placed.part, "material": part.material, "colour": part.colour,
        "title": placed.name, "name": "" if copied else f"placed.{i}.name", "about": about, "placed": "" if copied else i,
        "fields": fields_of(document, part.element, element, scope), "found": fields, "maps": {f"{element}.{k}": blank.model_dump() for k, blank in part.element.blanks.items()},
        "start": [] if copied else fields_of(document, placed.start, f"placed.{i}.start", scope), "results": rows(document, known),
    }  # fmt: skip


def _steps(e: Evaluation, part: str, image: bool) -> list[StepShown]:
    document, scope = e.document, e.document.scope()
    failed = {p.path: p.words for p in e.problems if p.path.startswith(f"parts.{part}.steps.")}
    out: list[StepShown] = []
    waits = False
    for i, step in document.parts[part].steps.items():
        path = f"parts.{part}.steps.{i}"
        why = failed.get(path, "")
        state = "off" if step.off else "failed" if why else "waits" if waits else ""
        waits = waits or bool(why)
        unseen = {f"{path}.{name}" for name in {"off"} | step.idle()}
        out.append({
            "id": i, "path": path, "kind": step.kind, "name": step.name, "title": step.title, "about": step.about, "state": state, "why": why,
            "fields": [f for f in fields_of(document, step, path, scope) if f["path"] not in unseen],
            "results": [row(document, Value(*v)) for v in step.derived(numbers(step, scope))],
            "more": dict(_more(step, path)), **(_UNDRAWN if image else _drawing(e, part, step, path)),
        })  # fmt: skip
    return out


class _StepDrawing(TypedDict):
    plane: list[list[float]]
    handles: list[HandleShown]
    loops: list[list[list[float]]]


#: of a step without a plane, and of an image behind a plane: it is drawn on its original
_UNDRAWN: _StepDrawing = {"plane": [], "handles": [], "loops": []}


def _drawing(e: Evaluation, part: str, step: BuildStep, path: str) -> _StepDrawing:
    """The handles of a step and the lines of its outline, with the plane on which they lie; none where that is not known."""
    n = numbers(step, e.document.scope())
    handles, plane = step.handles(n), getattr(n, "plane", "")
    axes = part_datums.plane_axes(part_datums.datums(e.document, part, e.context), plane) if plane else None
    if axes is None:
        return _UNDRAWN
    origin, x, z = axes
    loops: list[list[list[float]]] = []
    if hasattr(n, "outline"):
        with suppress(Unfit):
            loops = polylines(outline_data(n.outline))
    texts = {p: text for p, text, _ in formulas(step)}
    frame = [(origin + n.offset * z).tolist(), x.tolist(), np.cross(z, x).tolist()]
    scope = e.document.scope()
    return {"plane": frame, "loops": loops, "handles": [
        {"name": h.name, "at": [h.x, h.y], "moves": [
            {"path": f"{path}.{f}", "axis": a, "factor": k, "si": scope.value(texts[f], "length"), "fixed": not is_plain(texts[f])}
            for f, a, k in h.moves
        ]} for h in handles
    ]}  # fmt: skip


def _more(model: Model, path: str) -> Iterator[tuple[str, JsonValue]]:
    """Fields below a model that hold several things, each with what one more starts from."""
    for name, field in type(model).model_fields.items():
        item = getattr(model, name)
        if isinstance(item, Model):
            yield from _more(item, f"{path}.{name}")
        elif isinstance(item, dict) and not item and (kinds := _kinds_of_items(field)) is not None:
            yield f"{path}.{name}", next(iter(kinds.values()))().model_dump(mode="json")
        elif isinstance(item, dict) and item and all(isinstance(v, Model) for v in item.values()):
            yield f"{path}.{name}", list(item.values())[-1].model_dump(mode="json")
            for k, inner in item.items():
                yield from _more(inner, f"{path}.{name}.{k}")


def _kinds_of_items(field: FieldInfo) -> Kinds[Model] | None:
    """The kinds that the members of a field that holds several things may be of."""
    for inner in get_args(field.annotation):
        for mark in getattr(inner, "__metadata__", ()):
            if isinstance(mark, Kinds):
                return mark
    return None


def _of_motion(e: Evaluation, known: dict[str, list[Value]]) -> dict[str, Card]:
    """Cards of drivers, of the cycle, of curves, of requirements."""
    document, scope = e.document, e.document.scope()
    out: dict[str, Card] = {}
    for i, driver in document.drivers.items():
        out[f"drivers.{i}"] = {
            "title": driver.name, "name": f"drivers.{i}.name", "about": f"drives {(document.joints | document.relations)[driver.joint].name}",
            "fields": fields_of(document, driver, f"drivers.{i}", scope), "results": [],
            "reverse": {f"drivers.{i}.{field}": text for field, text in driver.reverse().items()},
            "more": dict(_more(driver, f"drivers.{i}")),
        }  # fmt: skip
    out["units"] = {
        "title": "Units", "about": "in which lengths and masses are shown, and a number without a unit is read",
        "fields": fields_of(document, document.units, "units", scope), "results": [],
    }  # fmt: skip
    fields = fields_of(document, document.cycle, "cycle", scope)
    out["cycle"] = {"title": "Cycle", "about": "one master cycle", "fields": fields, "results": []} | _repeating(e)  # type: ignore[assignment]
    for i, curve in document.curves.items():
        out[f"curves.{i}"] = {
            "title": curve.name, "name": f"curves.{i}.name", "about": f"curve {i}: {type(curve).title.lower()}",
            "fields": fields_of(document, curve, f"curves.{i}", scope), "results": rows(document, known[f"curves.{i}"]),
        }  # fmt: skip
    for i, requirement in document.requirements.items():
        basis = e.verdicts[i].basis
        out[f"requirements.{i}"] = {
            "title": requirement.name, "name": f"requirements.{i}.name", "about": "requirement",
            "fields": fields_of(document, requirement, f"requirements.{i}", scope), "results": [["Determined by", basis]] if basis else [],
        }  # fmt: skip
    return out


def _repeating(e: Evaluation) -> dict[str, object]:
    """After how long everything repeats, as far as the motion was followed, and the offer to let the cycle last so long."""
    period = e.motion.track.period if e.motion is not None else None
    if period is None:
        return {}
    card: dict[str, object] = {"results": [row(e.document, Value("Everything repeats after", period, "time", 6))]}
    if abs(e.document.scope().value(e.document.cycle.duration, "time") / period - 1) > 1e-9:
        card["offer"] = {
            "path": "cycle.duration",
            "value": f"{float(f'{period:.12g}')!r} s",
            "words": "Set the cycle to this",
        }
    return card


def _parameter_field(document: Document, name: str, label: str) -> FieldShown:
    return {
        "path": f"parameters.{name}.formula", "label": label, "text": document.parameters[name].formula, "kind": "formula",
        "value": _parameter_value(document, document.scope(), name),
    }  # fmt: skip


def _parameters_of(document: Document, group: Group) -> list[str]:
    """The parameters that the sizes of a group's parts are stated by, in the document's order."""
    designs = [document.parts[document.placed[p].part].element for p in group.placed if p in document.placed]
    used = {n for element in designs for _, text, _ in formulas(element) if text for n in names_in(text)}
    return [n for n in document.parameters if n in used]


def _of_parameters(e: Evaluation) -> dict[str, Card]:
    document, out = e.document, {}
    every = uses(document)
    for name, parameter in document.parameters.items():
        used = f"{every[name]} field{'s' * (every[name] != 1)}"
        card: Card = {
            "title": name,
            "about": parameter.note or "parameter",
            "results": [["Used by", used]],
            "fields": [_parameter_field(document, name, "Formula")],
        }
        if parameter.measured is not None:
            card["results"] += _since_measured(e, name, parameter.measured, card)
        out[f"parameters.{name}"] = card
    return out


#: a measure that differs by no more is the same, SI
SAME = 2e-8


def _since_measured(e: Evaluation, name: str, measured: Measured, card: Card) -> list[list[str]]:
    """What a parameter was measured from, and what it would be now."""
    document, m = e.document, e.mechanism
    ends = [
        f"{document.placed[at.placed].name}, {labels_of(e)[at.placed].get(at.datum, at.datum)}"
        if at.placed in document.placed
        else at.placed
        for at in (measured.a, measured.b)
    ]
    table = [["Measured", measured.what.lower()], ["From", ends[0]], ["To", ends[1]]]
    try:
        pose = e.pose if e.pose is not None else m.start if m is not None else None
        if m is None or pose is None:
            raise ValidationFailed(("a", ""))
        now = next(x for x in measures(document, m, pose, measured.a, measured.b) if x["name"] == measured.what)
    except (ValidationFailed, StopIteration):
        return [*table, ["Now", "what it was measured from no longer exists"]]
    was = float(document.scope().values[name].to_base_units().magnitude)
    if abs(was - now["si"]) > SAME:
        card["stale"] = now["formula"]
        table.append(["Now", f"{now['value']}: it no longer agrees"])
    return table


def _parameter_value(document: Document, scope: Scope, name: str) -> str:
    q = scope.values[name]
    kind = kind_of(q)
    return document.display(float(q.to_base_units().magnitude), kind) if kind in DIMENSIONS else str(q)


def derived_results(document: Document, about: type[Element], n: Numbers) -> list[list[str]]:
    if about.faults(n):
        return []
    return [row(document, Value(label.replace("_", " "), v, dim)) for label, v, dim in about.derived(n)]


def row(document: Document, v: Value) -> list[str]:
    """A value as a card shows it."""
    if v.dimension == "text":
        return [v.name, v.value]
    unit = document.unit_of(v.dimension)

    def one(si: float) -> str:
        return display(si, v.dimension, unit, v.digits) if v.digits is not None else document.display(si, v.dimension)

    if isinstance(v.value, tuple):
        return [v.name, " … ".join(one(x) for x in v.value)]
    if isinstance(v.value, np.ndarray):
        return [v.name, ", ".join(one(float(x)) for x in v.value)]
    return [v.name, one(v.value)]


#: what a card tells elsewhere, or not at all
_NOT_ROWS = {
    "Mass",
    "Centre of gravity",
    "Inertia",
    "Principal inertia",
    "Value",
    "Error",
    "Limit",
    "Moment",
    "Range at",
    "Rate at",
    "Acceleration at",
    "Jerk at",
}


def rows(document: Document, values: list[Value], without: frozenset[str] | set[str] = _NOT_ROWS) -> list[list[str]]:
    return [row(document, v) for v in values if v.name not in without]


REPEATS = {
    "ring": "repeated round an axis", "row": "repeated along a line", "mirror": "mirrored behind a plane", "copy": "used again",
}  # fmt: skip


def _combined_joint(e: Evaluation, i: str) -> str:
    """What a relation makes together with others of the same two parts."""
    resolved = e.mechanism.joints.get(i)
    if resolved is None or not resolved.by:
        return ""
    names = [e.document.placed[p].name for p in (resolved.part, resolved.on)]
    return f"{' and '.join(dict.fromkeys(resolved.by))}: {names[0]} {JOINTS[resolved.kind].does} against {names[1]}"
