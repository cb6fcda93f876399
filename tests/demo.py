"""The demo as the tests load it: its clock, its password, and a database of it to be copied.

The tests run in several processes at once. Each has databases of its own, named after its lane; the demo is loaded once for all.
"""

import fcntl
import os

from widedusk.command import postgres, server
from widedusk.command.basics import VAR

NOW = "2026-11-23T20:00:00+00:00"
PASSWORD = "lantern-under-the-table"
SEED = "widedusk_seed"
LANE = os.environ.get("PYTEST_XDIST_WORKER", "")
RUN = os.environ.get("PYTEST_XDIST_TESTRUNUID", f"alone {os.getpid()}")


def own(name: str) -> str:
    """A database's name in this process."""
    return f"{name}_{LANE}" if LANE else name


def seed() -> None:
    """A database with the demo in it, made by whichever process comes first."""
    with (VAR / "seed.lock").open("a+") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        lock.seek(0)
        if lock.read() == RUN:
            return
        drop(SEED)
        postgres.query(f'CREATE DATABASE "{SEED}"', "postgres")
        given = {"WIDE_DUSK_DB_NAME": SEED, "WIDE_DUSK_DEMO": "1", "WIDE_DUSK_DEMO_PASSWORD": PASSWORD, "WIDE_DUSK_NOW": NOW}
        env = {**postgres.settings_env(), **given}
        server.manage(env, "migrate", "--no-input", "-v", "0", why="migrate")
        server.manage(env, "load_demo", why="load_demo")
        lock.truncate(0)
        lock.write(RUN)


def copy(name: str) -> None:
    """A database of its own with the demo in it."""
    drop(name)
    postgres.query(f'CREATE DATABASE "{name}" TEMPLATE "{SEED}"', "postgres")


def drop(name: str) -> None:
    postgres.query(f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)', "postgres")
