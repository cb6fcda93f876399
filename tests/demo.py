"""The demo as the tests load it: its clock, its password, the name of the database that holds it, and of those copied from it.

The tests run in several processes at once. Each has databases of its own, named after its lane.
"""

import os

NOW = "2026-11-23T20:00:00+00:00"
PASSWORD = "lantern-under-the-table"
SEED = "widedusk_seed"
LANE = os.environ.get("PYTEST_XDIST_WORKER", "")


def own(name: str) -> str:
    """A database's name in this process."""
    return f"{name}_{LANE}" if LANE else name
