"""Parts list: comma-separated values (RFC 4180), one line a design."""

from __future__ import annotations

import csv
import io
from collections import Counter

from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.stages.evaluation import Evaluation


def _written(e: Evaluation, _: Chosen) -> bytes:
    document, out = e.document, io.StringIO()
    lines = csv.writer(out)
    lines.writerow(["part", "element", "material", "number", "mass of one / kg"])
    for (part, _mirrored), number in Counter((p.part, p.mirrored) for p in document.placed.values()).items():
        design = document.parts[part]
        mass = next((e.part_mass[i] for i, p in document.placed.items() if p.part == part and i in e.part_mass), None)
        mass_text = "" if mass is None else f"{mass:.6g}"
        lines.writerow([design.name, design.element.title, document.materials[design.material].name, number, mass_text])
    return out.getvalue().encode()


FORMAT = Format(".csv", "Parts list", "text/csv; charset=utf-8", write=_written, whole=True)
