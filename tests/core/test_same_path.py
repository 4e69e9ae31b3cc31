"""What hangs on where bodies go alone is kept where only their speed is changed."""

from __future__ import annotations

import numpy as np

from tests.mechanisms import planetary
from uhrwerk.core.document import apply, parse
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.proximity import sweep


def test_discs_round_gears_are_not_looked_at_again_for_another_speed(evaluator: Evaluator, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    """Three planets between sun and ring: another speed finds every bound again; another size of tooth does not."""
    document = planetary(24, 12, 3, "ring", thinning="0.08 mm")
    first = evaluator.evaluate(document).verdicts["nothing_overlaps"]
    sought: list[float] = []
    monkeypatch.setattr(sweep, "nearest", _counted(sweep.nearest, sought))
    driver = next(iter(document.drivers))
    faster = apply(document, parse({"kind": "set_value", "path": f"drivers.{driver}.speed", "value": "73 rpm"}))
    again = evaluator.evaluate(faster).verdicts["nothing_overlaps"]
    assert (first.holds, again.holds) == (True, True)
    assert not sought
    for part in ("sun", "planet", "ring"):
        faster = apply(
            faster, parse({"kind": "set_value", "path": f"parts.{part}.element.thinning", "value": "0.1 mm"})
        )
    evaluator.evaluate(faster)
    assert sought


def _counted(nearest, sought: list[float]):  # type: ignore[no-untyped-def]
    def counted(*args, **how):  # type: ignore[no-untyped-def]
        found = nearest(*args, **how)
        if how.get("most") == 400:
            sought.append(float(np.asarray(found.lower)))
        return found

    return counted
