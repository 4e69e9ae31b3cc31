"""Two revisions compared, as the page shows them: numbers, verdicts, mass."""

from __future__ import annotations

from typing_extensions import TypedDict

from uhrwerk.core.document import Document
from uhrwerk.core.document.document import WHOLE
from uhrwerk.core.remedies import compared
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.verdict import Verdict
from uhrwerk.core.views.view import reach


class ChangeShown(TypedDict):
    """What reads otherwise; nothing stands where only the other has it."""

    path: str
    name: str
    before: str
    after: str


class VerdictsShown(TypedDict):
    """A requirement in both: its answers (null: none, or not asked) and values in words. `turned`: the answer is another one. `mark`:
    its former value as a part of the tile's bar, where it has one."""

    requirement: str
    name: str
    before: bool | None
    after: bool | None
    was: str
    now: str
    turned: bool
    mark: float | None


class Comparison(TypedDict):
    changes: list[ChangeShown]
    verdicts: list[VerdictsShown]
    mass: str


def comparison(before: Document, after: Document, was: Evaluation, now: Evaluation) -> Comparison:
    """`was` and `now` are the evaluations of both."""
    changes: list[ChangeShown] = [
        {"path": d.path, "name": d.name, "before": d.before, "after": d.after} for d in compared(before, after)
    ]
    verdicts: list[VerdictsShown] = []
    for i in dict.fromkeys([*was.verdicts, *now.verdicts]):
        a, b = was.verdicts.get(i), now.verdicts.get(i)
        named = b or a
        assert named is not None
        texts = _value(was, a), _value(now, b)
        if texts[0] != texts[1] or (a and a.holds) is not (b and b.holds):
            verdicts.append({
                "requirement": i, "mark": _mark(a, b), "name": named.name, "before": a.holds if a else None, "after": b.holds if b else None, "was": texts[0], "now": texts[1],
                "turned": (a.holds if a else None) is not (b.holds if b else None),
            })  # fmt: skip
    return {"changes": changes, "verdicts": verdicts, "mass": _heavier(was, now)}


def _mark(was: Verdict | None, now: Verdict | None) -> float | None:
    if was is None or now is None or was.value is None or now.value is None or now.limit == 0:
        return None
    return min(1.0, abs(was.value) / reach(now))


def _value(e: Evaluation, v: Verdict | None) -> str:
    if v is None:
        return "not required"
    if v.value is None:
        return {True: "holds", False: "fails", None: "undecided"}[v.holds]
    return v.short or e.document.display(v.value, v.dimension)


def _heavier(was: Evaluation, now: Evaluation) -> str:
    if WHOLE not in was.masses or WHOLE not in now.masses:
        return ""
    more = now.masses[WHOLE].mass - was.masses[WHOLE].mass
    if abs(more) < 5e-7:
        return ""
    return f"{now.document.display(abs(more), 'mass')} {'heavier' if more > 0 else 'lighter'}"
