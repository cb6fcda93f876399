"""Everything a site holds in one file, and back again: the database as PostgreSQL dumps it, the uploads, and what it is.

    tar:  wide-dusk.json · database.dump · pictures/…

A backup goes into a database made for it, which is brought up to date and only then takes the place of the one of before. So one of
an older release comes back into a newer site, whatever tables it lacks, and one that fails changes nothing.
"""

import contextlib
import hashlib
import io
import json
import os
import shutil
import tarfile
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from widedusk.command import basics, postgres
from widedusk.command.basics import Failure, run
from widedusk.command.install import PG_BIN

KEPT_NAME, SUFFIX = "wide-dusk-", ".tar"
SUFFIXES = (SUFFIX, ".dump")  # those of before held the database alone
MANIFEST, DUMP, PICTURES = "wide-dusk.json", "database.dump", "pictures"
FORMAT = 1
MAX_ATTEMPTS = 10  # while somebody else goes on connecting
PLAIN_DUMP = b"PGDMP"  # how a file of PostgreSQL's own begins


def uploads() -> Path:
    """Where uploads lie, unless an object store has them."""
    return Path(os.environ.get("WIDE_DUSK_PICTURES") or basics.VAR / "pictures")


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _sum_file(path: Path) -> Path:
    """Where a backup's checksum stands, as sha256sum writes and checks it."""
    return path.with_name(f"{path.name}.sha256")


def backup(target: Path, *, overwrite: bool) -> int:
    """Write database and uploads to one file, with its checksum beside it; how many uploads. The file of before stays until the
    new one is whole.

    Raises Failure rather than overwrite one unasked.
    """
    if target.exists() and not overwrite:
        raise Failure(f"{target} exists. Choose another name, or say --overwrite.")
    if not target.parent.is_dir():
        raise Failure(f"There is no folder {target.parent}. Make it first.")
    beside, dump = (target.with_name(f".{target.name}.{os.getpid()}{end}") for end in ("", ".database"))
    try:
        for one in (beside, dump):
            one.touch(0o600)
        run([PG_BIN / "pg_dump", "-Fc", "-d", postgres.DATABASE, "-f", dump], env=postgres.client_env(), why="Writing the backup")
        run([PG_BIN / "pg_restore", "--list", dump], why="Reading the backup again", mend="The file of before was left as it is.")
        try:
            count = _write_tar(beside, dump)
        except OSError as full:
            raise Failure(f"Writing the backup failed: {full.strerror}. The file of before was left as it is.") from full
        digest = _digest(beside)
        beside.replace(target)
        basics.write_whole(_sum_file(target), f"{digest}  {target.name}\n", 0o600)
        return count
    finally:
        beside.unlink(missing_ok=True)
        dump.unlink(missing_ok=True)


def _write_tar(target: Path, dump: Path) -> int:
    count = 0
    with tarfile.open(target, "w") as file:
        manifest = json.dumps({"format": FORMAT, "made": time.strftime("%Y-%m-%dT%H:%M:%S%z")}).encode()
        entry = tarfile.TarInfo(MANIFEST)
        entry.size = len(manifest)
        file.addfile(entry, io.BytesIO(manifest))
        file.add(dump, DUMP)
        for path in sorted(uploads().rglob("*")) if uploads().is_dir() else ():
            with contextlib.suppress(FileNotFoundError):  # let go of meanwhile
                if path.is_file() and not path.is_symlink():
                    file.add(path, f"{PICTURES}/{path.relative_to(uploads())}")
                    count += 1
    return count


def backup_of_many(folder: Path, keep: int) -> Path:
    """A backup named after its moment, in a folder where the latest few are kept."""
    target = folder / f"{KEPT_NAME}{time.strftime('%Y%m%dT%H%M%S')}{SUFFIX}"
    backup(target, overwrite=False)
    for old in sorted(path for end in SUFFIXES for path in folder.glob(f"{KEPT_NAME}*{end}"))[:-keep]:
        old.unlink()
        _sum_file(old).unlink(missing_ok=True)
    return target


def _refused(source: Path) -> Failure:
    return Failure(f"{source} is no backup made by ./wide-dusk backup. Nothing was changed.")


@contextlib.contextmanager
def _dump_of(source: Path) -> Iterator[Path]:
    """The database's part of a backup, as a file."""
    with source.open("rb") as file:
        if file.read(len(PLAIN_DUMP)) == PLAIN_DUMP:
            yield source
            return
    with tempfile.TemporaryDirectory(dir=source.parent, prefix=".wide-dusk-") as folder:
        try:
            with tarfile.open(source) as packed:
                packed.extract(DUMP, folder, filter="data")
        except (tarfile.TarError, KeyError) as wrong:
            raise _refused(source) from wrong
        yield Path(folder) / DUMP


