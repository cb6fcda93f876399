"""How gunicorn serves: its configuration, named by the command that starts it.

The application is loaded once, before the workers are forked: a worker that dies is followed by another at once.
"""

import os
import socket
import struct
import sys

workers = 2
threads = 8
worker_class = "gthread"
preload_app = True
timeout = 60  # without a sign of life, before a worker is ended
graceful_timeout = 8
keepalive = 20
backlog = 256
control_socket_disable = True
limit_request_line = 8190
limit_request_field_size = 16_380
SILENT_S = 15  # that a connection may keep a thread waiting for the rest of what it began to say


def when_ready(server: object) -> None:
    """Connections that say nothing never reach a thread, and those that stop in the middle are let go."""
    for listener in server.LISTENERS:  # type: ignore[attr-defined]
        if sys.platform == "linux" and listener.sock.family in {socket.AF_INET, socket.AF_INET6}:
            listener.sock.setsockopt(socket.IPPROTO_TCP, socket.TCP_DEFER_ACCEPT, SILENT_S)
            # Inherited by what is accepted; in seconds and microseconds.
            listener.sock.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, struct.pack("ll", SILENT_S, 0))


def post_fork(server: object, worker: object) -> None:
    """Children that read files are told what a web worker may have beside it: one thread each for arithmetic."""
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
