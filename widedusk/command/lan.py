"""On the local network: at which address, over HTTPS by an authority of our own, and how it is told."""

import ipaddress
import json
import os
import socket
from collections.abc import Mapping
from pathlib import Path

from widedusk.command import basics
from widedusk.command.basics import VENV, Failure, run

PART = "lan"
# All that our authority may vouch for (authority.py).
LOCAL = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "100.64.0.0/10", "127.0.0.0/8")
USUAL_PORT = 8443
NOWHERE = "192.0.2.1"  # an address kept for documentation (RFC 5737): asking the way there sends nothing


def folder() -> Path:
    return basics.VAR / "lan"


def is_local(address: str) -> bool:
    """Whether our authority may vouch for it."""
    return any(ipaddress.ip_address(address) in ipaddress.ip_network(one) for one in LOCAL)


def address() -> str:
    """This machine's address on its local network; WIDE_DUSK_LAN_HOST names another. Raises Failure when there is none."""
    asked = os.environ.get("WIDE_DUSK_LAN_HOST", "")
    if asked:
        try:
            ipaddress.ip_address(asked)
        except ValueError:
            raise Failure(
                f"“{asked}” of WIDE_DUSK_LAN_HOST is no address; give one like 192.168.1.20, or leave it unset."
            ) from None
        if not is_local(asked):
            raise Failure(f"{asked} of WIDE_DUSK_LAN_HOST is no address of a local network; give one like 192.168.1.20.")
        return asked
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect((NOWHERE, 9))
            found_here = str(probe.getsockname()[0])
        except OSError:
            found_here = ""
    if not found_here or ipaddress.ip_address(found_here).is_loopback:
        raise Failure("This machine is in no network. Join one, or open a hotspot on the phone and join that; then start again.")
    if not is_local(found_here):
        raise Failure(f"{found_here} is no address of a local network: whoever knows it could ask. Set WIDE_DUSK_LAN_HOST to one.")
    return found_here


def free_port(host: str, wanted: object) -> int:
    """The wanted port at an address when it is free there, else the usual one, else any."""
    for port in (wanted, USUAL_PORT, 0):
        if not isinstance(port, int):
            continue
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((host, port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise Failure(f"No port can be opened at {host}. Is it an address of this machine?")


def made(host: str, port: int) -> dict[str, object]:
    """The authority and a certificate for the address; what is to be told of them: address, fingerprint, code."""
    url = f"https://{host}:{port}/"
    asked: list[str | Path] = [VENV / "bin" / "python", "-m", "widedusk.command.authority", folder(), host, url + "field/"]
    told: dict[str, object] = json.loads(run(asked, why="Making a certificate for the local network"))
    return {**told, "address": url}


def settings(told: Mapping[str, object]) -> dict[str, str]:
    """What the web servers are to know of it."""
    return {
        "WIDE_DUSK_LAN_ADDRESS": str(told["address"]),
        "WIDE_DUSK_LAN_FINGERPRINT": str(told["fingerprint"]),
        "WIDE_DUSK_LAN_AUTHORITY": str(folder() / "authority.crt"),
    }


def words(host: str, port: int) -> tuple[str, ...]:
    """What starts the server for the local network, as a module of our Python environment."""
    keys = ("--certfile", str(folder() / "server.crt"), "--keyfile", str(folder() / "server.key"))
    return ("gunicorn", "widedusk.asgi", "--config", "python:widedusk.serving", "--bind", f"{host}:{port}", *keys)


def env(host: str) -> dict[str, str]:
    """Secure cookies, no name but the address, and no new accounts once somebody has one, unless that is asked for."""
    return {"WIDE_DUSK_HTTPS": "1", "WIDE_DUSK_HOSTS": host, "WIDE_DUSK_SIGN_UP": os.environ.get("WIDE_DUSK_SIGN_UP", "first")}


def code_words(rows: list[list[bool]]) -> str:
    """The code for a terminal, two rows a line, light on dark as cameras read it everywhere."""
    rows = rows if len(rows) % 2 == 0 else [*rows, [False] * len(rows[0])]
    blocks = {(False, False): "█", (True, True): " ", (False, True): "▀", (True, False): "▄"}
    pairs = zip(rows[::2], rows[1::2], strict=True)
    return "\n".join("".join(blocks[(upper, lower)] for upper, lower in zip(*pair, strict=True)) for pair in pairs)


def instructions(told: Mapping[str, object]) -> str:
    """How a phone gets there, for the terminal."""
    rows = told["code"]
    code = code_words(rows) if isinstance(rows, list) else ""
    return (
        f"{code}\n"
        f"On a phone in the same network open {told['address']}field/ or read the code.\n"
        f"The first time open {told['address']}field/authority.crt there, save it, and install it in the phone's security\n"
        "settings as a certificate authority. It is good for addresses of local networks only. Its fingerprint (SHA-256):\n"
        f"{told['fingerprint']}"
    )
