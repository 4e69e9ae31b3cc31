"""Clearance: the smallest distance of two parts over the cycle has a lower limit."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.document import Document
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.field import SizeOrNone
from uhrwerk.core.proximity.body_geometry import PlacedBody
from uhrwerk.core.proximity.sweep import EXACT, PairResult
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement, pointed
from uhrwerk.core.stages.verdict import Verdict


class Clearance(Requirement):
    """The smallest distance between two parts over the cycle is at least what is asked."""

    title: ClassVar[str] = "Clearance of two parts"

    kind: Literal["clearance"] = "clearance"
    a: Of = Field(title="Between")
    b: Of = Field(title="And")
    at_least: SizeOrNone = "1 mm"

    def pairs(self, shapes: Sequence[PlacedBody], document: Document) -> Iterator[tuple[int, int, float]]:
        limit = document.scope().value(self.at_least, "length")
        one, other = ([k for k, s in enumerate(shapes) if _is(s.name, of)] for of in (self.a, self.b))
        for i, j in itertools.product(one, other):
            if shapes[i].placed != shapes[j].placed:
                yield min(i, j), max(i, j), limit

    def judge(self, e: Evaluation) -> Verdict:
        limit = e.document.scope().value(self.at_least, "length")
        between = [f for f in e.findings if self._speaks_of(f)]
        why = self._unanswerable(e, bool(between))
        if why:
            return self.undecided(why)
        between = [e.refinement.settled(f, limit) for f in between]
        f = min(between, key=lambda f: f.distance - f.depth)
        value = f.distance - f.depth
        unsure = [g for g in between if g.distance - g.depth - g.error < limit - EXACT or (g.contact and not g.decided)]
        holds = value >= limit - min(f.error, EXACT)
        if holds and unsure:
            return self._undecided(e, min(unsure, key=lambda g: g.distance - g.error), limit)
        shown, names = e.document.display, (e.named(f.a), e.named(f.b))
        words = f"{names[0]} to {names[1]}: {shown(value, 'length')} at {f.time:.4f} s, at least {e.document.limit(limit, 'length')}"
        if f.depth:
            words = f"{names[0]} and {names[1]} overlap by {shown(f.depth, 'length', 3)} at {f.time:.4f} s"
        return Verdict(
            self.name, self.kind, holds, words, value=value, limit=limit, sense=">=", dimension="length", error=f.error,
            time=f.time, parts=(f.a, f.b), points=pointed(f), basis=f.basis, drawn=True,
            short=f"{shown(f.depth, 'length')} deep" if value < 0 else "",
        )  # fmt: skip

    def _speaks_of(self, f: PairResult) -> bool:
        return (_is(f.a, self.a) and _is(f.b, self.b)) or (_is(f.a, self.b) and _is(f.b, self.a))

    def _unanswerable(self, e: Evaluation, near: bool) -> str:
        for x in (self.a, self.b):
            if x.body is not None and x.body not in e.solids[x.placed].bodies:
                return f"{e.document.placed[x.placed].name} has no body {x.body!r} now"
        if near:
            return ""
        placed = [e.document.placed[x.placed] for x in (self.a, self.b)]
        left_out = [p.name for p in placed if p.left_out]
        return f"{left_out[0]} is left out" if left_out else "a clearance needs two different parts"

    def _undecided(self, e: Evaluation, g: PairResult, limit: float) -> Verdict:
        shown = e.document.display
        distance, error = shown(g.distance, "length", 4), shown(g.error, "length", 4)
        words = f"Undecided: {e.named(g.a)} to {e.named(g.b)} is {distance} ± {error}, too close to the limit of {e.document.limit(limit, 'length')}"
        words += f" ({g.basis.rpartition('; ')[2]})" if "gave no result" in g.basis else ""
        return Verdict(
            self.name, self.kind, None, words, limit=limit, sense=">=", dimension="length", error=g.error, time=g.time,
            parts=(g.a, g.b), basis=g.basis,
        )  # fmt: skip


def _is(name: str, of: Of) -> bool:
    """Whether a body, named by placed part and body, is what is spoken of."""
    placed, body = name.split("/")
    return placed == of.placed and of.body in (None, body)
