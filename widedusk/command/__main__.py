"""The words of ./wide-dusk."""

import argparse
import contextlib
import hashlib
import os
import re
import socket
import sys
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from pathlib import Path
from typing import Any

from widedusk.command import background, backups, basics, checks, install, keeper, lan, postgres, scratch, server, standins
from widedusk.command import worker as hands
from widedusk.command.basics import (
    ROOT,
    VENV,
    Failure,
    alone,
    files_below,
    fingerprint,
    free_port,
    in_words,
    remember,
    remembered,
    say,
    secret,
)

HERE = Path(os.environ.get("WIDE_DUSK_CALLED_FROM", "."))  # a file is named from where the person stands


def _install_and_build(*locks: str, browser: bool = False, waits: list[Callable[[], None]]) -> None:
    """Install and build. What still runs beside it is added to `waits`: call it to wait for it."""
    install.debian_packages(browser=browser)
    install.python_environment(*locks)
    waits.append(install.star_patterns())
    install.node_modules()
    install.front_end()


def _ready(*locks: str) -> dict[str, str]:
    """Install, build, start the database; return what Django's settings need."""
    waits: list[Callable[[], None]] = []
    _install_and_build(*locks, waits=waits)
    postgres.start()
    for wait in waits:
        wait()
    return postgres.settings_env()


MIN_SEARCH_S, MAX_SEARCH_S = 0.5, 60.0


def _check_settings() -> None:
    """Say what cannot be right among the settings given, before anything is begun. Raises Failure."""
    now = os.environ.get("WIDE_DUSK_NOW", "")
    if now:
        try:
            datetime.fromisoformat(Path(now[1:]).read_text().strip() if now.startswith("@") else now)
        except OSError:
            raise Failure(f"WIDE_DUSK_NOW names a file that cannot be read: {now[1:]}.") from None
        except ValueError:
            raise Failure(f"“{now}” of WIDE_DUSK_NOW is no moment; write it like 2026-12-08T20:00:00+00:00.") from None
    search = os.environ.get("WIDE_DUSK_SEARCH_S", "6")
    if not re.fullmatch(r"\d{1,3}(\.\d+)?", search) or not MIN_SEARCH_S <= float(search) <= MAX_SEARCH_S:
        words = f"give seconds from {MIN_SEARCH_S:g} to {MAX_SEARCH_S:g}, like 6"
        raise Failure(f"“{search}” of WIDE_DUSK_SEARCH_S cannot be right; {words}.")
    folder = os.environ.get("WIDE_DUSK_PICTURE_FOLDER", "")
    if folder and not Path(folder).is_dir():
        raise Failure(f"There is no folder {folder}, which WIDE_DUSK_PICTURE_FOLDER names.")


def _on_the_network(kept: dict[str, Any] | None) -> dict[str, Any]:
    """Where the local network finds it, with an authority and a certificate made for it."""
    host = lan.address()
    ours = kept["lan_port"] if kept and kept.get("lan_host") == host else None
    port = ours or lan.free_port(host, remembered().get("lan_port"))
    return {"lan_host": host, "lan_port": port, **lan.made(host, port)}


def _serve(env: dict[str, str], mode: str, forecast: bool, network: bool = False) -> str:
    """Serve in a mode, kept running, and return the address. What runs already with these settings and this code is left alone."""
    given = {
        name: value for name, value in sorted(os.environ.items()) if name.startswith("WIDE_DUSK_") and name not in NOT_SETTINGS
    }
    code = fingerprint(files_below("widedusk", "demo", "standins", "frontend/dist", suffixes=(".py", ".html")))
    kept = keeper.wanted()
    reached = _on_the_network(kept) if network else {}
    if reached:
        env = {**env, **lan.settings(reached)}
    stamp = hashlib.sha256(repr((sorted({**env, **given}.items()), mode, code)).encode()).hexdigest()
    if kept is not None and kept["stamp"] == stamp and keeper.is_kept() and background.answers(kept["web_port"]):
        _tell(reached)
        return f"http://127.0.0.1:{kept['web_port']}/"
    ports: dict[str, int] = {"web_port": server.port_for(remembered().get("web_port"), kept["web_port"] if kept else None)}
    keeper.halt()
    wanted_env = {**given, **env}
    if forecast:
        ports["forecast_port"] = free_port(remembered().get("forecast_port") or standins.USUAL_PORT)
        wanted_env["WIDE_DUSK_FORECAST_URL"] = standins.address(ports["forecast_port"])
    server.prepare(wanted_env)
    outside = {name: reached[name] for name in ("lan_host", "lan_port") if reached}
    remember(**ports, **outside)
    keeper.begin({"env": wanted_env, "mode": mode, "stamp": stamp, **ports, **outside})
    say("  serving")
    _tell(reached)
    return f"http://127.0.0.1:{ports['web_port']}/"


