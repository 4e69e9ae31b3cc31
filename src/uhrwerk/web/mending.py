"""Searches for remedies in the background, one for each mechanism: dropped when another is asked for or its revision is
no longer in force."""

from __future__ import annotations

import logging
import threading
import time
from collections import OrderedDict
from dataclasses import dataclass, field

from uhrwerk.core.document import Document
from uhrwerk.core.evaluate import Cancelled, Evaluation, Evaluator
from uhrwerk.core.revise import Remedies
from uhrwerk.store import Missing, Store, StoreError

#: finished searches that are kept
KEPT = 40
#: s between two looks whether a revision is still in force
LOOK = 0.2

log = logging.getLogger("uhrwerk")


@dataclass
class Search:
    """A search under way or done; `found` has what it knows once it has begun."""

    mechanism: str
    revision: int
    requirement: str
    document: Document
    found: Remedies | None = None
    failed: str = ""
    cancelled: bool = False
    done: threading.Event = field(default_factory=threading.Event)


class Mending:
    def __init__(self, store: Store, evaluator: Evaluator) -> None:
        self.store, self.evaluator = store, evaluator
        self._searches: OrderedDict[tuple[str, int, str], Search] = OrderedDict()
        self._lock = threading.Lock()

    def search(self, mechanism: str, revision: int, requirement: str, before: Evaluation) -> Search:
        """The search for a requirement of a revision, begun if there is none."""
        key = mechanism, revision, requirement
        document = self.store.document(mechanism, revision)
        with self._lock:
            known = self._searches.get(key)
            if known is not None and not known.cancelled:
                return known
            for other in self._searches.values():
                if other.mechanism == mechanism and not other.done.is_set():
                    other.cancelled = True
            new = self._searches[key] = Search(mechanism, revision, requirement, document)
            while len(self._searches) > KEPT:
                self._searches.popitem(last=False)
        threading.Thread(target=self._run, args=(new, before), daemon=True, name=f"remedies {mechanism}").start()
        return new

    def _run(self, search: Search, before: Evaluation) -> None:
        looked = [0.0]

        def ended() -> bool:
            if not search.cancelled and time.monotonic() - looked[0] > LOOK:
                looked[0] = time.monotonic()
                search.cancelled = not self._in_force(search)
            return search.cancelled

        def evaluate(document: Document) -> Evaluation:
            return self.evaluator.evaluate(document, cancelled=ended)

        search.found = Remedies(search.document, before, search.requirement, evaluate)
        try:
            for _ in search.found.search():
                pass
        except Cancelled:
            pass
        except Exception:  # the page must say so and the log must hold it
            log.exception("remedies of %s, revision %s", search.mechanism, search.revision)
            search.failed = "The search failed inside Uhrwerk; the details are in its log."
        search.done.set()

    def _in_force(self, search: Search) -> bool:
        try:
            return self.store.current(search.mechanism).revision == search.revision
        except (Missing, StoreError):
            return False
