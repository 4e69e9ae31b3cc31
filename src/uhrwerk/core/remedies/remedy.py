"""Remedies: the smallest change of one number, or of two together, that makes a requirement hold.

Each number near the parts concerned is turned a little and the requirement judged again: how its margin answers tells where it
may hold. There it is bracketed, and closed in on by false position and halving (Illinois: Dowell and Jarratt, BIT 11 (1971);
from memory) among the sizes that can be made, so that what is offered is one of these and was judged itself. Between
the sizes tried the margin is taken to run one way. Last, everything else is judged with it. What was changed last comes first: it
is turned back as far as is needed. Where no number alone will do, the strongest are turned two at a time.
"""

from __future__ import annotations

import itertools
import time as clock
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil, inf

from uhrwerk.core.document import Command, Document, ValidationFailed, parse
from uhrwerk.core.document.document import WHOLE
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.remedies.number import ANGLES, Number, nearest_first, numbers_of
from uhrwerk.core.remedies.pair import Judge, NumberPair
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.verdict import Verdict

#: numbers tried at most, offers made at most, and of how many two are turned together
NUMBERS, OFFERS, STRONGEST = 40, 6, 3
#: how many numbers that were changed last are turned back
LATELY = 3
#: how many numbers that do nothing when turned a little are turned far
FLAT = 12
#: s after which no further number is tried
LONGEST = 120.0
#: how many of the first numbers are tried at once as far as they go, and turned far where two parts overlap
EARLY = 6
#: how far a number is turned to see what it does: a part of itself, or degrees
TURN, TURN_ANGLE = 0.02, 1.0
#: what needs no more than this part of the most that a number is turned is tried at once, others last
NEAR = 0.3
#: what seems to need more than this part of it is not tried
FAR = 3.0
#: an answer of the margin below this part of its size is none
NOTHING = 1e-9


#: gives the evaluation of a document; of what is asked of all pairs, only of that of the bodies named, where some are
Evaluate = Callable[[Document, Sequence[str] | None], Evaluation]


@dataclass(frozen=True)
class Effect:
    """What a change does to another requirement: its answers before and after, and its words after."""

    requirement: str
    name: str
    before: bool | None
    after: bool | None
    words: str

    @property
    def breaks(self) -> bool:
        return self.before is True and self.after is not True


def effects(before: Evaluation, after: Evaluation, but: str = "") -> tuple[Effect, ...]:
    """What becomes of every requirement but one."""
    return tuple(
        Effect(i, v.name, before.verdicts[i].holds, v.holds, v.words) for i, v in after.verdicts.items() if i != but
    )


@dataclass(frozen=True)
class NumberChange:
    """A number with its text before and after."""

    number: Number
    before: str
    after: str
    value: float
    size: float  # as a part of what it was
    least: str = ""  # the smallest change that does, where a rounder one is offered


@dataclass(frozen=True)
class Remedy:
    """Changes that make a requirement hold; its verdict then, what they do to the others, and how much heavier all becomes, kg."""

    changes: tuple[NumberChange, ...]
    verdict: Verdict
    others: tuple[Effect, ...]
    heavier: float

    @property
    def breaks(self) -> list[Effect]:
        return [e for e in self.others if e.breaks]

    @property
    def order(self) -> tuple[int, int, float]:
        """What breaks nothing stands first, then what keeps shared sizes and modules as they are, then the smallest change."""
        last = max(c.number.last_resort for c in self.changes)
        return len(self.breaks), last, sum(c.size for c in self.changes)

    @property
    def command(self) -> Command:
        """The changes as one command."""
        sets = [{"kind": "set_value", "path": c.number.path, "value": c.after} for c in self.changes]
        words = ", ".join(f"{c.number.name} = {c.after}" for c in self.changes)
        return parse(sets[0] if len(sets) == 1 else {"kind": "together", "commands": sets, "words": words})


@dataclass
class Answer:
    """How a number moves the margin: per unit of it, about where it is now; None where it could not be told."""

    number: Number
    slope: float
    margin: float

    @property
    def need(self) -> float:
        """By how much it would have to change, if the margin ran straight."""
        return abs(self.margin / self.slope) if self.slope else inf


