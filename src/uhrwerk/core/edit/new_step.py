"""A new build step as it begins: on the face pointed at, else on the part's top face, its outline so large as fits there."""

from __future__ import annotations

from typing import Any

from uhrwerk.core.context import Context
from uhrwerk.core.document import Document, ValidationFailed, parse
from uhrwerk.core.document.command import Command
from uhrwerk.core.part import part_datums
from uhrwerk.core.quantity import length_text
from uhrwerk.core.solids.datum import BASES
from uhrwerk.core.steps import STEPS, Under

#: a face that looks this far up, by the z of its normal, is on top
UP = 0.999
#: part of a face's size that a new outline takes along x and along y
LONG, WIDE = 0.4, 0.25
#: m, to which a new outline's middle is rounded: a millimetre, or a sixteenth of an inch
MM, INCH = 1e-3, 0.0254


def new_step(document: Document, part: str, kind: str, datum: str, context: Context) -> Command:
    """The command that adds a step of a kind to a part; `datum` is the face pointed at, if one is. ValidationFailed where there is
    no such part or kind."""
    if part not in document.parts:
        raise ValidationFailed(("part", f"there is no part {part!r}"))
    if kind not in STEPS:
        raise ValidationFailed(("kind", f"there is no build step of kind {kind!r}: {', '.join(STEPS)}"))
    model, face = STEPS[kind], _face(document, part, datum, context)
    step: dict[str, Any] = {"kind": kind, "name": model.title}
    if face is not None and "plane" in model.model_fields and kind != "revolve":
        step["plane"] = face.name
        grain = INCH / 16 if document.units.length == "in" else MM
        x, y = (length_text(round(v / grain) * grain, document.units.length, 1e-8) for v in (face.x, face.y))
        if "outline" in model.model_fields:
            step["outline"] = {
                "kind": "rectangle", "length": face.size(LONG), "width": face.size(WIDE), "x": x, "y": y,
            }  # fmt: skip
        elif "at" in model.model_fields:
            step["at"] = {"kind": "points", "spots": {"a": {"x": x, "y": y}}}
    return parse({"kind": "add_step", "part": part, "step": step})


def _face(document: Document, part: str, datum: str, context: Context) -> Under | None:
    named = part_datums.datums(document, part, context)
    planes = {n: d for n, d in named.items() if d.kind == "plane" and n.removesuffix("_plane") not in BASES}
    if datum not in planes:
        tops = {n: d for n, d in planes.items() if d.z[2] > UP and not n.endswith(".plane")}
        datum = max(tops, key=lambda n: float(tops[n].origin[2]), default="")
    return part_datums.under(document, part, datum, context) if datum else None
