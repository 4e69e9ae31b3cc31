"""breaks: random single numbers of the mended demo are spoilt; the first offer is taken, and the next smaller sizes are tried.

As on the page, the search knows what was changed last. What a break spoils must hold again with the first offer; every other requirement that fails then must have been named by it; and no
smaller change of the same number, by whole steps, may do.
"""

from __future__ import annotations

import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from uhrwerk.core.document import Document
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.remedies import Number, Remedies, lately, numbers_of
from uhrwerk.demo import MODULES, mended
from uhrwerk.draft import Draft

BREAKS, SEED = 100, 11
#: smaller changes of an offer that are tried, those beside it first
TRIED = 6
#: a search that has found nothing by then is left, s
PATIENCE = 60.0


@dataclass
class Sums:
    breaks: int = 0
    none: int = 0
    held: int = 0
    unsaid: int = 0
    larger: int = 0
    late: int = 0


def bench_breaks(count: int = BREAKS) -> str:
    random, sums, first, lines = np.random.default_rng(SEED), Sums(), [], []
    with tempfile.TemporaryDirectory() as folder:
        evaluator = Evaluator(Path(folder), 60, workers=2)
        documents = {m: mended(m) for m in MODULES}
        while sums.breaks < count:
            module = MODULES[sums.breaks % len(MODULES)]
            broken = _broken(evaluator, documents[module], random)
            if broken is None:
                continue
            sums.breaks += 1
            told = _mended(evaluator, *broken[:3], sums, first)
            lines.append(f"  {module}: {broken[3]}: {told}")
            print(lines[-1], flush=True)
        evaluator.close()
    return (
        f"breaks {sums.breaks} random numbers spoilt: {sums.held} first offers hold when taken, {sums.none} without an offer, {sums.late} none in {PATIENCE:.0f} s; "
        f"{sums.unsaid} broke another requirement unsaid, {sums.larger} larger than needed; first offer {np.median(first):.1f} s at the median, {np.max(first):.1f} s at most"
    )


def _broken(
    evaluator: Evaluator, document: Document, random: np.random.Generator
) -> tuple[Document, str, dict[str, float], str] | None:
    """The document with a number changed so that a requirement fails that held, which one, and what was done; None where it is not."""
    numbers = numbers_of(document)
    n = numbers[int(random.integers(len(numbers)))]
    by = float(random.choice([-1, 1]) * random.uniform(0.05, 0.3)) * (abs(n.value) or 10 * n.step)
    text = n.text(n.on_grid(n.value + by, up=by > 0))
    try:
        draft = Draft("x", document)
        draft.set(n.path, text)
    except ValidationFailed:
        return None
    e, before = evaluator.evaluate(draft.document), evaluator.evaluate(document)
    failing = [i for i, v in e.verdicts.items() if v.holds is False and before.verdicts[i].holds is True]
    return (
        (
            draft.document,
            failing[0],
            lately(document, draft.document),
            f"{n.name} {n.now} to {text}, {e.verdicts[failing[0]].name}",
        )
        if failing
        else None
    )


def _mended(
    evaluator: Evaluator,
    document: Document,
    requirement: str,
    changed: dict[str, float],
    sums: Sums,
    first: list[float],
) -> str:
    before, begun = evaluator.evaluate(document), time.perf_counter()
    search = Remedies(document, before, requirement, lambda d, two: evaluator.evaluate(d, between=two), changed)
    for _ in search.search():
        break
    took = time.perf_counter() - begun
    if not search.offers:
        sums.none += 1
        return f"none after {took:.1f} s: {search.words}"
    first.append(took)
    sums.late += took > PATIENCE
    offer = search.offers[0]
    e = evaluator.evaluate(accept(document, offer.command))
    held = e.verdicts[requirement].holds is True
    sums.held += held
    named = {x.requirement for x in offer.breaks}
    worse = {i for i, v in e.verdicts.items() if v.holds is not True and before.verdicts[i].holds is True}
    sums.unsaid += bool(worse - named)
    larger = len(offer.changes) == 1 and _smaller(
        evaluator, document, requirement, offer.changes[0].number, offer.changes[0].after
    )
    sums.larger += bool(larger)
    words = ", ".join(f"{c.number.name} {c.before} to {c.after}" for c in offer.changes)
    return f"{took:.1f} s, {words}{'' if held else ': DOES NOT HOLD'}{': UNSAID ' + ', '.join(worse - named) if worse - named else ''}{f': {larger} WOULD DO' if larger else ''}"


def _smaller(evaluator: Evaluator, document: Document, requirement: str, n: Number, after: str) -> str:
    """A smaller change of the same number, by whole steps, that would do as well; empty where none of those tried does."""
    value = _value(after, n)
    steps = n.sizes_to(n.value, value)
    sign = 1 if value > n.value else -1
    beside = list(range(steps - 1, 0, -1))
    tried = (
        beside[:2] + [beside[int(k)] for k in np.linspace(2, len(beside) - 1, TRIED - 2)]
        if len(beside) > TRIED
        else beside
    )
    for k in dict.fromkeys(tried):
        size = n.moved(value, -sign * (steps - k))
        draft = Draft("x", document)
        try:
            draft.set(n.path, n.text(size))
        except ValidationFailed:
            continue
        if evaluator.evaluate(draft.document).verdicts[requirement].holds is True:
            return n.text(size)
    return ""


def _value(text: str, n: Number) -> float:
    """The number in a text of an offer."""
    if not n.follows:
        return float(text.removesuffix(n.unit).strip())
    rest = text.removeprefix(n.follows).replace(" ", "").removesuffix(n.unit)
    return float(rest) if rest else 0.0
