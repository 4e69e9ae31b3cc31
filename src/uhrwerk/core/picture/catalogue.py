"""The catalogue of elements, and the preview of one that is not yet in the document."""

from __future__ import annotations

from typing import Any

from uhrwerk.core import elements
from uhrwerk.core.document import Document, Refused, apply, numbers, parse
from uhrwerk.core.document.element import KINDS
from uhrwerk.core.picture.cards import derived_results, fields_of
from uhrwerk.core.picture.scene import datum_data
from uhrwerk.core.solids import Solid, key

#: a new bore, post or pin of an element, to be edited
_BLANKS = {
    "bores": {"x": "20 mm", "y": "20 mm", "diameter": "6 mm"},
    "posts": {"x": "20 mm", "y": "20 mm", "diameter": "6 mm", "height": "12 mm"},
    "pins": {"x": "6 mm", "y": "0 mm", "diameter": "3 mm", "height": "8 mm"},
}


def catalogue() -> list[dict[str, Any]]:
    """Elements with their fields and default values."""
    out = []
    for kind, model in KINDS.items():
        module = elements.ELEMENTS[kind]
        fresh = model()
        document = Document(name="catalogue")
        maps = {name: blank for name, blank in _BLANKS.items() if isinstance(getattr(fresh, name, None), dict)}
        out.append({
            "kind": kind, "title": module.TITLE, "about": module.ABOUT,
            "fields": [f | {"path": f["path"].removeprefix("element.")} for f in fields_of(document, fresh, "element", document.scope())], "maps": maps,
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
