"""The catalogue of elements, and the preview of one that is not yet in the document."""

from __future__ import annotations

from typing import Any

from uhrwerk.core import elements
from uhrwerk.core.document import Document, Refused, apply, numbers, parse
from uhrwerk.core.picture.cards import derived_results, fields_of
from uhrwerk.core.picture.scene import datum_data
from uhrwerk.core.solids import Solid, key


def catalogue() -> list[dict[str, Any]]:
    """Elements with their fields and default values."""
    out = []
    document = Document(name="catalogue")
    for kind, model in elements.ELEMENTS.items():
        fields = fields_of(document, model.model_validate({}), "element", document.scope())
        out.append({
            "kind": kind, "title": model.title, "about": model.about,
            "fields": [f | {"path": f["path"].removeprefix("element.")} for f in fields],
            "maps": {name: blank.model_dump() for name, blank in model.blanks.items()},
        })  # fmt: skip
    return out


def preview(document: Document, data: Any, build: Any) -> tuple[Solid, dict[str, Any]]:
    """An element that is not yet in the document: its solid, derived values and datums. Refused with the field's path."""
    command = parse(
        {"kind": "add_part", "part": {"name": "preview", "material": next(iter(document.materials)), "element": data}}
    )
    after = apply(
        Document(name="preview", parameters=document.parameters, materials=document.materials, units=document.units),
        command,
    )
    scope = after.scope()
    n = numbers(command.part.element, scope)
    module = elements.of(n)
    wrong = module.faults(n)
    if wrong:
        raise Refused(*((f"element.{where}", f"{where.replace('_', ' ')} {why}") for where, why in wrong))
    recipe = module.solid(n)
    solid = build(recipe)
    datums = module.datums(n)
    values = [
        f | {"path": f["path"].removeprefix("element.")}
        for f in fields_of(after, command.part.element, "element", scope)
    ]
    return solid, {
        "solid": key(recipe), "bodies": list(solid.bodies), "derived": derived_results(after, module, n), "fields": values,
        "datums": [datum_data(after, name, d) for name, d in datums.items()], "volume": f"{solid.volume * 1e9:.1f} mm³",
    }  # fmt: skip
