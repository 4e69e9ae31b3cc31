"""Cards: the numbers of every item that can be selected, each with its path, formula and value."""

from __future__ import annotations

from typing import Any, Literal, get_args, get_origin

from pydantic import BaseModel

from uhrwerk.core import elements
from uhrwerk.core.checks import Evaluation
from uhrwerk.core.document import Document, dimension_of, formulas
from uhrwerk.core.document.repeat import original_of
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints import JOINTS
from uhrwerk.core.quantity import DIMENSIONS, FormulaError, Scope, display, names_in
from uhrwerk.core.quantity.units import dimension_of as kind_of
from uhrwerk.core.values import Value, values


def fields_of(document: Document, model: BaseModel, path: str, scope: Scope) -> list[dict[str, Any]]:
    """The formula fields, numbers and choices of one item, each with its path, text and value."""
    out: list[dict[str, Any]] = []
    for name, field in type(model).model_fields.items():
        item, at = getattr(model, name), f"{path}.{name}"
        label = name.replace("_", " ").capitalize()
        mark = dimension_of(field)
        if mark is not None:
            try:
                value = "open" if mark.open and not item else document.shown(scope.value(item, mark.name), mark.name)
            except FormulaError as error:
                value = str(error)
            out.append({"path": at, "label": label, "text": item, "value": value, "kind": "formula"})
        elif isinstance(item, bool):
            out.append({"path": at, "label": label, "text": item, "value": "", "kind": "switch"})
        elif isinstance(item, int):
            out.append({"path": at, "label": label, "text": str(item), "value": "", "kind": "integer"})
        elif get_origin(field.annotation) is Literal and name != "kind":
            options = list(get_args(field.annotation))
            out.append({"path": at, "label": label, "text": item, "value": "", "kind": "choice", "options": options})
        elif isinstance(item, dict) and item and isinstance(next(iter(item.values())), BaseModel):
            for k, inner in item.items():
                out.append(
                    {"path": f"{at}.{k}", "label": k.replace("_", " "), "text": "", "value": "", "kind": "heading"}
                )
                out += fields_of(document, inner, f"{at}.{k}", scope)
    return out


