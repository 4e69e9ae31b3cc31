"""A change of one joint or relation that leaves nothing to hold together is refused, as a new one is."""

from __future__ import annotations

from collections.abc import Iterator

from uhrwerk.core.assembly import NotSolvable, compile, solve
from uhrwerk.core.context import Context
from uhrwerk.core.document import Command, Document, ValidationFailed
from uhrwerk.core.document.command import SetValue, SeveralCommands

#: fields of a joint or relation that say where it holds
HOLDS = ("side", "flip", "offset", "distance", "angle", "turn", "a", "b")


def check(before: Document, after: Document, command: Command, context: Context) -> None:
    """ValidationFailed, naming a smallest set, where a mechanism that held together without its drives no longer does."""
    changed = [path for path in _set(command) if path.partition(".")[0] in ("joints", "relations")]
    path = next((path for path in changed if path.rpartition(".")[2] in HOLDS), None)
    if path is None:
        return
    try:
        solve(compile(after, context), drives=False)
    except NotSolvable as error:
        try:
            solve(compile(before, context), drives=False)
        except NotSolvable:
            return  # it did not before: what is changed may be a step towards it
        raise ValidationFailed((path, str(error))) from error


def _set(command: Command) -> Iterator[str]:
    """The paths that a command sets."""
    if isinstance(command, SetValue):
        yield command.path
    elif isinstance(command, SeveralCommands):
        for one in command.commands:
            yield from _set(one)
