"""Two documents compared: what is there in one alone, and what reads otherwise, in the designer's words.

>>> from uhrwerk.core.document import Document
>>> from uhrwerk.core.document.document import Parameter
>>> one, other = (Document(name="x", parameters={"w": Parameter(formula=f)}) for f in ("12 mm", "13 mm"))
>>> [(d.path, d.name, d.before, d.after) for d in compared(one, other)]
[('parameters.w.formula', 'w', '12 mm', '13 mm')]
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from uhrwerk.core.document import Document, spoken

#: collections whose items are told as a whole where only one document has them
COLLECTIONS = (
    "parameters", "materials", "parts", "placed", "groups", "joints", "relations", "pairs", "repeats", "drivers", "curves", "requirements",
    "drawings",
)  # fmt: skip


@dataclass(frozen=True)
class DocumentDifference:
    """Something at a path of either document; `before` or `after` is nothing where only the other has it."""

    path: str
    name: str
    before: str
    after: str


def compared(before: Document, after: Document) -> list[DocumentDifference]:
    """Every difference, in the order of the documents."""
    one, other = before.model_dump(mode="json"), after.model_dump(mode="json")
    out: list[DocumentDifference] = []
    for key in one:
        if key not in COLLECTIONS:
            out += [DocumentDifference(p, p.replace(".", " "), a, b) for p, a, b in _unlike(one[key], other[key], key)]
            continue
        for i in dict.fromkeys([*one[key], *other[key]]):
            path = f"{key}.{i}"
            if i not in other[key]:
                out.append(DocumentDifference(path, spoken(path, before), "there", ""))
            elif i not in one[key]:
                out.append(DocumentDifference(path, spoken(path, after), "", "there"))
            else:
                for p, a, b in _unlike(one[key][i], other[key][i], path):
                    out.append(DocumentDifference(p, spoken(p.removesuffix(".formula"), after), a, b))
    return out


def _unlike(a: Any, b: Any, path: str) -> Iterator[tuple[str, str, str]]:
    """Leaves that are not the same, with their texts."""
    if isinstance(a, dict) and isinstance(b, dict) and a.get("kind") == b.get("kind"):
        for key in dict.fromkeys([*a, *b]):
            yield from _unlike(a.get(key), b.get(key), f"{path}.{key}")
    elif a != b:
        yield path, _text(a), _text(b)


def _text(value: Any) -> str:
    if value is None or value == {}:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, dict):
        return str(value.get("kind", "other")).replace("_", " ")
    if isinstance(value, list):
        return ", ".join(_text(x) for x in value[:6]) + (" …" if len(value) > 6 else "")
    return str(value)
