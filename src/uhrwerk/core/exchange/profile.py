"""The outline of a part: the edges of its largest flat face, for cutting it out or drawing it."""

from __future__ import annotations

from dataclasses import dataclass

from uhrwerk.core.exchange.format import Chosen
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.part import part_datums
from uhrwerk.core.solids import BuildFailed
from uhrwerk.core.stages.evaluation import Evaluation


@dataclass(frozen=True)
class Loop:
    """A closed line on the face's plane, m: a circle (middle and radius), or corners (x, y, bulge of the way to the next)."""

    corners: list[tuple[float, float, float]]
    circle: tuple[tuple[float, float], float] | None = None


def profile(e: Evaluation, chosen: Chosen) -> list[Loop]:
    """The lines round the largest flat face of the chosen part, the outer one first. ValidationFailed where there is none."""
    document = e.document
    if not chosen.part:
        raise ValidationFailed(("part", "an outline is that of one part: choose it"))
    if chosen.part not in document.placed:
        raise ValidationFailed(("part", f"there is no placed part {chosen.part!r}"))
    placed = document.placed[chosen.part]
    recipe = part_datums.recipe(document, placed.part, placed.mirrored)[0]
    try:
        loops = e.context.kernel_pool.call("profile", recipe)
    except BuildFailed as error:
        raise ValidationFailed(("part", f"{placed.name}: {error}")) from error
    return [Loop(corners, circle) for corners, circle in loops]
