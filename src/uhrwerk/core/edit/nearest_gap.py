"""The gap of a changed part to its nearest neighbour, while a face is pulled."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel

from uhrwerk.core.document import Document, ValidationFailed
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.edit.solve_offset import forms_of, gap_between
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.proximity.body_geometry import BodyGeometry
from uhrwerk.core.requirements.clearance import Clearance

#: triangles of what is being pulled stray so far from its curved faces, m: it is to follow the pointer
PULLED = 4e-5


class Nearest(BaseModel):
    """The nearest placed part, the gap to it, m (less than nothing: overlap), and both in words."""

    placed: str
    gap: float
    words: str


def nearest(
    document: Document, placed: str, at: dict[str, list[float]], evaluator: Evaluator, rough: float | None = PULLED
) -> Nearest | None:
    """The neighbour that a placed part is nearest to, where all stand at poses `at` (7,) m; None where it is alone. Measured
    on triangles: the words carry what they may be off."""
    own = forms_of(document, placed, evaluator, rough)
    here = np.array(at[placed])
    best: Nearest | None = None
    unlike = []
    for other, pose in at.items():
        if other == placed or other not in document.placed or document.placed[other].left_out:
            continue
        try:
            forms = forms_of(document, other, evaluator)
        except ValidationFailed:
            unlike.append(document.placed[other].name)
            continue
        between: Array = poses.compose(poses.inverse(here), np.array(pose))
        if best is not None and _apart(own, forms, between) > best.gap:
            continue
        gap = gap_between(own, forms, between)
        if best is None or gap < best.gap:
            off = max(f.body.deviation for f in own) + max(f.body.deviation for f in forms)
            name, size = document.placed[other].name, document.display(abs(gap), "length")
            words = f"{size} ± {document.display(off, 'length')} to {name}" if gap > 0 else f"{size} into {name}"
            best = Nearest(placed=other, gap=gap, words=words)
    if best is not None and unlike:
        best.words += f"; not measured: {', '.join(unlike)}, which cannot be made as stated"
    return best


def gap_to(
    document: Document, placed: str, other: str, at: dict[str, list[float]], evaluator: Evaluator
) -> float | None:
    """The gap of a placed part to another, m, less than nothing by the depth where they overlap; None where that one cannot be made."""
    try:
        own, forms = forms_of(document, placed, evaluator), forms_of(document, other, evaluator)
    except ValidationFailed:
        return None
    between: Array = poses.compose(poses.inverse(np.array(at[placed])), np.array(at[other]))
    return gap_between(own, forms, between)


def gaps_over_cycle(
    document: Document, placed: str, others: Sequence[str], about: float, evaluator: Evaluator
) -> dict[str, float]:
    """The smallest gap of a placed part to each of others over the cycle, m, less than nothing by the depth where they overlap: known best
    where it is about as stated, m. ValidationFailed where nothing can be told of the motion."""
    requirements = {
        f"gap_{k}": Clearance(name=other, a=Of(placed=placed), b=Of(placed=other), at_least=f"{max(about, 0.0)!r} m")
        for k, other in enumerate(others)
    }
    e = evaluator.evaluate(document.model_copy(update={"requirements": requirements}))
    if e.problems or e.motion is None:
        why = e.problems[0].words if e.problems else "nothing moves"
        raise ValidationFailed(("gap", f"the cycle cannot be looked at: {why}"))
    known = {requirements[i].name: v.value for i, v in e.verdicts.items()}
    return {other: value for other, value in known.items() if value is not None}


def _apart(one: list[BodyGeometry], other: list[BodyGeometry], at: Array) -> float:
    """A distance that two parts are apart at least, by the spheres round their bodies, m."""
    return float(
        min(
            float(np.linalg.norm(poses.place(at, b.centre) - a.centre)) - a.radius - b.radius
            for a in one
            for b in other
        )
    )