def _tell(reached: dict[str, Any]) -> None:
    """How a phone finds it; once it answers there."""
    if not reached:
        return
    until = time.monotonic() + LAN_PATIENCE_S
    while not _listens(reached["lan_host"], reached["lan_port"]):
        if time.monotonic() > until:
            raise Failure(f"It does not answer at {reached['address']}; see {basics.LOG / 'lan.log'}.")
        time.sleep(0.1)
    say(lan.instructions(reached))


def _listens(host: str, port: int) -> bool:
    with contextlib.suppress(OSError), socket.create_connection((host, port), timeout=1.0):
        return True
    return False


LAN_PATIENCE_S = 60.0
ELSEWHERE = ("WIDE_DUSK_DB_PORT", "WIDE_DUSK_DB_PASSWORD", "WIDE_DUSK_SECRET_KEY")
NOT_SETTINGS = {"WIDE_DUSK_CALLED_FROM", background.MARK}


def demo(asked: argparse.Namespace) -> int:
    """set everything up, load the demo and serve it"""
    started = time.monotonic()
    say("Wide Dusk, demo")
    _check_settings()
    folder = os.environ.get("WIDE_DUSK_PICTURE_FOLDER") or str(basics.VAR / "demo-pictures")
    with alone(), ThreadPoolExecutor(1) as beside:
        install.debian_packages(browser=False)
        install.python_environment("run")
        pictures = beside.submit(_take_demo_pictures, folder)  # while the pages are built
        env = {**_ready("run"), "WIDE_DUSK_DEMO": "1", "WIDE_DUSK_PICTURE_FOLDER": folder}
        server.migrate(env)
        say("  " + server.manage(env, "load_demo", "--skip-checks", why="Loading the demo").strip())
        say("  " + pictures.result())
        say("  " + server.manage(env, "live_demo", "--skip-checks", why="Entering the demo's past trip").strip())
        address = _serve(env, "demo", forecast=True, network=asked.lan)
    say(
        f"Open {address} and sign in as demo with the password {secret('demo')[:12]} (the page offers it). "
        f"Ready in {time.monotonic() - started:.0f} s; stop with ./wide-dusk stop."
    )
    return 0


def _take_demo_pictures(folder: str) -> str:
    """Have them written; what that says. No database is asked, which may not run yet."""
    nowhere = {"WIDE_DUSK_SECRET_KEY": "-", "WIDE_DUSK_DB_PORT": "1", "WIDE_DUSK_DB_PASSWORD": "-"}
    env = {**postgres.DJANGO, **nowhere, "WIDE_DUSK_VAR": str(basics.VAR), "WIDE_DUSK_PICTURE_FOLDER": folder}
    return server.manage(env, "take_demo_pictures", "--skip-checks", why="Taking the demo's pictures").strip()


def start(asked: argparse.Namespace) -> int:
    """set everything up and serve, without demo data"""
    say("Wide Dusk")
    _check_settings()
    with alone():
        address = _serve(_ready("run"), "start", forecast=False, network=asked.lan)
    say(f"Open {address}; stop with ./wide-dusk stop.")
    return 0


def stop(_: argparse.Namespace) -> int:
    """stop the server and the database"""
    with alone():
        served, database = keeper.halt(), postgres.stop() if (install.PG_BIN / "pg_ctl").exists() else False
    say("Stopped." if served or database else "Nothing was running.")
    return 0


def status(_: argparse.Namespace) -> int:
    """say what runs, and why something does not"""
    want = keeper.wanted()
    if want is None:
        say("Nothing is to be kept running; ./wide-dusk start or demo changes that.")
        return 1
    well = background.answers(want["web_port"])
    say(f"http://127.0.0.1:{want['web_port']}/ {'answers' if well else 'does not answer'}.")
    for name, told in keeper.status().items():
        again = f", started again {told['failures']} times in a row" if told["failures"] else ""
        say(f"  {name}: {told['state']}{again}" + (f"\n{told['why']}" if told["why"] else ""))
    return 0 if well else 1


