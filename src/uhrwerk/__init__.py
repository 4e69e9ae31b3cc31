"""Uhrwerk: assemble a mechanism, run it, check it, revise it.

The public Python API: write a document with `Draft`, or `read` one, and `check` it.

    >>> import uhrwerk
    >>> uhrwerk.read('{"format": 1, "name": "Empty"}').name
    'Empty'
"""

from uhrwerk.core.document import Document, Refused, read, schema, write
from uhrwerk.core.document.document import Clearance, Cycle, Determinate, Group, MassLimit, NoInterference, Units
from uhrwerk.core.document.element import Bore, FramePlate, LinkBar, Pin, Post, SpurGear
from uhrwerk.core.evaluate import Evaluation, Evaluator
from uhrwerk.draft import Draft

__version__ = "0.1.0"


def check(document: Document) -> Evaluation:
    """Evaluates a document from scratch: motion, findings, masses and a verdict for every requirement."""
    evaluator = Evaluator()
    try:
        return evaluator.evaluate(document)
    finally:
        evaluator.workshop.close()


__all__ = [
    "Bore", "Clearance", "Cycle", "Determinate", "Document", "Draft", "Evaluation", "Evaluator", "FramePlate", "Group",
    "LinkBar", "MassLimit", "NoInterference", "Pin", "Post", "Refused", "SpurGear", "Units", "check", "read", "schema",
    "write",
]  # fmt: skip
