"""The web server: migrate, collect the pages, serve, watch until it is healthy, stop."""

import os
import re
import signal
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

from widedusk.command.basics import (
    LOG,
    ROOT,
    VENV,
    Failure,
    files_below,
    fingerprint,
    free_port,
    is_free,
    remember,
    remembered,
    run,
    say,
)

USUAL_PORT = 8077


def manage(env: Mapping[str, str], *words: str, why: str) -> str:
    """One of Django's own commands."""
    return run([VENV / "bin" / "python", "-m", "django", *words], env=env, why=why)


def prepare(env: Mapping[str, str]) -> None:
    """Bring the tables up to date and lay the built pages where they are served from."""
    manage(env, "migrate", "--no-input", "-v", "0", why="Bringing the database up to date")
    manage(env, "collectstatic", "--no-input", "--clear", "-v", "0", why="Collecting the pages")


def is_healthy(port: int) -> bool:
    with (
        suppress(urllib.error.URLError, OSError, ValueError),
        urllib.request.urlopen(f"http://127.0.0.1:{port}/health", timeout=5) as answer,
    ):
        return bool(answer.status == 200)
    return False


_REASON = re.compile(r"[\w.]*(?:Error|Exception|Configured): ")


def launch(env: Mapping[str, str], port: int, log: Path) -> subprocess.Popen[bytes]:
    """Start gunicorn and wait until it answers. Raises Failure with the end of its log."""
    log.parent.mkdir(parents=True, exist_ok=True)
    before = log.stat().st_size if log.exists() else 0
    with log.open("ab") as out:
        process = subprocess.Popen(
            [
                str(VENV / "bin" / "gunicorn"),
                "widedusk.wsgi",
                "--bind",
                f"127.0.0.1:{port}",
                "--workers",
                "2",
                "--threads",
                "4",
                "--no-control-socket",
            ],
            cwd=ROOT,
            env={**os.environ, **env},
            stdin=subprocess.DEVNULL,
            stdout=out,
            stderr=out,
            start_new_session=True,
        )
    for _ in range(240):
        if is_healthy(port):
            return process
        if process.poll() is not None:
            break
        time.sleep(0.25)
    process.kill()
    lines = log.read_bytes()[before:].decode(errors="replace").splitlines()
    # The workers' traceback may stand above the server's own: the reason goes first, whoever wrote last.
    reasons = [line for line in dict.fromkeys(lines) if _REASON.match(line)]
    tail = "\n".join(f"    {line}" for line in [*reasons, *lines[-15:]])
    raise Failure(f"The server did not come up. The end of {log.relative_to(ROOT)}:\n{tail}")


def _ours(pid: int) -> bool:
    with suppress(OSError):
        return b"widedusk.wsgi" in Path(f"/proc/{pid}/cmdline").read_bytes()
    return False


def stop() -> bool:
    """Stop the server. True when it was running."""
    pid = remembered().get("web_pid")
    if not isinstance(pid, int) or not _ours(pid):
        return False
    os.kill(pid, signal.SIGTERM)
    for _ in range(100):
        if not _ours(pid):
            break
        with suppress(ChildProcessError):
            os.waitpid(pid, os.WNOHANG)
        time.sleep(0.1)
    else:
        os.kill(pid, signal.SIGKILL)
    remember(web_pid=None)
    return True


def serve(env: Mapping[str, str], mode: str) -> str:
    """Serve in a mode ("demo" or "start") and return the address; a healthy server of the same code and mode is left alone."""
    stamp = fingerprint(files_below("widedusk", "demo", "frontend/dist", suffixes=(".py", ".html"))) + mode
    kept = remembered()
    port = kept.get("web_port")
    if kept.get("web_stamp") == stamp and isinstance(port, int) and _ours(kept.get("web_pid") or 0) and is_healthy(port):
        return f"http://127.0.0.1:{port}/"
    stop()
    asked = os.environ.get("WIDE_DUSK_PORT", "")
    if asked and not (asked.isdecimal() and is_free(int(asked))):
        raise Failure(f"Port {asked} of WIDE_DUSK_PORT is taken or no port number. Choose another or leave it unset.")
    port = int(asked) if asked else free_port(port or USUAL_PORT)
    prepare(env)
    process = launch(env, port, LOG / "web.log")
    remember(web_pid=process.pid, web_port=port, web_stamp=stamp)
    say("  serving")
    return f"http://127.0.0.1:{port}/"
