"""Keeps a started site running: whatever dies is started again, the database included, and this keeper too.

    start ──writes──> keeper.json (what is wanted)      keeper ──writes──> keeper-status.json (what is)
      keeper: database · web · lan · pictures · plans · errands · forecast      watch: the keeper

Keeper and watch each hold a lock for as long as they live; each starts the other when it finds the lock free. What is wanted ends
when keeper.json is gone: then they end what they keep, and themselves.

A part that dies before it has been well for a while is started again up to five times; then it is left alone, and the reason told.
"""

import contextlib
import json
import os
import shutil
import signal
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from types import FrameType
from typing import Any

from widedusk.command import background, basics, lan, postgres, server, standins, worker
from widedusk.command.basics import Failure, held, write_whole

MODULE = "widedusk.command.keeper"
GLANCE_S = 0.4
MOST_TRIES = 5
WELL_AFTER_S = 10.0
UNWELL_S = 30.0  # that a web server may fail to say that it is alive
MOST_LOG_BYTES, OLD_LOGS = 5_000_000, 3
TIDY_LOGS_EVERY_S = 60.0


def wanted_file() -> Path:
    return basics.VAR / "keeper.json"


def status_file() -> Path:
    return basics.VAR / "keeper-status.json"


def wanted() -> dict[str, Any] | None:
    """What is to be kept: its settings and ports; None when nothing is."""
    with contextlib.suppress(FileNotFoundError, ValueError):
        found = json.loads(wanted_file().read_text())
        return found if isinstance(found, dict) else None
    return None


def status() -> dict[str, dict[str, Any]]:
    """What the keeper last said of each part: state, number and, when it is left alone, why."""
    with contextlib.suppress(FileNotFoundError, ValueError):
        found = json.loads(status_file().read_text())
        return found if isinstance(found, dict) else {}
    return {}


def is_kept() -> bool:
    """Whether a keeper lives."""
    with held("keeper", wait=False) as free:
        return not free


def launch_keeper(watch: bool = False) -> None:
    """Start a keeper, or who watches it. One too many ends by itself."""
    background.launch((MODULE, *(["--watch"] if watch else [])), basics.LOG / "keeper.log", {}, part="watch" if watch else "keeper")


@dataclass
class Part:
    """One thing that is kept. words: as a module of our Python environment; port: where it answers, for those that are asked;
    host: where it speaks TLS there."""

    name: str
    words: tuple[str, ...]
    env: dict[str, str]
    before: Callable[[], None] | None = None
    port: int | None = None
    host: str = ""
    pid: int | None = None
    since: float = field(default_factory=time.monotonic)
    failures: int = 0
    why: str = ""
    unwell_since: float | None = None
    asked_at: float = 0.0

    @property
    def log(self) -> Path:
        return basics.LOG / f"{self.name}.log"

    @property
    def given_up(self) -> bool:
        return self.failures >= MOST_TRIES

    def look(self) -> None:
        """Start it when it is not there, and again when it has died or no longer answers: busy is not dead, nor is waiting."""
        if self.pid is not None and background.is_alive(self.pid):
            if time.monotonic() - self.since > WELL_AFTER_S:
                self.failures, self.why = 0, ""
            if self.port is None or self._answers():
                self.unwell_since = None
                return
            self.unwell_since = self.unwell_since or time.monotonic()
            if time.monotonic() - self.unwell_since < UNWELL_S:
                return
            self.why = f"It did not answer for {UNWELL_S:.0f} s."
        elif self.pid is None and (found := background.first_of(self.name)):
            self.pid, self.since = found, time.monotonic()  # of a keeper before this one
            return
        elif self.pid is not None:
            self.why = server.end_of(self.log) if self.log.exists() else "It ended without a word."
        if self.given_up:
            return
        if self.pid is not None:
            self.failures += 1
            if self.given_up:
                self.pid = None
                background.sweep(self.name, patience_s=0)
                return
        self._start()

    def _answers(self) -> bool:
        if time.monotonic() - max(self.since, self.asked_at) < WELL_AFTER_S / 2 and self.unwell_since is None:
            return True
        self.asked_at = time.monotonic()
        return background.is_live(int(self.port or 0), 2.0, self.host)

    def _start(self) -> None:
        background.sweep(self.name, patience_s=0)  # what a dead parent left behind would hold the port
        self.pid = background.launch(self.words, self.log, self.env, self.before, part=self.name).pid
        self.since, self.unwell_since = time.monotonic(), None

    def told(self) -> dict[str, Any]:
        return {"state": "left alone" if self.given_up else "kept", "pid": self.pid, "failures": self.failures, "why": self.why}


@dataclass
class Database:
    """PostgreSQL, which is started by its own means and belongs to another user where we are root."""

    port: int
    failures: int = 0
    why: str = ""
    rests_until: float = 0.0

    def look(self) -> bool:
        """Start it when it is not there, each time after a longer rest than the last. True when it is."""
        if postgres.is_up():
            self.failures, self.why = 0, ""
            return True
        if self.failures >= MOST_TRIES or time.monotonic() < self.rests_until:
            return False
        try:
            postgres.start(self.port)
        except Failure as failed:
            self.failures, self.why = self.failures + 1, str(failed)
            self.rests_until = time.monotonic() + 2.0**self.failures
            return False
        return True

    def told(self) -> dict[str, Any]:
        state = "left alone" if self.failures >= MOST_TRIES else "kept"
        return {"state": state, "pid": postgres.number(), "failures": self.failures, "why": self.why}


