"""remedy: for every failing requirement of the demo, the time to the first offer and to all; the first is taken and holds."""

from __future__ import annotations

import tempfile
import time
from importlib import import_module
from pathlib import Path

from uhrwerk.core.edit.accept import accept
from uhrwerk.core.evaluate import Evaluator
from uhrwerk.core.revise import Remedies
from uhrwerk.demo import MODULES


def bench_remedy() -> str:
    """Of each: first offer, all offers, how many, and what stands first at the end."""
    out = ["remedy                                    first      all   offers   (aim: first under 2 s)"]
    with tempfile.TemporaryDirectory() as folder:
        evaluator = Evaluator(Path(folder), 60, workers=2)
        for module in MODULES:
            document = getattr(import_module(f"uhrwerk.demo.{module}"), module)()
            before = evaluator.evaluate(document)
            for i, v in before.verdicts.items():
                if v.holds is False:
                    out.append(_timed(evaluator, document, before, i, f"{module.replace('_', ' ')}: {v.name}"))
        evaluator.close()
    return "\n".join(out)


def _timed(evaluator: Evaluator, document: object, before: object, i: str, name: str) -> str:
    begun, first = time.perf_counter(), float("nan")
    search = Remedies(document, before, i, lambda d, two: evaluator.evaluate(d, between=two))  # type: ignore[arg-type]
    for k, _ in enumerate(search.search()):
        if k == 0:
            first = time.perf_counter() - begun
    whole = time.perf_counter() - begun
    if not search.offers:
        return f"{name:38} {'none':>8} {whole:6.1f} s   {search.words}"
    best = search.offers[0]
    taken = evaluator.evaluate(accept(document, best.command)).verdicts[i].holds  # type: ignore[arg-type]
    words = ", ".join(f"{c.number.name} {c.before} to {c.after}" for c in best.changes)
    return f"{name:38} {first:6.1f} s {whole:6.1f} s   {len(search.offers)}   {words}: {'holds' if taken else 'DOES NOT HOLD'}"
