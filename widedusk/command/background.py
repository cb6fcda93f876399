"""Processes that go on by themselves: started apart from whoever starts them, known by a mark in their command line, stopped by
their remembered number."""

import os
import signal
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path

from widedusk.command.basics import ROOT, VENV, remember, remembered

STEP_S = 0.1


def launch(
    words: Sequence[str], log: Path, env: Mapping[str, str], before: Callable[[], None] | None = None
) -> subprocess.Popen[bytes]:
    """Start a module of our Python environment; what it says is added to the log. before: run in the child first."""
    log.parent.mkdir(parents=True, exist_ok=True)
    with log.open("ab") as out:
        return subprocess.Popen(
            [str(VENV / "bin" / "python"), "-m", *words],
            cwd=ROOT,
            env={**os.environ, **env},
            stdin=subprocess.DEVNULL,
            stdout=out,
            stderr=out,
            start_new_session=True,
            preexec_fn=before,  # noqa: PLW1509 - nothing here runs threads
        )


def answers(port: int) -> bool:
    """Whether something on this machine says that it is well."""
    with (
        suppress(urllib.error.URLError, OSError, ValueError),
        urllib.request.urlopen(f"http://127.0.0.1:{port}/health", timeout=5) as answer,
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


def is_ours(pid: object, mark: str) -> bool:
    """Whether a remembered number is still the process with this mark, and not another that has its number now."""
    with suppress(OSError):
        return isinstance(pid, int) and mark.encode() in Path(f"/proc/{pid}/cmdline").read_bytes()
    return False


def _is_gone(pid: int) -> bool:
    """Whether a process has ended, its ports closed with it; its command line is empty a moment before that."""
    with suppress(ChildProcessError):
        return os.waitpid(pid, os.WNOHANG)[0] == pid  # a child of ours stays until it is waited for
    with suppress(OSError):
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] == "Z"
    return True


def stop(key: str, mark: str, patience_s: float = 15.0) -> bool:
    """Stop the process remembered under a key, by force when it will not. True when it was running."""
    pid = remembered().get(key)
    if not isinstance(pid, int) or not is_ours(pid, mark):
        return False
    os.kill(pid, signal.SIGTERM)
    for _ in range(round(patience_s / STEP_S)):
        if _is_gone(pid):
            break
        time.sleep(STEP_S)
    else:
        with suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)
    remember(**{key: None})
    return True
