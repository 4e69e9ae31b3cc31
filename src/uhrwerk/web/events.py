"""What pages hear of: a new revision, how far evaluations and searches are, and what became of the shelf.

A stream begins with how all stands, so that nothing is missed by a page whose stream broke; then it tells what has changed.
"""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator, Callable
from typing import Any

from starlette.concurrency import run_in_threadpool

from uhrwerk.store import Missing, StoreError
from uhrwerk.web.services import Services

#: s between two looks at what runs, and at the revision in the database
LOOK, LOOK_AT_STORE = 0.05, 0.4
#: s after which a silent stream says that it is still there, so that a broken one is noticed
ALIVE = 15.0

#: what stands at a moment: kind of event -> what is told of it
State = dict[str, Any]


async def of_mechanism(services: Services, mechanism: str) -> AsyncIterator[str]:
    """Events `revision`, `evaluation`, `remedies` and `search` of a mechanism."""

    def running() -> State:
        return {
            "evaluation": services.evaluation_jobs.progress(mechanism),
            "remedies": services.remedy_jobs.progress(mechanism),
            "search": services.search_jobs.progress(mechanism),
        }

    def stored() -> State:
        try:
            current = services.store.current(mechanism)
        except (Missing, StoreError):
            return {}
        return {"revision": {"revision": current.revision, "words": current.words}}

    async for text in _changes(services, running, stored):
        yield text


async def of_shelf(services: Services) -> AsyncIterator[str]:
    """An event `shelf` whenever a verdict or a drawing of the shelf is there."""
    async for text in _changes(services, lambda: {"shelf": [services.finished, services.sketches.drawn]}, dict):
        yield text


async def _changes(services: Services, running: Callable[[], State], stored: Callable[[], State]) -> AsyncIterator[str]:
    before: State = {}
    looks, quiet = 0, 0.0
    slow: State = {}
    while not services.ending:
        if looks % round(LOOK_AT_STORE / LOOK) == 0:
            slow = await run_in_threadpool(stored)
        now = slow | running()
        changed = {kind: data for kind, data in now.items() if before.get(kind) != data}
        for kind, data in changed.items():
            yield f"event: {kind}\ndata: {json.dumps(data)}\n\n"
        quiet = 0.0 if changed else quiet + LOOK
        if quiet >= ALIVE:
            quiet = 0.0
            yield ": still here\n\n"
        before, looks = now, looks + 1
        await asyncio.sleep(LOOK)
