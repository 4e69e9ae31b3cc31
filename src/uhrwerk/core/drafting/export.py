"""The drawing of a placed part, a group or the whole of an evaluated mechanism, as a file by its suffix."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from uhrwerk.core.document.document import WHOLE
from uhrwerk.core.drafting import dxf, pdf, svg
from uhrwerk.core.drafting.assembly_sheet import Item, assembly_sheet, exploded_sheet
from uhrwerk.core.drafting.exploded import taken_apart
from uhrwerk.core.drafting.part_sheet import CORNER, TooLarge, part_sheet
from uhrwerk.core.drafting.settings import SheetSettings
from uhrwerk.core.drafting.sheet import Sheet
from uhrwerk.core.drafting.threads import threads_of
from uhrwerk.core.drafting.title_block import TitleBlock
from uhrwerk.core.exchange import parts_list
from uhrwerk.core.exchange.format import Chosen
from uhrwerk.core.exchange.placing import Stands, standing
from uhrwerk.core.field import ValidationFailed, numbers
from uhrwerk.core.part import part_datums
from uhrwerk.core.part.design import element_of, element_of_part
from uhrwerk.core.solids.kernel_pool import BuildFailed
from uhrwerk.core.stages.evaluation import Evaluation

#: by suffix: the writer, and what the file is
WRITERS: dict[str, tuple[Callable[[Sheet], bytes], str]] = {
    ".pdf": (pdf.as_pdf, "application/pdf"), ".svg": (svg.as_svg, "image/svg+xml"), ".dxf": (dxf.as_dxf, "image/vnd.dxf"),
}  # fmt: skip
#: s that the kernel may take to find what is hidden
LIMIT = 60.0


def drawing_of(
    e: Evaluation,
    placed: str,
    first_angle: bool = True,
    revision: str = "",
    date: str = "",
    settings: SheetSettings | None = None,
) -> Sheet:
    """ValidationFailed where there is no such part, it has no solid, or the kernel cannot draw it."""
    document = e.document
    if placed not in document.placed:
        known = ", ".join(list(document.placed)[:20])
        raise ValidationFailed(("part", f"there is no placed part {placed!r}; known are {known}"))
    name = document.placed[placed].name
    solid = e.solids.get(placed)
    if solid is None or solid.failed is not None:
        raise ValidationFailed(("part", f"{name} has no solid as stated: see what its card says"))
    part = document.parts[document.placed[placed].part]
    block = TitleBlock(
        title=part.name,
        identity=f"{document.name} / {document.placed[placed].part}",
        material=document.materials[part.material].name,
        mass=document.display(e.part_mass[placed], "mass") if placed in e.part_mass else "",
        revision=revision,
        date=date,
        first_angle=first_angle,
        inches=document.units.length == "in",
        data=_gear_data(e, placed),
    )
    recipe = part_datums.recipe(document, document.placed[placed].part, document.placed[placed].mirrored)[0]

    def lines(directions: list[Any]) -> list[dict[str, list[Any]]]:
        answer: list[dict[str, list[Any]]] = e.context.kernel_pool.call("hidden_lines", recipe, directions, limit=LIMIT)
        return answer

    try:
        bores = [d for d in e.mechanism.datums[placed].values() if d.side == "bore" and d.round]
        return part_sheet(lines, block, settings, threads_of(e, placed), bores)
    except (BuildFailed, TooLarge) as error:
        raise ValidationFailed(("part", f"{name} cannot be drawn: {error}")) from error


#: what a gear's cutter needs to know, by field (ISO 2203 leaves the teeth out of the drawing and asks for a table; from memory)
GEAR_FIELDS = {"module": "Module", "teeth": "Number of teeth", "pressure_angle": "Pressure angle", "profile_shift": "Profile shift, in modules", "addendum": "Addendum, in modules", "dedendum": "Dedendum, in modules", "thinning": "Teeth thinned by"}  # fmt: skip
DIMENSIONS = {"module": "length", "pressure_angle": "angle", "thinning": "length"}


def _gear_data(e: Evaluation, placed: str) -> tuple[tuple[str, str], ...]:
    """Numbers of teeth, as stated and as they follow; of what is no gear: none."""
    document = e.document
    element = element_of(document, placed)
    if element.group != "Gears":
        return ()
    n = numbers(element, document.scope())
    rows = []
    for field, name in GEAR_FIELDS.items():
        if field in type(element).model_fields and (getattr(n, field) or field == "profile_shift"):
            value, dimension = getattr(n, field), DIMENSIONS.get(field)
            rows.append((name, document.display(value, dimension) if dimension else f"{value:g}"))
    for name, result, dimension in type(element).derived(n):
        text = result if isinstance(result, str) else document.display(result, dimension)
        if text != "none":
            rows.append((name.replace("_", " "), text))
    return tuple(rows)


def assembly_drawing(
    e: Evaluation,
    group: str = WHOLE,
    first_angle: bool = True,
    revision: str = "",
    date: str = "",
    time: float = 0.0,
    exploded: bool = False,
    note: str = "",
) -> Sheet:
    """The drawing of the whole, or of a group, at a moment of the cycle, s; or taken apart along its joints. ValidationFailed where
    there is no such group, a part has no solid, or the kernel cannot draw it."""
    document = e.document
    if group != WHOLE and group not in document.groups:
        raise ValidationFailed(("group", f"there is no group {group!r}"))
    stands = standing(e, Chosen(group="" if group == WHOLE else group, time=time))
    name = document.name if group == WHOLE else document.groups[group].name
    apart = taken_apart(e, stands, np.array(CORNER[1])) if exploded else None
    if apart is not None:
        shift = {i: np.concatenate([by, np.zeros(4)]) for i, by in apart.offsets.items()}
        stands = [one.moved(one.pose + shift[one.id]) for one in stands]
    masses = [e.part_mass[one.id] for one in stands if one.id in e.part_mass]
    block = TitleBlock(
        title=name,
        kind="Exploded view" if exploded else "Assembly drawing",
        identity=document.name if group == WHOLE else f"{document.name} / {group}",
        mass=document.display(sum(masses), "mass") if len(masses) == len(stands) else "",
        revision=revision,
        date=date,
        first_angle=first_angle,
        inches=document.units.length == "in",
        note=note,
    )
    solids = []
    for one in stands:
        placed = document.placed[one.id]
        solids.append((part_datums.recipe(document, placed.part, placed.mirrored)[0], one.pose.tolist()))

    def lines(directions: list[Any]) -> list[list[Any]]:
        answer: list[list[Any]] = e.context.kernel_pool.call("outline_views", solids, directions, limit=LIMIT)
        return answer

    try:
        if apart is not None:
            return exploded_sheet(lines, _items(e, stands), apart.lines, block)
        return assembly_sheet(lines, _items(e, stands), block)
    except (BuildFailed, TooLarge) as error:
        raise ValidationFailed(("group", f"{name} cannot be drawn: {error}")) from error


def _items(e: Evaluation, stands: list[Stands]) -> list[Item]:
    """Lines of the parts list, in its order, for what stands."""
    by_design: dict[tuple[str, bool], list[Stands]] = {}
    for one in stands:
        placed = e.document.placed[one.id]
        by_design.setdefault((placed.part, placed.mirrored), []).append(one)
    items = list[Item]()
    for (part, mirrored), own in by_design.items():
        design = e.document.parts[part]
        standard, size = parts_list.standard_of(element_of_part(e.document, part))
        items.append(
            Item(
                len(items) + 1,
                len(own),
                design.name + (", mirrored" if mirrored else ""),
                ", ".join(t for t in (standard, size) if t),
                e.document.materials[design.material].name,
                [(vertices, triangles) for one in own for _, vertices, triangles in one.bodies()],
            )
        )
    return items


def sheet_file(name: str, sheet: Sheet) -> bytes:
    """A file of that name with the sheet. ValidationFailed where its suffix is not known."""
    suffix = name[name.rfind(".") :].lower() if "." in name else ""
    if suffix not in WRITERS:
        raise ValidationFailed(("suffix", f"a drawing is written as {', '.join(WRITERS)}, not as {name!r}"))
    return WRITERS[suffix][0](sheet)
