"""Holes or studs that balance a rotor, proved: the solid is made with them, and everything judged again."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from uhrwerk.core.balance.drilling import DrillingPlan, Form, plans
from uhrwerk.core.balance.rotor import Rotor, rotors
from uhrwerk.core.document import Command, Document
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.remedies.remedy import Effect, effects
from uhrwerk.core.stages.evaluation import Evaluation

#: by which part of what is taken away the mass may be another: where it is more, a hole runs into something hollow
AS_PLANNED = 1e-6


@dataclass(frozen=True)
class ProvedCorrection:
    """A plan that was carried out: the rotor then, what it does to requirements, and the command."""

    plan: DrillingPlan
    rotor: Rotor
    others: tuple[Effect, ...]
    command: Command


def planned(e: Evaluation, joint: str, planes: int, form: Form) -> list[DrillingPlan]:
    """What could be done, not yet proved."""
    return e.once(f"holes {joint} {planes} {form}", lambda: plans(e, rotors(e)[joint], planes, form))


def worked(
    e: Evaluation, joint: str, plan: DrillingPlan, evaluate: Callable[[Document], Evaluation]
) -> ProvedCorrection | None:
    """A plan carried out; None where it does not come out as planned."""
    command = plan.command(e.stated)
    try:
        after = evaluate(accept(e.stated, command))
    except ValidationFailed:
        return None
    now, was = rotors(after).get(joint), rotors(e)[joint]
    more = sum(h.mass if h.form == "added" else -h.mass for h in plan.holes)
    if now is None or abs(now.mass - was.mass - more) > AS_PLANNED * abs(more):
        return None
    return ProvedCorrection(plan, now, effects(e, after), command)
