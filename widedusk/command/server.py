"""The web server: migrate, collect the pages, serve, watch until it is healthy, stop."""

import os
import re
import subprocess
from collections.abc import Mapping
from pathlib import Path

from widedusk.command import background
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
MARK = "widedusk.wsgi"


def manage(env: Mapping[str, str], *words: str, why: str) -> str:
    """One of Django's own commands."""
    return run([VENV / "bin" / "python", "-m", "django", *words], env=env, why=why)


def prepare(env: Mapping[str, str]) -> None:
    """Bring the tables up to date and lay the built pages where they are served from."""
    manage(env, "migrate", "--no-input", "-v", "0", why="Bringing the database up to date")
    manage(env, "collectstatic", "--no-input", "--clear", "-v", "0", why="Collecting the pages")


_REASON = re.compile(r"[\w.]*(?:Error|Exception|Configured): ")


def launch(env: Mapping[str, str], port: int, log: Path) -> subprocess.Popen[bytes]:
    """Start gunicorn and wait until it answers. Raises Failure with the end of its log."""
    before = log.stat().st_size if log.exists() else 0
    bind = ("--bind", f"127.0.0.1:{port}", "--workers", "2", "--threads", "4", "--no-control-socket")
    process = background.launch(("gunicorn", MARK, *bind), log, env)
    if background.comes_up(process, port):
        return process
    lines = log.read_bytes()[before:].decode(errors="replace").splitlines()
    # The workers' traceback may stand above the server's own: the reason goes first, whoever wrote last.
    reasons = [line for line in dict.fromkeys(lines) if _REASON.match(line)]
    tail = "\n".join(f"    {line}" for line in [*reasons, *lines[-15:]])
    raise Failure(f"The server did not come up. The end of {log.relative_to(ROOT)}:\n{tail}")


def stop() -> bool:
    """Stop the server. True when it was running."""
    return background.stop("web_pid", MARK)


def serve(env: Mapping[str, str], mode: str) -> str:
    """Serve in a mode ("demo" or "start") and return the address; a healthy server of the same code and mode is left alone."""
    stamp = (
        fingerprint(files_below("widedusk", "demo", "frontend/dist", suffixes=(".py", ".html")))
        + mode
        + env.get("WIDE_DUSK_FORECAST_URL", "")
    )
    kept = remembered()
    port = kept.get("web_port")
    if (
        kept.get("web_stamp") == stamp
        and isinstance(port, int)
        and background.is_ours(kept.get("web_pid"), MARK)
        and background.answers(port)
    ):
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
