"""A PostgreSQL cluster of our own, on loopback, with a generated password.

PostgreSQL refuses to run as root; then it runs as the system user that Debian's package makes. That user must be able
to reach the cluster's folder, so below a closed home directory the cluster goes to /var/lib/wide-dusk instead.
"""

import contextlib
import hashlib
import os
import shutil
import socket
import subprocess
import time
from pathlib import Path

from widedusk.command import background, basics
from widedusk.command.basics import LOG, ROOT, Failure, free_port, held, remember, remembered, run, say, secret
from widedusk.command.install import PG_BIN

SYSTEM_USER = "postgres"
ROLE = "widedusk"
DATABASE = "widedusk"
DJANGO = {"DJANGO_SETTINGS_MODULE": "widedusk.settings", "PYTHONPATH": str(ROOT)}
PORT_LINE = 4  # of postmaster.pid
# A server keeps one for each of its sixteen threads, a worker a few; a night may be shared by many workers.
MOST_CONNECTIONS = 200
BURIED_WITHIN_S, IN_ORDER_WITHIN_S = 30.0, 60.0


def _as_owner() -> list[str]:
    return ["runuser", "-u", SYSTEM_USER, "--"] if os.geteuid() == 0 else []


def folder() -> Path:
    """Where the cluster lives."""
    inside = basics.VAR / "postgres"
    if os.geteuid() != 0:
        return inside
    basics.VAR.mkdir(parents=True, exist_ok=True)
    reachable = (
        subprocess.run([*_as_owner(), "test", "-x", str(basics.VAR)], cwd="/", check=False, capture_output=True).returncode == 0
    )
    # Named after the checkout, as ever; one that keeps its things elsewhere has a name of its own.
    named = ROOT if basics.VAR == ROOT / "var" else basics.VAR
    return inside if reachable else Path("/var/lib/wide-dusk") / hashlib.sha256(str(named).encode()).hexdigest()[:12]


def _own(path: Path) -> None:
    """Make a folder that only the database's user can read."""
    path.mkdir(parents=True, exist_ok=True)
    if os.geteuid() == 0:
        shutil.chown(path, SYSTEM_USER, SYSTEM_USER)
    path.chmod(0o700)


# For a cluster that is thrown away: nothing of it has to outlive the machine's power.
NOT_DURABLE = "fsync = off\nsynchronous_commit = off\nfull_page_writes = off\n"


def create(*, durable: bool = True) -> None:
    """Make the cluster where there is none. durable: False for one that is thrown away, which is made and works faster."""
    data = folder()
    if (data / "PG_VERSION").exists():
        return
    data.parent.mkdir(parents=True, exist_ok=True)
    _own(data)
    password_file = data.parent / "postgres-password"
    basics.write_whole(password_file, secret("database"), 0o600)
    if os.geteuid() == 0:
        shutil.chown(password_file, SYSTEM_USER, SYSTEM_USER)
    try:
        run(
            [
                *_as_owner(),
                PG_BIN / "initdb",
                "-D",
                data,
                "-U",
                ROLE,
                "--auth=scram-sha-256",
                f"--pwfile={password_file}",
                "-E",
                "UTF8",
                "--locale=C.UTF-8",
                "--no-instructions",
                *([] if durable else ["--no-sync"]),
            ],
            cwd=Path("/"),
            why="Creating the database cluster",
        )
    except Failure:
        shutil.rmtree(data, ignore_errors=True)  # half a cluster, with nothing in it yet, is in the way of the next try
        raise
    finally:
        password_file.unlink(missing_ok=True)
    with (data / "postgresql.conf").open("a") as conf:
        conf.write("\nlisten_addresses = '127.0.0.1'\nunix_socket_directories = ''\n" + ("" if durable else NOT_DURABLE))


def _pid_lines() -> list[str]:
    """What a running cluster writes of itself: number, folder, moment, port, and so on; empty when it is down."""
    with contextlib.suppress(OSError):
        return (folder() / "postmaster.pid").read_text().splitlines()
    return []


def number() -> int | None:
    """Of the cluster's first process."""
    lines = _pid_lines()
    return int(lines[0]) if lines and lines[0].strip().isdecimal() else None


def is_running() -> bool:
    """Whether the cluster's first process lives, under the number it wrote down and by the name it has."""
    pid = number()
    if pid is None or not background.is_alive(pid):
        return False
    with contextlib.suppress(OSError):
        return b"postgres" in Path(f"/proc/{pid}/cmdline").read_bytes()
    return False


def is_up() -> bool:
    """Whether the cluster runs and takes connections."""
    lines = _pid_lines()
    if not is_running() or len(lines) < PORT_LINE:
        return False
    with contextlib.suppress(OSError, ValueError), socket.create_connection(("127.0.0.1", int(lines[PORT_LINE - 1])), 2.0):
        return True
    return False


