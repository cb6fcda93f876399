"""Paths, saying what happens, running programs, and what is remembered between two runs."""

import hashlib
import json
import os
import secrets
import socket
import subprocess
import time
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
VAR = ROOT / "var"
LOG = VAR / "log"
VENV = ROOT / ".venv"
FRONTEND = ROOT / "frontend"
SECRETS = VAR / "secrets.json"
STATE = VAR / "state.json"


class Failure(Exception):
    """Something went wrong that a person can mend; the text says what and how."""


def say(text: str) -> None:
    print(text, flush=True)


def run(command: Sequence[str | Path], *, env: Mapping[str, str] | None = None, cwd: Path = ROOT, why: str, mend: str = "") -> str:
    """Run a program to its end and return what it printed. Raises Failure with the end of its output and the way to mend it."""
    try:
        done = subprocess.run(
            [str(word) for word in command],
            env={**os.environ, **(env or {})},
            cwd=cwd,
            text=True,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            check=False,
        )
    except FileNotFoundError as missing:
        raise Failure(f"{why} failed: there is no program {missing.filename}. {mend}") from missing
    if done.returncode:
        tail = "\n".join(f"    {line}" for line in done.stdout.strip().splitlines()[-25:])
        raise Failure(f"{why} failed ({Path(str(command[0])).name} ended with {done.returncode}):\n{tail}\n{mend}".rstrip())
    return done.stdout


def timed(label: str, started: float) -> None:
    say(f"  {label} ({time.monotonic() - started:.0f} s)")


def fingerprint(paths: Iterable[Path]) -> str:
    """One hash over files, so that work is done again only when its inputs changed."""
    digest = hashlib.sha256()
    for path in sorted(paths):
        if path.is_file():
            digest.update(path.relative_to(ROOT).as_posix().encode() + b"\0" + path.read_bytes() + b"\0")
    return digest.hexdigest()


def files_below(*folders: str, suffixes: tuple[str, ...]) -> list[Path]:
    return [
        path
        for folder in folders
        for path in (ROOT / folder).rglob("*")
        if path.suffix in suffixes and "node_modules" not in path.parts
    ]


def _read(path: Path) -> dict[str, Any]:
    try:
        content = json.loads(path.read_text())
    except FileNotFoundError:
        return {}
    except (OSError, ValueError) as broken:
        raise Failure(
            f"{path.relative_to(ROOT)} cannot be read ({broken}). If another user made it, run as that user; "
            "if it is damaged, remove it and run again."
        ) from broken
    return content if isinstance(content, dict) else {}


def remembered() -> dict[str, Any]:
    """Ports, process and stamps of the last run."""
    return _read(STATE)


def remember(**values: Any) -> None:
    VAR.mkdir(exist_ok=True)
    STATE.write_text(json.dumps({**remembered(), **values}, indent=1))


def secret(name: str) -> str:
    """A password or key, made up once and kept where only its owner can read it."""
    kept = _read(SECRETS)
    if name not in kept:
        kept[name] = secrets.token_urlsafe(24)
        VAR.mkdir(exist_ok=True)
        SECRETS.touch(mode=0o600)
        SECRETS.chmod(0o600)
        SECRETS.write_text(json.dumps(kept, indent=1))
    return str(kept[name])


def is_free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def free_port(wanted: int | None) -> int:
    """The wanted port on loopback when it is free, else any other."""
    if wanted and is_free(wanted):
        return wanted
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
