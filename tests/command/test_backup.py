"""Backup and restore against a database of their own."""

import subprocess
from pathlib import Path

import pytest

from tests.demo import own
from widedusk.command import backups, postgres, server
from widedusk.command.basics import Failure

SCRATCH = own("widedusk_backup_test")


@pytest.fixture
def database(demo_copy, monkeypatch, tmp_path_factory):
    """A scratch database with the demo in it."""
    demo_copy(SCRATCH)
    monkeypatch.setattr(postgres, "DATABASE", SCRATCH)
    monkeypatch.setenv("WIDE_DUSK_PICTURES", str(tmp_path_factory.mktemp("here") / "pictures"))
    yield SCRATCH
    postgres.query(f'DROP DATABASE "{SCRATCH}" WITH (FORCE)', "postgres")


def up_to_date(name: str) -> None:
    server.migrate({**postgres.settings_env(), "WIDE_DUSK_DB_NAME": name})


def plans() -> str:
    return postgres.query("SELECT count(*) FROM nights_run", SCRATCH)


def test_there_and_back_and_nothing_overwritten_unasked(database, tmp_path):
    kept = tmp_path / "night.dump"
    backups.backup(kept, overwrite=False)
    assert kept.stat().st_size > 10_000 and kept.stat().st_mode & 0o077 == 0
    with pytest.raises(Failure, match=r"exists\. Choose another name"):
        backups.backup(kept, overwrite=False)
    backups.backup(kept, overwrite=True)
    with pytest.raises(Failure, match="already holds accounts"):
        backups.restore(kept, overwrite=False, migrate=up_to_date)
    postgres.query("TRUNCATE nights_run CASCADE", SCRATCH)
    assert plans() == "0"
    backups.restore(kept, overwrite=True, migrate=up_to_date)
    assert plans() == "1"
    # Its checksum stands beside it, for sha256sum and for us: a backup that has changed since is not brought in.
    assert (
        subprocess.run(["sha256sum", "--check", "night.dump.sha256"], cwd=tmp_path, check=False, capture_output=True).returncode
        == 0
    )
    kept.write_bytes(kept.read_bytes()[:-1] + b"!")
    with pytest.raises(Failure, match="checksum differs"):
        backups.restore(kept, overwrite=True, migrate=up_to_date)
    assert plans() == "1"


def test_uploads_go_along_and_come_back_as_they_were(database, tmp_path):
    picture = backups.uploads() / "kept" / "one.jpg"
    picture.parent.mkdir(parents=True)
    picture.write_bytes(b"a night")
    assert backups.backup(tmp_path / "all.tar", overwrite=False) == 1
    picture.write_bytes(b"another night")
    (picture.parent / "later.jpg").write_bytes(b"not in it")
    backups.restore(tmp_path / "all.tar", overwrite=True, migrate=up_to_date)
    assert picture.read_bytes() == b"a night" and [one.name for one in picture.parent.iterdir()] == ["one.jpg"]
    assert backups.uploads().stat().st_mode & 0o077 == 0
    # One that is torn in the middle of its uploads changes nothing.
    whole = (tmp_path / "all.tar").read_bytes()
    torn = tmp_path / "torn.tar"
    torn.write_bytes(whole[: whole.rindex(b"a night") + 2])
    picture.write_bytes(b"stays")
    with pytest.raises(Failure, match=r"(?i)nothing was changed"):
        backups.restore(torn, overwrite=True, migrate=up_to_date)
    assert picture.read_bytes() == b"stays" and plans() == "1"
    assert SCRATCH + "_restored" not in postgres.query("SELECT datname FROM pg_database", "postgres").splitlines()


