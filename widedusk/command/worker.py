"""The workers beside the web server: one measures pictures, one plans nights, one runs errands and never waits for either."""

import os
import resource
import subprocess
from collections.abc import Mapping
from pathlib import Path

from widedusk.command import background

PICTURES, PLANS, ERRANDS = "pictures", "plans", "errands"
PICTURES_HERE = (PICTURES, "pictures here")  # what lies in the store, and in the server's own folder
FOR_ELSEWHERE: tuple[str, ...] = ("django", "measure_for_elsewhere", "--skip-checks")
MOST_ADDRESS_BYTES = 6 * 2**30
SPARING = {"OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}


def humble() -> None:
    """The web server goes first, and memory has an end."""
    os.nice(5)
    resource.setrlimit(resource.RLIMIT_AS, (MOST_ADDRESS_BYTES, MOST_ADDRESS_BYTES))


def words(*queues: str) -> tuple[str, ...]:
    """What starts a worker for these queues, or for all, as a module of our Python environment."""
    return ("django", "procrastinate", "--skip-checks", "worker", *(("--queues", ",".join(queues)) if queues else ()))


def launch(env: Mapping[str, str], log: Path, started_by: tuple[str, ...]) -> subprocess.Popen[bytes]:
    """One worker, which nobody starts anew."""
    return background.launch(started_by, log, {**env, **SPARING}, humble)
