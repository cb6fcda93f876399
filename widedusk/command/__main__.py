"""The words of ./wide-dusk."""

import argparse
import os
import sys
import time
from collections.abc import Callable
from pathlib import Path

from widedusk.command import checks, install, postgres, server, standins, worker
from widedusk.command.basics import VAR, VENV, Failure, say, secret

HERE = Path(os.environ.get("WIDE_DUSK_CALLED_FROM", "."))  # a file is named from where the person stands


def _ready(*locks: str, browser: bool = False, waits: list[Callable[[], None]] | None = None) -> dict[str, str]:
    """Install, build, start the database; return what Django's settings need.

    What still runs beside it is waited for here, or left in `waits` for the caller.
    """
    install.debian_packages(browser=browser)
    install.python_environment(*locks)
    patterns = install.star_patterns()
    install.node_modules()
    install.front_end()
    postgres.start()
    if waits is None:
        patterns()
    else:
        waits.append(patterns)
    return postgres.settings_env()


def demo(_: argparse.Namespace) -> int:
    """set everything up, load the demo and serve it"""
    started = time.monotonic()
    say("Wide Dusk, demo")
    env = {**_ready("run"), "WIDE_DUSK_DEMO": "1", "WIDE_DUSK_PICTURE_FOLDER": str(VAR / "demo-pictures")}
    env |= standins.start()
    server.manage(env, "migrate", "--no-input", "-v", "0", why="Bringing the database up to date")
    say("  " + server.manage(env, "load_demo", why="Loading the demo").strip())
    say("  " + server.manage(env, "take_demo_pictures", why="Taking the demo's pictures").strip())
    address = server.serve(env, "demo")
    worker.start(env)
    say(
        f"Open {address} and sign in as demo with the password {secret('demo')[:12]} (the page offers it). "
        f"Ready in {time.monotonic() - started:.0f} s; stop with ./wide-dusk stop."
    )
    return 0


def start(_: argparse.Namespace) -> int:
    """set everything up and serve, without demo data"""
    say("Wide Dusk")
    env = _ready("run")
    address = server.serve(env, "start")
    worker.start(env)
    say(f"Open {address}; stop with ./wide-dusk stop.")
    return 0


def stop(_: argparse.Namespace) -> int:
    """stop the server and the database"""
    standins.stop()
    worker.stop()
    web, database = server.stop(), postgres.stop() if (install.PG_BIN / "pg_ctl").exists() else False
    say("Stopped." if web or database else "Nothing was running.")
    return 0


def test(asked: argparse.Namespace) -> int:
    """install what is missing and run every check"""
    say("Wide Dusk, checks")
    was_running = (install.PG_BIN / "pg_ctl").exists() and postgres.is_running()
    waits: list[Callable[[], None]] = []
    env = _ready("run", "test", browser=True, waits=waits)
    try:
        return checks.run_checks(env, asked.words, waits)
    finally:
        if not was_running:
            postgres.stop()


def schema(_: argparse.Namespace) -> int:
    """write the front end's types anew from the API"""
    checks.write_schema(_ready("run"))
    say(f"Wrote {checks.SCHEMA.name}.")
    return 0


def manage(asked: argparse.Namespace) -> int:
    """one of Django's own commands, e.g. createsuperuser"""
    env = _ready("run")
    os.execve(VENV / "bin" / "python", ["python", "-m", "django", *asked.words], {**os.environ, **env})


def backup(asked: argparse.Namespace) -> int:
    """write the database to a file"""
    _ready("run")
    postgres.backup(HERE / asked.file, overwrite=asked.overwrite)
    say(f"Wrote {asked.file}.")
    return 0


def restore(asked: argparse.Namespace) -> int:
    """bring the database back from a file"""
    env = _ready("run")
    worker.stop()
    served = server.stop()
    postgres.restore(HERE / asked.file, overwrite=asked.overwrite)
    server.manage(env, "migrate", "--no-input", "-v", "0", why="Bringing the database up to date")
    say("Restored." + (" The server was stopped for it; start it again with ./wide-dusk start or demo." if served else ""))
    return 0


def main() -> int:
    parser = argparse.ArgumentParser(prog="./wide-dusk", description="Wide Dusk: one night with a star tracker, worked out.")
    words = parser.add_subparsers(required=True, metavar="WORD")
    for function in (demo, start, test, stop, backup, restore, schema, manage):
        one = words.add_parser(function.__name__, help=function.__doc__)
        one.set_defaults(function=function)
        if function in (backup, restore):
            one.add_argument("file", type=Path, metavar="FILE")
            one.add_argument("--overwrite", action="store_true", help="replace what is there")
        if function in (test, manage):
            one.add_argument(
                "words", nargs=argparse.REMAINDER, help="handed on to pytest" if function is test else "handed on to Django"
            )
    asked = parser.parse_args()
    try:
        return int(asked.function(asked))
    except Failure as failure:
        say(f"\n{failure}")
        return 1
    except KeyboardInterrupt:
        say("\nStopped by you.")
        return 130


if __name__ == "__main__":
    sys.exit(main())
