"""A PostgreSQL cluster of our own, on loopback, with a generated password.

PostgreSQL refuses to run as root; then it runs as the system user that Debian's package makes. That user must be able
to reach the cluster's folder, so below a closed home directory the cluster goes to /var/lib/wide-dusk instead.
"""

import hashlib
import os
import shutil
import subprocess
from pathlib import Path

from widedusk.command.basics import LOG, ROOT, VAR, Failure, free_port, remember, remembered, run, secret
from widedusk.command.install import PG_BIN

SYSTEM_USER = "postgres"
ROLE = "widedusk"
DATABASE = "widedusk"


def _as_owner() -> list[str]:
    return ["runuser", "-u", SYSTEM_USER, "--"] if os.geteuid() == 0 else []


def folder() -> Path:
    """Where the cluster lives."""
    inside = VAR / "postgres"
    if os.geteuid() != 0:
        return inside
    reachable = subprocess.run([*_as_owner(), "test", "-x", str(ROOT)], cwd="/", check=False, capture_output=True).returncode == 0
    return inside if reachable else Path("/var/lib/wide-dusk") / hashlib.sha256(str(ROOT).encode()).hexdigest()[:12]


def _own(path: Path) -> None:
    """Make a folder that only the database's user can read."""
    path.mkdir(parents=True, exist_ok=True)
    if os.geteuid() == 0:
        shutil.chown(path, SYSTEM_USER, SYSTEM_USER)
    path.chmod(0o700)


def _create() -> None:
    data = folder()
    if (data / "PG_VERSION").exists():
        return
    VAR.mkdir(exist_ok=True)
    data.parent.mkdir(parents=True, exist_ok=True)
    _own(data)
    password_file = data.parent / "postgres-password"
    password_file.touch(mode=0o600)
    password_file.write_text(secret("database"))
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
            ],
            cwd=Path("/"),
            why="Creating the database cluster",
            mend=f"If {data} holds the rest of an earlier try, remove it and run this again.",
        )
    finally:
        password_file.unlink()
    with (data / "postgresql.conf").open("a") as conf:
        conf.write("\nlisten_addresses = '127.0.0.1'\nunix_socket_directories = ''\nmax_connections = 60\n")


def is_running() -> bool:
    data = folder()
    if not (data / "PG_VERSION").exists():
        return False
    return (
        subprocess.run(
            [*_as_owner(), str(PG_BIN / "pg_ctl"), "-D", str(data), "status"], cwd="/", capture_output=True, check=False
        ).returncode
        == 0
    )


def start() -> bool:
    """Start the cluster, making it first where there is none. True when it was not running before."""
    _create()
    if is_running():
        return False
    data, port = folder(), free_port(remembered().get("database_port"))
    log = data / "server.log"
    run(
        [*_as_owner(), PG_BIN / "pg_ctl", "-D", data, "-l", log, "-w", "-t", "60", "-o", f"-p {port}", "start"],
        cwd=Path("/"),
        why="Starting PostgreSQL",
        mend=f"Its log is {log}.",
    )
    remember(database_port=port)
    _database(DATABASE)
    return True


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
        "WIDE_DUSK_DEMO_PASSWORD": secret("demo")[:12],
        "DJANGO_SETTINGS_MODULE": "widedusk.settings",
        "PYTHONPATH": str(ROOT),
    }


def query(sql: str, database: str | None = None) -> str:
    """What psql prints for a statement; in our own database unless another is named."""
    return run(
        [PG_BIN / "psql", "-X", "-A", "-t", "-v", "ON_ERROR_STOP=1", "-d", database or DATABASE, "-c", sql],
        env=client_env(),
        why="Asking the database",
    ).strip()


def _database(name: str) -> None:
    known = query("SELECT datname FROM pg_database", "postgres").splitlines()
    if name not in known:
        run([PG_BIN / "createdb", name], env=client_env(), why="Creating the database")


def backup(target: Path, *, overwrite: bool) -> None:
    """Write the whole database to one file. Raises Failure rather than overwrite one unasked."""
    if target.exists() and not overwrite:
        raise Failure(f"{target} exists. Choose another name, or say --overwrite.")
    if not target.parent.is_dir():
        raise Failure(f"There is no folder {target.parent}. Make it first.")
    run([PG_BIN / "pg_dump", "-Fc", "-d", DATABASE, "-f", target], env=client_env(), why="Writing the backup")
    target.chmod(0o600)


def restore(source: Path, *, overwrite: bool) -> None:
    """Bring a backup in. Raises Failure rather than replace accounts that are there unasked."""
    if not source.is_file():
        raise Failure(f"There is no file {source}.")
    run([PG_BIN / "pg_restore", "--list", source], why=f"Reading {source}", mend="It is no backup made by ./wide-dusk backup.")
    filled = query("SELECT to_regclass('auth_user') IS NOT NULL") == "t" and query("SELECT count(*) FROM auth_user") != "0"
    if filled and not overwrite:
        raise Failure("The database already holds accounts. To replace all of it, say --overwrite (make a backup first).")
    run(
        [PG_BIN / "pg_restore", "--clean", "--if-exists", "--no-owner", "--single-transaction", "-d", DATABASE, source],
        env=client_env(),
        why="Restoring",
        mend="Nothing was changed.",
    )
