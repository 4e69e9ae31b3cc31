"""A change of one joint or relation that leaves nothing to hold together is refused, as a new one is."""

from __future__ import annotations

from uhrwerk.core.assembly import NotSolvable, compile, solve
from uhrwerk.core.document import Command, Document, ValidationFailed
from uhrwerk.core.document.command import SetValue

#: fields of a joint or relation that say where it holds
HOLDS = ("side", "flip", "offset", "distance", "angle", "turn")


def check(before: Document, after: Document, command: Command) -> None:
    """ValidationFailed, naming a smallest set, where a mechanism that held together without its drives no longer does."""
    if not isinstance(command, SetValue) or command.path.partition(".")[0] not in ("joints", "relations"):
        return
    if command.path.rpartition(".")[2] not in HOLDS:
        return
    try:
        solve(compile(after), drives=False)
    except NotSolvable as error:
        try:
            solve(compile(before), drives=False)
        except NotSolvable:
            return  # it did not before: what is changed may be a step towards it
        raise ValidationFailed((command.path, str(error))) from error
