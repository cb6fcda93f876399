"""How gunicorn serves: its configuration, named by the command that starts it.

The application is loaded once, before the workers are forked: a worker that dies is followed by another at once. In each a loop
holds the connections (widedusk/front.py), so that slow ones keep nobody waiting but themselves.
"""

import asyncio
import os
import ssl
from typing import Any, ClassVar

from uvicorn.protocols.http.h11_impl import H11Protocol
from uvicorn_worker import UvicornWorker

HEAD_S = 15.0  # that a connection may take from its first moment, or from the first byte after an answer, to a whole head
MAX_HEAD_BYTES = 32_768


class Patient(H11Protocol):
    """HTTP/1.1 with an end to the patience for a request's head."""

    timer: asyncio.TimerHandle | None = None

    def _in_request(self) -> bool:
        return self.cycle is not None and not self.cycle.response_complete

    def _start_timer(self) -> None:
        if self.timer is None:
            self.timer = self.loop.call_later(HEAD_S, self._abort_if_idle)

    def _stop_timer(self) -> None:
        if self.timer is not None:
            self.timer.cancel()
            self.timer = None

    def _abort_if_idle(self) -> None:
        self.timer = None
        if not self._in_request():
            self.transport.abort()

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self._start_timer()

    def data_received(self, data: bytes) -> None:
        self._start_timer()
        super().data_received(data)
        if self._in_request():
            self._stop_timer()

    def on_response_complete(self) -> None:
        self._stop_timer()  # uvicorn waits for the next head itself, until its first byte
        super().on_response_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        self._stop_timer()
        super().connection_lost(exc)


class Worker(UvicornWorker):  # type: ignore[misc]
    CONFIG_KWARGS: ClassVar[dict[str, Any]] = {
        "http": Patient,
        "loop": "asyncio",
        "lifespan": "off",
        "ws": "none",
        "proxy_headers": False,
        "server_header": False,
        "access_log": False,
        "ssl_version": ssl.PROTOCOL_TLS_SERVER,
        "h11_max_incomplete_event_size": MAX_HEAD_BYTES,
    }


workers = 2
worker_class = Worker
preload_app = True
timeout = 60  # without a sign of life of the loop, before a worker is ended
graceful_timeout = 8
keepalive = 20
backlog = 256
control_socket_disable = True


def post_fork(server: object, worker: object) -> None:
    """Children that read files are told what a web worker may have beside it: one thread each for arithmetic."""
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
