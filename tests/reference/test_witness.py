"""No verdict that could be wrong: random mechanisms, speeds, turns and frames against a dense witness of closed forms.

Each case is placed 10,000 times by its closed form and measured by formulas of the plane (tests/witness.py). "Holds" must
never be said where the witness fails, and no value may lie outside its ±. Cases and seed are printed.
"""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from tests.witness import KINDS, WIDTH, segments_apart
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.proximity.refinement import EXACT

SEED, CASES = 7, 2000
PARTS = 20  # a part each test, so that none comes near its time limit on a slow machine
#: overlaps less deep than this are compared too, m: past it a bar's bore lies within what is shared
SHALLOW = 2.5e-3


def test_the_witness_measures_as_shapely_does() -> None:
    random = np.random.default_rng(3)
    ends = random.normal(size=(4, 500)) + 1j * random.normal(size=(4, 500))
    found = segments_apart(*ends)
    for k in range(500):
        one, other = (shapely.LineString([(p.real, p.imag) for p in ends[i : i + 2, k]]) for i in (0, 2))
        assert found[k] == pytest.approx(one.distance(other), abs=1e-12)


@pytest.mark.parametrize("part", range(PARTS))
def test_no_verdict_holds_where_the_witness_fails(evaluator: Evaluator, part: int) -> None:
    random = np.random.default_rng([SEED, part])
    told, deep = {True: 0, False: 0, None: 0}, 0
    wrong = []
    for k in range(CASES // PARTS):
        case = KINDS[k % len(KINDS)](random)
        result = evaluator.evaluate(case.document)
        apart, gap = result.verdicts["apart"], result.verdicts["gap"]
        truth = case.smallest()
        told[gap.holds] += 1
        about = f"case {k} of part {part}, seed {SEED}: {case.words}: witness {truth * 1e3:.5f} mm, limit {case.limit * 1e3:.5f} mm; {gap.words} ± {gap.error * 1e3:.5f} mm; {apart.words}"
        if gap.holds and truth < case.limit - EXACT:
            wrong.append(f"the clearance holds: {about}")
        if apart.holds and truth < -5e-6:
            wrong.append(f"nothing overlaps: {about}")
        if gap.holds is False and truth > case.limit + gap.error + EXACT:
            wrong.append(f"the clearance fails: {about}")
        if apart.holds is False and truth > 0:
            wrong.append(f"something overlaps: {about}")
        if gap.value is not None and truth > 0 and abs(gap.value - truth) > gap.error + 1e-9:
            wrong.append(f"the value lies outside its error: {about}")
        if (
            -SHALLOW < truth < 0 and apart.value is not None
        ):  # the smallest width of what bands share is then their depth
            deep += 1
            if abs(apart.value + truth) > apart.error + 1e-9:
                wrong.append(f"the depth {apart.value * 1e3:.5f} ± {apart.error * 1e3:.5f} mm lies outside: {about}")
        if gap.value is not None and gap.value < 0 and truth > 0:
            wrong.append(f"overlap where there is none: {about}")
    print(f"part {part} of {PARTS}, seed {SEED}: {CASES // PARTS} cases, {told}, {deep} depths, {len(wrong)} wrong")
    assert not wrong, "\n".join(wrong[:8])
    assert told[True] >= 5
    assert told[False] >= 5
    assert told[None] < CASES // PARTS / 10
    assert WIDTH > 0
