"""Behind HTTPS: a certificate made here, a gate that speaks TLS before the server, a browser's view of cookies and headers."""

import http.client
import json
import ssl
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest
import trustme

from tests.demo import PASSWORD
from tests.e2e.conftest import Served, a_site

NAME = "dusk.example"


@pytest.fixture(scope="module")
def gate(demo_copy) -> Iterator[tuple[int, int, trustme.CA]]:
    """Ports of the gate and of the server behind it, which knows no name but its own."""
    # It is asked for its health by number and without TLS: that must not wait for a certificate.
    with a_site(demo_copy, "widedusk_https", WIDE_DUSK_HTTPS="1", WIDE_DUSK_HOSTS=NAME) as server:
        yield from _gate(server)


def _gate(server: Served) -> Iterator[tuple[int, int, trustme.CA]]:
    class Gate(BaseHTTPRequestHandler):
        """What stands before the server where it is reached from outside: it ends TLS and says so."""

        protocol_version = "HTTP/1.1"

        def do_GET(self) -> None:
            behind = http.client.HTTPConnection("127.0.0.1", server.port)
            body = self.rfile.read(int(self.headers.get("Content-Length") or 0))
            behind.request(self.command, self.path, body, {**dict(self.headers), "X-Forwarded-Proto": "https"})
            answer = behind.getresponse()
            content = answer.read()
            self.send_response(answer.status)
            for name, value in answer.getheaders():
                if name.lower() not in {"connection", "transfer-encoding", "date", "server"}:
                    self.send_header(name, value)
            self.end_headers()
            self.wfile.write(content)

        do_POST = do_GET  # noqa: N815

        def log_message(self, format: str, *args: object) -> None:
            pass

    authority = trustme.CA()
    outside = ThreadingHTTPServer(("127.0.0.1", 0), Gate)
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    authority.issue_cert(NAME).configure_cert(context)
    outside.socket = context.wrap_socket(outside.socket, server_side=True)
    threading.Thread(target=outside.serve_forever, daemon=True).start()
    yield outside.server_port, server.port, authority
    outside.shutdown()


def test_it_starts_serves_and_signs_in_behind_https(gate):
    outside, inside, authority = gate
    context = ssl.create_default_context()
    authority.configure_trust(context)

    def ask(how: str, path: str, body: object = None, **headers: str) -> http.client.HTTPResponse:
        line = http.client.HTTPSConnection("127.0.0.1", outside, context=context)
        # As a browser does it that was led here by the name.
        line.sock = context.wrap_socket(http.client.socket.create_connection(("127.0.0.1", outside)), server_hostname=NAME)
        told = {"Host": NAME, "Content-Type": "application/json", "Origin": f"https://{NAME}", **headers}
        line.request(how, path, json.dumps(body) if body else None, told)
        return line.getresponse()

    page = ask("GET", "/sign-in")
    assert page.status == 200 and page.getheader("Strict-Transport-Security", "").startswith("max-age=31536000")
    assert "frame-ancestors 'none'" in page.getheader("Content-Security-Policy", "")
    cookie = page.getheader("Set-Cookie", "")
    assert "Secure" in cookie and "SameSite=Lax" in cookie
    token = cookie.split(";")[0]
    words = {"username": "demo", "password": PASSWORD}
    signed = ask(
        "POST",
        "/api/session",
        words,
        Cookie=token,
        **{"X-CSRFToken": token.partition("=")[2], "Referer": f"https://{NAME}/sign-in"},
    )
    assert signed.status == 200, signed.read()
    kept = [value for name, value in signed.getheaders() if name.lower() == "set-cookie" and value.startswith("sessionid")]
    assert kept and "Secure" in kept[0] and "HttpOnly" in kept[0]
    # Without TLS one is sent to it, and another name is not served.
    plain = http.client.HTTPConnection("127.0.0.1", inside)
    plain.request("GET", "/sign-in", headers={"Host": NAME})
    moved = plain.getresponse()
    assert moved.status == 301 and moved.getheader("Location") == f"https://{NAME}/sign-in"
    plain = http.client.HTTPConnection("127.0.0.1", inside)
    plain.request("GET", "/sign-in", headers={"Host": "elsewhere.example", "X-Forwarded-Proto": "https"})
    assert plain.getresponse().status == 400
