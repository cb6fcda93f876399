"""Paths, saying what happens, running programs, and what is remembered between two runs."""

import contextlib
import errno
import fcntl
import hashlib
import json
import os
import secrets
import socket
import subprocess
import time
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
VAR = Path(os.environ.get("WIDE_DUSK_VAR") or ROOT / "var").absolute()
LOG = VAR / "log"
VENV = ROOT / ".venv"
FRONTEND = ROOT / "frontend"
SECRETS = VAR / "secrets.json"
STATE = VAR / "state.json"
MOST_PORT = 65_535


class Failure(Exception):
    """Something went wrong that a person can mend; the text says what and how."""


def say(text: str) -> None:
    print(text, flush=True)


def in_words(failed: OSError) -> str:
    """What the machine refused, and what can be done about it."""
    what = failed.filename or failed.filename2 or "a file"
    if failed.errno in {errno.ENOSPC, errno.EDQUOT}:
        return f"There is no room left on the disk ({what}). Make some, then run this again."
    if failed.errno in {errno.EACCES, errno.EPERM, errno.EROFS}:
        return f"{what} cannot be written or read: {failed.strerror}. Run this as the user to whom it belongs."
    return f"{what}: {failed.strerror or failed}."


def run(command: Sequence[str | Path], *, env: Mapping[str, str] | None = None, cwd: Path = ROOT, why: str, mend: str = "") -> str:
    """Run a program to its end and return what it printed. Raises Failure with the end of its output and the way to mend it."""
    try:
        done = subprocess.run(
            [str(word) for word in command],
            env={**os.environ, **(env or {})},
            cwd=cwd,
            text=True,
            errors="replace",
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


def write_whole(path: Path, text: str, mode: int = 0o644) -> None:
    """Write a file so that whoever looks finds the old one or the new one, whatever happens meanwhile."""
    path.parent.mkdir(parents=True, exist_ok=True)
    beside = path.with_name(f".{path.name}.{os.getpid()}")
    try:
        with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, mode), "w") as out:
            out.write(text)
            out.flush()
            os.fsync(out.fileno())
        beside.chmod(mode)
        beside.replace(path)
    finally:
        beside.unlink(missing_ok=True)


@contextmanager
def held(name: str, *, wait: bool = True) -> Iterator[bool]:
    """Hold a lock of this checkout; False when another process has it and it is not waited for. It falls with its holder."""
    VAR.mkdir(parents=True, exist_ok=True)
    with (VAR / f"{name}.lock").open("a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | (0 if wait else fcntl.LOCK_NB))
        except BlockingIOError:
            yield False
            return
        yield True


@contextmanager
def alone(patience_s: float = 900.0) -> Iterator[None]:
    """One command at a time may start, stop or set up. Raises Failure when another one takes too long."""
    until, told = time.monotonic() + patience_s, False
    while True:
        with held("command", wait=False) as mine:
            if mine:
                yield
                return
        if not told:
            say("  another ./wide-dusk is at work here; waiting for it …")
            told = True
        if time.monotonic() > until:
            raise Failure("Another ./wide-dusk has been at work here for a quarter of an hour. Look what it waits for, or end it.")
        time.sleep(0.2)


def _read(path: Path) -> dict[str, Any]:
    """What a file of ours holds. One that is damaged is put aside: ports are found anew, and passwords are made anew."""
    try:
        content = json.loads(path.read_text())
    except FileNotFoundError:
        return {}
    except ValueError:
        aside = path.with_name(f"{path.name}.damaged-{time.strftime('%Y%m%dT%H%M%S')}")
        with contextlib.suppress(FileNotFoundError):
            path.replace(aside)
            say(f"  {path.name} was damaged and is kept as {aside.name}; what it held is made anew")
        return {}
    return content if isinstance(content, dict) else {}


def remembered() -> dict[str, Any]:
    """Ports and stamps of the last run."""
    return _read(STATE)


def remember(**values: Any) -> None:
    with held("state"):
        write_whole(STATE, json.dumps({**remembered(), **values}, indent=1))


def secret(name: str) -> str:
    """A password or key, made up once and kept where only its owner can read it."""
    kept = _read(SECRETS)
    if name not in kept:
        with held("state"):
            kept = _read(SECRETS)
            kept.setdefault(name, secrets.token_urlsafe(48))
            write_whole(SECRETS, json.dumps(kept, indent=1), 0o600)
    return str(kept[name])


def is_free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def free_port(wanted: object) -> int:
    """The wanted port on loopback when it is one and free, else any other."""
    if isinstance(wanted, int) and 0 < wanted <= MOST_PORT and is_free(wanted):
        return wanted
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