def _launch(port: int) -> None:
    log, options = folder() / "server.log", f"-p {port} -c max_connections={MOST_CONNECTIONS}"
    run(
        [*_as_owner(), PG_BIN / "pg_ctl", "-D", folder(), "-l", log, "-w", "-t", "60", "-o", options, "start"],
        env={background.MARK: ""},
        cwd=Path("/"),
        why="Starting PostgreSQL",
        mend=f"Its log is {log}.",
    )


def start(port: int | None = None) -> bool:
    """Start the cluster, making it first where there is none. port: the one it must have. True when it was not running before.

    A command and the keeper may find it down at once: one starts it, the other waits and finds it there.
    """
    with held("database"):
        create()
        lines = _pid_lines()
        if is_running() and len(lines) >= PORT_LINE:
            remember(database_port=int(lines[PORT_LINE - 1]))
            _let_in()
            return False
        port = port or free_port(remembered().get("database_port"))
        _await_burial()
        _launch(port)
        remember(database_port=port)
        _let_in()
        _database(DATABASE)
        return True


def _await_burial() -> None:
    """A killed server stays on the list of processes until its parent has taken note. Until then the next one finds its number
    taken, and does not start."""
    until = time.monotonic() + BURIED_WITHIN_S
    while (pid := number()) and Path(f"/proc/{pid}").exists() and not background.is_alive(pid) and time.monotonic() < until:
        time.sleep(0.1)


def _let_in() -> None:
    """See that our password opens the cluster, once it has put itself in order. One that was lost is replaced: the cluster's owner
    may do so while it is down."""
    until = time.monotonic() + IN_ORDER_WITHIN_S
    while True:
        try:
            query("SELECT 1", "postgres")
            return
        except Failure as refused:
            if "database system is starting up" in str(refused) and time.monotonic() < until:
                time.sleep(0.3)
                continue
            if "password authentication failed" not in str(refused):
                raise
            break
    say("  the database's password was lost; giving it the new one")
    port = remembered()["database_port"]
    stop()
    new = secret("database")  # letters, digits, - and _ only: nothing that would need quoting
    done = subprocess.run(
        [*_as_owner(), str(PG_BIN / "postgres"), "--single", "-D", str(folder()), "postgres"],
        input=f"ALTER ROLE {ROLE} PASSWORD '{new}'\n",
        text=True,
        cwd="/",
        capture_output=True,
        check=False,
    )
    if done.returncode:
        raise Failure(f"The database's password could not be replaced:\n{done.stderr.strip()[-1500:]}")
    _launch(port)
    query("SELECT 1", "postgres")


def stop() -> bool:
    """Stop the cluster. True when it was running."""
    if not is_running():
        return False
    run([*_as_owner(), PG_BIN / "pg_ctl", "-D", folder(), "-m", "fast", "-w", "stop"], cwd=Path("/"), why="Stopping PostgreSQL")
    return True


def client_env() -> dict[str, str]:
    """What PostgreSQL's own tools need to connect."""
    return {"PGHOST": "127.0.0.1", "PGPORT": str(remembered()["database_port"]), "PGUSER": ROLE, "PGPASSWORD": secret("database")}


def settings_env() -> dict[str, str]:
    """What Django needs to connect."""
    LOG.mkdir(parents=True, exist_ok=True)
    return {
        "WIDE_DUSK_DB_PORT": str(remembered()["database_port"]),
        "WIDE_DUSK_DB_PASSWORD": secret("database"),
        "WIDE_DUSK_DB_NAME": DATABASE,
        "WIDE_DUSK_SECRET_KEY": secret("django"),
        "WIDE_DUSK_VAR": str(basics.VAR),
        "WIDE_DUSK_DEMO_PASSWORD": secret("demo")[:12],
        **DJANGO,
    }


def query(sql: str, database: str | None = None) -> str:
    """What psql prints for a statement; in our own database unless another is named."""
    return run(
        [PG_BIN / "psql", "-X", "-A", "-t", "-v", "ON_ERROR_STOP=1", "-d", database or DATABASE, "-c", sql],
        env=client_env(),
        why="Asking the database",
    ).strip()


def migrated_to(name: str) -> str:
    """What `note_migrated` wrote into a database; nothing in a new one, a copied one or one that was restored."""
    return query(f"SELECT shobj_description(oid, 'pg_database') FROM pg_database WHERE datname = '{name}'", "postgres")  # noqa: S608


def note_migrated(name: str, digest: str) -> None:
    """Keep in a database which migrations brought it up to date. The note goes where the database goes."""
    query(f"COMMENT ON DATABASE \"{name}\" IS '{digest}'", "postgres")


def _database(name: str) -> None:
    known = query("SELECT datname FROM pg_database", "postgres").splitlines()
    if name not in known:
        run([PG_BIN / "createdb", name], env=client_env(), why="Creating the database")
