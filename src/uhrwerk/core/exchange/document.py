"""The document itself: JSON, one value a line (docs/file-format.md)."""

from __future__ import annotations

from uhrwerk.core.checks import Evaluation
from uhrwerk.core.document import write
from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.upgrade import read


def _written(e: Evaluation, _: Chosen) -> bytes:
    return write(e.stated).encode()


FORMAT = Format(".json", "The mechanism", "application/json", read, _written, whole=True)
