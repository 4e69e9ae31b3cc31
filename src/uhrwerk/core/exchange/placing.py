"""What files of solids hold: every placed part that is not left out, where it stands at the start of the cycle."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.equations.pose import IDENTITY, Array, place, rotate
from uhrwerk.core.exchange.format import Chosen
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.printing import Bed
from uhrwerk.core.printing.bed import DOWN
from uhrwerk.core.solids import Body, BuildFailed, Solid
from uhrwerk.core.stages.evaluation import Evaluation, Moved

#: of parts without one of their own, red, green and blue: muted, and apart from their neighbours
COLOURS = tuple(
    (r / 255, g / 255, b / 255)
    for r, g, b in (
        (143, 157, 149),
        (201, 178, 122),
        (111, 154, 160),
        (154, 167, 184),
        (134, 160, 138),
        (181, 168, 140),
    )
)


@dataclass(frozen=True)
class Stands:
    """A placed part: its id and name, its solid, its pose (7,) m, its colour."""

    id: str
    name: str
    solid: Solid
    pose: Array
    colour: tuple[float, float, float]

    def moved(self, pose: Array) -> Stands:
        return replace(self, pose=pose)

    def bodies(self) -> Iterator[tuple[Body, Array, NDArray[np.int64]]]:
        """Its bodies with their vertices (n, 3) m in the world and their triangles (m, 3)."""
        for body in self.solid.bodies.values():
            yield body, place(self.pose, body.vertices), body.triangles


def standing(e: Evaluation, chosen: Chosen = Chosen()) -> list[Stands]:
    """What is chosen of a mechanism. ValidationFailed where a part has no solid, nothing is placed, or the cycle has no such moment."""
    document, m = e.document, e.mechanism
    if chosen.part and chosen.part not in document.placed:
        raise ValidationFailed(("part", f"there is no placed part {chosen.part!r}"))
    if chosen.group and chosen.group not in document.groups:
        raise ValidationFailed(("group", f"there is no group {chosen.group!r}"))
    members = set(document.groups[chosen.group].placed if chosen.group else document.placed)
    shown = [chosen.part] if chosen.part else [i for i, p in document.placed.items() if i in members and not p.left_out]
    if m is None or not shown:
        raise ValidationFailed(("placed", "there is no part to write"))
    missing = [document.placed[i].name for i in shown if i not in e.solids]
    if missing:
        raise ValidationFailed(("parts", f"{missing[0]} has no solid: see what its card says"))
    unlike = [document.placed[i].name for i in shown if e.solids[i].failed is not None]
    if unlike:
        raise ValidationFailed(("parts", f"{unlike[0]} is not as it is stated: one of its build steps cannot be done"))
    at = {chosen.part: IDENTITY} if chosen.part else e.part_poses(_links(e, chosen.time, m.start))
    stands = [
        Stands(
            i, document.placed[i].name, e.solids[i], at[i], _colour(document.parts[document.placed[i].part].colour, k)
        )
        for k, i in enumerate(shown)
    ]
    if not chosen.down:
        return stands
    bed = bed_under(e, chosen.down, stands)
    return [one.moved(bed.place(one.pose)) for one in stands]


def bed_under(e: Evaluation, down: str, stands: list[Stands]) -> Bed:
    """The bed under what stands, with a face on it (placed part/datum), or as it stands. ValidationFailed where it has no such face."""
    direction = DOWN
    if down:
        placed, _, datum = down.partition("/")
        on = next((one for one in stands if one.id == placed), None)
        if on is None or datum not in e.mechanism.datums.get(placed, {}):
            raise ValidationFailed(("down", f"no face {down!r} can lie on the bed: state placed part/datum"))
        direction = rotate(on.pose[3:], e.mechanism.datums[placed][datum].z)
    try:
        return Bed.under([body for one in stands for body in e.lying(one.id, one.pose)], direction)
    except BuildFailed as failed:
        raise ValidationFailed(("down", f"the lowest point is not known: {failed}")) from failed


def _links(e: Evaluation, time: float, start: Array) -> Array:
    """Poses of all links at a moment of the cycle, s; where nothing moves, as they stand."""
    if not isinstance(e.movement, Moved):
        return e.pose if e.pose is not None else start
    motion = e.movement.motion
    times = motion.times
    if not times[0] <= time <= times[-1]:
        raise ValidationFailed(("time", f"the cycle lasts {times[-1]:.6g} s: there is no moment {time:.6g} s"))
    if time == times[0]:
        return np.asarray(motion.pose[0])
    return np.asarray(e.movement.sweep.track.at(np.array([time]), list(range(motion.pose.shape[1])))[0])


def _colour(own: str, k: int) -> tuple[float, float, float]:
    """A part's own colour, or one of those that tell neighbours apart."""
    if not own:
        return COLOURS[k % len(COLOURS)]
    r, g, b = (int(own[n : n + 2], 16) / 255 for n in (1, 3, 5))
    return r, g, b