def test(asked: argparse.Namespace) -> int:
    """install what is missing and run every check; the database and files of this checkout's site stay as they are"""
    say("Wide Dusk, checks")
    waits: list[Callable[[], None]] = []
    with alone():
        _install_and_build("run", "test", browser=True, waits=waits)
    with scratch.folder() as var:
        options = [word for name in OPTIONS_OF_TEST if vars(asked)[name] for word in OPTIONS_OF_TEST[name][1]]
        return checks.run_checks(scratch.settings_env(var), asked.words, options, waits)


def npm(asked: argparse.Namespace) -> int:
    """npm with the Node of this project, among the pages: npm run dev, npm test -- strip"""
    with alone():
        install.python_environment("run")
        install.node_modules()
    words = [str(word) for word in install.npm(*asked.words)]
    os.chdir(basics.FRONTEND)
    os.execve(words[0], words, {**os.environ, **install.node_env(), **_api_address()})


def _api_address() -> dict[str, str]:
    """Where the site of this checkout answers, for pages that are served by the bundler while one works on them."""
    kept = keeper.wanted()
    return {"WIDE_DUSK_API": f"http://127.0.0.1:{kept['web_port']}"} if kept else {}


def worker(_: argparse.Namespace) -> int:
    """measure pictures beside the others until it is stopped, here or for a server elsewhere (WIDE_DUSK_DB_HOST and so on)"""
    lacking = [name for name in ELSEWHERE if not os.environ.get(name)]
    if "WIDE_DUSK_DB_HOST" in os.environ:
        if lacking:
            raise Failure(f"To measure for a server elsewhere, set {', '.join(lacking)} too, as there.")
        if not (os.environ.get("WIDE_DUSK_PICTURE_FOLDER") or os.environ.get("WIDE_DUSK_OBJECT_STORE")):
            told = "set WIDE_DUSK_PICTURE_FOLDER to the folder of frames on this machine, or WIDE_DUSK_OBJECT_STORE as there"
            raise Failure(f"There is nothing to measure: {told}.")
        _check_settings()
        machine = os.environ.get("WIDE_DUSK_MACHINE") or socket.gethostname()
        if not re.fullmatch(r"[\w.-]{1,40}", machine):
            raise Failure(f"WIDE_DUSK_MACHINE is “{machine}”; name this machine by up to 40 letters, digits, dots and hyphens.")
        with alone():
            install.python_environment("run")
            install.star_patterns()()
        env = {"DJANGO_SETTINGS_MODULE": "widedusk.settings", "PYTHONPATH": str(ROOT), "WIDE_DUSK_VAR": str(basics.VAR)}
        env["WIDE_DUSK_MACHINE"] = machine
        what = hands.FOR_ELSEWHERE
    else:
        with alone():
            kept = keeper.wanted()
            env = {**(kept["env"] if kept else {}), **_ready("run")}  # pictures lie where the one that serves finds them
        what = hands.words(*hands.PICTURES_HERE)
    say("Measuring; stop it with Ctrl-C.")
    python = str(VENV / "bin" / "python")
    os.execve(python, [python, "-m", *what], {**os.environ, **env, **hands.SPARING})


def schema(_: argparse.Namespace) -> int:
    """write the front end's types anew from the API"""
    with alone():
        install.python_environment("run")
        install.node_modules()
        with scratch.folder() as var:  # it asks no database
            checks.write_schema(scratch.settings_env(var))
    say(f"Wrote {checks.SCHEMA.name}.")
    return 0


def manage(asked: argparse.Namespace) -> int:
    """one of Django's own commands, e.g. createsuperuser"""
    with alone():
        env = _ready("run")
        if "migrate" in asked.words:
            postgres.note_migrated(postgres.DATABASE, "")  # it may go back to earlier ones
    python = str(VENV / "bin" / "python")  # by its whole name: by that it finds its packages
    os.execve(python, [python, "-m", "django", *asked.words], {**os.environ, **env})


