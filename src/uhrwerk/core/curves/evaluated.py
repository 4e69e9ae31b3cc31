"""Curves of an evaluated document, each measured once."""

from __future__ import annotations

from uhrwerk.core.curves.curve_of import MeasuredCurve, run
from uhrwerk.core.curves.followed import FollowedMotion, NotMeasured
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.forces import inverse_dynamics, springs
from uhrwerk.core.stages.evaluation import Evaluation, Moved

#: why forces are not known before the solids are
NO_SOLIDS = "all parts must be there, with their solids"


def evaluated_curve(e: Evaluation, i: str) -> MeasuredCurve | NotMeasured:
    """A curve of the document over the cycle, or why it cannot be measured."""

    def measured() -> MeasuredCurve | NotMeasured:
        if not isinstance(e.movement, Moved):
            return NotMeasured("nothing moves yet")
        try:
            return run(e.document, followed(e, e.movement), i)
        except NotMeasured as why:
            return why

    # one of distances is required before the solids are there, and again when they are
    return e.once(f"curve {i}{'' if e.pairs is None else ', with solids'}", measured)


def followed(e: Evaluation, moved: Moved) -> FollowedMotion:
    """What curves are measured from."""

    def gaps(a: Of, b: Of, times: Array) -> Array | None:
        return e.pairs.gaps(a, b, times) if e.pairs is not None else None

    def forces(what: str, of: str, times: Array) -> Array | str:
        if what.startswith("spring "):
            return springs.followed(e, of, what.removeprefix("spring "), times)
        return inverse_dynamics.followed(e, what, of, times) if e.pairs is not None else NO_SOLIDS

    return e.once("followed", lambda: FollowedMotion(e.mechanism, moved.motion, moved.coordinates, gaps, forces))