def cards(e: Evaluation) -> dict[str, dict[str, Any]]:
    """A card for every item that can be selected, by its path."""
    document = e.document
    scope = document.scope()
    known = values(e)
    out: dict[str, dict[str, Any]] = {}
    for i, placed in document.placed.items():
        part = document.parts[placed.part]
        fields = fields_of(document, part.element, f"parts.{placed.part}.element", scope)
        about = elements.ELEMENTS[part.element.kind]
        mass = f" · {document.shown(e.part_mass[i], 'mass')}" if i in e.part_mass else ""
        copied = "__" in i
        out[f"placed.{i}"] = {
            "title": placed.name, "name": "" if copied else f"placed.{i}.name",
            "about": f"{about.title.lower()} · {document.materials[part.material].name.lower()}{mass}" + (f" · copy of {document.placed[original_of(i)].name}" if copied else ""),
            "fields": fields, "start": [] if copied else fields_of(document, placed.start, f"placed.{i}.start", scope), "placed": "" if copied else i,
            "maps": [f"parts.{placed.part}.element.{k}" for k in about.blanks],
            "results": rows(document, known[f"placed.{i}"]),
        }  # fmt: skip
    for collection, what in (("joints", "joint"), ("relations", "relation"), ("pairs", "pair")):
        for i, item in getattr(document, collection).items():
            stated = getattr(e.stated, collection)[original_of(i)]
            path = f"{collection}.{original_of(i)}"
            results = rows(document, known[f"{collection}.{i}"])
            out[f"{collection}.{i}"] = {
                "title": item.name, "name": "" if "__" in i else f"{path}.name", "about": f"{item.kind.replace('_', ' ')} {what}",
                "fields": fields_of(document, stated, path, scope), "results": results, "freedom": _made(e, i),
            }  # fmt: skip
    for i, group in document.groups.items():
        out[f"groups.{i}"] = {
            "title": group.name, "name": f"groups.{i}.name", "about": f"group of {len(group.placed)} parts", "fields": [],
            "results": rows(document, known[f"groups.{i}"], _NOT_ROWS - {"Mass"}),
        }  # fmt: skip
    for i, repeat in e.stated.repeats.items():
        out[f"repeats.{i}"] = {
            "title": repeat.name, "name": f"repeats.{i}.name", "about": REPEATS[repeat.kind],
            "fields": fields_of(document, repeat, f"repeats.{i}", scope),
            "results": rows(document, known[f"repeats.{i}"]),
        }  # fmt: skip
    for i, driver in document.drivers.items():
        out[f"drivers.{i}"] = {
            "title": driver.name, "name": f"drivers.{i}.name", "about": f"drives {(document.joints | document.relations)[driver.joint].name}",
            "fields": fields_of(document, driver, f"drivers.{i}", scope), "results": [], "reverse": f"drivers.{i}.speed",
        }  # fmt: skip
    out["cycle"] = {
        "title": "Cycle",
        "about": "one master cycle",
        "fields": fields_of(document, document.cycle, "cycle", scope),
        "results": [],
    }
    for i, asked in document.requirements.items():
        v = e.verdicts[i]
        out[f"requirements.{i}"] = {
            "title": asked.name, "name": f"requirements.{i}.name", "about": "requirement", "fields": fields_of(document, asked, f"requirements.{i}", scope),
            "results": [["Known by", v.basis]] if v.basis else [],
        }  # fmt: skip
    for name, parameter in document.parameters.items():
        users = [p for p, text, _ in formulas(document) if name in names_in(text)]
        value = _parameter_value(document, scope, name)
        out[f"parameters.{name}"] = {
            "title": name, "about": parameter.note or "parameter", "results": [["Used by", f"{len(users)} field{'s' * (len(users) != 1)}"]],
            "fields": [{"path": f"parameters.{name}.formula", "label": "Formula", "text": parameter.formula, "value": value, "kind": "formula"}],
        }  # fmt: skip
    return out


def _parameter_value(document: Document, scope: Scope, name: str) -> str:
    q = scope.known[name]
    kind = kind_of(q)
    return document.shown(float(q.to_base_units().magnitude), kind) if kind in DIMENSIONS else str(q)


def derived_results(document: Document, about: Any, n: Numbers) -> list[list[str]]:
    if about.faults(n):
        return []
    return [row(document, Value(label.replace("_", " "), v, dim)) for label, v, dim in about.derived(n)]


def row(document: Document, v: Value) -> list[str]:
    """A value as a card shows it."""
    if v.dimension == "text":
        return [v.name, v.value]
    unit = document.unit_of(v.dimension)

    def one(si: float) -> str:
        return display(si, v.dimension, unit, v.digits) if v.digits is not None else document.shown(si, v.dimension)

    if isinstance(v.value, tuple):
        return [v.name, " … ".join(one(x) for x in v.value)]
    return [v.name, one(v.value)]


#: what a card tells elsewhere, or not at all
_NOT_ROWS = {"Mass", "Centre of gravity", "Inertia", "Value", "Error", "Limit", "Moment"}


def rows(document: Document, found: list[Value], without: frozenset[str] | set[str] = _NOT_ROWS) -> list[list[str]]:
    return [row(document, v) for v in found if v.name not in without]


REPEATS = {
    "ring": "repeated round an axis", "row": "repeated along a line", "mirror": "mirrored behind a plane", "copy": "used again",
}  # fmt: skip


def _made(e: Evaluation, i: str) -> str:
    """What a relation makes together with others of the same two parts."""
    held = e.mechanism.held.get(i) if e.mechanism is not None else None
    if held is None or not held.by:
        return ""
    names = [e.document.placed[p].name for p in (held.part, held.on)]
    return f"{' and '.join(dict.fromkeys(held.by))}: {names[0]} {JOINTS[held.kind].does} against {names[1]}"
