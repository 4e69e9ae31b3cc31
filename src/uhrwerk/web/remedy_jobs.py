"""Searches for remedies in the background: dropped when nobody asks for them any more, or their revision is no longer current."""

from __future__ import annotations

import logging
import threading
import time
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, field

from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Cancelled, Evaluation, Evaluator
from uhrwerk.core.remedies import Answer, Remedies, Remedy, lately
from uhrwerk.store import Missing, Store, StoreError

#: finished searches that are kept
KEPT = 40
#: s between two looks whether a revision is still current
LOOK = 0.2
#: s without being asked for after which a search is dropped
PATIENCE = 6.0

#: s that is waited for one to end
ENDING = 3.0

log = logging.getLogger("uhrwerk")


@dataclass
class RemedyJob:
    """A search under way or done: what it has found, in words where it is, and how far."""

    mechanism: str
    revision: int
    requirement: str
    document: Document
    offers: list[Remedy] = field(default_factory=list)
    answers: list[Answer] = field(default_factory=list)
    words: str = "beginning"
    fraction: float = 0.0
    cancelled: bool = False
    last_request: float = field(default_factory=time.monotonic)
    done: threading.Event = field(default_factory=threading.Event)

    def take(self, remedies: Remedies) -> None:
        self.offers, self.answers = list(remedies.offers), list(remedies.answers)
        self.words, self.fraction = remedies.words, remedies.fraction


class RemedyJobs:
    def __init__(self, store: Store, evaluator: Evaluator) -> None:
        self.store, self.evaluator = store, evaluator
        self._searches: OrderedDict[tuple[str, int, str], RemedyJob] = OrderedDict()
        self._lock = threading.Lock()

    def search(self, mechanism: str, revision: int, requirement: str, before: Evaluation) -> RemedyJob:
        """The search for a requirement of a revision, begun if there is none."""
        key = mechanism, revision, requirement
        document = self.store.document(mechanism, revision)
        with self._lock:
            known = self._searches.get(key)
            if known is not None and not known.cancelled:
                known.last_request = time.monotonic()
                return known
            new = self._searches[key] = RemedyJob(mechanism, revision, requirement, document)
            while len(self._searches) > KEPT:
                self._searches.popitem(last=False)
        threading.Thread(target=self._run, args=(new, before), daemon=True, name=f"remedies {mechanism}").start()
        return new

    def progress(self, mechanism: str) -> list[tuple[int, str, str, int, bool, int]]:
        """The searches of a mechanism: revision, requirement, where each is in words, how many remedies it has, whether it is done; and
        a number that changes now and then while it runs, so that whoever follows it asks for it again and it is not dropped."""
        with self._lock:
            own = [job for job in self._searches.values() if job.mechanism == mechanism]
        now = int(time.monotonic() / (PATIENCE / 3))
        return [
            (
                job.revision,
                job.requirement,
                job.words,
                len(job.offers),
                job.done.is_set(),
                0 if job.done.is_set() else now,
            )
            for job in own
        ]

    def close(self) -> None:
        """Ends what is under way."""
        for search in list(self._searches.values()):
            search.cancelled = True
        for search in list(self._searches.values()):
            search.done.wait(ENDING)

    def _run(self, search: RemedyJob, before: Evaluation) -> None:
        looked_at = [0.0]

        def ended() -> bool:
            if not search.cancelled and time.monotonic() - looked_at[0] > LOOK:
                looked_at[0] = time.monotonic()
                if looked_at[0] - search.last_request > PATIENCE or not self._in_force(search):
                    search.cancelled = True  # never back to False: the services may have set it meanwhile
            search.take(remedies)
            return search.cancelled

        def evaluate(document: Document, between: Sequence[str] | None) -> Evaluation:
            return self.evaluator.evaluate(document, cancelled=ended, between=between)

        earlier = self.store.before(search.mechanism, search.revision)
        changed = lately(earlier, search.document) if earlier is not None else {}
        remedies = Remedies(search.document, before, search.requirement, evaluate, changed)
        try:
            for _ in remedies.search():
                search.take(remedies)
            search.take(remedies)
        except Cancelled:
            pass
        except Exception:  # the page must say so and the log must hold it
            log.exception("remedies of %s, revision %s", search.mechanism, search.revision)
            search.words = "The search failed inside Uhrwerk; the details are in its log."
        search.done.set()

    def _in_force(self, search: RemedyJob) -> bool:
        try:
            return self.store.current(search.mechanism).revision == search.revision
        except (Missing, StoreError):
            return False
