"""The catalogue of elements, and the preview of one that is not yet in the document."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from typing_extensions import TypedDict

from uhrwerk.core import elements
from uhrwerk.core.document import Document, ValidationFailed, apply, numbers, parse
from uhrwerk.core.document.command import AddPart
from uhrwerk.core.document.curve import CURVES
from uhrwerk.core.document.driver import DRIVERS
from uhrwerk.core.document.requirement import REQUIREMENTS
from uhrwerk.core.field import Kinds
from uhrwerk.core.solids import Recipe, Solid, key
from uhrwerk.core.steps import STEPS
from uhrwerk.core.views.cards import FieldShown, blank_fields, derived_results, fields_of
from uhrwerk.core.views.drawing import ViewDrawn, drawing
from uhrwerk.core.views.scene import DatumShown, datum_data


class Entry(TypedDict):
    """An element of the catalogue: its fields with their defaults, and what one more detail of each map starts from."""

    kind: str
    title: str
    about: str
    group: str
    fields: list[FieldShown]
    maps: dict[str, dict[str, str]]


class Preview(TypedDict):
    """An element that is not yet in the document."""

    solid: str
    bodies: list[str]
    derived: list[list[str]]
    fields: list[FieldShown]
    datums: list[DatumShown]
    drawing: list[ViewDrawn]
    volume: str


class Choice(TypedDict):
    """A kind of requirement, driver or curve to choose: its name, and its fields."""

    kind: str
    title: str
    about: str
    fields: list[FieldShown]


class Choices(TypedDict):
    requirements: list[Choice]
    drivers: list[Choice]
    curves: list[Choice]
    steps: list[Choice]


def choices() -> Choices:
    """Kinds of requirement, driver and curve, with their fields, and of build step, whose fields are filled on the card."""
    document = Document(name="choices")

    def of(kinds: Kinds[Any]) -> list[Choice]:
        return [
            {"kind": kind, "title": model.title, "about": (model.__doc__ or "").strip(), "fields": blank_fields(document, model)}
            for kind, model in kinds.items()
        ]  # fmt: skip

    steps: list[Choice] = [
        {"kind": kind, "title": model.title, "about": model.about, "fields": []} for kind, model in STEPS.items()
    ]
    return {"requirements": of(REQUIREMENTS), "drivers": of(DRIVERS), "curves": of(CURVES), "steps": steps}


def catalogue() -> list[Entry]:
    """Elements with their fields and default values."""
    out: list[Entry] = []
    document = Document(name="catalogue")
    for kind, model in elements.ELEMENTS.items():
        fields = fields_of(document, model.model_validate({}), "element", document.scope())
        out.append({
            "kind": kind, "title": model.title, "about": model.about, "group": model.group,
            "fields": [_bare(f) for f in fields],
            "maps": {name: blank.model_dump() for name, blank in model.blanks.items()},
        })  # fmt: skip
    return out


def preview(document: Document, data: Any, build: Callable[[Recipe], Solid]) -> tuple[Solid, Preview]:
    """An element that is not yet in the document: its solid, derived values and datums. Refused with the field's path."""
    command = parse(
        {"kind": "add_part", "part": {"name": "preview", "material": next(iter(document.materials)), "element": data}}
    )
    assert isinstance(command, AddPart)
    after = apply(
        Document(name="preview", parameters=document.parameters, materials=document.materials, units=document.units),
        command,
    )
    scope = after.scope()
    n = numbers(command.part.element, scope)
    module = elements.of(n)
    wrong = module.faults(n)
    if wrong:
        raise ValidationFailed(*((f"element.{where}", f"{elements.spoken(where)} {why}") for where, why in wrong))
    recipe = module.solid(n)
    solid = Solid({}) if module.datums_from_faces else build(recipe)
    datums = module.datums(n)
    values = [_bare(f) for f in fields_of(after, command.part.element, "element", scope)]
    return solid, {
        "solid": key(recipe), "bodies": list(solid.bodies), "derived": derived_results(after, module, n), "fields": values,
        "datums": [datum_data(after, name, d) for name, d in datums.items()], "drawing": drawing(solid, module.dimensions(n)), "volume": f"{solid.volume * 1e9:.1f} mm³",
    }  # fmt: skip


def _bare(f: FieldShown) -> FieldShown:
    """The field with its path within the element."""
    bare = f.copy()
    bare["path"] = f["path"].removeprefix("element.")
    return bare
