"""The offset of a joint at which the gap to a part has the required value."""

from __future__ import annotations

import itertools
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, JsonValue

from uhrwerk.core.assembly import NotSolvable, compile, solve
from uhrwerk.core.document import Document, ValidationFailed, apply
from uhrwerk.core.document.command import SetValue
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.proximity.body_geometry import BodyGeometry
from uhrwerk.core.proximity.exact_fit import fitted
from uhrwerk.core.quantity import FormulaError, in_unit, length_text

Array = NDArray[np.float64]


class OffsetForGap(BaseModel):
    """The offset at which a gap is as asked, by how much that moves the part, and the command that sets it."""

    offset: str
    moves: str
    command: dict[str, JsonValue]


def seated(document: Document, evaluator: Evaluator, joint: str, against: str, gap: str) -> OffsetForGap:
    """The offset of a joint at which its part b comes as near to another part as asked, sliding along the joint's axis
    from where it is; with the command that sets it."""
    if joint not in document.joints:
        raise ValidationFailed(("joint", f"there is no joint {joint!r}"))
    if against not in document.placed:
        raise ValidationFailed(("against", f"there is no placed part {against!r}"))
    scope = document.scope()
    try:
        wanted = scope.value(gap, "length")
    except FormulaError as error:
        raise ValidationFailed(("gap", f"{gap!r} {error}")) from error
    if wanted < 0:
        raise ValidationFailed(("gap", "must not be negative"))
    here = scope.value(document.joints[joint].offset, "length")
    unit = document.units.length

    def at(offset: float) -> Document:
        return apply(
            document, SetValue(path=f"joints.{joint}.offset", value=f"{in_unit(offset, 'length', unit):.9g} {unit}")
        )

    gap_there = gap_of(at, here, document.joints[joint].b.placed, against, wanted, evaluator)
    text = length_text(gap_there, unit)
    command: dict[str, JsonValue] = {"kind": "set_value", "path": f"joints.{joint}.offset", "value": text}
    return OffsetForGap(offset=text, moves=document.display(gap_there - here, "length"), command=command)


def gap_of(
    at: Callable[[float], Document], here: float, part: str, against: str, wanted: float, evaluator: Evaluator
) -> float:
    """The offset nearest to `here` at which the gap from `part` to `against` is as wanted, m, to a micrometre.

    `at(offset)` gives the document. The gap grows on one side at least: both are searched outward for where it passes
    the wanted value, then halved. ValidationFailed where no offset within the parts' reach does.
    """
    first = _gap_at(at(here), part, against, evaluator)
    if abs(first[0] - wanted) < 1e-7:
        return here
    reach = first[1]
    steps = np.linspace(0, reach, 81)[1:]
    best: float | None = None
    for sense in (1.0, -1.0):
        low, gap = here, first[0]
        for step in steps:
            high = here + sense * step
            if best is not None and abs(high - here) > abs(best - here):
                break
            now = _gap_at(at(high), part, against, evaluator)[0]
            if (gap - wanted) * (now - wanted) <= 0:
                for _ in range(30):
                    mid = (low + high) / 2
                    if (_gap_at(at(mid), part, against, evaluator)[0] - wanted) * (gap - wanted) > 0:
                        low = mid
                    else:
                        high = mid
                    if abs(high - low) < 1e-7:
                        break
                best = high if best is None or abs(high - here) < abs(best - here) else best
                break
            low, gap = high, now
    if best is None:
        raise ValidationFailed(("gap", "sliding along this joint never brings the parts that near to one another"))
    return best


def _gap_at(document: Document, part: str, against: str, evaluator: Evaluator) -> tuple[float, float]:
    """The gap of two placed parts, m, less than nothing where they overlap; and how far a slide is worth trying, m."""
    m = compile(document, evaluator.context)
    try:
        pose = solve(m)
    except NotSolvable as error:
        raise ValidationFailed(("gap", str(error))) from error
    bodies = [forms_of(m.document, p, evaluator) for p in (part, against)]
    at = poses.compose(poses.inverse(m.part_pose(part, pose)), m.part_pose(against, pose))
    spread = max(2 * (a.radius + b.radius) for a, b in itertools.product(*bodies))
    return gap_between(bodies[0], bodies[1], at), spread


def forms_of(
    document: Document, placed: str, evaluator: Evaluator, deviation: float | None = None
) -> list[BodyGeometry]:
    """The bodies of a placed part as they are measured, as coarse as is asked, m. ValidationFailed where its solid cannot be made as it
    is stated."""
    name, solid = evaluator.solid_of(document, placed, deviation)
    if solid.failed is not None:
        part = document.placed[placed].part
        raise ValidationFailed(
            (f"parts.{part}.steps", f"{document.parts[part].name} is not as it is stated: {solid.failed[1]}")
        )
    return [evaluator.bodies.form(name, body) for body in solid.bodies.values()]


def gap_between(one: list[BodyGeometry], other: list[BodyGeometry], at: Array) -> float:
    """The gap of two parts' bodies, m, the other's frame at `at` (7,) in the one's; less than nothing by the depth where they
    overlap."""
    gaps = []
    for a, b in itertools.product(one, other):
        pair = fitted(a, b, at)
        depth = pair.overlap(at)[0] if pair.touches(at) else 0.0
        gaps.append(-depth if depth > 0 else pair.distance(at)[0])
    return min(gaps)
