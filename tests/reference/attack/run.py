"""All kinds of cases in turn, each evaluated and held against its witness."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from time import perf_counter

from tests.reference.attack import drives, followers, loads, sizes, transmissions
from tests.reference.attack.assemblies import assembly
from tests.reference.attack.rig import Case, NotTried, Rig
from tests.reference.attack.witness import Witness
from uhrwerk import Evaluator, ValidationFailed
from uhrwerk.core.assembly import NotSolvable

FAMILIES = (transmissions, followers, loads, sizes, drives)
#: every third case is an assembly: these have by far the most kinds in them
_RIGGED: list[tuple[str, Callable[[Rig], Case]]] = [x for family in FAMILIES for x in family.CASES.items()]


@dataclass
class Tally:
    """How many mechanisms were tried, by what they held; what could not be assembled; and what was wrong, in words."""

    kinds: Counter[str] = field(default_factory=Counter)
    tried: int = 0
    skipped: int = 0
    wrong: list[str] = field(default_factory=list)
    seconds: Counter[str] = field(default_factory=Counter)

    def take(self, other: Tally) -> None:
        self.kinds += other.kinds
        self.seconds.update(other.seconds)
        self.tried, self.skipped, self.wrong = (
            self.tried + other.tried,
            self.skipped + other.skipped,
            self.wrong + other.wrong,
        )


def case_of(seed: int) -> tuple[str, Case]:
    """The case of a seed, and its name."""
    if seed % 3 == 0:
        return "assembly", assembly(seed)
    name, build = (
        _RIGGED[seed // 3 % len(_RIGGED)] if seed % 3 == 1 else _RIGGED[(seed // 3 + len(_RIGGED) // 2) % len(_RIGGED)]
    )
    return name, build(Rig(name, seed))


def attacked(seeds: range, evaluator: Evaluator) -> Tally:
    """Mechanisms of these seeds, all that was found wrong in words."""
    out = Tally()
    for seed in seeds:
        start, name = perf_counter(), "none"
        try:
            name, case = case_of(seed)
            e = evaluator.evaluate(case.document) if case.solids else evaluator.moved(case.document)
            if e.motion is None or e.motion.stop is not None or e.problems:
                raise NotTried
            wrong = case.look(Witness(e))
            out.seconds[name] += perf_counter() - start  # type: ignore[assignment]
        except (ValidationFailed, NotSolvable, NotTried):
            out.skipped += 1
            continue
        out.tried += 1
        out.kinds += case.kinds
        out.kinds[f"case {name}"] += 1
        out.wrong += [f"seed {seed}, {name}: {words}" for words in wrong]
    return out


def share(seeds: range) -> Tally:
    """With an evaluator of its own."""
    evaluator = Evaluator()
    try:
        return attacked(seeds, evaluator)
    finally:
        evaluator.kernel_pool.close()
