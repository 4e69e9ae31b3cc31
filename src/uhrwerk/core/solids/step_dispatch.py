"""Carrying out build steps, each by its own function."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from OCP.BRepTools import BRepTools
from OCP.TopAbs import TopAbs_FACE
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.boolean_steps import added, again, cut, drilled, turned
from uhrwerk.core.solids.face_names import Names
from uhrwerk.core.solids.local_steps import drafted, edges, hollowed, moved_face
from uhrwerk.core.solids.partial_solid import (
    PartialSolid,
    StepFailed,
    each,
    volume,
)
from uhrwerk.core.solids.recipe import Step
from uhrwerk.core.solids.reference_steps import marked


def _threaded(partial: PartialSolid, step: Step) -> PartialSolid:
    from uhrwerk.core.solids.threading import threaded  # seldom asked

    return threaded(partial, step)


STEPS: dict[str, Callable[[PartialSolid, Step], PartialSolid]] = {
    "add": added, "take": cut, "turn": turned, "holes": drilled, "again": again, "edges": edges, "hollow": hollowed,
    "move_face": moved_face, "draft": drafted, "thread": _threaded, "mark": marked,
}  # fmt: skip


#: what is said of a step after which the solid is not sound; asked of the last step, and of those before only if that is not
UNCLOSED = "it does not give a closed solid with these dimensions"


def shaped(partial: PartialSolid, step: Step) -> PartialSolid:
    """The part after one build step. StepFailed, in a designer's words, where it cannot be carried out."""
    try:
        after = STEPS[step["do"]](partial, step)
    except StepFailed:
        raise
    except Exception as error:  # the kernel raises many kinds
        raise StepFailed("the kernel cannot make it with these dimensions") from error
    if after.shape is None:  # a plane or a point, before anything is there
        return after
    size = after.volume or volume(after.shape)
    if size <= 0:
        raise StepFailed(UNCLOSED)
    BRepTools.Clean_s(after.shape)
    new = [f for f in each(after.shape, TopAbs_FACE, TopoDS.Face) if f not in after.names]
    names = Names([*after.names, *((f, f"{step['id']}.face") for f in new)])
    after = PartialSolid(after.shape, names, after.tools, partial.gone, size, {**partial.marks, **after.marks})
    now = {name for _, name in after.numbered()}
    return replace(after, gone={**partial.gone, **{n: step["id"] for _, n in partial.numbered() if n not in now}})
