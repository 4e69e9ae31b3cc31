"""STEP: exact solids, an assembly at the start of the cycle, with names and colours."""

from __future__ import annotations

from typing import Any

from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.exchange.placing import standing
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.part import part_datums
from uhrwerk.core.solids import BuildFailed
from uhrwerk.core.solids.imported import ImportedSolids
from uhrwerk.core.stages.evaluation import Evaluation

#: seconds that a file may take
LIMIT = 120.0


def _written(e: Evaluation, chosen: Chosen) -> bytes:
    document = e.document
    designs: dict[tuple[str, bool], dict[str, Any]] = {}
    uses = []
    for one in standing(e, chosen):
        placed = document.placed[one.id]
        key = placed.part, placed.mirrored
        if key not in designs:
            recipe = part_datums.recipe(document, placed.part, placed.mirrored)[0]
            designs[key] = {"name": document.parts[placed.part].name, "recipe": recipe, "colour": one.colour}
        uses.append({"design": list(designs).index(key), "name": one.name, "pose": one.pose})
    try:
        file = e.context.kernel_pool.call("step_file", document.name, list(designs.values()), uses, limit=LIMIT)
    except BuildFailed as error:
        raise ValidationFailed(("file", str(error))) from error
    assert isinstance(file, bytes)
    return file


def _read(data: bytes, _: float) -> ImportedSolids:
    from uhrwerk.core.solids.step_reading import read_step  # the kernel: in the worker alone

    return read_step(data)


FORMAT = Format(".step", "Solids as they stand", "model/step", write=_written, take=_read, still=True)
