"""The web server: migrate, collect the pages, serve, watch until it is healthy."""

import os
import re
import subprocess
from collections.abc import Mapping
from pathlib import Path

from widedusk.command import background, basics, postgres
from widedusk.command.basics import (
    FRONTEND,
    MOST_PORT,
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
)

USUAL_PORT = 8077
PART = "web"


def manage(env: Mapping[str, str], *words: str, why: str) -> str:
    """One of Django's own commands."""
    return run([VENV / "bin" / "python", "-m", "django", *words], env=env, why=why)


def migrations_digest() -> str:
    """Changes with every migration of ours, and with every package that may bring one."""
    ours = (path for path in files_below("widedusk/records", suffixes=(".py",)) if path.parent.name == "migrations")
    return fingerprint([*ours, ROOT / "requirements" / "run.txt", ROOT / "widedusk" / "settings" / "__init__.py"])


def migrate(env: Mapping[str, str]) -> None:
    """Bring the tables up to date, unless these very migrations did so before."""
    database, digest = env["WIDE_DUSK_DB_NAME"], migrations_digest()
    if postgres.migrated_to(database) != digest:
        manage(env, "migrate", "--no-input", "-v", "0", "--skip-checks", why="Bringing the database up to date")
        postgres.note_migrated(database, digest)


def prepare(env: Mapping[str, str]) -> None:
    """Bring the tables up to date and lay the built pages where they are served from."""
    migrate(env)
    collect_pages(env)


def collect_pages(env: Mapping[str, str]) -> None:
    """Lay the built pages where they are served from, unless they lie there."""
    built = FRONTEND / "dist" / ".built"
    stamp = built.read_text() if built.is_file() else ""
    if not stamp or remembered().get("pages") != stamp or not (basics.VAR / "static").is_dir():
        # The two pages, and what works for the field beside its page, go out by the application alone, with all their headers.
        skipped = ("--ignore", "*.html*", "--ignore", "sw.js*", "--ignore", "manifest.webmanifest*")
        manage(env, "collectstatic", "--no-input", "--clear", "-v", "0", "--skip-checks", *skipped, why="Collecting the pages")
        remember(pages=stamp)


_REASON = re.compile(r"[\w.]*(?:Error|Exception|Configured): ")


def words(port: int) -> tuple[str, ...]:
    """What starts it, as a module of our Python environment."""
    return ("gunicorn", "widedusk.asgi", "--config", "python:widedusk.serving", "--bind", f"127.0.0.1:{port}")


def end_of(log: Path, since: int = 0) -> str:
    """The end of a log from a byte on. A worker's traceback may stand above the server's own: the reason goes first."""
    with log.open("rb") as file:
        file.seek(max(since, log.stat().st_size - 20_000))
        lines = file.read().decode(errors="replace").splitlines()
    reasons = [line for line in dict.fromkeys(lines) if _REASON.match(line)]
    return "\n".join(f"    {line}" for line in [*reasons[-5:], *lines[-15:]])


def launch(env: Mapping[str, str], port: int, log: Path) -> subprocess.Popen[bytes]:
    """Start gunicorn with nobody to keep it, and wait until it answers. Raises Failure with the end of its log."""
    before = log.stat().st_size if log.exists() else 0
    process = background.launch(words(port), log, env)
    if background.comes_up(process, port):
        return process
    raise Failure(f"The server did not come up. The end of {log.name}:\n{end_of(log, before)}")


def port_for(kept: object, ours: int | None = None) -> int:
    """The port to serve on: the one asked for, else the one of last time, else any. ours: taken by what is about to be stopped.

    Raises Failure.
    """
    asked = os.environ.get("WIDE_DUSK_PORT", "")
    if not asked:
        return ours or free_port(kept or USUAL_PORT)
    if not asked.isdecimal() or not 0 < int(asked) <= MOST_PORT:
        raise Failure(f"“{asked}” of WIDE_DUSK_PORT is no port number; give one from 1 to {MOST_PORT}, or leave it unset.")
    if int(asked) != ours and not is_free(int(asked)):
        raise Failure(f"Port {asked} of WIDE_DUSK_PORT is taken. Choose another, or leave it unset.")
    return int(asked)
