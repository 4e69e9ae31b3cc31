"""The drawing of a placed part of an evaluated mechanism, as a file by its suffix."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from uhrwerk.core.drafting import dxf, pdf, svg
from uhrwerk.core.drafting.part_sheet import TitleBlock, TooLarge, part_sheet
from uhrwerk.core.drafting.sheet import Sheet
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.part import part_datums
from uhrwerk.core.solids.kernel_pool import BuildFailed
from uhrwerk.core.stages.evaluation import Evaluation

#: by suffix: the writer, and what the file is
WRITERS: dict[str, tuple[Callable[[Sheet], bytes], str]] = {
    ".pdf": (pdf.as_pdf, "application/pdf"), ".svg": (svg.as_svg, "image/svg+xml"), ".dxf": (dxf.as_dxf, "image/vnd.dxf"),
}  # fmt: skip
#: s that the kernel may take to find what is hidden
LIMIT = 60.0


def drawing_of(e: Evaluation, placed: str, first_angle: bool = True, revision: str = "", date: str = "") -> Sheet:
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
    )
    recipe = part_datums.recipe(document, document.placed[placed].part, document.placed[placed].mirrored)[0]

    def lines(directions: list[Any]) -> list[dict[str, list[Any]]]:
        answer: list[dict[str, list[Any]]] = e.context.kernel_pool.call("hidden_lines", recipe, directions, limit=LIMIT)
        return answer

    try:
        return part_sheet(lines, block)
    except (BuildFailed, TooLarge) as error:
        raise ValidationFailed(("part", f"{name} cannot be drawn: {error}")) from error


def sheet_file(name: str, sheet: Sheet) -> bytes:
    """A file of that name with the sheet. ValidationFailed where its suffix is not known."""
    suffix = name[name.rfind(".") :].lower() if "." in name else ""
    if suffix not in WRITERS:
        raise ValidationFailed(("suffix", f"a drawing is written as {', '.join(WRITERS)}, not as {name!r}"))
    return WRITERS[suffix][0](sheet)
