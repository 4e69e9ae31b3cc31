"""The document itself: JSON, one value a line (docs/file-format.md)."""

from __future__ import annotations

from uhrwerk.core.document import write
from uhrwerk.core.exchange.format import Chosen, Format, Opened
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.upgrade import opened


def _written(e: Evaluation, _: Chosen) -> bytes:
    return write(e.stated).encode()


def _read(data: bytes) -> Opened:
    return Opened(opened(data))


FORMAT = Format(".json", "The mechanism", "application/json", _read, _written, whole=True)
