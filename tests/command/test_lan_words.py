"""What `--lan` makes and says: the code as a camera reads it, certificates for one address, and ports that are free there."""

import hashlib
import ipaddress
import json
import os
import socket
import ssl
import subprocess
import sys
from datetime import timedelta

import pytest
import segno
from cryptography import x509

from widedusk.command import lan
from widedusk.command.authority import authority, certificate
from widedusk.command.basics import ROOT, Failure
from widedusk.command.lan import LOCAL


def test_the_code_in_a_terminal_is_that_of_the_address():
    """Read back from half blocks, against the library that draws it as a picture."""
    rows = [[bool(cell) for cell in row] for row in segno.make("https://192.168.1.20:8443/field/", error="m").matrix_iter(border=2)]
    halves = {"█": (False, False), " ": (True, True), "▀": (False, True), "▄": (True, False)}
    read = []
    for line in lan.code_words(rows).split("\n"):
        upper, lower = zip(*(halves[one] for one in line), strict=True)
        read += [list(upper), list(lower)]
    assert read[: len(rows)] == rows
    assert all(not any(row) for row in read[len(rows) :])


def test_a_certificate_holds_for_its_address_and_the_authority_for_local_ones(tmp_path):
    certificate(tmp_path, "192.168.7.9")
    _, issuer = authority(tmp_path)
    first = (tmp_path / "server.crt").read_bytes()
    certificate(tmp_path, "192.168.7.9")
    assert (tmp_path / "server.crt").read_bytes() == first, "nothing is made anew without need"
    certificate(tmp_path, "192.168.7.10")
    assert (tmp_path / "server.crt").read_bytes() != first
    assert authority(tmp_path)[1] == issuer, "phones trust it already"
    limits = issuer.extensions.get_extension_for_class(x509.NameConstraints)
    assert limits.critical
    assert [str(one.value) for one in limits.value.permitted_subtrees or []] == list(LOCAL)
    assert all(ipaddress.ip_network(one).is_private or one == "100.64.0.0/10" for one in LOCAL)  # RFC 1918, 3927, 6598, 1122
    leaf = x509.load_pem_x509_certificate((tmp_path / "server.crt").read_bytes())
    assert leaf.not_valid_after_utc - leaf.not_valid_before_utc <= timedelta(days=398)
    for name in ("authority.key", "server.key"):
        assert oct((tmp_path / name).stat().st_mode)[-3:] == "600"


@pytest.mark.parametrize(("asked", "holds"), [("127.0.0.3", True), ("8.8.4.4", False)])
def test_openssl_takes_a_local_address_and_refuses_one_that_is_not(tmp_path, asked, holds):
    """A handshake by OpenSSL itself: the authority's limits are not only written down."""
    certificate(tmp_path, asked)
    here = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    here.load_cert_chain(tmp_path / "server.crt", tmp_path / "server.key")
    there = ssl.create_default_context(cafile=str(tmp_path / "authority.crt"))
    to_server, to_client = ssl.MemoryBIO(), ssl.MemoryBIO()
    server = here.wrap_bio(to_server, to_client, server_side=True)
    client = there.wrap_bio(to_client, to_server, server_hostname=asked)

    def shake() -> None:
        for _ in range(6):
            for side in (client, server):
                try:
                    side.do_handshake()
                except ssl.SSLWantReadError:
                    continue

    if holds:
        shake()
        assert client.version() == "TLSv1.3"
    else:
        with pytest.raises(ssl.SSLCertVerificationError, match="permitted subtree"):
            shake()


@pytest.mark.parametrize(("asked", "holds"), [("192.168.1.20", True), ("100.64.0.7", True), ("203.0.113.9", False)])
def test_an_address_that_the_authority_may_not_vouch_for_is_refused_before_it_is_served(monkeypatch, asked, holds):
    """Some that nobody routes are no local network either: RFC 5737, RFC 2544."""
    monkeypatch.setenv("WIDE_DUSK_LAN_HOST", asked)
    if holds:
        assert lan.address() == asked
    else:
        with pytest.raises(Failure, match="no address of a local network"):
            lan.address()


def test_a_port_is_looked_for_at_the_address_itself():
    with socket.socket() as taken:
        taken.bind(("127.0.0.2", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert lan.free_port("127.0.0.2", port) != port
        assert lan.free_port("127.0.0.3", port) == port
    with pytest.raises(Failure, match="Is it an address of this machine"):
        lan.free_port("198.51.100.7", None)


def test_what_is_told_of_it_comes_from_one_child(tmp_path):
    words = [sys.executable, "-m", "widedusk.command.authority", str(tmp_path), "127.0.0.2", "https://127.0.0.2:8443/field/"]
    told = json.loads(subprocess.run(words, cwd=ROOT, env=dict(os.environ), capture_output=True, check=True).stdout)
    digest = ssl.PEM_cert_to_DER_cert((tmp_path / "authority.crt").read_text())
    assert told["fingerprint"].replace(":", "").lower() == hashlib.sha256(digest).hexdigest()
    said = lan.instructions({**told, "address": "https://127.0.0.2:8443/"})
    assert "https://127.0.0.2:8443/field/authority.crt" in said and told["fingerprint"] in said
