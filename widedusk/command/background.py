"""Processes that go on by themselves. Each carries a mark in its environment, and with it everything it starts: the part it is, and
which checkout's. By that mark they are found again, whoever started them and whatever became of their parents."""

import hashlib
import os
import signal
import ssl
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path

from widedusk.command import basics
from widedusk.command.basics import ROOT, VENV

STEP_S = 0.1
MARK = "WIDE_DUSK_PART"


def mark_of(part: str) -> str:
    """What a part of this checkout carries."""
    return f"{part}@{hashlib.sha256(str(basics.VAR).encode()).hexdigest()[:16]}"


def launch(
    words: Sequence[str], log: Path, env: Mapping[str, str], before: Callable[[], None] | None = None, part: str = ""
) -> subprocess.Popen[bytes]:
    """Start a module of our Python environment; what it says is added to the log. before: run in the child first."""
    log.parent.mkdir(parents=True, exist_ok=True)
    with log.open("ab") as out:
        return subprocess.Popen(
            [str(VENV / "bin" / "python"), "-m", *words],
            cwd=ROOT,
            env={**os.environ, **env, MARK: mark_of(part) if part else ""},
            stdin=subprocess.DEVNULL,
            stdout=out,
            stderr=out,
            start_new_session=True,
            preexec_fn=before,  # noqa: PLW1509 - nothing here runs threads
        )


def answers(port: int, patience_s: float = 5.0) -> bool:
    """Whether something on this machine says that it is well, its database included."""
    return _says_so(f"http://127.0.0.1:{port}/health", patience_s)


def is_live(port: int, patience_s: float = 5.0, host: str = "") -> bool:
    """Whether a web server of ours holds its connections, however much there is to do. host: where it speaks TLS."""
    return _says_so(f"https://{host}:{port}/live" if host else f"http://127.0.0.1:{port}/live", patience_s)


def _says_so(address: str, patience_s: float) -> bool:
    tls = address.startswith("https:")
    ours = ssl.create_default_context()  # who it is does not matter here, only that it answers
    ours.check_hostname, ours.verify_mode = False, ssl.CERT_NONE
    with (
        suppress(urllib.error.URLError, OSError, ValueError),
        urllib.request.urlopen(address, timeout=patience_s, context=ours if tls else None) as answer,  # noqa: S310
    ):
        return bool(answer.status == 200)
    return False


def comes_up(process: subprocess.Popen[bytes], port: int, patience_s: float = 90.0) -> bool:
    """Wait until what was just started answers. False when it ends before that, or is ended for taking longer."""
    until = time.monotonic() + patience_s
    while process.poll() is None and time.monotonic() < until:
        if answers(port):
            return True
        time.sleep(STEP_S)
    process.kill()
    return False


def is_alive(pid: int) -> bool:
    """Whether a process runs; one that has ended and waits to be counted does not."""
    with suppress(ChildProcessError, OSError):
        os.waitpid(pid, os.WNOHANG)  # a child of ours stays until it is waited for
    with suppress(OSError, IndexError):
        return Path(f"/proc/{pid}/stat").read_text(errors="replace").rpartition(")")[2].split()[0] not in {"Z", "X"}
    return False


def marked(*parts: str) -> dict[int, int]:
    """Numbers of the running processes of these parts, or of all parts of this checkout, each with its parent's."""
    site = mark_of("")
    wanted = {f"{MARK}={mark_of(part)}".encode() for part in parts}
    found = {}
    for folder in Path("/proc").iterdir():
        if not folder.name.isdecimal() or int(folder.name) == os.getpid():
            continue
        with suppress(OSError, ValueError):
            carried = [one for one in (folder / "environ").read_bytes().split(b"\0") if one.startswith(MARK.encode() + b"=")]
            ours = any(one in wanted for one in carried) if parts else any(one.endswith(site.encode()) for one in carried)
            if ours and is_alive(int(folder.name)):
                stat = (folder / "stat").read_text(errors="replace").rpartition(")")[2].split()
                found[int(folder.name)] = int(stat[1])
    return found


def first_of(part: str) -> int | None:
    """The process of a part that started the others of it."""
    found = marked(part)
    return next((pid for pid in sorted(found) if found[pid] not in found), None)


def sweep(*parts: str, patience_s: float = 12.0) -> bool:
    """End every process of these parts, or of all parts of this checkout; by force when they will not. True when there was one."""
    any_there, until = False, time.monotonic() + patience_s
    asked: set[int] = set()
    while found := marked(*parts):
        any_there, forced = True, time.monotonic() > until
        for pid in found:
            if forced or pid not in asked:
                with suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL if forced else signal.SIGTERM)
                asked.add(pid)
        time.sleep(STEP_S)
    return any_there
