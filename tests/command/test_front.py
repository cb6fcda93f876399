"""The front between connections and threads: by its own protocol against a stand-in for Django, and with real connections through
gunicorn, as whoever is slow or hostile makes them."""

import asyncio
import errno
import io
import json
import os
import socket
import ssl
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import pytest
import trustme

from widedusk import front, serving
from widedusk.command import background
from widedusk.command.basics import ROOT, free_port
from widedusk.core.frames.header import MOST_PICTURE_BYTES

LET_GO = threading.Event()


def inside(environ, start):
    """Says how long its body was; at /slow only once it may."""
    if environ["PATH_INFO"] == "/slow":
        LET_GO.wait(30)
    found = len(environ["wsgi.input"].read())
    start("200 OK", [("Content-Type", "text/plain")])
    return [str(found).encode()]


class Asked:
    """One request to the front: its body comes as given, its answer is gathered."""

    def __init__(self, path: str, body: bytes | None = b"", pieces: int = 1, **headers: str) -> None:
        given = {name.replace("_", "-"): value for name, value in headers.items()}
        if body is not None and "content-length" not in given:
            given["content-length"] = str(len(body))
        self.scope = {
            "type": "http", "path": path, "method": "POST", "query_string": b"", "http_version": "1.1", "root_path": "",
            "headers": [(name.encode(), value.encode()) for name, value in given.items()],
        }  # fmt: skip
        step = max(len(body or b"") // pieces, 1)
        self.coming = [(body or b"")[at : at + step] for at in range(0, len(body or b""), step)] or [b""]
        self.read, self.never = 0, body is None
        self.messages: list[dict] = []

    async def receive(self) -> dict:
        if self.never or self.read >= len(self.coming):
            await asyncio.sleep(60)
        self.read += 1
        return {"type": "http.request", "body": self.coming[self.read - 1], "more_body": self.read < len(self.coming)}

    async def send(self, message: dict) -> None:
        self.messages.append(message)

    async def by(self, one: front.Front) -> int:
        await one(self.scope, self.receive, self.send)
        return self.status

    @property
    def status(self) -> int:
        return self.messages[0]["status"]

    @property
    def headers(self) -> dict[bytes, bytes]:
        return dict(self.messages[0]["headers"])

    @property
    def body(self) -> bytes:
        return b"".join(one.get("body", b"") for one in self.messages)


def test_a_body_is_refused_before_it_is_read(monkeypatch):
    monkeypatch.setattr(front, "BODY_S", 0.3)

    async def all_of_it() -> None:
        one = front.Front(inside, lambda cookies: "known" in cookies)
        picture = str(MOST_PICTURE_BYTES + 100_000)
        for asked, status in (
            (Asked("/api/pictures", None, content_length=picture, cookie="known"), 413),
            (Asked("/api/places/file", None, content_length="1060000", cookie="known"), 413),
            (Asked("/api/pictures", None, content_length="90000000"), 401),
            (Asked("/api/pictures", None, transfer_encoding="chunked"), 411),
            (Asked("/api/places", None, content_length="500"), 408),
        ):
            assert await asked.by(one) == status and asked.read == 0
            assert asked.headers[b"connection"] == b"close" and json.loads(asked.body)["faults"][0]["message"]
        large = Asked("/api/pictures", b"x" * 3_000_000, 50, cookie="known")
        assert await large.by(one) == 200 and large.body == b"3000000"
        assert one.queued == one.uploading == 0

    asyncio.run(all_of_it())


def test_a_full_disk_is_told_and_nobody_is_asked_to_come_back(monkeypatch):
    class Full(io.BytesIO):
        def write(self, piece):
            raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(front.tempfile, "SpooledTemporaryFile", lambda _: Full())
    upload = Asked("/api/pictures", b"x" * 3_000_000, 50, cookie="known")
    assert asyncio.run(upload.by(front.Front(inside, lambda _: True))) == 507
    assert b"retry-after" not in upload.headers and "no room left" in upload.body.decode()


def test_who_would_wait_too_long_is_told_to_come_back_and_it_says_that_it_lives():
    async def all_of_it() -> None:
        LET_GO.clear()
        one = front.Front(inside, lambda _: True)
        many = [Asked("/slow") for _ in range(front.THREADS + front.MAX_QUEUED)]
        waiting = [asyncio.create_task(asked.by(one)) for asked in many]
        while one.queued < len(many):
            await asyncio.sleep(0.01)
        late, live = Asked("/api/places"), Asked("/live")
        assert await late.by(one) == 503 and late.headers[b"retry-after"] == b"2"
        assert await live.by(one) == 200
        LET_GO.set()
        assert set(await asyncio.gather(*waiting)) == {200}
        assert await Asked("/api/places").by(one) == 200

    asyncio.run(all_of_it())


@pytest.fixture(scope="module", params=["http", "https"])
def served(request, tmp_path_factory) -> Iterator[tuple[int, ssl.SSLContext | None]]:
    """gunicorn by our own configuration, with the stand-in behind the front."""
    folder, port, tls, keys = tmp_path_factory.mktemp("served"), free_port(None), None, ()
    if request.param == "https":
        authority = trustme.CA()
        pair = authority.issue_cert("127.0.0.1")
        pair.private_key_pem.write_to_path(folder / "key.pem")
        pair.cert_chain_pems[0].write_to_path(folder / "cert.pem")
        tls, keys = ssl.create_default_context(), ("--certfile", str(folder / "cert.pem"), "--keyfile", str(folder / "key.pem"))
        authority.configure_trust(tls)
    words = ["gunicorn", "tests.command.test_front:standing_in()", "--config", "python:widedusk.serving", "-w", "1", *keys]
    process = subprocess.Popen([sys.executable, "-m", *words, "--bind", f"127.0.0.1:{port}"], cwd=ROOT, env={**os.environ})
    until = time.monotonic() + 30
    while not background.is_live(port, 1.0, "127.0.0.1" if tls else ""):
        assert time.monotonic() < until and process.poll() is None
        time.sleep(0.05)
    yield port, tls
    process.terminate()
    process.wait(20)


def standing_in() -> front.Front:
    """What gunicorn loads; with less patience, so that a test need not wait."""
    serving.HEAD_S = 2.0
    return front.Front(inside, lambda _: False)


def connected(port: int) -> socket.socket:
    return socket.create_connection(("127.0.0.1", port), 20)


def asked(port: int, tls: ssl.SSLContext | None, path: str = "/quick") -> tuple[int, float]:
    begun = time.monotonic()
    with connected(port) as bare, tls.wrap_socket(bare, server_hostname="127.0.0.1") if tls else bare as line:
        line.sendall(f"POST {path} HTTP/1.1\r\nHost: h\r\nContent-Length: 3\r\nConnection: close\r\n\r\nabc".encode())
        answer = b""
        while piece := line.recv(4096):
            answer += piece
    return int(answer.split()[1]), time.monotonic() - begun


def test_slow_and_silent_connections_keep_nobody_waiting(served):
    port, tls = served
    heads = [connected(port) for _ in range(40)]  # under TLS: handshakes that are never finished
    for one in heads:
        one.sendall(b"\x16\x03\x01" if tls else b"GET / HTTP/1.1\r\nHost")
    bodies = []
    for _ in range(0 if tls else 40):
        bodies.append(connected(port))
        bodies[-1].sendall(b"POST / HTTP/1.1\r\nHost: h\r\nContent-Length: 5000\r\n\r\nx")
    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(lambda _: asked(port, tls), range(24)))
    assert {status for status, _ in found} == {200} and max(seconds for _, seconds in found) < 5.0
    if not tls:  # a head that does not come to its end is given up
        heads[0].settimeout(10)
        assert heads[0].recv(10) == b""
    for one in (*heads, *bodies):
        one.close()


def test_a_stranger_with_a_large_body_is_refused_at_its_head_and_a_long_head_too(served):
    port, tls = served
    if tls:
        pytest.skip("the same code")
    with connected(port) as line:
        line.sendall(b"POST /api/pictures HTTP/1.1\r\nHost: h\r\nContent-Length: 99000000\r\n\r\n")
        assert line.recv(4096).split()[1] == b"401"
    with connected(port) as line:
        line.sendall(b"GET / HTTP/1.1\r\nHost: h\r\nX-Long: " + b"x" * 200_000)
        assert line.recv(4096).split()[1] == b"400"
