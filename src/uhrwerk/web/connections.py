"""Connections: one that says nothing, or sends a call piece by piece, is closed after a while; no more are open than there are
descriptors for; and what is no HTTP is answered as everything else is."""

from __future__ import annotations

import asyncio
import json
import resource
from contextlib import suppress

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

from uhrwerk.web.security import HEADERS

#: s in which a call must have come whole, from when its connection was opened or the call before was answered
PATIENCE = 20.0
#: connections at most; of more, that which has waited longest without a call is closed
MOST = 200


class Connection(H11Protocol):
    """A connection whose calls must come whole in time."""

    _watch: asyncio.TimerHandle | None = None
    waits_since = 0.0

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self.waits_since = self.loop.time()
        self._watch = self.loop.call_later(PATIENCE, self._look)
        idle = [c for c in self.connections if isinstance(c, Connection) and c is not self and not c.busy]
        if len(self.connections) > MOST and idle:
            min(idle, key=lambda c: c.waits_since).transport.close()

    @property
    def busy(self) -> bool:
        """Whether it is ours to go on: a call is being answered, or more of it has come than was read yet."""
        at_work = self.cycle is not None and not self.cycle.response_complete
        return at_work and (not self.cycle.more_body or self.flow.read_paused)

    def on_response_complete(self) -> None:
        super().on_response_complete()
        self.waits_since = self.loop.time()

    def connection_lost(self, exc: Exception | None) -> None:
        if self._watch is not None:
            self._watch.cancel()
        super().connection_lost(exc)

    def _look(self) -> None:
        """Closes it where no call has come whole for so long; else looks again when it would be time."""
        if self.transport.is_closing() or self.transport.get_protocol() is not self:  # closed, or a WebSocket by now
            return
        left = PATIENCE if self.busy else self.waits_since + PATIENCE - self.loop.time()
        if left <= 0:
            self.transport.close()
        else:
            self._watch = self.loop.call_later(left, self._look)

    def send_400_response(self, msg: str) -> None:
        body = json.dumps({"error": "This is not a readable HTTP request.", "fields": []}).encode()
        headers = [*HEADERS.items(), ("content-type", "application/json"), ("content-length", str(len(body)))]
        for event in (
            h11.Response(status_code=400, headers=[*headers, ("connection", "close")]),
            h11.Data(data=body),
            h11.EndOfMessage(),
        ):
            self.transport.write(self.conn.send(event) or b"")
        self.transport.close()


def take_descriptors() -> None:
    """Lets this process open as many files as it may: what starts it often allows few, to begin with."""
    _, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    with suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_NOFILE, (hard, hard))
