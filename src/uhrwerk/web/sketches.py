"""Drawings of the shelf: made in a thread of their own, so that the shelf answers at once."""

from __future__ import annotations

import logging
import threading
from collections import OrderedDict
from collections.abc import Sequence
from concurrent.futures import Future, ThreadPoolExecutor, wait

from uhrwerk.core import views
from uhrwerk.core.context import Context
from uhrwerk.core.document import ValidationFailed
from uhrwerk.core.upgrade import read
from uhrwerk.store.tables import Revision

log = logging.getLogger("uhrwerk")

#: drawings that are kept
MOST = 200
#: s for which the shelf waits for those that are not there yet
PATIENCE = 0.3


class Sketches:
    """A drawing of each revision, or why it cannot be read."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._thread = ThreadPoolExecutor(1, thread_name_prefix="sketch")
        self._of: OrderedDict[int, Future[views.Sketch | str]] = OrderedDict()
        self._lock = threading.Lock()
        self.drawn = 0  # drawings that are there, since the start

    def close(self) -> None:
        self._thread.shutdown(wait=False, cancel_futures=True)

    def of(self, revisions: Sequence[Revision]) -> dict[int, views.Sketch | str | None]:
        """Of each revision by its key; None where it is still being drawn."""
        with self._lock:
            drawings = {r.id or 0: self._begun(r) for r in revisions}
            while len(self._of) > max(MOST, len(drawings)):
                self._of.popitem(last=False)
        wait(drawings.values(), timeout=PATIENCE)
        return {key: one.result() if one.done() else None for key, one in drawings.items()}

    def _begun(self, revision: Revision) -> Future[views.Sketch | str]:
        key = revision.id or 0
        if key not in self._of:
            self._of[key] = self._thread.submit(self._draw, revision.document)
        self._of.move_to_end(key)
        return self._of[key]

    def _draw(self, text: str) -> views.Sketch | str:
        try:
            return _sketch(text, self._context)
        finally:
            self.drawn += 1


def _sketch(text: str, context: Context) -> views.Sketch | str:
    try:
        return views.sketch(read(text, context), context)
    except ValidationFailed as error:
        path, why = error.faults[0]
        return f"{path}: {why}"
    except Exception:  # one row must not take the whole shelf with it
        log.exception("a drawing of the shelf")
        return "it cannot be drawn; the log of Uhrwerk tells why"
