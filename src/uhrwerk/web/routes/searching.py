"""Searches: numbers that bring a value to a goal while requirements hold; every step can be had."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends
from pydantic import BaseModel, Field

from uhrwerk.core import views
from uhrwerk.core.document import Document, ValidationFailed
from uhrwerk.core.evaluation.evaluator import Evaluation
from uhrwerk.core.quantity import FormulaError
from uhrwerk.core.remedies import Goal, Number, Range, numbers_of
from uhrwerk.core.remedies.number import nearest_first
from uhrwerk.core.remedies.search import MOST, ranges
from uhrwerk.store import Missing
from uhrwerk.web.services import PathNumber, RequestBody, ServicesOfCall, evaluated

router = APIRouter(prefix="/api/mechanisms/{mechanism}", tags=["searches"])
#: numbers that are offered
OFFERED = 9
Text = Annotated[str, Field(max_length=400)]


class SearchableNumber(BaseModel):
    """A number that may be turned, and between what, as texts in its own unit."""

    path: str
    name: str
    text: str
    low: str
    high: str


class Searchable(BaseModel):
    """Goal, numbers and conditions that a search about a requirement can have: its goal, numbers, the nearest first, and the other requirements by id."""

    goal: str
    way: str
    to: str
    numbers: list[SearchableNumber]
    conditions: dict[str, str]


class NumberLimits(RequestBody):
    path: Text
    low: Text
    high: Text


class SearchRequest(RequestBody):
    """A search: what is sought, which numbers are turned between what, and which requirements must hold."""

    of: Text
    way: Literal["least", "most", "equal"]
    to: Text = ""
    numbers: Annotated[list[NumberLimits], Field(min_length=1, max_length=MOST)]
    conditions: Annotated[list[Text], Field(max_length=200)] = []


class SearchStarted(BaseModel):
    id: int


class SearchStepCommand(BaseModel):
    """The change that a step is, and its numbers by path."""

    command: dict[str, Any]
    values: dict[str, str]


@router.get(
    "/revisions/{revision}/searchable/{requirement}",
    summary="Goal, numbers and conditions that a search about a requirement can have",
    dependencies=[Depends(evaluated)],
)
def searchable(services: ServicesOfCall, mechanism: str, revision: PathNumber, requirement: str) -> Searchable:
    e = services.result(mechanism, revision)
    if requirement not in e.verdicts:
        raise Missing("There is no such requirement.")
    v, document = e.verdicts[requirement], e.stated
    joint = getattr(document.requirements[requirement], "joint", "")
    near = nearest_first(document, [n for n in numbers_of(document) if not n.follows], v.parts, joint)
    numbers = [
        SearchableNumber(path=r.number.path, name=r.number.name, text=r.number.now, low=r.number.text(r.low), high=r.number.text(r.high))
        for r in ranges(near[:OFFERED])
    ]  # fmt: skip
    unit = document.unit_of(v.dimension) if v.dimension else ""
    others = {i: x.name for i, x in document.requirements.items() if i != requirement}
    return Searchable(
        goal=f"requirements.{requirement}", way="most" if v.sense == ">=" else "equal", to=f"0 {unit}".rstrip(),
        numbers=numbers, conditions=others,
    )  # fmt: skip


@router.post(
    "/revisions/{revision}/searches",
    summary="Starts a search; a running one of this mechanism is stopped",
    dependencies=[Depends(evaluated)],
)
def begin(services: ServicesOfCall, mechanism: str, revision: PathNumber, wanted: SearchRequest) -> SearchStarted:
    e = services.result(mechanism, revision)
    document = e.stated
    known = {n.path: n for n in numbers_of(document)}
    unknown = [
        (f"numbers.{k}.path", "is not a number of its own") for k, b in enumerate(wanted.numbers) if b.path not in known
    ]
    unknown += [
        (f"conditions.{k}", "there is no such requirement")
        for k, i in enumerate(wanted.conditions)
        if i not in document.requirements
    ]
    if unknown:
        raise ValidationFailed(*unknown)
    kind, _, id = wanted.of.partition(".")
    if not ((kind == "requirements" and id in document.requirements) or (kind == "masses" and id in e.masses)):
        raise ValidationFailed(("of", "must be a requirement or a mass of this mechanism"))
    chosen = [_range(k, known[b.path], b) for k, b in enumerate(wanted.numbers)]
    goal = Goal(wanted.of, wanted.way, _wanted_value(document, wanted, dimension(e, wanted.of)))
    return SearchStarted(id=services.search_jobs.begin(mechanism, document, goal, chosen, wanted.conditions))


def dimension(e: Evaluation, of: str) -> str:
    kind, _, id = of.partition(".")
    return "mass" if kind == "masses" else e.verdicts[id].dimension if id in e.verdicts else ""


def _wanted_value(document: Document, wanted: SearchRequest, dimension: str) -> float:
    if wanted.way != "equal":
        return 0.0
    try:
        return float(document.scope().value(wanted.to or "0", dimension or "number"))
    except FormulaError as error:
        raise ValidationFailed(("to", str(error))) from error


def _range(k: int, n: Number, body: NumberLimits) -> Range:
    ends = []
    for name, text in (("low", body.low), ("high", body.high)):
        plain = text.strip().removeprefix(n.follows).replace(" ", "").replace("+", "").removesuffix(n.unit)
        try:
            ends.append(float(plain))
        except ValueError as error:
            raise ValidationFailed(
                (f"numbers.{k}.{name}", f"{n.name}: must be a number in {n.unit or 'plain figures'}")
            ) from error
    if not ends[0] < ends[1]:
        raise ValidationFailed((f"numbers.{k}.high", f"{n.name}: must be above the lower limit"))
    if not ends[0] <= n.value <= ends[1]:
        raise ValidationFailed((f"numbers.{k}.low", f"{n.name}: {n.now}, as it is now, must lie between the limits"))
    return Range(n, *ends)


@router.get("/searches/{id}", summary="State of a search: its steps, the best of them, and that one rounded")
def show(services: ServicesOfCall, mechanism: str, id: PathNumber) -> views.SearchShown:
    running = services.search_jobs.find(mechanism, id)
    running.done.wait(0.2)
    return views.search(running.subject.document, running.subject.search, running.state)


@router.post("/searches/{id}/{what}", summary="Pauses, resumes or stops a search")
def tell(
    services: ServicesOfCall, mechanism: str, id: PathNumber, what: Literal["pause", "resume", "stop"]
) -> views.SearchShown:
    running = services.search_jobs.tell(mechanism, id, what)
    return views.search(running.subject.document, running.subject.search, running.state)


@router.get("/searches/{id}/steps/{number}", summary="A step of a search, as a command")
def step(services: ServicesOfCall, mechanism: str, id: PathNumber, number: PathNumber) -> SearchStepCommand:
    search = services.search_jobs.find(mechanism, id).subject.search
    own = next((s for s in search.steps if s.number == number), None)
    if own is None:
        raise Missing("There is no such step.")
    paths = [r.number.path for r in search.ranges]
    return SearchStepCommand(
        command=search.command(own).model_dump(mode="json"), values=dict(zip(paths, own.texts, strict=True))
    )
