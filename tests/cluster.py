"""The database cluster of this run of the tests, which lies in the run's scratch folder and is started by whoever needs it first.

It begins as a copy of a cluster that was made once for these migrations, this demo, this core and these packages: with the tables
in its usual database, and the demo in a second one from which every test's database is copied.
"""

import os
import shutil
import subprocess
from pathlib import Path

from tests.demo import NOW, PASSWORD, SEED
from widedusk.command import basics, install, postgres, scratch, server
from widedusk.command.basics import ROOT, files_below, fingerprint, held

MAX_KEPT = 3


def in_scratch_folder() -> bool:
    """Whether this process works in a folder that was made for a run of checks, and not where a site keeps its own."""
    return basics.VAR != ROOT / "var" and (basics.VAR / "run.lock").is_file()


def _digest() -> str:
    """Changes with everything that the demo's records hang on."""
    code = files_below("widedusk/core", "widedusk/records", "widedusk/settings", "demo", suffixes=(".py", ".csv"))
    made_by = [ROOT / "tests" / "cluster.py", ROOT / "tests" / "demo.py", ROOT / "widedusk" / "command" / "postgres.py"]
    return fingerprint([*code, *made_by, ROOT / "requirements" / "run.txt"])[:20]


def _copy(source: Path, target: Path) -> None:
    """A folder with its owners and modes, where none is yet."""
    target.parent.mkdir(parents=True, exist_ok=True)
    subprocess.run(["cp", "-a", "--reflink=auto", str(source), str(target)], check=True)


def template() -> Path:
    """A stopped cluster with the demo in it: one for all of this run, whatever is edited meanwhile."""
    with held("template"):
        path = basics.remembered().get("test_cluster")
        if path is None:
            path = str(_template())
            basics.remember(test_cluster=path)
    return Path(path)


def _template() -> Path:
    """The one that belongs to the files as they are, made now if there is none."""
    with install.cache_lock("test-clusters") as clusters:
        clusters.mkdir(exist_ok=True)
        kept = clusters / f"{_digest()}-{os.geteuid()}"
        if kept.is_dir():
            os.utime(kept)
            return kept
        _build()
        part = clusters / "part"
        shutil.rmtree(part, ignore_errors=True)
        _copy(postgres.folder(), part)
        part.rename(kept)
        os.utime(kept)
        for old in sorted(clusters.iterdir(), key=lambda path: path.stat().st_mtime)[:-MAX_KEPT]:
            shutil.rmtree(old)
    return kept


def _build() -> None:
    """The run's own cluster, from nothing: tables, demo, and stopped again."""
    postgres.create(durable=False)
    postgres.start(basics.remembered()["database_port"])
    env = postgres.settings_env()
    server.migrate(env)
    postgres.query(f'CREATE DATABASE "{SEED}" TEMPLATE "{postgres.DATABASE}"', "postgres")
    given = {"WIDE_DUSK_DB_NAME": SEED, "WIDE_DUSK_DEMO": "1", "WIDE_DUSK_DEMO_PASSWORD": PASSWORD, "WIDE_DUSK_NOW": NOW}
    server.manage({**env, **given}, "load_demo", "--skip-checks", why="Loading the demo")
    postgres.stop()


def copy_to(var: Path) -> None:
    """Have a folder begin with a copy of that cluster, stopped, and what opens it."""
    data = scratch.cluster_folder(var)
    _copy(template(), data)
    with (data / "postgresql.conf").open("a") as conf:
        conf.write("synchronous_commit = on\n")  # what was answered for outlives a server that is killed
    shutil.copy2(basics.SECRETS, var / basics.SECRETS.name)


def start() -> None:
    """Start this run's cluster, unless it runs."""
    if not in_scratch_folder():
        raise RuntimeError("Tests that need a database run by ./wide-dusk test, which gives them a cluster of their own.")
    source = template()  # first: while it is made, the cluster runs, and what is to be copied is not in it yet
    with held("cluster"):
        if postgres.is_up():
            return
        if not postgres.folder().exists():
            _copy(source, postgres.folder())
        postgres.start(basics.remembered()["database_port"])


def collect_pages() -> None:
    """The built pages, laid out once for all servers of this run."""
    with held("pages"):
        server.collect_pages(postgres.settings_env())


def create_database(name: str) -> None:
    """A database of its own with the demo in it."""
    drop(name)
    postgres.query(f'CREATE DATABASE "{name}" TEMPLATE "{SEED}"', "postgres")


def drop(name: str) -> None:
    postgres.query(f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)', "postgres")