class Remedies:
    """The search for one failing requirement of a document, as it was evaluated before. `evaluate` gives the evaluation of another,
    of all pairs of bodies or of two of them alone, and may raise what ends the search. `lately` are numbers that were changed last,
    by their paths, with what they were."""

    def __init__(
        self,
        document: Document,
        before: Evaluation,
        requirement: str,
        evaluate: Evaluate,
        lately: Mapping[str, float] | None = None,
    ) -> None:
        self.document, self.before, self.requirement, self.evaluate = document, before, requirement, evaluate
        self.verdict = before.verdicts[requirement]
        self.lately = lately or {}
        self.offers: list[Remedy] = []
        self.answers: list[Answer] = []
        self.tried = 0
        self.words, self.fraction = "looking for numbers that affect it", 0.0
        #: while a number is looked for, the two bodies that fail speak for all pairs
        self._between: Sequence[str] | None = self.verdict.parts if self._overlaps else None
        self._known: dict[tuple[object, ...], Verdict | None] = {}

    def search(self) -> Iterator[Remedy]:
        """Offers as they are found, not in their order; `offers` has them in it."""
        if self.verdict.holds is not False or self.verdict.margin is None:
            self.words, self.fraction = "there is nothing to remedy, or no measure of how far off it is", 1.0
            return
        about = getattr(self.document.requirements[self.requirement], "pair", "")
        about = about or getattr(self.document.requirements[self.requirement], "joint", "")
        parts = self.verdict.parts or self._parts(about)
        every = numbers_of(self.document)
        changed = [n for n in every if n.path in self.lately][:LATELY]
        for n in changed:
            self.words = f"{n.name}: reverted"
            yield from self._offered(n, lambda n=n: self._back(n, self.lately[n.path]))  # type: ignore[misc]
        others = [n for n in every if n not in changed or not self.offers]
        numbers = nearest_first(self.document, others, parts, about)[:NUMBERS]
        begun, waiting = clock.perf_counter(), list[Answer]()
        flat: list[Number] = []
        for k, n in enumerate(numbers):
            if clock.perf_counter() - begun > LONGEST:
                break
            self.words, self.fraction = f"{n.name}: its effect", 0.7 * k / len(numbers)
            answer = self._answer(n)
            if answer is None:
                if self._overlaps and k < EARLY:  # it may be that it goes right through
                    yield from self._leaps([n])
                else:
                    flat.append(n)
                continue
            self.answers.append(answer)
            soon = 1.0 if k >= EARLY else FAR  # the first soon, whatever it is
            if answer.need <= (NEAR if self.offers else soon) * n.most:
                yield from self._towards(answer)
            elif answer.need < FAR * n.most:
                waiting.append(answer)
        for k, answer in enumerate(sorted(waiting, key=lambda a: a.need / a.number.most)):
            if len(self.offers) >= OFFERS:
                break
            self.words, self.fraction = f"{answer.number.name}: how far", 0.7 + 0.2 * k / len(waiting)
            yield from self._towards(answer)
        if not self.offers and not self._overlaps:
            yield from self._together()
        if not self.offers:
            yield from self._leaps(flat[:FLAT])
        if not self.offers and self._overlaps:
            yield from self._together()
        self.words, self.fraction = self._end(len(numbers)), 1.0

    @property
    def _overlaps(self) -> bool:
        """Whether it fails by two bodies that share space: the depth of that need not tell how far they must part."""
        return len(self.verdict.parts) == 2 and len(self.verdict.points) == 2 and self.verdict.dimension == "length"

    def _parts(self, about: str) -> tuple[str, ...]:
        """Placed parts that a joint or pair holds."""
        for kind in (self.document.joints, self.document.pairs):
            if about in kind:
                return tuple(at.placed for at in getattr(kind[about], "at", ()))
        return ()

    def _end(self, many: int) -> str:
        if self.offers:
            words = f"{len(self.offers)} remed{'ies' if len(self.offers) > 1 else 'y'}"
            words += f", of {many} numbers looked at and {self.tried} verdicts"
            return f"{words}. {self._contradiction()}".removesuffix(". ")
        if not self.answers:
            return f"none of the {many} numbers tried affects it"
        best = max(self.answers, key=lambda a: a.number.most / a.need if a.need else 0.0)
        return (
            f"no single number makes it hold, nor do two of the strongest together: {best.number.name} affects it most, and would have to "
            f"change by {best.number.text(best.need)}"
        )

    def _contradiction(self) -> str:
        """Which two requirements want one number on different sides, and how far each lets it go, where every offer breaks one."""
        if any(not o.breaks for o in self.offers):
            return ""
        offer = next((o for o in self.offers if len(o.changes) == 1), None)
        if offer is None:
            return ""
        change, broken = offer.changes[0], offer.breaks[0]
        n, wants = change.number, change.least or change.after
        way = 1 if offer.changes[0].value > n.value else -1
        low, high = 0, n.sizes_to(n.value, change.value)
        base = n.on_grid(n.value, up=way < 0)
        while high - low > 1:  # it holds at `low` and not at `high`
            k = (low + high) // 2
            answer = self._verdict(((n.path, n.text(n.moved(base, way * k))),), broken.requirement, None)
            low, high = (k, high) if answer is not None and answer.holds else (low, k)
        sides = ("at least", "at most") if way > 0 else ("at most", "at least")
        own = f"{self.verdict.name} needs {n.name} {sides[0]} {wants}, {broken.name} {sides[1]} {n.text(n.moved(base, way * low))}"
        return f"No value satisfies both: {own}. Change what one of them asks, or another number first"

    # trying

    def _judged(self, *changes: tuple[str, str]) -> Verdict | None:
        """The requirement's verdict with numbers changed; None where the document refuses them."""
        key = (*changes, self._between)
        if key not in self._known:
            self.tried += 1
            self._known[key] = self._verdict(changes, self.requirement, self._between)
        return self._known[key]

    def _changed(self, changes: tuple[tuple[str, str], ...]) -> Document:
        after = self.document
        for path, text in changes:
            after = accept(after, parse({"kind": "set_value", "path": path, "value": text}))
        return after

    def _verdict(
        self, changes: tuple[tuple[str, str], ...], requirement: str, between: Sequence[str] | None
    ) -> Verdict | None:
        try:
            after = self._changed(changes)
        except ValidationFailed:
            return None
        alone = after.model_copy(update={"requirements": {requirement: after.requirements[requirement]}})
        return self.evaluate(alone, between).verdicts[requirement]

    def _answer(self, n: Number) -> Answer | None:
        """What turning a number a little does to the margin; None where it does nothing or cannot be told."""
        here = self.verdict.margin
        assert here is not None
        turn = TURN_ANGLE * ANGLES[n.unit] if n.unit in ANGLES else TURN * abs(n.value)
        for sign in (1, -1):
            there = n.on_grid(n.value + sign * max(turn, n.step), up=sign > 0)
            answer = self._judged((n.path, n.text(there)))
            if answer is not None and answer.margin is not None and there != n.value:
                slope = (answer.margin - here) / (there - n.value)
                size = max(abs(here), abs(answer.value or 0.0), abs(answer.limit or 0.0), 1e-12)
                return Answer(n, slope, here) if abs(slope * (there - n.value)) > NOTHING * size else None
        return None

    # one number

    def _towards(self, answer: Answer) -> Iterator[Remedy]:
        way = 1 if answer.slope > 0 else -1
        yield from self._offered(answer.number, lambda: self._smallest(answer.number, way, answer.need))

    def _offered(self, n: Number, find: Callable[[], float | None]) -> Iterator[Remedy]:
        two = self._between
        for self._between in (two, None) if two else (None,):  # where others fail then too, all pairs are asked
            value = find()
            offer = None if value is None else self._rounded(n, value)
            if offer is not None:
                self._keep(offer)
                yield offer
            if offer is not None or value is None:
                break
        self._between = two

    def _rounded(self, n: Number, value: float) -> Remedy | None:
        """The offer of a value, or of a rounder one a little farther that does as well."""
        least = n.text(value)
        for there in n.rounder(value):
            answer = self._judged((n.path, n.text(there)))
            offer = self._proved((n,), (there,)) if answer is not None and answer.holds else None
            if offer is not None and not offer.breaks:
                return replace(offer, changes=(replace(offer.changes[0], least=least),))
        return self._proved((n,), (value,))

    def _leaps(self, flat: list[Number]) -> Iterator[Remedy]:
        """Numbers that do nothing when turned a little, as where one part goes right through another: turned far."""
        for n in flat:
            self.words = f"{n.name}, turned far"
            for way, part in itertools.product((1, -1), (0.5, 1.0)):
                there = n.on_grid(n.value + way * part * n.most, up=way < 0)
                answer = self._judged((n.path, n.text(there)))
                if answer is not None and answer.holds:
                    yield from self._towards(Answer(n, float(way), -part * n.most))
                    break

    def _keep(self, offer: Remedy) -> None:
        self.offers = sorted([*self.offers, offer], key=lambda o: o.order)

    def _sizes(self, n: Number, way: int) -> tuple[Callable[[int], float], Callable[[int], Verdict | None]]:
        """The sizes of a number in a direction, by their count from where it is, and the verdicts there."""
        base = n.on_grid(n.value, up=way < 0)

        def at(k: int) -> float:
            return n.moved(base, way * k)

        return at, lambda k: self._judged((n.path, n.text(at(k))))

    def _back(self, n: Number, old: float) -> float | None:
        """The nearest size on the way back to what it was at which it holds; None where it does not even there."""
        way = 1 if old > n.value else -1
        at, judged = self._sizes(n, way)
        k = max(1, n.sizes_to(at(0), old))
        answer = judged(k)
        if answer is None or not answer.holds:
            return None
        return at(self._closed(judged, (0, self.verdict.margin or -inf), (k, answer)))

    def _smallest(self, n: Number, way: int, need: float) -> float | None:
        """The nearest size in a direction at which it holds; None where it does not up to the most that is tried."""
        most = n.sizes_to(n.value, n.value + way * n.most) if n.series else int(n.most / n.step)
        at, judged = self._sizes(n, way)
        low, low_margin = 0, self.verdict.margin or -inf
        k = min(max(1, n.sizes_to(n.value, n.value + way * 1.05 * need)), max(most, 1))
        while True:
            answer = judged(k)
            if answer is not None and answer.holds:
                break
            if answer is None or answer.margin is None:  # refused, or no answer there: not so far
                most = (low + k) // 2
                if most <= low:
                    return None
                k = most
                continue
            low, low_margin = k, answer.margin
            if k >= most:
                return None
            k = min(most, 2 * k)
        return at(self._closed(judged, (low, low_margin), (k, answer)))

    def _closed(
        self, judged: Callable[[int], Verdict | None], last: tuple[int, float], first: tuple[int, Verdict]
    ) -> int:
        """The first count at which it holds, between the last known at which it does not, with its margin, and one at which it does."""
        (low, low_margin), high, high_margin, halve = last, first[0], first[1].margin, False
        while high - low > 1:
            k = (low + high) // 2
            if not halve and high_margin is not None and high_margin > low_margin > -inf:
                k = low + ceil((high - low) * -low_margin / (high_margin - low_margin))
            k = min(max(k, low + 1), high - 1)
            answer = judged(k)
            if answer is not None and answer.holds:
                high, high_margin, halve = k, answer.margin, not halve
            else:
                low, halve = k, not halve
                low_margin = answer.margin if answer is not None and answer.margin is not None else -inf
        return high

    def _proved(self, numbers: tuple[Number, ...], values: tuple[float, ...]) -> Remedy | None:
        """The offer, with everything judged again; None where the requirement does not hold then."""
        changes = tuple((n.path, n.text(v)) for n, v in zip(numbers, values, strict=True))
        after = self.evaluate(self._changed(changes), None)
        verdict = after.verdicts[self.requirement]
        if verdict.holds is not True:
            return None
        others = effects(self.before, after, self.requirement)
        number_changes = tuple(
            NumberChange(n, n.now, n.text(v), v, n.part(v)) for n, v in zip(numbers, values, strict=True)
        )
        now, was = (e.masses.get(WHOLE) for e in (after, self.before))
        return Remedy(number_changes, verdict, others, now.mass - was.mass if now and was else 0.0)

    # two numbers

    def _together(self) -> Iterator[Remedy]:
        strongest = sorted(
            (a for a in self.answers if not a.number.follows),
            key=lambda a: (not a.number.path.startswith("parameters."), -abs(a.slope) * a.number.most),
        )[:STRONGEST]
        pairs = itertools.combinations(strongest, 2)
        for one, other in sorted(
            pairs, key=lambda p: p[0].number.unit == p[1].number.unit
        ):  # unlike ones do unlike things
            numbers = one.number, other.number
            self.words = f"{one.number.name} and {other.number.name} together"
            last: Remedy | None = None
            for values in NumberPair(*numbers, self._both(*numbers)).changes():
                offer = self._proved(numbers, values)
                if offer is not None:
                    self.offers = [o for o in self.offers if o is not last]  # a smaller change of the same two
                    self._keep(offer)
                    last = offer
                    yield offer

    def _both(self, one: Number, other: Number) -> Judge:
        return lambda texts: self._judged((one.path, texts[0]), (other.path, texts[1]))
