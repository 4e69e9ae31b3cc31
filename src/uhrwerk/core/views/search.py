"""A search as the card shows it."""

from __future__ import annotations

from math import log10

from typing_extensions import TypedDict

from uhrwerk.core.document import Document
from uhrwerk.core.remedies import Search, SearchStep


class SearchStepShown(TypedDict):
    """A step: its numbers and the goal's value as texts, whether all conditions held, and how high it stands in the picture, 0 to 1."""

    number: int
    texts: list[str]
    value: str
    holds: bool
    failing: list[str]
    high: float | None


class SearchShown(TypedDict):
    state: str
    words: str
    names: list[str]
    steps: list[SearchStepShown]
    best: int | None
    rounded: int | None


def search(document: Document, s: Search, state: str) -> SearchShown:
    kind = s.goal.of.partition(".")[0]
    dimension = "mass" if kind == "masses" else s.dimension
    steps = list(s.steps)
    costs = [None if x.value is None else _height(s, x.value) for x in steps]
    known = [c for c in costs if c is not None]
    low, high = min(known, default=0.0), max(known, default=1.0)
    best = s.best
    return {
        "state": state, "words": s.words, "names": [r.number.name for r in s.ranges],
        "steps": [_step(document, dimension, x, None if c is None else (c - low) / ((high - low) or 1.0)) for x, c in zip(steps, costs, strict=True)],
        "best": None if best is None else best.number, "rounded": None if s.rounded is None else s.rounded.number,
    }  # fmt: skip


def _height(s: Search, value: float) -> float:
    """A goal that is to be met is drawn by the powers of ten that it is off."""
    return log10(max(abs(value - s.goal.to), 1e-12)) if s.goal.way == "equal" else s.goal.cost(value)


def _step(document: Document, dimension: str, x: SearchStep, high: float | None) -> SearchStepShown:
    value = "" if x.value is None else document.display(x.value, dimension, 5) if dimension else f"{x.value:.6g}"
    texts = [_short(t) for t in x.texts]
    return {
        "number": x.number,
        "texts": texts,
        "value": value,
        "holds": x.holds,
        "failing": list(x.failing),
        "high": high,
    }


def _short(text: str) -> str:
    """`20.96583834100047 mm` as `20.9658 mm`."""
    return " ".join(
        f"{float(w):.6g}" if w.replace(".", "", 1).replace("-", "", 1).isdigit() else w for w in text.split()
    )
