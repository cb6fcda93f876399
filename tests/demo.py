"""The demo as the tests load it: its clock, its password, and a database of it to be copied."""

from widedusk.command import postgres, server

NOW = "2026-11-23T20:00:00+00:00"
PASSWORD = "lantern-under-the-table"
SEED = "widedusk_seed"


def seed() -> None:
    """A database with the demo in it."""
    postgres.query(f'DROP DATABASE IF EXISTS "{SEED}" WITH (FORCE)', "postgres")
    postgres.query(f'CREATE DATABASE "{SEED}"', "postgres")
    own = {"WIDE_DUSK_DB_NAME": SEED, "WIDE_DUSK_DEMO": "1", "WIDE_DUSK_DEMO_PASSWORD": PASSWORD, "WIDE_DUSK_NOW": NOW}
    env = {**postgres.settings_env(), **own}
    server.manage(env, "migrate", "--no-input", "-v", "0", why="migrate")
    server.manage(env, "load_demo", why="load_demo")


def copy(name: str) -> None:
    """A database of its own with the demo in it."""
    postgres.query(f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)', "postgres")
    postgres.query(f'CREATE DATABASE "{name}" TEMPLATE "{SEED}"', "postgres")