def check_restore(source: Path, *, overwrite: bool) -> None:
    """Everything that can be said against a backup before anything is stopped or changed. Raises Failure."""
    if not source.is_file():
        raise Failure(f"There is no file {source}.")
    if _sum_file(source).is_file() and _sum_file(source).read_text().split()[:1] != [_digest(source)]:
        raise Failure(f"{source} is not what was written: its checksum differs. Take another backup; nothing was changed.")
    with _dump_of(source) as dump:
        listed = run([PG_BIN / "pg_restore", "--list", dump], why=f"Reading {source}", mend=str(_refused(source)))
    if "auth_user" not in listed:
        raise Failure(f"{source} is a backup of something else: it holds no accounts. Nothing was changed.")
    here = postgres.query("SELECT to_regclass('auth_user') IS NOT NULL") == "t"
    if here and postgres.query("SELECT count(*) FROM auth_user") != "0" and not overwrite:
        raise Failure("The database already holds accounts. To replace all of it, say --overwrite (make a backup first).")


def restore(source: Path, *, overwrite: bool, migrate: Callable[[str], None]) -> None:
    """Bring a backup in. migrate: brings the database of a name up to date. Raises Failure; then nothing was changed."""
    check_restore(source, overwrite=overwrite)
    name = postgres.DATABASE
    fresh, old = f"{name}_restored", f"{name}_before"
    for leftover in (fresh, old):
        postgres.query(f'DROP DATABASE IF EXISTS "{leftover}" WITH (FORCE)', "postgres")
    postgres.query(f'CREATE DATABASE "{fresh}"', "postgres")
    try:
        words: list[str | Path] = [PG_BIN / "pg_restore", "--no-owner", "--single-transaction", "-d", fresh]
        with _dump_of(source) as dump:
            run([*words, dump], env=postgres.client_env(), why="Restoring", mend="Nothing was changed.")
        migrate(fresh)
        extracted = _extract_uploads(source)
    except BaseException:
        postgres.query(f'DROP DATABASE IF EXISTS "{fresh}" WITH (FORCE)', "postgres")
        raise
    _swap_databases(name, fresh, old)
    if extracted is not None:
        _swap_uploads(extracted)
    postgres.query(f'DROP DATABASE IF EXISTS "{old}" WITH (FORCE)', "postgres")


def _swap_databases(name: str, fresh: str, old: str) -> None:
    """Both names change or neither does; whoever is still connected is sent away."""
    sent = f"SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname IN ('{name}', '{fresh}')"  # noqa: S608
    renamed = f'ALTER DATABASE "{name}" RENAME TO "{old}"; ALTER DATABASE "{fresh}" RENAME TO "{name}"'
    for tries in range(MAX_ATTEMPTS, 0, -1):
        postgres.query(sent, "postgres")
        try:
            postgres.query(renamed, "postgres")
            return
        except Failure:
            if tries == 1:
                postgres.query(f'DROP DATABASE IF EXISTS "{fresh}" WITH (FORCE)', "postgres")
                raise
            time.sleep(0.3)


def _extract_uploads(source: Path) -> Path | None:
    """The uploads of a backup in a folder beside where they belong; None where it holds the database alone."""
    if not tarfile.is_tarfile(source):
        return None
    beside = uploads().with_name(f".{uploads().name}-restored")
    shutil.rmtree(beside, ignore_errors=True)
    beside.mkdir(parents=True, mode=0o700)
    try:
        with tarfile.open(source) as packed:
            for entry in packed:
                if entry.isfile() and entry.name.startswith(f"{PICTURES}/"):
                    entry.name = entry.name.removeprefix(f"{PICTURES}/")
                    packed.extract(entry, beside, filter="data")
    except tarfile.TarError as torn:
        shutil.rmtree(beside, ignore_errors=True)
        raise Failure(f"{source} is torn: {torn}. Take another backup; nothing was changed.") from torn
    return beside


def _swap_uploads(extracted: Path) -> None:
    before = uploads().with_name(f".{uploads().name}-before")
    shutil.rmtree(before, ignore_errors=True)
    if uploads().is_dir():
        uploads().rename(before)
    extracted.rename(uploads())
    shutil.rmtree(before, ignore_errors=True)
