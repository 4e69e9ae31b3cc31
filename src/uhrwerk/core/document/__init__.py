"""What a designer states: the document, and the commands that change it."""

from uhrwerk.core.document.command import Command, SeveralCommands, apply, new_id, parse, spoken, words
from uhrwerk.core.document.document import Document, check, schema, validate, write
from uhrwerk.core.field import Model, ValidationFailed, dimension_of, formulas, numbers

__all__ = [
    "Command",
    "Document",
    "Model",
    "SeveralCommands",
    "ValidationFailed",
    "apply",
    "check",
    "dimension_of",
    "formulas",
    "new_id",
    "numbers",
    "parse",
    "schema",
    "spoken",
    "validate",
    "words",
    "write",
]  # fmt: skip
