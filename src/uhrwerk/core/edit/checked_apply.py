"""Applying a command: the document after it, or why it is refused."""

from __future__ import annotations

from uhrwerk.core import elements
from uhrwerk.core.document import Command, Document, apply
from uhrwerk.core.field import ValidationFailed, numbers


def accept(document: Document, command: Command) -> Document:
    """The document after a command. ValidationFailed too where an element's sizes do not fit together."""
    after = apply(document, command)
    scope = after.scope()
    faults = []
    for i, part in after.parts.items():
        n = numbers(part.element, scope)
        faults += [
            (f"parts.{i}.element.{where}", f"{elements.spoken(where)} {why}") for where, why in elements.of(n).faults(n)
        ]
    if faults:
        raise ValidationFailed(*faults)
    return after
