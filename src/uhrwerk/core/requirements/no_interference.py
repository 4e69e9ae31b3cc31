"""Nothing overlaps: no two parts share space at any moment of the cycle, beyond a stated depth."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import SizeOrNone
from uhrwerk.core.proximity.sweep import PairResult
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement, pointed
from uhrwerk.core.stages.verdict import Verdict


class NoInterference(Requirement):
    """No two parts share space at any moment of the cycle, beyond a stated depth."""

    title: ClassVar[str] = "Nothing overlaps"
    everything: ClassVar[bool] = True

    kind: Literal["no_interference"] = "no_interference"
    depth: SizeOrNone = "0.002 mm"

    def judge(self, e: Evaluation) -> Verdict:
        limit = e.document.scope().value(self.depth, "length")
        judged = []
        for k, f in enumerate(e.findings, 1):
            e.report(f": pair {k} of {len(e.findings)}")
            judged.append(e.refinement.overlaps(f, limit))
        deep = sorted((f for f, overlaps in judged if overlaps), key=lambda f: -f.depth)
        if deep:
            return self._fails(e, deep, limit)
        unsure = [f for f, overlaps in judged if overlaps is None]
        if unsure:
            return self._undecided(e, min(unsure, key=lambda f: f.distance - f.depth), limit)
        return self._holds(e, [f for f, _ in judged], limit)

    def _fails(self, e: Evaluation, deep: list[PairResult], limit: float) -> Verdict:
        f = deep[0]
        depth = e.document.display(f.depth, "length", 3)
        words = f"{e.named(f.a)} and {e.named(f.b)} overlap by {depth} at {f.time:.4f} s"
        if len(deep) > 1:
            words += f"; {len(deep) - 1} more pair{'s overlap' if len(deep) > 2 else ' overlaps'}"
        return Verdict(
            self.name, self.kind, False, words, value=f.depth, limit=limit, sense="<=", dimension="length", error=f.error,
            time=f.time, parts=(f.a, f.b), points=pointed(f), basis=f.basis, drawn=True,
            short=f"{e.document.display(f.depth, 'length')} deep",
        )  # fmt: skip

    def _undecided(self, e: Evaluation, f: PairResult, limit: float) -> Verdict:
        shown, both = e.document.display, f"{e.named(f.a)} and {e.named(f.b)}"
        if f.depth:
            depth, error = shown(f.depth, "length", 4), shown(f.error, "length", 4)
            words = f"Undecided: {both} overlap by {depth} ± {error}, too close to the limit"
        else:
            near, error = shown(f.distance, "length", 3), shown(f.error, "length", 3)
            words = f"Undecided: {both} come within {near} ± {error}"
        words += f" at {f.time:.4f} s; whether they touch was not decided: give them more clearance, or allow a depth"
        return Verdict(
            self.name, self.kind, None, words, limit=limit, sense="<=", dimension="length", error=f.error, time=f.time,
            parts=(f.a, f.b), basis=f.basis,
        )  # fmt: skip

    def _holds(self, e: Evaluation, settled: list[PairResult], limit: float) -> Verdict:
        worst = max(settled, key=lambda f: f.depth, default=None)
        contacts = sum(f.contact for f in settled)
        words = f"no two parts share space deeper than {e.document.limit(limit, 'length', 3)}"
        words += f"; {contacts} intended contact{'s' * (contacts != 1)}" if contacts else ""
        basis = f"{len(settled)} pairs of bodies over the whole cycle"
        apart = e.swept.known_apart if e.swept is not None else 0
        basis += f", and {apart} whose boxes never meet" if apart else ""
        bases = {f.basis.split(":")[0].split(";")[0] for f in settled}
        basis += "; gears in mesh sampled" if "sampled" in bases else ""
        basis += "; touches sampled" if any(f.contact and "sampled" in f.basis for f in settled) else ""
        depth, error = (0.0, 0.0) if worst is None or not worst.depth else (worst.depth, worst.error)
        return Verdict(
            self.name, self.kind, True, words, value=depth, limit=limit, sense="<=", dimension="length", error=error,
            basis=basis, short=f"{e.document.display(depth, 'length')}",
        )  # fmt: skip