def parts_of(want: dict[str, Any]) -> list[Part]:
    """What is kept, in the order in which it is started."""
    env: dict[str, str] = want["env"]
    sparing = {**env, **worker.SPARING}
    parts = [
        Part(server.PART, server.words(want["web_port"]), {**env, "OPENBLAS_NUM_THREADS": "1"}, port=want["web_port"]),
        Part(worker.PICTURES, worker.words(*worker.PICTURES_HERE), sparing, worker.humble),
        Part(worker.PLANS, worker.words(worker.PLANS), sparing, worker.humble),
        Part(worker.ERRANDS, worker.words(worker.ERRANDS), sparing, worker.humble),
    ]
    if want.get("lan_port"):
        host = str(want["lan_host"])
        outside = {**env, **lan.env(host), "OPENBLAS_NUM_THREADS": "1"}
        parts.insert(1, Part(lan.PART, lan.words(host, want["lan_port"]), outside, port=want["lan_port"], host=host))
    if want.get("forecast_port"):
        parts.insert(0, Part(standins.PART, standins.words(want["forecast_port"]), {}))
    return parts


def _rotate(log: Path) -> None:
    """Put a log that has grown aside. Its writer goes on at the end of the file, which is its beginning then."""
    with contextlib.suppress(FileNotFoundError):
        if log.stat().st_size < MOST_LOG_BYTES:
            return
        for number in range(OLD_LOGS - 1, 0, -1):
            with contextlib.suppress(FileNotFoundError):
                log.with_name(f"{log.name}.{number}").replace(log.with_name(f"{log.name}.{number + 1}"))
        shutil.copyfile(log, log.with_name(f"{log.name}.1"))
        os.truncate(log, 0)


def _say(text: str) -> None:
    print(f"{time.strftime('%Y-%m-%d %H:%M:%S')} {text}", flush=True)


def keep() -> None:
    """Keep what is wanted until it is wanted no more. Ends at once when another keeper lives."""
    with held("keeper", wait=False) as mine:
        want = wanted()
        if not mine or want is None:
            return
        database, parts, told, tidied = Database(int(want["env"]["WIDE_DUSK_DB_PORT"])), parts_of(want), "", 0.0
        while (now_wanted := wanted()) is not None and now_wanted.get("stamp") == want["stamp"]:
            _look_after_watch()
            database.look()
            for part in parts:
                before = part.pid, part.failures
                part.look()
                if (part.pid, part.failures) != before:
                    _say(f"{part.name}: {part.told()['state']}, process {part.pid}, {part.failures} failures in a row")
            found = json.dumps({"database": database.told(), **{part.name: part.told() for part in parts}})
            if found != told:
                with contextlib.suppress(OSError):  # a full disk ends nothing
                    write_whole(status_file(), found)
                    told = found
            if time.monotonic() - tidied > TIDY_LOGS_EVERY_S:
                tidied = time.monotonic()
                with contextlib.suppress(OSError):  # the packages a running site stands on are in use, however long it runs
                    os.utime(basics.VENV.resolve().with_suffix(".lock"))
                for log in (*basics.LOG.glob("*.log"), postgres.folder() / "server.log"):
                    with contextlib.suppress(OSError):
                        _rotate(log)
            time.sleep(GLANCE_S)
        for part in reversed(parts):
            background.sweep(part.name)
        status_file().unlink(missing_ok=True)


def _look_after_watch() -> None:
    with held("watch", wait=False) as nobody:
        pass
    if nobody:
        launch_keeper(watch=True)
        time.sleep(GLANCE_S)


def watch() -> None:
    """Start the keeper anew whenever there is none."""
    with held("watch", wait=False) as mine:
        while mine and wanted() is not None:
            if not is_kept():
                launch_keeper()
                time.sleep(2.0)  # until it holds its lock
            time.sleep(GLANCE_S)


def begin(want: dict[str, Any], patience_s: float = 120.0) -> None:
    """Have a site kept and wait until it answers. Raises Failure with the reason when it does not; then nothing is left running."""
    write_whole(wanted_file(), json.dumps(want), 0o600)
    try:
        launch_keeper()
        until = time.monotonic() + patience_s
        while not background.answers(want["web_port"], 2.0):
            found = status().get(server.PART, {})
            if found.get("failures") and found.get("why"):
                raise Failure(f"The server did not come up. The end of {server.PART}.log:\n{found['why']}")
            if time.monotonic() > until:
                raise Failure(
                    f"The server did not answer within {patience_s:.0f} s; see {basics.LOG / 'web.log'} and keeper.log there."
                )
            time.sleep(0.1)
    except BaseException:
        halt()
        raise


def halt() -> bool:
    """End everything that is kept, but for the database. True when something ran."""
    kept = wanted() is not None
    wanted_file().unlink(missing_ok=True)
    until = time.monotonic() + 15.0
    while is_kept() and time.monotonic() < until:
        time.sleep(GLANCE_S)
    swept = background.sweep()
    status_file().unlink(missing_ok=True)
    return kept or swept


def main() -> None:
    def end(_signal: int, _frame: FrameType | None) -> None:
        sys.exit(0)

    signal.signal(signal.SIGTERM, end)
    watch() if "--watch" in sys.argv else keep()


if __name__ == "__main__":
    main()
