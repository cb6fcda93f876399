"""On the local network: only when asked, over HTTPS by the authority that was made, and as safe as on this machine.

A second loopback address stands for the local network; nothing is sent elsewhere.
"""

import json
import ssl
import subprocess
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from cryptography import x509
from playwright.sync_api import Error, Playwright

from tests.command.test_keeper import Site
from tests.e2e.conftest import BROWSER, FLAGS

HOST = "127.0.0.2"


@pytest.fixture(scope="module")
def lan(tmp_path_factory) -> Iterator[Site]:
    one = Site(tmp_path_factory.mktemp("lan"))
    one.env.update(WIDE_DUSK_LAN_HOST=HOST, WIDE_DUSK_DEMO="1", WIDE_DUSK_DEMO_PASSWORD="lantern-under-the-table")
    done = one.command("start", "--lan")
    assert done.returncode == 0, done.stdout + done.stderr
    one.said = done.stdout
    yield one
    one.command("stop")


def where(site: Site) -> str:
    kept = json.loads((site.var / "keeper.json").read_text())
    return f"https://{HOST}:{kept['lan_port']}/"


def listening(site: Site) -> set[str]:
    """Addresses at which processes of this site listen, from the kernel's own table."""
    ours = set()
    for pid in site.marked("web", "lan", "pictures", "plans", "errands"):
        for handle in Path(f"/proc/{pid}/fd").glob("*"):
            target = str(handle.readlink()) if handle.is_symlink() else ""
            if target.startswith("socket:["):
                ours.add(target[8:-1])
    lines = [line.split() for line in Path("/proc/net/tcp").read_text().splitlines()[1:]]
    lines += [line.split() for line in Path("/proc/net/tcp6").read_text().splitlines()[1:]]
    return {line[1].split(":")[0] for line in lines if line[3] == "0A" and line[9] in ours}


def hexed(address: str) -> str:
    return "".join(f"{int(part):02X}" for part in reversed(address.split(".")))


def test_a_browser_that_trusts_the_authority_gets_in_and_another_is_refused(lan, playwright: Playwright, tmp_path):
    assert where(lan) in lan.said and "█" in lan.said and "authority.crt" in lan.said
    assert oct((lan.var / "lan" / "authority.key").stat().st_mode)[-3:] == "600"
    stranger = playwright.chromium.launch(executable_path=BROWSER, args=FLAGS)
    with pytest.raises(Error, match="ERR_CERT_AUTHORITY_INVALID"):
        stranger.new_page().goto(where(lan))
    stranger.close()

    for store in (tmp_path / ".pki" / "nssdb", tmp_path / ".local" / "share" / "pki" / "nssdb"):
        store.mkdir(parents=True)
        kept = f"sql:{store}"
        subprocess.run(["certutil", "-d", kept, "-N", "--empty-password"], check=True)
        added = ["certutil", "-d", kept, "-A", "-t", "C,,", "-n", "ours", "-i", str(lan.var / "lan" / "authority.crt")]
        subprocess.run(added, check=True)
    friend = playwright.chromium.launch(executable_path=BROWSER, args=FLAGS, env={"HOME": str(tmp_path), "PATH": "/usr/bin:/bin"})
    page = friend.new_page()
    answer = page.goto(f"{where(lan)}field/")
    assert answer is not None and answer.status == 200
    page.get_by_text("Nights on this phone").wait_for()
    assert page.evaluate("() => isSecureContext && navigator.serviceWorker.ready.then(() => true)")
    cookies = {one["name"]: one for one in page.context.cookies()}
    assert cookies["csrftoken"]["secure"]
    friend.close()


def test_it_listens_there_only_when_asked_and_sign_in_is_throttled(lan, pytestconfig):
    assert listening(lan) == {hexed("127.0.0.1"), hexed(HOST)}
    trusted = ssl.create_default_context(cafile=str(lan.var / "lan" / "authority.crt"))

    def tried(name: str) -> int:
        jar = urllib.request.HTTPCookieProcessor()
        door = urllib.request.build_opener(urllib.request.HTTPSHandler(context=trusted), jar)
        door.open(f"{where(lan)}sign-in")
        token = next(one.value for one in jar.cookiejar if one.name == "csrftoken")
        headers = {"Content-Type": "application/json", "X-CSRFToken": token, "Referer": where(lan)}
        body = json.dumps({"username": name, "password": "not-the-lantern"}).encode()
        try:
            asked = urllib.request.Request(f"{where(lan)}api/session", body, headers)  # noqa: S310
            return door.open(asked).status
        except urllib.error.HTTPError as refused:
            return refused.code

    codes = [tried("somebody") for _ in range(8)]
    assert codes[0] == 422 and codes[-1] == 429, codes
    with pytest.raises((urllib.error.URLError, ssl.SSLError)):
        urllib.request.urlopen(where(lan))  # noqa: S310

    before = x509.load_pem_x509_certificate((lan.var / "lan" / "authority.crt").read_bytes())
    assert lan.command("start").returncode == 0
    assert listening(lan) == {hexed("127.0.0.1")}
    if pytestconfig.getoption("everything"):
        again = lan.command("start", "--lan")
        assert again.returncode == 0 and listening(lan) == {hexed("127.0.0.1"), hexed(HOST)}
    assert x509.load_pem_x509_certificate((lan.var / "lan" / "authority.crt").read_bytes()) == before, "phones trust it already"


def test_an_address_that_is_none_or_public_is_refused_in_words(lan):
    for wrong, words in (("tonight", "is no address"), ("8.8.8.8", "no address of a local network")):
        done = lan.command("start", "--lan", WIDE_DUSK_LAN_HOST=wrong)
        assert done.returncode == 1 and words in done.stdout and "Traceback" not in done.stdout + done.stderr
