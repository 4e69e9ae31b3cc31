"""Remedies as the card shows them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from typing_extensions import TypedDict

from uhrwerk.core.document import Document
from uhrwerk.core.remedies import Answer, Remedy
from uhrwerk.core.remedies.remedy import Effect

#: numbers shown of those that move a requirement
SHOWN = 6
#: kg: a change of the mass below this is none
LIGHT = 5e-7


class NumberChangeShown(TypedDict):
    """A number by its path, with its text before and after."""

    path: str
    name: str
    before: str
    after: str


class ChangedVerdict(TypedDict):
    """What becomes of another requirement."""

    name: str
    words: str
    breaks: bool


class RemedyShown(TypedDict):
    """Changes of numbers that make a requirement hold, what they do to the others, and the command that makes them."""

    id: str
    changes: list[NumberChangeShown]
    words: str
    breaks: bool
    effects: list[ChangedVerdict]
    mass: str
    command: dict[str, Any]


class SensitiveNumber(TypedDict):
    """A number that moves the requirement, and how strongly, in words; `card` is where it stands."""

    path: str
    name: str
    words: str
    card: str


def moves(document: Document, answers: list[Answer], dimension: str) -> list[SensitiveNumber]:
    """The strongest first, by how much a twentieth of it does; what the margin does, found by turning each a little."""
    strongest = sorted(answers, key=lambda a: -abs(a.slope) * max(abs(a.number.value), 10 * a.number.step))
    out: list[SensitiveNumber] = []
    for a in strongest[:SHOWN]:
        n, one = a.number, abs(a.slope) if a.number.unit else abs(a.slope * a.number.step)
        each = f"1 {n.unit} more" if n.unit else f"{n.step:g} more"
        what = document.display(one, dimension) if dimension else f"{one:.3g}"
        words = f"{each}: {what} {'better' if a.slope > 0 else 'worse'}"
        out.append({"path": n.path, "name": n.name, "words": words, "card": _card(document, n.path)})
    return out


def _card(document: Document, path: str) -> str:
    kind, key = path.split(".")[:2]
    if kind != "parts":
        return f"{kind}.{key}"
    return next((f"placed.{i}" for i, p in document.placed.items() if p.part == key), "")


def changed_verdicts(others: Iterable[Effect]) -> list[ChangedVerdict]:
    """What becomes of requirements whose answer is another one."""
    out: list[ChangedVerdict] = []
    for e in others:
        if e.before is not e.after:
            what = "would be undecided" if e.after is None else "now holds" if e.after else "now fails"
            out.append({"name": e.name, "words": f"{what}: {e.words}", "breaks": e.breaks})
    return out


def offers(document: Document, remedies: list[Remedy]) -> list[RemedyShown]:
    return [_offer(document, r) for r in remedies]


def _offer(document: Document, r: Remedy) -> RemedyShown:
    changes: list[NumberChangeShown] = [
        {"path": c.number.path, "name": c.number.name, "before": c.before, "after": c.after} for c in r.changes
    ]
    heavier = r.heavier
    mass = (
        ""
        if abs(heavier) < LIGHT
        else f"{document.display(abs(heavier), 'mass')} {'heavier' if heavier > 0 else 'lighter'}"
    )
    return {
        "id": " ".join(f"{c['path']}={c['after']}" for c in changes), "changes": changes, "words": r.verdict.words + "".join(f"; it holds from {c.least} on" for c in r.changes if c.least),
        "breaks": bool(r.breaks), "effects": changed_verdicts(r.others), "mass": mass, "command": r.command.model_dump(mode="json"),
    }  # fmt: skip
