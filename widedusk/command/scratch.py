"""A folder for one run of the checks: a cluster, ports, passwords, uploads and logs of its own, so that the site of this checkout
and what its people have kept are never touched. It lies in memory where there is room, else among the temporary files."""

import fcntl
import json
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from widedusk.command import basics, install, postgres
from widedusk.command.basics import ROOT

PREFIX = "wide-dusk-checks-"
MEMORY = Path("/dev/shm")  # noqa: S108 - a disk in memory; what lies there has a name of its own
MIN_FREE_BYTES = 6_000_000_000


def _parent() -> Path:
    if MEMORY.is_dir() and os.access(MEMORY, os.W_OK) and shutil.disk_usage(MEMORY).free > MIN_FREE_BYTES:
        return MEMORY
    return Path(tempfile.gettempdir())


def _ask(var: Path, code: str) -> str:
    """What our own code prints when it works in that folder."""
    env = {**os.environ, "WIDE_DUSK_VAR": str(var)}
    return subprocess.run([sys.executable, "-c", code], cwd=ROOT, env=env, capture_output=True, text=True, check=True).stdout


def cluster_folder(var: Path) -> Path:
    """Where the cluster of a folder like `var/` lives; not always inside it."""
    return Path(_ask(var, "from widedusk.command import postgres; print(postgres.folder())").strip())


def _remove(var: Path) -> None:
    """Stop what runs in a scratch folder and delete it, with the cluster that could not lie inside it."""
    with suppress(subprocess.CalledProcessError):
        _ask(var, "from widedusk.command import postgres; postgres.stop()")
        shutil.rmtree(cluster_folder(var), ignore_errors=True)
    shutil.rmtree(var, ignore_errors=True)


def _remove_abandoned(parent: Path) -> None:
    """Scratch folders of runs that were killed: nobody holds their lock."""
    for var in parent.glob(f"{PREFIX}*"):
        with suppress(OSError), (var / "run.lock").open("a") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            _remove(var)


@contextmanager
def folder() -> Iterator[Path]:
    """A new scratch folder. It is removed afterwards; its logs stay in var/log-of-checks."""
    parent = _parent()
    _remove_abandoned(parent)
    var = Path(tempfile.mkdtemp(prefix=PREFIX, dir=parent))
    var.chmod(0o711)  # the database's user must get there
    with (var / "run.lock").open("a") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        try:
            yield var
        finally:
            logs = basics.VAR / "log-of-checks"
            shutil.rmtree(logs, ignore_errors=True)
            if (var / "log").is_dir():
                shutil.copytree(var / "log", logs)
            _remove(var)


def prepare() -> dict[str, str]:
    """In a scratch folder: choose the port, take the passwords that all such folders share, and say what Django's settings need.

    Nothing is started yet. The passwords are shared because a run's cluster may begin as a copy of an earlier one.
    """
    shared = install.cache_folder() / "passwords-of-checks.json"
    if shared.is_file():
        shutil.copy2(shared, basics.SECRETS)
    basics.remember(database_port=basics.free_port(None))
    env = postgres.settings_env()
    basics.write_whole(shared, basics.SECRETS.read_text(), 0o600)
    env["WIDE_DUSK_ACCOUNTS_PER_HOUR"] = "100000"  # tests make many
    return env


def settings_env(var: Path) -> dict[str, str]:
    """What Django's settings need to work in a scratch folder."""
    told = _ask(var, "import json; from widedusk.command import scratch; print(json.dumps(scratch.prepare()))")
    (var / "static").mkdir()  # the pages are collected when the first server needs them
    (var / "solver").mkdir()
    (var / "solver" / install.PATTERNS.name).symlink_to(install.PATTERNS)
    env: dict[str, str] = json.loads(told)
    return env
