"""A made-up format: the names of all parts, one a line; read, it makes a mechanism with a pin of each name."""

from __future__ import annotations

from uhrwerk.core.elements import Pin
from uhrwerk.core.exchange import FORMATS, Chosen, Format, Opened
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.draft import Draft


def _read(data: bytes) -> Opened:
    draft = Draft("From names")
    for k, name in enumerate(data.decode().split("\n")):
        draft.part(name, "steel", Pin(), x=f"{20 * k} mm")
    return Opened(draft.document.model_dump(mode="json"))


def _write(e: Evaluation, _: Chosen) -> bytes:
    return "\n".join(p.name for p in e.document.placed.values()).encode()


def register() -> None:
    FORMATS.register(Format(".names", "Names of the parts", "text/plain; charset=utf-8", _read, _write))
