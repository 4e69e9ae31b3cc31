"""Starts the server on this machine, and lays out the demo."""

from __future__ import annotations

import logging
import os
import socket
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path
from urllib.parse import quote

import uvicorn

from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.demo import MODULES, shipped
from uhrwerk.settings import Settings
from uhrwerk.store import Folder, FolderInUse, Store, StoreError
from uhrwerk.web.access import NAME, new_key
from uhrwerk.web.app import create_app
from uhrwerk.web.connections import Connection, take_descriptors

LOOPBACK = {"127.0.0.1", "localhost", "::1"}
#: s for which calls under way are waited for when the server is stopped; bytes of a message from the page
PATIENCE, LARGEST_MESSAGE = 10, 1_000_000
#: bytes of the log, and how many older ones are kept
LARGEST_LOG, LOGS = 2_000_000, 3


def serve(settings: Settings, demo: bool = False, fresh: bool = False) -> int:
    """Runs until it is stopped; prints the address once it listens."""
    if settings.host not in LOOPBACK:
        print(
            f"host: {settings.host} is not this machine; Uhrwerk listens on 127.0.0.1 only, as it has no accounts yet",
            file=sys.stderr,
        )
        return 2
    take_descriptors()
    try:
        folder = Folder(settings.data)
    except (OSError, FolderInUse) as error:
        print(f"data: {settings.data}: {error}", file=sys.stderr)
        return 2
    listener = socket.socket(socket.AF_INET6 if settings.host == "::1" else socket.AF_INET)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((settings.host, settings.port))
    except OSError as error:
        print(f"port: {settings.port} cannot be used ({error.strerror}); give another with --port", file=sys.stderr)
        return 2
    try:
        aside = folder.put_aside() if fresh else None
        if aside is not None:
            print(f"data: what was there before lies in {aside}", file=sys.stderr)
        evaluator = Evaluator(settings.data / "solids", settings.build_limit, workers=2)
        store = Store(folder.database, evaluator.context)
        folder.private()
        if demo:
            lay_out_demo(store)
    except (OSError, StoreError) as error:
        print(f"data: {settings.data}: {error}", file=sys.stderr)
        return 2
    key = settings.key.get_secret_value() if settings.key is not None else new_key()
    app = create_app(store, evaluator, key=key)
    keep_log(folder.path / "uhrwerk.log")
    config = uvicorn.Config(
        app,
        log_level="warning",
        access_log=False,
        timeout_graceful_shutdown=PATIENCE,
        ws_max_size=LARGEST_MESSAGE,
        http=Connection,
    )

    class Server(uvicorn.Server):
        async def startup(self, sockets: list[socket.socket] | None = None) -> None:
            await super().startup(sockets)
            path = "/mechanisms/foil_tucker" if demo else "/"
            host = f"[{settings.host}]" if ":" in settings.host else settings.host
            address = f"http://{host}:{listener.getsockname()[1]}"
            folder.say(f"process {os.getpid()}, {address}")
            print(f"Uhrwerk is ready: {address}{path}?{NAME}={quote(key)}", flush=True)

        async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
            app.state.services.ending = True  # streams of events end, which would be waited for
            await super().shutdown(sockets)

    Server(config).run(sockets=[listener])
    return 0


def keep_log(file: Path) -> None:
    """Errors with their tracebacks go into a file, each under the number that the answer to its call bears."""
    handler = RotatingFileHandler(file, maxBytes=LARGEST_LOG, backupCount=LOGS, encoding="utf-8")
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
    file.chmod(0o600)
    logging.getLogger("uhrwerk").addHandler(handler)


def lay_out_demo(store: Store) -> None:
    """Puts the demo's modules on the shelf where they never were."""
    there = store.known()
    for module in reversed(MODULES):  # the last one put there stands first
        if module not in there:
            store.create(shipped(module), demo=True, key=module)
