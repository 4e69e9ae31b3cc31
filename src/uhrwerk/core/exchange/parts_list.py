"""Parts list: comma-separated values (RFC 4180), one line a design, with its standard where it has one."""

from __future__ import annotations

import re
from collections import Counter

from uhrwerk.core.elements.hardware import sizes
from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.exchange.spreadsheet import comma_separated
from uhrwerk.core.part.design import element_of_part
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.steps import screw_sizes

HEADS = ["item", "part", "standard", "size", "material", "quantity", "mass of one / kg", "mass in all / kg", "source"]
_STANDARD = re.compile(r"\b(?:ISO|DIN|ASME) [A-Z]?[\d.]+\d")


def _written(e: Evaluation, _: Chosen) -> bytes:
    document = e.document
    counted = Counter((p.part, p.mirrored) for p in document.placed.values() if not p.left_out)
    rows: list[list[str | float | None]] = []
    for item, ((part, mirrored), number) in enumerate(counted.items(), 1):
        design = document.parts[part]
        mass = next((e.part_mass[i] for i, p in document.placed.items() if p.part == part and i in e.part_mass), None)
        standard, size = standard_of(element_of_part(document, part))
        rows.append([
            item, design.name + (", mirrored" if mirrored else ""), standard, size, document.materials[design.material].name,
            number, mass, None if mass is None else mass * number, source_of(element_of_part(document, part)),
        ])  # fmt: skip
    return comma_separated([list[str | float | None](HEADS), *rows]).encode()


def standard_of(element: object) -> tuple[str, str]:
    """The standard of a piece of hardware and its size in it; both empty for what is made."""
    if getattr(element, "group", "") != "Hardware" or not (size := str(getattr(element, "size", ""))):
        return "", ""
    length = str(getattr(element, "length", ""))
    named = _STANDARD.findall(str(getattr(element, "about", "")))
    inches = size in screw_sizes.inch_sizes() or any(size in sizes.inch(table) for table in sizes.INCH_TABLES)
    fits = [s for s in named if s.startswith("ASME") == inches]
    return (fits[0] if fits else ""), (f"{size} x {length}" if length else size)


def source_of(element: object) -> str:
    """Where it comes from: bought, from a file, or made."""
    if getattr(element, "group", "") == "Hardware":
        return "bought"
    return "from a file" if getattr(element, "kind", "") == "imported" else "made"


FORMAT = Format(".csv", "Parts list", "text/csv; charset=utf-8", write=_written, whole=True)
