"""The B-rep kernel (Open CASCADE) behind plain data. Only worker processes import this module.

The kernel works in millimetres, where its tolerance of 1e-7 is 0.1 nanometre; metres go in and come out.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.Message import Message
from OCP.TopAbs import TopAbs_FACE
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.blob_store import read_in, triangles_unpacked, unpacked
from uhrwerk.core.solids.element_steps import carried_out
from uhrwerk.core.solids.face_names import Names
from uhrwerk.core.solids.partial_solid import NotTessellated, PartialSolid, StepFailed, each, pieces, volume
from uhrwerk.core.solids.recipe import Recipe, Step
from uhrwerk.core.solids.solid import Body, Mark, Solid
from uhrwerk.core.solids.step_dispatch import STEPS, UNCLOSED, shaped
from uhrwerk.core.solids.tessellation import closes, tessellated
from uhrwerk.core.solids.triangles import triangle_body
from uhrwerk.core.solids.wires import MM

Message.DefaultMessenger_s().ChangePrinters().Clear()  # the kernel has nothing to say on our standard output

#: bodies on their way that one kernel keeps
MOST = 160
#: why nothing can be done to a part of triangles
TRIANGLES = "its file holds triangles, no exact faces: build steps need those of a STEP file"
#: the id of a designer's step that failed, and why
Failure = tuple[str, str]


class Kernel:
    """Makes solids from recipes and keeps what they have in common. `contents` is the folder in which contents of files are;
    `begun` hears the id of every build step that is begun."""

    def __init__(self, contents: Path | None = None, begun: Callable[[str], None] = lambda step: None) -> None:
        self.contents, self.begun = contents, begun
        self._cached = lru_cache(maxsize=MOST)(self._make)

    def build(self, recipe: Recipe) -> Solid:
        """The solid of a recipe: bodies with triangles, faces and mass properties."""
        bodies, failed, marks = {}, None, dict[str, Mark]()
        for b in recipe["bodies"]:
            bodies[b["name"]], why = self._closed_body(b, recipe["deviation"])
            failed = failed or why
            marks |= self._marks(b["steps"])
        return Solid(bodies, failed, marks)

    def _marks(self, steps: list[Step]) -> dict[str, Mark]:
        """The planes and places that build steps stated, m."""
        if not any(step["do"] == "mark" for step in steps):
            return {}
        return {name: Mark(frame.origin / MM, frame.n, frame.x) for name, frame in self.partial(steps)[0].marks.items()}

    def shape(self, steps: list[Step]) -> Any:
        """The kernel's shape of a body, from its steps."""
        partial, failed = self.partial(steps)
        if partial.shape is None:
            step, why = failed or ("", "it has no build step yet that adds something")
            raise StepFailed(why, step)
        if not BRepCheck_Analyzer(partial.shape).IsValid():
            raise StepFailed("the dimensions do not give a closed solid")
        return partial.shape

    def partial(self, steps: list[Step]) -> tuple[PartialSolid, Failure | None]:
        """One body from its steps, each carried out on what is kept of those before it; and the designer's step that failed: the
        part is then as it was before that, and what comes after waits."""
        return self._cached(json.dumps(steps, sort_keys=True))

    def _make(self, text: str) -> tuple[PartialSolid, Failure | None]:
        steps: list[Step] = json.loads(text)
        if not steps:
            return PartialSolid(), None
        *before, step = steps
        partial, failed = self.partial(before)
        if step["do"] in STEPS or step["do"] == "nothing":
            if failed is not None or step.get("off"):
                return partial, failed
            if "why" in step:
                return partial, (step["id"], step["why"])
            self.begun(step["id"])
            try:
                return shaped(partial, self._with_others(step)), None
            except StepFailed as error:
                return partial, (step["id"], str(error))
        if step["do"] == "mirror" and partial.shape is None:
            return partial, failed
        return self._element_step(partial, step, len(steps)), failed

    def _element_step(self, partial: PartialSolid, step: Step, number: int) -> PartialSolid:
        what = f"build step {number} ({step['do']})"
        try:
            partial = (
                self._imported(step) if step["do"] == "imported" else carried_out(partial, step, step.get("id", ""))
            )
            if step.get("id"):
                partial = replace(partial, volume=volume(partial.shape))
        except StepFailed:
            raise
        except Exception as error:  # the kernel raises many kinds; all mean that this step cannot be made
            raise StepFailed(f"{what} cannot be made with these dimensions") from error
        if step["do"] != "extrude" and not BRepCheck_Analyzer(partial.shape).IsValid():
            raise StepFailed(f"{what} does not give a closed solid with these dimensions")
        return partial

    def _with_others(self, data: Any) -> Any:
        """A step with the other parts that it takes outlines or places from: `part` beside their `steps`."""
        if isinstance(data, dict):
            inner = {k: v if k == "steps" else self._with_others(v) for k, v in data.items()}
            return inner | {"part": self.partial(data["steps"])[0]} if "steps" in data else inner
        return [self._with_others(v) for v in data] if isinstance(data, list) else data

    def _closed_body(self, b: dict[str, Any], deviation: float) -> tuple[Body, Failure | None]:
        """A body, and the designer's step that failed. A step after which the surface does not close (a hole that just touches a
        face, say), or cannot be divided into triangles, is one that failed, though the kernel took it."""
        steps = b["steps"]
        if steps and steps[0]["do"] == "imported":
            header, block = self._contents_of(steps[0])
            if header["form"] == "triangles":
                return _of_triangles(b, header["names"], block)
        steps, failed = self._in_one_piece(*self._sound(steps))
        try:
            body = self._body(b["name"], steps, deviation, b["order"])
        except NotTessellated as error:
            body, steps, last = self._divided(b, steps, deviation, error)
            failed = (last, str(error))
        while any("id" in step for step in steps) and not closes(body.triangles):
            *steps, last_step = steps
            if last_step["do"] not in STEPS:
                raise StepFailed("its surface does not close with these dimensions")
            if not steps:
                raise StepFailed(UNCLOSED, last_step["id"])
            failed = (last_step["id"], "it leaves a wall of no thickness, or a surface that does not close")
            body = self._body(b["name"], steps, deviation, b["order"])
        return body, failed

    def _divided(
        self, b: dict[str, Any], steps: list[Step], deviation: float, error: NotTessellated
    ) -> tuple[Body, list[Step], str]:
        """The body before a designer's step after which it cannot be divided into triangles, by halving; those steps, and that one."""
        low, high, body = next((k for k, step in enumerate(steps) if step["do"] in STEPS), len(steps)), len(steps), None
        while high - low > 1:
            k = (low + high) // 2
            try:
                low, body = k, self._body(b["name"], steps[:k], deviation, b["order"])
            except NotTessellated:
                high = k
        if body is None or "id" not in steps[low]:  # an image behind a plane is no step of the designer's
            raise error
        return body, steps[:low], steps[low]["id"]

    def _sound(self, steps: list[Step]) -> tuple[list[Step], Failure | None]:
        """The steps up to the first of a designer's after which the solid is not sound, and that one; all of them where it is."""
        partial, failed = self.partial(steps)
        own = [k for k, step in enumerate(steps) if step["do"] in STEPS]
        if partial.shape is None or not own or BRepCheck_Analyzer(partial.shape).IsValid():
            return steps, failed
        for k in own:
            shape = self.partial(steps[: k + 1])[0].shape
            if shape is not None and not BRepCheck_Analyzer(shape).IsValid():
                return steps[:k], (steps[k]["id"], UNCLOSED)
        return steps, failed

    def _in_one_piece(self, steps: list[Step], failed: Failure | None) -> tuple[list[Step], Failure | None]:
        """The steps up to the one since which the part is in several pieces, and that one; all of them where it is one in the end:
        pieces that a later step joins are as good as any."""
        count = pieces(self.partial(steps)[0].shape)
        if count < 2 or not any(step["do"] in STEPS for step in steps):
            return steps, failed
        whole = next(k for k in range(len(steps), -1, -1) if pieces(self.partial(steps[:k])[0].shape) < 2)
        if steps[whole]["do"] not in STEPS:
            return steps, failed
        why = f"it leaves the part in {count} pieces: a later step must join them"
        if whole == 0:
            raise StepFailed(why, steps[0]["id"])
        return steps[:whole], (steps[whole]["id"], why)

    def _body(self, name: str, steps: list[Step], deviation: float, order: int) -> Body:
        own = any("id" in step for step in steps)
        partial = self.partial(steps)[0] if own else PartialSolid()
        shape = partial.shape or self.shape(steps)  # those of a designer's steps are known to be sound
        return tessellated(name, shape, partial.numbered() if own else Names(), deviation, order, own)

    def _contents_of(self, step: Step) -> tuple[dict[str, Any], bytes]:
        try:
            return unpacked(read_in(self.contents or Path(), step["contents"]))
        except ValueError as error:
            raise StepFailed(str(error)) from error

    def _imported(self, step: Step) -> PartialSolid:
        """A solid that came from elsewhere."""
        from uhrwerk.core.solids.step_reading import shape_of_block  # seldom asked

        header, block = self._contents_of(step)
        if header["form"] != "faces":
            raise StepFailed(TRIANGLES)
        shape = shape_of_block(block)
        faces = each(shape, TopAbs_FACE, TopoDS.Face)
        if len(header["names"]) != len(faces):
            raise StepFailed("its stored copy is damaged")
        named = zip(faces, header["names"], strict=True)
        return PartialSolid(shape, Names((f, f"{step['id']}.{n}") for f, n in named), volume=volume(shape))


def _of_triangles(b: dict[str, Any], names: list[str], block: bytes) -> tuple[Body, Failure | None]:
    """A body of triangles as they came, or its image; build steps on it cannot be carried out."""
    vertices, triangles = triangles_unpacked(block)
    failed = None
    for step in b["steps"][1:]:
        if step["do"] == "mirror":
            vertices, triangles = vertices * [-1, 1, 1], triangles[:, ::-1]
        elif failed is None and not step.get("off"):
            failed = (step["id"], TRIANGLES)
    return triangle_body(b["name"], vertices, triangles, names, b["order"]), failed