def password(asked: argparse.Namespace) -> int:
    """give somebody a new password, and sign them out everywhere"""
    with alone():
        env = _ready("run")
    python = str(VENV / "bin" / "python")
    os.execve(python, [python, "-m", "django", "new_password", "--skip-checks", asked.name], {**os.environ, **env})


def backup(asked: argparse.Namespace) -> int:
    """write database and uploads to a file, or with --keep to a folder of the latest few"""
    with alone():
        _ready("run")
    if asked.keep is None:
        count = backups.backup(HERE / asked.file, overwrite=asked.overwrite)
        say(f"Wrote {asked.file}: the database and {count} uploads.")
    else:
        written = backups.backup_of_many(HERE / asked.file, asked.keep)
        say(f"Wrote {written.name}; the latest {asked.keep} are kept there.")
    if os.environ.get("WIDE_DUSK_OBJECT_STORE"):
        say("Uploads in the object store are not in it; that store has backups of its own.")
    return 0


def restore(asked: argparse.Namespace) -> int:
    """bring database and uploads back from a file, of this release or an older one"""
    with alone():
        env = _ready("run")
        source = HERE / asked.file
        backups.check_restore(source, overwrite=asked.overwrite)
        want = keeper.wanted()
        keeper.halt()
        try:
            backups.restore(
                source, overwrite=asked.overwrite, migrate=lambda name: server.migrate({**env, "WIDE_DUSK_DB_NAME": name})
            )
        finally:
            if want is not None:
                keeper.begin(want)
    say("Restored." + (" The site runs again." if want is not None else ""))
    return 0


def _count(text: str) -> int:
    number = int(text)
    if not 1 <= number <= 1000:
        raise ValueError(text)
    return number


OPTIONS_OF_TEST = {  # what each does, and what pytest is told
    "--everything": ("the nightly tests, too", ["--everything"]),
    "--coverage": ("tell which lines and branches ran", ["--cov", "--cov-report", "term:skip-covered"]),
    "--record-durations": ("write what each file took to tests/durations.json", ["--record-durations"]),
}


def _split_arguments(given: list[str], names: set[str]) -> tuple[list[str], list[str]]:
    """What is for us, and what another program gets as it stands, whatever it begins with."""
    if not given or given[0] not in names or given[1:] in (["-h"], ["--help"]):
        return given, []
    ours = [word for word in given[1:] if given[0] == "test" and word in OPTIONS_OF_TEST]
    return [given[0], *ours], [word for word in given[1:] if word not in ours]


def main() -> int:
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)  # what is started would compile itself anew each time
    parser = argparse.ArgumentParser(prog="./wide-dusk", description="Wide Dusk: one night with a star tracker, worked out.")
    words = parser.add_subparsers(required=True, metavar="WORD")
    handed_on = {test: "to the checks", manage: "to Django", npm: "to npm"}
    for function in (demo, start, stop, status, test, worker, backup, restore, password, schema, manage, npm):
        one = words.add_parser(function.__name__, help=function.__doc__)
        one.set_defaults(function=function)
        if function in (demo, start):
            one.add_argument("--lan", action="store_true", help="on the local network too, over HTTPS, for a phone")
        if function in (backup, restore):
            one.add_argument("file", type=Path, metavar="FILE")
            one.add_argument("--overwrite", action="store_true", help="replace what is there")
        if function is backup:
            one.add_argument(
                "--keep", type=_count, metavar="N", help="FILE is a folder: add one named after the time, keep the last N"
            )
        if function is password:
            one.add_argument("name", metavar="NAME", help="of the account")
        if function is test:
            for name, (told, _) in OPTIONS_OF_TEST.items():
                one.add_argument(name, dest=name, action="store_true", help=told)
        if function in handed_on:
            one.add_argument("words", nargs="*", help=f"handed on {handed_on[function]}")
    given, words_handed_on = _split_arguments(sys.argv[1:], {function.__name__ for function in handed_on})
    asked = parser.parse_args(given)
    if words_handed_on:
        asked.words = words_handed_on
    try:
        return int(asked.function(asked))
    except Failure as failure:
        say(f"\n{failure}")
        return 1
    except OSError as refused:
        say(f"\n{in_words(refused)}")
        return 1
    except KeyboardInterrupt:
        with contextlib.suppress(KeyboardInterrupt):
            say("\nStopped by you.")
        return 130


if __name__ == "__main__":
    sys.exit(main())
