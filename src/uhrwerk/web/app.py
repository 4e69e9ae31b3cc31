"""The web application: pages, and the API that the pages use; every action of a page is one call of it."""

from __future__ import annotations

import threading
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import FastAPI
from fastapi.routing import APIRoute

from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.store import Store
from uhrwerk.web.access import Access
from uhrwerk.web.errors import handle
from uhrwerk.web.pages import SHIPPED, STATIC, CachedFiles
from uhrwerk.web.routes import ROUTERS
from uhrwerk.web.routes.files import FILE
from uhrwerk.web.security import Guard
from uhrwerk.web.services import Services

#: s after the start in which the first page is served, before the shelf is checked
AFTER = 3.0


def create_app(
    store: Store,
    evaluator: Evaluator,
    hosts: frozenset[str] = frozenset({"127.0.0.1", "localhost", "::1"}),
    key: str | None = None,
) -> FastAPI:
    """The application over an open store. With a `key`, who does not have it is refused."""

    services = Services(store, evaluator)
    evaluator.kernel_pool.contents.behind = store

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        late = threading.Timer(AFTER, services.check_shelf)
        late.daemon = True
        late.start()
        yield
        late.cancel()
        services.close()
        evaluator.close()
        store.close()

    app = FastAPI(title="Uhrwerk", version="0.1.0", docs_url=None, redoc_url=None, lifespan=lifespan)
    app.state.services = services
    app.mount(SHIPPED, CachedFiles(directory=STATIC), name="static")
    handle(app)
    for router in ROUTERS:
        app.include_router(router)
    takes_file = [
        r.path_regex for x in ROUTERS for r in x.routes if isinstance(r, APIRoute) and r.openapi_extra == FILE
    ]
    app.add_middleware(Guard, hosts=hosts, large=takes_file, access=Access(key) if key else None)
    return app
