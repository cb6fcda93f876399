"""What stands between connections and the threads that work: it waits for slow ones, so that no thread does.

    connection ── head, body ──> front (one loop) ── whole requests ──> eight threads (Django)
                                  │ /live, 401, 408, 411, 413, 503

A request reaches a thread when its last byte is here, and leaves it when its first byte of answer may go. Where more wait than
threads can soon take, the next is told to come back (503, Retry-After) instead of waiting with them.
"""

import asyncio
import json
import re
import sys
import tempfile
import threading
from collections.abc import Awaitable, Callable, Iterable, MutableMapping
from concurrent.futures import ThreadPoolExecutor
from typing import IO, Any, cast

from a2wsgi import WSGIMiddleware

from widedusk.core.files import MOST_BYTES
from widedusk.core.frames.header import MOST_PICTURE_BYTES

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
Asgi = Callable[[Scope, Receive, Send], Awaitable[None]]
Wsgi = Callable[[dict[str, Any], Any], Iterable[bytes]]

THREADS = 8
MAX_QUEUED = 24  # whole requests beside those in the threads, before the next is sent away
MAX_UPLOADS = 64  # bodies that come in at the same time
RETRY_AFTER_S = 2
MAX_ANONYMOUS_BYTES = 65_536  # of a body whose sender is not signed in
WRAPPING = 50_000  # what a form puts around a file
IN_MEMORY = 1_000_000  # of a body; what is more lies on the disk
BODY_S, MIN_BYTES_S = 30.0, 10_000.0  # a body may take so long, and so much longer for each byte
WRITE_S = 60.0  # that the other end may take to read a piece of an answer
PICTURES = re.compile(r"/api/pictures|/api/frames/folders/\d+/files")  # where one picture at a time comes in
# In a request's surroundings: its body, and what is set once the other end has hung up.
BODY, DISCONNECTED = "widedusk.body", "widedusk.gone"


def max_body_bytes(path: str) -> int:
    """What a body sent to an address may have."""
    return MOST_PICTURE_BYTES if PICTURES.fullmatch(path) else MOST_BYTES


class RequestRefused(Exception):
    """A request that goes no further, and what is said about it."""

    def __init__(self, status: int, message: str, value: object = None, field: str = "") -> None:
        super().__init__(message)
        self.status = status
        self.body = {"faults": [{"field": field, "value": value, "message": message}]}


def overloaded() -> RequestRefused:
    return RequestRefused(503, "The server is busy. This page tries again by itself.")


async def _respond(send: Send, status: int, body: object, *headers: tuple[bytes, bytes]) -> None:
    content = json.dumps(body).encode()
    told = [(b"content-type", b"application/json"), (b"content-length", str(len(content)).encode())]
    told += [(b"cache-control", b"no-store"), *headers]
    await send({"type": "http.response.start", "status": status, "headers": told})
    await send({"type": "http.response.body", "body": content})


class Front:
    """An ASGI application around one for WSGI. is_signed_in: by the text of the cookies; it may ask the database."""

    def __init__(self, application: Wsgi, is_signed_in: Callable[[str], bool]) -> None:
        self.application = application
        self.is_signed_in = is_signed_in
        self.inside: Asgi | None = None  # its threads begin with the first request, after the fork
        self.door = ThreadPoolExecutor(2, "door")
        self.queued = self.uploading = 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        if scope["path"] == "/live":
            await _respond(send, 200, {"alive": True})
            return
        try:
            with tempfile.SpooledTemporaryFile(IN_MEMORY) as body:
                await self._receive_body(scope, receive, body)
                if self.queued >= THREADS + MAX_QUEUED:
                    raise overloaded()
                self.queued += 1
                try:
                    await self._dispatch(scope, receive, send, body)
                finally:
                    self.queued -= 1
        except RequestRefused as refused:
            extra = [(b"connection", b"close")] if refused.status in {401, 408, 411, 413} else []
            if refused.status == 503:
                extra = [(b"retry-after", str(RETRY_AFTER_S).encode())]
            await _respond(send, refused.status, refused.body, *extra)
        except (ConnectionResetError, TimeoutError):
            return  # whoever asked is not there any more, or does not take the answer

    async def _receive_body(self, scope: Scope, receive: Receive, body: IO[bytes]) -> None:
        """The whole body, or RequestRefused before any of it is read where that is enough to know."""
        headers = dict(scope["headers"])
        if b"transfer-encoding" in headers:
            raise RequestRefused(411, "Send a Content-Length.")
        stated = headers.get(b"content-length", b"0").decode("latin-1")
        length = int(stated) if stated.isdecimal() else 0
        most = max_body_bytes(scope["path"]) + WRAPPING
        if length > most:
            told = f"{length:,} bytes are too many; a file may have {most - WRAPPING:,}."
            raise RequestRefused(413, told, length, "file")
        if length > MAX_ANONYMOUS_BYTES:
            cookies = headers.get(b"cookie", b"").decode("latin-1")
            if not await asyncio.get_running_loop().run_in_executor(self.door, self.is_signed_in, cookies):
                raise RequestRefused(401, "Sign in first.")
        if not length:
            return
        if self.uploading >= MAX_UPLOADS:
            raise overloaded()
        self.uploading += 1
        try:
            async with asyncio.timeout(BODY_S + length / MIN_BYTES_S):
                await self._copy_body(receive, body, length)
        except TimeoutError:
            raise RequestRefused(408, "The upload was interrupted. Please try again.") from None
        except ConnectionResetError:
            raise
        except OSError as full:
            raise RequestRefused(507, "There is no room left on the server's disk. Nothing was kept of it.") from full
        finally:
            self.uploading -= 1

    @staticmethod
    async def _copy_body(receive: Receive, body: IO[bytes], length: int) -> None:
        more = True
        while more:
            message = await receive()
            if message["type"] == "http.disconnect":
                raise ConnectionResetError
            body.write(message.get("body", b""))
            more = message.get("more_body", False)
        if body.tell() != length:
            raise RequestRefused(400, "The body is not as long as its Content-Length says.")
        body.seek(0)

    async def _dispatch(self, scope: Scope, receive: Receive, send: Send, body: IO[bytes]) -> None:
        gone = threading.Event()

        async def listen() -> None:
            while (await receive())["type"] != "http.disconnect":
                pass
            gone.set()

        async def say(message: Message) -> None:
            async with asyncio.timeout(WRITE_S):
                await send(message)

        if self.inside is None:
            # Answers wait in the loop for who reads them slowly, not in the threads.
            self.inside = cast("Asgi", WSGIMiddleware(cast("Any", self._run_django), THREADS, 0))
        listening = asyncio.create_task(listen())
        try:
            await self.inside({**scope, BODY: body, DISCONNECTED: gone}, receive, say)
        finally:
            listening.cancel()

    def _run_django(self, environ: dict[str, Any], start: Any) -> Iterable[bytes]:
        scope = environ["asgi.scope"]
        environ.update({"wsgi.input": scope[BODY], "wsgi.errors": sys.stderr, DISCONNECTED: scope[DISCONNECTED]})
        return self.application(environ, start)