def test_a_backup_of_an_older_release_comes_back_whole(database, tmp_path):
    """The release before last: it had neither plannings, nor events, nor elevations that may be unknown; PostgreSQL's own file."""
    old = f"{SCRATCH}_old"
    postgres.query(f'CREATE DATABASE "{old}"', "postgres")
    try:
        env = {**postgres.settings_env(), "WIDE_DUSK_DB_NAME": old}
        for app, number in (("auth", "0012"), ("nights", "0005"), ("grounds", "0003"), ("targets", "0001")):
            server.manage(env, "migrate", app, number, "--no-input", "-v", "0", "--skip-checks", why="Going back")
        people = "username, password, is_superuser, is_staff, is_active, first_name, last_name, email, date_joined"
        owner = f"INSERT INTO auth_user ({people})"
        postgres.query(f"{owner} VALUES ('mirja', 'x', false, false, true, '', '', '', now())", old)
        place = (
            "INSERT INTO grounds_place (owner_id, name, created_at, updated_at, version, latitude_deg, longitude_deg, height_m, "
        )
        columns = "time_zone, sky_mag, access, caution)"
        values = "SELECT id, 'Kirikuküla', now(), now(), 1, 58.6, 25.0, 0, 'Europe/Tallinn', 21.2, '', '' FROM auth_user"
        postgres.query(f"{place}{columns} {values}", old)
        kept = tmp_path / "old.dump"
        backups.run(
            [backups.PG_BIN / "pg_dump", "-Fc", "-d", old, "-f", kept], env=postgres.client_env(), why="Writing an old backup"
        )
    finally:
        postgres.query(f'DROP DATABASE "{old}" WITH (FORCE)', "postgres")
    backups.restore(kept, overwrite=True, migrate=up_to_date)
    assert postgres.query("SELECT username FROM auth_user", SCRATCH) == "mirja"
    assert postgres.query("SELECT name, time_zone, sky_mag FROM grounds_place", SCRATCH) == "Kirikuküla|Europe/Tallinn|21.2"
    assert postgres.query("SELECT count(*) FROM nights_planning", SCRATCH) == "0", "tables of later releases are there"


def test_a_backup_that_fails_leaves_the_one_before_and_only_the_latest_are_kept(database, tmp_path, monkeypatch):
    kept = tmp_path / "night.dump"
    backups.backup(kept, overwrite=False)
    before, real = kept.read_bytes(), backups.run

    def full(command, **more):
        if str(command[0]).endswith("pg_dump"):
            Path(command[-1]).write_bytes(b"half of it")
            raise Failure("no space left on device")
        return real(command, **more)

    monkeypatch.setattr(backups, "run", full)
    with pytest.raises(Failure, match="no space"):
        backups.backup(kept, overwrite=True)
    assert kept.read_bytes() == before and sorted(one.name for one in tmp_path.iterdir()) == ["night.dump", "night.dump.sha256"]
    monkeypatch.setattr(backups, "run", real)
    stamps = iter(f"20261126T01000{second // 2}" for second in range(8))  # each is asked for its name and for what it tells
    monkeypatch.setattr(backups.time, "strftime", lambda form: next(stamps))
    for _ in range(4):
        backups.backup_of_many(tmp_path, 2)
    assert sorted(one.name for one in tmp_path.glob("wide-dusk-*")) == [
        f"wide-dusk-20261126T01000{second}.tar{end}" for second in (2, 3) for end in ("", ".sha256")
    ]


def test_what_is_no_backup_is_refused_and_changes_nothing(database, tmp_path):
    with pytest.raises(Failure, match="There is no file"):
        backups.restore(tmp_path / "none.dump", overwrite=True, migrate=up_to_date)
    letter = tmp_path / "letter.txt"
    letter.write_text("dear diary")
    with pytest.raises(Failure, match="no backup made by"):
        backups.restore(letter, overwrite=True, migrate=up_to_date)
    with pytest.raises(Failure, match="no folder"):
        backups.backup(tmp_path / "nowhere" / "x.dump", overwrite=False)
    assert plans() == "1"


def test_the_cluster_listens_on_loopback_only_and_wants_a_password(database):
    assert postgres.query("SHOW listen_addresses", SCRATCH) == "127.0.0.1"
    assert postgres.query("SHOW password_encryption", SCRATCH) == "scram-sha-256"
    rules = postgres.query("SELECT DISTINCT auth_method FROM pg_hba_file_rules", SCRATCH)
    assert rules == "scram-sha-256"
