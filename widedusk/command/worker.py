"""The worker that measures pictures: started beside the web server, started anew when it dies, stopped with it.

python -m widedusk.command.worker keeps one worker alive; the words of ./wide-dusk start and stop that keeper.
"""

import os
import resource
import signal
import subprocess
import sys
import time
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from types import FrameType

from widedusk.command import background
from widedusk.command.basics import LOG, files_below, fingerprint, remember, remembered

MODULE = "widedusk.command.worker"
MOST_ADDRESS_BYTES = 6 * 2**30  # a picture that would take more ends in a plain sentence instead of taking the machine down
BREATH_S = 1.0


def _humble() -> None:
    """The web server goes first, and memory has an end."""
    os.nice(5)
    resource.setrlimit(resource.RLIMIT_AS, (MOST_ADDRESS_BYTES, MOST_ADDRESS_BYTES))


def launch(env: Mapping[str, str], log: Path) -> subprocess.Popen[bytes]:
    """One worker, which nobody starts anew."""
    sparing = {"OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}
    return background.launch(("django", "procrastinate", "worker"), log, {**env, **sparing}, _humble)


def keep() -> None:
    """Run a worker and start it anew whenever it ends, until told to stop."""
    process: subprocess.Popen[bytes] | None = None

    def end(_signal: int, _frame: FrameType | None) -> None:
        sys.exit(0)  # no more than that here: the main thread may hold the lock that waiting for the worker takes

    signal.signal(signal.SIGTERM, end)
    try:
        while True:
            process = launch({}, LOG / "worker.log")
            process.wait()
            time.sleep(BREATH_S)
    finally:
        if process is not None and process.poll() is None:
            process.terminate()
            with suppress(subprocess.TimeoutExpired):
                process.wait(10)
            process.kill()


def start(env: Mapping[str, str]) -> None:
    """Keep a worker of this code; one that is there already is left alone."""
    stamp = fingerprint(files_below("widedusk", suffixes=(".py",)))
    if remembered().get("worker_stamp") == stamp and background.is_ours(remembered().get("worker_pid"), MODULE):
        return
    stop()
    keeper = background.launch((MODULE,), LOG / "worker.log", env)
    remember(worker_pid=keeper.pid, worker_stamp=stamp)


def stop() -> bool:
    """Stop keeper and worker. True when they were running."""
    return background.stop("worker_pid", MODULE)


if __name__ == "__main__":
    keep()
