"""Remedies as the card shows them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from typing_extensions import TypedDict

from uhrwerk.core.document import Document
from uhrwerk.core.revise import Remedy
from uhrwerk.core.revise.remedy import Effect

#: kg: a change of the mass below this is none
LIGHT = 5e-7


class Turned(TypedDict):
    """A number by its path, with its text before and after."""

    path: str
    name: str
    before: str
    after: str


class Told(TypedDict):
    """What becomes of another requirement."""

    name: str
    words: str
    breaks: bool


class Offer(TypedDict):
    """Changes of numbers that make a requirement hold, what they do to the others, and the command that makes them."""

    id: str
    changes: list[Turned]
    words: str
    breaks: bool
    effects: list[Told]
    mass: str
    command: dict[str, Any]


def told(others: Iterable[Effect]) -> list[Told]:
    """What becomes of requirements whose answer is another one."""
    out: list[Told] = []
    for e in others:
        if e.before is not e.after:
            what = "has no answer then" if e.after is None else "now holds" if e.after else "now fails"
            out.append({"name": e.name, "words": f"{what}: {e.words}", "breaks": e.breaks})
    return out


def offers(document: Document, found: list[Remedy]) -> list[Offer]:
    return [_offer(document, r) for r in found]


def _offer(document: Document, r: Remedy) -> Offer:
    changes: list[Turned] = [
        {"path": c.number.path, "name": c.number.name, "before": c.before, "after": c.after} for c in r.changes
    ]
    heavier = r.heavier
    mass = (
        ""
        if abs(heavier) < LIGHT
        else f"{document.shown(abs(heavier), 'mass')} {'heavier' if heavier > 0 else 'lighter'}"
    )
    return {
        "id": " ".join(f"{c['path']}={c['after']}" for c in changes), "changes": changes, "words": r.verdict.words,
        "breaks": bool(r.breaks), "effects": told(r.others), "mass": mass, "command": r.command.model_dump(mode="json"),
    }  # fmt: skip
